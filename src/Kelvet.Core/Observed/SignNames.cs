using System.Collections.Immutable;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>
/// What was noted of a start, as names that the atlas gives a meaning to: "ended-off", "heat-hot". Readings are put into
/// bands by the limits here.
/// </summary>
public static class SignNames
{
    /// <summary>Limits of the 12 V rail, volts: 5 % either way (the ATX design guide's figure, from memory).</summary>
    public const double LeastVolts = 11.4;

    /// <summary>See <see cref="LeastVolts"/>.</summary>
    public const double MostVolts = 12.6;

    /// <summary>CPU temperature from which it is too hot, degrees Celsius. Common practice.</summary>
    public const double TooHot = 90;

    /// <summary>Minutes within which what has no contact gets too hot. Common practice.</summary>
    public const double AtOnce = 2;

    /// <summary>Minutes within which what is badly cooled gets too hot. Common practice.</summary>
    public const double Soon = 15;

    /// <summary>Watts at the wall below which nothing but standby runs, and below which the CPU does not work. Bench judgement.</summary>
    public const double StandbyWatts = 5;

    /// <summary>See <see cref="StandbyWatts"/>.</summary>
    public const double IdleCpuWatts = 25;

    /// <summary>Turns a minute below which a fan stands. Bench judgement.</summary>
    public const int Standing = 200;

    /// <summary>Every name.</summary>
    public static ImmutableArray<string> All { get; } =
    [
        .. Named<Ending>("ended"),
        .. Named<ScreenText>("text"),
        .. Named<Noise>("noise"),
        .. Named<FanBehaviour>("fans"),
        .. Named<FanBehaviour>("card-fans"),
        "minutes-at-once",
        "minutes-soon",
        "minutes-later",
        "clock-wrong",
        "clock-right",
        "volts-out",
        "volts-in",
        "watts-standby",
        "watts-little",
        "watts-some",
        "fan-stands",
        "fan-turns",
        "heat-hot",
        "heat-normal",
        "channels-fewer",
        "channels-all",
    ];

    /// <summary>What was noted, by name.</summary>
    /// <param name="signs">The signs.</param>
    /// <param name="channels">Memory channels that hold a stick; null where that is not known.</param>
    public static IEnumerable<string> Of(Signs signs, int? channels)
    {
        if (signs.Ended is { } ended)
            yield return Name("ended", ended);
        if (signs.Text is { } text)
            yield return Name("text", text);
        if (signs.Noise is { } noise)
            yield return Name("noise", noise);
        if (signs.Fans is { } fans)
            yield return Name("fans", fans);
        if (signs.CardFans is { } cardFans)
            yield return Name("card-fans", cardFans);
        if (signs.Minutes is { } minutes)
        {
            yield return minutes <= AtOnce ? "minutes-at-once"
            : minutes <= Soon ? "minutes-soon"
            : "minutes-later";
        }

        if (signs.ClockWrong is { } wrong)
            yield return wrong ? "clock-wrong" : "clock-right";
        if (signs.Volts is { } volts)
            yield return volts is < LeastVolts or > MostVolts ? "volts-out" : "volts-in";
        if (signs.Watts is { } watts)
        {
            yield return watts <= StandbyWatts ? "watts-standby"
            : watts <= IdleCpuWatts ? "watts-little"
            : "watts-some";
        }

        if (signs.FanSpeed is { } speed)
            yield return speed < Standing ? "fan-stands" : "fan-turns";
        if (signs.Temperature is { } heat)
            yield return heat >= TooHot ? "heat-hot" : "heat-normal";
        if (signs.Channels is { } seen && channels is { } fitted)
            yield return seen < fitted ? "channels-fewer" : "channels-all";
    }

    private static IEnumerable<string> Named<T>(string sign)
        where T : struct, Enum => Enum.GetValues<T>().Select(v => Name(sign, v));

    private static string Name<T>(string sign, T value)
        where T : struct, Enum => $"{sign}-{Dashed.Of(value)}";
}
