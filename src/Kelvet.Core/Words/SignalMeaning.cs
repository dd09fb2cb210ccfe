using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;

namespace Kelvet.Core.Words;

/// <summary>What a signal says of a machine, and what it does not, in words for the technician.</summary>
/// <param name="Says">What it points at.</param>
/// <param name="DoesNotSay">What stays open all the same.</param>
public sealed record SignalMeaning(string Says, string DoesNotSay)
{
    /// <summary>From this share of a fault's stalls on, the fault counts as one that the domain may hide. Bench judgement.</summary>
    private const double Hides = 0.25;

    /// <summary>Reads one signal for a machine.</summary>
    /// <param name="saying">The signal with what the tables say.</param>
    /// <param name="faults">The faults that this machine can have.</param>
    /// <param name="situation">The machine as it was started; null when it is asked for no machine.</param>
    public static SignalMeaning Of(SignalSaying saying, IEnumerable<Fault> faults, Situation? situation)
    {
        var answer = saying.Answer;
        if (saying.Weighed is null)
            return new SignalMeaning(
                $"{answer.Signal}: {(answer.Asked == 0 ? How(saying.How) : "in no table that this board goes by")}.",
                "Nothing is concluded from it."
            );
        var row = answer.Matches.FirstOrDefault()?.Row;
        var pointed = saying.Weighed.Pointed;
        var says = answer switch
        {
            _ when saying.How is SignalReading.NothingRuns or SignalReading.HandedOver || row is null =>
                $"{answer.Signal} {How(saying.How)}.",
            { Disagree: true } => $"{answer.Signal} {How(saying.How)}. The tables differ: "
                + $"{string.Join(", ", answer.Pointers.Take(3).Select(p => $"{p.Domain.Words()} {Math.Round(100 * p.Share)} %"))}. "
                + $"First: {row.Meaning} ({answer.Matches[0].Table.Name}).",
            _ => $"{answer.Signal} {How(saying.How)}: {row.Meaning} "
                + (
                    answer.FamilyKnown || answer.Matches.Length == 1
                        ? $"({answer.Matches[0].Table.Name})."
                        : $"({answer.Matches.Length} tables agree)."
                ),
        };
        var open = situation is null ? [] : InPlay(pointed, faults, situation);
        return new SignalMeaning(
            says,
            open.Length == 0 ? "A pointer, no verdict." : $"A pointer, no verdict. Still in play: {string.Join(", ", open)}."
        );
    }

    /// <summary>Names of the things that can make start-up stall in a domain in this machine: what the signal cannot tell apart.</summary>
    public static ImmutableArray<string> InPlay(StallDomain domain, IEnumerable<Fault> faults, Situation situation) =>
        [
            .. faults
                .Where(f => f.Mode.Stall[(int)domain] >= Hides && f.Engaged(situation) > 0)
                .OrderByDescending(f => f.Odds * f.Mode.Stall[(int)domain])
                .Select(Thing)
                .Distinct()
                .Take(7),
        ];

    private static string How(SignalReading reading) =>
        reading switch
        {
            SignalReading.StillChanging => "still changing: seen in passing",
            SignalReading.RoundAndRound => "came round again and again",
            SignalReading.NothingRuns => "silent: nothing runs, or no reader fitted",
            SignalReading.HandedOver => "silent after other codes: handed over",
            SignalReading.LastLight => "last light of a sequence that no table lists",
            SignalReading.LastLightThenDark => "last light before all went dark",
            SignalReading.NoCode => "not a code that tables list",
            _ => reading.ToString().ToLowerInvariant(),
        };

    private static string Thing(Fault fault) =>
        fault.Mode.On switch
        {
            FaultSite.MemorySlot => "memory slot",
            FaultSite.MemoryChannel => "memory channel of the board",
            FaultSite.CpuChannel => "memory controller of the CPU",
            FaultSite.MemoryStick or FaultSite.MemoryKit => "stick",
            FaultSite.ExpansionSlot => "card slot",
            FaultSite.GraphicsCard => "graphics card",
            FaultSite.CpuGraphics => "graphics of the CPU",
            FaultSite.Motherboard when fault.Mode.Cure == Cure.Straighten => "socket pins",
            FaultSite.Motherboard when fault.Mode.Cure == Cure.ClearCmos => "settings",
            FaultSite.Motherboard or FaultSite.Cpu when fault.Mode.Cure == Cure.Flash => "firmware",
            FaultSite.Motherboard => "board",
            FaultSite.Cpu => "CPU",
            FaultSite.Supply => "supply",
            _ => fault.Unit.Kind.Words(),
        };
}
