using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Diagnosis;

/// <summary>
/// A log read with an atlas: every fault that the job's units can have, every piece of evidence as numbers, and the
/// posterior over sets of faults. Derived, never stored.
/// </summary>
public sealed class Inference
{
    private const double LeastHypothesis = 1e-7;
    private const int MostHypotheses = 4000;

    private readonly Lazy<double[]> _priors;

    private Inference(
        BenchJob job,
        Atlas atlas,
        FaultTable table,
        double[][]? coupling,
        ImmutableArray<EvidencePiece> evidence,
        ImmutableArray<double[]> engaged,
        Posterior posterior,
        Lazy<double[]>? priors = null
    )
    {
        Job = job;
        Atlas = atlas;
        Table = table;
        Coupling = coupling;
        Evidence = evidence;
        Posterior = posterior;
        Engaged = engaged;
        FaultOf = [.. table.Forms.Select(f => f.Fault)];
        Hypotheses = posterior.Leading(LeastHypothesis, MostHypotheses);
        Units = [.. table.Faults.Select(f => f.Unit.Id).Distinct()];
        var number = Units.Select((id, u) => (id, u)).ToDictionary(p => p.id, p => p.u);
        UnitOf = [.. table.Faults.Select(f => number[f.Unit.Id])];
        var marginals = posterior.Marginals(([.. FaultOf], table.Faults.Length), ([.. FaultOf.Select(f => UnitOf[f])], Units.Length));
        (Marginals, UnitMarginals) = (marginals[0], marginals[1]);
        _priors = priors ?? new Lazy<double[]>(() => PriorsOf(table, atlas, ExplainedByArrangement(job)));
    }

    /// <summary>Reads a job with an atlas.</summary>
    /// <param name="job">The job.</param>
    /// <param name="atlas">What it is read with.</param>
    /// <param name="breadth">How many sets of faults are weighed; null for the usual.</param>
    public static Inference Of(BenchJob job, Atlas atlas, Breadth? breadth = null)
    {
        var faults = Fault.AllOf(atlas, job.Now, job.Intake.Contexts, job.Intake.Received);
        return Read(
            job,
            atlas,
            faults,
            Diagnosis.Coupling.Of(job, faults, atlas),
            [.. job.Trials.Select(t => FaultTable.ByRule(faults, t.Situation, t.Entry.Kind))],
            null,
            breadth ?? Breadth.Usual
        );
    }

    /// <summary>Tells apart by form what starts have touched, and weighs the whole log anew.</summary>
    private static Inference Read(
        BenchJob job,
        Atlas atlas,
        ImmutableArray<Fault> faults,
        double[][]? coupling,
        ImmutableArray<double[]> engaged,
        Lazy<double[]>? priors,
        Breadth breadth
    )
    {
        var table = FaultTable.Of(faults, Touched(job, faults, engaged), atlas.Behaviour, LogEvidence.Noted(job)) with
        {
            UnderLoad = job.Goal == BootStage.Stable,
        };
        var evidence = LogEvidence.Of(job, atlas, table, engaged);
        var makeup = MakeupOf(table, coupling, atlas, ExplainedByArrangement(job));
        var posterior = Posterior.Of(makeup, [.. evidence.Select(e => e.Column)], breadth);
        return new Inference(job, atlas, table, coupling, evidence, engaged, posterior, priors);
    }

    /// <summary>
    /// This job with one more line. Where the line only adds evidence, what was worked out is kept.
    /// </summary>
    public Inference After(Entry entry) => After(Job.Append(entry));

    /// <summary>The same, with the line already in the log.</summary>
    /// <param name="longer">This job with one more line.</param>
    public Inference After(BenchJob longer)
    {
        var entry = longer.Entries[^1];
        if (
            entry.Row.Evidence == LineEvidence.None
            || longer.Trials.Length + longer.Testimonies.Length != Job.Trials.Length + Job.Testimonies.Length + 1
        )
            return Of(longer, Atlas);
        if (Faults.Any(f => f.IsToBeSplit(longer.Now)))
            return Of(longer, Atlas);
        var coupling = Diagnosis.Coupling.Of(longer, Faults, Atlas);
        var engaged = Engaged;
        if (entry is TrialEntry)
            engaged = engaged.Add(Table.ByRule(longer.Trials[^1].Situation, longer.Trials[^1].Entry.Kind));
        if (!Diagnosis.Coupling.Same(coupling, Coupling) || IsToldApartFurther(longer, engaged))
            return Read(longer, Atlas, Faults, coupling, engaged, _priors, Breadth.Usual);
        EvidencePiece? added;
        ImmutableArray<EvidencePiece> symptoms = [];
        if (entry is TrialEntry)
        {
            added = LogEvidence.PieceOf(longer.Trials[^1], Table, engaged[^1], Atlas, Job.Trials);
            symptoms =
            [
                .. LogEvidence
                    .SymptomsOf(longer.Trials[^1], Table, engaged[^1], LogEvidence.LooksForArtefacts(longer), Atlas, Job.Trials)
                    .Select(c => added with { Column = c }),
            ];
        }
        else
        {
            EvidencePiece[] told = [.. LogEvidence.PiecesOf(longer.Testimonies[^1], Table, Atlas, Job.Goal)];
            added = told.FirstOrDefault();
            symptoms = [.. told.Skip(1)];
        }

        return added is null
            ? new Inference(longer, Atlas, Table, Coupling, Evidence, engaged, Posterior, _priors)
            : new Inference(
                longer,
                Atlas,
                Table,
                Coupling,
                [.. Evidence, added, .. symptoms],
                engaged,
                Posterior.With([added.Column, .. symptoms.Select(s => s.Column)]),
                _priors
            );
    }

    /// <summary>Whether a start touched what none had touched before, or was watched for what none was.</summary>
    private bool IsToldApartFurther(BenchJob longer, ImmutableArray<double[]> engaged) =>
        engaged.Length > Engaged.Length
        && (
            !LogEvidence.Noted(longer).SetEquals(LogEvidence.Noted(Job))
            || Enumerable.Range(0, Faults.Length).Any(f => !Table.IsOpen[f] && engaged[^1][f] > 0)
        );

    /// <summary>
    /// Whether the machine as received could not have reached its goal with nothing wrong at all: the monitor on the board
    /// beside a card, no card for a CPU without graphics. Then most likely nothing is broken.
    /// </summary>
    public static bool ExplainedByArrangement(BenchJob job) =>
        Ceiling.Of(Situation.AtIntake(job.Now.Parts, job.Intake.Received)).Stage < job.Goal;

    /// <summary>Chance of 0 to 3 faults where the arrangement explains the complaint. Bench judgement.</summary>
    private static readonly ImmutableArray<double> ExplainedNumbers = [0.6, 0.35, 0.04, 0.01];

    /// <summary>What may be wrong, before any evidence.</summary>
    public Makeup Makeup => MakeupOf(Table, Coupling, Atlas, ExplainedByArrangement(Job));

    private static Makeup MakeupOf(FaultTable table, double[][]? coupling, Atlas atlas, bool explained)
    {
        var makeup = new Makeup([.. table.Forms.Select(f => table.Faults[f.Fault].Odds * f.Share)], [.. table.Forms.Select(f => f.Fault)])
        {
            Coupling = coupling,
        };
        var numbers = explained ? ExplainedNumbers : atlas.Numbers;
        return atlas.Numbers.IsEmpty
            ? makeup
            : makeup with
            {
                Numbers = numbers,
                Counted = [.. table.Forms.Select(f => table.Faults[f.Fault].Unit.Origin == Origin.Customer)],
            };
    }

    /// <summary>
    /// The chance of each fault by itself: that it is the one, the first or the second of so many; spares by their odds alone.
    /// </summary>
    private static double[] PriorsOf(FaultTable table, Atlas atlas, bool explained)
    {
        var faults = table.Faults;
        var closed = FaultTable.Of(faults, new bool[faults.Length], atlas.Behaviour);
        var posterior = Posterior.Of(MakeupOf(closed, null, atlas, explained), []);
        return posterior.Marginals([.. closed.Forms.Select(f => f.Fault)], faults.Length);
    }

    /// <summary>Per fault, whether it could act in any start, or in the machine as the customer saw it.</summary>
    private static bool[] Touched(BenchJob job, ImmutableArray<Fault> faults, ImmutableArray<double[]> engaged)
    {
        var touched = new bool[faults.Length];
        if (job.Intake.Reported is null && engaged.Length == 0)
            return touched;
        var received = FaultTable.ByRule(faults, Situation.AtIntake(job.Now.Parts, LogEvidence.AtTheCustomers(job)));
        for (var f = 0; f < touched.Length; f++)
            touched[f] = (job.Intake.Reported is not null && received[f] > 0) || engaged.Any(e => e[f] > 0);
        return touched;
    }

    /// <summary>The job.</summary>
    public BenchJob Job { get; }

    /// <summary>What it is read with.</summary>
    public Atlas Atlas { get; }

    /// <summary>Every fault that the job's units can have, with the forms that it can take.</summary>
    public FaultTable Table { get; }

    /// <summary>Every fault that the job's units can have.</summary>
    public ImmutableArray<Fault> Faults => Table.Faults;

    /// <summary>Per form, to which hypotheses refer by index, the fault that it is a form of.</summary>
    public ImmutableArray<int> FaultOf { get; }

    /// <summary>How much likelier two faults are together because one can bring about the other; null when none can.</summary>
    public double[][]? Coupling { get; }

    /// <summary>All evidence in the order of events: the customer's report first, if there is one.</summary>
    public ImmutableArray<EvidencePiece> Evidence { get; }

    /// <summary>The posterior over sets of faults.</summary>
    public Posterior Posterior { get; }

    /// <summary>Per standing trial, per fault, the chance that the fault acted by the rule of its mode.</summary>
    public ImmutableArray<double[]> Engaged { get; }

    /// <summary>Per fault, its probability before any evidence, the prior on their number worked in.</summary>
    public double[] Priors => _priors.Value;

    /// <summary>Per fault, its posterior probability.</summary>
    public double[] Marginals { get; }

    /// <summary>The units that can be at fault.</summary>
    public ImmutableArray<UnitId> Units { get; }

    /// <summary>Per fault, the number of its unit among <see cref="Units"/>.</summary>
    public ImmutableArray<int> UnitOf { get; }

    /// <summary>Per unit, the posterior probability that any of its faults is there.</summary>
    public double[] UnitMarginals { get; }

    /// <summary>The likeliest sets of faults, likeliest first; together all but about one part in ten thousand.</summary>
    public ImmutableArray<Hypothesis> Hypotheses { get; }

    /// <summary>Logarithm of the likelihood of the whole log if exactly these forms are there.</summary>
    public double LogLikelihood(ReadOnlySpan<int> forms)
    {
        var log = 0.0;
        foreach (var piece in Evidence)
            log += Math.Log(piece.Column.Likelihood(forms));
        return log;
    }

    /// <summary>Probability that nothing known to the atlas is wrong with the machine.</summary>
    public double NothingFound => Posterior.None;

    /// <summary>Probability of two or more faults.</summary>
    public double MoreThanOne
    {
        get
        {
            var counts = Posterior.CountDistribution();
            return counts[2] + counts[3];
        }
    }

    /// <summary>The faults that are likely together: the likeliest set.</summary>
    public IEnumerable<Fault> BestExplanation => Hypotheses.Length == 0 ? [] : Hypotheses[0].Forms.Select(i => Faults[FaultOf[i]]);
}
