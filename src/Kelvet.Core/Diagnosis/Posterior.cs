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

    /// <summary>
    /// Sets of three are formed from at most so many faults, the likeliest by the exact sets of one and two.
    /// A bench with spares for everything has about 150, so that in practice nothing is left out.
    /// </summary>
    public const int MostInTriples = 200;

    /// <summary>Evidence between two rescalings: far from underflow even if each piece weighs 1e-6.</summary>
    private const int RescaleEvery = 40;

    private readonly double[] _weights;
    private readonly int _n;
    private readonly int[] _inTriples;

    private Posterior(double[] weights, int n, int[] inTriples)
    {
        _n = n;
        _weights = weights;
        _inTriples = inTriples;
        Total = weights.Sum();
    }

    private double Total { get; }

    /// <summary>Number of sets that were weighed.</summary>
    public int Sets => _weights.Length;

    /// <summary>
    /// An estimate of the share of sets of three that was left out, 0 when all were weighed: for each fault outside
    /// them, its share in the sets of one and two, times how much heavier sets of three are than sets of two.
    /// </summary>
    public double LeftOut { get; private init; }

    /// <param name="odds">Prior odds of each fault.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    /// <param name="coupling">
    /// Factor, 1 or more, by which two faults are likelier together than by chance, because one can bring about the
    /// other; null when there is none. Symmetric.
    /// </param>
    public static Posterior Of(IReadOnlyList<double> odds, IReadOnlyList<EvidenceColumn> evidence, double[][]? coupling = null)
    {
        double[] o = [.. odds];
        int[] all = [.. Enumerable.Range(0, o.Length)];
        if (o.Length <= MostInTriples) return Weighed(o, evidence, coupling, all);

        var small = Weighed(o, evidence, coupling, []);
        var marginals = small.Marginals(all, o.Length);
        int[] likeliest = [.. all.OrderByDescending(f => marginals[f]).Take(MostInTriples).Order()];
        var result = Weighed(o, evidence, coupling, likeliest);
        var counts = result.CountDistribution();
        var outside = all.Except(likeliest).Sum(f => marginals[f]);
        return new Posterior(result._weights, o.Length, likeliest) { LeftOut = Math.Min(1, outside * counts[3] / Math.Max(counts[2], 1e-12)) };
    }

    private static Posterior Weighed(double[] odds, IReadOnlyList<EvidenceColumn> evidence, double[][]? coupling, int[] inTriples)
    {
        var weights = Priors(odds, coupling, inTriples);
        for (var from = 0; from < evidence.Count; from += RescaleEvery)
        {
            Multiply(weights, odds.Length, inTriples, [.. evidence.Skip(from).Take(RescaleEvery)]);
            Rescale(weights);
        }

        return new Posterior(weights, odds.Length, inTriples);
    }

    /// <summary>The posterior with one more piece of evidence.</summary>
    public Posterior With(EvidenceColumn evidence)
    {
        var weights = (double[])_weights.Clone();
        Multiply(weights, _n, _inTriples, [evidence]);
        Rescale(weights);
        return new Posterior(weights, _n, _inTriples) { LeftOut = LeftOut };
    }

    /// <summary>Probability that nothing known to the atlas is wrong.</summary>
    public double None => _weights[0] / Total;

    /// <summary>Probability of exactly k faults, k from 0 to 3.</summary>
    public ImmutableArray<double> CountDistribution()
    {
        var sums = new double[MostFaults + 1];
        ForEachRow(_n, _inTriples, (row, size) => sums[size] += SumOf(_weights.AsSpan(row.Offset, row.Length)));
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
        ForEachRow(_n, _inTriples, (row, size) =>
        {
            var weights = _weights.AsSpan(row.Offset, row.Length);
            var first = size == 1 ? -1 : size == 2 ? g[row.I] : g[_inTriples[row.I]];
            var second = size == 3 ? g[_inTriples[row.J]] : -1;
            var rowSum = 0.0;
            for (var x = 0; x < weights.Length; x++)
            {
                var w = weights[x];
                rowSum += w;
                var last = g[size == 3 ? _inTriples[row.First + x] : row.First + x];
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
        ForEachRow(_n, _inTriples, (row, size) =>
        {
            for (var x = 0; x < row.Length; x++)
            {
                var w = _weights[row.Offset + x];
                if (w < floor) continue;
                var last = row.First + x;
                found.Add(new Hypothesis(size switch { 1 => [last], 2 => [row.I, last], _ => [_inTriples[row.I], _inTriples[row.J], _inTriples[last]] }, w / Total));
            }
        });
        return [.. found.OrderByDescending(h => h.Probability).Take(most)];
    }

    /// <summary>A run of sets that share all but their last member; that runs over a list of faults from First on.</summary>
    private readonly record struct Row(int Offset, int First, int Length, int I, int J);

    /// <summary>
    /// Visits all rows in layout order. In sets of three the members are places in the list of faults that take part;
    /// elsewhere they are the faults themselves. A row's last members are contiguous in that list.
    /// </summary>
    private static void ForEachRow(int n, int[] inTriples, Action<Row, int> visit)
    {
        visit(new Row(1, 0, n, -1, -1), 1);
        var offset = 1 + n;
        for (var i = 0; i < n; i++)
        {
            visit(new Row(offset, i + 1, n - i - 1, i, -1), 2);
            offset += n - i - 1;
        }

        var m = inTriples.Length;
        for (var i = 0; i < m; i++)
        {
            for (var j = i + 1; j < m; j++)
            {
                visit(new Row(offset, j + 1, m - j - 1, i, j), 3);
                offset += m - j - 1;
            }
        }
    }

    private static double[] Priors(double[] odds, double[][]? coupling, int[] inTriples)
    {
        long n = odds.Length, m = inTriples.Length;
        var weights = new double[1 + n + (n * (n - 1) / 2) + (m * (m - 1) * (m - 2) / 6)];
        weights[0] = 1;
        ForEachRow(odds.Length, inTriples, (row, size) =>
        {
            var i = row.I < 0 ? -1 : size == 3 ? inTriples[row.I] : row.I;
            var j = row.J < 0 ? -1 : inTriples[row.J];
            var head = (i < 0 ? 1 : odds[i]) * (j < 0 ? 1 : odds[j] * (coupling?[i][j] ?? 1));
            for (var x = 0; x < row.Length; x++)
            {
                var last = size == 3 ? inTriples[row.First + x] : row.First + x;
                var weight = head * odds[last];
                if (coupling is not null && i >= 0) weight *= coupling[i][last];
                if (coupling is not null && j >= 0) weight *= coupling[j][last];
                weights[row.Offset + x] = weight;
            }
        });
        return weights;
    }

    /// <summary>One piece of evidence, its numbers also gathered for the faults that take part in sets of three.</summary>
    private readonly record struct Gathered(EvidenceColumn Column, double[] A, double[] B, double[]? N, double[]? D)
    {
        public static Gathered Of(EvidenceColumn c, int[] members)
        {
            return members.Length == c.A.Length ? new(c, c.A, c.B, c.N, c.D) : new(c, Pick(c.A), Pick(c.B), c.N is null ? null : Pick(c.N), c.D is null ? null : Pick(c.D));

            double[] Pick(double[] values) => [.. members.Select(f => values[f])];
        }
    }

    private static void Multiply(double[] weights, int n, int[] inTriples, EvidenceColumn[] columns)
    {
        foreach (var c in columns) weights[0] *= c.Likelihood([]);
        Gathered[] whole = [.. columns.Select(c => new Gathered(c, c.A, c.B, c.N, c.D))];
        Gathered[] picked = [.. columns.Select(c => Gathered.Of(c, inTriples))];
        ForEachRow(n, inTriples, (row, size) =>
        {
            var w = weights.AsSpan(row.Offset, row.Length);
            if (w.IsEmpty) return;
            foreach (var g in size == 3 ? picked : whole)
            {
                var c = g.Column;
                double headA = c.A0 * c.Scale, headB = c.B0 * c.Scale, headN = c.N0, headD = c.D0;
                if (row.I >= 0) Join(row.I);
                if (row.J >= 0) Join(row.J);
                var a = g.A.AsSpan(row.First, row.Length);
                var b = g.B.AsSpan(row.First, row.Length);
                if (g.N is null)
                    Sweep(w, a, b, headA, headB, c.Offset);
                else
                    Sweep(w, a, b, g.N.AsSpan(row.First, row.Length), g.D!.AsSpan(row.First, row.Length), headA, headB, c.Offset, headN, headD);

                void Join(int f)
                {
                    headA *= g.A[f];
                    headB *= g.B[f];
                    if (g.N is null) return;
                    headN += g.N[f];
                    headD += g.D![f];
                }
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
