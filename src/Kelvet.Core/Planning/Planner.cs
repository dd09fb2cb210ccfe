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
    /// <summary>A unit is certain enough: mend or replace it.</summary>
    Repair,
    /// <summary>What is likely can neither be proved nor replaced with what is at hand: get the part.</summary>
    Order,
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
/// <param name="Next">The proposed step; null in <see cref="Phase.Reproduce"/>, <see cref="Phase.Order"/>, <see cref="Phase.Done"/>, <see cref="Phase.Stuck"/>, and in <see cref="Phase.Repair"/> while the part is missing.</param>
/// <param name="Words">The advice in one sentence.</param>
/// <param name="Alternatives">Other steps that would tell something, best first.</param>
/// <param name="Pointless">Steps that cannot tell anything now, with the reason.</param>
/// <param name="WithAPart">Steps that would tell something if the shop had the part, best first.</param>
public sealed record Advice(
    Phase Phase, Assessment? Next, string Words, ImmutableArray<Assessment> Alternatives,
    ImmutableArray<Assessment> Pointless, ImmutableArray<Assessment> WithAPart)
{
    /// <summary>The part that must be got before the work goes on; null when there is something to do without.</summary>
    public Unit? Missing { get; init; }

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

    /// <summary>When nothing tells more, the likeliest unit is dealt with from here on.</summary>
    private const double WorthActingOn = 0.3;

    /// <summary>Minutes that getting a part is taken to cost when it is weighed against steps at hand.</summary>
    private const double PartMinutes = 12;

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
        var advice = Closing.Of(diagnosis) is { } move ? Moving(move) : Narrowing();
        return advice with
        {
            Separations = beliefs.Separations([.. ranked, .. wanted]),
            Economy = Economy.Of(diagnosis, beliefs.Choice.Uncertainty, advice.Next ?? ranked.FirstOrDefault(), preferences),
        };

        Advice Moving(Move move) => new(
            move.Phase, move.Step is { } step ? beliefs.Assess(step).Assessment with { WhyNot = null, Why = move.Why } : null, move.Words,
            ranked.RemoveAll(a => a.Candidate.Key == move.Step?.Key), pointless, wanted)
        { Missing = move.Missing };

        Advice Narrowing()
        {
            Assessment? next;
            if (Proving() is { } proof) return proof;
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
                var telling = useful.Select(a => a.Assessment.Candidate).ToHashSet();
                var chosen = school.Next(job, telling, telling.Contains);
                next = chosen is null ? ranked.FirstOrDefault() : all.Select(a => a.Assessment).First(a => a.Candidate == chosen);
                if (next is not null) next = next with { Why = $"Next in the order of \"{school.Name}\". {Reason(next)}" };
            }

            if (next is not null)
                return new Advice(Phase.Narrow, next, Capital(next.Candidate.Words) + ".", ranked.RemoveAll(a => a.Candidate == next.Candidate), pointless, wanted);
            if (wanted.Length == 0 && Closing.AgainstTheLikeliest(diagnosis, WorthActingOn) is { } move) return Moving(move);
            if (!job.Trials[^1].Seen.ShowsPicture && StillThere(diagnosis, job.Now.Now) < Closing.WorthTryingTogether)
            {
                var again = beliefs.Assess(Candidates.Of([], job.Now, job.Now, diagnosis.Atlas)).Assessment with { WhyNot = null, Why = "The last start failed, and nothing left explains it: it may have been mis-seen." };
                return new Advice(Phase.ProveRuns, again, "Start it again, and watch closely.", ranked, pointless, wanted);
            }

            var words = wanted.Length > 0
                ? $"Nothing at hand tells more. {Capital(wanted[0].Candidate.Missing!.Name)} would: {wanted[0].Candidate.Words}."
                : "Nothing that can be tried here tells more.";
            return new Advice(Phase.Stuck, null, words, ranked, pointless, wanted);
        }

        Advice? Proving()
        {
            foreach (var suspect in diagnosis.Suspects.Where(s => s.Probability >= WorthProving && !IsSettled(diagnosis, s)))
            {
                if (ranked.Where(a => a.Proves?.Id == suspect.Unit.Id).MinBy(a => a.Candidate.Minutes.Value) is not { } step) continue;
                step = step with { Why = $"{suspect.Unit.Name} is at {Percent.Words(suspect.Probability)}, but the proof runs one way only. If the machine fails again with it back and nothing else changed, that is proof." };
                return new Advice(Phase.Prove, step, $"Prove it: {step.Candidate.Words}.", ranked.RemoveAll(a => a.Candidate == step.Candidate), pointless, wanted);
            }

            return null;
        }
    }

    /// <summary>
    /// The next step alone, without weighing what does not matter for it: for simulations, which take thousands.
    /// The step is null when there is none or the job is done; Missing is the part that would help then.
    /// </summary>
    public static (Phase Phase, Candidate? Step, Unit? Missing) NextStep(BenchDiagnosis diagnosis, School school, Preferences preferences)
    {
        if (Closing.Of(diagnosis) is { } move) return (move.Phase, move.Step, move.Missing);
        if (!school.WeighsEverything)
        {
            var beliefs = new Beliefs(diagnosis);
            var candidates = preferences.Allowed(diagnosis, Candidates.From(diagnosis.Job, diagnosis.Atlas)).Where(c => c.Missing is null);
            if (school.Next(diagnosis.Job, candidates, c => beliefs.Assess(c).Assessment.WhyNot is null) is { } next) return (Phase.Narrow, next, null);
        }

        var advice = Advise(diagnosis, school, preferences);
        return (advice.Phase, advice.Next?.Candidate, advice.Next is null ? advice.Missing ?? advice.WithAPart.FirstOrDefault()?.Candidate.Missing : null);
    }

    /// <summary>Whether nothing more is to be done about a unit: what is wrong with it is dealt with, or it is out and stays out.</summary>
    public static bool IsSettled(BenchDiagnosis diagnosis, Suspect suspect) => Closing.IsSettled(diagnosis, suspect);

    /// <summary>As received, but with another part of its kind in the place of each unit that is settled and out.</summary>
    public static Configuration Repaired(BenchDiagnosis diagnosis) => Closing.Repaired(diagnosis);

    /// <summary>Chance, 0 to 1, that the machine, arranged so, has a fault that is not dealt with and keeps a picture away.</summary>
    public static double StillThere(BenchDiagnosis diagnosis, Configuration arrangement) => Closing.StillThere(diagnosis, arrangement);

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
        // What stands the same either way is not what the step is taken for.
        var told = a.Outcomes[0].Meaning.Zip(a.Outcomes[1].Meaning).SkipWhile(m => m.First.Unit.Id == m.Second.Unit.Id && Percent.Words(m.First.Probability) == Percent.Words(m.Second.Probability)).ToArray();
        if (told.Length == 0) return "It tells most for its minutes.";
        var (first, second) = told[0];
        return first.Unit.Id != second.Unit.Id
            ? $"It tells {first.Unit.Name} from {second.Unit.Name}."
            : $"It strengthens or weakens the case against {first.Unit.Name}: {Percent.Words(first.Probability)} or {Percent.Words(second.Probability)}.";
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];
}
