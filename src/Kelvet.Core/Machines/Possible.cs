using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>What can be done to a machine as it stands, one change at a time.</summary>
public static class Possible
{
    /// <summary>Everything that can be done to or with one unit.</summary>
    public static ImmutableArray<Change> For(Situation now, UnitId id)
    {
        if (now.Parts.Find(id) is not { } unit)
            return [];
        var fitted = now.Now.Has(id);
        var tries = new List<Change>();
        foreach (var other in now.Parts.All.Where(u => u.Kind == unit.Kind && u.Id != id))
            tries.Add(fitted ? new Change.Swap(id, other.Id) : new Change.Swap(other.Id, id));
        if (fitted)
            tries.Add(new Change.Reseat(id));
        foreach (var place in PlacesFor(now, unit))
            tries.Add(fitted ? new Change.Move(id, place) : new Change.Fit(id, place));
        if (fitted)
            tries.Add(Transition.WithoutIt(unit));
        foreach (var output in OutputsOf(unit))
            tries.Add(new Change.DisplayAt(output));
        tries.AddRange(Situation.RemediesFor(unit.Kind).Select(r => new Change.Mend(r, id)));
        if (unit.Kind == UnitKind.Motherboard)
        {
            tries.Add(new Change.ClearCmos());
            tries.Add(new Change.IntoCase(id));
            foreach (var option in Enum.GetValues<MachineOption>())
            {
                tries.Add(new Change.Choose(option));
                tries.Add(new Change.Undo(option));
            }

            tries.AddRange(Enum.GetValues<Posture>().Select(p => new Change.Lay(p)));
        }

        if (unit.Kind == UnitKind.CaseSwitch)
        {
            tries.Add(new Change.StartWith(StartMethod.CaseSwitch));
            tries.Add(new Change.StartWith(StartMethod.HeaderPins));
        }

        return [.. tries.Where(c => now.TryAfter(c, out _, out _))];

        IEnumerable<OutputRef> OutputsOf(Unit u) =>
            now.Now.PlaceOf(u.Id) is not { } place
                ? []
                : u switch
                {
                    Motherboard b => b.Outputs.Select(o => new OutputRef(place, o.Name)),
                    GraphicsCard g => g.Outputs.Select(o => new OutputRef(place, o.Name)),
                    _ => [],
                };
    }

    private static IEnumerable<Place> PlacesFor(Situation now, Unit unit) =>
        unit switch
        {
            MemoryStick => now.Board?.Slots.Select(s => Place.Memory(s.Name)) ?? [],
            GraphicsCard => now.Board?.CardSlots.Select(Place.Card) ?? [],
            _ when now.Now.Has(unit.Id) => [],
            _ => [now.UsualPlace(unit)],
        };
}
