using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>The changes that lead from one arrangement to another: back to a failure, back to as received.</summary>
public static class Transition
{
    /// <summary>
    /// Changes that turn the machine as it stands into the wanted arrangement, in an order in which each is possible;
    /// null when there is no such order.
    /// </summary>
    public static ImmutableArray<Change>? Between(Situation from, Configuration wanted)
    {
        var changes = ImmutableArray.CreateBuilder<Change>();
        var now = from;
        bool Do(Change change)
        {
            if (!now.TryAfter(change, out now, out _))
                return false;
            changes.Add(change);
            return true;
        }

        foreach (var (place, id) in wanted.At)
        {
            if (now.Now[place] == id)
                continue;
            Change change =
                now.Now[place] is { } occupant ? new Change.Swap(occupant, id)
                : now.Now.Has(id) ? new Change.Move(id, place)
                : new Change.Fit(id, place);
            if (!Do(change))
                return null;
        }

        foreach (var (place, id) in now.Now.At)
        {
            if (wanted[place] is not null)
                continue;
            if (!Do(WithoutIt(from.Parts[id])))
                return null;
        }

        if (now.Now.Start != wanted.Start && !Do(new Change.StartWith(wanted.Start)))
            return null;
        if (wanted.Display is { } display && now.Now.Display != display && !Do(new Change.DisplayAt(display)))
            return null;
        return now.Now.Equals(wanted) ? changes.ToImmutable() : null;
    }

    /// <summary>How a unit is done without: led around where that can be, else taken out.</summary>
    public static Change WithoutIt(Unit unit) =>
        UnitFacts.Of(unit.Kind).Absence == Absence.Bypassed ? new Change.Bypass(unit.Id) : new Change.Remove(unit.Id);
}
