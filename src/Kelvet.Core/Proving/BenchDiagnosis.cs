using System.Collections.Concurrent;
using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Proving;

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
    Unit Unit,
    double Probability,
    double Prior,
    Standing Standing,
    ImmutableArray<FaultBelief> Faults,
    Proof Proof
)
{
    /// <summary>Its likeliest fault.</summary>
    public FaultBelief Leading => Faults[0];
}

/// <summary>Faults of different units that no trial so far has told apart.</summary>
/// <param name="Faults">At least two, of at least two units, likeliest first.</param>
public sealed record Confusion(ImmutableArray<FaultBelief> Faults);

/// <summary>
/// The case against each part: an <see cref="Inference"/> with the standing of every unit, what is proved of it, and what
/// looks alike so far.
/// </summary>
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

    private readonly ConcurrentDictionary<UnitId, ImmutableArray<Rival>> _rivals = [];

    private BenchDiagnosis(Inference inference)
    {
        Inference = inference;
        Passed = Proof.AtWorkInAPass(Job.Trials, Engaged, Faults.Length);
        RuledOut = [.. Enumerable.Range(0, Faults.Length).Select(f => Passed[f] || inference.Marginals[f] < Negligible)];
        Suspects = AllSuspects();
        Confusions = AllConfusions();
    }

    /// <summary>Reads a job with an atlas.</summary>
    public static BenchDiagnosis Of(BenchJob job, Atlas atlas) => new(Inference.Of(job, atlas));

    /// <summary>This job with one more line. Where the line only adds evidence, what was worked out is kept.</summary>
    public BenchDiagnosis After(Entry entry) => new(Inference.After(entry));

    /// <summary>The same, with the line already in the log.</summary>
    public BenchDiagnosis After(BenchJob longer) => new(Inference.After(longer));

    /// <summary>The log as numbers.</summary>
    public Inference Inference { get; }

    /// <inheritdoc cref="Inference.Job"/>
    public BenchJob Job => Inference.Job;

    /// <inheritdoc cref="Inference.Atlas"/>
    public Atlas Atlas => Inference.Atlas;

    /// <inheritdoc cref="Inference.Faults"/>
    public ImmutableArray<Fault> Faults => Inference.Faults;

    /// <inheritdoc cref="Inference.Evidence"/>
    public ImmutableArray<EvidencePiece> Evidence => Inference.Evidence;

    /// <inheritdoc cref="Inference.Posterior"/>
    public Posterior Posterior => Inference.Posterior;

    /// <inheritdoc cref="Inference.Engaged"/>
    public ImmutableArray<double[]> Engaged => Inference.Engaged;

    /// <inheritdoc cref="Inference.Hypotheses"/>
    public ImmutableArray<Hypothesis> Hypotheses => Inference.Hypotheses;

    /// <inheritdoc cref="Inference.NothingFound"/>
    public double NothingFound => Inference.NothingFound;

    /// <inheritdoc cref="Inference.MoreThanOne"/>
    public double MoreThanOne => Inference.MoreThanOne;

    /// <inheritdoc cref="Inference.BestExplanation"/>
    public IEnumerable<Fault> BestExplanation => Inference.BestExplanation;

    /// <summary>Per fault, whether it was fully at work in a trial that got a picture.</summary>
    public bool[] Passed { get; }

    /// <summary>Per fault, whether it cannot matter to a proof: it was at work in a pass, or stands below half a percent.</summary>
    public bool[] RuledOut { get; }

    /// <summary>Every unit, likeliest first.</summary>
    public ImmutableArray<Suspect> Suspects { get; }

    /// <summary>Faults that no trial so far has told apart.</summary>
    public ImmutableArray<Confusion> Confusions { get; }

    /// <summary>The case against a unit.</summary>
    /// <exception cref="KeyNotFoundException">No such unit, or none that can be at fault.</exception>
    public Suspect this[UnitId unit] =>
        Suspects.FirstOrDefault(s => s.Unit.Id == unit) ?? throw new KeyNotFoundException($"There is no unit {unit} that can be at fault.");

    private ImmutableArray<Suspect> AllSuspects()
    {
        int[] each = [.. Enumerable.Range(0, Faults.Length)];
        var marginals = Inference.Marginals;
        var units = Inference.UnitMarginals;
        var leading = each.GroupBy(f => Faults[f].Unit.Id).ToDictionary(g => g.Key, g => g.MaxBy(f => marginals[f]));
        var proofs = Proof.All(Job, Faults, Engaged, RuledOut, leading);
        var dealtWith = Faults.Select(f => f.DealtWith(Job.Now)).ToArray();
        var faultsOf = each.ToLookup(f => Inference.UnitOf[f]);
        var suspects = Inference.Units.Select(
            (id, g) =>
            {
                int[] own = [.. faultsOf[g]];
                var beliefs = own.Select(f => new FaultBelief(f, Faults[f], marginals[f]))
                    .OrderByDescending(b => b.Probability)
                    .ToImmutableArray();
                var prior = Math.Min(1, own.Sum(f => Inference.Priors[f]));
                var live = Math.Min(units[g], own.Where(f => !dealtWith[f]).Sum(f => marginals[f]));
                var proof = proofs.GetValueOrDefault(id, Proof.None);
                return new Suspect(Job.Now.Parts[id], units[g], prior, StandingOf(id, units[g], live, own, proof), beliefs, proof);
            }
        );
        return [.. suspects.OrderByDescending(s => s.Standing != Standing.Untested).ThenByDescending(s => s.Probability)];
    }

    private Standing StandingOf(UnitId unit, double probability, double live, int[] own, Proof proof)
    {
        var touched = false;
        var passed = false;
        for (var t = 0; t < Job.Trials.Length; t++)
        {
            if (!own.Any(f => Engaged[t][f] >= 0.5))
                continue;
            touched = true;
            passed |= Job.Trials[t].Passed;
        }

        if (!touched)
            return Standing.Untested;
        if (probability >= Certain)
        {
            if (probability - live >= Certain * probability && Job.Trials[^1].Passed)
                return Standing.PutRight;
            // A part is condemned for what only another part helps against: not for its seat, its settings or its place.
            var bad = Faults[own.MaxBy(f => Inference.Marginals[f])].Act.Cure is Cure.Replace or Cure.Repair;
            // What nobody may power again is condemned without being put back.
            if ((bad && proof.TwoWay && RivalsOf(unit).IsEmpty) || Safety.WhyNeverAgain(Job, unit) is not null)
                return Standing.Condemned;
            if (proof.OneWay)
                return Standing.ProofOneWay;
        }

        if (probability >= Accused)
            return Standing.Suspect;
        return passed && live < Unlikely ? Standing.Cleared : Standing.Open;
    }

    /// <summary>
    /// How often a unit's fault acts, 0 to 1, where it is likelier that it comes and goes than not; null where it is not, or
    /// where the unit stands out too little for it to matter.
    /// </summary>
    public double? RateOf(UnitId unit)
    {
        double all = 0,
            rated = 0,
            rate = 0;
        foreach (var h in Hypotheses)
        {
            foreach (var f in h.Forms)
            {
                var form = Inference.Table.Forms[f];
                if (Faults[form.Fault].Unit.Id != unit)
                    continue;
                all += h.Probability;
                if (form.Rate is not { } own)
                    continue;
                rated += h.Probability;
                rate += h.Probability * own;
            }
        }

        return all >= Accused && rated > all / 2 ? rate / rated : null;
    }

    /// <summary>What the log has not told from a unit's leading fault, strongest first.</summary>
    public ImmutableArray<Rival> RivalsOf(UnitId unit) =>
        _rivals.TryGetValue(unit, out var known) ? known : _rivals[unit] = Rivals.Of(Inference, unit);

    private ImmutableArray<Confusion> AllConfusions()
    {
        if (Job.Trials.Length == 0)
            return [];
        return
        [
            .. Suspects
                .SelectMany(s => s.Faults)
                .Where(b => b.Probability >= WorthNaming)
                .GroupBy(b => new ValueList<double>(Engaged.Select(e => Math.Round(e[b.Index], 1))))
                .Where(g => g.Select(b => b.Fault.Act).Distinct().Count() > 1)
                .Select(g => new Confusion([.. g.OrderByDescending(b => b.Probability)]))
                .OrderByDescending(c => c.Faults.Sum(b => b.Probability)),
        ];
    }
}
