namespace Kelvet.Core.Planning;

/// <summary>A step as the choice sees it: what it costs and how likely each outcome is under each hypothesis.</summary>
/// <param name="Minutes">Bench minutes, above 0.</param>
/// <param name="Chances"><c>Chances[o][h]</c>: chance, 0 to 1, of outcome o if hypothesis h is true; over o they add up to 1.</param>
public sealed record Prospect(double Minutes, double[][] Chances);

/// <summary>
/// Chooses among steps by the expected fall in uncertainty about what to act on, per minute; where the best few are
/// close, by what they and the best step after them give together.
/// </summary>
public sealed class Choice
{
    /// <summary>Options whose rate is at least this share of the best are looked at two steps deep.</summary>
    private const double Close = 0.7;

    /// <summary>At most so many options are looked at two steps deep.</summary>
    private const int MostDeep = 5;

    private readonly double[] _prior;
    private readonly int[] _groupOf;
    private readonly int _groups;

    /// <param name="prior">Probability of each hypothesis; they add up to 1.</param>
    /// <param name="groupOf">What would be acted on under each hypothesis, as a number from 0.</param>
    public Choice(double[] prior, int[] groupOf)
    {
        _prior = prior;
        _groupOf = groupOf;
        _groups = groupOf.Length == 0 ? 0 : groupOf.Max() + 1;
        Uncertainty = Entropy(prior);
    }

    /// <summary>Uncertainty about what to act on now, bits.</summary>
    public double Uncertainty { get; }

    /// <summary>Expected fall in uncertainty by a step, bits, 0 or more.</summary>
    public double Gain(Prospect prospect) => Gain(Uncertainty, _prior, prospect);

    /// <summary>The index of the best prospect, by rate and two steps deep where rates are close; -1 when none gains anything.</summary>
    /// <param name="options">The steps.</param>
    /// <param name="gains">Their gains, as <see cref="Gain(Prospect)"/> gives them.</param>
    /// <param name="penalty">Minutes added to each step for what it puts at risk; empty for none.</param>
    public int Best(IReadOnlyList<Prospect> options, IReadOnlyList<double> gains, IReadOnlyList<double>? penalty = null)
    {
        double Cost(int i) => options[i].Minutes + (penalty?[i] ?? 0);
        int[] order = [.. Enumerable.Range(0, options.Count).Where(i => gains[i] > 0).OrderByDescending(i => gains[i] / Cost(i))];
        if (order.Length == 0)
            return -1;
        var bestRate = gains[order[0]] / Cost(order[0]);
        int[] close = [.. order.TakeWhile(i => gains[i] / Cost(i) >= Close * bestRate).Take(MostDeep)];
        if (close.Length == 1)
            return close[0];

        // A second step is looked for among the best by rate: what gains little now seldom gains much next.
        int[] second = [.. order.Take(3 * MostDeep)];
        return close.MaxBy(first =>
        {
            double gained = gains[first],
                minutes = Cost(first);
            foreach (var chances in options[first].Chances)
            {
                var (p, posterior) = Given(_prior, chances);
                if (p < 0.01)
                    continue;
                var entropy = Entropy(posterior);
                if (entropy < 0.05)
                    continue;
                var next = second
                    .Where(i => i != first)
                    .Select(i => (Gain: Gain(entropy, posterior, options[i]), Minutes: Cost(i)))
                    .DefaultIfEmpty((Gain: 0.0, Minutes: 1.0))
                    .MaxBy(s => s.Gain / s.Minutes);
                if (next.Gain <= 0)
                    continue;
                gained += p * next.Gain;
                minutes += p * next.Minutes;
            }

            return gained / minutes;
        });
    }

    /// <summary>The fall from a known entropy; the sums over groups suffice, no posterior is laid out.</summary>
    private double Gain(double before, double[] prior, Prospect prospect)
    {
        Span<double> groups = _groups <= 1024 ? stackalloc double[_groups] : new double[_groups];
        var after = 0.0;
        foreach (var chances in prospect.Chances)
        {
            groups.Clear();
            var p = 0.0;
            for (var h = 0; h < prior.Length; h++)
            {
                var w = prior[h] * chances[h];
                p += w;
                groups[_groupOf[h]] += w;
            }

            if (p <= 0)
                continue;
            var bits = p * Math.Log2(p);
            foreach (var g in groups)
            {
                if (g > 0)
                    bits -= g * Math.Log2(g);
            }

            after += bits;
        }

        return Math.Max(0, before - after);
    }

    /// <summary>Probability of an outcome, and the hypotheses after it.</summary>
    public static (double Probability, double[] Posterior) Given(double[] prior, double[] chances)
    {
        var posterior = new double[prior.Length];
        var p = 0.0;
        for (var h = 0; h < prior.Length; h++)
            p += posterior[h] = prior[h] * chances[h];
        if (p <= 0)
            return (0, posterior);
        for (var h = 0; h < prior.Length; h++)
            posterior[h] /= p;
        return (p, posterior);
    }

    private double Entropy(double[] probabilities)
    {
        Span<double> groups = _groups <= 1024 ? stackalloc double[_groups] : new double[_groups];
        for (var h = 0; h < probabilities.Length; h++)
            groups[_groupOf[h]] += probabilities[h];
        var bits = 0.0;
        foreach (var g in groups)
        {
            if (g > 0)
                bits -= g * Math.Log2(g);
        }

        return bits;
    }
}
