using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>What a step might show and what that would mean.</summary>
/// <param name="Seen">The stages that would be reached.</param>
/// <param name="Probability">How likely that is, 0 to 1.</param>
/// <param name="Meaning">The units that would then be likeliest, with their probability.</param>
public sealed record Outcome(StageRange Seen, double Probability, ImmutableArray<(Unit Unit, double Probability)> Meaning);

/// <summary>A candidate weighed against the log so far.</summary>
/// <param name="Candidate">The step.</param>
/// <param name="Ceiling">What a healthy machine would reach.</param>
/// <param name="Outcomes">What it may show, likeliest first.</param>
/// <param name="Gain">Expected fall in uncertainty about what to act on, bits, 0 or more.</param>
/// <param name="Proves">The unit whose two-way proof a failure here would complete, or null.</param>
/// <param name="WhyNot">Why the step is not worth taking; null when it is.</param>
public sealed record Assessment(
    Candidate Candidate, Ceiling Ceiling, ImmutableArray<Outcome> Outcomes, double Gain, Unit? Proves, string? WhyNot)
{
    /// <summary>Bits per bench minute.</summary>
    public double Rate => Gain / Candidate.Minutes.Value;

    /// <summary>Why the step is proposed, in words.</summary>
    public string Why { get; init; } = "";
}

/// <summary>What stage of the work the job has come to.</summary>
public enum Phase
{
    /// <summary>Nothing has been tried yet: reproduce the complaint first.</summary>
    Reproduce,
    /// <summary>Narrow down.</summary>
    Narrow,
    /// <summary>One unit stands out; complete the proof.</summary>
    Prove,
    /// <summary>A unit is condemned: replace it, put everything back, prove that it runs.</summary>
    Repair,
    /// <summary>Nothing feasible tells anything more.</summary>
    Stuck,
}

/// <summary>What to do next and why.</summary>
/// <param name="Phase">Where the work stands.</param>
/// <param name="Next">The proposed step; null in <see cref="Phase.Reproduce"/>, <see cref="Phase.Repair"/> and <see cref="Phase.Stuck"/>.</param>
/// <param name="Words">The advice in one sentence.</param>
/// <param name="Alternatives">Other steps that would tell something, best first.</param>
/// <param name="Pointless">Steps that cannot tell anything now, with the reason.</param>
/// <param name="WithAPart">Steps that would tell something if the shop had the part, best first.</param>
public sealed record Advice(
    Phase Phase, Assessment? Next, string Words, ImmutableArray<Assessment> Alternatives,
    ImmutableArray<Assessment> Pointless, ImmutableArray<Assessment> WithAPart)
{
    /// <summary>For faults that look alike so far, the step that tells them apart.</summary>
    public ImmutableArray<Separation> Separations { get; init; } = [];
}

/// <summary>A step that tells apart what no trial so far has told apart.</summary>
/// <param name="Confusion">The faults that look alike.</param>
/// <param name="Step">The step that separates what would be repaired by different acts, cheapest of its kind.</param>
public sealed record Separation(Confusion Confusion, Assessment Step);

/// <summary>Weighs the candidate steps: expected fall in uncertainty about what to act on, per bench minute.</summary>
public static class Planner
{
    /// <summary>Hypotheses that predictions are made from; the rest weighs less than the slip of one trial.</summary>
    private const int MostHypotheses = 800;

    /// <summary>
    /// Bits below which a step is said to tell nothing. A plain repetition is worth about 0.02, since an intermittent
    /// fault may act this time; a step must be worth more than that.
    /// </summary>
    private const double LeastGain = 0.03;

    /// <summary>The same for a step that can give no picture whatever is wrong, whose use is easily overrated.</summary>
    private const double LeastGainBlind = 0.1;

    /// <summary>From here on completing the proof goes before telling the rest apart.</summary>
    private const double WorthProving = 0.8;

    /// <summary>An outcome less likely than this is not listed.</summary>
    private const double WorthListing = 0.01;

    /// <summary>Advice for the job as it stands.</summary>
    public static Advice Advise(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        if (job.Trials.Length == 0)
        {
            return new Advice(Phase.Reproduce, null,
                "Look it over with the power off: every plug, stick and card. Then start it as it came in and record how far it gets.", [], [], []);
        }

        var beliefs = new Beliefs(diagnosis);
        var all = Candidates.From(job, diagnosis.Atlas.Work).Select(beliefs.Assess).ToArray();
        ImmutableArray<Assessment> useful = [.. all.Where(a => a.WhyNot is null && a.Candidate.Missing is null).OrderByDescending(a => a.Rate)];
        ImmutableArray<Assessment> pointless = [.. all.Where(a => a.WhyNot is not null && a.Candidate.Missing is null)];
        ImmutableArray<Assessment> wanted = [.. all.Where(a => a.WhyNot is null && a.Candidate.Missing is not null).OrderByDescending(a => a.Rate)];

        var separations = beliefs.Separations([.. useful, .. wanted]);
        return Ranked(diagnosis, useful, pointless, wanted) with { Separations = separations };
    }

    private static Advice Ranked(
        BenchDiagnosis diagnosis, ImmutableArray<Assessment> useful, ImmutableArray<Assessment> pointless, ImmutableArray<Assessment> wanted)
    {
        var leader = diagnosis.Suspects[0];
        if (leader.Standing == Standing.Condemned)
        {
            return new Advice(Phase.Repair, null,
                $"{leader.Unit.Name} is condemned, proved both ways. Replace it, put everything back, prove that it runs.",
                useful, pointless, wanted);
        }

        if (leader.Probability >= WorthProving
            && useful.Where(a => a.Proves?.Id == leader.Unit.Id).MinBy(a => a.Candidate.Minutes.Value) is { } proof)
        {
            proof = proof with { Why = $"{leader.Unit.Name} is at {Percent.Words(leader.Probability)}, but the proof runs one way only. If the machine fails again with it back and nothing else changed, that is proof." };
            return new Advice(Phase.Prove, proof, $"Prove it: {proof.Candidate.Words}.", useful.RemoveAll(a => a.Candidate == proof.Candidate), pointless, wanted);
        }

        if (useful.Length == 0)
        {
            var words = wanted.Length > 0
                ? $"Nothing at hand tells more. {Capital(wanted[0].Candidate.Missing!.Name)} would: {wanted[0].Candidate.Words}."
                : "Nothing that can be tried here tells more.";
            return new Advice(Phase.Stuck, null, words, useful, pointless, wanted);
        }

        var next = useful[0] with { Why = Reason(useful[0]) };
        return new Advice(Phase.Narrow, next, Capital(next.Candidate.Words) + ".", useful.RemoveAt(0), pointless, wanted);
    }

    /// <summary>The ceiling and the outcomes of any change list, for a step that the technician chooses freely.</summary>
    /// <exception cref="ChangeRefusedException">One of the changes is impossible.</exception>
    public static Assessment Foresee(BenchDiagnosis diagnosis, IReadOnlyList<Change> changes)
    {
        var now = diagnosis.Job.Now;
        var candidate = new Candidate([.. changes], Candidates.Cost(changes, now, diagnosis.Atlas.Work), changes.Any(Candidates.HandsIn), now.After(changes));
        return new Beliefs(diagnosis).Assess(candidate);
    }

    private static string Reason(Assessment a)
    {
        if (a.Outcomes.Length < 2 || a.Outcomes.Any(o => o.Meaning.Length == 0)) return "It tells most for its minutes.";
        var (first, second) = (a.Outcomes[0].Meaning[0], a.Outcomes[1].Meaning[0]);
        return first.Unit.Id != second.Unit.Id
            ? $"It tells {first.Unit.Name} from {second.Unit.Name}."
            : $"It strengthens or weakens the case against {first.Unit.Name}: {Percent.Words(first.Probability)} or {Percent.Words(second.Probability)}.";
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>The leading hypotheses, grouped by what would be done about them.</summary>
    private sealed class Beliefs
    {
        private readonly BenchDiagnosis _diagnosis;
        private readonly Hypothesis[] _hypotheses;
        private readonly double[] _prior;
        private readonly Unit[] _units;
        private readonly int[][] _unitsOf;
        private readonly int[] _actGroup;
        private readonly int _groups;
        private readonly StageRange[] _classes;
        private readonly bool _tellsPost;

        public Beliefs(BenchDiagnosis diagnosis)
        {
            _diagnosis = diagnosis;
            _hypotheses = [.. diagnosis.Hypotheses.Take(MostHypotheses)];
            var total = _hypotheses.Sum(h => h.Probability);
            _prior = [.. _hypotheses.Select(h => h.Probability / total)];
            _units = [.. diagnosis.Suspects.Select(s => s.Unit)];
            var indexOf = _units.Select((u, i) => (u.Id, i)).ToDictionary(p => p.Id, p => p.i);
            int[] unitOf = [.. diagnosis.Faults.Select(f => indexOf[f.Unit.Id])];
            _unitsOf = [.. _hypotheses.Select(h => h.Faults.Select(f => unitOf[f]).Distinct().ToArray())];
            var groups = new Dictionary<string, int>(StringComparer.Ordinal);
            _actGroup = [.. _hypotheses.Select(h => GroupOf(string.Join('+', h.Faults.Select(f => diagnosis.Faults[f].Act).Distinct().Order(StringComparer.Ordinal))))];
            _groups = groups.Count;
            _tellsPost = diagnosis.Job.Now.Board?.TellsPost == true
                || diagnosis.Job.Trials.Any(t => t.Seen.Low == t.Seen.High && t.Seen.Low is BootStage.RunsNoPost or BootStage.PostNoPicture);
            _classes = Classes(_tellsPost);

            int GroupOf(string acts)
            {
                if (!groups.TryGetValue(acts, out var g)) groups[acts] = g = groups.Count;
                return g;
            }
        }

        public Assessment Assess(Candidate candidate)
        {
            var faults = _diagnosis.Faults;
            var ceiling = Ceiling.Of(candidate.After);
            var engaged = new double[faults.Length];
            for (var f = 0; f < engaged.Length; f++) engaged[f] = faults[f].Engaged(candidate.After);

            var chances = Chances(engaged, ceiling);
            var before = Entropy(_prior);
            var after = 0.0;
            var outcomes = ImmutableArray.CreateBuilder<Outcome>();
            for (var c = 0; c < _classes.Length; c++)
            {
                var joint = chances[c];
                var p = joint.Sum();
                if (p <= 0) continue;
                for (var h = 0; h < joint.Length; h++) joint[h] /= p;
                after += p * Entropy(joint);
                if (p >= WorthListing) outcomes.Add(new Outcome(_classes[c], p, Meaning(joint)));
            }

            var gain = Math.Max(0, before - after);
            var proves = ProvenBy(candidate, engaged, ceiling);
            var whyNot = gain >= (ceiling.CanShowPicture ? LeastGain : LeastGainBlind) || proves is not null ? null : WhyNothing(ceiling);
            return new Assessment(candidate, ceiling, [.. outcomes.OrderByDescending(o => o.Probability)], gain, proves, whyNot);
        }

        /// <summary>
        /// For each confusion the best step in which every fault that the leading act repairs bites and no other
        /// does, or the other way round.
        /// </summary>
        public ImmutableArray<Separation> Separations(ImmutableArray<Assessment> steps)
        {
            var found = ImmutableArray.CreateBuilder<Separation>();
            foreach (var confusion in _diagnosis.Confusions)
            {
                var leading = confusion.Faults[0].Fault.Act;
                if (steps.FirstOrDefault(Separates) is { } step) found.Add(new Separation(confusion, step));

                bool Separates(Assessment a)
                {
                    var bites = confusion.Faults.ToLookup(b => b.Fault.Act == leading, b => b.Fault.Engaged(a.Candidate.After));
                    return bites[true].Min() - bites[false].Max() >= 0.5 || bites[false].Min() - bites[true].Max() >= 0.5;
                }
            }

            return found.ToImmutable();
        }

        private static string WhyNothing(Ceiling ceiling) => ceiling.CanShowPicture
            ? "Whatever it shows, the suspects stay as they are."
            : $"It can give no picture whatever is wrong: {string.Join("; ", ceiling.Reasons)}.";

        /// <summary>Per outcome class, per hypothesis: chance of both, slip included.</summary>
        private double[][] Chances(double[] engaged, Ceiling ceiling)
        {
            var slip = _diagnosis.Atlas.Slip;
            var joint = _classes.Select(_ => new double[_hypotheses.Length]).ToArray();
            Span<double> healthy = stackalloc double[BootStages.Count];
            for (var s = 0; s < BootStages.Count; s++) healthy[s] = ceiling.Reach((BootStage)s);
            Span<double> reach = stackalloc double[BootStages.Count + 1];
            for (var h = 0; h < _hypotheses.Length; h++)
            {
                healthy.CopyTo(reach);
                reach[^1] = 0;
                foreach (var f in _hypotheses[h].Faults)
                {
                    var e = engaged[f];
                    if (e <= 0) continue;
                    var own = _diagnosis.Faults[f].Mode.Reach;
                    for (var s = 0; s < BootStages.Count; s++) reach[s] *= 1 - e + (e * own[s]);
                }

                for (var c = 0; c < _classes.Length; c++)
                {
                    var seen = _classes[c];
                    var chance = ((1 - slip) * (reach[(int)seen.Low] - reach[(int)seen.High + 1])) + (slip * seen.Width / BootStages.Count);
                    joint[c][h] = chance * _prior[h];
                }
            }

            return joint;
        }

        private double Entropy(double[] probabilities)
        {
            Span<double> groups = stackalloc double[_groups];
            for (var h = 0; h < probabilities.Length; h++) groups[_actGroup[h]] += probabilities[h];
            var bits = 0.0;
            foreach (var g in groups)
            {
                if (g > 0) bits -= g * Math.Log2(g);
            }

            return bits;
        }

        private ImmutableArray<(Unit Unit, double Probability)> Meaning(double[] posterior)
        {
            var sums = new double[_units.Length];
            for (var h = 0; h < posterior.Length; h++)
            {
                foreach (var u in _unitsOf[h]) sums[u] += posterior[h];
            }

            return
            [
                .. Enumerable.Range(0, sums.Length).Where(u => sums[u] >= 0.05).OrderByDescending(u => sums[u]).Take(3)
                    .Select(u => (_units[u], sums[u])),
            ];
        }

        /// <summary>The suspect that a failure after this step would prove, because the last passing trial differs in it alone.</summary>
        private Unit? ProvenBy(Candidate candidate, double[] engaged, Ceiling ceiling)
        {
            if (ceiling.Stage < BootStage.Picture) return null;
            for (var t = _diagnosis.Job.Trials.Length - 1; t >= 0; t--)
            {
                if (!_diagnosis.Job.Trials[t].Seen.ShowsPicture) continue;
                foreach (var suspect in _diagnosis.Suspects.Take(3))
                {
                    if (suspect.Proof.PutBack is null && engaged[suspect.Leading.Index] >= 0.5
                        && Proof.OnlyThisUnit(_diagnosis.Engaged[t], engaged, _diagnosis.Passed, _diagnosis.Faults, suspect.Unit.Id))
                        return suspect.Unit;
                }
            }

            return null;
        }

        /// <summary>
        /// The outcomes that a technician will tell apart. Stages 4 and 5 are one outcome where nothing tells that POST has
        /// completed; a picture is not usually followed further while the complaint is "no picture".
        /// </summary>
        private static StageRange[] Classes(bool tellsPost)
        {
            StageRange[] low = [StageRange.At(BootStage.NoStandby), StageRange.At(BootStage.StandbyOnly), StageRange.At(BootStage.CutsOut), StageRange.At(BootStage.RestartLoop)];
            StageRange[] middle = tellsPost
                ? [StageRange.At(BootStage.RunsNoPost), StageRange.At(BootStage.PostNoPicture)]
                : [new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture)];
            return [.. low, .. middle, StageRange.AtLeast(BootStage.Picture)];
        }
    }
}
