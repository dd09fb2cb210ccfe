using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>Whether an output carries a digital or an analogue picture.</summary>
public enum VideoSignal
{
    /// <summary>Carries its picture as numbers.</summary>
    Digital,

    /// <summary>Carries its picture as voltages.</summary>
    Analogue,
}

/// <summary>A video socket on a board's back panel or on a card.</summary>
/// <param name="Name">As printed, for example "HDMI".</param>
/// <param name="Signal">Digital or analogue.</param>
public sealed record VideoOutput(string Name, VideoSignal Signal);

/// <summary>Outline of a board, which decides how large it is and where its parts lie.</summary>
public enum BoardForm
{
    /// <summary>305 by 244 mm, up to seven slots (ATX specification 2.2, Intel, from memory).</summary>
    Full,

    /// <summary>244 by 244 mm, up to four slots (microATX interface specification 1.2, Intel, from memory).</summary>
    Micro,

    /// <summary>170 by 170 mm, one slot (Mini-ITX addendum to the microATX specification, Intel, from memory).</summary>
    Mini,

    /// <summary>A maker's own small board in an office machine, about 229 by 203 mm (common practice, no source).</summary>
    Office,
}

/// <summary>How the two slots of a channel hang on its lines.</summary>
public enum SlotLayout
{
    /// <summary>One behind the other: a stick alone belongs in the last, and two run faster than four.</summary>
    DaisyChain,

    /// <summary>On the two arms of a fork (T layout): either slot alone, and four run hardly slower than two.</summary>
    Forked,
}

/// <summary>What a board tells of its start by.</summary>
public enum Teller
{
    /// <summary>Lights for CPU, memory, video and boot.</summary>
    Indicators,

    /// <summary>A display of two digits.</summary>
    CodeDisplay,

    /// <summary>A header for a beeper.</summary>
    SpeakerHeader,
}

/// <summary>A motherboard and what it offers.</summary>
public sealed record Motherboard : Unit
{
    /// <exception cref="ArgumentException">Two slots, outputs or card slots have the same name, or one has no valid name.</exception>
    public Motherboard(
        UnitId id,
        string name,
        Origin origin,
        IEnumerable<MemorySlot> slots,
        IEnumerable<VideoOutput> outputs,
        IEnumerable<string> cardSlots
    )
        : base(id, UnitKind.Motherboard, name, origin)
    {
        Slots = [.. slots];
        Outputs = [.. outputs];
        CardSlots = [.. cardSlots];
        Unique("memory slot", Slots.Select(s => s.Name));
        Unique("video output", Outputs.Select(o => o.Name));
        Unique("expansion slot", CardSlots);
        if (Slots.Length is 0 or > 16)
            throw new ArgumentException($"Motherboard {id} needs 1 to 16 memory slots, not {Slots.Length}.", nameof(slots));
        if (Outputs.Length > 8)
            throw new ArgumentException($"Motherboard {id} has at most 8 video outputs, not {Outputs.Length}.", nameof(outputs));
        if (CardSlots.Length > 8)
            throw new ArgumentException($"Motherboard {id} has at most 8 expansion slots, not {CardSlots.Length}.", nameof(cardSlots));
        foreach (var slot in Slots)
        {
            if (!SlotName.IsValid(slot.Channel))
                throw new ArgumentException($"Motherboard {id}: slot {slot.Name} needs a channel name.", nameof(slots));
        }

        void Unique(string what, IEnumerable<string> names)
        {
            var seen = new HashSet<string>(StringComparer.Ordinal);
            foreach (var n in names)
            {
                if (!SlotName.IsValid(n))
                    throw new ArgumentException($"Motherboard {id}: \"{n}\" is not a name for a {what}.");
                if (!seen.Add(n))
                    throw new ArgumentException($"Motherboard {id} has two {what}s named {n}.");
            }
        }
    }

    /// <summary>Memory slots, in the board's order.</summary>
    public ImmutableArray<MemorySlot> Slots { get; }

    /// <summary>Video outputs.</summary>
    public ImmutableArray<VideoOutput> Outputs { get; }

    /// <summary>Slots for cards, by the names on the board.</summary>
    public ImmutableArray<string> CardSlots { get; }

    /// <summary>Socket name, empty when not recorded; an unrecorded socket takes any CPU.</summary>
    public string Socket { get; init; } = "";

    /// <summary>Memory generation, for example "DDR4"; empty when not recorded.</summary>
    public string MemoryType { get; init; } = "";

    /// <summary>Its outline; null where it was not recorded.</summary>
    public BoardForm? Form { get; init; }

    /// <summary>
    /// Whether the board tells that POST has completed (beeper, indicator lights or a code display),
    /// so that stage 4 and stage 5 can be told apart without the power-button test.
    /// </summary>
    public bool TellsPost { get; init; }

    private readonly ImmutableArray<string> _tables = [];

    /// <summary>Ids of the tables of codes, beeps and lights that it goes by, at most 6; empty when its family is not known.</summary>
    public ImmutableArray<string> Tables
    {
        get => _tables;
        init =>
            _tables =
                value.Length <= 6 && value.All(UnitId.IsValid)
                    ? value
                    : throw new ArgumentException("A board goes by at most 6 tables, named by their ids.", nameof(value));
    }

    /// <summary>Firmware version as a whole number that rises, null when not known.</summary>
    public int? Firmware { get; init; }

    /// <summary>Date of that firmware; null when not known.</summary>
    public DateOnly? FirmwareDate { get; init; }

    private readonly string _revision = "";

    /// <summary>Revision as printed on the board, at most 20 characters; empty when not recorded. Firmware is for one revision.</summary>
    public string Revision
    {
        get => _revision;
        init =>
            _revision =
                value.Length <= 20 ? value : throw new ArgumentException("A board's revision has at most 20 characters.", nameof(value));
    }

    /// <summary>How its slots hang on a channel; null where that is not known, and the usual rule holds.</summary>
    public SlotLayout? Layout { get; init; }

    /// <summary>Headers for fans, 0 to 20; null when not known.</summary>
    public int? FanHeaders
    {
        get => _fanHeaders;
        init =>
            _fanHeaders = value is null or (>= 0 and <= 20)
                ? value
                : throw new ArgumentOutOfRangeException(nameof(value), value, "A board has 0 to 20 fan headers.");
    }

    private readonly int? _fanHeaders;

    /// <summary>What it tells of its start by; empty when not known.</summary>
    public ImmutableArray<Teller> Tells { get; init; } = [];

    private readonly ImmutableArray<string> _order = [];

    /// <summary>Slots in the order in which its manual fills them; empty where that is not known, and the usual order holds.</summary>
    public ImmutableArray<string> Order
    {
        get => _order;
        init =>
            _order =
                value.Distinct().Count() == value.Length && value.All(s => Slot(s) is not null)
                    ? value
                    : throw new ArgumentException($"The order of board {Id} names each of its slots at most once.", nameof(value));
    }

    /// <summary>Whether it can be flashed with no working CPU in the socket.</summary>
    public bool FlashesWithoutCpu { get; init; }

    /// <summary>
    /// Whether so many sticks belong in these slots: the second slot of each channel first, then the first ones. Common
    /// practice on boards with two slots to a channel, which a board's manual may overrule; one slot to a channel takes any,
    /// and where the lines fork to both slots (T layout) the first slot of every channel serves as well as the second.
    /// </summary>
    public bool HasUsualOrder(IEnumerable<string> slots)
    {
        var taken = slots.ToHashSet();
        if (UsualOrder.Length < taken.Count || UsualOrder.Take(taken.Count).ToHashSet().SetEquals(taken))
            return true;
        return Layout == SlotLayout.Forked
            && Order.Length == 0
            && taken.Count <= Channels.Count()
            && Channels.Select(c => Slots.First(s => s.Channel == c).Name).Take(taken.Count).ToHashSet().SetEquals(taken);
    }

    /// <summary>Slots in the order in which they are usually filled; empty where any will do.</summary>
    public ImmutableArray<string> UsualOrder =>
        Order.Length > 0 ? Order
        : Channels.Any(c => Slots.Count(s => s.Channel == c) != 2) ? []
        : [.. Channels.Select(c => Slots.Last(s => s.Channel == c).Name), .. Channels.Select(c => Slots.First(s => s.Channel == c).Name)];

    /// <summary>Channel names in slot order.</summary>
    public IEnumerable<string> Channels => Slots.Select(s => s.Channel).Distinct();

    /// <summary>The slot of a name; null where there is none.</summary>
    public MemorySlot? Slot(string name) => Slots.FirstOrDefault(s => s.Name == name);
}
