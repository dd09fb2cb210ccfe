using System.Globalization;
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
