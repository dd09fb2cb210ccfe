using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>
/// The machine as it now stands together with what has been done to it since intake, as far as
/// that decides which faults can still bite: what has been refitted, and whose settings were cleared.
/// </summary>
public sealed partial class Situation
{
    private readonly History _history;

    private ImmutableArray<(Place Place, GraphicsCard Card)> _cards;
    private ImmutableArray<(Place Place, MemoryStick Stick)> _sticks;
    private int _profileStepsDown = -1;

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

    /// <summary>The settings that hold the memory's profile back, the mildest first; the last one turns it off.</summary>
    public static ImmutableArray<MachineOption> ProfileSteps { get; } =
    [MachineOption.ProfileOneDown, MachineOption.ProfileTwoDown, MachineOption.ProfileThreeDown, MachineOption.ProfileOff];

    /// <summary>
    /// How many of <see cref="ProfileSteps"/> the memory runs below its profile: 0 as received, 4 with the profile off, as it is
    /// after the settings were cleared.
    /// </summary>
    public int ProfileStepsDown => _profileStepsDown >= 0 ? _profileStepsDown : _profileStepsDown = CountProfileSteps();

    private int CountProfileSteps()
    {
        if (Board is not { } board)
            return 0;
        for (var step = ProfileSteps.Length; step > 0; step--)
        {
            if (IsChosen(ProfileSteps[step - 1]))
                return step;
        }

        return CmosCleared(board.Id) && !IsChosen(MachineOption.ProfileOn) ? ProfileSteps.Length : 0;
    }

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

    /// <summary>How a kind of unit can be mended in place.</summary>
    public static IEnumerable<Remedy> RemediesFor(UnitKind kind) => UnitFacts.Of(kind).Mends;

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
        new(
            Parts,
            now,
            _history with
            {
                Refitted = _history.Refitted.Union(refitted),
                // The stick goes when a drive comes.
                Chosen = HasDrive(now) ? [.. _history.Chosen.Where(c => c.Option != MachineOption.LiveMedium)] : _history.Chosen,
            }
        );

    private static bool HasDrive(Configuration now) => now.At.Keys.Any(p => p.Kind == PlaceKind.Storage);

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
