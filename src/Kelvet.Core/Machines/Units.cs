using System.Collections.Immutable;
using Kelvet.Core.Supplies;

namespace Kelvet.Core.Machines;

/// <summary>The sorts of part that are fitted, swapped and accused.</summary>
public enum UnitKind
{
    /// <summary>A wall outlet or strip.</summary>
    Outlet,

    /// <summary>A mains lead.</summary>
    MainsLead,

    /// <summary>A power supply.</summary>
    Supply,

    /// <summary>An extension of a supply cable.</summary>
    PowerExtension,

    /// <summary>The case's power button and its lead.</summary>
    CaseSwitch,

    /// <summary>A motherboard.</summary>
    Motherboard,

    /// <summary>A processor.</summary>
    Cpu,

    /// <summary>A cooler for the processor.</summary>
    Cooler,

    /// <summary>A memory stick.</summary>
    MemoryStick,

    /// <summary>A graphics card.</summary>
    GraphicsCard,

    /// <summary>A drive.</summary>
    Storage,

    /// <summary>Something plugged in from outside.</summary>
    Peripheral,

    /// <summary>A video cable.</summary>
    VideoCable,

    /// <summary>A monitor.</summary>
    Monitor,

    /// <summary>A strip or battery-backed supply between outlet and lead.</summary>
    PowerStrip,

    /// <summary>The supply's cable to the board.</summary>
    MainCable,

    /// <summary>The supply's cable to the processor's plug.</summary>
    CpuCable,

    /// <summary>The supply's cable to the graphics card.</summary>
    CardCable,

    /// <summary>The case's reset button and its lead.</summary>
    ResetSwitch,

    /// <summary>A lead of the case's front USB or audio sockets.</summary>
    FrontLead,

    /// <summary>A fan of the case.</summary>
    CaseFan,

    /// <summary>A hub that fans hang on.</summary>
    FanHub,

    /// <summary>The pump of a liquid cooler.</summary>
    Pump,

    /// <summary>A riser between expansion slot and card.</summary>
    Riser,

    /// <summary>The board's coin cell.</summary>
    CoinCell,

    /// <summary>A chip that holds the board's firmware; boards with two can start from either.</summary>
    FirmwareChip,

    /// <summary>A card that makes no picture: wireless, sound, network, storage.</summary>
    OtherCard,

    /// <summary>A USB hub.</summary>
    UsbHub,

    /// <summary>A drive's data cable.</summary>
    DataCable,

    /// <summary>An adapter between a video output and a cable of another kind.</summary>
    DisplayAdapter,
}

/// <summary>Where a part came from, which decides how far it is trusted before any test.</summary>
public enum Origin
{
    /// <summary>The customer's own part, as received.</summary>
    Customer,

    /// <summary>A part from the shop's shelf, known good in another machine.</summary>
    Shelf,

    /// <summary>A new part, not yet run.</summary>
    New,
}

/// <summary>A physical part in a job. Known by its id; never changes in the course of the job.</summary>
public abstract record Unit
{
    private protected Unit(UnitId id, UnitKind kind, string name, Origin origin)
    {
        Id = id;
        Kind = kind;
        Name = name;
        Origin = origin;
    }

    /// <summary>What the log calls it by.</summary>
    public UnitId Id { get; }

    /// <summary>What it is.</summary>
    public UnitKind Kind { get; }

    /// <summary>What the technician calls it: make, model, size.</summary>
    /// <exception cref="ArgumentException">It has none, or more than 80 characters.</exception>
    public string Name
    {
        get => _name;
        init =>
            _name =
                string.IsNullOrWhiteSpace(value) || value.Length > 80
                    ? throw new ArgumentException($"Unit {Id} needs a name of 1 to 80 characters.", nameof(value))
                    : value.Trim();
    }

    private readonly string _name = "";

    /// <summary>Whose it is.</summary>
    public Origin Origin { get; }

    private readonly string _serial = "";

    /// <summary>Serial number or shop mark, at most 60 characters, empty when not recorded. Carried to the return form.</summary>
    public string Serial
    {
        get => _serial;
        init =>
            _serial = value.Length <= 60 ? value : throw new ArgumentException("A serial number has at most 60 characters.", nameof(value));
    }

    /// <summary>Whether the owner put it in recently: seats, fit and firmware are then likelier to be wrong.</summary>
    public bool FittedByOwner { get; init; }

    /// <summary>Whether it is only told of and not at hand: nothing can be tried with it.</summary>
    public bool IsAway { get; init; }

    /// <summary>
    /// Watts, 0 to 5000: what a supply is rated for, what a cooler can carry off, what any other part draws at most; null when
    /// not known.
    /// </summary>
    public int? Watts
    {
        get => _watts;
        init => _watts = value is null or (>= 0 and <= MostWatts) ? value : throw Outside(nameof(Watts), value, $"0 to {MostWatts} W");
    }

    private readonly int? _watts;

    /// <summary>What is printed on a supply (<see cref="SupplyLabel"/>); empty where it was not read.</summary>
    /// <exception cref="ArgumentException">A part of it cannot be read.</exception>
    public string Label
    {
        get => _label;
        init
        {
            _ = SupplyLabel.Read(value);
            _label = value.Trim();
        }
    }

    private readonly string _label = "";

    /// <summary>Most watts of a unit.</summary>
    public const int MostWatts = SupplyLabel.MostWatts;

    /// <summary>Power plugs for cards, 0 to 12: that a card needs, or that a supply has; null when not known.</summary>
    public int? Plugs
    {
        get => _plugs;
        init => _plugs = value is null or (>= 0 and <= 12) ? value : throw Outside(nameof(Plugs), value, "0 to 12");
    }

    private readonly int? _plugs;

    /// <summary>Year that it was made in, 1980 to 2100; null when not known.</summary>
    public int? Made
    {
        get => _made;
        init => _made = value is null or (>= 1980 and <= 2100) ? value : throw Outside(nameof(Made), value, "1980 to 2100");
    }

    private readonly int? _made;

    /// <summary>Sockets that a cooler goes on, at most 12; empty when not known.</summary>
    public ImmutableArray<string> Fits
    {
        get => _fits;
        init =>
            _fits =
                value.Length <= 12 && value.All(s => s.Length is > 0 and <= 20)
                    ? value
                    : throw new ArgumentException("A part fits at most 12 sockets, each named in 1 to 20 characters.", nameof(value));
    }

    private readonly ImmutableArray<string> _fits = [];

    /// <summary>When it was bought; null when not known.</summary>
    public DateOnly? Bought { get; init; }

    private readonly string _seller = "";

    /// <summary>From whom, at most 60 characters; empty when not known.</summary>
    public string Seller
    {
        get => _seller;
        init =>
            _seller = value.Length <= 60 ? value : throw new ArgumentException("A seller's name has at most 60 characters.", nameof(value));
    }

    private readonly int? _returnDays;

    /// <summary>Days from purchase in which the seller takes it back, 0 to 730; null when not known.</summary>
    public int? ReturnDays
    {
        get => _returnDays;
        init => _returnDays = value is null or (>= 0 and <= 730) ? value : throw Outside(nameof(ReturnDays), value, "0 to 730 days");
    }

    private readonly int? _warrantyMonths;

    /// <summary>Months of the maker's warranty from purchase, 0 to 240; null when not known.</summary>
    public int? WarrantyMonths
    {
        get => _warrantyMonths;
        init =>
            _warrantyMonths = value is null or (>= 0 and <= 240) ? value : throw Outside(nameof(WarrantyMonths), value, "0 to 240 months");
    }

    // One bit a fact: two parts of which the same is guessed are equal.
    private readonly int _guessed;

    /// <summary>Facts of it that nobody knows: they stand so that the machine can be drawn and reasoned over, and are printed nowhere.
    /// Each once, in order.</summary>
    /// <exception cref="ArgumentException">A part of its kind has no such fact.</exception>
    public ImmutableArray<PartFact> Guessed
    {
        get => [.. PartFactRow.All.Select(r => r.Fact).Where(f => (_guessed & (1 << (int)f)) != 0)];
        init =>
            _guessed = value.All(f => PartFactRow.Row(f).IsOf(Kind))
                ? value.Aggregate(0, (bits, f) => bits | (1 << (int)f))
                : throw new ArgumentException(
                    $"Of unit {Id}, a {Kind}, no {value.First(f => !PartFactRow.Row(f).IsOf(Kind))} can be guessed: it has none.",
                    nameof(value)
                );
    }

    /// <summary>Where the rest of what is known of it comes from.</summary>
    public FactSource KnownFrom { get; init; }

    private static ArgumentOutOfRangeException Outside(string what, int? value, string range) =>
        new(what, value, $"{what} of a part is {range}, not {value}.");

    /// <summary>The sort of place this unit goes into.</summary>
    public PlaceKind GoesInto => UnitFacts.Of(Kind).Place;

    /// <summary>Makes a unit that needs no description beyond its kind.</summary>
    /// <exception cref="ArgumentException">The kind has a type of its own (motherboard, CPU, memory stick, card).</exception>
    public static PlainUnit Plain(UnitId id, UnitKind kind, string name, Origin origin) => new(id, kind, name, origin);
}

/// <summary>A unit that is told from others of its kind by its name alone: a supply, a lead, a cooler, a drive, a fan.</summary>
public sealed record PlainUnit : Unit
{
    internal PlainUnit(UnitId id, UnitKind kind, string name, Origin origin)
        : base(id, kind, name, origin)
    {
        if (kind is UnitKind.Motherboard or UnitKind.Cpu or UnitKind.MemoryStick or UnitKind.GraphicsCard)
            throw new ArgumentException($"A {kind.Words()} is described by its own type.", nameof(kind));
    }
}

/// <summary>A processor.</summary>
public sealed record Cpu : Unit
{
    /// <summary>A processor, with or without graphics of its own.</summary>
    public Cpu(UnitId id, string name, Origin origin, bool hasGraphics)
        : base(id, UnitKind.Cpu, name, origin) => HasGraphics = hasGraphics;

    /// <summary>Whether it can drive the board's video outputs.</summary>
    public bool HasGraphics { get; }

    /// <summary>Least firmware version of the customer's kind of board that knows this CPU, null when not known.</summary>
    public int? NeedsFirmware { get; init; }

    /// <summary>Socket name, empty when not recorded.</summary>
    public string Socket { get; init; } = "";
}

/// <summary>A graphics card.</summary>
public sealed record GraphicsCard : Unit
{
    /// <exception cref="ArgumentException">No output, or two with one name.</exception>
    public GraphicsCard(UnitId id, string name, Origin origin, IEnumerable<VideoOutput> outputs, bool needsAuxPower)
        : base(id, UnitKind.GraphicsCard, name, origin)
    {
        Outputs = [.. outputs];
        NeedsAuxPower = needsAuxPower;
        if (Outputs.Length is 0 or > 8)
            throw new ArgumentException($"Card {id} needs 1 to 8 video outputs.", nameof(outputs));
        if (Outputs.Select(o => o.Name).Distinct().Count() != Outputs.Length)
            throw new ArgumentException($"Card {id} has two outputs of one name.", nameof(outputs));
        if (Outputs.FirstOrDefault(o => !SlotName.IsValid(o.Name)) is { } bad)
            throw new ArgumentException($"Card {id}: \"{bad.Name}\" is not a name for an output.", nameof(outputs));
    }

    /// <summary>Video outputs.</summary>
    public ImmutableArray<VideoOutput> Outputs { get; }

    /// <summary>Whether it takes a power plug of its own, and so loads the supply.</summary>
    public bool NeedsAuxPower { get; }
}

/// <summary>Words for unit kinds and origins.</summary>
public static class UnitWords
{
    /// <summary>The kind as a technician says it.</summary>
    public static string Words(this UnitKind kind) => UnitFacts.Of(kind).Words;

    /// <summary>The outline with its size.</summary>
    public static string Words(this BoardForm form) =>
        form switch
        {
            BoardForm.Full => "full, 305 by 244 mm",
            BoardForm.Micro => "micro, 244 by 244 mm",
            BoardForm.Mini => "mini, 170 by 170 mm",
            BoardForm.Office => "an office maker's own, about 229 by 203 mm",
            _ => form.ToString(),
        };

    /// <summary>Where a unit comes from, as a technician says it.</summary>
    public static string Words(this Origin origin) =>
        origin switch
        {
            Origin.Customer => "customer's",
            Origin.Shelf => "shelf, known good",
            Origin.New => "new",
            _ => origin.ToString(),
        };
}
