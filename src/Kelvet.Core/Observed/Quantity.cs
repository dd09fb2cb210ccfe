using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>What a column of readings is.</summary>
public enum Quantity
{
    /// <summary>A temperature, degrees Celsius.</summary>
    Temperature,

    /// <summary>A clock, MHz or GHz.</summary>
    Clock,

    /// <summary>A fan or pump, revolutions a minute.</summary>
    Fan,

    /// <summary>A supply rail, volts.</summary>
    Volts,

    /// <summary>A draw, watts.</summary>
    Watts,

    /// <summary>Something else: shown to nobody and weighed by nothing.</summary>
    LeftOut,
}

/// <summary>Guesses what a column is by its name.</summary>
public static class Quantities
{
    /// <summary>Words in names, in the order in which they are looked for. Names as monitoring programs write them; common
    /// practice.</summary>
    private static readonly (Quantity Quantity, string[] Words)[] Names =
    [
        (Quantity.Fan, ["fan", "rpm", "pump"]),
        (Quantity.Watts, ["watt", "power", "ppt", "draw", "[w]"]),
        (Quantity.Clock, ["ghz", "mhz", "clock", "freq"]),
        (Quantity.Volts, ["volt", "+12v", "+5v", "+3.3v", "12v", "vcore", "vcc", "vbat", "vin", "[v]", "avcc"]),
        (
            Quantity.Temperature,
            [
                "temp",
                "tctl",
                "tdie",
                "tccd",
                "core",
                "package",
                "cpu",
                "gpu",
                "edge",
                "junction",
                "composite",
                "°c",
                "celsius",
                "pkg",
                "systin",
            ]
        ),
    ];

    /// <summary>The likeliest quantity of a column.</summary>
    /// <param name="column">Its name; the feature after the last space counts before the chip before it.</param>
    public static Quantity Of(string column)
    {
        foreach (var quantity in Enum.GetValues<Quantity>())
        {
            if (column.EndsWith(Said(quantity), StringComparison.Ordinal))
                return quantity;
        }

        foreach (var (quantity, words) in Names)
        {
            if (words.Any(w => column.Contains(w, StringComparison.OrdinalIgnoreCase)))
                return quantity;
        }

        return Quantity.LeftOut;
    }

    /// <summary>A column's name by which it is read as what it is: as it stands, or with what it is behind it.</summary>
    public static string Named(string column, Quantity quantity) => Of(column) == quantity ? column : column + Said(quantity);

    private static string Said(Quantity quantity) => $" ({Dashed.Of(quantity)})";

    /// <summary>The unit: "°C".</summary>
    /// <param name="quantity">What it is.</param>
    /// <param name="most">The largest reading, by which MHz and GHz are told apart.</param>
    public static string Unit(this Quantity quantity, double most = 0) =>
        quantity switch
        {
            Quantity.Temperature => "°C",
            Quantity.Clock => most > 20 ? "MHz" : "GHz",
            Quantity.Fan => "rpm",
            Quantity.Volts => "V",
            Quantity.Watts => "W",
            _ => "",
        };
}
