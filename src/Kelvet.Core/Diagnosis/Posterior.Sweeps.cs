using System.Collections.Immutable;
using System.Numerics;
using System.Numerics.Tensors;
using System.Runtime.InteropServices;
using Kelvet.Core.Evidence;

namespace Kelvet.Core.Diagnosis;

/// <content>Its arithmetic: one piece of evidence is one sweep of multiplications over all sets.</content>
public sealed partial class Posterior
{
    /// <summary>
    /// A run of sets that share all but their last member, which runs over the members from First on. Its weights lie in one
    /// of the layer's blocks, those of one first member together.
    /// </summary>
    private readonly record struct Row(int Block, int Offset, int First, int Length, int I, int J);

    /// <summary>Where members of each group stand: the last one, and before each the one before; -1 where there is none.</summary>
    private sealed class Positions
    {
        public Positions(int[] groupOf, int groups)
        {
            (Last, Before) = (new int[groups], new int[groupOf.Length]);
            Array.Fill(Last, -1);
            for (var p = 0; p < groupOf.Length; p++)
                (Before[p], Last[groupOf[p]]) = (Last[groupOf[p]], p);
        }

        public int[] Last { get; }

        public int[] Before { get; }
    }

    /// <summary>The sets of one size, formed of some of the entries.</summary>
    private sealed class Layer
    {
        private readonly int _size;
        private readonly Row[] _rows;
        private readonly double[][] _weights;

        private Layer(int size, int[] members, Row[] rows, double[][] weights)
        {
            _size = size;
            Members = members;
            _rows = rows;
            _weights = weights;
            Sum = weights.Sum(w => SumOf(w));
        }

        public int[] Members { get; }

        public double Sum { get; }

        /// <summary>Number of sets.</summary>
        public int Sets => _weights.Sum(w => w.Length);

        /// <summary>Weights of the sets of one, by member.</summary>
        public double[] Alone => _weights.Length == 0 ? [] : _weights[0];

        public static Layer Of(
            int size,
            int[] members,
            Makeup makeup,
            (int, double)[][] tied,
            double[] counts,
            ImmutableArray<EvidenceColumn> evidence,
            double shift,
            int? heads = null
        )
        {
            var (rows, lengths) = RowsOf(size, members.Length, heads ?? members.Length);
            double[][] weights = [.. lengths.Select(n => GC.AllocateUninitializedArray<double>(n))];
            Priors(weights, rows, members, makeup, tied, counts);
            // The shift of the exponent goes in piece by piece, so that no step under- or overflows.
            var scale = evidence.Length == 0 ? 0 : shift / evidence.Length;
            EvidenceColumn[] columns = [.. evidence.Select(c => c.Only(members).Scaled(Math.Exp(-scale)))];
            if (evidence.Length == 0)
            {
                foreach (var block in weights)
                    Times(block, Math.Exp(-shift));
            }

            Multiply(weights, rows, columns);
            return new Layer(size, members, rows, weights) { Heads = heads ?? members.Length };
        }

        public Layer With(IEnumerable<EvidenceColumn> evidence)
        {
            var weights = new double[_weights.Length][];
            for (var b = 0; b < weights.Length; b++)
            {
                weights[b] = GC.AllocateUninitializedArray<double>(_weights[b].Length);
                _weights[b].CopyTo(weights[b], 0);
            }

            Multiply(weights, _rows, [.. evidence.Select(e => e.Only(Members))]);
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
                var weights = WeightsOf(row);
                among += SumOf(weights[..inner]);
                mixed += SumOf(weights[inner..]);
            }

            return mixed * mixed / Math.Max(4 * among, 1e-300);
        }

        /// <summary>Adds, per group, what the sets weigh that have a member in it: each set once, however many it has.</summary>
        /// <param name="groupings">Ways to group the entries, and where the sums of each go.</param>
        public void AddTo(params ReadOnlySpan<(int[] GroupOf, double[] Sums)> groupings)
        {
            var last = new double[Members.Length];
            var members = new (int[] GroupOf, Positions Same, double[] Sums)[groupings.Length];
            for (var k = 0; k < members.Length; k++)
            {
                var (groupOf, sums) = groupings[k];
                var own = Array.ConvertAll(Members, f => groupOf[f]);
                members[k] = (own, new Positions(own, sums.Length), sums);
            }

            foreach (var row in _rows)
            {
                var weights = WeightsOf(row);
                AddAll(last.AsSpan(row.First, row.Length), weights);
                if (row.I < 0)
                    continue;
                var rowSum = SumOf(weights);
                foreach (var (g, same, sums) in members)
                {
                    var first = g[row.I];
                    sums[first] += rowSum - Again(same, first, row, weights);
                    if (row.J >= 0 && g[row.J] != first)
                        sums[g[row.J]] += rowSum - Again(same, g[row.J], row, weights);
                }
            }

            foreach (var (g, _, sums) in members)
            {
                for (var p = 0; p < g.Length; p++)
                    sums[g[p]] += last[p];
            }

            // Sets whose last member is of the group that one before it stands for already.
            static double Again(Positions same, int group, Row row, ReadOnlySpan<double> weights)
            {
                var sum = 0.0;
                for (var p = same.Last[group]; p >= row.First; p = same.Before[p])
                    sum += weights[p - row.First];
                return sum;
            }
        }

        /// <summary>Adds the sets that weigh most, if they are heavier than what is kept already.</summary>
        public void AddTo(Heaviest kept, int layer)
        {
            for (var r = 0; r < _rows.Length; r++)
            {
                var weights = WeightsOf(_rows[r]);
                for (var x = 0; x < weights.Length; x++)
                {
                    if (
                        x + Vector<double>.Count <= weights.Length
                        && !Vector.GreaterThanOrEqualAny(new Vector<double>(weights[x..]), new Vector<double>(kept.Floor))
                    )
                    {
                        x += Vector<double>.Count - 1;
                        continue;
                    }

                    if (weights[x] >= kept.Floor)
                        kept.Add(weights[x], new SetAt(layer, r, x));
                }
            }
        }

        /// <summary>The entries of a set, rising.</summary>
        public ImmutableArray<int> MembersOf(SetAt set)
        {
            var row = _rows[set.Row];
            var last = Members[row.First + set.X];
            return (row.I, row.J) switch
            {
                (< 0, _) => [last],
                (_, < 0) => [Math.Min(Members[row.I], last), Math.Max(Members[row.I], last)],
                _ => [Members[row.I], Members[row.J], last],
            };
        }

        private ReadOnlySpan<double> WeightsOf(Row row) => _weights[row.Block].AsSpan(row.Offset, row.Length);

        private static (Row[] Rows, int[] Blocks) RowsOf(int size, int members, int heads)
        {
            if (size == 1)
                return ([new Row(0, 0, 0, members, -1, -1)], [members]);
            var firsts = Math.Max(0, size == 2 ? Math.Min(heads, members - 1) : members - 2);
            var rows = new Row[size == 2 ? firsts : firsts * (firsts + 1) / 2];
            var blocks = new int[firsts];
            for (int i = 0, r = 0; i < firsts; i++)
            {
                if (size == 2)
                    Add(i, r++, i + 1, -1);
                for (var j = i + 1; size > 2 && j < members - 1; j++)
                    Add(i, r++, j + 1, j);
            }

            return (rows, blocks);

            void Add(int i, int r, int first, int j)
            {
                rows[r] = new Row(i, blocks[i], first, members - first, i, j);
                blocks[i] += members - first;
            }
        }
    }

    /// <summary>Where a set lies: its layer, its row there, its place in the row.</summary>
    private readonly record struct SetAt(int Layer, int Row, int X);

    /// <summary>The heaviest sets so far; what is lighter than the floor is not taken in, which rises as they are found.</summary>
    private sealed class Heaviest(int most, double floor)
    {
        // Half as many again: with twice as many each reading would take a place among the large objects.
        private readonly double[] _keys = new double[most + (most / 2) + 1];
        private readonly SetAt[] _sets = new SetAt[most + (most / 2) + 1];
        private int _count;

        public double Floor { get; private set; } = floor;

        public void Add(double weight, SetAt set)
        {
            if (_count == _keys.Length)
                Keep();
            if (weight < Floor)
                return;
            (_keys[_count], _sets[_count]) = (-weight, set);
            _count++;
        }

        /// <summary>At most so many, heaviest first.</summary>
        public IEnumerable<(double Weight, SetAt Set)> All()
        {
            Keep();
            Array.Sort(_keys, _sets, 0, _count);
            for (var i = 0; i < _count; i++)
                yield return (-_keys[i], _sets[i]);
        }

        /// <summary>Brings the heaviest to the front, in no order, and raises the floor to the least of them.</summary>
        private void Keep()
        {
            if (_count <= most)
                return;
            int low = 0,
                high = _count - 1;
            while (low < high)
            {
                // Hoare's selection: what is heavier than a key from the middle goes to its left.
                var pivot = _keys[(low + high) / 2];
                int left = low,
                    right = high;
                while (left <= right)
                {
                    while (_keys[left] < pivot)
                        left++;
                    while (_keys[right] > pivot)
                        right--;
                    if (left > right)
                        break;
                    (_keys[left], _keys[right]) = (_keys[right], _keys[left]);
                    (_sets[left], _sets[right]) = (_sets[right], _sets[left]);
                    left++;
                    right--;
                }

                if (most - 1 <= right)
                    high = right;
                else if (most - 1 >= left)
                    low = left;
                else
                    break;
            }

            _count = most;
            Floor = Math.Max(Floor, -_keys[most - 1]);
        }
    }

    /// <summary>What the sets of rows weigh before any evidence: odds, number of faults, what goes together and what excludes.</summary>
    private static void Priors(double[][] weights, Row[] rows, int[] members, Makeup makeup, (int, double)[][] tied, double[] counts)
    {
        double[] odds = [.. members.Select(m => makeup.Odds[m])];
        int[] owner = [.. members.Select(m => makeup.Owner[m])];
        int[] counted = [.. members.Select(m => makeup.Counted is { } c && c[m] ? 1 : 0)];
        // By how many of the others count, what the last member brings in.
        double[][] last = [.. Enumerable.Range(0, 3).Select(k => odds.Select((o, m) => o * counts[k + counted[m]]).ToArray())];
        var same = new Positions(owner, tied.Length);
        foreach (var row in rows)
        {
            var (i, j) = (row.I, row.J);
            var w = weights[row.Block].AsSpan(row.Offset, row.Length);
            var head = (i < 0 ? 1 : odds[i]) * (j < 0 ? 1 : odds[j] * makeup.Between(owner[i], owner[j]));
            var before = (i < 0 ? 0 : counted[i]) + (j < 0 ? 0 : counted[j]);
            TensorPrimitives.Multiply(last[before].AsSpan(row.First, row.Length), head, w);
            if (i >= 0)
                Tie(w, tied[owner[i]], row.First);
            if (j >= 0)
                Tie(w, tied[owner[j]], row.First);
        }

        void Tie(Span<double> w, (int Owner, double Factor)[] factors, int first)
        {
            foreach (var (other, factor) in factors)
            {
                for (var p = same.Last[other]; p >= first; p = same.Before[p])
                    w[p - first] *= factor;
            }
        }
    }

    private static void Multiply(double[][] weights, Row[] rows, EvidenceColumn[] columns)
    {
        foreach (var row in rows)
        {
            var w = weights[row.Block].AsSpan(row.Offset, row.Length);
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

    private static void Times(Span<double> values, double factor) => TensorPrimitives.Multiply(values, factor, values);

    private static void AddAll(Span<double> sums, ReadOnlySpan<double> values) => TensorPrimitives.Add(sums, values, sums);
}
