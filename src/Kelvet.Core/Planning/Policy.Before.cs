using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <content>What comes before the rest: before power, and before a part is bought.</content>
internal sealed partial class Policy
{
    /// <summary>What takes longer is not asked for before a part is bought. Minutes, bench judgement.</summary>
    private const double CheapEnough = 20;

    /// <summary>Changes that are made for the settings to be cleared where it fails.</summary>
    private const int MostToClear = 2;

    /// <summary>
    /// Before a part is bought or replaced: what restores cheaply is tried with the suspect in, whatever the book says of it. Settings,
    /// seat, contacts, leads; the socket's pins are looked at. Each is tried once. Settings are cleared before a CPU or a board is
    /// swapped at all.
    /// </summary>
    private Decision? CheapFirst(Decision decision)
    {
        if (_job.Trials.IsEmpty || decision.Phase == Phase.MakeSafe)
            return null;
        var dear = decision.Step?.Changes.OfType<Change.Swap>().Select(c => _job.Now.Parts[c.Out]).FirstOrDefault(IsDear);
        var buys = !_job.Trials[^1].Passed && decision is { Step: null, Missing: not null } or { Kind: AdviceKind.ReplaceCondemned };
        if (dear is null && !buys)
            return null;
        var suspect = _diagnosis.Suspects.FirstOrDefault(s =>
            s.Unit.Origin == Origin.Customer
            && _job.Now.Now.Has(s.Unit.Id)
            && ((dear ?? decision.About) is { } about ? about.Id == s.Unit.Id : decision.Missing?.Kind == s.Unit.Kind)
        );
        if (suspect is null)
            return null;
        var unit = suspect.Unit;
        if (ReplacementGate.GoAheadWith(_job, unit.Id) is not null)
            return null;
        var price = _preferences.PriceOf(unit.Kind).New;
        var checks = OpenChecks.Of(_job, unit.Id, _diagnosis.Atlas, _preferences);
        if (checks.Settings && WithSettingsCleared() is { } clearing)
            return Cheap(clearing);
        if (buys && checks.Seat && Trying(new Change.Reseat(unit.Id)) is { } seating)
            return Cheap(seating);
        // What is said of a CPU and of its board is told apart by the dearest of swaps: what restores either comes before.
        // The socket's pins are seen while the CPU is out anyway.
        bool IsOfThem(Unit other) => other.Id == unit.Id || (IsDear(unit) && IsDear(other) && _job.Now.Now.Has(other.Id));
        var them = _diagnosis.Suspects.Where(s => IsOfThem(s.Unit)).ToArray();
        if (them.Select(s => LookedInto(s.Unit)).FirstOrDefault(step => step is not null) is { } looking)
            return Cheap(looking);
        if (dear is not null)
            return null;
        var open = them.SelectMany(s => s.Faults).Where(f => !f.Fault.DealtWith(_job.Now) && f.Fault.After == CureOutcome.Open);
        foreach (var belief in open)
        {
            if (Restoring(belief.Fault) is not { } step || (step.Weighed > CheapEnough && belief.Fault.Mode.Cure != Cure.Isolate))
                continue;
            // What costs more than the part could not save anything.
            if (_preferences.CostOf(step.Weighed) > price)
                continue;
            return Cheap(step) with { Fault = belief.Fault };
        }

        return null;

        Decision Cheap(Candidate step) =>
            new(Phase.Prove, AdviceKind.CheapFirst)
            {
                Step = step,
                About = unit,
                Probability = suspect.Probability,
            };
    }

    /// <summary>The settings cleared where it fails: as it stands, or as it last failed, where that takes little.</summary>
    private Candidate? WithSettingsCleared()
    {
        var last = _job.Trials[^1];
        ImmutableArray<Change>? back = last.Passed
            ? _job.Trials.LastOrDefault(t => t.Failed) is { } failed
                ? Transition.Between(_job.Now, failed.Situation.Now)
                : null
            : [];
        return back is { Length: <= MostToClear } ? Trying([.. back, new Change.ClearCmos()]) : null;
    }

    /// <summary>A suspect goes back with what restores it cheaply done at once, where it never was: its contacts cleaned, the settings
    /// cleared where they could be why. A failure then is its own.</summary>
    private Decision Restored(Decision decision)
    {
        if (
            decision is not { Phase: Phase.Prove or Phase.Narrow, Step: { Check: null } step }
            || _diagnosis.Suspects.FirstOrDefault(s =>
                s.Probability >= LikelierThanNot
                && s.Unit.Origin == Origin.Customer
                && !_job.Now.Now.Has(s.Unit.Id)
                && step.After.Now.Has(s.Unit.Id)
            )
                is not { Unit: var unit }
        )
            return decision;
        var open = OpenChecks.Of(_job, unit.Id, _diagnosis.Atlas, _preferences);
        Change[] more =
        [
            .. Wanted(open.Contacts, new Change.Mend(Remedy.Clean, unit.Id)),
            .. Wanted(open.Settings && step.After.Board?.Id == _job.Intake.Received[Place.Board], new Change.ClearCmos()),
        ];
        return more.Length > 0 && Candidates.TryAll(step.After, more, out var after)
            ? decision with
            {
                Step = Candidates.Of([.. step.Changes, .. more], _job.Now, after, _diagnosis.Atlas),
            }
            : decision;

        IEnumerable<Change> Wanted(bool when, Change change) => when && !step.Changes.Contains(change) ? [change] : [];
    }

    /// <summary>
    /// What a look found to be wrong is put right before anything else is tried, where that takes little: whatever the rest of the log
    /// says of it, a machine with it is not repaired. Common practice.
    /// </summary>
    private Decision? MendingWhatWasFound()
    {
        if (_job.Trials is [] || (_job.Trials[^1].Passed && _job.Trials.Any(t => t.Failed)))
            return null;
        foreach (var finding in _job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().Where(f => f.Found).Reverse())
        {
            if (_diagnosis.Atlas.Check(finding.Check) is not { } check || !_job.Now.Now.Has(finding.Unit))
                continue;
            var shown = check.Findings.FirstOrDefault(f => f.Id == finding.What)?.Shows ?? check.Shows;
            var found = _diagnosis
                .Faults.Index()
                .Where(f => f.Item.Unit.Id == finding.Unit && f.Item.Hands == ByHands.LeftAlone && f.Item.After == CureOutcome.Open)
                .Where(f => shown.GetValueOrDefault(f.Item.Mode.Id) >= Apart && !f.Item.DealtWith(_job.Now))
                .OrderByDescending(f => _diagnosis.Inference.Marginals[f.Index]);
            foreach (var (index, fault) in found)
            {
                if (
                    _diagnosis.Inference.Marginals[index] >= Closing.WorthMending
                    && fault.Mode.Cure != Cure.Replace
                    && Cures.Mending(fault, _job.Now) is Change.Mend or Change.Reseat
                    && Trying(Cures.Mending(fault, _job.Now)!) is { } step
                    && step.Weighed <= CheapEnough
                )
                    return new Decision(Phase.Repair, AdviceKind.MendWhatWasFound)
                    {
                        Step = step,
                        About = fault.Unit,
                        Fault = fault,
                        Probability = _diagnosis.Inference.Marginals[index],
                    };
            }
        }

        return null;
    }

    /// <summary>The look that is made before a part is replaced whatever else is known, or what mends what it found; null where neither is
    /// to be done. A machine that does not even twitch is not kept down by a pin.</summary>
    private Candidate? LookedInto(Unit unit)
    {
        if (!_job.Trials.Any(t => t.Failed && t.Seen.High >= BootStage.CutsOut))
            return null;
        foreach (var look in _diagnosis.Atlas.Checks.Where(c => c.On == unit.Kind))
        {
            if (look.BeforeReplacing is not { } remedy)
                continue;
            var made = _job
                .Testimonies.Select(t => t.Entry)
                .OfType<FindingEntry>()
                .LastOrDefault(f => f.Check == look.Id && f.Unit == unit.Id);
            if (made is null)
                return Candidates.Looking(look, unit, _job.Now, _diagnosis.Atlas);
            if (made.Found && !_job.Now.Mended(unit.Id, remedy) && Trying(new Change.Mend(remedy, unit.Id)) is { } mending)
                return mending;
        }

        return null;
    }

    /// <summary>The act that restores a part of a fault; null where it is none, or cannot be done.</summary>
    private Candidate? Restoring(Fault fault) =>
        fault.Mode.Cure is Cure.ClearCmos or Cure.Reseat or Cure.Clean or Cure.Rewire or Cure.Isolate
        && Cures.Mending(fault, _job.Now) is { } act
            ? Trying(act)
            : null;

    /// <summary>Changes and a start; null where they cannot be made, or it may not be powered.</summary>
    private Candidate? Trying(params IReadOnlyList<Change> changes) =>
        Candidates.TryAll(_job.Now, changes, out var after) && Safety.WhyNotPowered(_job, after) is null
            ? Candidates.Of(changes, _job.Now, after, _diagnosis.Atlas)
            : null;

    /// <summary>What takes longest to swap, and is dearest.</summary>
    private static bool IsDear(Unit unit) => unit is { Kind: UnitKind.Cpu or UnitKind.Motherboard, Origin: Origin.Customer };

    /// <summary>What must be done before anybody powers it; null when it may be powered.</summary>
    private Decision? MakingSafe()
    {
        if (Safety.WhyNotPowered(_job, _job.Now) is not { } block)
            return null;
        var safe = new Decision(Phase.MakeSafe, AdviceKind.MakeSafe) { Block = block };
        return block switch
        {
            PowerBlock.LookOverBoard => Looking(Safety.LookOverBoard),
            PowerBlock.LookForDamp or PowerBlock.StillDamp => Looking(Safety.LookForDamp),
            PowerBlock.BoardBurnt => Fitting(UnitKind.Motherboard, Place.Board),
            PowerBlock.NoCooler => Fitting(UnitKind.Cooler, Place.Cooler),
            _ => Fitting(UnitKind.Supply, Place.Supply),
        };

        Decision Looking(string id) =>
            _diagnosis.Atlas.Check(id) is { } check && _job.Now.Board is { } board
                ? safe with
                {
                    Step = Candidates.Looking(check, board, _job.Now, _diagnosis.Atlas),
                    About = board,
                }
                : safe;

        Decision Fitting(UnitKind kind, Place place)
        {
            var parts = _job.Now.Parts;
            var spares = parts.All.Where(u => u.Kind == kind && !_job.Now.Now.Has(u.Id) && Safety.WhyNeverAgain(_job, u.Id) is null);
            var about = _job.Now.Now[place] is { } id ? parts[id] : null;
            if (spares.MaxBy(u => u.Origin == Origin.Shelf) is { } spare)
            {
                Change change = about is null ? new Change.Fit(spare.Id, place) : new Change.Swap(about.Id, spare.Id);
                return safe with
                {
                    Step = Candidates.Of([change], _job.Now, _job.Now.After(change), _diagnosis.Atlas),
                    About = about,
                    StandIn = spare,
                };
            }

            return safe with
            {
                About = about,
                Missing = Candidates.Replacement(about ?? Unit.Plain(new UnitId("missing"), kind, "missing", Origin.Customer), parts),
            };
        }
    }
}
