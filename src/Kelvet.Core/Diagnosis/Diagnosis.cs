using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Diagnosis;

/// <summary>A fault of a unit and how likely it now is.</summary>
public sealed record FaultBelief(int Index, Fault Fault, double Probability);

/// <summary>A unit and the case against it.</summary>
/// <param name="Unit">The unit.</param>
/// <param name="Probability">Posterior that at least one of its faults is present, 0 to 1.</param>
/// <param name="Prior">The same before any trial.</param>
/// <param name="Standing">What that amounts to.</param>
/// <param name="Faults">Its faults, likeliest first.</param>
/// <param name="Proof">What the log proves.</param>
public sealed record Suspect(
    Unit Unit, double Probability, double Prior, Standing Standing, ImmutableArray<FaultBelief> Faults, Proof Proof)
{
    /// <summary>Its likeliest fault.</summary>
    public FaultBelief Leading => Faults[0];
}

/// <summary>Faults of different units that no trial so far has told apart.</summary>
/// <param name="Faults">At least two, of at least two units, likeliest first.</param>
public sealed record Confusion(ImmutableArray<FaultBelief> Faults);

/// <summary>A piece of evidence: a line of the log (or the customer's report) as numbers per fault.</summary>
/// <param name="Line">Number of the line; 0 for what the customer reported at intake.</param>
/// <param name="Trial">The trial, when it is one.</param>
/// <param name="Testimony">The finding, claim or try elsewhere, when it is one.</param>
/// <param name="Column">The numbers.</param>
public sealed record Evidence(int Line, Trial? Trial, Testimony? Testimony, EvidenceColumn Column);

/// <summary>Everything that the log says about where the fault is. Derived, never stored.</summary>
public sealed class BenchDiagnosis
{
    /// <summary>From here on a unit can be condemned, given the proof.</summary>
    public const double Certain = 0.95;

    /// <summary>A unit whose faults, less those dealt with, are below this and that was at work in a passing trial is cleared.</summary>
    public const double Unlikely = 0.02;

    /// <summary>A unit is a suspect from here on.</summary>
    public const double Accused = 0.25;

    /// <summary>Faults below this are not worth naming as confounded.</summary>
    private const double WorthNaming = 0.03;

    /// <summary>A fault below this does not stand in the way of a proof.</summary>
    private const double Negligible = 0.005;

    private const double LeastHypothesis = 1e-8;
    private const int MostHypotheses = 6000;

    private readonly int[] _groupOf;
    private readonly ImmutableArray<UnitId> _groups;

    private BenchDiagnosis(BenchJob job, Atlas atlas, ImmutableArray<Fault> faults, double[][]? coupling, ImmutableArray<Evidence> evidence, Posterior posterior)
    {
        Job = job;
        Atlas = atlas;
        Faults = faults;
        Coupling = coupling;
        Evidence = evidence;
        Posterior = posterior;
        _groups = [.. faults.Select(f => f.Unit.Id).Distinct()];
        var groupIndex = _groups.Select((id, g) => (id, g)).ToDictionary(p => p.id, p => p.g);
        _groupOf = [.. faults.Select(f => groupIndex[f.Unit.Id])];
        Engaged = [.. job.Trials.Select(t => EngagedIn(t.Situation))];
        Hypotheses = posterior.Leading(LeastHypothesis, MostHypotheses);
        Suspects = AllSuspects();
        Confusions = AllConfusions();
    }

    /// <summary>Reads a job with an atlas.</summary>
    public static BenchDiagnosis Of(BenchJob job, Atlas atlas)
    {
        var faults = Fault.AllOf(atlas, job.Now, job.Intake.Contexts);
        var coupling = Diagnosis.Coupling.Of(job, faults);
        var evidence = EvidenceOf(job, atlas, faults);
        var posterior = Posterior.Of([.. faults.Select(f => f.Odds)], [.. evidence.Select(e => e.Column)], coupling);
        return new BenchDiagnosis(job, atlas, faults, coupling, evidence, posterior);
    }

    /// <summary>
    /// The diagnosis of this job with one more line. Where the line only adds evidence, what was worked out is kept.
    /// </summary>
    public BenchDiagnosis After(Entry entry)
    {
        var longer = Job.Append(entry);
        if (entry is not (TrialEntry or FindingEntry or ElsewhereEntry or ClaimEntry) || longer.Trials.Length + longer.Testimonies.Length != Job.Trials.Length + Job.Testimonies.Length + 1)
            return Of(longer, Atlas);
        if (Faults.Any(f => f.IsToBeSplit(longer.Now))) return Of(longer, Atlas);
        var coupling = Diagnosis.Coupling.Of(longer, Faults);
        if (!Diagnosis.Coupling.Same(coupling, Coupling)) return Of(longer, Atlas);
        var added = entry is TrialEntry ? EvidenceOfTrial(longer.Trials[^1]) : EvidenceOfTestimony(longer.Testimonies[^1], Faults, Atlas);
        return added is null
            ? new BenchDiagnosis(longer, Atlas, Faults, Coupling, Evidence, Posterior)
            : new BenchDiagnosis(longer, Atlas, Faults, Coupling, Evidence.Add(added), Posterior.With(added.Column));
    }

    /// <summary>All evidence of a job in log order: the customer's report first, if there is one.</summary>
    public static ImmutableArray<Evidence> EvidenceOf(BenchJob job, Atlas atlas, ImmutableArray<Fault> faults)
    {
        var pieces = new List<Evidence>();
        if (job.Intake.Reported is { } reported)
        {
            var received = Situation.AtIntake(job.Now.Parts, AtTheCustomers(job));
            pieces.Add(new Evidence(0, null, null, EvidenceColumn.OfTrial(faults, received, Ceiling.Of(received), reported, atlas.ReportedSlip)));
        }

        pieces.AddRange(job.Trials.Select(t => new Evidence(t.Number, t, null, EvidenceColumn.OfTrial(faults, t, atlas))));
        pieces.AddRange(job.Testimonies.Select(t => EvidenceOfTestimony(t, faults, atlas)).OfType<Evidence>());
        return [.. pieces.OrderBy(p => p.Line)];
    }

    /// <summary>The machine as it stood at the customer's: on their own outlet, if that is among the units.</summary>
    private static Configuration AtTheCustomers(BenchJob job)
    {
        var outlet = job.Now.Parts.All.FirstOrDefault(u => u.Kind == UnitKind.Outlet && u.Origin == Origin.Customer);
        return outlet is null ? job.Intake.Received : job.Intake.Received.WithUnit(Place.Outlet, outlet.Id);
    }

    private Evidence EvidenceOfTrial(Trial trial) => new(trial.Number, trial, null, EvidenceColumn.OfTrial(Faults, trial, Atlas));

    private static Evidence? EvidenceOfTestimony(Testimony testimony, ImmutableArray<Fault> faults, Atlas atlas) =>
        EvidenceColumn.OfTestimony(faults, testimony, atlas) is { } column ? new Evidence(testimony.Number, null, testimony, column) : null;

    private double[] EngagedIn(Situation situation)
    {
        var engaged = new double[Faults.Length];
        for (var f = 0; f < engaged.Length; f++) engaged[f] = Faults[f].Engaged(situation);
        return engaged;
    }

    /// <summary>How much likelier two faults are together because one can bring about the other; null when none can.</summary>
    public double[][]? Coupling { get; }

    public BenchJob Job { get; }

    public Atlas Atlas { get; }

    /// <summary>Every fault that the job's units can have; hypotheses refer to them by index.</summary>
    public ImmutableArray<Fault> Faults { get; }

    public ImmutableArray<Evidence> Evidence { get; }

    public Posterior Posterior { get; }

    /// <summary>Per standing trial, per fault, the chance that the fault acted.</summary>
    public ImmutableArray<double[]> Engaged { get; }

    /// <summary>Per fault, whether it was fully at work in a trial that got a picture.</summary>
    public bool[] Passed { get; private set; } = [];

    /// <summary>Per fault, whether it cannot matter to a proof: it was at work in a pass, or stands below half a percent.</summary>
    public bool[] RuledOut { get; private set; } = [];

    /// <summary>The likeliest sets of faults, likeliest first; together all but about one part in ten thousand.</summary>
    public ImmutableArray<Hypothesis> Hypotheses { get; }

    /// <summary>Every unit, likeliest first.</summary>
    public ImmutableArray<Suspect> Suspects { get; }

    public ImmutableArray<Confusion> Confusions { get; }

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

    public Suspect this[UnitId unit] => Suspects.FirstOrDefault(s => s.Unit.Id == unit) ?? throw new KeyNotFoundException($"There is no unit {unit} that can be at fault.");

    /// <summary>The faults that are likely together: the likeliest set.</summary>
    public IEnumerable<Fault> BestExplanation => Hypotheses.Length == 0 ? [] : Hypotheses[0].Faults.Select(i => Faults[i]);

    private ImmutableArray<Suspect> AllSuspects()
    {
        int[] each = [.. Enumerable.Range(0, Faults.Length)];
        var marginals = Posterior.Marginals(each, Faults.Length);
        var units = Posterior.Marginals(_groupOf, _groups.Length);
        Passed = Proof.AtWorkInAPass(Job.Trials, Engaged, Faults.Length);
        RuledOut = [.. each.Select(f => Passed[f] || marginals[f] < Negligible)];
        var proofs = Proof.All(Job, Faults, Engaged, RuledOut);
        var dealtWith = Faults.Select(f => f.DealtWith(Job.Now)).ToArray();
        var faultsOf = each.ToLookup(f => _groupOf[f]);
        var suspects = _groups.Select((id, g) =>
        {
            int[] own = [.. faultsOf[g]];
            var beliefs = own.Select(f => new FaultBelief(f, Faults[f], marginals[f])).OrderByDescending(b => b.Probability).ToImmutableArray();
            var prior = 1 - own.Aggregate(1.0, (none, f) => none * (1 - Faults[f].Prior));
            var live = Math.Min(units[g], own.Where(f => !dealtWith[f]).Sum(f => marginals[f]));
            var proof = proofs.GetValueOrDefault(id, Proof.None);
            return new Suspect(Job.Now.Parts[id], units[g], prior, StandingOf(units[g], live, own, proof), beliefs, proof);
        });
        return [.. suspects.OrderByDescending(s => s.Standing != Standing.Untested).ThenByDescending(s => s.Probability)];
    }

    private Standing StandingOf(double probability, double live, int[] own, Proof proof)
    {
        var touched = false;
        var passed = false;
        for (var t = 0; t < Job.Trials.Length; t++)
        {
            if (!own.Any(f => Engaged[t][f] >= 0.5)) continue;
            touched = true;
            passed |= Job.Trials[t].Seen.ShowsPicture;
        }

        if (!touched) return Standing.Untested;
        if (probability >= Certain) return proof.TwoWay ? Standing.Condemned : Standing.ProofOneWay;
        if (probability >= Accused) return Standing.Suspect;
        return passed && live < Unlikely ? Standing.Cleared : Standing.Open;
    }

    private ImmutableArray<Confusion> AllConfusions()
    {
        if (Job.Trials.Length == 0) return [];
        return
        [
            .. Suspects.SelectMany(s => s.Faults).Where(b => b.Probability >= WorthNaming)
                .GroupBy(b => string.Join(' ', Engaged.Select(e => Math.Round(e[b.Index], 1))))
                .Where(g => g.Select(b => b.Fault.Act).Distinct().Count() > 1)
                .Select(g => new Confusion([.. g.OrderByDescending(b => b.Probability)]))
                .OrderByDescending(c => c.Faults.Sum(b => b.Probability)),
        ];
    }
}
