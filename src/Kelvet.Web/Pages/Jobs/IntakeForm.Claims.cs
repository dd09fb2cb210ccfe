using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Web.Pages.Jobs;

/// <content>What the owner says was tried, as claims.</content>
public sealed partial class IntakeForm
{
    /// <summary>What was tried as claims; a part that the owner tried is told of and not at hand.</summary>
    private (Parts Parts, List<Entry> Claims) Claims(Intake intake)
    {
        var parts = intake.Parts;
        var claims = new List<Entry>();
        foreach (var tried in Tried)
        {
            var seen = ObservedFormat.TryRead(tried.Seen ?? "", out var range) ? range : intake.Reported;
            if (seen is not { } told)
                continue;
            var machine = Situation.AtIntake(parts, intake.Received);
            Change[] changes = tried.What!.Value switch
            {
                Attempt.ClearedSettings => [new Change.ClearCmos()],
                Attempt.ReseatedMemory => [.. machine.Sticks.Select(s => new Change.Reseat(s.Stick.Id))],
                Attempt.ReseatedCard => [.. machine.Cards.Select(c => new Change.Reseat(c.Card.Id))],
                Attempt.OneStick => [.. machine.Sticks.Skip(1).Select(s => new Change.Remove(s.Stick.Id))],
                var other => Swaps(other, machine, ref parts),
            };
            if (changes.Length > 0)
                claims.Add(new ClaimEntry(Guid.NewGuid(), [.. changes], told) { Sure = tried.Sure });
        }

        return (parts, claims);
    }

    private static Change[] Swaps(Attempt tried, Situation machine, ref Parts parts)
    {
        var kind = tried switch
        {
            Attempt.OtherSupply => UnitKind.Supply,
            Attempt.OtherMemory => UnitKind.MemoryStick,
            Attempt.OtherCard => UnitKind.GraphicsCard,
            Attempt.OtherMonitor => UnitKind.Monitor,
            Attempt.OtherCable => UnitKind.VideoCable,
            _ => UnitKind.Outlet,
        };
        var changes = new List<Change>();
        foreach (var (place, id) in machine.Now.At.Where(at => machine.Parts[at.Value].Kind == kind))
        {
            var like = UnitForm.Like(machine, kind, new UnitId($"told-{id}"), $"{Text(kind)} that the owner tried", Origin.New);
            parts = parts.With(like with { IsAway = true });
            changes.Add(new Change.Swap(id, like.Id));
        }

        if (changes.Count == 0 && kind == UnitKind.Outlet)
        {
            var outlet = Unit.Plain(new UnitId("told-outlet"), kind, "Outlet that the owner tried", Origin.New) with { IsAway = true };
            parts = parts.With(outlet);
            changes.Add(new Change.Fit(outlet.Id, Place.Outlet));
        }

        return [.. changes];

        static string Text(UnitKind kind) => Kelvet.Web.Wording.Text.Capital(kind.Words());
    }
}
