using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <content>What the machine will be like when it goes out, and what may still be wrong with it then.</content>
internal sealed partial class Closing
{
    /// <summary>
    /// Whether nothing more is to be done about a unit: it is out of the machine and was proved both ways or tried again,
    /// or it stands at 95 % and what is wrong with it is dealt with.
    /// </summary>
    public bool IsSettled(Suspect suspect)
    {
        var fitted = _now.Now.Has(suspect.Unit.Id);
        if (suspect.Probability < (fitted ? BenchDiagnosis.Certain : EnoughWhenOut))
            return false;
        if (fitted)
            return suspect.Leading.Fault.DealtWith(_now);
        return suspect.Standing == Standing.Condemned
            || suspect.Unit.Origin != Origin.Customer
            || WasTriedAgain(suspect.Unit)
            || PutBack(suspect.Unit) is null
            || PriceOfProof(suspect) is { Accepted: true };
    }

    /// <summary>
    /// What the other half of the proof of a unit costs against the price of being wrong; null where it is neither half proved nor
    /// certain by elimination, is not out of a machine that passes, cannot go back, or went back already.
    /// </summary>
    public ProofPrice? PriceOfProof(Suspect suspect)
    {
        var unit = suspect.Unit;
        if (
            !_passes
            || suspect.Standing == Standing.Condemned
            || suspect.Probability < (suspect.Proof.OneWay ? EnoughWhenOut : BenchDiagnosis.Certain)
            || unit.Origin != Origin.Customer
            || WasTriedAgain(unit)
            || PutBack(unit) is not { } back
        )
            return null;
        var starts = Math.Min(PassesPutBack, 1 / (_diagnosis.RateOf(unit.Id) ?? 1));
        var minutes = (2 * back.Minutes.Value) + ((starts - 1) * Candidate([]).Minutes.Value);
        var bad = suspect.Faults.Where(b => b.Fault.Act.Cure == Cure.Replace).Sum(b => b.Probability);
        var price = _preferences.PriceOf(unit.Kind).New;
        var atStake = _preferences.CostOfBeingWrong(unit.Kind, _diagnosis.Atlas);
        var today = DateOnly.FromDateTime(_diagnosis.Job.Lines[^1].Written.At.UtcDateTime);
        return new ProofPrice(
            unit,
            minutes,
            _preferences.CostOf(minutes),
            Math.Max(0, 1 - bad),
            atStake,
            suspect.Proof.OneWay,
            WhyProof.WorthIt
        ).Weighed(
            _diagnosis.Job.Lines.Select(l => l.Stands).OfType<ProofChoiceEntry>().LastOrDefault(c => c.Unit == unit.Id),
            bad >= BenchDiagnosis.Certain,
            PartWindow.Of(unit).Any(w => w.DaysLeft(today) >= 0),
            OpenChecks.Of(_diagnosis.Job, unit.Id, _diagnosis.Atlas, _preferences).Any,
            price,
            _preferences.DearPart
        );
    }

    /// <summary>
    /// A look at a part that is out, where putting it back would cost more than it saves but for what only needs mending: a bent pin
    /// is seen in two minutes. Null where there is no such look, or it was made.
    /// </summary>
    private Decision? LookingInsteadOfProving(Suspect suspect)
    {
        if (
            suspect.Probability < BenchDiagnosis.Certain
            || PriceOfProof(suspect) is not { Why: WhyProof.NotCertain } price
            || price.Expected >= price.Cost
        )
            return null;
        var looks = suspect
            .Faults.Where(b => b.Fault.Act.Cure != Cure.Replace && b.Probability >= WorthLookingFor)
            .SelectMany(b => _diagnosis.Atlas.Checks.Select(c => (Check: c, Belief: b)))
            .Where(l =>
                l.Check is { Powered: false }
                && l.Check.On == suspect.Unit.Kind
                && EvidenceColumn.Sensitivity(l.Belief.Fault, l.Check, suspect.Unit.Id, _now) >= Relevant
                && !_diagnosis.Job.Testimonies.Any(t => t.Entry is FindingEntry f && f.Check == l.Check.Id && f.Unit == suspect.Unit.Id)
            )
            .ToArray();
        if (looks.Length == 0)
            return null;
        var (check, belief) = looks.MaxBy(l => l.Belief.Probability / l.Check.Minutes.Value);
        return new Decision(Phase.Prove, AdviceKind.Control)
        {
            Step = Candidates.Looking(check, suspect.Unit, _now, _diagnosis.Atlas),
            About = suspect.Unit,
            Fault = belief.Fault,
            Probability = suspect.Probability,
        };
    }

    private ImmutableArray<Place> Empty => [.. _diagnosis.Job.AsItBelongs.At.Keys.Where(p => _now.Now[p] is null)];

    /// <summary>As received, but with another part of its kind in the place of each unit that is settled and out.</summary>
    public Configuration Repaired() => Repaired(IsSettled);

    /// <summary>
    /// When nothing tells more and the machine runs: what is out and likelier at fault than not stays out, the rest goes back,
    /// and that is proved to run. The proof is then one-way, and the log says so.
    /// </summary>
    public Decision? Accepting()
    {
        if (!_passes)
            return null;
        var target = Repaired(s => s.Probability >= LikelierThanNot);
        var left = StillThere(_diagnosis, target);
        if (left >= WorthTryingTogether)
            return null;
        if (Lacking(target) is { } lacking)
            return lacking;
        if (!_now.Now.Equals(target))
            return Towards(target, AdviceKind.PutRestBack);
        return CleanNow < LeastClean
            ? new Decision(Phase.ProveRuns, AdviceKind.StartOnceMore)
            {
                Step = Candidate([]),
                Probability = left,
                Empty = Empty,
                More = LeastClean - CleanNow,
            }
            : new Decision(Phase.Done, AdviceKind.Done) { Probability = left, Empty = Empty };
    }

    private Configuration Repaired(Func<Suspect, bool> isSettled)
    {
        var (diagnosis, now) = (_diagnosis, _now);
        var target = diagnosis.Job.AsItBelongs;
        var back = now.BackIn(target);
        var settled = diagnosis.Suspects.Where(s =>
            !now.Now.Has(s.Unit.Id)
            && s.Faults.Where(b => !b.Fault.DealtWith(back)).Sum(b => b.Probability) >= WorthTryingTogether
            && isSettled(s)
        );
        var never = target.At.Values.Where(id => Safety.WhyNeverAgain(diagnosis.Job, id) is not null);
        foreach (var id in settled.SelectMany(s => GoesWith(s, diagnosis.Job)).Concat(never).Distinct().ToArray())
        {
            if (target.PlaceOf(id) is not { } place)
                continue;
            target = target.WithUnit(place, null);
            var standIn = StandIns(now.Parts[id])
                .Where(u => u.Origin != Origin.Customer && !target.Has(u.Id) && Situation.WhyUnfit(u, place, now.Board) is null)
                .OrderByDescending(u => now.Now[place] == u.Id)
                .ThenByDescending(u => now.Now.Has(u.Id))
                .FirstOrDefault();
            if (standIn is not null)
                target = target.WithUnit(place, standIn.Id);
        }

        if (
            target.Display is { Source.Kind: PlaceKind.Card } shown
            && target[shown.Source] is { } card
            && now.Parts[card] is GraphicsCard g
            && g.Outputs.All(o => o.Name != shown.Output)
        )
            target = target.WithDisplay(shown with { Output = g.Outputs[0].Name });
        target = WellArranged(diagnosis, target);
        // What was wrong with the arrangement is not put back: a monitor where no picture could come.
        if (
            Ceiling.Of(now.BackIn(target)).Stage < diagnosis.Job.Goal
            && now.Now.Display is { } better
            && target[better.Source] is not null
            && Ceiling.Of(now.BackIn(target.WithDisplay(better))).Stage >= diagnosis.Job.Goal
        )
            target = target.WithDisplay(better);
        // With the card out that the monitor was on, it goes where it is now, or on the board.
        if (target.Display is { } on && target[on.Source] is null)
            target = target.WithDisplay(
                now.Now.Display is { } there && target[there.Source] is not null ? there
                : now.Board is { Outputs: [var first, ..] } ? new OutputRef(Place.Board, first.Name)
                : null
            );
        return target;
    }

    /// <summary>
    /// An arrangement without what was wrong with the one received: sticks in the slots of the usual order where those they came
    /// in were the fault, and the card that had to be fitted for any picture.
    /// </summary>
    private static Configuration WellArranged(BenchDiagnosis diagnosis, Configuration target)
    {
        var now = diagnosis.Job.Now;
        var wrongSlots = diagnosis.Faults.Where(
            (f, i) =>
                f.Mode.Cure == Cure.Arrange && diagnosis.Inference.Marginals[i] >= LikelierThanNot && f.Engaged(now.BackIn(target)) > 0
        );
        if (wrongSlots.Any() && now.Board is { UsualOrder.IsEmpty: false } board)
        {
            UnitId[] sticks = [.. target.At.Where(p => p.Key.Kind == PlaceKind.Memory).Select(p => p.Value)];
            foreach (var place in target.At.Keys.Where(p => p.Kind == PlaceKind.Memory).ToArray())
                target = target.WithUnit(place, null);
            foreach (var (stick, slot) in sticks.Zip(board.UsualOrder))
                target = target.WithUnit(Place.Memory(slot), stick);
        }

        if (Ceiling.Of(now.BackIn(target)).Stage >= diagnosis.Job.Goal)
            return target;
        foreach (var (place, card) in now.Cards.Select(c => (c.Place, c.Card.Id)))
        {
            var with = target.WithUnit(place, card).WithDisplay(now.Now.Display);
            if (target[place] is null && Ceiling.Of(now.BackIn(with)).Stage >= diagnosis.Job.Goal)
                return with;
        }

        return target;
    }

    /// <summary>Chance that the machine, arranged so, has a fault that is not dealt with and keeps a picture away.</summary>
    public static double StillThere(BenchDiagnosis diagnosis, Configuration arrangement)
    {
        var there = diagnosis.Job.Now.BackIn(arrangement);
        bool[] live = [.. diagnosis.Faults.Select(f => !f.DealtWith(there) && Keeps(f, there, diagnosis.Job.Goal))];
        double with = 0,
            all = 0;
        foreach (var h in diagnosis.Hypotheses)
        {
            all += h.Probability;
            foreach (var f in h.Forms)
            {
                if (!live[diagnosis.Inference.FaultOf[f]])
                    continue;
                with += h.Probability;
                break;
            }
        }

        return with / all;
    }
}
