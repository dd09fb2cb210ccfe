using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Learning;

/// <summary>How often parts of one model were here in closed jobs, and how often one was at fault.</summary>
/// <param name="Failed">Times that one was found at fault, 0 to <paramref name="Seen"/>.</param>
/// <param name="Seen">Times that one was in a customer's machine of a closed job.</param>
public readonly record struct ModelTally(int Failed, int Seen)
{
    /// <summary>Both added up.</summary>
    public static ModelTally operator +(ModelTally a, ModelTally b) => new(a.Failed + b.Failed, a.Seen + b.Seen);

    /// <summary>One taken off the other, not below nothing.</summary>
    public static ModelTally operator -(ModelTally a, ModelTally b)
    {
        var seen = Math.Max(0, a.Seen - b.Seen);
        return new(Math.Min(seen, Math.Max(0, a.Failed - b.Failed)), seen);
    }

    /// <summary>Both added up.</summary>
    public static ModelTally Add(ModelTally left, ModelTally right) => left + right;

    /// <summary>One taken off the other, not below nothing.</summary>
    public static ModelTally Subtract(ModelTally left, ModelTally right) => left - right;
}

/// <summary>
/// How often a model fails in this shop, beside others of its kind. Its chance to be at fault is a Beta distribution whose mean is that of
/// its kind in this shop, worth <see cref="Experience.LeastCases"/> cases at least; jobs are added to it, as they are to a mode.
/// </summary>
/// <param name="Model">The model.</param>
/// <param name="Tally">What was counted of it.</param>
/// <param name="Usual">How often a part of its kind is at fault here, 0 to 1.</param>
public sealed record ModelRate(UnitModel Model, ModelTally Tally, double Usual)
{
    /// <summary>Fewer were too few to say anything of.</summary>
    public const int LeastSeen = 3;

    /// <summary>Factors on the odds are held to this, up and down.</summary>
    private const double MostFactor = 10;

    /// <summary>Cases and others that the kind's own rate is worth.</summary>
    private (double A, double B) Prior => Experience.Worth(Usual / (1 - Usual));

    /// <summary>How likely a part of this model is to be at fault, with what the kind says of it.</summary>
    public double Mean
    {
        get
        {
            var (a, b) = Prior;
            return (a + Tally.Failed) / (a + b + Tally.Seen);
        }
    }

    /// <summary>Between what that is by the jobs alone, 19 times of 20.</summary>
    public (double Low, double High) Interval => Share.Wilson(Tally.Failed, Tally.Seen);

    /// <summary>By how much the odds of everything that can be wrong with such a part move; 1 for not at all.</summary>
    public double Factor
    {
        get
        {
            var (a, b) = Prior;
            var usual = a / b;
            return Math.Clamp((a + Tally.Failed) / (b + Tally.Seen - Tally.Failed) / usual, 1 / MostFactor, MostFactor);
        }
    }

    /// <summary>Whether it fails more often than others of its kind, and not by chance: the interval lies above what is usual.</summary>
    public bool IsWorse => Tally.Seen >= LeastSeen && Interval.Low > Usual;

    /// <summary>"4 of 5 of this model that were here were at fault; of others of its kind, 1 of 6."</summary>
    public string Words() =>
        $"{Tally.Failed} of {Tally.Seen} of this model that were here were at fault ({Words(Interval.Low)} to {Words(Interval.High)}); "
        + $"of all of its kind {Words(Usual)}.";

    private static string Words(double share) => $"{Math.Round(100 * share).ToString(System.Globalization.CultureInfo.InvariantCulture)} %";
}

/// <summary>What a shop's closed jobs say of models.</summary>
public static class ModelRates
{
    /// <summary>What one job adds: its customer's parts of which the name is known, and which of them were at fault.</summary>
    /// <param name="parts">The parts that came in.</param>
    /// <param name="found">Those that were found at fault for good: mended in place counts for none.</param>
    public static ImmutableDictionary<UnitModel, ModelTally> Contribution(Parts parts, IReadOnlyCollection<UnitId> found)
    {
        var counts = new Dictionary<UnitModel, ModelTally>();
        foreach (var unit in parts.All.Where(u => u.Origin == Origin.Customer && !UnitFacts.Of(u.Kind).Outside))
        {
            if (UnitModel.Of(unit) is { } model)
                counts[model] = counts.GetValueOrDefault(model) + new ModelTally(found.Contains(unit.Id) ? 1 : 0, 1);
        }

        return counts.ToImmutableDictionary();
    }

    /// <summary>The rate of every model, the most seen first.</summary>
    public static ImmutableArray<ModelRate> Of(IReadOnlyDictionary<UnitModel, ModelTally> counts)
    {
        var kinds = counts
            .GroupBy(c => c.Key.Kind)
            .ToDictionary(g => g.Key, g => g.Select(c => c.Value).Aggregate(default(ModelTally), ModelTally.Add));
        return
        [
            .. counts
                .Where(c => c.Value.Seen > 0)
                .Select(c => new ModelRate(c.Key, c.Value, UsualOf(kinds[c.Key.Kind])))
                .OrderByDescending(r => r.Tally.Seen)
                .ThenBy(r => r.Model.Name, StringComparer.Ordinal),
        ];
    }

    /// <summary>Factors on the odds by model, for the atlas: those that were seen often enough.</summary>
    public static ImmutableDictionary<UnitModel, double> Factors(IEnumerable<ModelRate> rates) =>
        rates.Where(r => r.Tally.Seen >= ModelRate.LeastSeen).ToImmutableDictionary(r => r.Model, r => r.Factor);

    /// <summary>One in so many is at fault before anything was counted. Bench judgement: one part of a machine of about eight.</summary>
    private const double BeforeAny = 1.0 / 8;

    /// <summary>Jobs that this is worth.</summary>
    private const double WorthJobs = 8;

    private static double UsualOf(ModelTally kind) => ((BeforeAny * WorthJobs) + kind.Failed) / (WorthJobs + kind.Seen);
}
