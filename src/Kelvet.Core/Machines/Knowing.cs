using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>Facts of a part that a machine cannot be drawn or reasoned over without: where nobody knows them, they are guessed.</summary>
public enum PartFact
{
    /// <summary>Whether it is there, and in that place.</summary>
    Presence,

    /// <summary>What it is called.</summary>
    Name,

    /// <summary>The memory slots of a board.</summary>
    Slots,

    /// <summary>The expansion slots of a board.</summary>
    CardSlots,

    /// <summary>The video outputs of a board or card.</summary>
    Outputs,

    /// <summary>Whether a CPU has graphics of its own.</summary>
    Graphics,

    /// <summary>Whether a card takes a power plug of its own.</summary>
    AuxPower,
}

/// <summary>Where what is known of a part comes from.</summary>
public enum FactSource
{
    /// <summary>Somebody said so, or read it off.</summary>
    Told,

    /// <summary>The catalogue says so of a part of its name.</summary>
    Catalogue,

    /// <summary>The machine's own tools listed it.</summary>
    Listed,
}

/// <summary>One fact that can be guessed: the one table that a new one is added to.</summary>
/// <param name="Fact">The fact.</param>
/// <param name="Question">What is not known; "#" stands for the part.</param>
/// <param name="Look">How it is found out.</param>
/// <param name="Of">The kinds that have it; empty for all.</param>
public sealed record PartFactRow(PartFact Fact, string Question, string Look, params ImmutableArray<UnitKind> Of)
{
    /// <summary>Every fact.</summary>
    public static ImmutableArray<PartFactRow> All { get; } =
    [
        new(PartFact.Presence, "whether # is there", "Look whether it is there, and where"),
        new(PartFact.Name, "what # is called", "Read its label"),
        new(PartFact.Slots, "how many memory slots # has", "Read the slots' names off the board", UnitKind.Motherboard),
        new(PartFact.CardSlots, "how many expansion slots # has", "Count the expansion slots", UnitKind.Motherboard),
        new(PartFact.Outputs, "which video outputs # has", "Look at the back", UnitKind.Motherboard, UnitKind.GraphicsCard),
        new(PartFact.Graphics, "whether # has graphics of its own", "Look its name up in its maker's list", UnitKind.Cpu),
        new(PartFact.AuxPower, "whether # takes a power plug of its own", "Look at its edge for a plug", UnitKind.GraphicsCard),
    ];

    /// <summary>The row of a fact.</summary>
    public static PartFactRow Row(PartFact fact) => All[(int)fact];

    /// <summary>What is not known of a part.</summary>
    /// <param name="part">What it is called.</param>
    public string Words(string part) => Question.Replace("#", part, StringComparison.Ordinal);

    /// <summary>Whether a kind of part has it.</summary>
    public bool IsOf(UnitKind kind) => Of.IsEmpty || Of.Contains(kind);
}
