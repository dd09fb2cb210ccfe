using System.Collections.Immutable;
using Kelvet.Core.Evidence;

namespace Kelvet.Core.Diagnosis;

/// <summary>A set of faults, each in one of its forms, that may explain the log, with its posterior probability.</summary>
/// <param name="Forms">Indices of the entries, rising; empty for "nothing found here".</param>
/// <param name="Probability">Posterior, 0 to 1.</param>
public sealed record Hypothesis(ImmutableArray<int> Forms, double Probability);

/// <summary>
/// The posterior over sets of up to three faults. Single faults are all weighed. Sets of two and three are formed of the
/// entries that can still matter in them: what an entry can contribute is bounded by its odds and by the evidence that no
/// partner can take from it, and the entries whose bounds together stay below a small share of what has been weighed are
/// left out. The sets lie in rows (all that share their first members), so that one piece of evidence is one sweep of
/// multiplications.
/// </summary>
public sealed partial class Posterior
{
    /// <summary>Largest number of faults in a set.</summary>
    public const int MostFaults = 3;

    /// <summary>Sets of three are formed from at most so many entries, the likeliest by the sets of one and two.</summary>
    public const int MostInTriples = 90;

    /// <summary>Where there are more entries than this, each set of two has one of so many in it: the likeliest.</summary>
    private const int HeadsOfPairs = 240;

    /// <summary>Share of the whole that may be left out of sets of two and three each; 0 to leave nothing out.</summary>
    public const double UsualNeglect = 3e-4;

    /// <summary>Up to so many entries nothing is left out.</summary>
    private const int FewEnough = 100;

    /// <summary>A posterior that has left out more than this after further evidence is worked out afresh.</summary>
    private const double MostNeglect = 0.03;

    private readonly Makeup _makeup;
    private readonly double[] _counts;
    private readonly double _neglect;
    private readonly ImmutableArray<EvidenceColumn> _evidence;
    private readonly double _none;
    private readonly Layer[] _layers;

    private Posterior(Makeup makeup, double[] counts, ImmutableArray<EvidenceColumn> evidence, double none, Layer[] layers, double neglect)
    {
        _makeup = makeup;
        _counts = counts;
        _evidence = evidence;
        _none = none;
        _layers = layers;
        _neglect = neglect;
        Total = none + layers.Sum(l => l.Sum);
    }

    private double Total { get; }

    /// <summary>Number of sets that were weighed one by one.</summary>
    public int Sets => 1 + _layers.Sum(l => l.Sets);

    /// <summary>An upper estimate, 0 to 1, of the share of the whole that lies in sets that were left out.</summary>
    public double LeftOut { get; private init; }

    /// <summary>The posterior of independent faults, exactly.</summary>
    /// <param name="odds">Prior odds of each fault.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    /// <param name="coupling">As in <see cref="Makeup.Coupling"/>.</param>
    public static Posterior Of(IReadOnlyList<double> odds, IReadOnlyList<EvidenceColumn> evidence, double[][]? coupling = null) =>
        Of(Makeup.Of(odds) with { Coupling = coupling }, evidence, 0);

    /// <param name="makeup">What may be wrong.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    /// <param name="neglect">Share of the whole that may be left out of the sets of two, and of three; 0 for none.</param>
    public static Posterior Of(Makeup makeup, IReadOnlyList<EvidenceColumn> evidence, double neglect = UsualNeglect)
    {
        if (makeup.Odds.Length <= FewEnough)
            neglect = 0;
        var counts = makeup.CountFactors();
        ImmutableArray<EvidenceColumn> pieces = [.. evidence];
        int[] every = [.. Enumerable.Range(0, makeup.Odds.Length)];
        // One scale for all layers, so that a long log does not run out of the exponent.
        var bounds = Bounds(makeup, pieces);
        var shift = bounds.DefaultIfEmpty(0).Max();
        var none = NoneOf(counts, pieces, shift);
        var singles = Layer.Of(1, every, makeup, counts, pieces, shift);
        var sofar = none + singles.Sum;
        var pairs = Admitted(bounds, makeup, counts, 2, sofar * neglect, shift, out var leftInPairs);
        var heads = pairs.Length;
        if (neglect > 0 && pairs.Length > HeadsOfPairs)
            (pairs, heads) = (HeadsFirst(pairs, singles.Alone, bounds), HeadsOfPairs);
        var twos = Layer.Of(2, pairs, makeup, counts, pieces, shift, heads);
        sofar += twos.Sum;
        leftInPairs += twos.Unheaded();
        var trios = Admitted(bounds, makeup, counts, 3, sofar * neglect, shift, out var leftInTrios);
        var leftByRank = 0.0;
        if (neglect > 0 && trios.Length > MostInTriples)
        {
            var small = new Posterior(makeup, counts, pieces, none, [singles, twos], neglect);
            var marginals = small.Marginals(every, every.Length);
            int[] ranked = [.. trios.OrderByDescending(f => marginals[f])];
            trios = [.. ranked.Take(MostInTriples).Order()];
            leftByRank = ranked.Skip(MostInTriples).Sum(f => marginals[f]);
        }

        var threes = Layer.Of(3, trios, makeup, counts, pieces, shift);
        sofar += threes.Sum;
        if (!(sofar > 0))
            throw new InvalidOperationException(
                "No set of faults explains the log: every likelihood must be above 0, which a slip above 0 ensures."
            );
        var left = (leftInPairs + leftInTrios) / sofar + leftByRank * threes.Sum / Math.Max(twos.Sum, 1e-300);
        return new Posterior(makeup, counts, pieces, none, [singles, twos, threes], neglect) { LeftOut = Math.Min(1, left) };
    }

    /// <summary>The posterior with more evidence.</summary>
    /// <param name="evidence">What has come to be known, in any order.</param>
    public Posterior With(params IReadOnlyList<EvidenceColumn> evidence)
    {
        var longer = _evidence.AddRange(evidence);
        var none = evidence.Aggregate(_none, (n, e) => n * e.Likelihood([]));
        Layer[] layers = [.. _layers.Select(l => l.With(evidence))];
        var total = none + layers.Sum(l => l.Sum);
        // What was left out may have come to weigh more, and many pieces on end shrink every weight.
        var left = total > 0 ? LeftOut * Total / total : 1;
        if (left > MostNeglect || total < 1e-200)
            return Of(_makeup, longer, _neglect);
        return new Posterior(_makeup, _counts, longer, none, layers, _neglect) { LeftOut = left };
    }

    /// <summary>Probability that nothing known to the atlas is wrong.</summary>
    public double None => _none / Total;

    /// <summary>Probability of exactly k faults, k from 0 to 3.</summary>
    public ImmutableArray<double> CountDistribution() => [_none / Total, .. _layers.Select(l => l.Sum / Total)];

    /// <summary>
    /// Posterior probability of each group of entries: that at least one member is present.
    /// With every entry a group of its own, the marginals.
    /// </summary>
    /// <param name="groupOf">Group of each entry.</param>
    /// <param name="groups">Number of groups.</param>
    public double[] Marginals(IReadOnlyList<int> groupOf, int groups)
    {
        var sums = new double[groups];
        foreach (var layer in _layers)
            layer.AddTo(sums, groupOf);
        for (var g = 0; g < groups; g++)
            sums[g] = Math.Clamp(sums[g] / Total, 0, 1);
        return sums;
    }

    /// <summary>The likeliest sets, likeliest first.</summary>
    /// <param name="least">Sets below this probability are left out.</param>
    /// <param name="most">At most so many.</param>
    public ImmutableArray<Hypothesis> Leading(double least, int most)
    {
        var kept = new Heaviest(most, least * Total);
        for (var l = 0; l < _layers.Length; l++)
            _layers[l].AddTo(kept, l);
        var found = ImmutableArray.CreateBuilder<Hypothesis>(most);
        var none = new Hypothesis([], _none / Total);
        var noneIsIn = _none < least * Total;
        foreach (var (weight, set) in kept.All())
        {
            if (!noneIsIn && weight < _none)
            {
                found.Add(none);
                noneIsIn = true;
            }

            if (found.Count >= most)
                break;
            found.Add(new Hypothesis(_layers[set.Layer].MembersOf(set), weight / Total));
        }

        if (!noneIsIn && found.Count < most)
            found.Add(none);
        return found.ToImmutable();
    }

    /// <summary>
    /// The entries with those first that each set of two has one of: the likeliest alone, and the likeliest with any partner.
    /// </summary>
    private static int[] HeadsFirst(int[] entries, double[] alone, double[] bounds)
    {
        int[] likeliest = [.. entries.OrderByDescending(i => alone[i]).Take(HeadsOfPairs * 2 / 3)];
        var taken = likeliest.ToHashSet();
        int[] heads =
        [
            .. likeliest,
            .. entries.Where(i => !taken.Contains(i)).OrderByDescending(i => bounds[i]).Take(HeadsOfPairs - likeliest.Length),
        ];
        taken.UnionWith(heads);
        return [.. heads, .. entries.Where(i => !taken.Contains(i))];
    }

    /// <summary>Per entry, the logarithm of the most that its odds and the evidence leave of any set with it in.</summary>
    private static double[] Bounds(Makeup makeup, ImmutableArray<EvidenceColumn> evidence)
    {
        var bounds = new double[makeup.Odds.Length];
        for (var i = 0; i < bounds.Length; i++)
            bounds[i] = Math.Log(makeup.Odds[i]);
        foreach (var column in evidence)
        {
            var stall = column.MostOfStall();
            for (var i = 0; i < bounds.Length; i++)
                bounds[i] += Math.Log(column.Most(i) * stall);
        }

        return bounds;
    }

    /// <summary>The entries that sets of a size are formed of: all but those that together can weigh no more than allowed.</summary>
    private static int[] Admitted(double[] bounds, Makeup makeup, double[] counts, int size, double allowed, double shift, out double left)
    {
        left = 0;
        if (allowed <= 0)
            return [.. Enumerable.Range(0, bounds.Length)];
        var odds = makeup.Odds.Sum();
        var factor = (size == 2 ? odds : odds * odds / 2) * counts.Max();
        var reach = Partners(makeup, odds);
        var most = new double[bounds.Length];
        for (var i = 0; i < most.Length; i++)
            most[i] = Math.Exp(bounds[i] - shift) * factor * Math.Pow(reach[makeup.Owner[i]], size - 1);
        int[] order = [.. Enumerable.Range(0, most.Length).OrderBy(i => most[i])];
        var dropped = 0;
        while (dropped < order.Length && left + most[order[dropped]] <= allowed)
            left += most[order[dropped++]];
        return [.. order.Skip(dropped).Order()];
    }

    /// <summary>Per owner, how much likelier its partners are on the whole than by chance.</summary>
    private static double[] Partners(Makeup makeup, double odds)
    {
        var owners = makeup.Owners;
        var partners = new double[owners];
        Array.Fill(partners, 1);
        if (makeup.Coupling is not { } coupling)
            return partners;
        var byOwner = new double[owners];
        for (var i = 0; i < makeup.Owner.Length; i++)
            byOwner[makeup.Owner[i]] += makeup.Odds[i];
        for (var a = 0; a < owners; a++)
        {
            var sum = 0.0;
            for (var b = 0; b < owners; b++)
                sum += byOwner[b] * coupling[a][b];
            partners[a] = Math.Max(1, sum / odds);
        }

        return partners;
    }

    private static double NoneOf(double[] counts, ImmutableArray<EvidenceColumn> evidence, double shift)
    {
        var log = Math.Log(Math.Max(counts[0], 1e-300)) - shift;
        foreach (var column in evidence)
            log += Math.Log(column.Likelihood([]));
        return Math.Exp(log);
    }
}
