using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;

namespace Kelvet.Web.Shown;

/// <summary>A box in the drawing: a unit, or an empty place for one.</summary>
/// <param name="Unit">The unit in it; null for an empty place.</param>
/// <param name="Suspect">The case against the unit; null when there is none.</param>
/// <param name="Turned">Whether the label stands under the box instead of in it.</param>
public sealed record DrawnBox(
    Unit? Unit,
    Suspect? Suspect,
    double X,
    double Y,
    double W,
    double H,
    string Label,
    string Title,
    bool Turned = false,
    Place? Place = null
);

/// <summary>
/// The machine as a drawing, laid out from its own board: slots, sockets, outputs and what hangs on them.
/// One user unit is one CSS pixel at the drawing's natural width.
/// </summary>
public sealed class MachineDrawing
{
    public const int Width = 420;

    private const double BoardX = 132;
    private const double BoardWidth = 280;

    private readonly Situation _situation;
    private readonly BenchDiagnosis _diagnosis;
    private readonly List<DrawnBox> _boxes = [];

    public MachineDrawing(Situation situation, BenchDiagnosis diagnosis)
    {
        _situation = situation;
        _diagnosis = diagnosis;
        var board = situation.Board!;
        BoardHeight = Math.Max(Math.Max(150 + (board.CardSlots.Length * 34), 16 + (board.Outputs.Length * 34)), 214) + 6;
        BoardUnit = new DrawnBox(
            board,
            SuspectOf(board),
            BoardX,
            8,
            BoardWidth,
            BoardHeight,
            "",
            TitleOf(board, Place.Board),
            false,
            Place.Board
        );
        Add(Place.Monitor, 8, 8, 112, 46, "monitor");
        Add(Place.Cable, 8, 70, 112, 34, "cable");
        Add(Place.Supply, 8, 150, 112, 48, "supply");
        Add(Place.Extension, 8, 210, 112, 32, "extension", emptyToo: false);
        Add(Place.Cpu, 210, 20, 78, 66, "CPU");
        Add(Place.Cooler, 210, 94, 78, 34, "cooler");
        var pitch = Math.Min(29.0, 112.0 / board.Slots.Length);
        for (var i = 0; i < board.Slots.Length; i++)
            Add(Place.Memory(board.Slots[i].Name), 297 + (i * pitch), 20, pitch - 7, 88, board.Slots[i].Name, turned: true);
        for (var i = 0; i < board.CardSlots.Length; i++)
            Add(Place.Card(board.CardSlots[i]), 210, 148 + (i * 34), 196, 28, $"slot {board.CardSlots[i]}");
        Outputs = [.. board.Outputs.Select((o, i) => (o.Name, 140.0, 18 + (i * 34.0)))];
        Below();
        Height = _boxes.Max(b => b.Y + b.H) + 8;
        Wires = [.. AllWires()];
    }

    public double Height { get; }

    public double BoardHeight { get; }

    public DrawnBox BoardUnit { get; }

    public IReadOnlyList<DrawnBox> Boxes => _boxes;

    /// <summary>The board's outputs: name and corner of a box 62 by 28.</summary>
    public IReadOnlyList<(string Name, double X, double Y)> Outputs { get; }

    /// <summary>Cables as polylines.</summary>
    public IReadOnlyList<string> Wires { get; }

    /// <summary>Units that are not in the machine.</summary>
    public IEnumerable<(Unit Unit, Suspect? Suspect)> Loose =>
        _situation.Parts.All.Where(u => !_situation.Now.Has(u.Id)).Select(u => (u, SuspectOf(u)));

    public bool IsDisplay(string output) => _situation.Now.Display is { Source.Kind: PlaceKind.Board } d && d.Output == output;

    private void Below()
    {
        var outside = _situation.Now.At.Where(p => _boxes.All(b => b.Place != p.Key) && p.Key != Place.Board).ToArray();
        var top = Math.Max(8 + BoardHeight, 242) + 12;
        for (var i = 0; i < outside.Length; i++)
        {
            var (place, id) = outside[i];
            var label = place.Kind switch
            {
                PlaceKind.Switch => _situation.Now.Start == StartMethod.CaseSwitch ? "switch" : "(switch)",
                PlaceKind.Storage => $"drive {place.Part}",
                PlaceKind.Peripheral => Text.Cut(_situation.Parts[id].Name, 9),
                PlaceKind.Lead => "lead",
                PlaceKind.Outlet => "outlet",
                PlaceKind.Strip => "strip",
                PlaceKind.MainCable => "24-pin",
                PlaceKind.CpuCable => "CPU pwr",
                PlaceKind.CardCable => "card pwr",
                PlaceKind.Reset => "reset",
                PlaceKind.Front => $"front {place.Part}",
                PlaceKind.Fan => $"fan {place.Part}",
                PlaceKind.FanHub => "fan hub",
                PlaceKind.Cell => "cell",
                PlaceKind.Chip => "firmware",
                PlaceKind.Other => $"card {place.Part}",
                PlaceKind.Hub => "USB hub",
                _ => place.Kind.ToString().ToLowerInvariant(),
            };
            Add(place, 8 + (i % 4 * 102), top + (i / 4 * 42), 96, 34, label);
        }
    }

    private void Add(Place place, double x, double y, double w, double h, string label, bool turned = false, bool emptyToo = true)
    {
        var unit = _situation.Now[place] is { } id ? _situation.Parts[id] : null;
        if (unit is null && !emptyToo)
            return;
        if (unit is GraphicsCard card)
            label = Text.Cut(card.Name, 18);
        _boxes.Add(new DrawnBox(unit, unit is null ? null : SuspectOf(unit), x, y, w, h, label, TitleOf(unit, place), turned, place));
    }

    private string TitleOf(Unit? unit, Place place)
    {
        var channel =
            place.Kind == PlaceKind.Memory && _situation.Board?.Slot(place.Part) is { } slot
                ? $", channel {slot.Channel}{FillOf(slot.Name)}"
                : "";
        if (unit is null)
            return $"{Text.Capital(place.Words())}{channel}: empty";
        var standing = SuspectOf(unit) is { } s ? $", {s.Standing.Words()}" : "";
        return $"{Text.Capital(place.Words())}{channel}: {unit.Name} ({unit.Origin.Words()}{standing})";
    }

    /// <summary>
    /// When a slot is filled, counted from the CPU: on boards of four slots the second and fourth come first (common
    /// practice; the board's own manual decides).
    /// </summary>
    private string FillOf(string slot)
    {
        var slots = _situation.Board!.Slots;
        var at = slots.ToList().FindIndex(x => x.Name == slot);
        if (slots.Length != 4)
            return "";
        return at is 1 or 3 ? ", filled first" : ", filled after the others";
    }

    private Suspect? SuspectOf(Unit unit) => _diagnosis.Suspects.FirstOrDefault(s => s.Unit.Id == unit.Id);

    private IEnumerable<string> AllWires()
    {
        if (_situation.Now[Place.Monitor] is not null && _situation.Now[Place.Cable] is not null)
            yield return "64,54 64,70";
        if (_situation.Now[Place.Cable] is not null && _situation.Now.Display is { } display)
        {
            var end =
                display.Source.Kind == PlaceKind.Board
                    ? Outputs.Where(o => o.Name == display.Output).Select(o => (o.X, Y: o.Y + 14)).FirstOrDefault()
                    : _boxes
                        .Where(b => b.Unit is not null && b.Unit.Id == _situation.Now[display.Source])
                        .Select(b => (b.X, Y: b.Y + 14))
                        .FirstOrDefault();
            yield return FormattableString.Invariant($"120,87 126,87 126,{end.Y} {end.X},{end.Y}");
        }

        if (_situation.Now[Place.Supply] is not null)
            yield return _situation.Now[Place.Extension] is null ? "120,174 132,174" : "64,198 64,210 64,226 120,226 132,226";
    }
}
