using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Web.Drawing;

/// <summary>Where on the bench a kind of place is drawn.</summary>
public enum Zone
{
    /// <summary>Beside the board, from the wall to its plugs.</summary>
    Power,

    /// <summary>On the board, where its plan says.</summary>
    Board,

    /// <summary>Behind the board: what hangs on its ports.</summary>
    Ports,

    /// <summary>Behind the board: what shows the picture.</summary>
    Display,

    /// <summary>Before the board: the case's switches, drives, fans.</summary>
    Front,
}

/// <summary>How the parts of one kind of place look, and where in walking order they come.</summary>
/// <param name="Place">The kind of place.</param>
/// <param name="Zone">Where it is drawn.</param>
/// <param name="Label">What is written on it; "#" stands for the place's own name.</param>
/// <param name="Width">Units that it takes where it is one in a row.</param>
/// <param name="Draw">Draws what it looks like into its box, over the outline.</param>
public sealed record PartLook(PlaceKind Place, Zone Zone, string Label, double Width, Action<Pen, Box> Draw)
{
    /// <summary>One entry for each kind of place, in walking order: from the wall to the picture.</summary>
    public static ImmutableArray<PartLook> All { get; } =
    [
        new(
            PlaceKind.Outlet,
            Zone.Power,
            "outlet",
            28,
            (p, b) =>
                p.Circle(b.X + 15, b.MiddleY, 8, "thin").Circle(b.X + 12, b.MiddleY, 1.4, "solid").Circle(b.X + 18, b.MiddleY, 1.4, "solid")
        ),
        new(
            PlaceKind.Strip,
            Zone.Power,
            "strip",
            28,
            (p, b) => p.Rect(new(b.X + 6, b.Y + 8, 20, b.H - 16), "thin").Line(b.X + 16, b.Y + 8, b.X + 16, b.Bottom - 8)
        ),
        new(PlaceKind.Lead, Zone.Power, "lead", 28, (p, b) => p.Path(b.X + 6, b.MiddleY, "c6 -10 12 10 20 0", "thick")),
        new(
            PlaceKind.Supply,
            Zone.Power,
            "supply",
            88,
            (p, b) => p.Fan(b.MiddleX - (b.W * 0.08), b.MiddleY - (b.H * 0.08), Math.Min(b.W, b.H) * 0.32)
        ),
        new(PlaceKind.CpuCable, Zone.Power, "CPU pwr", 28, (p, b) => p.Path(b.X, b.MiddleY, "h8", "thick")),
        new(PlaceKind.Extension, Zone.Power, "extension", 28, (p, b) => p.Path(b.X, b.Y + 5, $"v{b.H - 10:0}", "thick")),
        new(PlaceKind.MainCable, Zone.Power, "24-pin", 28, (p, b) => p.Path(b.X, b.MiddleY, "h8", "thick")),
        new(PlaceKind.CardCable, Zone.Power, "card pwr", 28, (p, b) => p.Path(b.X, b.MiddleY, "h8", "thick")),
        new(
            PlaceKind.Switch,
            Zone.Front,
            "switch",
            92,
            (p, b) => p.Circle(b.X + 15, b.MiddleY, 9, "thin").Path(b.X + 15, b.MiddleY - 5, "v6", "thick")
        ),
        new(PlaceKind.Reset, Zone.Front, "reset", 76, (p, b) => p.Circle(b.X + 14, b.MiddleY, 6, "thin")),
        new(PlaceKind.Front, Zone.Front, "front #", 104, (p, b) => p.Rect(new(b.X + 6, b.MiddleY - 5, 16, 10), "thin")),
        new(PlaceKind.Board, Zone.Board, "board", 0, (_, _) => { }),
        new(
            PlaceKind.Cell,
            Zone.Board,
            "",
            0,
            (p, b) => p.Circle(b.MiddleX, b.MiddleY, b.W / 2, "part").Path(b.MiddleX - 5, b.MiddleY, "h10m-5 -5v10")
        ),
        new(
            PlaceKind.Chip,
            Zone.Board,
            "",
            0,
            (p, b) => p.Path(b.X + 3, b.Y - 3, $"v3m6 -3v3m6 -3v3M{b.X + 3:0} {b.Bottom:0}v3m6 -3v3m6 -3v3")
        ),
        new(PlaceKind.Cpu, Zone.Board, "CPU", 0, (p, b) => p.Rect(b.Inset(5), "thin").Path(b.X + 8, b.Y + 8, "h8l-8 8z", "solid")),
        new(PlaceKind.Cooler, Zone.Board, "", 0, (p, b) => p.Fan(b.MiddleX, b.MiddleY, (b.W / 2) - 3)),
        new(
            PlaceKind.Pump,
            Zone.Front,
            "pump",
            84,
            (p, b) => p.Circle(b.X + 15, b.MiddleY, 8, "thin").Path(b.X + 15, b.MiddleY - 12, "v8m0 8v8")
        ),
        new(
            PlaceKind.Memory,
            Zone.Board,
            "#",
            0,
            (p, b) =>
            {
                for (var x = b.X + 16; x < b.Right - 28; x += 18)
                    p.Rect(new(x, b.Y + 2, 12, Math.Max(3, b.H - 4)), "dram", 0);
            }
        ),
        new(PlaceKind.Riser, Zone.Board, "", 0, (p, b) => p.Line(b.X + 3, b.MiddleY, b.Right - 3, b.MiddleY)),
        new(
            PlaceKind.Card,
            Zone.Board,
            "#",
            0,
            (p, b) =>
                p.Path(b.X - 2, b.Y, $"h{b.W + 4:0}v8h-{b.W + 4:0}z", "metal").Fan(b.MiddleX, b.Y + (b.H * 0.72), Math.Min(b.W / 2, 15) - 2)
        ),
        new(PlaceKind.Other, Zone.Front, "card #", 88, (p, b) => p.Path(b.X + 7, b.Y + 7, "v20m0 -16h14v8h-14")),
        new(
            PlaceKind.Storage,
            Zone.Front,
            "drive #",
            92,
            (p, b) => p.Circle(b.X + 14, b.MiddleY, 8, "thin").Circle(b.X + 14, b.MiddleY, 2, "solid")
        ),
        new(PlaceKind.DataCable, Zone.Front, "data #", 88, (p, b) => p.Path(b.X + 5, b.MiddleY + 5, "c5 -14 11 6 18 -10", "thick")),
        new(PlaceKind.Fan, Zone.Front, "fan #", 80, (p, b) => p.Fan(b.X + 15, b.MiddleY, 11)),
        new(PlaceKind.FanHub, Zone.Front, "fan hub", 98, (p, b) => p.Path(b.X + 6, b.MiddleY - 5, "h14m-14 5h14m-14 5h14")),
        new(
            PlaceKind.Peripheral,
            Zone.Ports,
            "name",
            0,
            (p, b) => p.Rect(new(b.X + 4, b.MiddleY - 5, 14, 10), "thin", 3).Path(b.X + 7, b.MiddleY, "h8")
        ),
        new(PlaceKind.Hub, Zone.Ports, "USB hub", 0, (p, b) => p.Path(b.X + 11, b.MiddleY + 6, "v-12m-6 6h12")),
        new(PlaceKind.Adapter, Zone.Display, "adapter", 0, (p, b) => p.Rect(new(b.X + 6, b.Y + 8, b.W - 12, b.H - 20), "thin", 3)),
        new(PlaceKind.Cable, Zone.Display, "cable", 0, (p, b) => p.Path(b.X + 3, b.Bottom - 4, $"h{b.W - 6:0}", "thick")),
        new(
            PlaceKind.Monitor,
            Zone.Display,
            "",
            0,
            (p, b) => p.Rect(new(b.X + 5, b.Y + 5, b.W - 10, b.H - 15), "screen").Path(b.MiddleX - 12, b.Bottom, "h24", "thick")
        ),
    ];

    private static readonly ImmutableDictionary<PlaceKind, PartLook> ByPlace = All.ToImmutableDictionary(l => l.Place);

    public static PartLook Of(PlaceKind place) => ByPlace[place];

    /// <summary>Where in walking order a kind of place comes.</summary>
    public static int Order(PlaceKind place) => All.IndexOf(Of(place));
}
