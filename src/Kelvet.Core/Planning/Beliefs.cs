using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;

namespace Kelvet.Core.Planning;

/// <summary>The leading hypotheses, grouped by what would be done about them, and what they predict.</summary>
internal sealed class Beliefs
{
    /// <summary>Hypotheses that predictions are made from; the rest weighs less than the slip of one trial.</summary>
    private const int MostHypotheses = 400;

    /// <summary>Bits below which a step is said to tell nothing.</summary>
    private const double LeastGain = 0.02;

    /// <summary>The same for a step that can give no picture whatever is wrong, whose use is easily overrated.</summary>
    private const double LeastGainBlind = 0.1;

    /// <summary>The same for one more start of a machine that was started twice so: its minute buys little, over and over.</summary>
    private const double LeastGainAgain = 0.08;

    /// <summary>An outcome less likely than this is not listed.</summary>
    private const double WorthListing = 0.01;

    /// <summary>Starts that are made of one machine where the fault comes and goes, before it is changed again.</summary>
    private const int StartsTogether = 4;

    /// <summary>Minutes that losing a spare is worth. Bench judgement: an hour's work.</summary>
    private const double SpareMinutes = 60;

    private readonly BenchDiagnosis _diagnosis;
    private readonly Hypothesis[] _hypotheses;
    private readonly double[] _prior;
    private readonly Unit[] _units;
    private readonly int[][] _unitsOf;
    private readonly StageRange[] _classes;
    private readonly StageRange[] _notFollowed;
    private readonly bool _tellsPost;
    private readonly double?[] _repeats = new double?[Enum.GetValues<StartKind>().Length + 1];
    private readonly bool _comesAndGoes;
    private readonly bool _startedTwice;

    /// <summary>The forms that the hypotheses are made of, rising; of each hypothesis, their places here.</summary>
    private readonly int[] _players;
    private readonly int[][] _playersOf;

    /// <summary>Of each of them, whether it acts, and by stage the chance of getting past it: for one step after the other.</summary>
    private readonly bool[] _plays;
    private readonly double[] _passes;

    /// <summary>What kills parts, and per spare the odds of what it brings about there.</summary>
    private readonly FaultBelief[] _harmful;
    private readonly Dictionary<(int Culprit, UnitId Spare), double> _harm = [];

    public Beliefs(BenchDiagnosis diagnosis)
    {
        _diagnosis = diagnosis;
        _hypotheses = [.. diagnosis.Hypotheses.Take(MostHypotheses)];
        var total = _hypotheses.Sum(h => h.Probability);
        _prior = [.. _hypotheses.Select(h => h.Probability / total)];
        _units = [.. diagnosis.Suspects.Select(s => s.Unit)];
        var indexOf = _units.Select((u, i) => (u.Id, i)).ToDictionary(p => p.Id, p => p.i);
        int[] unitOf = [.. diagnosis.Faults.Select(f => indexOf[f.Unit.Id])];
        _unitsOf = [.. _hypotheses.Select(h => h.Forms.Select(f => unitOf[diagnosis.Inference.FaultOf[f]]).Distinct().ToArray())];
        _players = [.. _hypotheses.SelectMany(h => h.Forms).Distinct().Order()];
        _playersOf = [.. _hypotheses.Select(h => h.Forms.Select(f => Array.BinarySearch(_players, f)).ToArray())];
        (_plays, _passes) = (new bool[_players.Length], new double[_players.Length * BootStages.Count]);
        _harmful = [.. diagnosis.Suspects.SelectMany(s => s.Faults).Where(b => b.Fault.Mode.Harms.Count > 0)];
        Choice = new Choice(_prior, GroupsByAct(diagnosis));
        _tellsPost =
            diagnosis.Job.Now.Board?.TellsPost == true
            || diagnosis.Job.Trials.Any(t => t.Seen.Low == t.Seen.High && t.Seen.Low is BootStage.RunsNoPost or BootStage.PostNoPicture);
        _classes = Classes(_tellsPost, diagnosis.Job.Goal);
        _notFollowed = [.. _classes.Where(c => c.High < BootStage.OsLoads), new StageRange(BootStage.OsLoads, BootStage.Stable)];
        _comesAndGoes = Intermittence.In(diagnosis.Job) is not null;
        _startedTwice = diagnosis.Job.Trials is [.., var before, var last] && last.Situation.IsSameAs(before.Situation);
    }

    /// <summary>What starting the machine once more as it stands would tell, bits; 0 before the first start.</summary>
    /// <param name="kind">The kind of start.</param>
    private double OfARepeat(StartKind? kind) => _repeats[kind is { } k ? (int)k + 1 : 0] ??= WhatARepeatTells(kind);

    private double WhatARepeatTells(StartKind? kind)
    {
        var now = _diagnosis.Job.Now;
        if (_diagnosis.Job.Trials is not [.., var last] || !last.Situation.IsSameAs(now))
            return 0;
        var chances = StageChances(_diagnosis.Inference.Table.ByRule(now, kind), kind, Ceiling.Of(now));
        return Choice.Gain(new Prospect(1, _comesAndGoes ? Together(chances) : chances));
    }

    /// <summary>Outcomes of several starts in a row up to the first failure: how it failed, or that all passed.</summary>
    private static double[][] Together(double[][] once)
    {
        var pass = once[^1];
        var all = once.Select(_ => new double[pass.Length]).ToArray();
        for (var h = 0; h < pass.Length; h++)
        {
            all[^1][h] = Math.Pow(pass[h], StartsTogether);
            var fails = 1 - pass[h];
            for (var c = 0; c < once.Length - 1; c++)
                all[c][h] = fails <= 0 ? 0 : once[c][h] * (1 - all[^1][h]) / fails;
        }

        return all;
    }

    /// <summary>Per hypothesis, the number of what would be done under it: equal where the same acts deal with its live faults.</summary>
    private int[] GroupsByAct(BenchDiagnosis diagnosis)
    {
        var live = LiveFaults(diagnosis);
        var numberOf = new Dictionary<RepairAct, int>();
        int[] acts = [.. diagnosis.Faults.Select(f => numberOf.TryGetValue(f.Act, out var n) ? n : numberOf[f.Act] = numberOf.Count)];
        var groups = new Dictionary<ValueList<int>, int>();
        return
        [
            .. _hypotheses.Select(h =>
            {
                var key = new ValueList<int>(
                    h.Forms.Select(f => diagnosis.Inference.FaultOf[f]).Where(f => live[f]).Select(f => acts[f]).Distinct().Order()
                );
                return groups.TryGetValue(key, out var g) ? g : groups[key] = groups.Count;
            }),
        ];
    }

    /// <summary>The weighing of steps by what is known.</summary>
    public Choice Choice { get; }

    /// <summary>
    /// Per fault, whether it is what is looked for: it can keep a picture away in the machine as received or as last
    /// failed, or sits in a spare, and is not dealt with.
    /// </summary>
    public static bool[] LiveFaults(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        var settings = new List<Situation> { Situation.AtIntake(job.Now.Parts, job.Intake.Received), job.Now };
        if (job.Trials.LastOrDefault(t => t.Failed) is { } failure)
            settings.Add(failure.Situation);
        var back = job.Now.BackIn(job.Intake.Received);
        return [.. diagnosis.Faults.Select(f => !f.DealtWith(back) && settings.Any(s => Closing.Keeps(f, s, job.Goal)))];
    }

    /// <summary>Weighs a step.</summary>
    public (Assessment Assessment, Prospect Prospect) Assess(Candidate candidate)
    {
        var ceiling = Ceiling.Of(candidate.After);
        var engaged = candidate.Check is null ? _diagnosis.Inference.Table.ByRule(candidate.After, candidate.Kind) : [];
        var chances = candidate.Check is null ? StageChances(engaged, candidate.Kind, ceiling) : FindingChances(candidate);
        // Where it comes and goes one start tells little: a change is taken with the starts that go with it.
        var minutes = Math.Max(0.1, candidate.Weighed);
        var prospect =
            candidate.Check is null && candidate.Changes.Length > 0 && _comesAndGoes
                ? new Prospect(minutes + ((StartsTogether - 1) * _diagnosis.Atlas.Work.Wait.Value), Together(chances))
                : new Prospect(minutes, chances);
        var gain = Choice.Gain(prospect);
        // A change is worth what it tells beyond a plain repeat of the start.
        if (candidate.Check is null && candidate.Changes.Length > 0)
            gain = Math.Max(0, gain - OfARepeat(candidate.Kind));
        var proves = candidate.Check is null ? ProvenBy(engaged, ceiling) : null;
        // Looks tell little each and cost little; they are judged by their rate alone.
        var least =
            candidate.Check is not null ? LeastGain / 4
            : candidate.Changes.Length == 0 && _startedTwice ? LeastGainAgain
            : ceiling.CanReach(_diagnosis.Job.Goal) ? LeastGain
            : LeastGainBlind;
        var whyNot = gain >= least || proves is not null ? WhyNot.WorthIt : WhyNothing(candidate, ceiling, _diagnosis.Job.Goal);
        var assessment = new Assessment(
            candidate,
            ceiling,
            gain,
            proves,
            whyNot,
            () => Outcomes(candidate, chances, ClassesOf(candidate.Kind))
        )
        {
            Risk = candidate.Check is null ? Risk(candidate, engaged) : 0,
            Goal = _diagnosis.Job.Goal,
        };
        return (assessment, prospect);
    }

    private ImmutableArray<Outcome> Outcomes(Candidate candidate, double[][] chances, StageRange[] classes)
    {
        var outcomes = new List<Outcome>();
        for (var o = 0; o < chances.Length; o++)
        {
            var (p, posterior) = Choice.Given(_prior, chances[o]);
            if (p < WorthListing)
                continue;
            outcomes.Add(
                candidate.Check is null
                    ? new Outcome(classes[o], p, Meaning(posterior))
                    : new Outcome(null, p, Meaning(posterior)) { Check = candidate.Check, Found = o == 0 }
            );
        }

        return [.. outcomes.OrderByDescending(o => o.Probability)];
    }

    /// <summary>Minutes to add to a step for the spares that it puts at risk.</summary>
    public static double Penalty(Assessment assessment) => assessment.Risk * SpareMinutes;

    /// <summary>
    /// For each confusion the best step in which every fault that the leading act repairs bites and no other does, or the
    /// other way round.
    /// </summary>
    public ImmutableArray<Separation> Separations(ImmutableArray<Assessment> steps)
    {
        var found = ImmutableArray.CreateBuilder<Separation>();
        foreach (var confusion in _diagnosis.Confusions)
        {
            var leading = confusion.Faults[0].Fault.Act;
            if (steps.FirstOrDefault(a => a.Candidate.Check is null && Separates(a)) is { } step)
                found.Add(new Separation(confusion, step));

            bool Separates(Assessment a)
            {
                var bites = confusion.Faults.ToLookup(b => b.Fault.Act == leading, b => b.Fault.Engaged(a.Candidate.After));
                return bites[true].Min() - bites[false].Max() >= 0.5 || bites[false].Min() - bites[true].Max() >= 0.5;
            }
        }

        return found.ToImmutable();
    }

    private static WhyNot WhyNothing(Candidate candidate, Ceiling ceiling, BootStage goal) =>
        candidate.Check is not null || ceiling.CanReach(goal) ? WhyNot.SuspectsStay : WhyNot.NoPictureWhatever;

    /// <summary>Per outcome class, per hypothesis, the chance of a start, slip included.</summary>
    private double[][] StageChances(double[] byRule, StartKind? kind, Ceiling ceiling)
    {
        var classes = ClassesOf(kind);
        var slip = _diagnosis.Atlas.Slip;
        var weight = TrialModel.Weight(slip);
        Span<double> worthless = stackalloc double[classes.Length];
        for (var c = 0; c < classes.Length; c++)
            worthless[c] = TrialModel.Worthless(classes[c], slip);
        Span<double> healthy = stackalloc double[BootStages.Count];
        for (var s = 0; s < BootStages.Count; s++)
            healthy[s] = ceiling.Reach((BootStage)s);
        Play(byRule, kind);
        var chances = new double[classes.Length][];
        for (var c = 0; c < chances.Length; c++)
            chances[c] = new double[_hypotheses.Length];
        // The last place is what nothing gets past.
        Span<double> reach = stackalloc double[BootStages.Count + 1];
        reach.Clear();
        Span<double> unhindered = stackalloc double[classes.Length];
        healthy.CopyTo(reach);
        for (var c = 0; c < classes.Length; c++)
            unhindered[c] = TrialModel.Seen(reach[(int)classes[c].Low], reach[(int)classes[c].High + 1], weight, worthless[c]);
        for (var h = 0; h < _hypotheses.Length; h++)
        {
            var hindered = false;
            foreach (var f in _playersOf[h])
            {
                if (!_plays[f])
                    continue;
                if (!hindered)
                    healthy.CopyTo(reach);
                hindered = true;
                var own = _passes.AsSpan(f * BootStages.Count, BootStages.Count);
                for (var s = 0; s < own.Length; s++)
                    reach[s] *= own[s];
            }

            for (var c = 0; c < classes.Length; c++)
            {
                chances[c][h] = hindered
                    ? TrialModel.Seen(reach[(int)classes[c].Low], reach[(int)classes[c].High + 1], weight, worthless[c])
                    : unhindered[c];
            }
        }

        return chances;
    }

    /// <summary>Works out, of each form that the hypotheses are made of, how it lets a start pass each stage.</summary>
    private void Play(double[] byRule, StartKind? kind)
    {
        var table = _diagnosis.Inference.Table;
        var goal = (int)_diagnosis.Job.Goal;
        for (var f = 0; f < _players.Length; f++)
        {
            var form = table.Forms[_players[f]];
            var engaged = table.Engaged(_players[f], byRule[form.Fault], kind);
            _plays[f] = engaged > 0;
            for (var s = 0; s < BootStages.Count && _plays[f]; s++)
                _passes[(f * BootStages.Count) + s] =
                    form.Shows is null ? TrialModel.Past(engaged, form.Reach[s])
                    // It comes up, and is seen not to have passed: as if it ended at the last stage before the goal.
                    : s < goal ? form.Reach[s]
                    : TrialModel.Past(engaged, 0);
        }
    }

    private double[][] FindingChances(Candidate candidate)
    {
        var column = EvidenceColumn.OfCheck(_diagnosis.Inference.Table, candidate.Check!, candidate.Checked!.Id, candidate.After, true);
        double[] found = [.. _hypotheses.Select(h => column.Likelihood(h.Forms.AsSpan()))];
        return [found, [.. found.Select(p => 1 - p)]];
    }

    private ImmutableArray<(Unit Unit, double Probability)> Meaning(double[] posterior)
    {
        var sums = new double[_units.Length];
        for (var h = 0; h < posterior.Length; h++)
        {
            foreach (var u in _unitsOf[h])
                sums[u] += posterior[h];
        }

        return
        [
            .. Enumerable
                .Range(0, sums.Length)
                .Where(u => sums[u] >= 0.05)
                .OrderByDescending(u => sums[u])
                .Take(3)
                .Select(u => (_units[u], sums[u])),
        ];
    }

    /// <summary>The suspect whose two-way proof a failure after this step would complete, because a passing trial differs in it
    /// alone.</summary>
    private Unit? ProvenBy(double[] engaged, Ceiling ceiling)
    {
        if (ceiling.Stage < _diagnosis.Job.Goal)
            return null;
        var trials = _diagnosis.Job.Trials;
        for (var t = trials.Length - 1; t >= 0; t--)
        {
            if (!trials[t].Passed)
                continue;
            foreach (var suspect in _diagnosis.Suspects.Take(3))
            {
                var leading = suspect.Leading.Index;
                if (
                    !suspect.Proof.TwoWay
                    && engaged[leading] >= 0.5
                    && engaged[leading] - _diagnosis.Engaged[t][leading] >= 0.5
                    && Proof.OnlyThisUnit(_diagnosis.Engaged[t], engaged, _diagnosis.RuledOut, _diagnosis.Faults, suspect.Unit.Id)
                )
                    return suspect.Unit;
            }
        }

        return null;
    }

    /// <summary>Chance that the step costs a known-good spare: something in the machine that kills parts acts on it.</summary>
    private double Risk(Candidate candidate, double[] engaged)
    {
        if (_harmful.Length == 0)
            return 0;
        var spares = candidate
            .After.Now.At.Values.Select(id => candidate.After.Parts[id])
            .Where(u => u.Origin != Origin.Customer && candidate.Missing?.Id != u.Id)
            .ToArray();
        if (spares.Length == 0)
            return 0;
        var risk = 0.0;
        foreach (var belief in _harmful.Where(b => engaged[b.Index] > 0))
        {
            foreach (var spare in spares.Where(s => s.Id != belief.Fault.Unit.Id))
            {
                var odds = HarmTo(belief, spare);
                risk += belief.Probability * engaged[belief.Index] * odds / (1 + odds);
            }
        }

        return Math.Min(1, risk);
    }

    private double HarmTo(FaultBelief culprit, Unit spare)
    {
        if (_harm.TryGetValue((culprit.Index, spare.Id), out var known))
            return known;
        var harms = culprit.Fault.Mode.Harms;
        return _harm[(culprit.Index, spare.Id)] = _diagnosis
            .Faults.Where(f => f.Unit.Id == spare.Id)
            .Sum(f => harms.GetValueOrDefault(f.Mode.Id));
    }

    /// <summary>What a start of a kind can show: one that nobody follows to its end shows no more than that the machine came up.</summary>
    private StageRange[] ClassesOf(StartKind? kind) => ShowingStart.IsFollowed(kind, _diagnosis.Job) ? _classes : _notFollowed;

    /// <summary>
    /// The outcomes that a technician will tell apart. Stages 4 and 5 are one outcome where nothing tells that POST has
    /// completed; a start is not usually followed further than past what the complaint is about.
    /// </summary>
    private static StageRange[] Classes(bool tellsPost, BootStage goal)
    {
        StageRange[] low =
        [
            StageRange.At(BootStage.NoStandby),
            StageRange.At(BootStage.StandbyOnly),
            StageRange.At(BootStage.CutsOut),
            StageRange.At(BootStage.RestartLoop),
        ];
        StageRange[] middle = tellsPost
            ? [StageRange.At(BootStage.RunsNoPost), StageRange.At(BootStage.PostNoPicture)]
            : [new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture)];
        var above = Enumerable.Range((int)BootStage.Picture, goal - BootStage.Picture).Select(s => StageRange.At((BootStage)s));
        return [.. low, .. middle, .. above, StageRange.AtLeast(goal)];
    }
}
