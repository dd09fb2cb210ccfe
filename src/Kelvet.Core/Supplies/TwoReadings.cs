using System.Globalization;

namespace Kelvet.Core.Supplies;

/// <summary>What two readings of one rail tell.</summary>
public enum TwoReadingsSay
{
    /// <summary>The supply holds its voltage.</summary>
    Holds,

    /// <summary>The supply sags more than a sound one.</summary>
    SupplySags,

    /// <summary>A plug, cable or extension drops it.</summary>
    WayDrops,

    /// <summary>So much that the contact burns.</summary>
    WillBurn,

    /// <summary>They are too near to each other, or the current too small, for these instruments to tell.</summary>
    NotToBeSaid,
}

/// <summary>
/// Two readings of one rail: at two loads they tell the supply's own resistance, at both ends of a plug or extension that of the way.
/// Ohm's law and the error of both instruments, nothing else.
/// </summary>
/// <param name="Milliohms">Resistance, milliohms.</param>
/// <param name="Error">Its standard deviation, milliohms.</param>
/// <param name="Watts">Heat in it at the larger current, watts.</param>
/// <param name="Say">What follows.</param>
public sealed record TwoReadings(double Milliohms, double Error, double Watts, TwoReadingsSay Say)
{
    /// <summary>Contacts that turn more than this to heat, watts, go brown. Common practice, no source.</summary>
    public const double Burns = 2;

    /// <summary>A way that drops more of the nominal voltage than this is to be looked at. Common practice, no source.</summary>
    public const double WayMost = 0.02;

    /// <summary>Least difference of current, amperes, that tells anything.</summary>
    private const double LeastAmps = 1;

    /// <summary>The same rail at the same place at two loads: sag for each ampere.</summary>
    /// <param name="light">At the smaller load.</param>
    /// <param name="heavy">At the larger load.</param>
    /// <param name="lightAmps">Current then, amperes, 0 upward.</param>
    /// <param name="heavyAmps">Current then, amperes.</param>
    /// <param name="ratedAmps">What the rail is rated for, amperes, above 0.</param>
    /// <param name="guide">By which guide.</param>
    /// <exception cref="ArgumentException">They are not two readings of one rail at one place.</exception>
    public static TwoReadings AtTwoLoads(
        RailReading light,
        RailReading heavy,
        double lightAmps,
        double heavyAmps,
        double ratedAmps,
        SupplyGuide guide
    )
    {
        if (light.Rail != heavy.Rail || light.At != heavy.At)
            throw new ArgumentException("Sag is told by one rail at one place, at two loads.", nameof(heavy));
        if (!(lightAmps >= 0) || !(ratedAmps > 0))
            throw new ArgumentException("Currents are 0 A or more, and a rail is rated for more than nothing.", nameof(ratedAmps));
        var amps = heavyAmps - lightAmps;
        var (ohms, error) = Between(light, heavy, amps);
        var limits = RailLimits.Of(light.Rail, guide);
        // A sound supply uses no more than the whole way from nominal to its lower limit, at what it is rated for.
        var sound = (Math.Abs(limits.Nominal) - Math.Abs(limits.Low)) / ratedAmps * 1000;
        var say =
            amps < LeastAmps || double.IsNaN(ohms) ? TwoReadingsSay.NotToBeSaid
            : ohms - (2 * error) > sound ? TwoReadingsSay.SupplySags
            : ohms + (2 * error) < sound ? TwoReadingsSay.Holds
            : TwoReadingsSay.NotToBeSaid;
        return new TwoReadings(ohms, error, ohms / 1000 * amps * amps, say);
    }

    /// <summary>The same rail at one load, at both ends of a plug, cable or extension: what the way drops.</summary>
    /// <param name="near">At the supply's end.</param>
    /// <param name="far">At the other.</param>
    /// <param name="amps">Current, amperes.</param>
    /// <exception cref="ArgumentException">They are not two readings of one rail at one load.</exception>
    public static TwoReadings AtBothEnds(RailReading near, RailReading far, double amps)
    {
        if (near.Rail != far.Rail || near.Load != far.Load || near.At == far.At)
            throw new ArgumentException("A drop is told by one rail at one load, at two places.", nameof(far));
        var (ohms, error) = Between(near, far, amps);
        var watts = ohms / 1000 * amps * amps;
        var drop = Math.Abs(near.Volts) - Math.Abs(far.Volts);
        var uncertain = ErrorOf(near, far);
        var most = WayMost * Math.Abs(RailLimits.Of(near.Rail, SupplyGuide.Atx12V2).Nominal);
        var say =
            amps < LeastAmps ? TwoReadingsSay.NotToBeSaid
            : watts - (2 * error / 1000 * amps * amps) > Burns ? TwoReadingsSay.WillBurn
            : drop - (2 * uncertain) > most ? TwoReadingsSay.WayDrops
            : drop + (2 * uncertain) < most ? TwoReadingsSay.Holds
            : TwoReadingsSay.NotToBeSaid;
        return new TwoReadings(ohms, error, watts, say);
    }

    private static (double Milliohms, double Error) Between(RailReading one, RailReading other, double amps) =>
        amps > 0
            ? ((Math.Abs(one.Volts) - Math.Abs(other.Volts)) / amps * 1000, ErrorOf(one, other) / amps * 1000)
            : (double.NaN, double.NaN);

    /// <summary>Error of a difference. One instrument's share of the reading is the same both times and falls out.</summary>
    private static double ErrorOf(RailReading one, RailReading other)
    {
        if (one.By == other.By)
        {
            var accuracy = Accuracy.Of(one.By);
            var step = Math.Max(accuracy.Step, accuracy.Digits);
            return Math.Sqrt(2 * step * step / 12);
        }

        var (a, b) = (Accuracy.Of(one.By).Deviation(one.Volts), Accuracy.Of(other.By).Deviation(other.Volts));
        return Math.Sqrt((a * a) + (b * b));
    }

    /// <summary>What follows, in words.</summary>
    public string Words()
    {
        var figures =
            $"{Milliohms.ToString("0.#", CultureInfo.InvariantCulture)} milliohms, "
            + $"{Watts.ToString("0.##", CultureInfo.InvariantCulture)} W of heat";
        return Say switch
        {
            TwoReadingsSay.Holds => $"It holds its voltage ({figures}).",
            TwoReadingsSay.SupplySags => $"The supply itself sags more than a sound one may ({figures}).",
            TwoReadingsSay.WayDrops => $"The way drops it, not the supply ({figures}): plug, cable or extension.",
            TwoReadingsSay.WillBurn => $"The contact burns ({figures}): do not run it. Another plug or cable.",
            _ => "These two are too near to each other for the instrument to tell: read again with more load, or a finer meter.",
        };
    }
}
