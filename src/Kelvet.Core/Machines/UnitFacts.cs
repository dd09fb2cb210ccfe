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
/// <param name="MayStayOut">Whether a machine goes out without it where it is at fault: nothing that works depends on it.</param>
/// <param name="Small">Whether it is listed only where it is worth a thought of its own; else it belongs to supply, case or board.</param>
public sealed record UnitFacts(
    UnitKind Kind,
    PlaceKind Place,
    string Words,
    double Price,
    Absence Absence = Absence.Needed,
    bool Outside = false,
    bool Seats = false,
    bool MayStayOut = false,
    bool Small = false
)
{
    /// <summary>Every kind.</summary>
    public static ImmutableArray<UnitFacts> All { get; } =
    [
        new(UnitKind.Outlet, PlaceKind.Outlet, "wall outlet", 0),
        new(UnitKind.MainsLead, PlaceKind.Lead, "mains lead", 8),
        new(UnitKind.Supply, PlaceKind.Supply, "power supply", 60, Seats: true),
        new(UnitKind.PowerExtension, PlaceKind.Extension, "power extension", 10, Absence.Bypassed),
        new(UnitKind.CaseSwitch, PlaceKind.Switch, "case switch", 10, Seats: true),
        new(UnitKind.Motherboard, PlaceKind.Board, "motherboard", 110),
        new(UnitKind.Cpu, PlaceKind.Cpu, "CPU", 160),
        new(UnitKind.Cooler, PlaceKind.Cooler, "cooler", 30, Seats: true),
        new(UnitKind.MemoryStick, PlaceKind.Memory, "memory stick", 35, Absence.LeftOut, Seats: true),
        new(UnitKind.GraphicsCard, PlaceKind.Card, "graphics card", 250, Absence.LeftOut, Seats: true),
        new(UnitKind.Storage, PlaceKind.Storage, "drive", 60, Absence.LeftOut),
        new(UnitKind.Peripheral, PlaceKind.Peripheral, "peripheral", 20, Absence.LeftOut, Outside: true),
        new(UnitKind.VideoCable, PlaceKind.Cable, "video cable", 10, Outside: true),
        new(UnitKind.Monitor, PlaceKind.Monitor, "monitor", 150, Outside: true, Seats: true),
        new(UnitKind.PowerStrip, PlaceKind.Strip, "strip or battery-backed supply", 20, Absence.Bypassed, Small: true),
        new(UnitKind.MainCable, PlaceKind.MainCable, "main cable of the supply", 15, Seats: true, Small: true),
        new(UnitKind.CpuCable, PlaceKind.CpuCable, "CPU cable of the supply", 12, Seats: true, Small: true),
        new(UnitKind.CardCable, PlaceKind.CardCable, "card cable of the supply", 12, Seats: true, Small: true),
        new(UnitKind.ResetSwitch, PlaceKind.Reset, "reset switch", 6, Absence.LeftOut, MayStayOut: true, Small: true),
        new(UnitKind.FrontLead, PlaceKind.Front, "front USB or audio lead", 8, Absence.LeftOut, MayStayOut: true, Small: true),
        new(UnitKind.CaseFan, PlaceKind.Fan, "case fan", 10, Absence.LeftOut, Small: true),
        new(UnitKind.FanHub, PlaceKind.FanHub, "fan hub", 12, Absence.LeftOut, Small: true),
        new(UnitKind.Pump, PlaceKind.Pump, "pump", 80, Seats: true, Small: true),
        new(UnitKind.Riser, PlaceKind.Riser, "riser", 35, Absence.Bypassed, Seats: true, Small: true),
        new(UnitKind.CoinCell, PlaceKind.Cell, "coin cell", 3, Absence.LeftOut, Small: true),
        new(UnitKind.FirmwareChip, PlaceKind.Chip, "firmware chip", 15, Small: true),
        new(UnitKind.OtherCard, PlaceKind.Other, "other card", 30, Absence.LeftOut, Seats: true, Small: true),
        new(UnitKind.UsbHub, PlaceKind.Hub, "USB hub", 15, Absence.LeftOut, Outside: true, MayStayOut: true, Small: true),
    ];

    private static readonly ImmutableDictionary<UnitKind, UnitFacts> ByKind = All.ToImmutableDictionary(f => f.Kind);

    /// <summary>The facts of a kind.</summary>
    public static UnitFacts Of(UnitKind kind) => ByKind[kind];
}
