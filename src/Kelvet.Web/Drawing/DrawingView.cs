using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Drawing;

/// <summary>What a part or an output of the drawing leads to.</summary>
/// <param name="Address">Where.</param>
/// <param name="Words">What that does.</param>
/// <param name="IsTarget">Whether something that is picked can be put there.</param>
public sealed record DrawnLink(string Address, string Words, bool IsTarget = false);

/// <summary>A drawing as it is shown somewhere: large and live on the bench, small and still elsewhere.</summary>
public sealed class DrawingView
{
    /// <summary>The machine.</summary>
    public required MachineDrawing Drawing { get; init; }

    /// <summary>Whether it is a small picture without words and links.</summary>
    public bool Small { get; init; }

    /// <summary>Whether the machine is powered: its fans turn.</summary>
    public bool Live { get; init; }

    /// <summary>Where hands go next.</summary>
    public ImmutableArray<Hand> Hands { get; init; } = [];

    /// <summary>The part that is picked.</summary>
    public UnitId? Picked { get; init; }

    /// <summary>What is known of the machine; null where nothing is told apart.</summary>
    public Knowledge? Known { get; init; }

    /// <summary>How a part is known.</summary>
    public Knowing KnowingOf(DrawnPart part) => part.Unit is { } unit && Known is { } known ? known.KnowingOf(unit.Id) : Knowing.Known;

    /// <summary>What of a part nobody knows, after its name; empty where all is known.</summary>
    public string NotKnownOf(DrawnPart part) =>
        part.Unit is { } unit && Known?.Open.Where(g => g.Unit == unit.Id).ToArray() is { Length: > 0 } open
            ? $"Not known: {string.Join(", ", open.Select(g => PartFactRow.Row(g.Fact).Words("it")))}"
            : "";

    /// <summary>What the last start showed; null where nothing was seen yet.</summary>
    public TrialEntry? Last { get; init; }

    /// <summary>Whether what is seen can be tapped where it is.</summary>
    public bool Taps { get; init; }

    /// <summary>What a part leads to.</summary>
    public Func<DrawnPart, DrawnLink?> PartLink { get; init; } = _ => null;

    /// <summary>What an output leads to.</summary>
    public Func<DrawnOutput, DrawnLink?> OutputLink { get; init; } = _ => null;

    /// <summary>What the coin cell leads to.</summary>
    public DrawnLink? Clear { get; init; }

    /// <summary>What the front-panel header leads to.</summary>
    public DrawnLink? Header { get; init; }

    /// <summary>Points of a look-over by their places, with whether each was seen.</summary>
    public ImmutableArray<(Place Place, int Number, bool IsSeen, bool IsHere)> Points { get; init; } = [];

    /// <summary>The code that is shown: what it says now or said last.</summary>
    public string Code => Last?.Signs.Code ?? "";

    /// <summary>The indicators from the first to the last, and whether each was lit.</summary>
    public IEnumerable<(string Name, bool Lit)> Lights =>
        new[] { (StallDomain.Cpu, "CPU"), (StallDomain.Memory, "memory"), (StallDomain.Video, "video"), (StallDomain.Boot, "boot") }.Select(
            l =>
                (
                    l.Item2,
                    Last?.Stall?.Pointed == l.Item1 || (Last?.Signs.Lights.Contains(l.Item2, StringComparison.OrdinalIgnoreCase) ?? false)
                )
        );

    /// <summary>A small, still picture.</summary>
    public static DrawingView Of(Situation situation, BenchDiagnosis? diagnosis, Configuration? received = null) =>
        new() { Drawing = new MachineDrawing(situation, diagnosis, received), Small = true };

    /// <summary>A small, still picture of a job's machine as it now stands, what is guessed told apart.</summary>
    public static DrawingView Of(BenchJob job) =>
        new()
        {
            Drawing = new MachineDrawing(job.Now, (BenchDiagnosis?)null),
            Small = true,
            Known = Knowledge.Of(job),
        };

    /// <summary>The machine in one sentence, for who cannot see the picture.</summary>
    public string Words
    {
        get
        {
            var odd = Drawing
                .Parts.Where(p => p.Standing is Standing.Suspect or Standing.ProofOneWay or Standing.Condemned)
                .Select(p => $"{p.Place.Words()} {p.Standing!.Value.Words()}");
            return $"The machine, {Drawing.Parts.Count(p => p.Unit is not null)} parts{string.Concat(odd.Select(o => $", {o}"))}";
        }
    }

    /// <summary>How a part stands, drawn as a mark on it.</summary>
    public static string Mark(DrawnPart part)
    {
        var sign = StandingSign.On(part.Standing);
        if (sign.Length == 0)
            return "";
        var (x, y) = part.Place.Kind switch
        {
            PlaceKind.Memory => (part.Box.Right - 10, part.Box.MiddleY),
            PlaceKind.Card when part.Unit is not null => (part.Box.MiddleX, part.Box.Y + 26),
            PlaceKind.Board => (part.Box.X + 2, part.Box.Y + (part.Box.H * 0.66)),
            PlaceKind.Monitor => (part.Box.MiddleX, part.Box.MiddleY - 3),
            PlaceKind.Cpu => (part.Box.MiddleX, part.Box.MiddleY - 4),
            _ => (part.Box.Right - 3, part.Box.Y + 3),
        };
        var at = FormattableString.Invariant($"translate({x:0.#} {y:0.#})");
        var ground = "<circle r=\"9\" class=\"sign-ground\"/>";
        return $"<g class=\"sign\" transform=\"{at}\">{ground}<path d=\"{sign}\" transform=\"scale(0.8)\"/></g>";
    }

    /// <summary>
    /// The points of a visit, one to a place: of several the one that is looked at, else the first that is open.
    /// </summary>
    public static ImmutableArray<(Place Place, int Number, bool IsSeen, bool IsHere)> OnePerPlace(
        IEnumerable<(Place Place, int Number, bool IsSeen, bool IsHere)> points
    ) => [.. points.GroupBy(p => p.Place).Select(g => g.OrderByDescending(p => p.IsHere).ThenBy(p => p.IsSeen).First())];

    /// <summary>Where fans and the screen are tapped to say what they do: over what moves or shows, so that the rest of the part
    /// stays to be picked.</summary>
    public IEnumerable<(string Panel, string Words, Box Box, double Round)> Spots()
    {
        if (Fitted(PlaceKind.Cooler) is { } cooler)
            yield return (
                "tap-fan",
                "The cooler's fan: say what it does",
                Round(cooler.MiddleX, cooler.MiddleY, cooler.W / 4),
                cooler.W / 4
            );
        if (Fitted(PlaceKind.Card) is { } card)
            yield return ("tap-card", "The card's fans: say what they do", Round(card.MiddleX, card.Y + (card.H * 0.72), 15), 15);
        if (Fitted(PlaceKind.Monitor) is { } monitor)
            yield return (
                "tap-screen",
                "The screen: say what stands on it",
                new Box(monitor.X + 8, monitor.Y + 8, monitor.W - 16, monitor.H - 20),
                2
            );

        static Box Round(double x, double y, double radius) => new(x - radius, y - radius, 2 * radius, 2 * radius);
    }

    private Box? Fitted(PlaceKind kind) => Drawing.Parts.FirstOrDefault(p => p.Place.Kind == kind && p.Unit is not null)?.Box;

    /// <summary>Halo, arrow and ghost of what hands do next.</summary>
    public string Ways()
    {
        var pen = new Pen();
        foreach (var hand in Hands.Take(4))
        {
            if (Where(hand) is not { } box)
                continue;
            pen.Rect(box.Inset(-5), "lit", 5);
            var large = box.H > 120;
            var (dx, dy) = large ? (-26.0, 14.0) : (16.0, -15.0);
            switch (hand.Way)
            {
                case HandWay.In:
                    var ghost = box.Moved(dx, dy);
                    pen.Rect(ghost, "ghost-part");
                    Arrow(pen, box.MiddleX + (dx * 3), box.MiddleY + (dy * 3), box.MiddleX, box.MiddleY);
                    break;
                case HandWay.Out:
                    Arrow(pen, box.MiddleX, box.MiddleY, box.MiddleX + (dx * 3), box.MiddleY + (dy * 3));
                    break;
                case HandWay.Move when hand.Other is { } other && Drawing.BoxOf(other) is { } from:
                    pen.Rect(from.Inset(-5), "lit", 5);
                    Arrow(pen, from.MiddleX, from.MiddleY, box.MiddleX, box.MiddleY);
                    break;
                case HandWay.At when hand.Output.Length > 0 && Drawing.BoxOf(Place.Cable) is { } cable:
                    Arrow(pen, cable.X, cable.MiddleY, box.MiddleX, box.Y);
                    break;
                default:
                    break;
            }
        }

        return pen.Svg;
    }

    private Box? Where(Hand hand) =>
        hand.Output.Length > 0 && hand.Place.Kind == PlaceKind.Board ? Drawing.Outputs.FirstOrDefault(o => o.Name == hand.Output)?.Box
        : hand.Place.Kind == PlaceKind.Cell ? Drawing.Cell
        : Drawing.BoxOf(hand.Place) ?? (hand.Place.Kind == PlaceKind.Switch ? Drawing.Header : null);

    private static void Arrow(Pen pen, double x1, double y1, double x2, double y2) =>
        pen.Path(x1, y1, FormattableString.Invariant($"L{x2:0.#} {y2:0.#}"), "way");
}
