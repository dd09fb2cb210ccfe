using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Planning;

/// <summary>
/// The start that shows the complaint. What fails cold, from sleep or under load alone fails at no other start: an ordinary one after a
/// change says nothing of it, and clears nothing. Common practice: it is first made to fail here, the way it fails there.
/// </summary>
public static class ShowingStart
{
    /// <summary>Minutes that somebody stands by a rest or a run: it is begun, and its end is read. Bench judgement.</summary>
    private const double StandsBy = 2;

    /// <summary>A run goes on for so many times the minutes after which it is said to fail.</summary>
    private const double Longer = 2;

    /// <summary>The kind of start in which the complaint shows; null where an ordinary one shows it.</summary>
    internal static StartKind? Of(BenchJob job)
    {
        if (job.Goal == BootStage.Stable)
            return job.Intake.Complaint.When is StartKind.Wake ? StartKind.Wake : StartKind.Load;
        var told = job.Intake.Complaint.When;
        return told is null or StartKind.Warm || job.Trials.Any(t => t.Failed && t.Entry.Kind is null or StartKind.Warm) ? null : told;
    }

    /// <summary>
    /// Whether a start could have shown what is complained of: it failed, or it was made in the way that shows it. One that was made
    /// otherwise and passed clears nothing.
    /// </summary>
    /// <param name="job">The job as it stands now.</param>
    /// <param name="trial">A start of it.</param>
    public static bool CouldHaveFailed(this BenchJob job, Trial trial) =>
        trial.Failed || Of(job) is not { } kind || trial.Entry.Kind == kind;

    /// <summary>Whether a start of a kind is followed to its end, where the goal is a machine that runs.</summary>
    internal static bool IsFollowed(StartKind? kind, BenchJob job) => job.Goal < BootStage.Stable || kind == Of(job);

    /// <summary>A step with the start that shows the complaint, where it is one without a kind.</summary>
    internal static Candidate With(Candidate step, BenchJob job, WorkTimes work) =>
        step is { Check: null, Kind: null } && Of(job) is { } kind ? Started(step, kind, job, work) : step;

    /// <summary>A step followed by a start of a kind.</summary>
    internal static Candidate Started(Candidate step, StartKind kind, BenchJob job, WorkTimes work)
    {
        var takes = kind switch
        {
            StartKind.Cold => work.Rest.Value,
            StartKind.Load => Math.Min(work.LoadRun.Value, (job.Intake.Complaint.Minutes * Longer) + StandsBy ?? work.LoadRun.Value),
            StartKind.Wake => work.Wait.Value,
            _ => 0,
        };
        return step with { Kind = kind, Minutes = step.Minutes + new Minutes(takes), Waiting = new Minutes(Math.Max(0, takes - StandsBy)) };
    }
}
