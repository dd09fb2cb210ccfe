using System.Text.RegularExpressions;
using Kelvet.Core.Text;

namespace Kelvet.Core.Machines;

/// <summary>Identity of a unit in a job: lower-case letters, digits and dashes, 1 to 40 characters.</summary>
public readonly record struct UnitId : IComparable<UnitId>
{
    private readonly string? _value;

    /// <exception cref="ArgumentException">The text is not a unit id.</exception>
    public UnitId(string value)
    {
        if (!IsValid(value))
            throw new ArgumentException(
                $"\"{value}\" is not a unit id: use lower-case letters, digits and dashes, 1 to 40 of them.",
                nameof(value)
            );
        _value = value;
    }

    /// <summary>The id as text; empty for none.</summary>
    public string Value => _value ?? "";

    /// <summary>Whether a text is a unit id.</summary>
    public static bool IsValid(string? text) => Slug.IsValid(text);

    /// <inheritdoc/>
    public int CompareTo(UnitId other) => string.CompareOrdinal(Value, other.Value);

    /// <summary>Whether it comes before.</summary>
    public static bool operator <(UnitId a, UnitId b) => a.CompareTo(b) < 0;

    /// <summary>Whether it comes after.</summary>
    public static bool operator >(UnitId a, UnitId b) => a.CompareTo(b) > 0;

    /// <summary>Whether it comes no later.</summary>
    public static bool operator <=(UnitId a, UnitId b) => a.CompareTo(b) <= 0;

    /// <summary>Whether it comes no earlier.</summary>
    public static bool operator >=(UnitId a, UnitId b) => a.CompareTo(b) >= 0;

    /// <inheritdoc/>
    public override string ToString() => Value;
}

/// <summary>The sort of place where a unit can be.</summary>
public enum PlaceKind
{
    /// <summary>The wall outlet or strip.</summary>
    Outlet,

    /// <summary>Between outlet and supply.</summary>
    Lead,

    /// <summary>Where the supply sits.</summary>
    Supply,

    /// <summary>Between supply and board.</summary>
    Extension,

    /// <summary>At the header pins of the power button.</summary>
    Switch,

    /// <summary>The board's tray.</summary>
    Board,

    /// <summary>The socket.</summary>
    Cpu,

    /// <summary>On the processor.</summary>
    Cooler,

    /// <summary>A memory slot.</summary>
    Memory,

    /// <summary>A slot for cards.</summary>
    Card,

    /// <summary>A drive's port.</summary>
    Storage,

    /// <summary>A port for what is plugged in from outside.</summary>
    Peripheral,

    /// <summary>Between output and monitor.</summary>
    Cable,

    /// <summary>At the end of the video cable.</summary>
    Monitor,

    /// <summary>Between outlet and lead.</summary>
    Strip,

    /// <summary>Between supply and the board's main plug.</summary>
    MainCable,

    /// <summary>Between supply and the processor's plug.</summary>
    CpuCable,

    /// <summary>Between supply and the graphics card.</summary>
    CardCable,

    /// <summary>At the header pins of the reset button.</summary>
    Reset,

    /// <summary>A header for front sockets.</summary>
    Front,

    /// <summary>A header or hub port for a fan.</summary>
    Fan,

    /// <summary>Where the fan hub hangs.</summary>
    FanHub,

    /// <summary>Where the pump sits.</summary>
    Pump,

    /// <summary>Between expansion slot and card.</summary>
    Riser,

    /// <summary>The cell's holder.</summary>
    Cell,

    /// <summary>The firmware chip that the board starts from.</summary>
    Chip,

    /// <summary>A slot for a card that makes no picture.</summary>
    Other,

    /// <summary>Between the machine and what hangs on a USB hub.</summary>
    Hub,

    /// <summary>Between a drive and its port.</summary>
    DataCable,

    /// <summary>Between output and video cable.</summary>
    Adapter,
}

/// <summary>
/// A place in or around the machine that holds one unit: "supply", "memory.A2", "card.1".
/// Places of which there may be several carry the name of their slot, port or header.
/// </summary>
public readonly record struct Place : IComparable<Place>
{
    private Place(PlaceKind kind, string part)
    {
        Kind = kind;
        Part = part;
    }

    /// <summary>What kind of place.</summary>
    public PlaceKind Kind { get; }

    /// <summary>Slot or port name; empty for places of which a machine has one.</summary>
    public string Part { get; }

    /// <summary>Where the supply sits.</summary>
    public static readonly Place Supply = new(PlaceKind.Supply, "");

    /// <summary>Between supply and board.</summary>
    public static readonly Place Extension = new(PlaceKind.Extension, "");

    /// <summary>At the header pins of the power button.</summary>
    public static readonly Place Switch = new(PlaceKind.Switch, "");

    /// <summary>The board's tray.</summary>
    public static readonly Place Board = new(PlaceKind.Board, "");

    /// <summary>The socket.</summary>
    public static readonly Place Cpu = new(PlaceKind.Cpu, "");

    /// <summary>On the processor.</summary>
    public static readonly Place Cooler = new(PlaceKind.Cooler, "");

    /// <summary>Between output and monitor.</summary>
    public static readonly Place Cable = new(PlaceKind.Cable, "");

    /// <summary>At the end of the video cable.</summary>
    public static readonly Place Monitor = new(PlaceKind.Monitor, "");

    /// <summary>Between outlet and supply.</summary>
    public static readonly Place Lead = new(PlaceKind.Lead, "");

    /// <summary>The wall outlet or strip.</summary>
    public static readonly Place Outlet = new(PlaceKind.Outlet, "");

    /// <summary>A memory slot, by the name on the board.</summary>
    public static Place Memory(string slot) => Of(PlaceKind.Memory, slot);

    /// <summary>A slot for cards, by the name on the board.</summary>
    public static Place Card(string slot) => Of(PlaceKind.Card, slot);

    /// <summary>A drive's port, by name.</summary>
    public static Place Storage(string port) => Of(PlaceKind.Storage, port);

    /// <summary>A port for what is plugged in from outside, by name.</summary>
    public static Place Peripheral(string port) => Of(PlaceKind.Peripheral, port);

    /// <exception cref="ArgumentException">The part is missing where one is needed, or given where there is none.</exception>
    public static Place Of(PlaceKind kind, string part = "") =>
        TryMake(kind, part, out var place)
            ? place
            : throw new ArgumentException($"\"{kind.ToString().ToLowerInvariant()}.{part}\" is not a place.", nameof(part));

    /// <summary>Whether a machine can have several places of this kind, told apart by slot or port.</summary>
    public static bool HasParts(PlaceKind kind) => PlaceFacts.Of(kind).HasParts;

    internal static bool TryMake(PlaceKind kind, string part, out Place place)
    {
        place = new Place(kind, part);
        if (!Enum.IsDefined(kind))
            return false;
        return HasParts(kind) ? SlotName.IsValid(part) : part.Length == 0;
    }

    /// <inheritdoc/>
    public int CompareTo(Place other)
    {
        var byKind = Kind.CompareTo(other.Kind);
        return byKind != 0 ? byKind : string.CompareOrdinal(Part, other.Part);
    }

    /// <summary>Whether it comes before.</summary>
    public static bool operator <(Place a, Place b) => a.CompareTo(b) < 0;

    /// <summary>Whether it comes after.</summary>
    public static bool operator >(Place a, Place b) => a.CompareTo(b) > 0;

    /// <summary>Whether it comes no later.</summary>
    public static bool operator <=(Place a, Place b) => a.CompareTo(b) <= 0;

    /// <summary>Whether it comes no earlier.</summary>
    public static bool operator >=(Place a, Place b) => a.CompareTo(b) >= 0;

    /// <summary>The text form of <see cref="MachineFormat"/>.</summary>
    public override string ToString() => MachineFormat.Write(this);

    /// <summary>The place in the trade's words: "memory slot A2".</summary>
    public string Words() => PlaceFacts.Of(Kind).Words.Replace("#", Part, StringComparison.Ordinal);
}

/// <summary>Names of slots, ports and outputs: letters, digits, dashes, spaces, 1 to 20 characters.</summary>
public static partial class SlotName
{
    /// <summary>Whether the text can be an id.</summary>
    public static bool IsValid(string? text) => text is not null && Pattern().IsMatch(text);

    [GeneratedRegex("^[A-Za-z0-9][A-Za-z0-9 -]{0,19}\\z")]
    private static partial Regex Pattern();
}
