using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Drawing;

/// <summary>How a label stands to its box.</summary>
public enum LabelAt
{
    None,
    Inside,
    LeftOf,
    Below,
    Turned,
    Foot,
}

/// <summary>A place in the drawing with the unit in it.</summary>
/// <param name="Place">The place.</param>
/// <param name="Unit">The unit in it; null where it is empty.</param>
/// <param name="Standing">How the unit stands; null where nothing is said of it.</param>
/// <param name="Box">Where it is drawn.</param>
/// <param name="Look">What it looks like.</param>
/// <param name="Label">What is written at it, short enough for its box.</param>
/// <param name="At">Where that is written.</param>
/// <param name="Title">Place, unit and standing in full.</param>
public sealed record DrawnPart(Place Place, Unit? Unit, Standing? Standing, Box Box, PartLook Look, string Label, LabelAt At, string Title);

/// <summary>An output of the board.</summary>
public sealed record DrawnOutput(string Name, Box Box, bool LabelAbove, bool IsShown, string Label);

/// <summary>
/// The machine as it lies on the bench, its rear edge away from the technician, laid out from its own board: outline, slots,
/// sockets, outputs and what hangs on them. Parts come in walking order.
/// </summary>
public sealed class MachineDrawing
{
    /// <summary>Natural width.</summary>
    public const double Width = 496;

    private const double BoardRight = 382;
    private const double BoardTop = 86;
    private const double BoardMostWidth = 374;
    private const double BoardMostDepth = 284;

    /// <summary>Slots stand apart further than in truth where there is room, so that each can be pointed at.</summary>
    private const double WidestPitch = 44;

    /// <summary>Channels up to which each has a mark of its own.</summary>
    private const int MostMarked = 4;

    private const double Row = 34;
    private const double Gap = 6;

    /// <summary>Width of a character of a label.</summary>
    private const double Character = 8.5;

    private readonly Situation _situation;
    private readonly IReadOnlyDictionary<UnitId, Standing> _standings;
    private readonly Configuration? _received;
    private readonly BoardPlan _plan;
    private readonly double _scale;
    private readonly List<DrawnPart> _parts = [];

    /// <param name="situation">The machine.</param>
    /// <param name="diagnosis">The case against each part; null where none is shown.</param>
    /// <param name="received">As it came in, whose places are drawn also where they are empty; null for none.</param>
    public MachineDrawing(Situation situation, BenchDiagnosis? diagnosis, Configuration? received = null)
        : this(situation, diagnosis?.Suspects.ToDictionary(s => s.Unit.Id, s => s.Standing) ?? [], received) { }

    /// <param name="situation">The machine.</param>
    /// <param name="standings">How its units stand.</param>
    /// <param name="received">As it came in, whose places are drawn also where they are empty; null for none.</param>
    public MachineDrawing(Situation situation, IReadOnlyDictionary<UnitId, Standing> standings, Configuration? received)
    {
        _situation = situation;
        _standings = standings;
        _received = received;
        var board = situation.Board!;
        _plan = BoardPlan.Of(board);
        _scale = Math.Min(BoardMostWidth / _plan.Width, BoardMostDepth / _plan.Depth);
        Board = new Box(BoardRight - (_plan.Width * _scale), BoardTop, _plan.Width * _scale, _plan.Depth * _scale);
        OnBoard(board);
        Display();
        Ports();
        var bottom = Math.Max(Power(), Front());
        Height = Math.Max(bottom, Board.Bottom) + 8;
        Outputs = [.. OutputsOf(board)];
        Parts = [.. _parts.OrderBy(p => PartLook.Order(p.Place.Kind)).ThenBy(p => IndexOf(board, p.Place))];
    }

    public double Height { get; }

    /// <summary>The board's outline.</summary>
    public Box Board { get; }

    /// <summary>Every place, in walking order.</summary>
    public ImmutableArray<DrawnPart> Parts { get; }

    public ImmutableArray<DrawnOutput> Outputs { get; }

    /// <summary>Where the front-panel header is.</summary>
    public Box Header => At(_plan.Header);

    /// <summary>Where the coin cell is.</summary>
    public Box Cell => At(_plan.Cell);

    /// <summary>Where the indicators are.</summary>
    public Box Lights => At(_plan.Lights) with { W = 52 };

    /// <summary>Where the code display is.</summary>
    public Box Code => new(Lights.Right + 3, Lights.Y - 3, 30, Lights.H + 6);

    /// <summary>The board's plugs and holes.</summary>
    public string Details()
    {
        var pen = new Pen();
        foreach (var (fromRight, fromRear) in _plan.Holes)
            pen.Circle(Board.Right - (fromRight * _scale), Board.Y + (fromRear * _scale), 4, "hole");
        pen.Rect(new Box(Board.X, Board.Y, Board.W, 5), "rear", 0);
        foreach (var plug in new[] { At(_plan.MainPlug), At(_plan.CpuPlug) })
            pen.Rect(plug, "plug");
        var main = At(_plan.MainPlug);
        for (var x = main.X + 6; x < main.Right - 3; x += 8)
            pen.Line(x, main.Y + 3, x, main.Bottom - 3, "pins");
        SlotDetails(pen);
        return pen.Svg;
    }

    /// <summary>Latches at both ends of a memory slot, as many dots as its channel counts, and the cards' power plugs.</summary>
    private void SlotDetails(Pen pen)
    {
        var channels = _situation.Board!.Channels.ToArray();
        foreach (var part in Parts.Where(p => p.Place.Kind == PlaceKind.Memory))
        {
            pen.Rect(new Box(part.Box.X - 3, part.Box.Y - 1, 4, part.Box.H + 2), "latch", 1);
            pen.Rect(new Box(part.Box.Right - 1, part.Box.Y - 1, 4, part.Box.H + 2), "latch", 1);
            var channel = Array.IndexOf(channels, _situation.Board.Slot(part.Place.Part)?.Channel);
            for (var i = 0; i <= channel && channels.Length is > 1 and <= MostMarked; i++)
                pen.Circle(part.Box.Right + 7, part.Box.MiddleY - (channel * 2) + (i * 4), 1.5, "solid");
        }

        foreach (var part in Parts.Where(p => p.Unit is GraphicsCard { NeedsAuxPower: true }))
            pen.Rect(new Box(part.Box.MiddleX - 6, part.Box.Bottom - 3, 12, 7), "plug", 1);
    }

    /// <summary>Cables as they hang.</summary>
    public string Cables()
    {
        var pen = new Pen();
        Box? Of(PlaceKind kind) => Parts.FirstOrDefault(p => p.Place.Kind == kind && p.Unit is not null) is { } part ? part.Box : null;
        var chain = new[] { PlaceKind.Outlet, PlaceKind.Strip, PlaceKind.Lead, PlaceKind.Supply }.Select(Of).OfType<Box>().ToArray();
        foreach (var (upper, lower) in chain.Zip(chain.Skip(1)))
            pen.Line(upper.MiddleX, upper.Bottom, lower.MiddleX, lower.Y, "wire");
        if (Of(PlaceKind.Supply) is { } supply)
        {
            var (main, cpu) = (At(_plan.MainPlug), At(_plan.CpuPlug));
            var lastOfMain = Of(PlaceKind.MainCable) ?? Of(PlaceKind.Extension) ?? supply;
            foreach (var kind in new[] { PlaceKind.Extension, PlaceKind.MainCable, PlaceKind.CpuCable, PlaceKind.CardCable })
            {
                if (Of(kind) is { } sleeve)
                    pen.Path(supply.Right - 4, supply.Bottom, $"V{sleeve.MiddleY:0}H{sleeve.Right:0}", "wire");
            }

            var (edge, below) = (Board.Right + 8, Board.Bottom + 6);
            pen.Path(
                lastOfMain.X,
                lastOfMain.Bottom - 8,
                FormattableString.Invariant(
                    $"C{edge:0} {lastOfMain.Bottom - 8:0} {edge:0} {below:0} {main.Right - 8:0} {below:0}V{main.MiddleY:0}"
                ),
                "wire"
            );
            var fromCpu = Of(PlaceKind.CpuCable) ?? supply;
            pen.Cable(fromCpu.X, fromCpu.Y + 12, cpu.Right, cpu.MiddleY, "wire", 8);
            foreach (var card in Parts.Where(p => p.Unit is GraphicsCard { NeedsAuxPower: true }))
            {
                var from = Of(PlaceKind.CardCable) ?? supply;
                pen.Path(
                    from.X,
                    from.Bottom - 6,
                    $"C{Board.Right + 2:0} {from.Bottom + 40:0} {Board.Right:0} {Board.Bottom + 3:0} {main.X - 10:0} {Board.Bottom + 3:0}"
                        + $"S{card.Box.MiddleX:0} {Board.Bottom:0} {card.Box.MiddleX:0} {card.Box.Bottom:0}",
                    "wire"
                );
            }
        }

        if (Of(PlaceKind.Monitor) is { } monitor && Of(PlaceKind.Cable) is { } cable)
        {
            pen.Line(monitor.X, monitor.MiddleY, cable.Right, cable.MiddleY, "wire");
            if (End() is { } end)
                pen.Cable(cable.X + 8, cable.Bottom, end.MiddleX, end.Y + 2, "wire video", 4);
        }

        if (Of(PlaceKind.Switch) is { } button && _situation.Now.Start == StartMethod.CaseSwitch)
            pen.Cable(Header.X + 8, Header.Bottom, button.X + 15, button.Y, "lead", 0);
        return pen.Svg;
    }

    /// <summary>Where the monitor's cable is plugged in.</summary>
    public Box? End() =>
        _situation.Now.Display is not { } display ? null
        : display.Source.Kind == PlaceKind.Board ? Outputs.FirstOrDefault(o => o.Name == display.Output)?.Box
        : Parts.FirstOrDefault(p => p.Place == display.Source && p.Unit is not null)?.Box;

    /// <summary>Where a place is drawn; null when it is not.</summary>
    public Box? BoxOf(Place place) => place == Place.Board ? Board : Parts.FirstOrDefault(p => p.Place == place)?.Box;

    /// <summary>Units that are not in the machine.</summary>
    public IEnumerable<(Unit Unit, Standing? Standing)> Loose =>
        _situation.Parts.All.Where(u => !_situation.Now.Has(u.Id) && !u.IsAway).Select(u => (u, StandingOf(u)));

    private Standing? StandingOf(Unit? unit) => unit is not null && _standings.TryGetValue(unit.Id, out var standing) ? standing : null;

    private void OnBoard(Motherboard board)
    {
        Add(Place.Board, Board, "board", LabelAt.None);
        var socket = At(_plan.Socket);
        var side = Math.Min(socket.H, socket.W * 0.62);
        Add(Place.Cpu, socket with { W = socket.W - side - 4 }, "CPU", LabelAt.Foot, always: true);
        Add(Place.Cooler, new Box(socket.Right - side, socket.Y + ((socket.H - side) / 2), side, side), "", LabelAt.None, always: true);
        Add(Place.Of(PlaceKind.Cell), Cell, "", LabelAt.None);
        Add(Place.Of(PlaceKind.Chip), At(_plan.Chip), "", LabelAt.None);
        var memory = At(_plan.Memory);
        var columns = board.Slots.Length > 8 ? 2 : 1;
        var rows = (board.Slots.Length + columns - 1) / columns;
        var pitch = Math.Min(26, memory.H / rows);
        for (var i = 0; i < board.Slots.Length; i++)
        {
            var name = board.Slots[i].Name;
            var width = memory.W / columns;
            var label = Fitting(name, 4 * Character);
            var room = Math.Max(24, (label.Length * Character) + 6);
            Add(
                Place.Memory(name),
                new Box(memory.X + (i / rows * width) + room, memory.Y + (i % rows * pitch), width - room - 10, Math.Min(15, pitch - 3)),
                label,
                LabelAt.LeftOf,
                always: true
            );
        }

        Slots(board);
    }

    private void Slots(Motherboard board)
    {
        var first = Board.Right - (_plan.FirstCard * _scale);
        var room = first - Board.X - 8;
        var cards = board.CardSlots.Length;
        var pitch = cards > 1 ? Math.Min(WidestPitch, room / (cards - 1)) : WidestPitch;
        for (var i = 0; i < cards; i++)
        {
            var place = Place.Card(board.CardSlots[i]);
            var middle = first - (i * pitch);
            var fitted = _situation.Now[place] is not null;
            var width = fitted ? (cards == 1 ? 30 : Math.Min(34, pitch - 6)) : 13;
            var box = fitted
                ? new Box(middle - (width / 2), Board.Y - 12, width, Math.Min(236, Board.H * 0.82))
                : new Box(middle - 6, Board.Y + (26 * _scale), 13, Math.Min(89 * _scale, Board.H * 0.5));
            Add(
                place,
                box,
                Fitting(board.CardSlots[i], Math.Max(2 * Character, pitch - 2)),
                fitted ? LabelAt.Foot : LabelAt.Below,
                always: true
            );
        }

        var riser = Place.Of(PlaceKind.Riser);
        if (cards > 0)
            Add(riser, new Box(first - 17, Board.Y + (Board.H * 0.82), 34, 16), "", LabelAt.None);
    }

    private void Display()
    {
        Add(Place.Monitor, new Box(BoardRight - 96, 4, 96, 54), "", LabelAt.None, always: true);
        var adapter = Place.Of(PlaceKind.Adapter);
        if (IsKnown(adapter))
            Add(adapter, new Box(BoardRight - 164, 1, 58, 28), "adapter", LabelAt.Foot);
        Add(Place.Cable, new Box(BoardRight - 164, 30, 58, 28), "cable", LabelAt.Foot, always: true);
    }

    private void Ports()
    {
        var all = Known(PlaceKind.Peripheral).Concat(Known(PlaceKind.Hub)).ToArray();
        if (all.Length == 0)
            return;
        var columns =
            all.Length == 1 ? 1
            : all.Length == 2 ? 2
            : all.Length <= 6 ? 3
            : (all.Length + 1) / 2;
        var rows = (all.Length + columns - 1) / columns;
        var (width, height) = (Math.Min(132.0, (BoardRight - 172 - 2) / columns), rows == 1 ? Row : Math.Min(30.0, 64.0 / rows));
        for (var i = 0; i < all.Length; i++)
        {
            var box = new Box(8 + (i % columns * width), 4 + (i / columns * (height + 3)), width - 5, height);
            var name =
                all[i].Kind == PlaceKind.Hub ? "hub"
                : width < 70 ? all[i].Part
                : NameAt(all[i]) ?? all[i].Part;
            Add(all[i], box, Fitting(name, box.W - 36), LabelAt.Inside);
        }
    }

    private double Power()
    {
        var stack = PartLook
            .All.Where(l => l.Zone == Zone.Power)
            .Select(l => (Look: l, Place: Place.Of(l.Place)))
            .Where(p => p.Place == Place.Supply || IsKnown(p.Place))
            .ToArray();
        var height = stack.Sum(p => p.Look.Width + 8);
        var y = Math.Max(4, Math.Min(Board.Y + 30, Board.Bottom - height));
        foreach (var (look, place) in stack)
        {
            Add(
                place,
                new Box(BoardRight + 18, y, Width - BoardRight - 20, look.Width),
                look.Label,
                look.Place is PlaceKind.Outlet or PlaceKind.Strip or PlaceKind.Lead ? LabelAt.Inside : LabelAt.Foot,
                always: true
            );
            y += look.Width + 8;
        }

        return y;
    }

    private double Front()
    {
        var places = PartLook.All.Where(l => l.Zone == Zone.Front).SelectMany(l => Known(l.Place)).ToArray();
        var total = places.Sum(p => PartLook.Of(p.Kind).Width + Gap);
        var tight = total > 2 * (Width - 16);
        var (x, y) = (8.0, Board.Bottom + 14);
        foreach (var place in places)
        {
            var look = PartLook.Of(place.Kind);
            var label = look.Label.Replace("#", place.Part, StringComparison.Ordinal);
            var width = look.Width;
            if (tight && Place.HasParts(place.Kind))
                (label, width) = (place.Part, 56);
            if (x + width > Width - 4)
                (x, y) = (8, y + Row + Gap);
            Add(place, new Box(x, y, width, Row), Fitting(label, width - 29), LabelAt.Inside);
            x += width + Gap;
        }

        return places.Length == 0 ? y : y + Row;
    }

    private IEnumerable<DrawnOutput> OutputsOf(Motherboard board)
    {
        var shown = _situation.Now.Display is { Source.Kind: PlaceKind.Board } d ? d.Output : null;
        var inRow = board.Outputs.Length > 4 ? (board.Outputs.Length + 1) / 2 : board.Outputs.Length;
        var width = Math.Min(56, (150 * _scale) / Math.Max(1, inRow));
        for (var i = 0; i < board.Outputs.Length; i++)
        {
            var output = board.Outputs[i];
            var above = i >= inRow;
            var x = Board.Right - (6 * _scale) - ((inRow - (i % inRow)) * width);
            var box = new Box(x + 3, above ? Board.Y - 8 : Board.Y + 8, width - 6, 13);
            yield return new DrawnOutput(output.Name, box, above, output.Name == shown, Fitting(output.Name, width));
        }
    }

    private void Add(Place place, Box box, string label, LabelAt at, bool always = false)
    {
        var unit = _situation.Now[place] is { } id ? _situation.Parts[id] : null;
        if (unit is null && !always && !IsKnown(place))
            return;
        var standing = StandingOf(unit);
        _parts.Add(new DrawnPart(place, unit, standing, box, PartLook.Of(place.Kind), label, at, TitleOf(unit, standing, place)));
    }

    private string TitleOf(Unit? unit, Standing? stands, Place place)
    {
        var channel =
            place.Kind == PlaceKind.Memory && _situation.Board?.Slot(place.Part) is { } slot
                ? $", channel {slot.Channel}{FillOf(slot.Name)}"
                : "";
        var owner =
            place.Kind == PlaceKind.Switch && _situation.Now.Start == StartMethod.HeaderPins ? ", not used: started at the pins" : "";
        if (unit is null)
            return $"{Text.Capital(place.Words())}{channel}: empty";
        var standing = stands is { } s ? $", {s.Words()}" : "";
        return $"{Text.Capital(place.Words())}{channel}: {_situation.Parts.NameOf(unit)} ({unit.Origin.Words()}{standing}{owner})";
    }

    /// <summary>When a slot is filled, by the usual order (common practice; the board's own manual decides).</summary>
    private string FillOf(string slot)
    {
        var order = _situation.Board!.UsualOrder;
        var channels = _situation.Board.Channels.Count();
        return order.IsEmpty ? ""
            : order.IndexOf(slot) < channels ? ", filled first"
            : ", filled after the others";
    }

    private IEnumerable<Place> Known(PlaceKind kind) =>
        _situation
            .Now.At.Keys.Concat(_received?.At.Keys ?? [])
            .Where(p => p.Kind == kind)
            .Distinct()
            .OrderBy(p => p.Part.Length)
            .ThenBy(p => p);

    private bool IsKnown(Place place) => _situation.Now[place] is not null || _received?[place] is not null;

    private string? NameAt(Place place) => (_situation.Now[place] ?? _received?[place]) is { } id ? _situation.Parts.Find(id)?.Name : null;

    private static int IndexOf(Motherboard board, Place place) =>
        place.Kind switch
        {
            PlaceKind.Memory => board.Slots.ToList().FindIndex(s => s.Name == place.Part),
            PlaceKind.Card => board.CardSlots.IndexOf(place.Part),
            _ => 0,
        };

    private static string Fitting(string label, double width) => Text.Cut(label, Math.Max(2, (int)(width / Character)));

    private Box At(Box onBoard) =>
        new(Board.Right - ((onBoard.X + onBoard.W) * _scale), Board.Y + (onBoard.Y * _scale), onBoard.W * _scale, onBoard.H * _scale);
}
