using System.Globalization;
using Kelvet.Core.Text;
using Kelvet.Core.Worksheets;

namespace Kelvet.Core.Words;

/// <summary>What the log says of a stick in a slot, in words.</summary>
public static class GridWords
{
    /// <summary>What was seen of it: "passed 2 alone", "failed 1 with another beside".</summary>
    public static string Words(this GridCell cell)
    {
        var said = new List<string>();
        Add(cell.PassedAlone, "passed", "alone");
        Add(cell.FailedAlone, "failed", "alone");
        Add(cell.PassedBeside, "passed", "with others");
        Add(cell.FailedBeside, "failed", cell.SharedBy > 2 ? $"with {cell.SharedBy - 1} others" : "with another");
        if (cell.Elsewhere > 0)
            said.Add("the fault was elsewhere");
        return said.Count == 0 ? "untried" : string.Join("; ", said);

        void Add(int times, string what, string how)
        {
            if (times > 0)
                said.Add($"{what} {times} {how}");
        }
    }

    /// <summary>What was seen of a pair: "failed 2; each passed alone".</summary>
    public static string Words(this PairCell pair)
    {
        var said = new List<string>();
        if (pair.Passed > 0)
            said.Add($"passed {pair.Passed}");
        if (pair.Failed > 0)
            said.Add($"failed {pair.Failed}");
        if (pair.FailedBeside > 0)
            said.Add($"failed {pair.FailedBeside} with others beside");
        if (pair.FailsOnlyTogether)
            said.Add("each passed alone");
        return said.Count == 0 ? "untried" : string.Join("; ", said);
    }

    /// <summary>What was seen of a rung.</summary>
    public static string Words(this LadderRung rung) =>
        (rung.Passed, rung.Failed) switch
        {
            (0, 0) => "untried",
            (var passed, 0) => $"passed {passed} of {ProfileLadder.StartsOfARung}",
            (0, var failed) => $"failed {failed}",
            var (passed, failed) => $"passed {passed}, failed {failed}",
        };

    /// <summary>How strongly it is spoken for.</summary>
    public static string Weight(this GridCell cell) =>
        cell.PassedAlone + cell.PassedBeside > 0 && cell.FailedAlone + cell.FailedBeside > 0
            ? "it comes and goes, or a failure was another's"
        : cell.PassedAlone + cell.PassedBeside > 0 ? "stick, slot and channel were at work: spoken for in full"
        : cell.FailedAlone > 0 ? "stick, slot, channel or controller"
        : cell.FailedBeside > 0 ? $"one of {cell.SharedBy} sticks and their slots, or they together"
        : "";

    /// <summary>Why it cannot be tried, or is not worth it; empty where it can.</summary>
    public static string Words(this CellBar bar) =>
        bar switch
        {
            CellBar.AsItStands => "as it stands now: start it",
            CellBar.OtherGeneration => "does not go in here",
            CellBar.NotAtHand => "told of, not at hand",
            CellBar.MayNotBePowered => "may not be powered",
            CellBar.TellsNothing => "tells nothing now",
            _ => "",
        };

    private static readonly string[] Columns =
    [
        "stick",
        "mark",
        "slot",
        "channel",
        "passed alone",
        "failed alone",
        "passed beside others",
        "failed beside others",
    ];

    /// <summary>The grid as CSV (RFC 4180), a line a pairing; no spreadsheet takes a cell of it for a formula.</summary>
    public static string Csv(this MemoryGrid grid) =>
        CsvText.Write(
            Columns,
            grid.Cells.Select(c =>
                new[] { c.Stick.Name, c.Stick.Serial, c.Slot.Name, c.Slot.Channel }.Concat(
                    new[] { c.PassedAlone, c.FailedAlone, c.PassedBeside, c.FailedBeside }.Select(n =>
                        n.ToString(CultureInfo.InvariantCulture)
                    )
                )
            )
        );
}
