using System.Collections.Immutable;
using System.Globalization;

namespace Kelvet.Core.Supplies;

/// <summary>What a reading says of its rail.</summary>
public enum RailVerdict
{
    /// <summary>Inside of its limits, whatever the instrument's error.</summary>
    Inside,

    /// <summary>So near to a limit that the instrument cannot tell.</summary>
    AtTheLimit,

    /// <summary>Outside, whatever the instrument's error.</summary>
    Outside,

    /// <summary>Not there at all.</summary>
    Missing,
}

/// <summary>A rail that was read as a number.</summary>
public sealed record RailReading
{
    /// <summary>Most volts of a reading, up or down.</summary>
    public const double MostVolts = 30;

    /// <summary>Below this share of its nominal voltage a rail is not there.</summary>
    private const double There = 0.25;

    /// <summary>A reading.</summary>
    /// <param name="rail">The rail.</param>
    /// <param name="volts">Volts with their sign, -30 to 30.</param>
    /// <param name="load">How the supply was loaded.</param>
    /// <param name="by">What it was read with.</param>
    /// <param name="at">Where.</param>
    /// <exception cref="ArgumentException">It is no voltage of a supply.</exception>
    public RailReading(Rail rail, double volts, RailLoad load, Instrument by, RailSpot at)
    {
        if (!double.IsFinite(volts) || Math.Abs(volts) > MostVolts)
            throw new ArgumentException($"A rail has -{MostVolts:0} to {MostVolts:0} V.", nameof(volts));
        (Rail, Volts, Load, By, At) = (rail, volts, load, by, at);
    }

    /// <summary>The rail.</summary>
    public Rail Rail { get; }

    /// <summary>Volts, with their sign.</summary>
    public double Volts { get; }

    /// <summary>How the supply was loaded.</summary>
    public RailLoad Load { get; }

    /// <summary>What it was read with.</summary>
    public Instrument By { get; }

    /// <summary>Where.</summary>
    public RailSpot At { get; }

    /// <summary>What it says, by a guide.</summary>
    public RailVerdict Verdict(SupplyGuide guide)
    {
        var limits = RailLimits.Of(Rail, guide);
        var (low, high) = limits.Nominal < 0 ? (limits.High, limits.Low) : (limits.Low, limits.High);
        if (Math.Abs(Volts) < There * Math.Abs(limits.Nominal) || Math.Sign(Volts) != Math.Sign(limits.Nominal))
            return RailVerdict.Missing;
        var error = (Accuracy.Of(By).Share * Math.Abs(Volts)) + Accuracy.Of(By).Digits;
        return Volts - error > low && Volts + error < high ? RailVerdict.Inside
            : Volts + error < low || Volts - error > high ? RailVerdict.Outside
            : RailVerdict.AtTheLimit;
    }

    /// <summary>Whether it counts as a finding: outside, or not there. What the instrument cannot tell is none.</summary>
    public bool IsOut(SupplyGuide guide) => Verdict(guide) is RailVerdict.Outside or RailVerdict.Missing;

    /// <summary>
    /// How much likelier this number is where the rail is out of its limits than where it is sound. A sound rail is a normal
    /// distribution about what a sound supply shows at that load; one that is out lies beyond a limit by an exponential, or is not there;
    /// each with the instrument's error (normal). Held to <see cref="MostRatio"/>, up and down: a slip of the pen is never a proof.
    /// </summary>
    public double Ratio(SupplyGuide guide) => Math.Clamp(WhenOut(guide) / Math.Max(WhenSound(guide), 1e-300), 1 / MostRatio, MostRatio);

    /// <summary>The most that one number counts.</summary>
    public const double MostRatio = 1000;

    /// <summary>Density of the number where the rail is sound, per volt.</summary>
    public double WhenSound(SupplyGuide guide)
    {
        var limits = RailLimits.Of(Rail, guide);
        var (mean, spread) = Sound(limits);
        var error = Accuracy.Of(By).Deviation(limits.Nominal);
        return Normal(Along(limits), mean, Math.Sqrt((spread * spread) + (error * error)));
    }

    /// <summary>Density of the number where the rail is out of its limits, per volt.</summary>
    public double WhenOut(SupplyGuide guide)
    {
        var limits = RailLimits.Of(Rail, guide);
        var error = Accuracy.Of(By).Deviation(limits.Nominal);
        var (low, high, nominal, v) = (Math.Abs(limits.Low), Math.Abs(limits.High), Math.Abs(limits.Nominal), Along(limits));
        return (Missing * Normal(v, 0, Math.Sqrt((error * error) + (AboutNothing * AboutNothing))))
            + (TooLow * Beyond(low - v, Below * nominal, error))
            + ((1 - Missing - TooLow) * Beyond(v - high, Above * nominal, error));
    }

    /// <summary>Volts in the rail's own direction.</summary>
    private double Along(RailLimits limits) => Volts * Math.Sign(limits.Nominal);

    /// <summary>Of rails that are out: not there, too low; the rest are too high. Bench judgement.</summary>
    private const double Missing = 0.25,
        TooLow = 0.65;

    /// <summary>How far beyond the limit on average, as a share of the nominal voltage. Bench judgement.</summary>
    private const double Below = 0.05,
        Above = 0.03;

    /// <summary>A rail that is not there floats by about this, volts. Bench judgement.</summary>
    private const double AboutNothing = 0.15;

    /// <summary>Where a sound rail stands, volts: its sag and its spread as shares of the nominal. Bench judgement.</summary>
    private (double Mean, double Spread) Sound(RailLimits limits)
    {
        var nominal = Math.Abs(limits.Nominal);
        var (sag, spread) = Load switch
        {
            RailLoad.None => (-0.003, 0.010),
            RailLoad.Idle => (0.004, 0.011),
            _ => (0.015, 0.013),
        };
        // What the way from the plug drops comes on top.
        var way = At switch
        {
            RailSpot.OwnPlug => 0,
            RailSpot.ExtensionEnd => Load == RailLoad.None ? 0 : 0.005,
            _ => Load == RailLoad.Full ? 0.008 : 0.003,
        };
        // The negative rail is held loosely: its limits are twice as wide.
        var loose = Rail == Rail.Minus12 ? 2 : 1;
        return (nominal * (1 - sag - way), nominal * spread * loose);
    }

    private static double Normal(double x, double mean, double deviation)
    {
        var z = (x - mean) / deviation;
        return Math.Exp(-z * z / 2) / (deviation * Math.Sqrt(2 * Math.PI));
    }

    /// <summary>
    /// Density of an exponential distance beyond a limit, with a normal error: the exponentially modified Gaussian (Grushka, Analytical
    /// Chemistry 44 (1972) 1733), from memory, by the scaled complementary error function so that nothing overflows.
    /// </summary>
    /// <param name="distance">From the limit outward.</param>
    /// <param name="mean">Mean distance.</param>
    /// <param name="error">Standard deviation of the error.</param>
    private static double Beyond(double distance, double mean, double error)
    {
        var rate = 1 / mean;
        var u = ((rate * error * error) - distance) / (error * Math.Sqrt(2));
        // erfc(u) exp(...) where u is small or negative; by its scaled form where it is large.
        return u < 5
            ? rate / 2 * Math.Exp((rate * rate * error * error / 2) - (rate * distance)) * Erfc(u)
            : rate / 2 * Math.Exp(-distance * distance / (2 * error * error)) * ScaledErfc(u);
    }

    /// <summary>exp(x²) erfc(x) for large x, by its continued fraction (Abramowitz and Stegun, 7.1.14, from memory).</summary>
    private static double ScaledErfc(double x)
    {
        var fraction = x;
        for (var k = 60; k >= 1; k--)
            fraction = x + (k / 2.0 / fraction);
        return 1 / (fraction * Math.Sqrt(Math.PI));
    }

    /// <summary>The complementary error function: its series about nought, and the continued fraction beyond.</summary>
    private static double Erfc(double x)
    {
        if (x < 0)
            return 2 - Erfc(-x);
        if (x > 2.5)
            return Math.Exp(-x * x) * ScaledErfc(x);
        // erf by its series (Abramowitz and Stegun, 7.1.6, from memory): all terms positive.
        double term = x,
            sum = x;
        for (var n = 1; n < 200 && term > 1e-18 * sum; n++)
            sum += term *= 2 * x * x / ((2 * n) + 1);
        return 1 - (2 / Math.Sqrt(Math.PI) * Math.Exp(-x * x) * sum);
    }

    /// <summary>How much likelier several numbers of one supply are where some rail is out: which one is open, each as likely.</summary>
    public static double Ratio(IReadOnlyCollection<RailReading> readings, SupplyGuide guide) =>
        readings.Count == 0 ? 1 : Math.Clamp(readings.Average(r => r.Ratio(guide)), 1 / MostRatio, MostRatio);
}

/// <summary>Readings as the job format writes them: "12=11.42 5=5.03", all at one load and place and by one instrument.</summary>
public static class RailText
{
    private static readonly ImmutableArray<(Rail Rail, string Text, string Words)> Names =
    [
        (Rail.V12, "12", "+12 V"),
        (Rail.V5, "5", "+5 V"),
        (Rail.V33, "3.3", "+3.3 V"),
        (Rail.Minus12, "-12", "-12 V"),
        (Rail.Standby5, "5sb", "+5 V standby"),
    ];

    /// <summary>"+12 V".</summary>
    public static string Words(this Rail rail) => Names[(int)rail].Words;

    /// <summary>The name in a file: "12".</summary>
    public static string Key(this Rail rail) => Names[(int)rail].Text;

    /// <summary>The rail of a name in a file; null for none.</summary>
    public static Rail? Read(string key) => Names.Where(n => n.Text == key).Select(n => (Rail?)n.Rail).FirstOrDefault();

    /// <summary>"inside its limits".</summary>
    public static string Words(this RailVerdict verdict) =>
        verdict switch
        {
            RailVerdict.Inside => "inside its limits",
            RailVerdict.AtTheLimit => "too near the limit for this instrument to tell",
            RailVerdict.Outside => "outside of its limits",
            _ => "not there",
        };

    /// <summary>"without load".</summary>
    public static string Words(this RailLoad load) =>
        load switch
        {
            RailLoad.None => "without load",
            RailLoad.Idle => "idle",
            _ => "under load",
        };

    /// <summary>"at the supply's own plug".</summary>
    public static string Words(this RailSpot spot) =>
        spot switch
        {
            RailSpot.OwnPlug => "at the supply's own plug",
            RailSpot.ExtensionEnd => "at the end of the extension",
            RailSpot.AtBoard => "at the board",
            _ => "at the card",
        };

    /// <summary>"a meter".</summary>
    public static string Words(this Instrument instrument) =>
        instrument switch
        {
            Instrument.Tester => "a tester",
            Instrument.Meter => "a meter",
            _ => "the board's sensor",
        };

    /// <summary>"+12 V 11.42 V: outside of its limits".</summary>
    public static string Words(this RailReading reading, SupplyGuide guide) =>
        $"{reading.Rail.Words()} {reading.Volts.ToString("0.00", CultureInfo.InvariantCulture)} V: {reading.Verdict(guide).Words()}";
}
