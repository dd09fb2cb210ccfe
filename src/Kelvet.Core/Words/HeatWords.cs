using System.Globalization;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>What a run under load says, in words.</summary>
public static class HeatWords
{
    /// <summary>The verdict and what to do.</summary>
    public static string Words(this HeatVerdict verdict) =>
        verdict switch
        {
            HeatVerdict.Fine => "Fine: it settles below the limit.",
            HeatVerdict.Throttles => "It settles at the limit and holds itself back: clean it, renew the paste, look at the fan's curve.",
            HeatVerdict.WeakCooling =>
                "The cooling is too weak: dust, a fan or pump that is slow, air that does not get out, a cooler too small.",
            HeatVerdict.NoContact =>
                "No contact: it is at the limit within seconds. Off at once; look for film under the cooler, paste, and its screws.",
            _ => "Nothing can be said: too few readings, or none that rise.",
        };

    /// <summary>
    /// Which of the causes of weak cooling the fans speak for: one that slows is the fan or pump; those that hold their speed leave
    /// dust, paste and air. Empty where the cooling is not weak, or no fan was read.
    /// </summary>
    /// <param name="verdict">What the rise says.</param>
    /// <param name="readings">The readings.</param>
    /// <param name="quantities">What each column is.</param>
    public static string Which(HeatVerdict verdict, RunReadings readings, IReadOnlyList<Quantity> quantities)
    {
        int[] fans =
        [
            .. Enumerable.Range(0, quantities.Count).Where(c => quantities[c] == Quantity.Fan && readings.Settled(c) is not null),
        ];
        if (verdict is not (HeatVerdict.WeakCooling or HeatVerdict.Throttles) || fans.Length == 0)
            return "";
        var slow = fans.Where(c => readings.Settled(c) < Slowed * readings.Values[c].Where(double.IsFinite).Max()).ToArray();
        var slowed = slow.Select(c => $"{readings.Columns[c]} slows to {F(readings.Settled(c)!.Value, "0")} rpm");
        return slow.Length > 0
            ? $"{string.Join(" and ", slowed)}: the fan or pump."
            : "Every fan that was read holds its speed: dust, paste, film, or air that does not get out.";
    }

    /// <summary>A fan below this share of its fastest, when it should be at its fastest, has slowed. Bench judgement.</summary>
    private const double Slowed = 0.8;

    /// <summary>The figures: where it settles, how fast, and the resistance where the draw is told.</summary>
    /// <param name="run">The fit.</param>
    /// <param name="watts">Draw of the part, watts; null where it was not told.</param>
    /// <param name="air">Temperature of the air, degrees Celsius.</param>
    public static string Words(this HeatRun run, double? watts, double air)
    {
        var resistance = watts is { } w && run.Resistance(w, air) is { } r ? $", {F(r, "0.00")} K/W from {F(w, "0")} W" : "";
        var limit = run.AtLimitAfter is { } at ? $" At the limit after {F(at, "0")} s." : "";
        return $"From {F(run.Start, "0")} °C it settles at {F(run.End, "0")} °C, time constant {F(run.Tau, "0")} s{resistance}; "
            + $"hottest {F(run.Hottest, "0")} °C, {run.Readings} readings within {F(run.Error, "0.0")} K.{limit}";
    }

    private static string F(double value, string format) => value.ToString(format, CultureInfo.InvariantCulture);
}
