using System.Collections.Immutable;
using System.Numerics;
using System.Runtime.InteropServices;
using Kelvet.Core.Evidence;

namespace Kelvet.Core.Diagnosis;

/// <summary>A set of faults that may explain the log, with its posterior probability.</summary>
/// <param name="Faults">Indices into the job's faults, rising; empty for "nothing found here".</param>
/// <param name="Probability">Posterior, 0 to 1.</param>
public sealed record Hypothesis(ImmutableArray<int> Faults, double Probability);

/// <summary>
/// The exact posterior over every set of up to three faults. Sets are laid out by size, each row (all sets that
/// share their first members) contiguous, so that one piece of evidence is one sweep of multiplications.
/// </summary>
public sealed class Posterior
{
    /// <summary>Largest number of faults in a set.</summary>
    public const int MostFaults = 3;

    /// <summary>Evidence between two rescalings: far from underflow even if each piece weighs 1e-10.</summary>
    private const int RescaleEvery = 16;

    private readonly double[] _weights;
    private readonly int _n;
    private readonly double[] _odds;

    private Posterior(double[] odds, double[] weights)
    {
        _odds = odds;
        _n = odds.Length;
        _weights = weights;
        Total = weights.Sum();
    }

    private double Total { get; }

    /// <summary>Number of sets that were weighed.</summary>
    public int Sets => _weights.Length;

    /// <param name="odds">Prior odds of each fault.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    public static Posterior Of(IReadOnlyList<double> odds, IReadOnlyList<EvidenceColumn> evidence)
    {
        double[] o = [.. odds];
        var weights = Priors(o);
        for (var t = 0; t < evidence.Count; t++)
        {
            Multiply(weights, o.Length, evidence[t]);
            if ((t + 1) % RescaleEvery == 0) Rescale(weights);
        }

        Rescale(weights);
        return new Posterior(o, weights);
    }

    /// <summary>The posterior with one more piece of evidence.</summary>
    public Posterior With(EvidenceColumn evidence)
    {
        var weights = (double[])_weights.Clone();
        Multiply(weights, _n, evidence);
        Rescale(weights);
        return new Posterior(_odds, weights);
    }

    /// <summary>Probability that nothing known to the atlas is wrong.</summary>
    public double None => _weights[0] / Total;

    /// <summary>Probability of exactly k faults, k from 0 to 3.</summary>
    public ImmutableArray<double> CountDistribution()
    {
        var sums = new double[MostFaults + 1];
        ForEachRow(_n, (row, size) => sums[size] += SumOf(_weights.AsSpan(row.Offset, row.Length)));
        sums[0] = _weights[0];
        return [.. sums.Select(s => s / Total)];
    }

    /// <summary>
    /// Posterior probability of each group of faults: that at least one member is present.
    /// With every fault a group of its own, the marginals.
    /// </summary>
    /// <param name="groupOf">Group of each fault.</param>
    /// <param name="groups">Number of groups.</param>
    public double[] Marginals(IReadOnlyList<int> groupOf, int groups)
    {
        var sums = new double[groups];
        int[] g = [.. groupOf];
        ForEachRow(_n, (row, size) =>
        {
            var weights = _weights.AsSpan(row.Offset, row.Length);
            var first = size >= 2 ? g[row.I] : -1;
            var second = size == 3 ? g[row.J] : -1;
            var rowSum = 0.0;
            for (var x = 0; x < weights.Length; x++)
            {
                var w = weights[x];
                rowSum += w;
                var last = g[row.First + x];
                if (last != first && last != second) sums[last] += w;
            }

            if (first >= 0) sums[first] += rowSum;
            if (second >= 0 && second != first) sums[second] += rowSum;
        });
        for (var i = 0; i < groups; i++) sums[i] /= Total;
        return sums;
    }

    /// <summary>The likeliest sets, likeliest first.</summary>
    /// <param name="least">Sets below this probability are left out.</param>
    /// <param name="most">At most so many.</param>
    public ImmutableArray<Hypothesis> Leading(double least, int most)
    {
        var found = new List<Hypothesis>();
        var floor = least * Total;
        if (_weights[0] >= floor) found.Add(new Hypothesis([], _weights[0] / Total));
        ForEachRow(_n, (row, size) =>
        {
            for (var x = 0; x < row.Length; x++)
            {
                var w = _weights[row.Offset + x];
                if (w < floor) continue;
                var last = row.First + x;
                found.Add(new Hypothesis(size switch { 1 => [last], 2 => [row.I, last], _ => [row.I, row.J, last] }, w / Total));
            }
        });
        return [.. found.OrderByDescending(h => h.Probability).Take(most)];
    }

    private readonly record struct Row(int Offset, int First, int Length, int I, int J);

    private static void ForEachRow(int n, Action<Row, int> visit)
    {
        visit(new Row(1, 0, n, -1, -1), 1);
        var offset = 1 + n;
        for (var i = 0; i < n; i++)
        {
            visit(new Row(offset, i + 1, n - i - 1, i, -1), 2);
            offset += n - i - 1;
        }

        for (var i = 0; i < n; i++)
        {
            for (var j = i + 1; j < n; j++)
            {
                visit(new Row(offset, j + 1, n - j - 1, i, j), 3);
                offset += n - j - 1;
            }
        }
    }

    private static double[] Priors(double[] odds)
    {
        long n = odds.Length;
        var weights = new double[1 + n + (n * (n - 1) / 2) + (n * (n - 1) * (n - 2) / 6)];
        weights[0] = 1;
        ForEachRow(odds.Length, (row, size) =>
        {
            var head = (size >= 2 ? odds[row.I] : 1) * (size == 3 ? odds[row.J] : 1);
            for (var x = 0; x < row.Length; x++) weights[row.Offset + x] = head * odds[row.First + x];
        });
        return weights;
    }

    private static void Multiply(double[] weights, int n, EvidenceColumn c)
    {
        weights[0] *= c.Likelihood([]);
        double[] a = c.A, b = c.B;
        ForEachRow(n, (row, size) =>
        {
            double headA = c.A0 * c.Scale, headB = c.B0 * c.Scale, headN = c.N0, headD = c.D0;
            if (size >= 2) Join(row.I);
            if (size == 3) Join(row.J);
            var w = weights.AsSpan(row.Offset, row.Length);
            var rowA = a.AsSpan(row.First, row.Length);
            var rowB = b.AsSpan(row.First, row.Length);
            if (c.N is null)
                Sweep(w, rowA, rowB, headA, headB, c.Offset);
            else
                Sweep(w, rowA, rowB, c.N.AsSpan(row.First, row.Length), c.D!.AsSpan(row.First, row.Length), headA, headB, c.Offset, headN, headD);

            void Join(int f)
            {
                headA *= a[f];
                headB *= b[f];
                if (c.N is null) return;
                headN += c.N[f];
                headD += c.D![f];
            }
        });
    }

    private static void Sweep(Span<double> w, ReadOnlySpan<double> a, ReadOnlySpan<double> b, double headA, double headB, double offset)
    {
        var wide = w.Length - (w.Length % Vector<double>.Count);
        var wv = MemoryMarshal.Cast<double, Vector<double>>(w[..wide]);
        var av = MemoryMarshal.Cast<double, Vector<double>>(a[..wide]);
        var bv = MemoryMarshal.Cast<double, Vector<double>>(b[..wide]);
        var offsets = new Vector<double>(offset);
        for (var x = 0; x < wv.Length; x++) wv[x] *= (av[x] * headA) - (bv[x] * headB) + offsets;
        for (var x = wide; x < w.Length; x++) w[x] *= (a[x] * headA) - (b[x] * headB) + offset;
    }

    private static void Sweep(
        Span<double> w, ReadOnlySpan<double> a, ReadOnlySpan<double> b, ReadOnlySpan<double> n, ReadOnlySpan<double> d,
        double headA, double headB, double offset, double headN, double headD)
    {
        for (var x = 0; x < w.Length; x++)
            w[x] *= ((a[x] * headA) - (b[x] * headB) + offset) * ((n[x] + headN) / (d[x] + headD));
    }

    private static double SumOf(ReadOnlySpan<double> values)
    {
        var sum = 0.0;
        foreach (var v in values) sum += v;
        return sum;
    }

    private static void Rescale(double[] weights)
    {
        var top = 0.0;
        foreach (var w in weights) top = Math.Max(top, w);
        if (top <= 0)
            throw new InvalidOperationException("No set of faults explains the log: every likelihood must be above 0, which a slip above 0 ensures.");
        var scale = 1 / top;
        for (var i = 0; i < weights.Length; i++) weights[i] *= scale;
    }
}
