using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Worksheets;

/// <summary>Some sticks in some slots and no others: what leads there, whether it can be tried, and what it would tell.</summary>
internal static class MemoryArrangement
{
    /// <summary>Weighs a start with these sticks in these slots and no others.</summary>
    public static (ImmutableArray<Change> Changes, CellBar Bar, double Rate) Weigh(
        IReadOnlyList<(MemoryStick Stick, MemorySlot Slot)> wanted,
        BenchDiagnosis diagnosis,
        Motherboard board,
        Beliefs beliefs
    )
    {
        var now = diagnosis.Job.Now;
        if (wanted.Any(w => w.Stick.IsAway))
            return ([], CellBar.NotAtHand, 0);
        if (wanted.Any(w => Situation.WhyUnfit(w.Stick, Place.Memory(w.Slot.Name), board) is not null))
            return ([], CellBar.OtherGeneration, 0);
        var changes = Towards(wanted, now);
        if (changes.Length == 0)
            return ([], CellBar.AsItStands, 0);
        if (!Candidates.TryAll(now, changes, out var after))
            return ([], CellBar.OtherGeneration, 0);
        if (Safety.WhyNotPowered(diagnosis.Job, after) is not null)
            return ([], CellBar.MayNotBePowered, 0);
        var (assessment, _) = beliefs.Assess(Candidates.Of(changes, now, after, diagnosis.Atlas));
        return assessment.WhyNot == WhyNot.WorthIt ? (changes, CellBar.None, assessment.Rate) : (changes, CellBar.TellsNothing, 0);
    }

    /// <summary>Everything else out first, so that the slots are free; what is in the other's slot goes out of its way.</summary>
    private static ImmutableArray<Change> Towards(IReadOnlyList<(MemoryStick Stick, MemorySlot Slot)> wanted, Situation now)
    {
        var changes = ImmutableArray.CreateBuilder<Change>();
        foreach (var (_, other) in now.Sticks.Where(s => wanted.All(w => w.Stick.Id != s.Stick.Id)))
            changes.Add(new Change.Remove(other.Id));
        var left = wanted.Where(w => now.Now.PlaceOf(w.Stick.Id) != Place.Memory(w.Slot.Name)).ToList();
        // Two that are in each other's slot change places.
        if (
            left is [var one, var two]
            && now.Now.PlaceOf(one.Stick.Id) == Place.Memory(two.Slot.Name)
            && now.Now.PlaceOf(two.Stick.Id) == Place.Memory(one.Slot.Name)
        )
            return [.. changes, new Change.Swap(one.Stick.Id, two.Stick.Id)];
        // Whoever sits in a slot that another is to go to moves first.
        foreach (var (stick, slot) in left.OrderByDescending(l => left.Any(o => now.Now.PlaceOf(l.Stick.Id) == Place.Memory(o.Slot.Name))))
        {
            var place = Place.Memory(slot.Name);
            changes.Add(now.Now.Has(stick.Id) ? new Change.Move(stick.Id, place) : new Change.Fit(stick.Id, place));
        }

        return changes.ToImmutable();
    }
}
