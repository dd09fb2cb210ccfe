using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Evidence;

/// <summary>
/// Which memory a machine that came up does not see, and how well a fault explains just that: a stick and its slot lose that
/// stick, a channel loses all sticks on it, pins and what is not in the book any of them.
/// </summary>
public static class MissingMemory
{
    /// <summary>A fault of no slot in particular, such as bent pins, explains any loss, and none of them well. Bench judgement.</summary>
    private const double OfNoSlot = 0.5;

    /// <summary>A fault that would lose more than is missing, or less. Bench judgement.</summary>
    private const double InPart = 0.15;

    /// <summary>A fault of another slot than is missing. Bench judgement.</summary>
    private const double Elsewhere = 0.02;

    /// <summary>How well a fault explains what is missing at a start, 0 to 1.</summary>
    /// <param name="fault">The fault.</param>
    /// <param name="trial">A start that came up with less memory than is fitted.</param>
    public static double Fits(Fault fault, Trial trial)
    {
        if (SlotsOf(fault, trial.Situation) is not { Length: > 0 } lost)
            return OfNoSlot;
        var unseen = trial.SlotsUnseen;
        if (unseen.Length > 0)
        {
            var both = lost.Intersect(unseen).Count();
            return both == 0 ? Elsewhere
                : both == lost.Length && both == unseen.Length ? 1
                : InPart;
        }

        if (trial.MissingGb is not { } missing)
            return 1;
        var loses = trial.Situation.Sticks.Where(s => lost.Contains(s.Place.Part)).Sum(s => s.Stick.SizeGb);
        // What the board's own graphics or firmware keep for themselves is no whole stick.
        return Math.Abs(loses - missing) * 4 <= loses ? 1 : InPart;
    }

    /// <summary>Occupied slots that a fault takes away; empty where it is of no slot in particular.</summary>
    public static ImmutableArray<string> SlotsOf(Fault fault, Situation situation) =>
        fault.Mode.On switch
        {
            FaultSite.MemoryStick => situation.Now.PlaceOf(fault.Unit.Id) is { } place ? [place.Part] : [],
            FaultSite.MemorySlot => [fault.Part],
            FaultSite.MemoryChannel or FaultSite.CpuChannel =>
            [
                .. situation.Sticks.Select(s => s.Place.Part).Where(slot => situation.Board?.Slot(slot)?.Channel == fault.Part),
            ],
            _ => [],
        };
}
