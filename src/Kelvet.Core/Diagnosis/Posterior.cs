using System.Collections.Immutable;
using Kelvet.Core.Evidence;

namespace Kelvet.Core.Diagnosis;

/// <summary>A set of faults, each in one of its forms, that may explain the log, with its posterior probability.</summary>
/// <param name="Forms">Indices of the entries, rising; empty for "nothing found here".</param>
/// <param name="Probability">Posterior, 0 to 1.</param>
public sealed record Hypothesis(ImmutableArray<int> Forms, double Probability);

/// <summary>How many sets a posterior weighs.</summary>
/// <param name="Heads">Where there are more entries than this, each set of two has one of so many in it: the likeliest.</param>
/// <param name="Trios">Sets of three are formed from at most so many entries, the likeliest by the sets of one and two.</param>
/// <param name="Neglect">Share of the whole, 0 to 1, that may be left out of sets of two and three each.</param>
public sealed record Breadth(int Heads, int Trios, double Neglect)
{
    /// <summary>Chosen by measurement: <c>cli bench --breadth</c> prints what each costs and how far it is off.</summary>
    public static Breadth Usual { get; } = new(160, 120, 1e-3);

    /// <summary>Every set.</summary>
    public static Breadth All { get; } = new(int.MaxValue, int.MaxValue, 0);
}

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

    /// <summary>Up to so many entries nothing is left out.</summary>
    private const int FewEnough = 100;

    /// <summary>A posterior that has left out more than this after further evidence, and so many times what it did when it was worked
    /// out, is worked out afresh.</summary>
    private const double MostNeglect = 0.03,
        MostWorse = 1.5;

    /// <summary>Sets of three are first formed of so many times fewer entries, which is enough where the rest is estimated to add no
    /// more than this share of the whole.</summary>
    private const int Few = 3;
    private const double FewAreEnough = 0.003;

    private readonly Makeup _makeup;
    private readonly double[] _counts;
    private readonly Breadth _breadth;
    private readonly ImmutableArray<EvidenceColumn> _evidence;
    private readonly double _none;
    private readonly Layer[] _layers;

    /// <summary>Entries that might matter in sets of three and are in none, being less likely than those that are.</summary>
    private readonly int[] _outranked;

    /// <summary>What the sets that were left out by their bounds can weigh at most, against the whole.</summary>
    private readonly double _bound;
    private readonly double _leftOutAtFirst;

    private Posterior(
        Makeup makeup,
        double[] counts,
        ImmutableArray<EvidenceColumn> evidence,
        double none,
        Layer[] layers,
        Breadth breadth,
        int[] outranked,
        double bound,
        double? leftOutAtFirst = null,
        double[]? smaller = null
    )
    {
        _makeup = makeup;
        _counts = counts;
        _evidence = evidence;
        _none = none;
        _layers = layers;
        _breadth = breadth;
        _outranked = outranked;
        _bound = bound;
        Total = none + layers.Sum(l => l.Sum);
        LeftOut = Math.Min(1, bound + ((layers[1].Unheaded() + OutrankedOf(layers, none, smaller)) / Total));
        _leftOutAtFirst = leftOutAtFirst ?? LeftOut;
    }

    /// <summary>About what sets of three with an outranked entry weigh: as much as its share of the smaller sets lets expect.</summary>
    private double OutrankedOf(Layer[] layers, double none, double[]? smaller)
    {
        if (_outranked.Length == 0 || layers[1].Sum <= 0)
            return 0;
        smaller ??= SmallerSets(_makeup.Odds.Length, layers[0], layers[1], none);
        return _outranked.Sum(f => smaller[f]) * layers[2].Sum / layers[1].Sum * (none + layers.Sum(l => l.Sum));
    }

    /// <summary>Per entry, its share of what the sets of none, one and two weigh.</summary>
    private static double[] SmallerSets(int entries, Layer singles, Layer twos, double none)
    {
        var sums = new double[entries];
        int[] each = [.. Enumerable.Range(0, entries)];
        singles.AddTo((each, sums));
        twos.AddTo((each, sums));
        var all = none + singles.Sum + twos.Sum;
        return [.. sums.Select(s => s / all)];
    }

    private double Total { get; }

    /// <summary>Number of sets that were weighed one by one.</summary>
    public int Sets => 1 + _layers.Sum(l => l.Sets);

    /// <summary>An upper estimate, 0 to 1, of the share of the whole that lies in sets that were left out.</summary>
    public double LeftOut { get; }

    /// <summary>The posterior of independent faults, exactly.</summary>
    /// <param name="odds">Prior odds of each fault.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    /// <param name="coupling">As in <see cref="Makeup.Coupling"/>.</param>
    public static Posterior Of(IReadOnlyList<double> odds, IReadOnlyList<EvidenceColumn> evidence, double[][]? coupling = null) =>
        Of(Makeup.Of(odds) with { Coupling = coupling }, evidence, Breadth.All);

    /// <param name="makeup">What may be wrong.</param>
    /// <param name="evidence">All evidence, in any order.</param>
    /// <param name="breadth">How many sets are weighed; null for the usual.</param>
    public static Posterior Of(Makeup makeup, IReadOnlyList<EvidenceColumn> evidence, Breadth? breadth = null)
    {
        breadth ??= Breadth.Usual;
        if (makeup.Odds.Length <= FewEnough)
            breadth = Breadth.All;
        var counts = makeup.CountFactors();
        ImmutableArray<EvidenceColumn> pieces = [.. evidence];
        int[] every = [.. Enumerable.Range(0, makeup.Odds.Length)];
        // One scale for all layers, so that a long log does not run out of the exponent.
        var bounds = Bounds(makeup, pieces);
        var shift = bounds.DefaultIfEmpty(0).Max();
        var none = NoneOf(counts, pieces, shift);
        var tied = makeup.Tied();
        var singles = Layer.Of(1, every, makeup, tied, counts, pieces, shift);
        var sofar = none + singles.Sum;
        var pairs = Admitted(bounds, makeup, counts, 2, sofar * breadth.Neglect, shift, out var leftInPairs);
        var heads = pairs.Length;
        if (pairs.Length > breadth.Heads)
            (pairs, heads) = (HeadsFirst(pairs, singles.Alone, bounds, breadth.Heads), breadth.Heads);
        var twos = Layer.Of(2, pairs, makeup, tied, counts, pieces, shift, heads);
        sofar += twos.Sum;
        var trios = Admitted(bounds, makeup, counts, 3, sofar * breadth.Neglect, shift, out var leftInTrios);
        int[] outranked = [];
        double[]? smaller = null;
        var threes = trios.Length <= breadth.Trios ? Layer.Of(3, trios, makeup, tied, counts, pieces, shift) : null;
        if (threes is null)
        {
            smaller = SmallerSets(every.Length, singles, twos, none);
            int[] ranked = [.. trios.OrderByDescending(f => smaller[f])];
            // A few are enough where sets of three weigh little.
            foreach (var most in new[] { breadth.Trios / Few, breadth.Trios })
            {
                outranked = ranked[most..];
                threes = Layer.Of(3, [.. ranked.Take(most).Order()], makeup, tied, counts, pieces, shift);
                if (outranked.Sum(f => smaller[f]) * threes.Sum <= FewAreEnough * twos.Sum)
                    break;
            }
        }

        sofar += threes!.Sum;
        if (!(sofar > 0))
            throw new InvalidOperationException(
                "No set of faults explains the log: every likelihood must be above 0, which a slip above 0 ensures."
            );
        return new Posterior(
            makeup,
            counts,
            pieces,
            none,
            [singles, twos, threes],
            breadth,
            outranked,
            (leftInPairs + leftInTrios) / sofar,
            smaller: smaller
        );
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
        if (total < 1e-200)
            return Of(_makeup, longer, _breadth);
        var more = new Posterior(_makeup, _counts, longer, none, layers, _breadth, _outranked, _bound * Total / total, _leftOutAtFirst);
        return more.LeftOut > Math.Max(MostNeglect, MostWorse * _leftOutAtFirst) ? Of(_makeup, longer, _breadth) : more;
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
    public double[] Marginals(IReadOnlyList<int> groupOf, int groups) => Marginals(([.. groupOf], groups))[0];

    /// <summary>The same for several ways to group them, which costs little more than one.</summary>
    /// <param name="groupings">Group of each entry, and number of groups, of each way.</param>
    public double[][] Marginals(params ReadOnlySpan<(int[] GroupOf, int Groups)> groupings)
    {
        var ways = new (int[], double[] Sums)[groupings.Length];
        for (var k = 0; k < ways.Length; k++)
            ways[k] = (groupings[k].GroupOf, new double[groupings[k].Groups]);
        foreach (var layer in _layers)
            layer.AddTo(ways);
        return Array.ConvertAll(ways, w => Array.ConvertAll(w.Sums, sum => Math.Clamp(sum / Total, 0, 1)));
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
    private static int[] HeadsFirst(int[] entries, double[] alone, double[] bounds, int most)
    {
        int[] likeliest = [.. entries.OrderByDescending(i => alone[i]).Take(most * 2 / 3)];
        var taken = likeliest.ToHashSet();
        int[] heads =
        [
            .. likeliest,
            .. entries.Where(i => !taken.Contains(i)).OrderByDescending(i => bounds[i]).Take(most - likeliest.Length),
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
