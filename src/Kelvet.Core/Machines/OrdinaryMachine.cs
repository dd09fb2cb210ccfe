using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>
/// What is guessed of a machine of which nobody knows more: an ordinary desktop machine, so that it can be drawn and reasoned over. Bench
/// judgement, no published source. A fact that stands by it is <see cref="Unit.Guessed"/>.
/// </summary>
public static class OrdinaryMachine
{
    /// <summary>Memory slots of its board.</summary>
    public static ImmutableArray<MemorySlot> Slots { get; } = [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")];

    /// <summary>How many of a board's slots hold a stick: two where it has more than two.</summary>
    public static int Sticks(int slots) => Math.Min(slots, 2);

    /// <summary>The slots that hold them: the second of each channel where there are two, as boards are filled.</summary>
    public static ImmutableArray<string> Filled(IReadOnlyList<MemorySlot> slots) =>
        [.. slots.GroupBy(s => s.Channel).Select(g => g.Last().Name).Take(Sticks(slots.Count))];

    /// <summary>Video outputs of its board.</summary>
    public static ImmutableArray<VideoOutput> Outputs { get; } = [new("HDMI", VideoSignal.Digital), new("VGA", VideoSignal.Analogue)];

    /// <summary>Video outputs of a card.</summary>
    public static ImmutableArray<VideoOutput> CardOutputs { get; } = [new("DP 1", VideoSignal.Digital), new("HDMI", VideoSignal.Digital)];

    /// <summary>Expansion slots of its board.</summary>
    public const int CardSlots = 2;

    /// <summary>Drives.</summary>
    public const int Drives = 1;

    /// <summary>Its CPU drives the board's outputs, and a card takes a plug of its own.</summary>
    public const bool Graphics = true,
        AuxPower = true;

    /// <summary>A part under the name of its kind, its own name not known.</summary>
    public static T Unnamed<T>(T unit)
        where T : Unit => unit with { Guessed = [.. unit.Guessed, PartFact.Name] };

    /// <summary>What a part of a kind is called whose name is not known.</summary>
    public static string NameOf(UnitKind kind)
    {
        var words = kind.Words();
        return char.ToUpperInvariant(words[0]) + words[1..];
    }
}
