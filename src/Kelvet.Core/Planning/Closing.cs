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

    /// <summary>Clean starts of a machine that never failed on the bench, after which the complaint counts as not reproduced: what acts
    /// in one start of six shows in five of six machines. Bench judgement.</summary>
    private const int CleanWithoutAFailure = 10;

    /// <summary>The same of cold rests and runs, which take half an hour each.</summary>
    private const int CleanAtLength = 5;

    /// <summary>Minutes that a look over the machine takes at most for one part of it.</summary>
    private const double Glance = 1;

    /// <summary>Clean starts of the machine as it goes out that are made in any case while anything may be left.</summary>
    private const int LeastClean = 3;

    /// <summary>Chance of a fault that is still there below which the machine is put back together to be tried whole.</summary>
    public const double WorthTryingTogether = 0.35;

    /// <summary>A fault that bites less often than this is not what a machine without a picture is searched for.</summary>
    private const double Relevant = 0.08;

    /// <summary>An act that helps less often than this is not tried for its own sake.</summary>
    public const double WorthMending = 0.05;

    /// <summary>Share of a unit's case that replacing alone deals with, from which mending is not tried first.</summary>
    private const double PlainlyReplace = 0.8;

    /// <summary>A unit that is out while the machine runs is put back for the proof from here on.</summary>
    public const double EnoughWhenOut = 0.8;

    /// <summary>What a part may have that is not the part, such as a bent pin, is looked for from here on before it is put back at a
    /// price: the look is often made on the bench beside it.</summary>
    private const double WorthLookingFor = 0.02;

    /// <summary>A unit that is out, and at fault with more than this, stays out when nothing tells more.</summary>
    private const double LikelierThanNot = 0.5;

    /// <summary>A part put back that passes so often in a row is taken out again, the proof left one-way.</summary>
    private const int PassesPutBack = 3;

    private readonly BenchDiagnosis _diagnosis;
    private readonly Situation _now;
    private readonly bool _passes;
    private readonly BootStage _goal;

    private readonly Preferences _preferences;

    /// <param name="diagnosis">The log so far; at least one trial.</param>
    /// <param name="preferences">What the shop's hour, a part and a machine that comes back cost.</param>
    public Closing(BenchDiagnosis diagnosis, Preferences preferences)
    {
        _diagnosis = diagnosis;
        _preferences = preferences;
        _now = diagnosis.Job.Now;
        _goal = diagnosis.Job.Goal;
        _passes = diagnosis.Job.Trials is [.., { Passed: true }];
    }

    /// <summary>The move against the likeliest unit, certain or not, for when nothing left tells it from the others.</summary>
    /// <param name="least">Probability, 0 to 1, below which nothing is done.</param>
    public Decision? AgainstTheLikeliest(double least)
    {
        foreach (var (suspect, live) in Accused(least))
        {
            if (_now.Now.Has(suspect.Unit.Id) && DealWith(suspect, live) is { } move)
                return move;
        }

        return null;
    }

    /// <summary>The move that follows from what is known; null when there is something to find out first.</summary>
    public Decision? Next()
    {
        foreach (var (suspect, live) in Accused(EnoughWhenOut))
        {
            if (_now.Now.Has(suspect.Unit.Id))
            {
                if (live.Sum(b => b.Probability) >= BenchDiagnosis.Certain && DealWith(suspect, live) is { } move)
                    return move;
            }
            else if (_passes && Flashing(suspect, live) is { } flashed)
            {
                return flashed;
            }
            else if (_passes && MendedBack(suspect, live) is { } mended)
            {
                return mended;
            }
            else if (_passes && !IsSettled(suspect) && PutBack(suspect.Unit) is { } back)
            {
                return LookingInsteadOfProving(suspect)
                    ?? new Decision(Phase.Prove, AdviceKind.PutBackToProve)
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
            var without = Repaired(s => s.Probability >= EnoughWhenOut);
            var known =
                StillThere(_diagnosis, without) < WorthTryingTogether / 2
                && (!Ceiling.Of(_now).CanReach(_goal) || (!_now.Now.Equals(without) && StillThere(_diagnosis, _now.Now) > 0.5));
            return !known ? null : Lacking(without) ?? (_now.Now.Equals(without) ? null : Towards(without, AdviceKind.TryTogether));
        }

        var target = Repaired();
        if (target.At.Keys.All(p => p.Kind != PlaceKind.Memory) && _now.Sticks.Length > 0)
            return new Decision(Phase.Order, AdviceKind.GetSticks) { Missing = Candidates.Replacement(_now.Sticks[0].Stick, _now.Parts) };

        var left = StillThere(_diagnosis, target);
        if (left >= WorthTryingTogether)
            return null;
        if (Lacking(target) is { } lacking)
            return lacking;
        if (!_now.Now.Equals(target))
            return Towards(target, AdviceKind.PutRestBack);
        var enough = ShowingStart.Of(_diagnosis.Job) is StartKind.Cold or StartKind.Load ? CleanAtLength : CleanWithoutAFailure;
        var never =
            _diagnosis.Job.Trials.All(t => t.Passed) && !_diagnosis.Job.Testimonies.Any(t => t.Entry is FindingEntry { Found: true });
        if (never && CleanNow >= enough)
            return LookedOver() ?? new Decision(Phase.Done, AdviceKind.NotReproduced) { Probability = left };
        // What never failed here is not done by passing: it is given back as not reproduced, or goes on.
        return left >= StillLikely && (never || CleanNow < LeastClean || WouldFail(_diagnosis, _now) >= WorthOfAStart)
            ? new Decision(Phase.ProveRuns, AdviceKind.StartOnceMore)
            {
                Step = Candidate([]),
                Probability = left,
                Empty = Empty,
                More = never ? enough - CleanNow : StillNeeded(),
            }
            : new Decision(Phase.Done, AdviceKind.Done) { Probability = left, Empty = Empty };
    }

    /// <summary>The chance to fail at which the start that shows the complaint is worth what it takes: a cold rest more than a
    /// minute.</summary>
    private double WorthOfAStart =>
        WorthAStart * ShowingStart.With(Candidate([]), _diagnosis.Job, _diagnosis.Atlas.Work).Weighed / Candidate([]).Weighed;

    /// <summary>Before a machine that never failed here is given back it is looked over, part by part: null where that was done.</summary>
    private Decision? LookedOver()
    {
        var made = _diagnosis.Job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().Select(f => (f.Check, f.Unit)).ToHashSet();
        var looks =
            from check in _diagnosis.Atlas.Checks
            where check is { InVisit: true, Powered: false } && check.Minutes.Value <= Glance
            from id in _now.Now.At.Values
            where _now.Parts[id].Kind == check.On && _now.Parts[id].Origin == Origin.Customer && !made.Contains((check.Id, id))
            select (Check: check, Unit: _now.Parts[id], Shows: Shows(check, id));
        var (look, unit, shows) = looks.DefaultIfEmpty().MaxBy(l => l.Shows);
        return shows < WorthAGlance
            ? null
            : new Decision(Phase.ProveRuns, AdviceKind.LookBeforeGivingBack)
            {
                Step = Candidates.Looking(look, unit, _now, _diagnosis.Atlas),
                About = unit,
            };

        double Shows(Check check, UnitId unit) =>
            _diagnosis
                .Faults.Zip(_diagnosis.Inference.Marginals)
                .Sum(f => f.Second * EvidenceColumn.Sensitivity(f.First, check, unit, _now));
    }

    /// <summary>Chance that a glance finds something from which on it is worth its half minute. Bench judgement.</summary>
    private const double WorthAGlance = 0.003;

    /// <summary>Clean starts are foreseen up to so many.</summary>
    public const int MostForeseen = 20;

    /// <summary>
    /// How many clean starts in a row are still needed, this one counted: each weighs every explanation by its chance of
    /// passing, until a further one would fail with less than half a percent.
    /// </summary>
    private int StillNeeded()
    {
        var table = _diagnosis.Inference.Table;
        var kind = ShowingStart.Of(_diagnosis.Job);
        var engaged = table.Engaged(table.ByRule(_now, kind), kind);
        double[] weight = [.. _diagnosis.Hypotheses.Select(h => h.Probability)];
        double[] passes = [.. _diagnosis.Hypotheses.Select(h => Passes(_diagnosis, h, engaged))];
        for (var n = 1; n < MostForeseen; n++)
        {
            for (var h = 0; h < weight.Length; h++)
                weight[h] *= TrialModel.Seen(passes[h], 0, StageRange.AtLeast(_goal), _diagnosis.Atlas.Slip);
            var fails = weight.Zip(passes, (w, p) => w * (1 - p)).Sum() / weight.Sum();
            if (CleanNow + n >= LeastClean && fails < WorthOfAStart)
                return n;
        }

        return MostForeseen;
    }

    private static double Passes(BenchDiagnosis diagnosis, Hypothesis h, double[] engaged)
    {
        var table = diagnosis.Inference.Table;
        var through = 1.0;
        foreach (var f in h.Forms)
            through *= TrialModel.Past(engaged[f], table.Forms[f].Shows is null ? table.Forms[f].Reach[(int)diagnosis.Job.Goal] : 0);
        return through;
    }

    private int CleanNow => Intermittence.CleanNow(_diagnosis.Job);

    /// <summary>Chance that the machine, started as it stands, would not reach its goal because of a fault that is known to
    /// the atlas.</summary>
    public static double WouldFail(BenchDiagnosis diagnosis, Situation there)
    {
        var table = diagnosis.Inference.Table;
        var kind = ShowingStart.Of(diagnosis.Job);
        var engaged = table.Engaged(table.ByRule(there, kind), kind);
        double fails = 0,
            all = 0;
        foreach (var h in diagnosis.Hypotheses)
        {
            all += h.Probability;
            fails += h.Probability * (1 - Passes(diagnosis, h, engaged));
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
    private static UnitId[] GoesWith(Suspect suspect, BenchJob job)
    {
        var (unit, fault) = (suspect.Unit.Id, suspect.Leading.Fault);
        if (fault.Mode.On != FaultSite.MemoryKit)
            return [unit];
        var sticks = job.Intake.Received.At.Where(p => job.Now.Parts[p.Value] is MemoryStick).ToArray();
        var alone = sticks.Where(p => p.Value != unit).Aggregate(job.Intake.Received, (machine, p) => machine.WithUnit(p.Key, null));
        // What acts with one stick as well as with all says nothing against one that never failed without the suspect.
        var withAny = fault.Engaged(job.Now.BackIn(alone)) > 0;
        return
        [
            .. sticks
                .Select(p => p.Value)
                .Where(id =>
                    id == unit || !withAny || job.Trials.Any(t => t.Failed && t.Situation.Now.Has(id) && !t.Situation.Now.Has(unit))
                ),
        ];
    }

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

    /// <summary>When nothing tells more and it cannot run as it stands: together, without what is likelier at fault than not.</summary>
    public Decision? Together()
    {
        if (_passes || Ceiling.Of(_now).CanReach(_goal))
            return null;
        var target = Repaired(s => s.Probability >= LikelierThanNot);
        return Lacking(target) ?? (_now.Now.Equals(target) ? null : Towards(target, AdviceKind.TryTogether));
    }

    private Candidate Candidate(IReadOnlyList<Change> changes) => Candidates.Of(changes, _now, _now.After(changes), _diagnosis.Atlas);
}
