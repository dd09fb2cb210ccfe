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
/// <param name="Absence">What a start without it is.</param>
/// <param name="Outside">Whether it hangs outside the machine on a low voltage, so that nobody reaches in and it need not be off.</param>
/// <param name="Seats">Whether it has a seat or plug that is worth taking out and putting back by itself.</param>
/// <param name="MayStayOut">Whether a machine goes out without it where it is at fault: nothing that works depends on it.</param>
/// <param name="Small">Whether it is listed only where it is worth a thought of its own; else it belongs to supply, case or board.</param>
public sealed record UnitFacts(
    UnitKind Kind,
    PlaceKind Place,
    string Words,
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
        new(UnitKind.Outlet, PlaceKind.Outlet, "wall outlet"),
        new(UnitKind.MainsLead, PlaceKind.Lead, "mains lead"),
        new(UnitKind.Supply, PlaceKind.Supply, "power supply", Seats: true),
        new(UnitKind.PowerExtension, PlaceKind.Extension, "power extension", Absence.Bypassed),
        new(UnitKind.CaseSwitch, PlaceKind.Switch, "case switch", Seats: true),
        new(UnitKind.Motherboard, PlaceKind.Board, "motherboard"),
        new(UnitKind.Cpu, PlaceKind.Cpu, "CPU"),
        new(UnitKind.Cooler, PlaceKind.Cooler, "cooler", Seats: true),
        new(UnitKind.MemoryStick, PlaceKind.Memory, "memory stick", Absence.LeftOut, Seats: true),
        new(UnitKind.GraphicsCard, PlaceKind.Card, "graphics card", Absence.LeftOut, Seats: true),
        new(UnitKind.Storage, PlaceKind.Storage, "drive", Absence.LeftOut),
        new(UnitKind.Peripheral, PlaceKind.Peripheral, "peripheral", Absence.LeftOut, Outside: true),
        new(UnitKind.VideoCable, PlaceKind.Cable, "video cable", Outside: true),
        new(UnitKind.Monitor, PlaceKind.Monitor, "monitor", Outside: true, Seats: true),
        new(UnitKind.PowerStrip, PlaceKind.Strip, "strip or battery-backed supply", Absence.Bypassed, Small: true),
        new(UnitKind.MainCable, PlaceKind.MainCable, "main cable of the supply", Seats: true, Small: true),
        new(UnitKind.CpuCable, PlaceKind.CpuCable, "CPU cable of the supply", Seats: true, Small: true),
        new(UnitKind.CardCable, PlaceKind.CardCable, "card cable of the supply", Seats: true, Small: true),
        new(UnitKind.ResetSwitch, PlaceKind.Reset, "reset switch", Absence.LeftOut, MayStayOut: true, Small: true),
        new(UnitKind.FrontLead, PlaceKind.Front, "front USB or audio lead", Absence.LeftOut, MayStayOut: true, Small: true),
        new(UnitKind.CaseFan, PlaceKind.Fan, "case fan", Absence.LeftOut, Small: true),
        new(UnitKind.FanHub, PlaceKind.FanHub, "fan hub", Absence.LeftOut, Small: true),
        new(UnitKind.Pump, PlaceKind.Pump, "pump", Seats: true, Small: true),
        new(UnitKind.Riser, PlaceKind.Riser, "riser", Absence.Bypassed, Seats: true, Small: true),
        new(UnitKind.CoinCell, PlaceKind.Cell, "coin cell", Absence.LeftOut, Small: true),
        new(UnitKind.FirmwareChip, PlaceKind.Chip, "firmware chip", Small: true),
        new(UnitKind.OtherCard, PlaceKind.Other, "other card", Absence.LeftOut, Seats: true, Small: true),
        new(UnitKind.UsbHub, PlaceKind.Hub, "USB hub", Absence.LeftOut, Outside: true, MayStayOut: true, Small: true),
    ];

    private static readonly ImmutableDictionary<UnitKind, UnitFacts> ByKind = All.ToImmutableDictionary(f => f.Kind);

    /// <summary>The facts of a kind.</summary>
    public static UnitFacts Of(UnitKind kind) => ByKind[kind];
}
