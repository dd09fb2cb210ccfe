using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <content>What is done about one unit: mended, swapped to prove it, put back, or replaced.</content>
internal sealed partial class Closing
{
    /// <summary>What is done about a unit in the machine: the mend that helps most for its minutes, or another part in its place.</summary>
    private Decision? DealWith(Suspect suspect, FaultBelief[] live)
    {
        var unit = suspect.Unit;
        var acts = live.GroupBy(b => b.Fault.Act).Select(g => (Change: MendingOf(g.First().Fault), P: g.Sum(b => b.Probability))).ToArray();
        var all = acts.Sum(a => a.P);
        var mends = acts.Where(a => a.P >= WorthMending && a.Change is not null && CanMend(a.Change, _now))
            .Select(a => (Step: Candidate([a.Change!]), a.P))
            .ToArray();
        if (mends.Length > 0 && acts.Where(a => a.Change is null).Sum(a => a.P) < PlainlyReplace * all)
        {
            return new Decision(Phase.Repair, AdviceKind.Mend)
            {
                Step = mends.MaxBy(m => m.P / m.Step.Minutes.Value).Step,
                About = unit,
                Probability = Math.Min(1, all),
            };
        }

        // Nothing is bought for what is only in the wrong place.
        if (suspect.Leading.Fault.Mode.Cure == Cure.Arrange)
        {
            var target = Repaired();
            return _now.Now.Equals(target) ? null : Towards(target, AdviceKind.PutRight);
        }

        var condemned = suspect.Standing == Standing.Condemned;
        if (!condemned && _passes && WasTriedAgain(unit) && !PassedOftenSincePutBack(unit))
            return new Decision(Phase.Prove, AdviceKind.AwaitFailure) { Step = Candidate([]), About = unit };
        var about = new Decision(condemned ? Phase.Repair : Phase.Prove, condemned ? AdviceKind.ReplaceCondemned : AdviceKind.SwapToProve)
        {
            About = unit,
            Probability = suspect.Probability,
        };
        var place = _now.Now.PlaceOf(unit.Id)!.Value;
        Change[] acting = condemned || WhereItActs(suspect.Leading.Fault, _now) is not { } set ? [] : set;
        foreach (var (standIn, changes) in StandIns(unit).SelectMany(s => InItsPlace(unit, place, s).Select(c => (s, c))))
        {
            Change[][] ways =
            [
                [.. changes, .. acting],
                changes,
            ];
            if (ways.FirstOrDefault(w => Candidates.TryAll(_now, w, out _)) is { } done)
                return about with { Step = Candidate(done), StandIn = standIn };
        }

        if (
            UnitFacts.Of(unit.Kind) is { Absence: Absence.Bypassed } or { MayStayOut: true }
            && _now.TryAfter(Transition.WithoutIt(unit), out _, out _)
        )
            return about with { Kind = AdviceKind.LeaveOut, Step = Candidate([Transition.WithoutIt(unit)]) };
        var missing = Candidates.Replacement(unit, _now.Parts);
        return condemned
            ? about with
            {
                Missing = missing,
            }
            : about with
            {
                Phase = Phase.Order,
                Kind = AdviceKind.GetReplacement,
                Missing = missing,
            };
    }

    /// <summary>Whether a mend can be made and was not made before: what did not help once is not done again.</summary>
    private static bool CanMend(Change mend, Situation there) =>
        there.TryAfter(mend, out _, out _) && !(mend is Change.Mend m && there.Mended(m.Unit, m.Remedy));

    /// <summary>
    /// What mends a fault as the machine stands. A setting is changed where there is a picture to change it by; the memory
    /// profile goes off with the rest where there is none.
    /// </summary>
    private Change? MendingOf(Fault fault)
    {
        var change = Cures.Mending(fault, _now);
        var shows = _diagnosis.Job.Trials is [.., { Seen.ShowsPicture: true }];
        return change switch
        {
            Change.Mend when Safety.WhyNotFlashed(_diagnosis.Job, [change]) is not null => null,
            Change.Choose { Option: MachineOption.ProfileOff } when !shows => new Change.ClearCmos(),
            Change.Choose when !shows => null,
            _ => change,
        };
    }

    /// <summary>What is out may only want newer firmware: it is flashed while it runs without it, where that costs less than the chance
    /// of a good part thrown out.</summary>
    private Decision? Flashing(Suspect suspect, FaultBelief[] live)
    {
        if (
            live.Where(b => b.Fault.Mode.Cure == Cure.Flash).MaxBy(b => b.Probability) is not { Fault: var old } belief
            || Cures.Mending(old, _now) is not { } flash
            || !CanMend(flash, _now)
            || Safety.WhyNotFlashed(_diagnosis.Job, [flash]) is not null
        )
            return null;
        var step = Candidate([flash]);
        return _preferences.CostOf(step.Weighed) > belief.Probability * _preferences.CostOfBeingWrong(suspect.Unit.Kind, _diagnosis.Atlas)
            ? null
            : new Decision(Phase.Repair, AdviceKind.FlashWhileItRuns)
            {
                Step = step,
                About = suspect.Unit,
                Fault = old,
            };
    }

    /// <summary>
    /// A unit that is out goes back with what would cure it, where that is likelier than that the part is bad; null where it is
    /// not, or was done.
    /// </summary>
    private Decision? MendedBack(Suspect suspect, FaultBelief[] live)
    {
        var acts = live.GroupBy(b => b.Fault.Act).Select(g => (First: g.First().Fault, P: g.Sum(b => b.Probability))).ToArray();
        var (fault, p) = acts.MaxBy(a => a.P);
        if (
            p * 2 < live.Sum(b => b.Probability)
            || PutBack(suspect.Unit) is not { } back
            || Cures.Mending(fault, back.After) is not { } mend
            || Safety.WhyNotFlashed(_diagnosis.Job, [.. back.Changes, mend]) is not null
        )
            return null;
        return fault.DealtWith(back.After) || !CanMend(mend, back.After)
            ? null
            : new Decision(Phase.Repair, AdviceKind.Mend)
            {
                Step = Candidate([.. back.Changes, mend]),
                About = suspect.Unit,
                Probability = suspect.Probability,
            };
    }

    /// <summary>The unit back in the place where it was received, everything else as it is; null when that cannot be, or should not: what
    /// cools the CPU is not put back to see it fail.</summary>
    private Candidate? PutBack(Unit unit)
    {
        if (Safety.IsNotTriedAgain(unit))
            return null;
        var received = _diagnosis.Job.Intake.Received;
        if (received.PlaceOf(unit.Id) is not { } place || Safety.WhyNeverAgain(_diagnosis.Job, unit.Id) is not null)
            return null;
        Change change = _now.Now[place] is { } occupant ? new Change.Swap(occupant, unit.Id) : new Change.Fit(unit.Id, place);
        var changes = Candidates.WithDisplay(change, place, unit, received);
        var after = _now;
        foreach (var c in changes)
        {
            if (!after.TryAfter(c, out after, out _) && c is not Change.DisplayAt)
                return null;
        }

        Change[] told = [.. changes.Where(c => c is not Change.DisplayAt d || _now.Now.Display != d.Output)];
        if (Safety.WhyNotPowered(_diagnosis.Job, after) is not null)
            return null;
        // What the refitting itself would cure need not act: then it is seen to run with the part in.
        var acting = _diagnosis[unit.Id].Faults.Where(b => b.Probability >= WorthMending).Select(b => WhereItActs(b.Fault, after));
        return Candidate([.. told, .. acting.FirstOrDefault(a => a is not null) ?? []]);
    }

    /// <summary>
    /// What else is set as received so that a fault could act: a case switch is only tried by starting with it, an output by
    /// the monitor on it. Null where it cannot act.
    /// </summary>
    private Change[]? WhereItActs(Fault fault, Situation there)
    {
        var received = _diagnosis.Job.Intake.Received;
        Change[][] ways =
        [
            [],
            [new Change.StartWith(received.Start)],
            .. received.Display is { } shown ? new Change[][] { [new Change.DisplayAt(shown)] } : [],
        ];
        return ways.FirstOrDefault(w =>
            w.All(c => there.TryAfter(c, out _, out _)) && fault.Engaged(there.After(w)) * 2 >= fault.Mode.Most
        );
    }

    /// <summary>How a part takes a unit's place, best first: one that is in the machine already only has the unit taken out, and one
    /// of the customer's goes where it came from.</summary>
    private IEnumerable<Change[]> InItsPlace(Unit unit, Place place, Unit standIn)
    {
        if (_now.Now.PlaceOf(standIn.Id) is { } there)
        {
            Change[] display =
                standIn is GraphicsCard card && _now.Now.Display?.Source == place
                    ? [new Change.DisplayAt(new OutputRef(there, card.Outputs[0].Name))]
                    : [];
            yield return [new Change.Remove(unit.Id), .. display];
            yield break;
        }

        if (standIn.Origin == Origin.Customer && _diagnosis.Job.Intake.Received.PlaceOf(standIn.Id) is { } own && _now.Now[own] is null)
            yield return [new Change.Remove(unit.Id), new Change.Fit(standIn.Id, own)];
        yield return Candidates.WithDisplay(new Change.Swap(unit.Id, standIn.Id), place, standIn);
    }

    /// <summary>Parts at hand that can take a unit's place: bought ones, then the shelf's, then the customer's own; of those that are
    /// in the machine the shop's alone, and they go before.</summary>
    private IEnumerable<Unit> StandIns(Unit unit) =>
        _diagnosis
            .Suspects.Where(s =>
                s.Unit.Kind == unit.Kind
                && s.Unit.Id != unit.Id
                && s.Probability < BenchDiagnosis.Accused
                && !(_now.Now.Has(s.Unit.Id) && s.Unit.Origin == Origin.Customer)
                && !s.Unit.IsAway
                && Safety.WhyNeverAgain(_diagnosis.Job, s.Unit.Id) is null
            )
            .Select(s => s.Unit)
            .OrderByDescending(u => _now.Now.Has(u.Id))
            .ThenByDescending(u => u.Origin == Origin.New)
            .ThenByDescending(u => u.Origin == Origin.Shelf);

    /// <summary>Whether a start with the unit in followed a pass without it.</summary>
    private bool WasTriedAgain(Unit unit)
    {
        var out_ = _diagnosis.Job.Trials.FirstOrDefault(t => t.Passed && !t.Situation.Now.Has(unit.Id));
        return out_ is not null && _diagnosis.Job.Trials.Any(t => t.Position > out_.Position && t.Situation.Now.Has(unit.Id));
    }

    /// <summary>Whether it was put back and passed so often in a row since that it is waited for no longer.</summary>
    public bool PassedOftenSincePutBack(Unit unit) =>
        WasTriedAgain(unit)
        && _diagnosis.Job.Trials.Reverse().TakeWhile(t => t.Passed && t.Situation.Now.Has(unit.Id)).Count() >= PassesPutBack;
}
