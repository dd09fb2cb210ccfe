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
/// The exact posterior over every set of up to three faults. Faults that no evidence has touched and that nothing can
/// have brought about (those of spares still on the shelf) are idle: they multiply a set's weight by their odds and
/// nothing else, so they are worked in by formula. The sets of the others are laid out by size, each row (all sets
/// that share their first members) contiguous, so that one piece of evidence is one sweep of multiplications.
/// </summary>
public sealed partial class Posterior
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

    private readonly double[] _odds;
    private readonly double[][]? _coupling;
    private readonly ImmutableArray<EvidenceColumn> _evidence;
    private readonly int[] _busy;
    private readonly int[] _idle;
    private readonly Layout _layout;
    private readonly double[] _weights;
    private readonly double[] _bySize;

    private Posterior(
        double[] odds,
        double[][]? coupling,
        ImmutableArray<EvidenceColumn> evidence,
        int[] busy,
        int[] idle,
        Layout layout,
        double[] weights
    )
    {
        _odds = odds;
        _coupling = coupling;
        _evidence = evidence;
        _busy = busy;
        _idle = idle;
        _layout = layout;
        _weights = weights;
        _bySize = new double[MostFaults + 1];
        _bySize[0] = weights[0];
        foreach (var row in layout.Rows)
            _bySize[row.Size] += SumOf(weights.AsSpan(row.Offset, row.Length));
        IdleSums = ElementarySums(idle.Select(f => odds[f]));
        Total = Enumerable.Range(0, MostFaults + 1).Sum(m => _bySize[m] * Tail(IdleSums, m));
    }

    private double[] IdleSums { get; }

    private double Total { get; }

    /// <summary>Number of sets that were weighed one by one; the rest follow by formula.</summary>
    public int Sets => _weights.Length;

    /// <summary>
    /// An estimate of the share of sets of three that was left out, 0 when all were weighed: for each fault outside
    /// them, its share in the sets of one and two, times how much heavier sets of three are than sets of two.
    /// </summary>
    public double LeftOut { get; private init; }

    /// <param name="odds">Prior odds of each fault.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    /// <param name="coupling">
    /// Factor, 0 or more, by which two faults are likelier together than by chance: above 1 when one can bring about the
    /// other, 0 when they exclude each other; null when all are independent. Symmetric.
    /// </param>
    public static Posterior Of(IReadOnlyList<double> odds, IReadOnlyList<EvidenceColumn> evidence, double[][]? coupling = null)
    {
        double[] o = [.. odds];
        var isBusy = new bool[o.Length];
        foreach (var column in evidence)
            column.MarkTouched(isBusy);
        for (var i = 0; coupling is not null && i < o.Length; i++)
        {
            for (var j = 0; j < o.Length && !isBusy[i]; j++)
                isBusy[i] = coupling[i][j] != 1;
        }

        int[] busy = [.. Enumerable.Range(0, o.Length).Where(f => isBusy[f])];
        int[] idle = [.. Enumerable.Range(0, o.Length).Where(f => !isBusy[f])];
        ImmutableArray<EvidenceColumn> pieces = [.. evidence];
        if (busy.Length <= MostInTriples)
            return Weighed(o, coupling, pieces, busy, idle, new Layout(busy.Length, busy.Length));

        // Likeliest first, so that sets of three are formed from a head of the list.
        var small = Weighed(o, coupling, pieces, busy, idle, new Layout(busy.Length, 0));
        int[] each = [.. Enumerable.Range(0, o.Length)];
        var marginals = small.Marginals(each, o.Length);
        int[] ranked = [.. busy.OrderByDescending(f => marginals[f])];
        var result = Weighed(o, coupling, pieces, ranked, idle, new Layout(busy.Length, MostInTriples));
        var counts = result.CountDistribution();
        var outside = ranked.Skip(MostInTriples).Sum(f => marginals[f]);
        return new Posterior(o, coupling, pieces, ranked, idle, result._layout, result._weights)
        {
            LeftOut = Math.Min(1, outside * counts[3] / Math.Max(counts[2], 1e-12)),
        };
    }

    private static Posterior Weighed(
        double[] odds,
        double[][]? coupling,
        ImmutableArray<EvidenceColumn> evidence,
        int[] busy,
        int[] idle,
        Layout layout
    )
    {
        var weights = Priors(odds, coupling, busy, layout);
        for (var from = 0; from < evidence.Length; from += RescaleEvery)
        {
            Multiply(weights, layout, [.. evidence.Skip(from).Take(RescaleEvery).Select(c => c.Only(busy))]);
            Rescale(weights);
        }

        return new Posterior(odds, coupling, evidence, busy, idle, layout, weights);
    }

    /// <summary>The posterior with one more piece of evidence.</summary>
    public Posterior With(EvidenceColumn evidence)
    {
        var touched = new bool[_odds.Length];
        evidence.MarkTouched(touched);
        if (_idle.Any(f => touched[f]))
            return Of(_odds, _evidence.Add(evidence), _coupling);
        var weights = (double[])_weights.Clone();
        Multiply(weights, _layout, [evidence.Only(_busy)]);
        if (_evidence.Length % (RescaleEvery / 4) == 0)
            Rescale(weights);
        return new Posterior(_odds, _coupling, _evidence.Add(evidence), _busy, _idle, _layout, weights) { LeftOut = LeftOut };
    }

    /// <summary>Probability that nothing known to the atlas is wrong.</summary>
    public double None => _weights[0] / Total;

    /// <summary>Probability of exactly k faults, k from 0 to 3.</summary>
    public ImmutableArray<double> CountDistribution() =>
        [.. Enumerable.Range(0, MostFaults + 1).Select(k => Enumerable.Range(0, k + 1).Sum(m => _bySize[m] * IdleSums[k - m]) / Total)];

    /// <summary>
    /// Posterior probability of each group of faults: that at least one member is present.
    /// With every fault a group of its own, the marginals.
    /// </summary>
    /// <param name="groupOf">Group of each fault.</param>
    /// <param name="groups">Number of groups.</param>
    public double[] Marginals(IReadOnlyList<int> groupOf, int groups)
    {
        var with = new double[MostFaults + 1][];
        for (var m = 0; m <= MostFaults; m++)
            with[m] = new double[groups];
        int[] g = [.. _busy.Select(f => groupOf[f])];
        foreach (var row in _layout.Rows)
        {
            var weights = _weights.AsSpan(row.Offset, row.Length);
            var members = g.AsSpan(row.First, row.Length);
            var sums = with[row.Size];
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

        // The complement: sets of busy faults without the group, with idle faults outside the group.
        var idleIn = _idle.ToLookup(f => groupOf[f]);
        var result = new double[groups];
        for (var i = 0; i < groups; i++)
        {
            var idle = idleIn.Contains(i) ? ElementarySums(_idle.Where(f => groupOf[f] != i).Select(f => _odds[f])) : IdleSums;
            var without = 0.0;
            for (var m = 0; m <= MostFaults; m++)
                without += Math.Max(0, _bySize[m] - with[m][i]) * Tail(idle, m);
            result[i] = Math.Clamp(1 - (without / Total), 0, 1);
        }

        return result;
    }

    /// <summary>The likeliest sets, likeliest first. Sets with an idle fault are those of the likeliest others, and one idle
    /// fault.</summary>
    /// <param name="least">Sets below this probability are left out.</param>
    /// <param name="most">At most so many.</param>
    public ImmutableArray<Hypothesis> Leading(double least, int most)
    {
        var found = new List<(double Weight, int I, int J, int K)>();
        var floor = least * Total;
        if (_weights[0] >= floor)
            found.Add((_weights[0], -1, -1, -1));
        var floors = new Vector<double>(floor);
        foreach (var row in _layout.Rows)
        {
            var weights = _weights.AsSpan(row.Offset, row.Length);
            for (var x = 0; x < weights.Length; x++)
            {
                if (x + Vector<double>.Count <= weights.Length && !Vector.GreaterThanOrEqualAny(new Vector<double>(weights[x..]), floors))
                {
                    x += Vector<double>.Count - 1;
                    continue;
                }

                if (weights[x] >= floor)
                    found.Add((weights[x], row.I, row.J, row.First + x));
            }
        }

        foreach (var f in _idle)
        {
            var withOne = found.Count;
            for (var h = 0; h < withOne && found[h].K < _busy.Length; h++)
            {
                var (weight, i, j, k) = found[h];
                if (j < 0 && weight * _odds[f] >= floor)
                    found.Add((weight * _odds[f], i, k, _busy.Length + f));
            }
        }

        var keys = new double[found.Count];
        var order = new int[found.Count];
        for (var h = 0; h < keys.Length; h++)
            (keys[h], order[h]) = (-found[h].Weight, h);
        Array.Sort(keys, order);
        var leading = ImmutableArray.CreateBuilder<Hypothesis>(Math.Min(most, order.Length));
        for (var h = 0; h < leading.Capacity; h++)
        {
            var (weight, i, j, k) = found[order[h]];
            leading.Add(new Hypothesis(Members(i, j, k), weight / Total));
        }

        return leading.MoveToImmutable();

        ImmutableArray<int> Members(int i, int j, int k)
        {
            // A set of two is laid out as (first, none, last), or as (none, first, idle) with an idle fault worked in.
            if (k < 0)
                return [];
            if (i < 0 && j < 0)
                return [Fault(k)];
            int[] members =
                i < 0 ? [Fault(j), Fault(k)]
                : j < 0 ? [Fault(i), Fault(k)]
                : [Fault(i), Fault(j), Fault(k)];
            Array.Sort(members);
            return ImmutableCollectionsMarshal.AsImmutableArray(members);
        }

        int Fault(int member) => member < _busy.Length ? _busy[member] : member - _busy.Length;
    }

    /// <summary>A run of sets that share all but their last member, which runs over the busy faults from First on.</summary>
    private readonly record struct Row(int Size, int Offset, int First, int Length, int I, int J);

    /// <summary>Where each set lies: singles, then pairs by their first member, then triples of the first so many faults by their
    /// first two.</summary>
    private sealed class Layout
    {
        public Layout(int faults, int inTriples)
        {
            var rows = new List<Row>();
            var offset = 1;
            Add(1, 0, faults, -1, -1);
            for (var i = 0; i < faults; i++)
                Add(2, i + 1, faults, i, -1);
            for (var i = 0; i < inTriples; i++)
            {
                for (var j = i + 1; j < inTriples; j++)
                    Add(3, j + 1, inTriples, i, j);
            }

            Rows = [.. rows];
            Length = offset;

            void Add(int size, int first, int end, int i, int j)
            {
                if (first >= end)
                    return;
                rows.Add(new Row(size, offset, first, end - first, i, j));
                offset += end - first;
            }
        }

        public Row[] Rows { get; }

        public int Length { get; }
    }
}
