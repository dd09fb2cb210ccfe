using System.Collections.Immutable;

namespace Kelvet.Core.Diagnosis;

/// <summary>
/// What may be wrong, before any evidence: entries (the forms that faults can take) with their odds, which of them exclude
/// each other, and how many faults there are likely to be.
/// </summary>
/// <param name="Odds">Prior odds of each entry, above 0.</param>
/// <param name="Owner">The fault that each entry is a form of, from 0; two entries of one owner are never in one set.</param>
public sealed record Makeup(ImmutableArray<double> Odds, ImmutableArray<int> Owner)
{
    /// <summary>
    /// Factor, 0 or more, by which two owners are likelier together than by chance: above 1 when one can bring about the
    /// other, 0 when they exclude each other; null when all are independent. Symmetric.
    /// </summary>
    public double[][]? Coupling { get; init; }

    /// <summary>Factor, 0 or more, by which two owners are likelier together than by chance; 0 for one and the same.</summary>
    public double Between(int a, int b) => a == b ? 0 : Coupling?[a][b] ?? 1;

    /// <summary>Per owner, those that it is not independent of, itself among them, with the factor.</summary>
    internal (int Owner, double Factor)[][] Tied()
    {
        var tied = new (int, double)[Owners][];
        var found = new List<(int, double)>();
        for (var a = 0; a < tied.Length; a++)
        {
            found.Clear();
            for (var b = 0; Coupling is not null && b < tied.Length; b++)
            {
                if (a != b && Coupling[a][b] is var factor && factor != 1)
                    found.Add((b, factor));
            }

            tied[a] = [(a, 0), .. found];
        }

        return tied;
    }

    /// <summary>Number of faults that the entries are forms of.</summary>
    internal int Owners => Owner.Length == 0 ? 0 : Owner.Max() + 1;

    /// <summary>Per entry, whether it counts as a fault that the machine came in with; null when the number has no prior of its
    /// own.</summary>
    public ImmutableArray<bool>? Counted { get; init; }

    /// <summary>
    /// Chance of 0, 1, 2 and 3 faults at intake; used with <see cref="Counted"/>. Long part lists then do not breed second
    /// faults.
    /// </summary>
    public ImmutableArray<double> Numbers { get; init; } = [1, 1, 1, 1];

    /// <summary>Every entry a fault of its own.</summary>
    public static Makeup Of(IEnumerable<double> odds)
    {
        ImmutableArray<double> o = [.. odds];
        return new Makeup(o, [.. Enumerable.Range(0, o.Length)]);
    }

    /// <summary>
    /// Factor on the product of the odds of a set by the number of its counted members: the prior of the number, shared out
    /// by the odds among the sets of that size.
    /// </summary>
    public double[] CountFactors()
    {
        if (Counted is not { } counted)
            return [1, 1, 1, 1];
        double[] byOwner = new double[Owners];
        for (var i = 0; i < Odds.Length; i++)
        {
            if (counted[i])
                byOwner[Owner[i]] += Odds[i];
        }

        double[] sums = [1, 0, 0, 0];
        foreach (var v in byOwner)
        {
            for (var k = 3; k >= 1; k--)
                sums[k] += v * sums[k - 1];
        }

        return [.. Enumerable.Range(0, 4).Select(k => sums[k] > 0 ? Numbers[k] / sums[k] : 0)];
    }
}
