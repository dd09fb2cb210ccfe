using System.Globalization;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>Runs under load, in words.</summary>
public static class RunWords
{
    /// <summary>What a run proves: "the cooler holds its heat".</summary>
    public static string Words(this RunFor purpose) =>
        purpose switch
        {
            RunFor.Cooler => "the cooler holds the processor's heat",
            RunFor.CaseAir => "the case lets the heat out",
            RunFor.SupplyRails => "the supply holds its rails",
            _ => "nothing that comes and goes under load is left",
        };

    /// <summary>What a column is: "a clock".</summary>
    public static string Words(this Quantity quantity) =>
        quantity switch
        {
            Quantity.Temperature => "temperature",
            Quantity.Clock => "clock",
            Quantity.Fan => "fan or pump",
            Quantity.Volts => "supply rail or voltage",
            Quantity.Watts => "draw",
            _ => "left out",
        };

    /// <summary>When a run is broken off: "at 95 °C, above 300 W, a rail more than 5 % off, a fan that stops".</summary>
    public static string Words(this RunLimits limits) =>
        $"at {F(limits.Celsius)} °C{(limits.Watts is { } w ? $", above {F(w)} W" : "")}, "
        + $"a rail more than {F(100 * limits.Tolerance)} % off, "
        + "a fan that stops, a smell";

    /// <summary>A limit that was crossed, and when: "+12V fell to 11.3 V after 340 s (limit 11.4 V)".</summary>
    public static string Words(this Crossing crossing)
    {
        var unit = crossing.Quantity.Unit(crossing.Limit);
        var (value, limit) = ($"{F(crossing.Value)} {unit}", $"{F(crossing.Limit)} {unit}");
        var after = $"after {F(Math.Round(crossing.Seconds))} s";
        return crossing.Quantity switch
        {
            Quantity.Fan => $"{crossing.Column} stopped {after}",
            Quantity.Clock => $"{crossing.Column} was held back to {value} {after}",
            Quantity.Volts when crossing.Value < crossing.Limit => $"{crossing.Column} fell to {value} {after} (limit {limit})",
            _ => $"{crossing.Column} was at {value} {after} (limit {limit})",
        };
    }

    private static string F(double value) => value.ToString("0.##", CultureInfo.InvariantCulture);
}
