using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Core.Training;

/// <summary>How a job ended.</summary>
public enum Verdict
{
    /// <summary>Every fault that mattered is named or dealt with, and nothing good was condemned.</summary>
    Right,
    /// <summary>The job was closed with a fault that matters still there.</summary>
    Missed,
    /// <summary>A good part was condemned.</summary>
    WrongPart,
    /// <summary>Time or ideas ran out.</summary>
    GivenUp,
}

/// <summary>One job, worked by one school to its end.</summary>
/// <param name="Verdict">How it ended.</param>
/// <param name="Minutes">Bench minutes.</param>
/// <param name="Trials">Start-ups.</param>
/// <param name="SparesAtRisk">Known-good spares that ran in a machine that could have killed them.</param>
/// <param name="Named">Acts that were decided on, in order.</param>
/// <param name="Log">The log at the end, as the school read it.</param>
/// <param name="World">What was really wrong.</param>
public sealed record WorkedJob(Verdict Verdict, double Minutes, int Trials, int SparesAtRisk, ImmutableArray<string> Named, BenchDiagnosis Log, World World);

/// <summary>
/// Works a simulated job as a technician would: reproduce, narrow by the school's order, mend or replace what stands at
/// 95 % or more, put everything back, and start it until what is left is unlikely.
/// </summary>
public sealed class Episode
{
    private const int MostSteps = 60;
    private const double MostMinutes = 300;

    /// <summary>Bench minutes that go with ordering and unpacking a part.</summary>
    private const double OrderMinutes = 10;

    private readonly World _world;
    private readonly School _school;
    private readonly Preferences _preferences;
    private readonly Random _random;
    private readonly List<string> _named = [];
    private readonly HashSet<UnitId> _condemned = [];
    private readonly HashSet<UnitId> _atRisk = [];
    private BenchDiagnosis _diagnosis;
    private double _minutes;
    private int _ids;

    private Episode(BenchJob job, World world, Atlas believed, School school, Preferences preferences, Random random)
    {
        _world = world;
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
    public static WorkedJob Work(BenchJob job, World world, Atlas believed, School school, Preferences preferences, Random random) =>
        new Episode(job, world, believed, school, preferences, random).Work();

    private WorkedJob Work()
    {
        Start([], 1);
        for (var step = 0; step < MostSteps && _minutes < MostMinutes; step++)
        {
            if (ToMend() is { } belief)
            {
                Mend(belief);
                continue;
            }

            var (phase, next, missing) = Planner.NextStep(_diagnosis, _school, _preferences);
            if (phase == Phase.Stuck && missing is not null)
            {
                _minutes += OrderMinutes;
                Arrive(missing);
                continue;
            }

            if (next is null) return End(closed: phase == Phase.Done);
            if (next.Check is { } check) Look(check, next);
            else Start(next.Changes, next.Minutes.Value);
        }

        return End(closed: false);
    }

    /// <summary>
    /// What to mend now: of a unit that stands at 95 % or more and is not settled, the act that is likeliest to help for
    /// its minutes. A swap mends whatever it is, so it is taken when it is the likeliest anyway.
    /// </summary>
    private FaultBelief? ToMend()
    {
        foreach (var suspect in _diagnosis.Suspects.Where(s => s.Probability >= BenchDiagnosis.Certain && (!_condemned.Contains(s.Unit.Id) || _diagnosis.Job.Now.Now.Has(s.Unit.Id))))
        {
            if (Planner.IsSettled(_diagnosis, suspect) && suspect.Leading.Fault.DealtWith(_diagnosis.Job.Now)) continue;
            var acts = suspect.Faults.Where(f => !f.Fault.DealtWith(_diagnosis.Job.Now) && (!_named.Contains(f.Fault.Act) || _condemned.Contains(suspect.Unit.Id)))
                .GroupBy(f => f.Fault.Act).Select(g => (Belief: g.MaxBy(b => b.Probability)!, P: g.Sum(b => b.Probability))).ToArray();
            if (acts.Sum(a => a.P) < 0.5) continue;
            var replace = acts.FirstOrDefault(a => a.Belief.Fault.Mode.Cure is Cure.Replace or Cure.Repair);
            var mends = acts.Where(a => a.Belief != replace.Belief && a.P >= 0.05).ToArray();
            var likelyReplace = replace.Belief is not null && (mends.Length == 0 || replace.P >= 0.8 * acts.Sum(a => a.P));
            if (!likelyReplace) return mends.MaxBy(a => a.P / MinutesFor(a.Belief.Fault)).Belief;
            if (suspect.Standing == Standing.Condemned || !CanBeProved(suspect.Unit)) return replace.Belief;
        }

        return null;
    }

    /// <summary>Whether there is another part of the kind that the suspect can be tried against, so that both ways can be shown.</summary>
    private bool CanBeProved(Unit unit) =>
        unit.Origin == Origin.Customer && _diagnosis.Suspects.Any(s => s.Unit.Kind == unit.Kind && s.Unit.Origin != Origin.Customer && s.Probability < BenchDiagnosis.Accused);

    private double MinutesFor(Fault fault) => fault.Mode.Cure switch
    {
        Cure.Reseat => _diagnosis.Atlas.Work.Reseat[fault.Unit.Kind].Value,
        Cure.ClearCmos => _diagnosis.Atlas.Work.ClearCmos.Value,
        Cure.Replace or Cure.Repair => _diagnosis.Atlas.Work.Swap[fault.Unit.Kind].Value + 5,
        _ => 5,
    };

    private void Mend(FaultBelief belief)
    {
        var fault = belief.Fault;
        if (!_named.Contains(fault.Act)) _named.Add(fault.Act);
        Change? change = fault.Mode.Cure switch
        {
            Cure.Reseat => new Change.Reseat(fault.Unit.Id),
            Cure.ClearCmos => new Change.ClearCmos(),
            Cure.Set => new Change.Mend(Remedy.Set, fault.Unit.Id),
            Cure.Rewire => new Change.Mend(Remedy.Rewire, fault.Unit.Id),
            Cure.Clean => new Change.Mend(Remedy.Clean, fault.Unit.Id),
            Cure.Flash => new Change.Mend(Remedy.Flash, fault.Unit is Motherboard ? fault.Unit.Id : _diagnosis.Job.Now.Board!.Id),
            Cure.Straighten => new Change.Mend(Remedy.Straighten, fault.Unit.Id),
            Cure.Repaste => new Change.Mend(Remedy.Repaste, fault.Unit.Id),
            Cure.Isolate => new Change.Mend(Remedy.Isolate, fault.Unit.Id),
            _ => null,
        };
        if (change is null)
        {
            // Replaced: a new part of the same build goes in its place when all is put back.
            _condemned.Add(fault.Unit.Id);
            if (!_diagnosis.Job.Now.Now.Has(fault.Unit.Id) && fault.Unit.Origin != Origin.Customer) return;
            if (fault.Unit.Origin == Origin.Customer && !_diagnosis.Job.Now.Parts.Has(ReplacementId(fault.Unit.Id))) Arrive(Replacement(fault.Unit));
        }

        var now = _diagnosis.Job.Now;
        var changes = new List<Change>();
        if (change is not null && now.TryAfter(change, out var after, out _))
        {
            changes.Add(change);
            now = after;
        }

        if (Transition.Between(now, Wanted()) is { } back) changes.AddRange(back);
        Start([.. changes], Cost(changes));
    }

    /// <summary>As received, with a new part in the place of each that was condemned.</summary>
    private Configuration Wanted()
    {
        var wanted = _diagnosis.Job.Intake.Received;
        foreach (var (place, id) in wanted.At)
        {
            if (_condemned.Contains(id) && _diagnosis.Job.Now.Parts.Has(ReplacementId(id))) wanted = wanted.WithUnit(place, ReplacementId(id));
        }

        return wanted;
    }

    private static UnitId ReplacementId(UnitId id) => new($"new-{id}");

    private static Unit Replacement(Unit unit) => unit switch
    {
        Motherboard b => new Motherboard(ReplacementId(b.Id), "new board", Origin.New, b.Slots, b.Outputs, b.CardSlots) { Socket = b.Socket, MemoryType = b.MemoryType, TellsPost = b.TellsPost },
        Cpu c => new Cpu(ReplacementId(c.Id), "new CPU", Origin.New, c.HasGraphics) { Socket = c.Socket },
        MemoryStick m => new MemoryStick(ReplacementId(m.Id), "new stick", Origin.New) { MemoryType = m.MemoryType },
        GraphicsCard g => new GraphicsCard(ReplacementId(g.Id), "new card", Origin.New, g.Outputs, g.NeedsAuxPower),
        _ => Unit.Plain(ReplacementId(unit.Id), unit.Kind, $"new {unit.Kind.Words()}", Origin.New),
    };

    private double Cost(IReadOnlyList<Change> changes) => Candidates.Cost(changes, _diagnosis.Job.Now, _diagnosis.Atlas.Work).Value;

    private Guid NextId() => new(++_ids, 0, 0, [0, 0, 0, 0, 0, 0, 0, 2]);

    private void Arrive(Unit unit) => _diagnosis = _diagnosis.After(new ArrivalEntry(NextId(), unit));

    private void Look(Check check, Candidate candidate)
    {
        _minutes += candidate.Minutes.Value;
        _diagnosis = _diagnosis.After(new FindingEntry(NextId(), check.Id, candidate.Checked!.Id, _world.Look(check, candidate.Checked.Id, candidate.After, _random)));
    }

    private void Start(ImmutableArray<Change> changes, double minutes)
    {
        _minutes += minutes;
        var after = _diagnosis.Job.Now.After(changes);
        foreach (var f in _world.Hidden.Where(f => _world.Faults[f].Mode.Harms.Count > 0 && _world.Faults[f].Engaged(after) > 0))
        {
            foreach (var id in after.Now.At.Values.Where(id => id != _world.Faults[f].Unit.Id && after.Parts[id].Origin == Origin.Shelf)) _atRisk.Add(id);
        }

        var (seen, stall) = _world.Start(after, _random);
        _diagnosis = _diagnosis.After(new TrialEntry(NextId(), changes, seen, stall));
    }

    private WorkedJob End(bool closed)
    {
        var hidden = _world.Hidden.Select(f => _world.Faults[f]).ToArray();
        var received = Situation.AtIntake(_diagnosis.Job.Now.Parts, _diagnosis.Job.Intake.Received);
        foreach (var settled in _diagnosis.Suspects.Where(s => !_diagnosis.Job.Now.Now.Has(s.Unit.Id) && Planner.IsSettled(_diagnosis, s)))
        {
            if (_condemned.Add(settled.Unit.Id)) _named.Add($"replace {settled.Unit.Id}");
        }

        var wrong = _condemned.Any(id => hidden.All(f => f.Unit.Id != id));
        var left = _world.Hidden.Where(f => _world.Matters(f, received))
            .Where(f => !_condemned.Contains(_world.Faults[f].Unit.Id) && !_world.Faults[f].DealtWith(_diagnosis.Job.Now));
        var verdict = wrong ? Verdict.WrongPart : !closed ? Verdict.GivenUp : left.Any() ? Verdict.Missed : Verdict.Right;
        return new WorkedJob(verdict, _minutes, _diagnosis.Job.Trials.Length, _atRisk.Count, [.. _named], _diagnosis, _world);
    }
}
