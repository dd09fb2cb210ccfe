using Kelvet.Core.Machines;

namespace Kelvet.Core.Faults;

/// <summary>
/// A named question about the machine that decides whether a fault can act. New names are added to
/// <see cref="Known"/>; the atlas refers to them by name.
/// </summary>
public sealed class Condition
{
    private readonly Func<Situation, Fault, bool> _test;
    private readonly bool _negated;

    private readonly string _name;

    private Condition(string text, string name, Func<Situation, Fault, bool> test, bool negated)
    {
        Name = text;
        _name = name;
        _test = test;
        _negated = negated;
    }

    /// <summary>The name as the atlas writes it, with "not " in front when turned round.</summary>
    public string Name { get; }

    /// <summary>
    /// Whether it holds for a fault in a situation. For a fault that its cure did not cure, that cure counts as never done.
    /// </summary>
    public bool Holds(Situation situation, Fault fault) =>
        fault.After == CureOutcome.Failed && IsCure(fault.Mode.Cure) ? _negated : _test(situation, fault) != _negated;

    private bool IsCure(Cure cure) => cure switch
    {
        Cure.Reseat => _name == "reseated",
        Cure.ClearCmos => _name == "cmos-cleared",
        Cure.Set => _name is "set-right" or "reseated",
        Cure.Rewire => _name == "rewired",
        Cure.Clean => _name == "cleaned",
        Cure.Flash => _name == "flashed",
        Cure.Straighten => _name == "straightened",
        Cure.Repaste => _name == "repasted",
        Cure.Isolate => _name == "isolated",
        _ => false,
    };

    /// <summary>The condition of this name, or null.</summary>
    public static Condition? Named(string text)
    {
        var negated = text.StartsWith("not ", StringComparison.Ordinal);
        var name = negated ? text[4..].Trim() : text;
        return Known.TryGetValue(name, out var test) ? new Condition(text, name, test, negated) : null;
    }

    /// <summary>Every condition, by name.</summary>
    public static IReadOnlyDictionary<string, Func<Situation, Fault, bool>> Known { get; } =
        new Dictionary<string, Func<Situation, Fault, bool>>(StringComparer.Ordinal)
        {
            // The unit is in the machine.
            ["fitted"] = (s, f) => s.Now.Has(f.Unit.Id),
            // The unit was fitted, moved or reseated by the technician.
            ["reseated"] = (s, f) => s.Refitted(f.Unit.Id),
            // The slot or channel holds something, and the unit it belongs to is in the machine.
            ["occupied"] = Occupied,
            // The case switch starts the machine.
            ["started-by-switch"] = (s, _) => s.Now.Start == StartMethod.CaseSwitch,
            // A card that takes a power plug of its own loads the supply.
            ["card-draws"] = (s, _) => s.Cards.Any(c => c.Card.NeedsAuxPower),
            // The settings of the fault's board were cleared.
            ["cmos-cleared"] = (s, f) => s.CmosCleared(f.Unit.Id),
            // Mended in place, by the way it is done. Flashing is done to the board that the fault's unit sits on.
            ["cleaned"] = (s, f) => s.Mended(f.Unit.Id, Remedy.Clean),
            ["straightened"] = (s, f) => s.Mended(f.Unit.Id, Remedy.Straighten),
            ["repasted"] = (s, f) => s.Mended(f.Unit.Id, Remedy.Repaste),
            ["flashed"] = (s, f) => s.Mended(f.Unit is Motherboard ? f.Unit.Id : s.Now[Place.Board] ?? f.Unit.Id, Remedy.Flash),
            ["rewired"] = (s, f) => s.Mended(f.Unit.Id, Remedy.Rewire),
            ["set-right"] = (s, f) => s.Mended(f.Unit.Id, Remedy.Set),
            ["isolated"] = (s, f) => s.Mended(f.Unit.Id, Remedy.Isolate),
            // At least two of the customer's sticks are fitted.
            ["kit-fitted"] = (s, _) => s.Sticks.Count(m => m.Stick.Origin == Origin.Customer) >= 2,
            // Any of the customer's sticks is fitted.
            ["any-of-kit-fitted"] = (s, _) => s.Sticks.Any(m => m.Stick.Origin == Origin.Customer),
            // The CPU sits in the customer's board, whose firmware may be older than it needs.
            ["customer-board"] = (s, _) => s.Board?.Origin == Origin.Customer,
            // The monitor is plugged into the fault's own output (or any digital one, or the card in its slot).
            ["displayed-here"] = DisplayedHere,
            // The monitor is plugged into the board.
            ["displayed-board"] = (s, f) => s.Now.Display?.Source == Place.Board && s.Now.Has(f.Unit.Id),
            // The monitor is plugged into the fault's card.
            ["displayed-on-card"] = (s, f) => s.Now.Display is { } d && s.Now[d.Source] == f.Unit.Id,
        };

    private static bool Occupied(Situation s, Fault f)
    {
        if (!s.Now.Has(f.Unit.Id)) return false;
        return f.Mode.On switch
        {
            FaultSite.MemorySlot => s.Now[Place.Memory(f.Part)] is not null,
            FaultSite.MemoryChannel or FaultSite.CpuChannel => s.Sticks.Any(m => s.Board?.Slot(m.Place.Part)?.Channel == f.Part),
            FaultSite.ExpansionSlot => s.Now[Place.Card(f.Part)] is not null,
            _ => true,
        };
    }

    private static bool DisplayedHere(Situation s, Fault f)
    {
        if (s.Now.Display is not { } shown) return false;
        return f.Mode.On switch
        {
            FaultSite.ExpansionSlot => s.Now.Has(f.Unit.Id) && shown.Source == Place.Card(f.Part),
            FaultSite.DigitalOutputs => s.Now[shown.Source] == f.Unit.Id
                && ((Motherboard)f.Unit).Outputs.Any(o => o.Name == shown.Output && o.Signal == VideoSignal.Digital),
            _ => s.Now[shown.Source] == f.Unit.Id && shown.Output == f.Part,
        };
    }
}

/// <summary>Lasting properties of a unit that a mode can ask for with "where".</summary>
public static class Trait
{
    private static readonly Dictionary<string, Func<Unit, bool>> Tests = new(StringComparer.Ordinal)
    {
        ["needs-aux"] = u => u is GraphicsCard { NeedsAuxPower: true },
    };

    public static IReadOnlyCollection<string> Known => Tests.Keys;

    /// <exception cref="KeyNotFoundException">No such trait.</exception>
    public static bool Has(Unit unit, string trait) => Tests[trait](unit);
}
