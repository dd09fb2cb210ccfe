using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>A way by which a card gets its power.</summary>
/// <param name="Id">Its name in forms.</param>
/// <param name="Words">As it is called.</param>
/// <param name="Watts">The most that it may carry.</param>
/// <param name="Source">Where that comes from.</param>
public sealed record PlugKind(string Id, string Words, int Watts, string Source)
{
    private const string Cem = "PCI-SIG, PCI Express Card Electromechanical Specification, from memory";

    /// <summary>The slot itself.</summary>
    public static PlugKind Slot { get; } = new("slot", "expansion slot (x16)", 75, Cem);

    /// <summary>Every plug, the weakest first. The 12-pin family by its sense pins, to ground or open.</summary>
    public static ImmutableArray<PlugKind> All { get; } =
    [
        Slot,
        new("6-pin", "6-pin", 75, Cem),
        new("8-pin", "8-pin (6+2)", 150, Cem),
        new("12-open-open", "12-pin family, both sense pins open", 150, Cem),
        new("12-ground-open", "12-pin family, sense 1 to ground", 300, Cem),
        new("12-open-ground", "12-pin family, sense 0 to ground", 450, Cem),
        new("12-ground-ground", "12-pin family, both to ground", 600, Cem),
    ];

    /// <summary>The plug of a name; null for none.</summary>
    public static PlugKind? Find(string id) => All.FirstOrDefault(p => p.Id == id);
}

/// <summary>Whether a card gets what it draws, and what of it is dangerous.</summary>
/// <param name="Needs">Watts of the card; null where not known.</param>
/// <param name="Gets">Watts by slot and plugs.</param>
/// <param name="Refusals">Why it must not be run so; empty where it may.</param>
/// <param name="Warnings">What to mind.</param>
public sealed record CardPower(int? Needs, int Gets, ImmutableArray<string> Refusals, ImmutableArray<string> Warnings)
{
    /// <summary>Whether it gets enough; null where what it needs is not known.</summary>
    public bool? IsEnough => Needs is { } needs ? Gets >= needs : null;

    /// <summary>Judges what goes to a card.</summary>
    /// <param name="card">The card.</param>
    /// <param name="plugs">The plugs that are in it, by their ids.</param>
    /// <param name="adapter">Whether one is fed by an adapter from plugs of data drives.</param>
    /// <param name="splitter">Whether two plugs hang on one cable of the supply.</param>
    /// <param name="foreign">Whether a modular cable of another supply is used.</param>
    /// <exception cref="ArgumentException">There is no such plug.</exception>
    public static CardPower Of(Unit card, IEnumerable<string> plugs, bool adapter, bool splitter, bool foreign)
    {
        var gets = PlugKind.Slot.Watts;
        foreach (var id in plugs)
            gets += (PlugKind.Find(id) ?? throw new ArgumentException($"There is no plug \"{id}\".", nameof(plugs))).Watts;
        var refusals = ImmutableArray.CreateBuilder<string>();
        var warnings = ImmutableArray.CreateBuilder<string>();
        if (adapter)
            refusals.Add("A plug of a data drive carries 54 W at most: it burns before an 8-pin has its 150. Take a cable of the supply.");
        if (foreign)
            refusals.Add("Modular cables of another supply are wired otherwise, and kill what hangs on them. Take the supply's own.");
        if (splitter)
            warnings.Add("Two plugs on one cable: above 225 W each plug wants a cable of its own.");
        if (card.Watts is { } watts && watts > gets)
            warnings.Add($"It draws up to {watts} W and gets {gets} W: it may not start, or holds itself back.");
        return new CardPower(card.Watts, gets, refusals.ToImmutable(), warnings.ToImmutable());
    }
}
