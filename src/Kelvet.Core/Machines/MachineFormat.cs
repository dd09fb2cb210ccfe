using Kelvet.Core.Text;

namespace Kelvet.Core.Machines;

/// <summary>
/// The text forms of places, outputs and changes as job files, addresses and the log hold them: "memory.A2",
/// "card.1/DP 1", "swap supply spare-supply". Nowhere else are they written or read.
/// </summary>
public static class MachineFormat
{
    /// <summary>Regular expressions of the forms, for the JSON Schema.</summary>
    internal const string SlotPattern = "[A-Za-z0-9][A-Za-z0-9 -]{0,19}";

    private const string UnitPattern = "[a-z0-9][a-z0-9-]{0,39}";

    internal static string PlacePattern { get; } =
        string.Join('|', Enum.GetValues<PlaceKind>().Select(k => Dashed.Of(k) + (Place.HasParts(k) ? $"\\.{SlotPattern}" : "")));

    internal static string OutputPattern { get; } = $"(board|card\\.{SlotPattern})/{SlotPattern}";

    internal static string ChangePattern { get; } =
        string.Join(
            '|',
            Enum.GetValues<ActKind>()
                .Select(a =>
                    Dashed.Of(a)
                    + a switch
                    {
                        ActKind.ClearCmos => "",
                        ActKind.Fit or ActKind.Move => $" {UnitPattern} ({PlacePattern})",
                        ActKind.Swap => $" {UnitPattern} {UnitPattern}",
                        ActKind.StartWith => $" ({string.Join('|', Dashed.All<StartMethod>())})",
                        ActKind.DisplayAt => $" {OutputPattern}",
                        ActKind.Choose or ActKind.Undo => $" ({string.Join('|', Dashed.All<MachineOption>())})",
                        ActKind.Lay => $" ({string.Join('|', Dashed.All<Posture>())})",
                        _ => $" {UnitPattern}",
                    }
                )
        );

    /// <summary>"supply", "memory.A2".</summary>
    public static string Write(Place place) => Place.HasParts(place.Kind) ? $"{Dashed.Of(place.Kind)}.{place.Part}" : Dashed.Of(place.Kind);

    /// <summary>"board/HDMI", "card.1/DP 1".</summary>
    public static string Write(OutputRef output) => $"{Write(output.Source)}/{output.Output}";

    /// <summary>"swap supply spare-supply", "fit stick-1 memory.A2", "display-at board/DP 1", "clear-cmos".</summary>
    public static string Write(Change change)
    {
        var verb = Dashed.Of(change.Act);
        return change switch
        {
            Change.Fit c => $"{verb} {c.Unit} {Write(c.Place)}",
            Change.Move c => $"{verb} {c.Unit} {Write(c.Place)}",
            Change.Swap c => $"{verb} {c.Out} {c.In}",
            Change.StartWith c => $"{verb} {Dashed.Of(c.Method)}",
            Change.DisplayAt c => $"{verb} {Write(c.Output)}",
            Change.ClearCmos => verb,
            Change.Choose c => $"{verb} {Dashed.Of(c.Option)}",
            Change.Undo c => $"{verb} {Dashed.Of(c.Option)}",
            Change.Lay c => $"{verb} {Dashed.Of(c.Posture)}",
            _ => $"{verb} {change.Subject}",
        };
    }

    /// <summary>Reads a place.</summary>
    public static bool TryRead(string? text, out Place place)
    {
        place = default;
        if (string.IsNullOrEmpty(text))
            return false;
        var dot = text.IndexOf('.');
        var head = dot < 0 ? text : text[..dot];
        var part = dot < 0 ? "" : text[(dot + 1)..];
        return Dashed.TryRead<PlaceKind>(head, out var kind) && Place.TryMake(kind, part, out place);
    }

    /// <summary>Reads an output.</summary>
    public static bool TryRead(string? text, out OutputRef output)
    {
        output = default;
        var slash = text?.IndexOf('/') ?? -1;
        if (slash < 0 || !TryRead(text![..slash], out Place place))
            return false;
        var name = text[(slash + 1)..];
        if (place.Kind is not (PlaceKind.Board or PlaceKind.Card) || !SlotName.IsValid(name))
            return false;
        output = new OutputRef(place, name);
        return true;
    }

    /// <summary>How an act is written and what it means, for the document. An act that is not in it cannot be documented.</summary>
    public static (string Form, string Meaning) Described(ActKind act) =>
        act switch
        {
            ActKind.Fit => ("fit UNIT PLACE", "a loose unit into an empty place"),
            ActKind.Remove => ("remove UNIT", "out, its place stays empty"),
            ActKind.Move => ("move UNIT PLACE", "to another empty place of its kind"),
            ActKind.Swap => ("swap OUT IN", "one out, another in; two fitted units change places"),
            ActKind.Reseat => ("reseat UNIT", "out and back in"),
            ActKind.Connect => ("connect UNIT", "a cabled unit to its usual place"),
            ActKind.Bypass => ("bypass UNIT", "out of the path: what is behind it is plugged in directly"),
            ActKind.StartWith => ($"start-with {Choices<StartMethod>()}", "what starts the machine"),
            ActKind.DisplayAt => ("display-at OUTPUT", "the monitor to another output, such as `board/HDMI`"),
            ActKind.ClearCmos => ("clear-cmos", "the fitted board's settings cleared"),
            ActKind.Clean => ("clean UNIT", "contacts cleaned"),
            ActKind.Straighten => ("straighten UNIT", "socket pins straightened"),
            ActKind.Repaste => ("repaste UNIT", "paste renewed, film off"),
            ActKind.Flash => ("flash UNIT", "firmware written anew"),
            ActKind.NewCell => ("new-cell UNIT", "a new coin cell on the board, where the cell is no part of the job"),
            ActKind.Rewire => ("rewire UNIT", "front-panel or fan wires set right"),
            ActKind.Set => ("set UNIT", "a switch or an input set right"),
            ActKind.Isolate => ("isolate UNIT", "the board out of the case"),
            ActKind.IntoCase => ("into-case UNIT", "the board back into its case"),
            ActKind.Choose => ($"choose {Choices<MachineOption>()}", "a setting changed"),
            ActKind.Undo => ($"undo {Choices<MachineOption>()}", "a setting put back"),
            ActKind.Lay => ($"lay {Choices<Posture>()}", "the machine stood up or laid down"),
            _ => throw new ArgumentOutOfRangeException(nameof(act), act, "No such act."),
        };

    private static string Choices<T>()
        where T : struct, Enum => string.Join(" or ", Dashed.All<T>());

    /// <summary>Reads a change; when it cannot, says what was expected.</summary>
    public static bool TryRead(string? text, out Change change, out string expected)
    {
        change = new Change.ClearCmos();
        expected = "";
        var head = (text ?? "").Trim();
        var rest = "";
        if (head.IndexOf(' ') is > 0 and var space)
            (head, rest) = (head[..space], head[(space + 1)..].Trim());
        if (!Dashed.TryRead<ActKind>(head, out var act))
        {
            expected =
                "fit, remove, move, swap, reseat, connect, bypass, start-with, display-at, clear-cmos, clean, straighten, "
                + "repaste, flash, rewire, set, isolate, into-case, choose, undo or lay";
            return false;
        }

        if (Read(act, rest) is { } read)
        {
            change = read;
            return true;
        }

        expected = act switch
        {
            ActKind.ClearCmos => "\"clear-cmos\" alone",
            ActKind.Swap => "\"swap UNIT-OUT UNIT-IN\"",
            ActKind.Fit or ActKind.Move => $"\"{head} UNIT PLACE\", with a place such as supply, memory.A2 or card.1",
            ActKind.StartWith => "\"start-with case-switch\" or \"start-with header-pins\"",
            ActKind.DisplayAt => "\"display-at board/HDMI\" or \"display-at card.1/DP 1\"",
            ActKind.Choose or ActKind.Undo => $"\"{head} SETTING\", with one of {string.Join(", ", Dashed.All<MachineOption>())}",
            ActKind.Lay => "\"lay on-its-side\" or \"lay upright\"",
            _ => $"\"{head} UNIT\"",
        };
        return false;
    }

    private static Change? Read(ActKind act, string rest)
    {
        var words = rest.Split(' ', 2, StringSplitOptions.TrimEntries);
        UnitId? first = UnitId.IsValid(words[0]) ? new UnitId(words[0]) : null;
        var second = words.Length > 1 ? words[1] : "";
        UnitId? only = words.Length == 1 ? first : null;
        return act switch
        {
            ActKind.ClearCmos => rest.Length == 0 ? new Change.ClearCmos() : null,
            ActKind.StartWith => Dashed.TryRead<StartMethod>(rest, out var method) ? new Change.StartWith(method) : null,
            ActKind.DisplayAt => TryRead(rest, out OutputRef output) ? new Change.DisplayAt(output) : null,
            ActKind.Swap => first is { } o && UnitId.IsValid(second) ? new Change.Swap(o, new UnitId(second)) : null,
            ActKind.Fit => first is { } u && TryRead(second, out Place place) ? new Change.Fit(u, place) : null,
            ActKind.Move => first is { } u && TryRead(second, out Place to) ? new Change.Move(u, to) : null,
            ActKind.Remove => only is { } u ? new Change.Remove(u) : null,
            ActKind.Reseat => only is { } u ? new Change.Reseat(u) : null,
            ActKind.Connect => only is { } u ? new Change.Connect(u) : null,
            ActKind.Bypass => only is { } u ? new Change.Bypass(u) : null,
            ActKind.IntoCase => only is { } u ? new Change.IntoCase(u) : null,
            ActKind.Choose => Dashed.TryRead<MachineOption>(rest, out var option) ? new Change.Choose(option) : null,
            ActKind.Undo => Dashed.TryRead<MachineOption>(rest, out var undone) ? new Change.Undo(undone) : null,
            ActKind.Lay => Dashed.TryRead<Posture>(rest, out var posture) ? new Change.Lay(posture) : null,
            _ => only is { } u && Acts.RemedyOf(act) is { } remedy ? new Change.Mend(remedy, u) : null,
        };
    }
}
