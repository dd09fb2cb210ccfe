using System.Collections.Immutable;

namespace Kelvet.Core.Observed;

/// <summary>
/// What was noted of a start, as names that the atlas gives a meaning to: "ended-off", "heat-hot"; and the limits by which readings are
/// put into bands.
/// </summary>
public static class SignNames
{
    /// <summary>Share by which a supply rail may be off, either way (the ATX design guide's figure, from memory).</summary>
    public const double RailTolerance = 0.05;

    /// <summary>Whether a reading lies outside a rail's limits: 11.4 to 12.6 V, 4.75 to 5.25 V.</summary>
    public static bool IsOff(double volts, double rail) => volts < rail * (1 - RailTolerance) || volts > rail * (1 + RailTolerance);

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
    public static ImmutableArray<string> All { get; } = [.. SignKinds.All.SelectMany(k => k.Names)];

    /// <summary>What was noted, by name.</summary>
    /// <param name="signs">The signs.</param>
    /// <param name="channels">Memory channels that hold a stick; null where that is not known.</param>
    public static IEnumerable<string> Of(Signs signs, int? channels) =>
        SignKinds.All.Select(k => k.NameOf(signs, channels)).OfType<string>();
}
