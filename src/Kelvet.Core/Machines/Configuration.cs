using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>What starts the machine.</summary>
public enum StartMethod
{
    /// <summary>The switch on the case, through the front-panel header.</summary>
    CaseSwitch,

    /// <summary>A screwdriver or jumper across the start pins of the header.</summary>
    HeaderPins,
}

/// <summary>A video output that the monitor is plugged into: on the board, or on the card in a slot.</summary>
/// <param name="Source">The board's place or a card slot.</param>
/// <param name="Output">The output's name as printed.</param>
public readonly record struct OutputRef(Place Source, string Output)
{
    /// <summary>The text form of <see cref="MachineFormat"/>.</summary>
    public override string ToString() => MachineFormat.Write(this);

    /// <summary>The output as a technician says it.</summary>
    public string Words() => Source.Kind == PlaceKind.Board ? $"{Output} on the board" : $"{Output} on the card in slot {Source.Part}";
}

/// <summary>Every unit that a job knows of, fitted or on the bench.</summary>
public sealed class Parts
{
    private readonly ImmutableSortedDictionary<UnitId, Unit> _units;

    private readonly Lazy<Dictionary<UnitId, Unit>> _byId;

    private Parts(ImmutableSortedDictionary<UnitId, Unit> units)
    {
        _units = units;
        All = [.. units.Values];
        _byId = new(() => All.ToDictionary(u => u.Id));
    }

    /// <summary>No parts.</summary>
    public static Parts None { get; } = new(ImmutableSortedDictionary<UnitId, Unit>.Empty);

    /// <summary>Most units that one job may hold, so that a wrong file cannot hang the arithmetic.</summary>
    public const int Most = 80;

    /// <summary>All of them, by id.</summary>
    public ImmutableArray<Unit> All { get; }

    /// <summary>How many there are.</summary>
    public int Count => _units.Count;

    /// <exception cref="ArgumentException">A unit of this id is there already, or the job is full.</exception>
    public Parts With(Unit unit)
    {
        if (_units.ContainsKey(unit.Id))
            throw new ArgumentException($"There is a unit {unit.Id} already.", nameof(unit));
        if (_units.Count >= Most)
            throw new ArgumentException($"A job holds at most {Most} units.", nameof(unit));
        return new Parts(_units.Add(unit.Id, unit));
    }

    /// <summary>With a part that is only imagined, beside however many there are.</summary>
    internal Parts Imagining(Unit unit) => new(_units.SetItem(unit.Id, unit));

    /// <summary>The parts of a job.</summary>
    public static Parts Of(IEnumerable<Unit> units) => units.Aggregate(None, (parts, unit) => parts.With(unit));

    /// <summary>Whether the unit is known.</summary>
    public bool Has(UnitId id) => _units.ContainsKey(id);

    /// <summary>The unit of an id; null where there is none.</summary>
    public Unit? Find(UnitId id) => _byId.Value.GetValueOrDefault(id);

    /// <exception cref="KeyNotFoundException">No such unit.</exception>
    public Unit this[UnitId id] => Find(id) ?? throw new KeyNotFoundException($"There is no unit {id}.");
}

/// <summary>Where everything is, how it is started and where the monitor is plugged in. Immutable; equal by content.</summary>
public sealed class Configuration : IEquatable<Configuration>
{
    /// <summary>Nothing fitted, started at the header pins, no monitor.</summary>
    public static Configuration Empty { get; } = new(ImmutableSortedDictionary<Place, UnitId>.Empty, StartMethod.HeaderPins, null);

    /// <summary>What is fitted where, how it is started, and where the monitor hangs.</summary>
    public Configuration(ImmutableSortedDictionary<Place, UnitId> at, StartMethod start, OutputRef? display)
    {
        At = at;
        Start = start;
        Display = display;
    }

    /// <summary>The same as a row, made when first asked: of some twenty places a look along it is quicker than a table.</summary>
    private KeyValuePair<Place, UnitId>[] Row => _row ??= [.. At];

    private KeyValuePair<Place, UnitId>[]? _row;

    /// <summary>The unit in each occupied place.</summary>
    public ImmutableSortedDictionary<Place, UnitId> At { get; }

    /// <summary>How the machine is started.</summary>
    public StartMethod Start { get; }

    /// <summary>Where the monitor is plugged in; null when nowhere.</summary>
    public OutputRef? Display { get; }

    /// <summary>The unit at a place; null where it is empty.</summary>
    public UnitId? this[Place place]
    {
        get
        {
            foreach (var (at, id) in Row)
            {
                if (at == place)
                    return id;
            }

            return null;
        }
    }

    /// <summary>Where a unit is; null where it is not fitted.</summary>
    public Place? PlaceOf(UnitId id)
    {
        foreach (var (at, unit) in Row)
        {
            if (unit == id)
                return at;
        }

        return null;
    }

    /// <summary>Whether the unit is fitted.</summary>
    public bool Has(UnitId id) => PlaceOf(id) is not null;

    /// <summary>The same with a place filled, or emptied by null.</summary>
    public Configuration WithUnit(Place place, UnitId? id) =>
        new(id is { } unit ? At.SetItem(place, unit) : At.Remove(place), Start, Display);

    /// <summary>The same with only some of the units; a monitor on the output of one that is left out hangs nowhere.</summary>
    public Configuration Only(Func<UnitId, bool> kept)
    {
        var at = At.Where(p => kept(p.Value)).ToImmutableSortedDictionary();
        return at.Count == At.Count ? this : new(at, Start, Display is { } shown && at.ContainsKey(shown.Source) ? Display : null);
    }

    /// <summary>The same, started otherwise.</summary>
    public Configuration WithStart(StartMethod start) => new(At, start, Display);

    /// <summary>The same with the monitor at another output.</summary>
    public Configuration WithDisplay(OutputRef? display) => new(At, Start, display);

    /// <inheritdoc/>
    public bool Equals(Configuration? other) =>
        other is not null
        && Start == other.Start
        && Display == other.Display
        && At.Count == other.At.Count
        && At.All(p => other[p.Key] == p.Value);

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as Configuration);

    /// <inheritdoc/>
    public override int GetHashCode() => At.Aggregate(HashCode.Combine(Start, Display), (h, p) => HashCode.Combine(h, p.Key, p.Value));
}
