using Kelvet.Core.Observed;

namespace Kelvet.Core.Proving;

/// <summary>What a rise of temperature says of the cooling.</summary>
public enum HeatVerdict
{
    /// <summary>It settles below the limit.</summary>
    Fine,

    /// <summary>It settles at the limit: the processor holds itself back.</summary>
    Throttles,

    /// <summary>It would settle above the limit, slowly: too little air, dust, a weak fan or pump.</summary>
    WeakCooling,

    /// <summary>It reaches the limit within seconds: the cooler has no contact.</summary>
    NoContact,

    /// <summary>Too few readings, or none that rise.</summary>
    NotToBeSaid,
}

/// <summary>
/// The rise of a temperature after a load began, as of one heat capacity behind one thermal resistance (first order, lumped):
/// T(t) = end - (end - start) exp(-t / tau). Textbook form, e.g. Incropera and DeWitt, Fundamentals of Heat and Mass Transfer,
/// chapter 5 (from memory). Fitted by least squares: end and start follow linearly from tau, and tau by golden section.
/// </summary>
/// <param name="Start">Temperature when the load began, degrees Celsius.</param>
/// <param name="End">Temperature that it settles at, degrees Celsius.</param>
/// <param name="Tau">Time constant, seconds: after it, 63 % of the rise is done.</param>
/// <param name="Error">Root mean square of what the curve leaves over, kelvin.</param>
/// <param name="Readings">How many readings it is fitted to.</param>
/// <param name="Hottest">The hottest reading, degrees Celsius.</param>
/// <param name="AtLimitAfter">Seconds until a reading first was at the limit; null where none was.</param>
public sealed record HeatRun(double Start, double End, double Tau, double Error, int Readings, double Hottest, double? AtLimitAfter)
{
    /// <summary>Limit where none is told: most processors hold themselves back from here on. Common practice.</summary>
    public const double UsualLimit = 95;

    /// <summary>Least readings that are fitted.</summary>
    public const int Least = 8;

    /// <summary>Seconds within which only a cooler without contact lets it reach the limit. Common practice.</summary>
    public const double AtOnce = 20;

    /// <summary>Readings that the time constant is searched with.</summary>
    private const int MostFitted = 5_000;

    private const double ShortestTau = 0.5,
        LongestTau = 7200;

    /// <summary>Thermal resistance from the sensor to the air, kelvin per watt; null for no draw.</summary>
    /// <param name="watts">Draw of the part under load, watts, above 0.</param>
    /// <param name="air">Temperature of the air, degrees Celsius.</param>
    public double? Resistance(double watts, double air) => watts > 0 ? (End - air) / watts : null;

    /// <summary>What the rise says.</summary>
    /// <param name="limit">Temperature at which the part holds itself back, degrees Celsius.</param>
    public HeatVerdict Verdict(double limit)
    {
        if (AtLimitAfter is <= AtOnce)
            return HeatVerdict.NoContact;
        if (Readings < Least || End <= Start)
            return HeatVerdict.NotToBeSaid;
        if (AtLimitAfter is not null)
            return End > limit + 5 ? HeatVerdict.WeakCooling : HeatVerdict.Throttles;
        return End >= limit ? HeatVerdict.WeakCooling : HeatVerdict.Fine;
    }

    /// <summary>Fits the curve to readings; null with fewer than <see cref="Least"/>, or all at one time.</summary>
    /// <param name="readings">Readings of one run.</param>
    /// <param name="limit">Temperature at which the part holds itself back: what is held there is left out of the fit.</param>
    public static HeatRun? Fit(IReadOnlyList<Heat> readings, double limit = UsualLimit)
    {
        Heat[] all = [.. readings.Where(r => double.IsFinite(r.Seconds) && double.IsFinite(r.Celsius)).OrderBy(r => r.Seconds)];
        if (all.Length < Least || all[^1].Seconds - all[0].Seconds <= 0)
            return null;
        var begun = all[0].Seconds;
        Heat[] from = [.. all.Select(r => r with { Seconds = r.Seconds - begun })];
        var at = Array.FindIndex(from, r => r.Celsius >= limit);
        // What is held at the limit tells of the limit, not of the cooling.
        var rising = at >= Least ? from[..(at + 1)] : from;
        var (low, high) = (Math.Log(ShortestTau), Math.Log(LongestTau));
        var golden = (Math.Sqrt(5) - 1) / 2;
        // Many readings are fitted by the means of neighbours: their noise goes, the curve stays.
        var means = Means(rising);
        // A coarse look first: the sum of squares has one valley in tau, flat far from it.
        var best = Enumerable.Range(0, 60).Select(i => low + ((high - low) * i / 59)).MinBy(l => Linear(means, Math.Exp(l)).Squares);
        var step = (high - low) / 59;
        (low, high) = (best - step, best + step);
        for (var i = 0; i < 60; i++)
        {
            var (a, b) = (high - (golden * (high - low)), low + (golden * (high - low)));
            if (Linear(means, Math.Exp(a)).Squares < Linear(means, Math.Exp(b)).Squares)
                high = b;
            else
                low = a;
        }

        var tau = Math.Exp((low + high) / 2);
        var (start, end, squares) = Linear(rising, tau);
        return new HeatRun(
            start,
            end,
            tau,
            Math.Sqrt(squares / rising.Length),
            rising.Length,
            from.Max(r => r.Celsius),
            at < 0 ? null : from[at].Seconds
        );
    }

    /// <summary>Means of neighbouring readings, at most <see cref="MostFitted"/>; the readings themselves where there are no
    /// more.</summary>
    private static Heat[] Means(Heat[] readings)
    {
        var each = (readings.Length + MostFitted - 1) / MostFitted;
        return each <= 1 ? readings : [.. readings.Chunk(each).Select(c => new Heat(c.Average(r => r.Seconds), c.Average(r => r.Celsius)))];
    }

    /// <summary>Least squares of T = end + c exp(-t / tau) in end and c.</summary>
    private static (double Start, double End, double Squares) Linear(Heat[] readings, double tau)
    {
        double n = readings.Length,
            sx = 0,
            sy = 0,
            sxx = 0,
            sxy = 0;
        foreach (var r in readings)
        {
            var x = Math.Exp(-r.Seconds / tau);
            (sx, sy, sxx, sxy) = (sx + x, sy + r.Celsius, sxx + (x * x), sxy + (x * r.Celsius));
        }

        var det = (n * sxx) - (sx * sx);
        var c = Math.Abs(det) < 1e-12 ? 0 : ((n * sxy) - (sx * sy)) / det;
        var end = (sy - (c * sx)) / n;
        var squares = 0.0;
        foreach (var r in readings)
        {
            var miss = r.Celsius - end - (c * Math.Exp(-r.Seconds / tau));
            squares += miss * miss;
        }

        return (end + c, end, squares);
    }
}
