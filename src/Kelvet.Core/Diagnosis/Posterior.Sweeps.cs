using System.Numerics;
using System.Runtime.InteropServices;
using Kelvet.Core.Evidence;

namespace Kelvet.Core.Diagnosis;

/// <content>Its arithmetic: one piece of evidence is one sweep of multiplications over all sets.</content>
public sealed partial class Posterior
{
    private static double[] Priors(double[] odds, double[][]? coupling, int[] busy, Layout layout)
    {
        var weights = new double[layout.Length];
        weights[0] = 1;
        foreach (var row in layout.Rows)
        {
            var i = row.I < 0 ? -1 : busy[row.I];
            var j = row.J < 0 ? -1 : busy[row.J];
            var head = (i < 0 ? 1 : odds[i]) * (j < 0 ? 1 : odds[j] * (coupling?[i][j] ?? 1));
            for (var x = 0; x < row.Length; x++)
            {
                var last = busy[row.First + x];
                var weight = head * odds[last];
                if (coupling is not null && i >= 0)
                    weight *= coupling[i][last];
                if (coupling is not null && j >= 0)
                    weight *= coupling[j][last];
                weights[row.Offset + x] = weight;
            }
        }

        return weights;
    }

    private static void Multiply(double[] weights, Layout layout, EvidenceColumn[] columns)
    {
        foreach (var c in columns)
            weights[0] *= c.Likelihood([]);
        foreach (var row in layout.Rows)
        {
            var w = weights.AsSpan(row.Offset, row.Length);
            foreach (var c in columns)
            {
                double headA = c.A0 * c.Scale,
                    headB = c.B0 * c.Scale,
                    headN = c.N0,
                    headD = c.D0;
                if (row.I >= 0)
                {
                    headA *= c.A[row.I];
                    headB *= c.B[row.I];
                    if (c.N is not null)
                    {
                        headN += c.N[row.I];
                        headD += c.D![row.I];
                    }
                }

                if (row.J >= 0)
                {
                    headA *= c.A[row.J];
                    headB *= c.B[row.J];
                    if (c.N is not null)
                    {
                        headN += c.N[row.J];
                        headD += c.D![row.J];
                    }
                }

                var a = c.A.AsSpan(row.First, row.Length);
                var b = c.B.AsSpan(row.First, row.Length);
                if (c.N is null)
                    Sweep(w, a, b, headA, headB, c.Offset);
                else
                    Sweep(
                        w,
                        a,
                        b,
                        c.N.AsSpan(row.First, row.Length),
                        c.D!.AsSpan(row.First, row.Length),
                        headA,
                        headB,
                        c.Offset,
                        headN,
                        headD
                    );
            }
        }
    }

    private static void Sweep(Span<double> w, ReadOnlySpan<double> a, ReadOnlySpan<double> b, double headA, double headB, double offset)
    {
        var wide = w.Length - (w.Length % Vector<double>.Count);
        var wv = MemoryMarshal.Cast<double, Vector<double>>(w[..wide]);
        var av = MemoryMarshal.Cast<double, Vector<double>>(a[..wide]);
        var bv = MemoryMarshal.Cast<double, Vector<double>>(b[..wide]);
        var offsets = new Vector<double>(offset);
        for (var x = 0; x < wv.Length; x++)
            wv[x] *= (av[x] * headA) - (bv[x] * headB) + offsets;
        for (var x = wide; x < w.Length; x++)
            w[x] *= (a[x] * headA) - (b[x] * headB) + offset;
    }

    private static void Sweep(
        Span<double> w,
        ReadOnlySpan<double> a,
        ReadOnlySpan<double> b,
        ReadOnlySpan<double> n,
        ReadOnlySpan<double> d,
        double headA,
        double headB,
        double offset,
        double headN,
        double headD
    )
    {
        for (var x = 0; x < w.Length; x++)
            w[x] *= ((a[x] * headA) - (b[x] * headB) + offset) * ((n[x] + headN) / (d[x] + headD));
    }

    /// <summary>Sums of all products of 0, 1, 2 and 3 different values.</summary>
    private static double[] ElementarySums(IEnumerable<double> values)
    {
        var sums = new double[MostFaults + 1];
        sums[0] = 1;
        foreach (var v in values)
        {
            for (var k = MostFaults; k >= 1; k--)
                sums[k] += v * sums[k - 1];
        }

        return sums;
    }

    /// <summary>Factor on a set of so many busy faults for every way of adding idle ones up to the largest size.</summary>
    private static double Tail(double[] sums, int members)
    {
        var tail = 0.0;
        for (var k = 0; k <= MostFaults - members; k++)
            tail += sums[k];
        return tail;
    }

    private static double SumOf(ReadOnlySpan<double> values)
    {
        var wide = values.Length - (values.Length % Vector<double>.Count);
        var sums = Vector<double>.Zero;
        foreach (var v in MemoryMarshal.Cast<double, Vector<double>>(values[..wide]))
            sums += v;
        var sum = Vector.Sum(sums);
        for (var x = wide; x < values.Length; x++)
            sum += values[x];
        return sum;
    }

    private static void Rescale(double[] weights)
    {
        var top = weights.Max();
        if (!(top > 0))
            throw new InvalidOperationException(
                "No set of faults explains the log: every likelihood must be above 0, which a slip above 0 ensures."
            );
        var scale = 1 / top;
        for (var i = 0; i < weights.Length; i++)
            weights[i] *= scale;
    }
}
