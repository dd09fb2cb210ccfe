using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Training;

/// <summary>How a job ended.</summary>
public enum Verdict
{
    /// <summary>The machine runs, no fault that matters is left in it, and nothing good was replaced.</summary>
    Right,

    /// <summary>The job was closed with a fault that matters still there.</summary>
    Missed,

    /// <summary>A good part was condemned.</summary>
    WrongPart,

    /// <summary>Time or ideas ran out.</summary>
    GivenUp,

    /// <summary>
    /// It was said that it is not in the book or not proved, and nothing good was replaced: no answer, but an honest one.
    /// </summary>
    NotProved,
}

/// <summary>What came of one job.</summary>
/// <param name="Verdict">How it ended.</param>
/// <param name="Minutes">Bench minutes.</param>
/// <param name="Trials">Start-ups.</param>
/// <param name="SparesAtRisk">Known-good spares that ran in a machine that could have killed them.</param>
/// <param name="Condemned">Parts of the customer's that did not go back in, or were condemned when the job was given up.</param>
public sealed record JobResult(Verdict Verdict, double Minutes, int Trials, int SparesAtRisk, ImmutableArray<UnitId> Condemned);

/// <summary>One job, worked by one school to its end.</summary>
/// <param name="Result">What came of it.</param>
/// <param name="Log">The log at the end, as the school read it.</param>
/// <param name="World">What was really wrong.</param>
public sealed record WorkedJob(JobResult Result, BenchDiagnosis Log, World World)
{
    /// <summary>After each step, for each of the customer's parts that was likely at all, how likely it was said to be at fault
    /// and whether it was.</summary>
    public ImmutableArray<(double Said, bool Was)> Claims { get; init; } = [];
}

/// <summary>
/// Works a simulated job as a technician would who takes every step that is proposed: reproduce, narrow by the school's
/// order, mend or replace what is certain enough, put everything back, and start it until what is left is unlikely.
/// </summary>
public sealed class Episode
{
    private const int MostSteps = 90;
    private const double MostMinutes = 300;

    /// <summary>Bench minutes that go with ordering and unpacking a part.</summary>
    private const double OrderMinutes = Effort.OrderMinutes;

    private World _world;
    private readonly World _asReceived;
    private readonly double _hands;
    private readonly School _school;
    private readonly Preferences _preferences;
    private readonly Random _random;
    private readonly HashSet<UnitId> _atRisk = [];
    private BenchDiagnosis _diagnosis;
    private double _minutes;
    private int _ids;
    private readonly List<(double, bool)> _claims = [];

    /// <summary>A part below this was not said to be at fault.</summary>
    private const double WorthAClaim = 0.05;

    private Episode(BenchJob job, World world, Atlas believed, School school, Preferences preferences, Random random, double hands)
    {
        _hands = hands;
        _world = world;
        _asReceived = world;
        _school = school;
        _preferences = preferences;
        _random = random;
        _diagnosis = BenchDiagnosis.Of(job, believed);
    }

    /// <param name="job">The job as taken in, its log empty.</param>
    /// <param name="world">What is really wrong.</param>
    /// <param name="believed">The reasoner's atlas.</param>
    /// <param name="school">The order of work.</param>
    /// <param name="preferences">The shop's preferences.</param>
    /// <param name="random">Chance.</param>
    /// <param name="hands">How often hands cure or cause beside their work, against the atlas; 1 as it says.</param>
    public static WorkedJob Work(
        BenchJob job,
        World world,
        Atlas believed,
        School school,
        Preferences preferences,
        Random random,
        double hands = 1
    ) => new Episode(job, world, believed, school, preferences, random, hands).Work();

    private WorkedJob Work()
    {
        for (var step = 0; step < MostSteps && _minutes < MostMinutes; step++)
        {
            Claim();
            var decision = Planner.Decide(_diagnosis, _school, _preferences);
            if (decision.Step is { Check: { } check } look)
                Look(check, look);
            else if (decision.Step is { } next)
                Start(next.Changes, next.Minutes.Value, next.Kind);
            else if (decision.Phase == Phase.Reproduce)
                Start([], 1);
            else if (decision.Missing is { } missing)
                Get(missing);
            else
                return End(closed: decision is { Phase: Phase.Done, Kind: not AdviceKind.NotReproduced }, honest: true);
        }

        return End(closed: false, honest: false);
    }

    private void Claim()
    {
        if (_diagnosis.Job.Trials.Length == 0)
            return;
        var guilty = _asReceived.Hidden.Select(f => _asReceived.Faults[f.Index].Unit.Id).ToHashSet();
        _claims.AddRange(
            _diagnosis
                .Suspects.Where(s => s.Unit.Origin == Origin.Customer && s.Probability >= WorthAClaim)
                .Select(s => (s.Probability, guilty.Contains(s.Unit.Id)))
        );
    }

    private Guid NextId() => new(++_ids, 0, 0, [0, 0, 0, 0, 0, 0, 0, 2]);

    private void Get(Unit unit)
    {
        _minutes += OrderMinutes;
        _diagnosis = _diagnosis.After(new ArrivalEntry(NextId(), unit));
    }

    private void Look(Check check, Candidate candidate)
    {
        _minutes += candidate.Minutes.Value;
        _diagnosis = _diagnosis.After(
            new FindingEntry(NextId(), check.Id, candidate.Checked!.Id, _world.Look(check, candidate.Checked.Id, candidate.After, _random))
        );
    }

    private void Start(ImmutableArray<Change> changes, double minutes, StartKind? kind = null)
    {
        _minutes += minutes;
        var after = _diagnosis.Job.Now.After(changes);
        _world = _world.AfterHands(changes, after, _random, _hands);
        foreach (var f in _world.Hidden.Select(h => _world.Faults[h.Index]).Where(f => f.Mode.Harms.Count > 0 && f.Engaged(after) > 0))
        {
            foreach (var id in after.Now.At.Values.Where(id => id != f.Unit.Id && after.Parts[id].Origin == Origin.Shelf))
                _atRisk.Add(id);
        }

        var (seen, stall) = _world.Start(after, _random, kind);
        _diagnosis = _diagnosis.After(new TrialEntry(NextId(), changes, seen, stall) { Kind = kind });
    }

    /// <summary>
    /// A closed job is judged by the machine as it goes out: every part of the customer's that stays behind must have
    /// been faulty, and nothing may be left that keeps a picture away. A supply that nobody may power again stays out
    /// whatever was wrong, and is no verdict. A job given up is judged by what was condemned.
    /// </summary>
    private WorkedJob End(bool closed, bool honest)
    {
        var job = _diagnosis.Job;
        var guilty = _asReceived.Hidden.Concat(_world.Hidden).Select(f => _world.Faults[f.Index].Unit.Id).ToHashSet();
        if (_asReceived.Hidden.Any(f => _world.Faults[f.Index].Mode.On == FaultSite.MemoryKit))
            guilty.UnionWith(job.Intake.Received.At.Values.Where(id => job.Now.Parts[id] is MemoryStick));
        UnitId[] condemned = closed
            ? [.. job.Intake.Received.At.Values.Where(id => !job.Now.Now.Has(id) && Safety.WhyNeverAgain(job, id) is null)]
            : [.. _diagnosis.Suspects.Where(s => s.Standing == Standing.Condemned).Select(s => s.Unit.Id)];
        var verdict =
            condemned.Any(id => !guilty.Contains(id)) ? Verdict.WrongPart
            : !closed
                ? honest ? Verdict.NotProved
                    : Verdict.GivenUp
            : _world.Hidden.Any(f => _world.Matters(f, job.Now)) ? Verdict.Missed
            : Verdict.Right;
        return new WorkedJob(new JobResult(verdict, _minutes, job.Trials.Length, _atRisk.Count, [.. condemned]), _diagnosis, _world)
        {
            Claims = [.. _claims],
        };
    }
}
