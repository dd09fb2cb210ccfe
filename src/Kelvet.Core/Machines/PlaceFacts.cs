using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>What is known about one sort of place. In its words "#" stands for the name of the slot, port or header.</summary>
/// <param name="Kind">The sort.</param>
/// <param name="Words">What a technician calls it; a machine has several of those with a "#".</param>
/// <param name="Brief">What is printed beside it; empty where a machine has only one.</param>
public sealed record PlaceFacts(PlaceKind Kind, string Words, string Brief = "")
{
    /// <summary>Whether a machine can have several, told apart by slot or port.</summary>
    public bool HasParts => Brief.Length > 0;

    /// <summary>Every sort, in the order of <see cref="PlaceKind"/>.</summary>
    public static ImmutableArray<PlaceFacts> All { get; } =
    [
        new(PlaceKind.Outlet, "wall outlet"),
        new(PlaceKind.Lead, "mains lead"),
        new(PlaceKind.Supply, "supply"),
        new(PlaceKind.Extension, "power extension"),
        new(PlaceKind.Switch, "front-panel switch"),
        new(PlaceKind.Board, "board"),
        new(PlaceKind.Cpu, "CPU socket"),
        new(PlaceKind.Cooler, "cooler"),
        new(PlaceKind.Memory, "memory slot #", "#"),
        new(PlaceKind.Card, "expansion slot #", "slot #"),
        new(PlaceKind.Storage, "storage port #", "port #"),
        new(PlaceKind.Peripheral, "port #", "port #"),
        new(PlaceKind.Cable, "video cable"),
        new(PlaceKind.Monitor, "monitor"),
        new(PlaceKind.Strip, "strip"),
        new(PlaceKind.MainCable, "main cable"),
        new(PlaceKind.CpuCable, "CPU cable"),
        new(PlaceKind.CardCable, "card cable"),
        new(PlaceKind.Reset, "reset switch"),
        new(PlaceKind.Front, "front header #", "header #"),
        new(PlaceKind.Fan, "fan header #", "header #"),
        new(PlaceKind.FanHub, "fan hub"),
        new(PlaceKind.Pump, "pump"),
        new(PlaceKind.Riser, "riser"),
        new(PlaceKind.Cell, "cell holder"),
        new(PlaceKind.Chip, "firmware chip"),
        new(PlaceKind.Other, "slot # for other cards", "slot #"),
        new(PlaceKind.Hub, "USB hub"),
        new(PlaceKind.DataCable, "data cable of port #", "port #"),
        new(PlaceKind.Adapter, "display adapter"),
    ];

    /// <summary>The facts of a sort.</summary>
    public static PlaceFacts Of(PlaceKind kind) => All[(int)kind];
}
