using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>Why a machine may not be powered.</summary>
public enum PowerBlock
{
    /// <summary>A CPU is not run without a cooler.</summary>
    NoCooler,

    /// <summary>The supply in it tripped a breaker.</summary>
    SupplyTripped,

    /// <summary>The supply in it smelt or burnt, or came with a machine that did.</summary>
    SupplyBurnt,

    /// <summary>It smelt burnt: the board is looked over, and that is recorded, first.</summary>
    LookOverBoard,

    /// <summary>Liquid got in: it is dried and looked over, and that is recorded, first.</summary>
    LookForDamp,

    /// <summary>The last look still found damp or residue.</summary>
    StillDamp,
}

/// <summary>
/// What must not be powered. Common practice: a supply that tripped a breaker, smelt or burnt is not powered again, in this
/// machine or another; a machine that got wet is dried and looked over first.
/// </summary>
public static class Safety
{
    /// <summary>Ids of the contexts and checks that bear on safety.</summary>
    public const string TrippedBreaker = "tripped-breaker",
        Smell = "smell",
        Wet = "wet",
        LookForDamp = "look-wet",
        LookOverBoard = "look-board";

    /// <summary>Why power may not be applied to the machine arranged so; null when it may.</summary>
    public static PowerBlock? WhyNotPowered(BenchJob job, Situation machine)
    {
        if (machine.WhyNotPowered() is not null)
            return PowerBlock.NoCooler;
        if (machine.Now[Place.Supply] is { } supply && WhyNeverAgain(job, supply) is { } never)
            return never;
        if (job.EverTold.Contains(Smell) && Look(job, LookOverBoard) is null)
            return PowerBlock.LookOverBoard;
        if (!job.EverTold.Contains(Wet))
            return null;
        return Look(job, LookForDamp) switch
        {
            null => PowerBlock.LookForDamp,
            true => PowerBlock.StillDamp,
            false => null,
        };
    }

    /// <summary>Why a supply is never powered again and never put back; null when it may be.</summary>
    /// <param name="job">The job.</param>
    /// <param name="supply">The supply.</param>
    public static PowerBlock? WhyNeverAgain(BenchJob job, UnitId supply)
    {
        if (job.Now.Parts.Find(supply) is not { Kind: UnitKind.Supply } unit)
            return null;
        var cameWithIt = unit.Origin == Origin.Customer;
        var alarms = job
            .Trials.Where(t => t.Situation.Now[Place.Supply] == supply)
            .Select(t => t.Entry.Signs.Alarm)
            .OfType<Alarm>()
            .ToHashSet();
        if ((cameWithIt && job.EverTold.Contains(TrippedBreaker)) || alarms.Contains(Alarm.TrippedBreaker))
            return PowerBlock.SupplyTripped;
        return (cameWithIt && job.EverTold.Contains(Smell)) || alarms.Count > 0 ? PowerBlock.SupplyBurnt : null;
    }

    /// <summary>Why a line may not follow on a log because of what it powers or puts back; null when it may.</summary>
    /// <param name="job">The log before it.</param>
    /// <param name="entry">The line; a correction is judged by what it puts in the place of what it strikes.</param>
    public static PowerBlock? WhyNotRecorded(BenchJob job, Entry entry) =>
        entry switch
        {
            TrialEntry trial => WhyNotPowered(job, job.Now.After(trial.Changes)),
            WorkEntry work => PutsBack(job, work.Changes),
            StrikeEntry { Replacement: TrialEntry trial } strike => StruckChanges(job, strike).SequenceEqual(trial.Changes)
                ? null
                : PutsBack(job, trial.Changes),
            StrikeEntry { Replacement: WorkEntry work } => PutsBack(job, work.Changes),
            InsertEntry { Line: TrialEntry trial } => PutsBack(job, trial.Changes),
            InsertEntry { Line: WorkEntry work } => PutsBack(job, work.Changes),
            _ => null,
        };

    private static ImmutableArray<Change> StruckChanges(BenchJob job, StrikeEntry strike) =>
        job.Lines.FirstOrDefault(l => l.Written.Id == strike.Struck)?.Content is TrialEntry struck ? struck.Changes : [];

    /// <summary>Whether changes put a supply into the machine that is never powered again.</summary>
    private static PowerBlock? PutsBack(BenchJob job, ImmutableArray<Change> changes) =>
        changes
            .Select(c =>
                c switch
                {
                    Change.Fit f => f.Unit,
                    Change.Swap s => s.In,
                    Change.Connect c2 => c2.Unit,
                    _ => (UnitId?)null,
                }
            )
            .OfType<UnitId>()
            .Select(u => WhyNeverAgain(job, u))
            .FirstOrDefault(b => b is not null);

    /// <summary>What the last look of this sort found; null when none was recorded.</summary>
    private static bool? Look(BenchJob job, string check) =>
        job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().LastOrDefault(f => f.Check == check)?.Found;
}
