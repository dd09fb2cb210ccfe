using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>What a step might show and what that would mean.</summary>
/// <param name="Seen">The stages that would be reached; null for a finding.</param>
/// <param name="Probability">How likely that is, 0 to 1.</param>
/// <param name="Meaning">The units that would then be likeliest, with their probability.</param>
public sealed record Outcome(StageRange? Seen, double Probability, ImmutableArray<(Unit Unit, double Probability)> Meaning)
{
    /// <summary>The check whose outcome it is; null for a start-up.</summary>
    public Check? Check { get; init; }

    /// <summary>Whether the check finds what it looks for, as against its absence.</summary>
    public bool Found { get; init; }
}

/// <summary>Why a step is not worth taking.</summary>
public enum WhyNot
{
    /// <summary>It is.</summary>
    WorthIt,

    /// <summary>Whatever it shows, the suspects stay as they are.</summary>
    SuspectsStay,

    /// <summary>It can give no picture whatever is wrong.</summary>
    NoPictureWhatever,
}

/// <summary>A candidate weighed against the log so far.</summary>
/// <param name="Candidate">The step.</param>
/// <param name="Ceiling">What a healthy machine would reach.</param>
/// <param name="Gain">Expected fall in uncertainty about what to act on, bits, 0 or more.</param>
/// <param name="Proves">The unit whose two-way proof a failure here would complete, or null.</param>
/// <param name="WhyNot">Why the step is not worth taking.</param>
public sealed record Assessment(Candidate Candidate, Ceiling Ceiling, double Gain, Unit? Proves, WhyNot WhyNot)
{
    private readonly Lazy<ImmutableArray<Outcome>> _outcomes = new([]);

    /// <summary>What it may show, likeliest first.</summary>
    public ImmutableArray<Outcome> Outcomes => _outcomes.Value;

    internal Assessment(
        Candidate candidate,
        Ceiling ceiling,
        double gain,
        Unit? proves,
        WhyNot whyNot,
        Func<ImmutableArray<Outcome>> outcomes
    )
        : this(candidate, ceiling, gain, proves, whyNot) => _outcomes = new Lazy<ImmutableArray<Outcome>>(outcomes);

    /// <summary>Bits per bench minute.</summary>
    public double Rate => Gain / Candidate.Weighed;

    /// <summary>What the machine is to reach, so that an outcome below it is a failure.</summary>
    public BootStage Goal { get; init; } = BootStage.Picture;

    /// <summary>
    /// Whether an outcome is one that passes, or that nobody followed far enough to see it fail; of a look, that it finds nothing.
    /// </summary>
    public bool IsGood(Outcome outcome) => outcome.Seen is { } seen ? seen.High >= Goal : !outcome.Found;

    /// <summary>Chance, 0 to 1, that the step costs a known-good spare.</summary>
    public double Risk { get; init; }
}

/// <summary>What to do next, with everything that was weighed for it.</summary>
/// <param name="Decision">What to do and why.</param>
/// <param name="Next">The step weighed; null when there is none.</param>
/// <param name="Alternatives">Other steps that would tell something, best first.</param>
/// <param name="Pointless">Steps that cannot tell anything now, with the reason.</param>
/// <param name="WithAPart">Steps that would tell something if the shop had the part, best first.</param>
public sealed record Advice(
    Decision Decision,
    Assessment? Next,
    ImmutableArray<Assessment> Alternatives,
    ImmutableArray<Assessment> Pointless,
    ImmutableArray<Assessment> WithAPart
)
{
    /// <summary>Where the work stands.</summary>
    public Phase Phase => Decision.Phase;

    /// <summary>The part that must be got before the work goes on; null when there is something to do without.</summary>
    public Unit? Missing => Decision.Missing;

    /// <summary>The units of the job, by which two of one name are told apart.</summary>
    public Parts Parts { get; init; } = Parts.None;

    /// <summary>The order of work that was followed.</summary>
    public required School School { get; init; }

    /// <summary>For faults that look alike so far, the step that tells them apart.</summary>
    public ImmutableArray<Separation> Separations { get; init; } = [];

    /// <summary>For parts that are half proved and out, what the other half costs against the price of being wrong.</summary>
    public ImmutableArray<ProofPrice> Proofs { get; init; } = [];

    /// <summary>What the search has cost and may still cost, against the part.</summary>
    public Economy? Economy { get; init; }
}

/// <summary>A step that tells apart what no trial so far has told apart.</summary>
/// <param name="Confusion">The faults that look alike.</param>
/// <param name="Step">The step that separates what would be repaired by different acts, cheapest of its kind.</param>
public sealed record Separation(Confusion Confusion, Assessment Step);

/// <summary>Says what to do next. The bench shows what <see cref="Policy"/> decides, and the simulation plays the same.</summary>
public static class Planner
{
    /// <summary>Advice for the job as it stands.</summary>
    /// <param name="diagnosis">The log so far.</param>
    /// <param name="school">The order of work; the advisor when null.</param>
    /// <param name="preferences">Where practitioners differ; the usual when null.</param>
    public static Advice Advise(BenchDiagnosis diagnosis, School? school = null, Preferences? preferences = null)
    {
        school ??= School.Advisor;
        preferences ??= Preferences.Usual;
        var policy = new Policy(diagnosis, school, preferences);
        var decision = policy.Decide();
        if (diagnosis.Job.Trials.Length == 0 && decision.Phase == Phase.Reproduce)
            return new Advice(decision, null, [], [], []) { School = school, Parts = diagnosis.Job.Now.Parts };
        var next = decision.Step is { } step ? policy.Weighed(step) with { WhyNot = WhyNot.WorthIt } : null;
        var others = policy.Ranked.RemoveAll(a => a.Candidate.Key == decision.Step?.Key);
        return new Advice(decision, next, others, policy.Pointless, policy.WithAPart)
        {
            School = school,
            Parts = diagnosis.Job.Now.Parts,
            Separations = policy.Beliefs.Separations([.. policy.Ranked, .. policy.WithAPart]),
            Proofs = [.. ProofPrice.Of(diagnosis, preferences)],
            Economy = Economy.Of(diagnosis, policy.Beliefs.Choice.Uncertainty, next ?? policy.Ranked.FirstOrDefault(), preferences),
        };
    }

    /// <summary>The decision alone, without weighing what does not matter for it: for simulations, which take thousands.</summary>
    public static Decision Decide(BenchDiagnosis diagnosis, School school, Preferences preferences) =>
        new Policy(diagnosis, school, preferences).Decide();

    /// <summary>Whether nothing more is to be done about a unit: what is wrong with it is dealt with, or it is out and stays out.</summary>
    public static bool IsSettled(BenchDiagnosis diagnosis, Suspect suspect, Preferences? preferences = null) =>
        new Closing(diagnosis, preferences ?? Preferences.Usual).IsSettled(suspect);

    /// <summary>As received, but with another part of its kind in the place of each unit that is settled and out.</summary>
    public static Configuration Repaired(BenchDiagnosis diagnosis, Preferences? preferences = null) =>
        new Closing(diagnosis, preferences ?? Preferences.Usual).Repaired();

    /// <summary>Chance, 0 to 1, that the machine, arranged so, has a fault that is not dealt with and keeps a picture away.</summary>
    public static double StillThere(BenchDiagnosis diagnosis, Configuration arrangement) => Closing.StillThere(diagnosis, arrangement);

    /// <summary>The ceiling and the outcomes of any change list, for a step that the technician chooses freely.</summary>
    /// <exception cref="ChangeRefusedException">One of the changes is impossible.</exception>
    public static Assessment Foresee(BenchDiagnosis diagnosis, IReadOnlyList<Change> changes)
    {
        var now = diagnosis.Job.Now;
        return new Beliefs(diagnosis).Assess(Candidates.Of(changes, now, now.After(changes), diagnosis.Atlas)).Assessment;
    }

    /// <summary>What a step may show, with the kind of start that it has.</summary>
    public static Assessment Foresee(BenchDiagnosis diagnosis, Candidate step) => new Beliefs(diagnosis).Assess(step).Assessment;
}
