using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Faults;

/// <summary>
/// A named question about the machine that decides whether a fault can act. New names are added to the table here; the
/// atlas refers to them by name. Those that ask whether something was mended come from <see cref="Cures"/>.
/// </summary>
public sealed class Condition
{
    private readonly Func<Situation, Fault, bool> _test;
    private readonly ulong _asksFor;
    private readonly bool _negated;

    private Condition(Func<Situation, Fault, bool> test, IEnumerable<Cure> asksFor, bool negated)
    {
        _test = test;
        // A bit per cure: it is asked for each fault in each step that is weighed.
        _asksFor = asksFor.Aggregate(0UL, (bits, cure) => bits | (1UL << (int)cure));
        _negated = negated;
    }

    /// <summary>
    /// Whether it holds for a fault in a situation. For a fault that its cure did not cure, that cure counts as never done.
    /// </summary>
    public bool Holds(Situation situation, Fault fault) =>
        (_asksFor >> (int)fault.Mode.Cure & 1) != 0 && IsUncured(situation, fault) ? _negated : _test(situation, fault) != _negated;

    /// <summary>Whether the cure has not yet been done that is supposed to have helped.</summary>
    private static bool IsUncured(Situation situation, Fault fault) =>
        fault.After == CureOutcome.Failed || (fault.Tries > 1 && Cures.TimesDone(fault, situation) < fault.Tries);

    /// <summary>The condition of this name, or null.</summary>
    /// <param name="name">One of <see cref="Names"/>.</param>
    /// <param name="negated">Whether it is turned round.</param>
    public static Condition? Named(string name, bool negated)
    {
        if (Known.TryGetValue(name, out var test))
            return new Condition(test, [], negated);
        CureFacts[] cures = [.. Cures.All.Where(c => c.AskedBy.Contains(name))];
        return cures is [var first, ..] ? new Condition(first.Done[first.AskedBy.IndexOf(name)], cures.Select(c => c.Cure), negated) : null;
    }

    /// <summary>The name of every condition.</summary>
    public static IEnumerable<string> Names => Known.Keys.Concat(Cures.All.SelectMany(c => c.AskedBy).Distinct());

    private static readonly Dictionary<string, Func<Situation, Fault, bool>> Known = new(StringComparer.Ordinal)
    {
        // The unit is in the machine.
        ["fitted"] = (s, f) => s.Now.Has(f.Unit.Id),
        // The slot or channel holds something, and the unit it belongs to is in the machine.
        ["occupied"] = Occupied,
        // The case switch starts the machine.
        ["started-by-switch"] = (s, _) => s.Now.Start == StartMethod.CaseSwitch,
        // A card that takes a power plug of its own loads the supply.
        ["card-draws"] = (s, _) => s.Cards.Any(c => c.Card.NeedsAuxPower),
        // At least two of the customer's sticks are fitted.
        ["kit-fitted"] = (s, _) => s.Sticks.Count(m => m.Stick.Origin == Origin.Customer) >= 2,
        // Any of the customer's sticks is fitted.
        ["any-of-kit-fitted"] = (s, _) => s.Sticks.Any(m => m.Stick.Origin == Origin.Customer),
        // Every slot of the channel holds a stick, as with two sticks on one channel.
        ["channel-full"] = (s, f) =>
            s.Now.Has(f.Unit.Id)
            && s.Board is { } board
            && board.Slots.Count(m => m.Channel == f.Part) > 1
            && board.Slots.Where(m => m.Channel == f.Part).All(m => s.Now[Place.Memory(m.Name)] is not null),
        // The sticks are not in the slots that the board's order gives them.
        ["wrong-slots"] = (s, _) => s.Board is { } board && s.Sticks.Length > 0 && !board.HasUsualOrder(s.Sticks.Select(m => m.Place.Part)),
        // Every slot holds a stick, and each channel has more than one.
        ["every-slot-full"] = (s, _) =>
            s.Board is { } board && board.Slots.Length > board.Channels.Count() && s.Sticks.Length == board.Slots.Length,
        // The CPU sits in the customer's board, whose firmware may be older than it needs.
        ["customer-board"] = (s, _) => s.Board?.Origin == Origin.Customer,
        // The cooler sits on the CPU, so that the CPU is what the heat comes from.
        ["cooler-fitted"] = (s, _) => s.Now[Place.Cooler] is not null,
        // The machine lies on its side, so that no card hangs in its slot.
        ["on-its-side"] = (s, _) => s.Posture == Posture.OnItsSide,
        // The monitor is plugged into the fault's own output (or any digital one, or the card in its slot).
        ["displayed-here"] = DisplayedHere,
        // The monitor is plugged into the board.
        ["displayed-board"] = (s, f) => s.Now.Display?.Source == Place.Board && s.Now.Has(f.Unit.Id),
        // The monitor is plugged into a card.
        ["displayed-off-board"] = (s, _) => s.Now.Display is { Source.Kind: PlaceKind.Card } shown && s.Now[shown.Source] is not null,
        // The monitor is plugged into the fault's card.
        ["displayed-on-card"] = (s, f) => s.Now.Display is { } d && s.Now[d.Source] == f.Unit.Id,
    };

    private static bool Occupied(Situation s, Fault f)
    {
        if (!s.Now.Has(f.Unit.Id))
            return false;
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
        if (s.Now.Display is not { } shown)
            return false;
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

    /// <summary>Names of all conditions that an atlas may use.</summary>
    public static IReadOnlyCollection<string> Known => Tests.Keys;

    /// <exception cref="KeyNotFoundException">No such trait.</exception>
    public static bool Has(Unit unit, string trait) => Tests[trait](unit);
}
