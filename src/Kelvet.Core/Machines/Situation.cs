using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>
/// The machine as it now stands together with what has been done to it since intake, as far as
/// that decides which faults can still bite: what has been refitted, and whose settings were cleared.
/// </summary>
public sealed class Situation
{
    private readonly History _history;

    private ImmutableArray<(Place Place, GraphicsCard Card)> _cards;
    private ImmutableArray<(Place Place, MemoryStick Stick)> _sticks;

    private Situation(Parts parts, Configuration now, History history)
    {
        Parts = parts;
        Now = now;
        _history = history;
    }

    /// <summary>What has been done since intake.</summary>
    private sealed record History
    {
        public ImmutableHashSet<UnitId> Refitted { get; init; } = [];

        public ImmutableHashSet<UnitId> Cleared { get; init; } = [];

        /// <summary>How often each thing was mended in each way.</summary>
        public ImmutableDictionary<(UnitId Unit, Remedy Remedy), int> Mended { get; init; } =
            ImmutableDictionary<(UnitId Unit, Remedy Remedy), int>.Empty;

        public ImmutableHashSet<(UnitId Board, MachineOption Option)> Chosen { get; init; } = [];

        public Posture Posture { get; init; }

        /// <summary>As it came in; the same for every situation of a job, so that no two are told apart by it.</summary>
        public Configuration Received { get; init; } = Configuration.Empty;

        /// <summary>Kinds of unit that hands were at: what is beside them was leaned on.</summary>
        public ImmutableHashSet<UnitKind> Handled { get; init; } = [];

        public bool IsSameAs(History other) =>
            ReferenceEquals(this, other)
            || (
                Posture == other.Posture
                && Refitted.SetEquals(other.Refitted)
                && Handled.SetEquals(other.Handled)
                && Cleared.SetEquals(other.Cleared)
                && Chosen.SetEquals(other.Chosen)
                && Mended.Count == other.Mended.Count
                && Mended.All(m => other.Mended.GetValueOrDefault(m.Key) == m.Value)
            );
    }

    /// <summary>The machine as received.</summary>
    public static Situation AtIntake(Parts parts, Configuration received) => new(parts, received, new History { Received = received });

    /// <summary>The machine as it came in.</summary>
    public Configuration Received => _history.Received;

    /// <summary>All units of the job, fitted or not.</summary>
    public Parts Parts { get; }

    /// <summary>What is fitted where.</summary>
    public Configuration Now { get; }

    /// <summary>Whether the unit was fitted, moved or reseated by the technician since intake.</summary>
    public bool Refitted(UnitId id) => _history.Refitted.Contains(id);

    /// <summary>Whether this board's settings were cleared since intake.</summary>
    public bool CmosCleared(UnitId board) => _history.Cleared.Contains(board);

    /// <summary>Whether this was mended in this way since intake.</summary>
    public bool Mended(UnitId id, Remedy remedy) => TimesMended(id, remedy) > 0;

    /// <summary>How often this was mended in this way since intake: a cure that did not help can be done again.</summary>
    public int TimesMended(UnitId id, Remedy remedy) => _history.Mended.GetValueOrDefault((id, remedy));

    /// <summary>Whether a setting of the fitted board is changed from how it was received.</summary>
    public bool IsChosen(MachineOption option) => Board is { } board && _history.Chosen.Contains((board.Id, option));

    /// <summary>Whether a unit of this kind was fitted, taken out, moved or reseated since intake.</summary>
    public bool WasHandled(UnitKind kind) => _history.Handled.Contains(kind);

    /// <summary>How the machine lies.</summary>
    public Posture Posture => _history.Posture;

    /// <summary>Whether it is the same machine: the same parts in the same places, with the same done to them since intake.</summary>
    public bool IsSameAs(Situation other) => ReferenceEquals(this, other) || (Now.Equals(other.Now) && SameHistory(other));

    /// <summary>Whether the same has been done to both machines since intake.</summary>
    public bool SameHistory(Situation other) => _history.IsSameAs(other._history);

    /// <summary>The board that is fitted; null without one.</summary>
    public Motherboard? Board => Fitted<Motherboard>(Place.Board);

    /// <summary>The processor that is fitted; null without one.</summary>
    public Cpu? Cpu => Fitted<Cpu>(Place.Cpu);

    /// <summary>The graphics cards that are fitted, by place.</summary>
    public ImmutableArray<(Place Place, GraphicsCard Card)> Cards => _cards.IsDefault ? _cards = In<GraphicsCard>(PlaceKind.Card) : _cards;

    /// <summary>The memory sticks that are fitted, by place.</summary>
    public ImmutableArray<(Place Place, MemoryStick Stick)> Sticks =>
        _sticks.IsDefault ? _sticks = In<MemoryStick>(PlaceKind.Memory) : _sticks;

    /// <summary>Memory that is fitted, GB; null where the size of a stick is not recorded.</summary>
    public int? FittedGb => Sticks.All(s => s.Stick.SizeGb > 0) ? Sticks.Sum(s => s.Stick.SizeGb) : null;

    private ImmutableArray<(Place, T)> In<T>(PlaceKind kind)
        where T : Unit => [.. Now.At.Where(p => p.Key.Kind == kind).Select(p => (p.Key, (T)Parts[p.Value]))];

    /// <summary>Adds a unit that has come to the bench; it is not fitted by that.</summary>
    public Situation WithUnit(Unit unit) => new(Parts.With(unit), Now, _history);

    /// <summary>The same with a part that the shop does not have, to see what it would do.</summary>
    internal Situation Imagining(Unit unit) => new(Parts.Imagining(unit), Now, _history);

    /// <summary>The situation after a change.</summary>
    /// <exception cref="ChangeRefusedException">The change is impossible; the message says why.</exception>
    public Situation After(Change change) =>
        TryAfter(change, out var next, out var refusal) ? next : throw new ChangeRefusedException(refusal);

    /// <summary>The situation after several changes in order.</summary>
    /// <exception cref="ChangeRefusedException">One of them is impossible; the message says why.</exception>
    public Situation After(IEnumerable<Change> changes) => changes.Aggregate(this, (s, c) => s.After(c));

    /// <summary>
    /// The machine brought into an arrangement by hand, so that what had to be fitted for it has been refitted; where no
    /// order of changes leads there, the arrangement with the history as it is.
    /// </summary>
    internal Situation BackIn(Configuration arrangement) =>
        Transition.Between(this, arrangement) is { } changes ? After(changes) : new(Parts, arrangement, _history);

    /// <summary>Applies a change, or says why it cannot be made.</summary>
    public bool TryAfter(Change change, out Situation next, out string refusal)
    {
        var made = change switch
        {
            Change.Fit c => Fit(c.Unit, c.Place),
            Change.Remove c => Remove(c.Unit),
            Change.Move c => Move(c.Unit, c.Place),
            Change.Swap c => Swap(c.Out, c.In),
            Change.Reseat c => Reseat(c.Unit),
            Change.Connect c => Connect(c.Unit),
            Change.Bypass c => Bypass(c.Unit),
            Change.StartWith c => StartWith(c.Method),
            Change.DisplayAt c => DisplayAt(c.Output),
            Change.ClearCmos => ClearCmos(),
            Change.Mend c => Mend(c.Unit, c.Remedy),
            Change.IntoCase c => IntoCase(c.Unit),
            Change.Choose c => Choose(c.Option),
            Change.Undo c => Undo(c.Option),
            Change.Lay c => Lay(c.Posture),
            _ => throw new ArgumentException($"Unknown change {change.GetType().Name}.", nameof(change)),
        };
        next =
            made.Next is { } after && change.Act <= ActKind.Bypass && Parts.Find(change.Subject!.Value) is { } subject
                ? after.After(after._history with { Handled = after._history.Handled.Add(subject.Kind) })
                : made.Next ?? this;
        refusal = made.Refusal ?? "";
        return made.Next is not null;
    }

    /// <summary>Why power may not be applied to the machine as it stands; null when it may.</summary>
    public string? WhyNotPowered()
    {
        if (Now[Place.Cpu] is not null && Now[Place.Cooler] is null)
            return "A CPU is not run without a cooler, not even for a second. Fit the cooler first.";
        return null;
    }

    private readonly record struct Attempt(Situation? Next, string? Refusal)
    {
        public static implicit operator Attempt(string refusal) => new(null, refusal);

        public static implicit operator Attempt(Situation next) => new(next, null);
    }

    private Attempt Fit(UnitId id, Place place)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (Now.PlaceOf(id) is { } already)
            return $"{unit.Name} is in {already.Words()} already.";
        if (Now[place] is { } occupant)
            return $"{Capital(place.Words())} is taken by {Parts[occupant].Name}.";
        if (WhyUnfit(unit, place, Board) is { } why)
            return why;
        return With(Now.WithUnit(place, id), id);
    }

    private Attempt Remove(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (Now.PlaceOf(id) is not { } place)
            return $"{unit.Name} is not fitted.";
        if (place == Place.Board)
            return "A machine without its board cannot be tried. Swap the board for another.";
        return With(WithoutDisplayOn(Now.WithUnit(place, null), place));
    }

    private Attempt Move(UnitId id, Place place)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (Now.PlaceOf(id) is not { } from)
            return $"{unit.Name} is not fitted; fit it instead.";
        if (from == place)
            return $"{unit.Name} is in {place.Words()} already.";
        if (Now[place] is { } occupant)
            return $"{Capital(place.Words())} is taken by {Parts[occupant].Name}.";
        if (WhyUnfit(unit, place, Board) is { } why)
            return why;
        var moved = Now.WithUnit(from, null).WithUnit(place, id);
        if (Now.Display is { } shown && shown.Source == from)
            moved = moved.WithDisplay(shown with { Source = place });
        return With(moved, id);
    }

    private Attempt Swap(UnitId outId, UnitId inId)
    {
        if (Parts.Find(outId) is not { } outgoing)
            return NoUnit(outId);
        if (Parts.Find(inId) is not { } incoming)
            return NoUnit(inId);
        if (outId == inId)
            return $"{outgoing.Name} cannot be swapped for itself.";
        if (Now.PlaceOf(outId) is not { } place)
            return $"{outgoing.Name} is not fitted.";
        if (place == Place.Board)
            return SwapBoard((Motherboard)outgoing, incoming);
        if (WhyUnfit(incoming, place, Board) is { } why)
            return why;
        if (Now.PlaceOf(inId) is { } other)
        {
            return WhyUnfit(outgoing, other, Board) is { } whyBack
                ? whyBack
                : With(Now.WithUnit(place, inId).WithUnit(other, outId), inId, outId);
        }

        var swapped = Now.WithUnit(place, inId);
        if (
            Now.Display is { } shown
            && shown.Source == place
            && incoming is GraphicsCard card
            && card.Outputs.All(o => o.Name != shown.Output)
        )
            swapped = swapped.WithDisplay(new OutputRef(place, card.Outputs[0].Name));
        return place == Place.Cpu && Now[Place.Cooler] is { } cooler ? With(swapped, inId, cooler) : With(swapped, inId);
    }

    private Attempt SwapBoard(Motherboard outgoing, Unit incoming)
    {
        if (incoming is not Motherboard board)
            return $"{incoming.Name} is not a motherboard.";
        foreach (var (place, id) in Now.At)
        {
            if (place == Place.Board)
                continue;
            if (WhyUnfit(Parts[id], place, board) is { } why)
                return $"On {board.Name}: {why} Move or take it out first.";
        }

        var swapped = Now.WithUnit(Place.Board, board.Id);
        if (Now.Display is { } shown && shown.Source == Place.Board && board.Outputs.All(o => o.Name != shown.Output))
        {
            var signal = outgoing.Outputs.First(o => o.Name == shown.Output).Signal;
            var instead = board.Outputs.FirstOrDefault(o => o.Signal == signal) ?? board.Outputs.FirstOrDefault();
            swapped = swapped.WithDisplay(instead is null ? null : new OutputRef(Place.Board, instead.Name));
        }

        // Everything that hangs on the board has been unplugged and plugged in again.
        return With(swapped, [.. Now.At.Values.Where(id => id != outgoing.Id), board.Id]);
    }

    private Attempt Reseat(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (!Now.Has(id))
            return $"{unit.Name} is not fitted.";
        return unit.Kind == UnitKind.Motherboard ? "A board is not reseated; reseat what is plugged into it." : With(Now, id);
    }

    private Attempt Connect(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (unit is MemoryStick or GraphicsCard)
            return $"{unit.Name} is fitted in a slot; say which.";
        return Fit(id, UsualPlace(unit));
    }

    private Attempt Bypass(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        return UnitFacts.Of(unit.Kind).Absence == Absence.Bypassed ? Remove(id) : $"{unit.Name} is not an extension; take it out instead.";
    }

    private Attempt StartWith(StartMethod method)
    {
        if (method == Now.Start)
            return "The machine is started that way already.";
        if (method == StartMethod.CaseSwitch && Now[Place.Switch] is null)
            return "No case switch is connected.";
        return With(Now.WithStart(method));
    }

    private Attempt DisplayAt(OutputRef output)
    {
        if (Now.Display == output)
            return $"The monitor is on {output.Words()} already.";
        if (OutputsAt(output.Source) is not { } outputs)
            return $"Nothing with a video output is in {output.Source.Words()}.";
        if (outputs.All(o => o.Name != output.Output))
            return $"There is no output {output.Output} there; there is {string.Join(", ", outputs.Select(o => o.Name))}.";
        return With(Now.WithDisplay(output));
    }

    private Attempt ClearCmos() =>
        Board is { } board
            ? After(
                _history with
                {
                    Cleared = _history.Cleared.Add(board.Id),
                    // What the firmware was told is forgotten with the rest; what the system was told is not.
                    Chosen = [.. _history.Chosen.Where(c => c.Board != board.Id || c.Option == MachineOption.FastStartOff)],
                }
            )
            : "There is no board to clear.";

    private Attempt IntoCase(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        return Mended(id, Remedy.Isolate)
            ? After(_history with { Mended = _history.Mended.Remove((id, Remedy.Isolate)) })
            : $"{unit.Name} is in its case.";
    }

    private Attempt Choose(MachineOption option)
    {
        if (Board is not { } board)
            return "There is no board to set.";
        return IsChosen(option)
            ? $"That is set already: {option.Words()}."
            : After(_history with { Chosen = _history.Chosen.Add((board.Id, option)) });
    }

    private Attempt Undo(MachineOption option) =>
        IsChosen(option) && Board is { } board
            ? After(_history with { Chosen = _history.Chosen.Remove((board.Id, option)) })
            : $"That was not changed: {option.Words()}.";

    private Attempt Lay(Posture posture) =>
        Posture == posture ? $"It is {posture.Words()} already." : After(_history with { Posture = posture });

    private Situation After(History history) => new(Parts, Now, history);

    private Attempt Mend(UnitId id, Remedy remedy)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (!RemediesFor(unit.Kind).Contains(remedy))
            return $"That is not done to a {unit.Kind.Words()}.";
        if (
            remedy == Remedy.Flash
            && unit is Motherboard { FlashesWithoutCpu: false, Firmware: { } version }
            && Cpu is { NeedsFirmware: { } needed } cpu
            && needed > version
        )
            return $"{unit.Name} needs a running CPU to be flashed, and {cpu.Name} does not run on its firmware. Fit an older CPU first.";
        if (remedy == Remedy.Flash && Now[Place.Board] != id)
            return $"{unit.Name} is not on the bench.";
        return After(
            _history with
            {
                Refitted = remedy is Remedy.Clean or Remedy.Repaste or Remedy.Straighten ? _history.Refitted.Add(id) : _history.Refitted,
                Mended = _history.Mended.SetItem((id, remedy), TimesMended(id, remedy) + 1),
            }
        );
    }

    /// <summary>How a kind of unit can be mended in place.</summary>
    public static IEnumerable<Remedy> RemediesFor(UnitKind kind) =>
        kind switch
        {
            UnitKind.Motherboard => [Remedy.Clean, Remedy.Straighten, Remedy.Flash, Remedy.Isolate],
            UnitKind.MemoryStick => [Remedy.Clean],
            UnitKind.GraphicsCard => [Remedy.Clean, Remedy.Repaste, Remedy.Rewire],
            UnitKind.Cooler => [Remedy.Repaste, Remedy.Rewire, Remedy.Clean],
            UnitKind.CaseSwitch or UnitKind.ResetSwitch or UnitKind.FrontLead or UnitKind.CaseFan or UnitKind.FanHub or UnitKind.Pump =>
            [
                Remedy.Rewire,
            ],
            UnitKind.Riser or UnitKind.OtherCard => [Remedy.Clean],
            UnitKind.Monitor or UnitKind.Supply or UnitKind.PowerStrip => [Remedy.Set],
            _ => [],
        };

    /// <summary>The outputs on the board or card in a place; null when nothing there has any.</summary>
    public ImmutableArray<VideoOutput>? OutputsAt(Place source) =>
        Now[source] is not { } id
            ? null
            : Parts[id] switch
            {
                Motherboard { Outputs.Length: > 0 } board => board.Outputs,
                GraphicsCard card => card.Outputs,
                _ => null,
            };

    /// <summary>The place where a cabled unit of which there may be several is plugged in next.</summary>
    public Place UsualPlace(Unit unit)
    {
        if (!Place.HasParts(unit.GoesInto))
            return Place.Of(unit.GoesInto);
        for (var port = 1; ; port++)
        {
            var place = Place.Of(unit.GoesInto, $"{port}");
            if (Now[place] is null)
                return place;
        }
    }

    /// <summary>Why a unit does not go into a place, whatever is there now; null when it does.</summary>
    public static string? WhyUnfit(Unit unit, Place place, Motherboard? board)
    {
        if (unit.GoesInto != place.Kind)
            return $"{unit.Name} does not go into {place.Words()}.";
        switch (unit)
        {
            case MemoryStick stick:
                if (board is null)
                    return "There is no board to fit memory on.";
                if (board.Slot(place.Part) is null)
                    return $"{board.Name} has no memory slot {place.Part}; it has {string.Join(", ", board.Slots.Select(s => s.Name))}.";
                if (Differ(stick.MemoryType, board.MemoryType))
                    return $"{stick.Name} is {stick.MemoryType}; {board.Name} takes {board.MemoryType}.";
                break;
            case GraphicsCard:
                if (board is null)
                    return "There is no board to fit a card on.";
                if (!board.CardSlots.Contains(place.Part))
                    return $"{board.Name} has no expansion slot {place.Part}.";
                break;
            case Cpu cpu when board is not null && Differ(cpu.Socket, board.Socket):
                return $"{cpu.Name} is for socket {cpu.Socket}; {board.Name} has {board.Socket}.";
            default:
                break;
        }

        return null;

        static bool Differ(string a, string b) => a.Length > 0 && b.Length > 0 && !a.Equals(b, StringComparison.OrdinalIgnoreCase);
    }

    private Situation With(Configuration now, params UnitId[] refitted) =>
        new(Parts, now, _history with { Refitted = _history.Refitted.Union(refitted) });

    private Configuration WithoutDisplayOn(Configuration now, Place place)
    {
        if (now.Display is not { } shown || shown.Source != place)
            return now;
        return now.WithDisplay(Board is { Outputs.Length: > 0 } board ? new OutputRef(Place.Board, board.Outputs[0].Name) : null);
    }

    private T? Fitted<T>(Place place)
        where T : Unit => Now[place] is { } id ? Parts[id] as T : null;

    private static string NoUnit(UnitId id) => $"There is no unit {id} in this job.";

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];
}
