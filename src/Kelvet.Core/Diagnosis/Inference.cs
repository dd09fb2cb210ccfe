using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Diagnosis;

/// <summary>A piece of evidence: a line of the log (or the customer's report) as numbers per fault.</summary>
/// <param name="Line">Number of the line; 0 for what the customer reported at intake.</param>
/// <param name="Position">Its place in the order of events; 0 for what the customer reported.</param>
/// <param name="Trial">The trial, when it is one.</param>
/// <param name="Testimony">The finding, claim or try elsewhere, when it is one.</param>
/// <param name="Column">The numbers.</param>
public sealed record EvidencePiece(int Line, int Position, Trial? Trial, Testimony? Testimony, EvidenceColumn Column);

/// <summary>
/// A log read with an atlas: every fault that the job's units can have, every piece of evidence as numbers, and the
/// posterior over sets of faults. Derived, never stored.
/// </summary>
public sealed class Inference
{
    private const double LeastHypothesis = 1e-8;
    private const int MostHypotheses = 6000;

    private Inference(
        BenchJob job,
        Atlas atlas,
        ImmutableArray<Fault> faults,
        double[][]? coupling,
        ImmutableArray<EvidencePiece> evidence,
        Posterior posterior
    )
    {
        Job = job;
        Atlas = atlas;
        Faults = faults;
        Coupling = coupling;
        Evidence = evidence;
        Posterior = posterior;
        Engaged = [.. job.Trials.Select(t => EngagedIn(t.Situation))];
        Hypotheses = posterior.Leading(LeastHypothesis, MostHypotheses);
        Marginals = posterior.Marginals([.. Enumerable.Range(0, faults.Length)], faults.Length);
    }

    /// <summary>Reads a job with an atlas.</summary>
    public static Inference Of(BenchJob job, Atlas atlas)
    {
        var faults = Fault.AllOf(atlas, job.Now, job.Intake.Contexts);
        var coupling = Diagnosis.Coupling.Of(job, faults);
        var evidence = EvidenceOf(job, atlas, faults);
        return new Inference(
            job,
            atlas,
            faults,
            coupling,
            evidence,
            Posterior.Of([.. faults.Select(f => f.Odds)], [.. evidence.Select(e => e.Column)], coupling)
        );
    }

    /// <summary>
    /// This job with one more line. Where the line only adds evidence, what was worked out is kept.
    /// </summary>
    public Inference After(Entry entry)
    {
        var longer = Job.Append(entry);
        if (
            entry is not (TrialEntry or FindingEntry or ElsewhereEntry or ClaimEntry)
            || longer.Trials.Length + longer.Testimonies.Length != Job.Trials.Length + Job.Testimonies.Length + 1
        )
            return Of(longer, Atlas);
        if (Faults.Any(f => f.IsToBeSplit(longer.Now)))
            return Of(longer, Atlas);
        var coupling = Diagnosis.Coupling.Of(longer, Faults);
        if (!Diagnosis.Coupling.Same(coupling, Coupling))
            return Of(longer, Atlas);
        var added = entry is TrialEntry ? PieceOf(longer.Trials[^1], Faults, Atlas) : PieceOf(longer.Testimonies[^1], Faults, Atlas);
        return added is null
            ? new Inference(longer, Atlas, Faults, Coupling, Evidence, Posterior)
            : new Inference(longer, Atlas, Faults, Coupling, Evidence.Add(added), Posterior.With(added.Column));
    }

    /// <summary>The job.</summary>
    public BenchJob Job { get; }

    /// <summary>What it is read with.</summary>
    public Atlas Atlas { get; }

    /// <summary>Every fault that the job's units can have; hypotheses refer to them by index.</summary>
    public ImmutableArray<Fault> Faults { get; }

    /// <summary>How much likelier two faults are together because one can bring about the other; null when none can.</summary>
    public double[][]? Coupling { get; }

    /// <summary>All evidence in the order of events: the customer's report first, if there is one.</summary>
    public ImmutableArray<EvidencePiece> Evidence { get; }

    /// <summary>The posterior over sets of faults.</summary>
    public Posterior Posterior { get; }

    /// <summary>Per standing trial, per fault, the chance that the fault acted.</summary>
    public ImmutableArray<double[]> Engaged { get; }

    /// <summary>Per fault, its posterior probability.</summary>
    public double[] Marginals { get; }

    /// <summary>The likeliest sets of faults, likeliest first; together all but about one part in ten thousand.</summary>
    public ImmutableArray<Hypothesis> Hypotheses { get; }

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
    public IEnumerable<Fault> BestExplanation => Hypotheses.Length == 0 ? [] : Hypotheses[0].Faults.Select(i => Faults[i]);

    /// <summary>All evidence of a job in the order of events: the customer's report first, if there is one.</summary>
    public static ImmutableArray<EvidencePiece> EvidenceOf(BenchJob job, Atlas atlas, ImmutableArray<Fault> faults)
    {
        var pieces = new List<EvidencePiece>();
        if (job.Intake.Reported is { } reported)
        {
            var received = Situation.AtIntake(job.Now.Parts, AtTheCustomers(job));
            pieces.Add(
                new EvidencePiece(
                    0,
                    0,
                    null,
                    null,
                    EvidenceColumn.OfTrial(faults, received, Ceiling.Of(received), reported, atlas.ReportedSlip)
                )
            );
        }

        pieces.AddRange(job.Trials.Select(t => PieceOf(t, faults, atlas)));
        pieces.AddRange(job.Testimonies.Select(t => PieceOf(t, faults, atlas)).OfType<EvidencePiece>());
        return [.. pieces.OrderBy(p => p.Position)];
    }

    /// <summary>The machine as it stood at the customer's: on their own outlet, if that is among the units.</summary>
    private static Configuration AtTheCustomers(BenchJob job)
    {
        var outlet = job.Now.Parts.All.FirstOrDefault(u => u.Kind == UnitKind.Outlet && u.Origin == Origin.Customer);
        return outlet is null ? job.Intake.Received : job.Intake.Received.WithUnit(Place.Outlet, outlet.Id);
    }

    private static EvidencePiece PieceOf(Trial trial, ImmutableArray<Fault> faults, Atlas atlas) =>
        new(trial.Number, trial.Position, trial, null, EvidenceColumn.OfTrial(faults, trial, atlas));

    private static EvidencePiece? PieceOf(Testimony testimony, ImmutableArray<Fault> faults, Atlas atlas) =>
        EvidenceColumn.OfTestimony(faults, testimony, atlas) is { } column
            ? new EvidencePiece(testimony.Number, testimony.Position, null, testimony, column)
            : null;

    private double[] EngagedIn(Situation situation)
    {
        var engaged = new double[Faults.Length];
        for (var f = 0; f < engaged.Length; f++)
            engaged[f] = Faults[f].Engaged(situation);
        return engaged;
    }
}
