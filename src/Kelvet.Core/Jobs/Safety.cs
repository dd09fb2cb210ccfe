using System.Collections.Immutable;
using Kelvet.Core.Faults;
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

    /// <summary>It smelt burnt, and the look over its board found burn marks: that board is not powered again.</summary>
    BoardBurnt,

    /// <summary>Liquid got in: it is dried and looked over, and that is recorded, first.</summary>
    LookForDamp,

    /// <summary>The last look still found damp or residue.</summary>
    StillDamp,

    /// <summary>A board is flashed only while the machine shows a picture as it stands, or where it flashes without a CPU.</summary>
    BlindFlash,
}

/// <summary>
/// What must not be powered. Common practice: a supply that tripped a breaker, smelt or burnt is not powered again, in this
/// machine or another; a machine that got wet is dried and looked over first.
/// </summary>
public static class Safety
{
    /// <summary>Ids of the contexts, checks and findings that bear on safety; an atlas that lacks one is refused when it is read.</summary>
    public const string TrippedBreaker = SafetyIds.TrippedBreaker,
        Smell = SafetyIds.Smell,
        Wet = SafetyIds.Wet,
        LookForDamp = SafetyIds.LookForDamp,
        LookOverBoard = SafetyIds.LookOverBoard,
        BurnMarks = SafetyIds.BurnMarks;

    /// <summary>Why power may not be applied to the machine arranged so; null when it may.</summary>
    public static PowerBlock? WhyNotPowered(BenchJob job, Situation machine)
    {
        if (machine.WhyNotPowered() is not null)
            return PowerBlock.NoCooler;
        if (machine.Now[Place.Supply] is { } supply && WhyNeverAgain(job, supply) is { } never)
            return never;
        if (WhyNotAfterSmell(job, machine) is { } smelt)
            return smelt;
        if (!job.EverTold.Contains(Wet))
            return null;
        return Look(job, LookForDamp) switch
        {
            null => PowerBlock.LookForDamp,
            true => PowerBlock.StillDamp,
            false => null,
        };
    }

    /// <summary>
    /// A smell belongs to the board that was fitted when it smelt: that one is looked over, after the smell, before it is powered
    /// again, and not at all where the look found burn marks, or did not say what it found.
    /// </summary>
    private static PowerBlock? WhyNotAfterSmell(BenchJob job, Situation machine)
    {
        if (machine.Now[Place.Board] is not { } board)
            return null;
        var since = job
            .Trials.Where(t => t.Entry.Signs.Alarm is Alarm.Smell or Alarm.Burnt && t.Situation.Now[Place.Board] == board)
            .Select(t => (int?)t.Position)
            .Max();
        if (job.EverTold.Contains(Smell) && (job.AsTakenIn.Received[Place.Board] == board || job.Intake.Received[Place.Board] == board))
            since ??= 0;
        if (since is not { } after)
            return null;
        var looks = job.Testimonies.Where(t => t.Entry is FindingEntry f && f.Check == LookOverBoard && f.Unit == board).ToArray();
        // What once burnt is not made whole by a later look.
        if (looks.Any(t => t.Entry is FindingEntry { Found: true, What: BurnMarks or "" }))
            return PowerBlock.BoardBurnt;
        return looks.Any(t => t.Position > after) ? null : PowerBlock.LookOverBoard;
    }

    /// <summary>
    /// Whether a part is not put back to see it fail once the machine ran without it: what cools the CPU. A start that fails for want
    /// of cooling is paid for by the CPU. Common practice.
    /// </summary>
    public static bool IsNotTriedAgain(Unit unit) => unit.Kind == UnitKind.Cooler;

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
        entry.Row.Gate switch
        {
            LineGate.Start => WhyNotFlashed(job, entry.Done) ?? WhyNotPowered(job, job.Now.After(entry.Done)),
            LineGate.Work => WhyNotFlashed(job, entry.Done) ?? PutsBack(job, entry.Done),
            LineGate.Mends => WhyNotMended(job, entry),
            LineGate.Words or LineGate.Look => null,
            _ => throw new InvalidOperationException($"A line of gate {entry.Row.Gate} has no rule."),
        };

    private static PowerBlock? WhyNotMended(BenchJob job, Entry entry) =>
        entry switch
        {
            // What was seen may always be corrected.
            StrikeEntry { Replacement: TrialEntry put } strike
                when (LineOf(job, strike.Struck)?.Stands?.Done ?? []).SequenceEqual(put.Done) => null,
            StrikeEntry { Replacement: { } put } strike => PutsBack(job, put.Done) ?? FlashedAt(job, LineOf(job, strike.Struck), put.Done),
            InsertEntry insert => PutsBack(job, insert.Line.Done) ?? FlashedAt(job, LineOf(job, insert.Before), insert.Line.Done),
            _ => null,
        };

    /// <summary>
    /// Why what is to be done flashes a board blindly; null when it does not. Common practice: a flash that nobody can follow
    /// on a screen is started only where the board has a way of its own that needs no CPU.
    /// </summary>
    /// <param name="job">The log before it.</param>
    /// <param name="changes">What is to be done, in order.</param>
    public static PowerBlock? WhyNotFlashed(BenchJob job, IEnumerable<Change> changes)
    {
        var before = job.Now;
        foreach (var change in changes)
        {
            if (change is Change.Mend { Remedy: Remedy.Flash } && before.Board is { FlashesWithoutCpu: false })
            {
                var shows = job.Trials is [.., { Seen.ShowsPicture: true } last] && last.Situation.Now.At.SequenceEqual(before.Now.At);
                if (!shows)
                    return PowerBlock.BlindFlash;
            }

            // What cannot be done is refused with its own words where it is recorded.
            if (!before.TryAfter(change, out before, out _))
                return null;
        }

        return null;
    }

    /// <summary>The same for a line that is put into the log later: the start before it decides.</summary>
    private static PowerBlock? FlashedAt(BenchJob job, LogLine? line, ImmutableArray<Change> changes)
    {
        if (line is null || job.Now.Board is { FlashesWithoutCpu: true } || !changes.Any(c => c is Change.Mend { Remedy: Remedy.Flash }))
            return null;
        return job.Trials.LastOrDefault(t => t.Position < line.Position) is { Seen.ShowsPicture: true } ? null : PowerBlock.BlindFlash;
    }

    private static LogLine? LineOf(BenchJob job, Guid id) => job.Lines.FirstOrDefault(l => l.Written.Id == id);

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
