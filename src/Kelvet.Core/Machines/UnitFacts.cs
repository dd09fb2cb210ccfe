using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>What a start without a unit of a kind is.</summary>
public enum Absence
{
    /// <summary>The machine cannot run as it should without it: it is swapped, not left out.</summary>
    Needed,

    /// <summary>It is left out: the machine runs without it.</summary>
    LeftOut,

    /// <summary>It is led around: what is behind it is plugged in directly.</summary>
    Bypassed,
}

/// <summary>What is known about one kind of unit: the one table that a new kind is added to.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="Place">The sort of place it goes into.</param>
/// <param name="Words">What a technician calls it.</param>
/// <param name="Price">What a new one costs where the shop has not said, in the shop's currency, 0 upward; 0 for what is the
/// customer's house. Bench judgement, no published source.</param>
/// <param name="Absence">What a start without it is.</param>
/// <param name="Outside">Whether it hangs outside the machine on a low voltage, so that nobody reaches in and it need not be off.</param>
/// <param name="Seats">Whether it has a seat or plug that is worth taking out and putting back by itself.</param>
/// <param name="SetUp">Whether firmware settings decide how it runs, so that cleared settings may be all that it wants.</param>
/// <param name="MayStayOut">Whether a machine goes out without it where it is at fault: nothing that works depends on it.</param>
/// <param name="Small">Whether it is listed only where it is worth a thought of its own; else it belongs to supply, case or board.</param>
/// <param name="Brief">What it is called where room is short; empty where <paramref name="Words"/> will do.</param>
/// <param name="Owner">What its owner calls it; empty where <paramref name="Words"/> will do.</param>
/// <param name="Catalogued">Whether a catalogue holds it.</param>
/// <param name="InTheBook">Whether nothing goes wrong with it that the atlas does not list.</param>
/// <param name="Mends">What can be done to it besides swapping it.</param>
public sealed record UnitFacts(
    UnitKind Kind,
    PlaceKind Place,
    string Words,
    double Price,
    Absence Absence = Absence.Needed,
    bool Outside = false,
    bool Seats = false,
    bool SetUp = false,
    bool MayStayOut = false,
    bool Small = false,
    string Brief = "",
    string Owner = "",
    bool Catalogued = false,
    bool InTheBook = false,
    params Remedy[] Mends
)
{
    /// <summary>Every kind.</summary>
    public static ImmutableArray<UnitFacts> All { get; } =
    [
        new(UnitKind.Outlet, PlaceKind.Outlet, "wall outlet", 0, Brief: "outlet", InTheBook: true),
        new(UnitKind.MainsLead, PlaceKind.Lead, "mains lead", 8, Brief: "lead", InTheBook: true),
        new(UnitKind.Supply, PlaceKind.Supply, "power supply", 60, Seats: true, Brief: "supply", Catalogued: true, Mends: [Remedy.Set]),
        new(
            UnitKind.PowerExtension,
            PlaceKind.Extension,
            "power extension",
            10,
            Absence.Bypassed,
            Brief: "extension",
            Owner: "extension cable inside"
        ),
        new(UnitKind.CaseSwitch, PlaceKind.Switch, "case switch", 10, Seats: true, Owner: "power button", Mends: [Remedy.Rewire]),
        new(
            UnitKind.Motherboard,
            PlaceKind.Board,
            "motherboard",
            110,
            SetUp: true,
            Brief: "board",
            Owner: "main board",
            Catalogued: true,
            Mends: [Remedy.Clean, Remedy.Straighten, Remedy.Flash, Remedy.Isolate, Remedy.NewCell]
        ),
        new(UnitKind.Cpu, PlaceKind.Cpu, "CPU", 160, SetUp: true, Owner: "processor", Catalogued: true),
        new(
            UnitKind.Cooler,
            PlaceKind.Cooler,
            "cooler",
            30,
            Seats: true,
            Owner: "processor's cooler",
            Catalogued: true,
            Mends: [Remedy.Repaste, Remedy.Rewire, Remedy.Clean]
        ),
        new(
            UnitKind.MemoryStick,
            PlaceKind.Memory,
            "memory stick",
            35,
            Absence.LeftOut,
            Seats: true,
            SetUp: true,
            Brief: "stick",
            Owner: "memory module",
            Catalogued: true,
            Mends: [Remedy.Clean]
        ),
        new(
            UnitKind.GraphicsCard,
            PlaceKind.Card,
            "graphics card",
            250,
            Absence.LeftOut,
            Seats: true,
            SetUp: true,
            Brief: "card",
            Catalogued: true,
            Mends: [Remedy.Clean, Remedy.Repaste, Remedy.Rewire]
        ),
        new(UnitKind.Storage, PlaceKind.Storage, "drive", 60, Absence.LeftOut, SetUp: true, Catalogued: true),
        new(UnitKind.Peripheral, PlaceKind.Peripheral, "peripheral", 20, Absence.LeftOut, Outside: true),
        new(UnitKind.VideoCable, PlaceKind.Cable, "video cable", 10, Outside: true, Brief: "video cable", Owner: "screen cable"),
        new(
            UnitKind.Monitor,
            PlaceKind.Monitor,
            "monitor",
            150,
            Outside: true,
            Seats: true,
            Owner: "screen",
            Catalogued: true,
            Mends: [Remedy.Set]
        ),
        new(
            UnitKind.PowerStrip,
            PlaceKind.Strip,
            "strip or battery-backed supply",
            20,
            Absence.Bypassed,
            Small: true,
            Brief: "strip",
            Owner: "power strip",
            Mends: [Remedy.Set]
        ),
        new(
            UnitKind.MainCable,
            PlaceKind.MainCable,
            "main cable of the supply",
            15,
            Seats: true,
            Small: true,
            Brief: "main cable",
            Owner: "power cable inside"
        ),
        new(
            UnitKind.CpuCable,
            PlaceKind.CpuCable,
            "CPU cable of the supply",
            12,
            Seats: true,
            Small: true,
            Brief: "CPU cable",
            Owner: "power cable inside"
        ),
        new(
            UnitKind.CardCable,
            PlaceKind.CardCable,
            "card cable of the supply",
            12,
            Seats: true,
            Small: true,
            Brief: "card cable",
            Owner: "power cable inside"
        ),
        new(
            UnitKind.ResetSwitch,
            PlaceKind.Reset,
            "reset switch",
            6,
            Absence.LeftOut,
            MayStayOut: true,
            Small: true,
            Mends: [Remedy.Rewire]
        ),
        new(
            UnitKind.FrontLead,
            PlaceKind.Front,
            "front USB or audio lead",
            8,
            Absence.LeftOut,
            MayStayOut: true,
            Small: true,
            Brief: "front lead",
            Owner: "lead of the front sockets",
            Mends: [Remedy.Rewire]
        ),
        new(UnitKind.CaseFan, PlaceKind.Fan, "case fan", 10, Absence.LeftOut, Small: true, Catalogued: true, Mends: [Remedy.Rewire]),
        new(UnitKind.FanHub, PlaceKind.FanHub, "fan hub", 12, Absence.LeftOut, Small: true, Mends: [Remedy.Rewire]),
        new(UnitKind.Pump, PlaceKind.Pump, "pump", 80, Seats: true, Small: true, Mends: [Remedy.Rewire]),
        new(
            UnitKind.Riser,
            PlaceKind.Riser,
            "riser",
            35,
            Absence.Bypassed,
            Seats: true,
            SetUp: true,
            Small: true,
            Owner: "adapter of the graphics card",
            Mends: [Remedy.Clean]
        ),
        new(
            UnitKind.CoinCell,
            PlaceKind.Cell,
            "coin cell",
            3,
            Absence.LeftOut,
            Small: true,
            Owner: "small battery on the main board",
            InTheBook: true
        ),
        new(UnitKind.FirmwareChip, PlaceKind.Chip, "firmware chip", 15, Small: true, Owner: "start-up chip on the main board"),
        new(
            UnitKind.OtherCard,
            PlaceKind.Other,
            "other card",
            30,
            Absence.LeftOut,
            Seats: true,
            SetUp: true,
            Small: true,
            Owner: "plug-in card",
            Catalogued: true,
            Mends: [Remedy.Clean]
        ),
        new(UnitKind.DataCable, PlaceKind.DataCable, "data cable", 6, Seats: true, Small: true, Owner: "cable of the drive"),
        new(
            UnitKind.DisplayAdapter,
            PlaceKind.Adapter,
            "display adapter",
            12,
            Outside: true,
            Seats: true,
            Small: true,
            Brief: "adapter",
            Owner: "adapter of the screen cable"
        ),
        new(UnitKind.UsbHub, PlaceKind.Hub, "USB hub", 15, Absence.LeftOut, Outside: true, MayStayOut: true, Small: true),
    ];

    private static readonly ImmutableDictionary<UnitKind, UnitFacts> ByKind = All.ToImmutableDictionary(f => f.Kind);

    /// <summary>The facts of a kind.</summary>
    public static UnitFacts Of(UnitKind kind) => ByKind[kind];
}
