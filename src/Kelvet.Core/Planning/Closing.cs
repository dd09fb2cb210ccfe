using Kelvet.Core.Diagnosis;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>
/// The end of the work: deal with what is certain, prove it both ways, put everything back, and start the machine
/// until what may be left is unlikely. Every school ends its jobs by these rules.
/// </summary>
internal sealed partial class Closing
{
    /// <summary>Chance that a live fault is still there below which a machine that passes is taken to be repaired.</summary>
    public const double StillLikely = 0.012;

    /// <summary>
    /// A further start is worth its minute where it would fail with at least this chance: a machine that comes back costs
    /// an hour, so that below it the minute is better spent elsewhere. Bench judgement.
    /// </summary>
    private const double WorthAStart = 0.005;

    /// <summary>Clean starts of a machine that never failed on the bench, after which the complaint counts as not reproduced.</summary>
    private const int CleanWithoutAFailure = 5;

    /// <summary>Clean starts of the machine as it goes out that are made in any case while anything may be left.</summary>
    private const int LeastClean = 3;

    /// <summary>Chance of a fault that is still there below which the machine is put back together to be tried whole.</summary>
    public const double WorthTryingTogether = 0.35;

    /// <summary>A fault that bites less often than this is not what a machine without a picture is searched for.</summary>
    private const double Relevant = 0.08;

    /// <summary>An act that helps less often than this is not tried for its own sake.</summary>
    private const double WorthMending = 0.05;

    /// <summary>Share of a unit's case that replacing alone deals with, from which mending is not tried first.</summary>
    private const double PlainlyReplace = 0.8;

    /// <summary>A unit that is out while the machine runs is put back for the proof from here on.</summary>
    public const double EnoughWhenOut = 0.8;

    /// <summary>A unit that is out, and at fault with more than this, stays out when nothing tells more.</summary>
    private const double LikelierThanNot = 0.5;

    /// <summary>A part put back that passes so often in a row is taken out again, the proof left one-way.</summary>
    private const int PassesPutBack = 3;

    private readonly BenchDiagnosis _diagnosis;
    private readonly Situation _now;
    private readonly bool _passes;
    private readonly BootStage _goal;

    private Closing(BenchDiagnosis diagnosis)
    {
        _diagnosis = diagnosis;
        _now = diagnosis.Job.Now;
        _goal = diagnosis.Job.Goal;
        _passes = diagnosis.Job.Trials is [.., { Passed: true }];
    }

    /// <summary>The move that follows from what is known; null when there is something to find out first.</summary>
    public static Decision? Of(BenchDiagnosis diagnosis) => new Closing(diagnosis).Next();

    /// <summary>The move against the likeliest unit, certain or not, for when nothing left tells it from the others.</summary>
    /// <param name="diagnosis">The log so far; at least one trial.</param>
    /// <param name="least">Probability, 0 to 1, below which nothing is done.</param>
    public static Decision? AgainstTheLikeliest(BenchDiagnosis diagnosis, double least)
    {
        var closing = new Closing(diagnosis);
        foreach (var (suspect, live) in closing.Accused(least))
        {
            if (closing._now.Now.Has(suspect.Unit.Id) && closing.DealWith(suspect, live) is { } move)
                return move;
        }

        return null;
    }

    private Decision? Next()
    {
        foreach (var (suspect, live) in Accused(EnoughWhenOut))
        {
            if (_now.Now.Has(suspect.Unit.Id))
            {
                if (live.Sum(b => b.Probability) >= BenchDiagnosis.Certain && DealWith(suspect, live) is { } move)
                    return move;
            }
            else if (
                _passes
                && live.MaxBy(b => b.Probability)!.Fault is { Mode.Cure: Cure.Flash } old
                && Cures.Mending(old, _now) is { } flash
                && _now.TryAfter(flash, out _, out _)
                && Safety.WhyNotFlashed(_diagnosis.Job, [flash]) is null
            )
            {
                return new Decision(Phase.Repair, AdviceKind.FlashWhileItRuns)
                {
                    Step = Candidate([flash]),
                    About = suspect.Unit,
                    Fault = old,
                };
            }
            else if (_passes && MendedBack(suspect, live) is { } mended)
            {
                return mended;
            }
            else if (_passes && !IsSettled(_diagnosis, suspect) && PutBack(suspect.Unit) is { } back)
            {
                return new Decision(Phase.Prove, AdviceKind.PutBackToProve)
                {
                    Step = back,
                    About = suspect.Unit,
                    Probability = suspect.Probability,
                };
            }
        }

        if (!_passes)
        {
            // What stops it now is known to be out of the repaired machine: nothing is learnt by searching on here.
            var without = Repaired(_diagnosis, s => s.Probability >= EnoughWhenOut);
            var known =
                StillThere(_diagnosis, without) < WorthTryingTogether / 2
                && (!Ceiling.Of(_now).CanReach(_goal) || (!_now.Now.Equals(without) && StillThere(_diagnosis, _now.Now) > 0.5));
            return !known ? null : Lacking(without) ?? (_now.Now.Equals(without) ? null : Towards(without, AdviceKind.TryTogether));
        }

        var target = Repaired(_diagnosis);
        if (target.At.Keys.All(p => p.Kind != PlaceKind.Memory) && _now.Sticks.Length > 0)
            return new Decision(Phase.Order, AdviceKind.GetSticks) { Missing = Candidates.Replacement(_now.Sticks[0].Stick, _now.Parts) };

        var left = StillThere(_diagnosis, target);
        if (left >= WorthTryingTogether)
            return null;
        if (Lacking(target) is { } lacking)
            return lacking;
        if (!_now.Now.Equals(target))
            return Towards(target, AdviceKind.PutRestBack);
        if (_diagnosis.Job.Trials.All(t => t.Passed) && CleanNow >= CleanWithoutAFailure)
            return new Decision(Phase.Done, AdviceKind.NotReproduced) { Probability = left };
        return left >= StillLikely && (CleanNow < LeastClean || WouldFail(_diagnosis, _now) >= WorthAStart)
            ? new Decision(Phase.ProveRuns, AdviceKind.StartOnceMore)
            {
                Step = Candidate([]),
                Probability = left,
                More = StillNeeded(),
            }
            : new Decision(Phase.Done, AdviceKind.Done) { Probability = left };
    }

    /// <summary>Clean starts are foreseen up to so many.</summary>
    public const int MostForeseen = 20;

    /// <summary>
    /// How many clean starts in a row are still needed, this one counted: each weighs every explanation by its chance of
    /// passing, until a further one would fail with less than half a percent.
    /// </summary>
    private int StillNeeded()
    {
        var table = _diagnosis.Inference.Table;
        var engaged = table.Engaged(table.ByRule(_now));
        double[] weight = [.. _diagnosis.Hypotheses.Select(h => h.Probability)];
        double[] passes = [.. _diagnosis.Hypotheses.Select(h => Passes(h, engaged))];
        for (var n = 1; n < MostForeseen; n++)
        {
            for (var h = 0; h < weight.Length; h++)
                weight[h] *= TrialModel.Seen(passes[h], 0, StageRange.AtLeast(_goal), _diagnosis.Atlas.Slip);
            var fails = weight.Zip(passes, (w, p) => w * (1 - p)).Sum() / weight.Sum();
            if (CleanNow + n >= LeastClean && fails < WorthAStart)
                return n;
        }

        return MostForeseen;
    }

    private double Passes(Hypothesis h, double[] engaged)
    {
        var table = _diagnosis.Inference.Table;
        var through = 1.0;
        foreach (var f in h.Forms)
            through *= TrialModel.Past(engaged[f], table.Forms[f].Shows is null ? table.Forms[f].Reach[(int)_goal] : 0);
        return through;
    }

    private int CleanNow => Intermittence.CleanNow(_diagnosis.Job);

    /// <summary>Chance that the machine, started as it stands, would not reach its goal because of a fault that is known to
    /// the atlas.</summary>
    public static double WouldFail(BenchDiagnosis diagnosis, Situation there)
    {
        var table = diagnosis.Inference.Table;
        var engaged = table.Engaged(table.ByRule(there));
        var closing = new Closing(diagnosis);
        double fails = 0,
            all = 0;
        foreach (var h in diagnosis.Hypotheses)
        {
            all += h.Probability;
            fails += h.Probability * (1 - closing.Passes(h, engaged));
        }

        return fails / all;
    }

    /// <summary>The part to get where the machine without what is settled could not reach its goal at all.</summary>
    private Decision? Lacking(Configuration target)
    {
        var there = _now.BackIn(target);
        if (Ceiling.Of(there).CanReach(_goal) && there.WhyNotPowered() is null)
            return null;
        foreach (var (place, id) in _diagnosis.Job.Intake.Received.At)
        {
            if (target[place] is null && _now.Parts[id] is var unit && UnitFacts.Of(unit.Kind).Absence != Absence.Bypassed)
                return new Decision(Phase.Order, AdviceKind.GetReplacement)
                {
                    About = unit,
                    Probability = _diagnosis[id].Probability,
                    Missing = Candidates.Replacement(unit, _now.Parts),
                };
        }

        return null;
    }

    private Decision? Towards(Configuration target, AdviceKind kind) =>
        Transition.Between(_now, target) is { } changes && Safety.WhyNotPowered(_diagnosis.Job, _now.After(changes)) is null
            ? new Decision(Phase.PutBack, kind) { Step = Candidate(changes) }
            : null;

    /// <summary>The customer's sticks, when what is wrong is that they do not work together.</summary>
    private static UnitId[] GoesWith(Suspect suspect, BenchJob job) =>
        suspect.Leading.Fault.Mode.On == FaultSite.MemoryKit
            ? [.. job.Intake.Received.At.Values.Where(id => job.Now.Parts[id] is MemoryStick)]
            : [suspect.Unit.Id];

    /// <summary>
    /// The units whose live faults together reach a probability, likeliest first. A fault is live when it would bite with
    /// the unit in its place as received and has not been dealt with.
    /// </summary>
    private IEnumerable<(Suspect Suspect, FaultBelief[] Live)> Accused(double least)
    {
        foreach (var suspect in _diagnosis.Suspects)
        {
            if (suspect.Probability < least)
                continue;
            var fitted = _now.Now.Has(suspect.Unit.Id);
            if (!fitted && suspect.Unit.Origin != Origin.Customer)
                continue;
            var received = _diagnosis.Job.Intake.Received;
            var there = fitted ? _now : _now.BackIn(received);
            var before = Situation.AtIntake(_now.Parts, received);
            FaultBelief[] live =
            [
                .. suspect.Faults.Where(b => !b.Fault.DealtWith(there) && (Keeps(b.Fault, there, _goal) || Keeps(b.Fault, before, _goal))),
            ];
            if (live.Sum(b => b.Probability) >= least)
                yield return (suspect, live);
        }
    }

    /// <summary>Whether a fault that is there keeps the machine from its goal often enough to matter.</summary>
    public static bool Keeps(Fault fault, Situation there, BootStage goal) =>
        fault.Engaged(there) * (1 - fault.Mode.Reach[(int)goal]) >= Relevant;

    /// <summary>What is done about a unit in the machine: the mend that helps most for its minutes, or another part in its place.</summary>
    private Decision? DealWith(Suspect suspect, FaultBelief[] live)
    {
        var unit = suspect.Unit;
        var acts = live.GroupBy(b => b.Fault.Act).Select(g => (Change: MendingOf(g.First().Fault), P: g.Sum(b => b.Probability))).ToArray();
        var all = acts.Sum(a => a.P);
        var mends = acts.Where(a => a.P >= WorthMending && a.Change is not null && _now.TryAfter(a.Change, out _, out _))
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
            var target = Repaired(_diagnosis);
            return _now.Now.Equals(target) ? null : Towards(target, AdviceKind.PutRight);
        }

        var condemned = suspect.Standing == Standing.Condemned;
        if (!condemned && _passes && WasTriedAgain(unit) && PassesSince(unit) < PassesPutBack)
            return new Decision(Phase.Prove, AdviceKind.AwaitFailure) { Step = Candidate([]), About = unit };
        var about = new Decision(condemned ? Phase.Repair : Phase.Prove, condemned ? AdviceKind.ReplaceCondemned : AdviceKind.SwapToProve)
        {
            About = unit,
            Probability = suspect.Probability,
        };
        var place = _now.Now.PlaceOf(unit.Id)!.Value;
        foreach (var standIn in StandIns(unit, _now.Now))
        {
            if (!_now.TryAfter(new Change.Swap(unit.Id, standIn.Id), out _, out _))
                continue;
            return about with
            {
                Step = Candidate([
                    .. Candidates.WithDisplay(new Change.Swap(unit.Id, standIn.Id), place, standIn),
                    .. condemned || WhereItActs(suspect.Leading.Fault, _now) is not { } acting ? [] : acting,
                ]),
                StandIn = standIn,
            };
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
        return fault.DealtWith(back.After) || !back.After.TryAfter(mend, out _, out _)
            ? null
            : new Decision(Phase.Repair, AdviceKind.Mend)
            {
                Step = Candidate([.. back.Changes, mend]),
                About = suspect.Unit,
                Probability = suspect.Probability,
            };
    }

    /// <summary>When nothing tells more and it cannot run as it stands: together, without what is likelier at fault than not.</summary>
    public static Decision? Together(BenchDiagnosis diagnosis)
    {
        var closing = new Closing(diagnosis);
        if (closing._passes || Ceiling.Of(closing._now).CanReach(closing._goal))
            return null;
        var target = Repaired(diagnosis, s => s.Probability >= LikelierThanNot);
        return closing.Lacking(target) ?? (closing._now.Now.Equals(target) ? null : closing.Towards(target, AdviceKind.TryTogether));
    }

    /// <summary>The unit back in the place where it was received, everything else as it is; null when that cannot be.</summary>
    private Candidate? PutBack(Unit unit)
    {
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

    private Candidate Candidate(IReadOnlyList<Change> changes) => Candidates.Of(changes, _now, _now.After(changes), _diagnosis.Atlas);

    /// <summary>Parts at hand that can take a unit's place: bought ones first, then the shelf's, then the customer's own.</summary>
    private IEnumerable<Unit> StandIns(Unit unit, Configuration arrangement) =>
        _diagnosis
            .Suspects.Where(s =>
                s.Unit.Kind == unit.Kind
                && s.Unit.Id != unit.Id
                && s.Probability < BenchDiagnosis.Accused
                && !arrangement.Has(s.Unit.Id)
                && !s.Unit.IsAway
                && Safety.WhyNeverAgain(_diagnosis.Job, s.Unit.Id) is null
            )
            .Select(s => s.Unit)
            .OrderByDescending(u => u.Origin == Origin.New)
            .ThenByDescending(u => u.Origin == Origin.Shelf);

    /// <summary>Whether a start with the unit in followed a pass without it.</summary>
    private bool WasTriedAgain(Unit unit)
    {
        var out_ = _diagnosis.Job.Trials.FirstOrDefault(t => t.Passed && !t.Situation.Now.Has(unit.Id));
        return out_ is not null && _diagnosis.Job.Trials.Any(t => t.Position > out_.Position && t.Situation.Now.Has(unit.Id));
    }

    private int PassesSince(Unit unit) => _diagnosis.Job.Trials.Reverse().TakeWhile(t => t.Passed && t.Situation.Now.Has(unit.Id)).Count();
}
