using System.Collections.Immutable;

namespace Kelvet.Core.Supplies;

/// <summary>A rail of a supply.</summary>
public enum Rail
{
    /// <summary>+12 V.</summary>
    V12,

    /// <summary>+5 V.</summary>
    V5,

    /// <summary>+3.3 V.</summary>
    V33,

    /// <summary>-12 V.</summary>
    Minus12,

    /// <summary>+5 V standby.</summary>
    Standby5,
}

/// <summary>By which design guide a supply is judged.</summary>
public enum SupplyGuide
{
    /// <summary>ATX12V Power Supply Design Guide, revisions 2.x (Intel).</summary>
    Atx12V2,

    /// <summary>ATX Version 3.0 Multi Rail Desktop Platform Power Supply Design Guide (Intel).</summary>
    Atx3,
}

/// <summary>Limits of a rail. Volts are those at the supply's own plug, over the whole range of load.</summary>
/// <param name="Rail">The rail.</param>
/// <param name="Nominal">Volts.</param>
/// <param name="Low">The least, volts; of a negative rail the one nearest to nought.</param>
/// <param name="High">The most, volts; of a negative rail the one farthest from nought.</param>
/// <param name="Ripple">The most ripple and noise, peak to peak, millivolts.</param>
/// <param name="Source">Guide and table.</param>
public sealed record RailLimits(Rail Rail, double Nominal, double Low, double High, double Ripple, string Source)
{
    private const string Two =
        "Intel, Power Supply Design Guide for Desktop Platform Form Factors 1.3, table DC Output Voltage Regulation, from memory";
    private const string Three = "Intel, ATX Version 3.0 Design Guide, table DC Output Voltage Regulation, from memory";

    /// <summary>The limits of a guide, in the order of <see cref="Supplies.Rail"/>.</summary>
    public static ImmutableArray<RailLimits> Of(SupplyGuide guide) => guide == SupplyGuide.Atx3 ? Atx3 : Atx2;

    /// <summary>The limits of a rail by a guide.</summary>
    public static RailLimits Of(Rail rail, SupplyGuide guide) => Of(guide)[(int)rail];

    private static readonly ImmutableArray<RailLimits> Atx2 =
    [
        new(Rail.V12, 12, 11.40, 12.60, 120, Two),
        new(Rail.V5, 5, 4.75, 5.25, 50, Two),
        new(Rail.V33, 3.3, 3.14, 3.47, 50, Two),
        new(Rail.Minus12, -12, -10.80, -13.20, 120, Two),
        new(Rail.Standby5, 5, 4.75, 5.25, 50, Two),
    ];

    private static readonly ImmutableArray<RailLimits> Atx3 =
    [
        new(Rail.V12, 12, 11.20, 12.60, 120, Three),
        new(Rail.V5, 5, 4.75, 5.25, 50, Three),
        new(Rail.V33, 3.3, 3.14, 3.47, 50, Three),
        new(Rail.Minus12, -12, -10.80, -13.20, 120, Three),
        new(Rail.Standby5, 5, 4.75, 5.25, 50, Three),
    ];

    /// <summary>
    /// Delay from the rails being up to power-good, milliseconds. Intel, Power Supply Design Guide for Desktop Platform Form Factors,
    /// timing T3: 100 to 500 ms, from memory; the 3.0 guide asks for 100 to 250 ms at most, from memory.
    /// </summary>
    public static (double Least, double Most) PowerGood(SupplyGuide guide) => guide == SupplyGuide.Atx3 ? (100, 250) : (100, 500);

    /// <summary>Least time that the rails hold after mains is gone, milliseconds: timing T5 + T6, 17 ms at 80 % of the load or full load by
    /// guide, from memory. It is measured with an oscilloscope; no technician's reading is judged by it.</summary>
    public const double HoldUp = 17;
}

/// <summary>What a voltage is read with.</summary>
public enum Instrument
{
    /// <summary>A supply tester: shows tenths, to 1 %.</summary>
    Tester,

    /// <summary>A multimeter: 0.5 % and two digits of hundredths.</summary>
    Meter,

    /// <summary>The board's own sensor: 2 %. Bench judgement.</summary>
    Sensor,
}

/// <summary>How a supply was loaded when a rail was read.</summary>
public enum RailLoad
{
    /// <summary>By nothing, or a tester's resistor.</summary>
    None,

    /// <summary>By a machine that stands in its system or setup.</summary>
    Idle,

    /// <summary>By a machine under load.</summary>
    Full,
}

/// <summary>Where a rail was read.</summary>
public enum RailSpot
{
    /// <summary>At the supply's own plug.</summary>
    OwnPlug,

    /// <summary>At the end of an extension.</summary>
    ExtensionEnd,

    /// <summary>At the board, from behind its plug.</summary>
    AtBoard,

    /// <summary>At the card's plug.</summary>
    AtCard,
}

/// <summary>How exact an instrument is.</summary>
/// <param name="Instrument">The instrument.</param>
/// <param name="Share">Of the reading, 0 to 1: the limit of its error.</param>
/// <param name="Digits">Volts that are added to that.</param>
/// <param name="Step">The smallest step that it shows, volts.</param>
public sealed record Accuracy(Instrument Instrument, double Share, double Digits, double Step)
{
    /// <summary>Every instrument. Data sheets of the sort; common practice, no source.</summary>
    public static ImmutableArray<Accuracy> All { get; } =
    [new(Instrument.Tester, 0.01, 0, 0.1), new(Instrument.Meter, 0.005, 0.02, 0.01), new(Instrument.Sensor, 0.02, 0, 0.016)];

    /// <summary>Of an instrument.</summary>
    public static Accuracy Of(Instrument instrument) => All[(int)instrument];

    /// <summary>Standard deviation of a reading, volts: the limit of error taken as two of it, and the step as a uniform error.</summary>
    public double Deviation(double volts)
    {
        var limit = ((Share * Math.Abs(volts)) + Digits) / 2;
        return Math.Sqrt((limit * limit) + (Step * Step / 12));
    }
}
