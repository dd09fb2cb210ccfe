using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>How a start at the bench compares with what the customer tells.</summary>
public enum Likeness
{
    /// <summary>It ends where they say.</summary>
    Same,

    /// <summary>It ends where they say, and does something else then.</summary>
    EndsOtherwise,

    /// <summary>It does not get as far as they say.</summary>
    StopsEarlier,

    /// <summary>It gets further than they say, and fails all the same.</summary>
    GetsFurther,

    /// <summary>It works here.</summary>
    WorksHere,
}

/// <summary>A point of the technician's own set-up that is checked before a machine is blamed.</summary>
public enum SetUpPoint
{
    /// <summary>A mains lead that is known good, on an outlet that is.</summary>
    Lead,

    /// <summary>The rear switch of the supply.</summary>
    RearSwitch,

    /// <summary>The standby light, before start is pressed.</summary>
    StandbyLight,

    /// <summary>A video cable that is known good, on the output that it is really on.</summary>
    VideoCable,

    /// <summary>The monitor on, and its input.</summary>
    MonitorInput,

    /// <summary>A keyboard plugged in.</summary>
    Keyboard,
}

/// <summary>How the fault is made to show itself at the bench.</summary>
/// <param name="Kind">The start or use in which the complaint happens; null for a plain start.</param>
/// <param name="Minutes">How long it is watched, minutes; null where the start itself tells.</param>
/// <param name="Theirs">Units of the customer's that hang outside the machine and came in with it: the first start is with them.</param>
/// <param name="Missing">Kinds that hang outside, bear on the complaint, and did not come in.</param>
public sealed record Reproduction(StartKind? Kind, double? Minutes, ImmutableArray<UnitId> Theirs, ImmutableArray<UnitKind> Missing)
{
    /// <summary>Points of the technician's own set-up, in the order in which they are looked at.</summary>
    public static ImmutableArray<SetUpPoint> SetUp { get; } = [.. Enum.GetValues<SetUpPoint>()];

    /// <summary>What a customer may leave at home.</summary>
    private static readonly ImmutableArray<UnitKind> MayBeLeft =
    [
        UnitKind.MainsLead,
        UnitKind.PowerStrip,
        UnitKind.VideoCable,
        UnitKind.Monitor,
    ];

    /// <summary>Starts that passed here after which "works here" is a reading and not luck. Common practice.</summary>
    public const int LeastPasses = 5;

    /// <summary>How the first start is made.</summary>
    public static Reproduction Of(BenchJob job)
    {
        var complaint = job.Intake.Complaint;
        var theirs = job.Now.Parts.All.Where(u => u.Origin == Origin.Customer && MayBeLeft.Contains(u.Kind)).ToImmutableArray();
        return new Reproduction(
            complaint.When,
            complaint.Minutes ?? (complaint.When == StartKind.Load ? 30 : null),
            [.. theirs.Select(u => u.Id)],
            [.. MayBeLeft.Where(k => theirs.All(u => u.Kind != k))]
        );
    }

    /// <summary>How a start compares with the complaint; null where the customer did not say how far it gets, and it failed.</summary>
    /// <param name="job">The job.</param>
    /// <param name="trial">One of its starts.</param>
    public static Likeness? Compare(BenchJob job, Trial trial)
    {
        if (trial.Passed)
            return Likeness.WorksHere;
        if (job.Intake.Reported is not { } told)
            return null;
        if (trial.Seen.High < told.Low)
            return Likeness.StopsEarlier;
        if (trial.Seen.Low > told.High)
            return Likeness.GetsFurther;
        return job.Intake.Complaint.Then is { } then && trial.Entry.Signs.Ended is { } ended && ended != then
            ? Likeness.EndsOtherwise
            : Likeness.Same;
    }

    /// <summary>Starts as it came in, changes aside that only the set-up knows, that passed and that failed.</summary>
    public static (int Passed, int Failed) AsReceived(BenchJob job)
    {
        var received = Situation.AtIntake(job.Now.Parts, job.Intake.Received);
        var same = job.Trials.Where(t => t.Situation.IsSameAs(received)).ToArray();
        return (same.Count(t => t.Passed), same.Count(t => t.Failed));
    }

    /// <summary>
    /// Whether nothing failed here and the machine passed often enough that it may go back as "not reproduced".
    /// </summary>
    public static bool MayEndUnreproduced(BenchJob job) => job.Trials.All(t => !t.Failed) && job.Trials.Count(t => t.Passed) >= LeastPasses;
}
