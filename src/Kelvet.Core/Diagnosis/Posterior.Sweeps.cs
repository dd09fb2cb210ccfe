using System.Collections.Immutable;
using System.Numerics;
using System.Runtime.InteropServices;
using Kelvet.Core.Evidence;

namespace Kelvet.Core.Diagnosis;

/// <content>Its arithmetic: one piece of evidence is one sweep of multiplications over all sets.</content>
public sealed partial class Posterior
{
    /// <summary>A run of sets that share all but their last member, which runs over the members from First on.</summary>
    private readonly record struct Row(int Offset, int First, int Length, int I, int J);

    /// <summary>The sets of one size, formed of some of the entries.</summary>
    private sealed class Layer
    {
        private readonly int _size;
        private readonly Row[] _rows;

        private Layer(int size, int[] members, Row[] rows, double[] weights)
        {
            _size = size;
            Members = members;
            _rows = rows;
            Weights = weights;
            Sum = SumOf(weights);
        }

        public int[] Members { get; }

        public double[] Weights { get; }

        public double Sum { get; }

        public static Layer Of(
            int size,
            int[] members,
            Makeup makeup,
            double[] counts,
            ImmutableArray<EvidenceColumn> evidence,
            double shift,
            int? heads = null
        )
        {
            var rows = RowsOf(size, members.Length, heads ?? members.Length);
            var length = rows.Length == 0 ? 0 : rows[^1].Offset + rows[^1].Length;
            var weights = new double[length];
            Priors(weights, rows, members, makeup, counts);
            // The shift of the exponent goes in piece by piece, so that no step under- or overflows.
            var scale = evidence.Length == 0 ? 0 : shift / evidence.Length;
            EvidenceColumn[] columns = [.. evidence.Select(c => c.Only(members).Scaled(Math.Exp(-scale)))];
            if (evidence.Length == 0)
                Times(weights, Math.Exp(-shift));
            Multiply(weights, rows, columns);
            return new Layer(size, members, rows, weights) { Heads = heads ?? members.Length };
        }

        public Layer With(EvidenceColumn evidence)
        {
            var weights = (double[])Weights.Clone();
            Multiply(weights, _rows, [evidence.Only(Members)]);
            return new Layer(_size, Members, _rows, weights) { Heads = Heads };
        }

        private int Heads { get; init; }

        /// <summary>
        /// About what the sets of two weigh that have none of the heads in them: if members met as by chance, the square of
        /// what head and other weigh together over what heads among themselves do.
        /// </summary>
        public double Unheaded()
        {
            if (_size != 2 || Heads == Members.Length)
                return 0;
            double among = 0,
                mixed = 0;
            foreach (var row in _rows)
            {
                var inner = Math.Max(0, Heads - row.First);
                among += SumOf(Weights.AsSpan(row.Offset, inner));
                mixed += SumOf(Weights.AsSpan(row.Offset + inner, row.Length - inner));
            }

            return mixed * mixed / Math.Max(4 * among, 1e-300);
        }

        public void AddTo(double[] sums, IReadOnlyList<int> groupOf)
        {
            int[] g = [.. Members.Select(f => groupOf[f])];
            foreach (var row in _rows)
            {
                var weights = Weights.AsSpan(row.Offset, row.Length);
                var members = g.AsSpan(row.First, row.Length);
                var first = row.I < 0 ? -1 : g[row.I];
                var second = row.J < 0 ? -1 : g[row.J];
                var rowSum = 0.0;
                for (var x = 0; x < weights.Length; x++)
                {
                    var w = weights[x];
                    rowSum += w;
                    var last = members[x];
                    if (last != first && last != second)
                        sums[last] += w;
                }

                if (first >= 0)
                    sums[first] += rowSum;
                if (second >= 0 && second != first)
                    sums[second] += rowSum;
            }
        }

        public void AddAbove(double floor, List<(double Weight, ImmutableArray<int> Forms)> found)
        {
            var floors = new Vector<double>(floor);
            foreach (var row in _rows)
            {
                var weights = Weights.AsSpan(row.Offset, row.Length);
                for (var x = 0; x < weights.Length; x++)
                {
                    if (
                        x + Vector<double>.Count <= weights.Length
                        && !Vector.GreaterThanOrEqualAny(new Vector<double>(weights[x..]), floors)
                    )
                    {
                        x += Vector<double>.Count - 1;
                        continue;
                    }

                    if (weights[x] >= floor)
                        found.Add((weights[x], MembersOf(row, x)));
                }
            }
        }

        private ImmutableArray<int> MembersOf(Row row, int x)
        {
            var last = Members[row.First + x];
            return (row.I, row.J) switch
            {
                (< 0, _) => [last],
                (_, < 0) => [Math.Min(Members[row.I], last), Math.Max(Members[row.I], last)],
                _ => [Members[row.I], Members[row.J], last],
            };
        }

        private static Row[] RowsOf(int size, int members, int heads)
        {
            var rows = new List<Row>();
            var offset = 0;
            switch (size)
            {
                case 1:
                    Add(0, -1, -1);
                    break;
                case 2:
                    for (var i = 0; i < heads; i++)
                        Add(i + 1, i, -1);
                    break;
                default:
                    for (var i = 0; i < members; i++)
                    {
                        for (var j = i + 1; j < members; j++)
                            Add(j + 1, i, j);
                    }

                    break;
            }

            return [.. rows];

            void Add(int first, int i, int j)
            {
                if (first >= members)
                    return;
                rows.Add(new Row(offset, first, members - first, i, j));
                offset += members - first;
            }
        }
    }

    private static void Priors(double[] weights, Row[] rows, int[] members, Makeup makeup, double[] counts)
    {
        double[] odds = [.. members.Select(m => makeup.Odds[m])];
        int[] owner = [.. members.Select(m => makeup.Owner[m])];
        int[] counted = [.. members.Select(m => makeup.Counted is { } c && c[m] ? 1 : 0)];
        var coupling = makeup.Coupling;
        foreach (var row in rows)
        {
            var (i, j) = (row.I, row.J);
            var head = (i < 0 ? 1 : odds[i]) * (j < 0 ? 1 : odds[j] * Between(i, j));
            var before = (i < 0 ? 0 : counted[i]) + (j < 0 ? 0 : counted[j]);
            var withI = i < 0 ? null : coupling?[owner[i]];
            var withJ = j < 0 ? null : coupling?[owner[j]];
            for (var x = 0; x < row.Length; x++)
            {
                var last = row.First + x;
                if ((i >= 0 && owner[i] == owner[last]) || (j >= 0 && owner[j] == owner[last]))
                    continue;
                var weight = head * odds[last] * counts[before + counted[last]];
                if (withI is not null)
                    weight *= withI[owner[last]];
                if (withJ is not null)
                    weight *= withJ[owner[last]];
                weights[row.Offset + x] = weight;
            }
        }

        double Between(int i, int j) => owner[i] == owner[j] ? 0 : coupling?[owner[i]][owner[j]] ?? 1;
    }

    private static void Multiply(double[] weights, Row[] rows, EvidenceColumn[] columns)
    {
        foreach (var row in rows)
        {
            var w = weights.AsSpan(row.Offset, row.Length);
            foreach (var c in columns)
            {
                double headA = c.A0 * c.Scale,
                    headB = c.B0 * c.Scale,
                    headN = c.N0,
                    headD = c.D0;
                if (row.I >= 0)
                    Head(c, row.I, ref headA, ref headB, ref headN, ref headD);
                if (row.J >= 0)
                    Head(c, row.J, ref headA, ref headB, ref headN, ref headD);
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

    private static void Head(EvidenceColumn c, int member, ref double a, ref double b, ref double n, ref double d)
    {
        a *= c.A[member];
        b *= c.B[member];
        if (c.N is null)
            return;
        n += c.N[member];
        d += c.D![member];
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
        var wide = w.Length - (w.Length % Vector<double>.Count);
        var wv = MemoryMarshal.Cast<double, Vector<double>>(w[..wide]);
        var av = MemoryMarshal.Cast<double, Vector<double>>(a[..wide]);
        var bv = MemoryMarshal.Cast<double, Vector<double>>(b[..wide]);
        var nv = MemoryMarshal.Cast<double, Vector<double>>(n[..wide]);
        var dv = MemoryMarshal.Cast<double, Vector<double>>(d[..wide]);
        var (offsets, ns, ds) = (new Vector<double>(offset), new Vector<double>(headN), new Vector<double>(headD));
        for (var x = 0; x < wv.Length; x++)
            wv[x] *= ((av[x] * headA) - (bv[x] * headB) + offsets) * ((nv[x] + ns) / (dv[x] + ds));
        for (var x = wide; x < w.Length; x++)
            w[x] *= ((a[x] * headA) - (b[x] * headB) + offset) * ((n[x] + headN) / (d[x] + headD));
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

    private static void Times(Span<double> values, double factor)
    {
        for (var x = 0; x < values.Length; x++)
            values[x] *= factor;
    }
}
