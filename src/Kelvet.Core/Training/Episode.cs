using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Training;

/// <summary>One job, worked by one school to its end.</summary>
/// <param name="Result">What came of it.</param>
/// <param name="Log">The log at the end, as the school read it.</param>
/// <param name="World">What was really wrong.</param>
public sealed record WorkedJob(JobResult Result, BenchDiagnosis Log, World World)
{
    /// <summary>After each step, for each of the customer's parts that was likely at all, how likely it was said to be at fault
    /// and whether it was.</summary>
    public ImmutableArray<(double Said, bool Was)> Claims { get; init; } = [];

    /// <summary>The same by remedy: whether throwing the part out would have been right; of parts that stood condemned alone, in
    /// <see cref="Condemned"/>.</summary>
    public ImmutableArray<(double Said, bool Was)> Remedies { get; init; } = [];

    /// <summary>Of each part that came to stand condemned, how likely it was said to be at fault and whether throwing it out was
    /// right.</summary>
    public ImmutableArray<(double Said, bool Was)> Condemned { get; init; } = [];
}

/// <summary>
/// Works a simulated job as a technician would who takes every step that is proposed: reproduce, narrow by the school's
/// order, mend or replace what is certain enough, put everything back, and start it until what is left is unlikely.
/// </summary>
public sealed class Episode
{
    private const int MostSteps = 90;

    /// <summary>Minutes that somebody stands there.</summary>
    private const double MostMinutes = 300;

    /// <summary>Bench minutes that go with ordering and unpacking a part.</summary>
    private const double OrderMinutes = Effort.OrderMinutes;

    private World _world;
    private readonly World _asReceived;
    private readonly WorldSetting _setting;
    private readonly School _school;
    private readonly Preferences _preferences;
    private readonly Random _random;
    private readonly HashSet<UnitId> _atRisk = [];
    private BenchDiagnosis _diagnosis;
    private double _minutes;
    private int _ids;
    private readonly List<(double, bool)> _claims = [];
    private readonly List<(double, bool)> _remedies = [];
    private readonly List<(double, bool)> _condemned = [];
    private readonly HashSet<UnitId> _stoodCondemned = [];
    private Winces _winces = Winces.None;
    private double _waiting;
    private double _money;

    /// <summary>A part below this was not said to be at fault.</summary>
    private const double WorthAClaim = 0.05;

    private Episode(BenchJob job, World world, Atlas believed, School school, Preferences preferences, Random random, WorldSetting setting)
    {
        _setting = setting;
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
    /// <param name="setting">What is different in the world; null for nothing.</param>
    public static WorkedJob Work(
        BenchJob job,
        World world,
        Atlas believed,
        School school,
        Preferences preferences,
        Random random,
        WorldSetting? setting = null
    ) => new Episode(job, world, believed, school, preferences, random, setting ?? WorldSetting.Known).Work();

    private WorkedJob Work()
    {
        for (var step = 0; step < MostSteps && _minutes - _waiting < MostMinutes; step++)
        {
            Claim();
            var decision = Planner.Decide(_diagnosis, _school, _preferences);
            Weigh(decision);
            if (decision is { Phase: Phase.Narrow, Step: not null } && _random.NextDouble() >= _setting.Technician.Obeys)
                decision = decision with { Step = SomethingElse() ?? decision.Step };
            if (decision.Step is { Check: { } check } look)
                Look(check, look);
            else if (decision is { Phase: Phase.MakeSafe, Step: { } safe })
                MakeSafe(safe);
            else if (decision.Step is { } next)
                Start(next);
            else if (decision.Phase == Phase.Reproduce)
                Start(Candidates.Of([], _diagnosis.Job.Now, _diagnosis.Job.Now, _diagnosis.Atlas));
            else if (decision.Missing is { } missing)
                Get(missing);
            else
                return End(decision);
        }

        return End(null);
    }

    /// <summary>A step that can be taken, for a technician who takes another than was proposed.</summary>
    private Candidate? SomethingElse()
    {
        var job = _diagnosis.Job;
        Candidate[] others =
        [
            .. Candidates
                .From(_diagnosis)
                .Where(c => c.Missing is null && c.After.WhyNotPowered() is null)
                .Where(c => c.Check is not null || Safety.WhyNotRecorded(job, new WorkEntry(NextId(), c.Changes)) is null),
        ];
        return others.Length == 0 ? null : others[_random.Next(others.Length)];
    }

    /// <summary>Bits below which a step is held to tell nothing.</summary>
    private const double TellsSomething = 0.005;

    /// <summary>Starts of one set-up after which one more for the sake of learning is one too many.</summary>
    private const int EnoughOfTheSame = 3;

    /// <summary>Counts what a master would wince at in what is proposed.</summary>
    private void Weigh(Decision decision)
    {
        var job = _diagnosis.Job;
        if (decision is { Phase: not Phase.MakeSafe, Step: { Check: null } step })
        {
            Entry entry = new TrialEntry(NextId(), step.Changes, StageRange.At(BootStage.NoStandby));
            if (Safety.WhyNotRecorded(job, entry) is not null)
                _winces = _winces with { Unsafe = _winces.Unsafe + 1 };
            if (decision.Phase == Phase.Narrow && decision.Kind == AdviceKind.TellsMost)
            {
                if (Planner.Foresee(_diagnosis, step).Gain < TellsSomething)
                    _winces = _winces with { TellsNothing = _winces.TellsNothing + 1 };
                if (job.Trials.Count(t => t.Situation.IsSameAs(step.After)) >= EnoughOfTheSame)
                    _winces = _winces with { SameAgain = _winces.SameAgain + 1 };
            }

            if (
                decision.Kind == AdviceKind.PutBackToProve
                && decision.About is { } back
                && _preferences.CostOf(step.Minutes.Value) > PriceOf(back)
            )
                _winces = _winces with { ProofDearer = _winces.ProofDearer + 1 };
        }

        if (decision is { Step: null, Missing: { } bought })
        {
            var suspects = _diagnosis.Suspects.Where(s => s.Unit.Origin == Origin.Customer).ToArray();
            var wanted = suspects.FirstOrDefault(s => s.Unit.Kind == bought.Kind);
            if (wanted is not null && IsGateOpen(wanted.Unit.Id))
                _winces = _winces with { GateOpen = _winces.GateOpen + 1 };
            if (
                wanted is not null
                && suspects.Any(s =>
                    s.Unit.Id != wanted.Unit.Id
                    && job.Now.Now.Has(s.Unit.Id)
                    && s.Probability >= wanted.Probability
                    && PriceOf(s.Unit) < PriceOf(bought) / 2
                )
            )
                _winces = _winces with { DearFirst = _winces.DearFirst + 1 };
        }
    }

    private bool IsGateOpen(UnitId unit) => OpenChecks.Of(_diagnosis.Job, unit, _diagnosis.Atlas, _preferences).Any;

    private double PriceOf(Unit unit) => _preferences.PriceOf(unit.Kind).New;

    private void Claim()
    {
        if (_diagnosis.Job.Trials.Length == 0)
            return;
        var at = _asReceived.Hidden.Select(f => _asReceived.Faults[f.Index].Unit.Id).ToHashSet();
        var guilty = Judge.Guilty(_diagnosis.Job, _asReceived, _world);
        foreach (var suspect in _diagnosis.Suspects.Where(s => s.Unit.Origin == Origin.Customer && s.Probability >= WorthAClaim))
        {
            _claims.Add((suspect.Probability, at.Contains(suspect.Unit.Id)));
            _remedies.Add(
                (
                    suspect.Faults.Where(f => f.Fault.Act.Cure is Cure.Replace or Cure.Repair).Sum(f => f.Probability),
                    guilty.Contains(suspect.Unit.Id)
                )
            );
            if (suspect.Standing == Standing.Condemned && _stoodCondemned.Add(suspect.Unit.Id))
                _condemned.Add((suspect.Probability, guilty.Contains(suspect.Unit.Id)));
        }
    }

    private Guid NextId() => new(++_ids, 0, 0, [0, 0, 0, 0, 0, 0, 0, 2]);

    /// <summary>What makes the machine safe is done before anybody powers it.</summary>
    private void MakeSafe(Candidate step)
    {
        _minutes += step.Minutes.Value;
        _diagnosis = _diagnosis.After(new WorkEntry(NextId(), step.Changes));
    }

    private void Get(Unit unit)
    {
        _minutes += OrderMinutes;
        _money += PriceOf(unit);
        _diagnosis = _diagnosis.After(new ArrivalEntry(NextId(), unit));
    }

    private void Look(Check check, Candidate candidate)
    {
        _minutes += candidate.Minutes.Value;
        _waiting += candidate.Waiting.Value;
        _diagnosis = _diagnosis.After(
            new FindingEntry(NextId(), check.Id, candidate.Checked!.Id, _world.Look(check, candidate.Checked.Id, candidate.After, _random))
        );
    }

    private void Start(Candidate step)
    {
        var (changes, kind) = (step.Changes, step.Kind);
        _minutes += step.Minutes.Value;
        _waiting += step.Waiting.Value;
        var after = _diagnosis.Job.Now.After(changes);
        _world = _world.AfterHands(changes, after, _random, _setting.Hands);
        if (changes.Any(c => c.HandsIn(after.Parts)) && _random.NextDouble() < _setting.Technician.ForgetsPlug)
            _world = _world.WithALoosePlug(after, _random);
        foreach (var f in _world.Hidden.Select(h => _world.Faults[h.Index]).Where(f => f.Mode.Harms.Count > 0 && f.Engaged(after) > 0))
        {
            foreach (var id in after.Now.At.Values.Where(id => id != f.Unit.Id && after.Parts[id].Origin == Origin.Shelf))
                _atRisk.Add(id);
        }

        var start = _world.Start(after, _random, kind);
        _world = _world.AfterAStart(after, _setting, _random);
        var signs = _setting.Signs && start.By is { } by ? SignsSeen.Of(by, after, _world.Atlas, _random) : Signs.None;
        var (seen, stall) = AsWrittenDown(start.Seen, start.Stall);
        _diagnosis = _diagnosis.After(
            new TrialEntry(NextId(), changes, seen, stall) { Kind = kind, Signs = WithDefects(signs, start, after) }
        );
    }

    /// <summary>The signs with what was heard, and with what is wrong with a machine that came up, where anybody looks for it.</summary>
    private Signs WithDefects(Signs signs, StartSeen start, Situation after)
    {
        if (start.Beeps.Length > 0)
            signs = signs with { Beeps = _random.NextDouble() < _setting.Technician.MisreadsBeeps ? Miscounted(start.Beeps) : start.Beeps };
        if (start.IsSpoilt)
            signs = signs with { Artefacts = Artefacts.FromTheLogo };
        var looked = _setting.Complaint.Shows == Symptom.MissingMemory || LogEvidence.Noted(_diagnosis.Job).Contains(Symptom.MissingMemory);
        if (start.Seen.ShowsPicture && (looked || start.Lost.Length > 0))
            signs = signs with { SlotsSeen = string.Join(", ", after.Sticks.Select(s => s.Place.Part).Except(start.Lost)) };
        return signs;
    }

    /// <summary>Beeps, one of their numbers counted wrong.</summary>
    private string Miscounted(string beeps)
    {
        int[] digits = [.. Enumerable.Range(0, beeps.Length).Where(i => char.IsAsciiDigit(beeps[i]))];
        if (digits.Length == 0)
            return beeps;
        var at = digits[_random.Next(digits.Length)];
        var counted = (beeps[at] - '0') + (_random.Next(2) == 0 && beeps[at] > '1' ? -1 : 1);
        return string.Concat(beeps.AsSpan(0, at), counted.ToString(CultureInfo.InvariantCulture), beeps.AsSpan(at + 1));
    }

    /// <summary>What the technician makes of what was to be seen.</summary>
    private (StageRange Seen, StallSignal? Stall) AsWrittenDown(StageRange seen, StallSignal? stall)
    {
        var eyes = _setting.Technician;
        if (!seen.ShowsPicture && seen.Low == seen.High && _random.NextDouble() < eyes.MisreadsStage)
        {
            var beside = (int)seen.Low + (_random.Next(2) == 0 ? 1 : -1);
            seen = StageRange.At((BootStage)Math.Clamp(beside, 0, (int)BootStage.Picture - 1));
        }

        if (stall is not null && _random.NextDouble() < eyes.MisreadsLights)
            stall = StallSignal.At((StallDomain)_random.Next(Enum.GetValues<StallDomain>().Length));
        return (seen, stall);
    }

    /// <summary>
    /// A closed job is judged by the machine as it goes out: every part of the customer's that stays behind must have a fault that only
    /// another part helps against, and nothing may be left that keeps it from its goal. A supply that nobody may power again stays out
    /// whatever was wrong, and is no verdict. A job given up is judged by what was condemned.
    /// </summary>
    private WorkedJob End(Decision? decision)
    {
        var job = _diagnosis.Job;
        var (verdict, condemned, good) = Judge.Of(_diagnosis, _asReceived, _world, decision);
        if (decision is { Phase: Phase.Done })
            _winces = _winces with { GateOpen = _winces.GateOpen + condemned.Count(IsGateOpen) };
        // What replaces a part of the customer's was bought, from the shelf or from a seller.
        var shelf = condemned
            .Select(id => job.Now.Parts[id])
            .Where(u => !job.Entries.OfType<ArrivalEntry>().Any(a => a.Unit.Kind == u.Kind));
        return new WorkedJob(
            new JobResult(verdict, _minutes, job.Trials.Length, _atRisk.Count, [.. condemned])
            {
                Waiting = _waiting,
                Money = _money + shelf.Sum(PriceOf),
                Wasted = good.Sum(id => PriceOf(job.Now.Parts[id])),
                GoodParts = [.. good.Select(id => job.Now.Parts[id].Kind)],
                Winces = _winces,
            },
            _diagnosis,
            _world
        )
        {
            Claims = [.. _claims],
            Remedies = [.. _remedies],
            Condemned = [.. _condemned],
        };
    }
}
