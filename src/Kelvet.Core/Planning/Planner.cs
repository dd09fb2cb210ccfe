using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>What a step might show and what that would mean.</summary>
/// <param name="Seen">The stages that would be reached; null for a finding.</param>
/// <param name="Probability">How likely that is, 0 to 1.</param>
/// <param name="Meaning">The units that would then be likeliest, with their probability.</param>
public sealed record Outcome(StageRange? Seen, double Probability, ImmutableArray<(Unit Unit, double Probability)> Meaning)
{
    /// <summary>What a check would show; empty for a start-up.</summary>
    public string Finding { get; init; } = "";

    /// <summary>Whether that is the finding itself, as against its absence.</summary>
    public bool Found { get; init; }

    /// <summary>The outcome in words.</summary>
    public string Words => Seen?.Words() ?? Finding;
}

/// <summary>A candidate weighed against the log so far.</summary>
/// <param name="Candidate">The step.</param>
/// <param name="Ceiling">What a healthy machine would reach.</param>
/// <param name="Gain">Expected fall in uncertainty about what to act on, bits, 0 or more.</param>
/// <param name="Proves">The unit whose two-way proof a failure here would complete, or null.</param>
/// <param name="WhyNot">Why the step is not worth taking; null when it is.</param>
public sealed record Assessment(Candidate Candidate, Ceiling Ceiling, double Gain, Unit? Proves, string? WhyNot)
{
    private readonly Lazy<ImmutableArray<Outcome>> _outcomes = new([]);

    /// <summary>What it may show, likeliest first.</summary>
    public ImmutableArray<Outcome> Outcomes => _outcomes.Value;

    internal Assessment(Candidate candidate, Ceiling ceiling, double gain, Unit? proves, string? whyNot, Func<ImmutableArray<Outcome>> outcomes)
        : this(candidate, ceiling, gain, proves, whyNot) => _outcomes = new Lazy<ImmutableArray<Outcome>>(outcomes);

    /// <summary>Bits per bench minute.</summary>
    public double Rate => Gain / Candidate.Minutes.Value;

    /// <summary>Chance, 0 to 1, that the step costs a known-good spare.</summary>
    public double Risk { get; init; }

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
    /// <summary>The fault is settled and the machine runs: put the customer's parts back.</summary>
    PutBack,
    /// <summary>All is back and it runs: start it until what may be left is unlikely.</summary>
    ProveRuns,
    /// <summary>It runs as received, repaired, and nothing is likely to be left.</summary>
    Done,
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

    /// <summary>What the search has cost and may still cost, against the part.</summary>
    public Economy? Economy { get; init; }
}

/// <summary>A step that tells apart what no trial so far has told apart.</summary>
/// <param name="Confusion">The faults that look alike.</param>
/// <param name="Step">The step that separates what would be repaired by different acts, cheapest of its kind.</param>
public sealed record Separation(Confusion Confusion, Assessment Step);

/// <summary>Weighs the candidate steps: expected fall in uncertainty about what to act on, per bench minute.</summary>
public static class Planner
{
    /// <summary>From here on completing the proof goes before telling the rest apart.</summary>
    private const double WorthProving = 0.8;

    /// <summary>Chance that a live fault is still there below which a machine that passes is taken to be repaired.</summary>
    public const double StillLikely = 0.012;

    /// <summary>Advice for the job as it stands.</summary>
    /// <param name="diagnosis">The log so far.</param>
    /// <param name="school">The order of work; the advisor when null.</param>
    /// <param name="preferences">Where practitioners differ; the usual when null.</param>
    public static Advice Advise(BenchDiagnosis diagnosis, School? school = null, Preferences? preferences = null)
    {
        school ??= School.Advisor;
        preferences ??= Preferences.Usual;
        var job = diagnosis.Job;
        if (job.Trials.Length == 0)
        {
            return new Advice(Phase.Reproduce, null,
                "Look it over with the power off: every plug, stick and card. Then start it as it came in and record how far it gets.", [], [], []);
        }

        var beliefs = new Beliefs(diagnosis);
        var all = preferences.Allowed(diagnosis, Candidates.From(job, diagnosis.Atlas)).Select(beliefs.Assess).ToArray();
        var useful = all.Where(a => a.Assessment is { WhyNot: null, Candidate.Missing: null }).OrderByDescending(a => a.Assessment.Rate).ToArray();
        ImmutableArray<Assessment> pointless = [.. all.Select(a => a.Assessment).Where(a => a.WhyNot is not null && a.Candidate.Missing is null)];
        ImmutableArray<Assessment> wanted = [.. all.Select(a => a.Assessment).Where(a => a.WhyNot is null && a.Candidate.Missing is not null).OrderByDescending(a => a.Rate)];
        ImmutableArray<Assessment> ranked = [.. useful.Select(a => a.Assessment)];
        var advice = Closing(diagnosis, beliefs, ranked, pointless, wanted) ?? Narrowing();
        return advice with
        {
            Separations = beliefs.Separations([.. ranked, .. wanted]),
            Economy = Economy.Of(diagnosis, beliefs.Choice.Uncertainty, advice.Next ?? ranked.FirstOrDefault(), preferences),
        };

        Advice Narrowing()
        {
            Assessment? next;
            if (preferences.First(diagnosis, all.Select(a => a.Assessment)) is { } preferred)
            {
                next = preferred with { Why = "This shop does it first." };
            }
            else if (school.WeighsEverything)
            {
                var best = beliefs.Choice.Best([.. useful.Select(a => a.Prospect)], [.. useful.Select(a => a.Assessment.Gain)], [.. useful.Select(a => Beliefs.Penalty(a.Assessment))]);
                next = best < 0 ? null : ranked[best] with { Why = Reason(ranked[best]) };
                if (next is not null && wanted.Length > 0 && wanted[0].Gain / (wanted[0].Candidate.Minutes.Value + PartMinutes) > next.Rate)
                {
                    return new Advice(Phase.Stuck, null,
                        $"{Capital(wanted[0].Candidate.Missing!.Name)} would tell more than anything at hand: {wanted[0].Candidate.Words}.", ranked, pointless, wanted);
                }
            }
            else
            {
                var chosen = school.Next(job, all.Select(a => a.Assessment.Candidate).Where(c => c.Missing is null));
                next = chosen is null ? ranked.FirstOrDefault() : all.Select(a => a.Assessment).First(a => a.Candidate == chosen);
                if (next is not null) next = next with { Why = $"Next in the order of \"{school.Name}\". {Reason(next)}" };
            }

            if (next is not null)
                return new Advice(Phase.Narrow, next, Capital(next.Candidate.Words) + ".", ranked.RemoveAll(a => a.Candidate == next.Candidate), pointless, wanted);
            if (!job.Trials[^1].Seen.ShowsPicture && StillThere(diagnosis, job.Now.Now) < WorthTryingTogether)
            {
                var again = beliefs.Assess(Candidates.Of([], job.Now, job.Now, diagnosis.Atlas)).Assessment with { WhyNot = null, Why = "The last start failed, and nothing left explains it: it may have been mis-seen." };
                return new Advice(Phase.ProveRuns, again, "Start it again, and watch closely.", ranked, pointless, wanted);
            }

            var words = wanted.Length > 0
                ? $"Nothing at hand tells more. {Capital(wanted[0].Candidate.Missing!.Name)} would: {wanted[0].Candidate.Words}."
                : "Nothing that can be tried here tells more.";
            return new Advice(Phase.Stuck, null, words, ranked, pointless, wanted);
        }
    }

    /// <summary>
    /// Advice when one unit stands out or the machine runs: repair what is condemned, complete the proof, put everything
    /// back, prove that it runs.
    /// </summary>
    private static Advice? Closing(
        BenchDiagnosis diagnosis, Beliefs beliefs, ImmutableArray<Assessment> useful, ImmutableArray<Assessment> pointless, ImmutableArray<Assessment> wanted)
    {
        if (diagnosis.Suspects.FirstOrDefault(s => !IsSettled(diagnosis, s)) is { } leader)
        {
            if (leader.Standing == Standing.Condemned)
            {
                return new Advice(Phase.Repair, null,
                    $"{leader.Unit.Name} is condemned, proved both ways. {(leader.Leading.Fault.Mode.Cure == Cure.Replace ? "Replace it, put" : "Put")} everything back, prove that it runs.",
                    useful, pointless, wanted);
            }

            if (leader.Probability >= WorthProving
                && useful.Where(a => a.Proves?.Id == leader.Unit.Id).MinBy(a => a.Candidate.Minutes.Value) is { } proof)
            {
                proof = proof with { Why = $"{leader.Unit.Name} is at {Percent.Words(leader.Probability)}, but the proof runs one way only. If the machine fails again with it back and nothing else changed, that is proof." };
                return new Advice(Phase.Prove, proof, $"Prove it: {proof.Candidate.Words}.", useful.RemoveAll(a => a.Candidate == proof.Candidate), pointless, wanted);
            }
        }

        if (!diagnosis.Job.Trials[^1].Seen.ShowsPicture) return null;
        var now = diagnosis.Job.Now;
        var target = Repaired(diagnosis);
        if (!now.Now.Equals(target))
        {
            if (StillThere(diagnosis, target) >= WorthTryingTogether || Transition.Between(now, target) is not { } back) return null;
            return Proposed(Phase.PutBack, [.. back], "Put the rest back and start it", "What was found is dealt with; the rest goes back as it was received, and the whole machine is tried.");
        }

        var left = StillThere(diagnosis, target);
        if (left >= StillLikely)
            return left >= WorthTryingTogether ? null : Proposed(Phase.ProveRuns, [], "Start it again", $"It runs as received; one more clean start brings what may be left under {Percent.Words(left)}.");
        return new Advice(Phase.Done, null, $"It runs, everything in place; the chance that something is left is {Percent.Words(left)}. Close the job.", useful, pointless, wanted);

        Advice Proposed(Phase phase, IReadOnlyList<Change> changes, string words, string why)
        {
            var step = beliefs.Assess(Candidates.Of(changes, now, now.After(changes), diagnosis.Atlas)).Assessment with { WhyNot = null, Why = why };
            return new Advice(phase, step, changes.Count == 0 ? words + "." : $"{words}: {step.Candidate.Words}.", useful, pointless, wanted);
        }
    }

    /// <summary>
    /// Whether nothing more is to be done about a unit: it is condemned and out of the machine, or it stands at 95 % and
    /// what is wrong with it is dealt with.
    /// </summary>
    public static bool IsSettled(BenchDiagnosis diagnosis, Suspect suspect)
    {
        if (suspect.Probability < BenchDiagnosis.Certain) return false;
        return diagnosis.Job.Now.Now.Has(suspect.Unit.Id)
            ? suspect.Leading.Fault.DealtWith(diagnosis.Job.Now)
            : suspect.Standing == Standing.Condemned || suspect.Unit.Origin != Origin.Customer;
    }

    /// <summary>As received, but with another part of its kind in the place of each unit that is settled and out.</summary>
    public static Configuration Repaired(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        var target = job.Intake.Received;
        foreach (var suspect in diagnosis.Suspects.Where(s => !job.Now.Now.Has(s.Unit.Id) && IsSettled(diagnosis, s)))
        {
            if (target.PlaceOf(suspect.Unit.Id) is not { } place) continue;
            target = target.WithUnit(place, null);
            var standIn = diagnosis.Suspects
                .Where(s => s.Unit.Kind == suspect.Unit.Kind && s.Unit.Origin != Origin.Customer && s.Probability < BenchDiagnosis.Accused
                    && target.PlaceOf(s.Unit.Id) is null && Situation.WhyUnfit(s.Unit, place, job.Now.Board) is null)
                .OrderByDescending(s => s.Unit.Origin == Origin.New).ThenByDescending(s => job.Now.Now[place] == s.Unit.Id).ThenByDescending(s => job.Now.Now.Has(s.Unit.Id))
                .FirstOrDefault();
            if (standIn is not null) target = target.WithUnit(place, standIn.Unit.Id);
        }

        if (target.Display is { Source.Kind: PlaceKind.Card } shown && target[shown.Source] is { } card && job.Now.Parts[card] is GraphicsCard g && g.Outputs.All(o => o.Name != shown.Output))
            target = target.WithDisplay(shown with { Output = g.Outputs[0].Name });
        return target;
    }

    /// <summary>Minutes that getting a part is taken to cost when it is weighed against steps at hand.</summary>
    private const double PartMinutes = 12;

    /// <summary>Chance of a fault that is still there below which the machine is put back together to be tried whole.</summary>
    private const double WorthTryingTogether = 0.35;

    /// <summary>Chance that a fault which keeps a picture away is in one of the units of an arrangement and not dealt with.</summary>
    public static double StillThere(BenchDiagnosis diagnosis, Configuration arrangement)
    {
        var live = Beliefs.LiveFaults(diagnosis);
        for (var f = 0; f < live.Length; f++) live[f] &= arrangement.Has(diagnosis.Faults[f].Unit.Id);
        return diagnosis.Hypotheses.Where(h => h.Faults.Any(f => live[f])).Sum(h => h.Probability) / diagnosis.Hypotheses.Sum(h => h.Probability);
    }

    /// <summary>
    /// The next step alone, without weighing what does not matter for it: for simulations, which take thousands.
    /// The step is null when there is none, a unit is condemned, or the job is done; Missing is the part that would help then.
    /// </summary>
    public static (Phase Phase, Candidate? Step, Unit? Missing) NextStep(BenchDiagnosis diagnosis, School school, Preferences preferences)
    {
        if (!school.WeighsEverything && diagnosis.Suspects[0].Probability < WorthProving && !diagnosis.Job.Trials[^1].Seen.ShowsPicture)
        {
            var candidates = preferences.Allowed(diagnosis, Candidates.From(diagnosis.Job, diagnosis.Atlas)).Where(c => c.Missing is null);
            if (school.Next(diagnosis.Job, candidates) is { } next) return (Phase.Narrow, next, null);
        }

        var advice = Advise(diagnosis, school, preferences);
        return (advice.Phase, advice.Next?.Candidate, advice.WithAPart.FirstOrDefault()?.Candidate.Missing);
    }

    /// <summary>The ceiling and the outcomes of any change list, for a step that the technician chooses freely.</summary>
    /// <exception cref="ChangeRefusedException">One of the changes is impossible.</exception>
    public static Assessment Foresee(BenchDiagnosis diagnosis, IReadOnlyList<Change> changes)
    {
        var now = diagnosis.Job.Now;
        return new Beliefs(diagnosis).Assess(Candidates.Of(changes, now, now.After(changes), diagnosis.Atlas)).Assessment;
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
}
