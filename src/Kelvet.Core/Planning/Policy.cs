using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>
/// The order in which it is asked what to do next: is it safe, was it reproduced, does the next move follow from what is
/// known, can a proof be completed, what does the shop do first, what does its order of work or the weighing say, and what
/// is left when nothing tells more. Bench and simulation ask here. What is weighed is weighed when first asked for.
/// </summary>
internal sealed partial class Policy
{
    /// <summary>From here on completing the proof goes before telling the rest apart.</summary>
    private const double WorthProving = 0.8;

    /// <summary>When nothing tells more, the likeliest unit is dealt with from here on.</summary>
    private const double WorthActingOn = 0.3;

    /// <summary>Minutes that getting a part is taken to cost when it is weighed against steps at hand.</summary>
    private const double PartMinutes = 12;

    /// <summary>A control that takes longer than this is asked for only where it costs less than what it may save: minutes, bench
    /// judgement.</summary>
    private const double CheapControl = 20;

    /// <summary>Starts since the machine first ran without a part after which no more controls are asked for.</summary>
    private const int MostControls = 10;

    /// <summary>Starts in a row with nothing changed that are spent on ruling out luck.</summary>
    private const int MostForLuck = 6;

    /// <summary>The same where each of them is a cold rest or a run: a failure with the part back tells sooner.</summary>
    private const int MostForLuckAtLength = 2;

    /// <summary>Starts in a row of one machine that nothing known keeps down, after which it is no slip any more.</summary>
    private const int MostMisSeen = 3;

    /// <summary>Bench minutes after which it is asked whether going on is worth it: bench judgement, two hours and a half.</summary>
    private const double LongJob = 150;

    /// <summary>It is, while what is unknown would be known within so many minutes more at the rate of the best step.</summary>
    private const double WorthGoingOn = 120;

    /// <summary>Bench minutes, and starts, after which nothing new is begun: it is said that it is not proved. Bench judgement.</summary>
    private const double EndlessJob = 240;
    private const int EndlessStarts = 60;

    /// <summary>A unit that is at fault with more than this is dealt with rather than given up on.</summary>
    private const double LikelierThanNot = 0.5;

    /// <summary>What an act disturbs with at least this chance is looked at before the part is condemned.</summary>
    private const double WorthALook = 0.1;

    /// <summary>How far apart two faults must be in a step for it to tell them apart.</summary>
    private const double Apart = 0.5;

    private readonly BenchDiagnosis _diagnosis;
    private readonly School _school;
    private readonly Preferences _preferences;
    private readonly BenchJob _job;
    private readonly Closing _closing;
    private readonly Lazy<Beliefs> _beliefs;
    private readonly Lazy<(Assessment Assessment, Prospect Prospect)[]> _all;
    private readonly Lazy<(Assessment Assessment, Prospect Prospect)[]> _useful;

    public Policy(BenchDiagnosis diagnosis, School school, Preferences preferences)
    {
        _diagnosis = diagnosis;
        _school = school;
        _preferences = preferences;
        _job = diagnosis.Job;
        _closing = new Closing(diagnosis, preferences);
        _beliefs = new Lazy<Beliefs>(() => new Beliefs(diagnosis));
        _all = new(() => [.. preferences.Allowed(diagnosis, Candidates.From(diagnosis)).Select(Beliefs.Assess)]);
        _useful = new(() =>
            [
                .. _all
                    .Value.Where(a => a.Assessment is { WhyNot: WhyNot.WorthIt, Candidate.Missing: null })
                    .OrderByDescending(a => a.Assessment.Rate),
            ]
        );
    }

    public Beliefs Beliefs => _beliefs.Value;

    /// <summary>Steps at hand that tell something, best first.</summary>
    public ImmutableArray<Assessment> Ranked => [.. _useful.Value.Select(a => a.Assessment)];

    /// <summary>Steps at hand that tell nothing.</summary>
    public ImmutableArray<Assessment> Pointless =>
        [.. _all.Value.Select(a => a.Assessment).Where(a => a.WhyNot != WhyNot.WorthIt && a.Candidate.Missing is null)];

    /// <summary>Steps that would tell something with a part that is not here, best first.</summary>
    public ImmutableArray<Assessment> WithAPart =>
        [
            .. _all
                .Value.Select(a => a.Assessment)
                .Where(a => a.WhyNot == WhyNot.WorthIt && a.Candidate.Missing is not null)
                .OrderByDescending(a => a.Rate),
        ];

    /// <summary>A step weighed, as it was weighed before where it was.</summary>
    public Assessment Weighed(Candidate step) =>
        (_all.IsValueCreated ? _all.Value.Select(a => a.Assessment).FirstOrDefault(a => ReferenceEquals(a.Candidate, step)) : null)
        ?? Beliefs.Assess(step).Assessment;

    public Decision Decide()
    {
        var decision = Decided();
        decision = Restored(CheapFirst(decision) ?? decision);
        return decision is { Phase: not Phase.MakeSafe, Step: { } step }
            ? decision with
            {
                Step = ShowingStart.With(step, _job, _diagnosis.Atlas.Work),
            }
            : decision;
    }

    private Decision Decided() =>
        MakingSafe()
        ?? Reproducing()
        ?? MendingWhatWasFound()
        ?? Controlling()
        ?? _closing.Next()
        ?? Proving()
        ?? HouseFirst()
        ?? Narrowing()
        ?? WhenNothingTells();

    /// <summary>Starts of the kind that is complained of in which it is tried to make it fail, before the rest is weighed.</summary>
    private const int MostToMakeItFail = 3;

    private Decision? Reproducing()
    {
        if (_job.Trials is not [.., var last])
            return new Decision(Phase.Reproduce, AdviceKind.LookThenStart);
        // What cannot be made to fail is neither searched for nor proved.
        return
            ShowingStart.Of(_job) is { } kind
            && !_job.Trials.Any(t => t.Failed)
            && (kind == StartKind.Cold || last.Seen.ShowsPicture)
            && _job.Trials.Count(t => t.Entry.Kind == kind) < MostToMakeItFail
            ? new Decision(Phase.Narrow, AdviceKind.MakeItFail) { Step = Candidates.Of([], _job.Now, _job.Now, _diagnosis.Atlas) }
            : null;
    }

    /// <summary>
    /// Before a part is condemned: a step that tells it from what else the log allows, where one is cheap against the price of
    /// being wrong.
    /// </summary>
    private Decision? Controlling()
    {
        if (IsEndless)
            return null;
        foreach (var suspect in _diagnosis.Suspects.Where(s => s.Probability >= Closing.EnoughWhenOut))
        {
            if (
                suspect.Leading.Fault.Act.Cure != Cure.Replace
                || suspect.Unit.Origin != Origin.Customer
                || Safety.WhyNeverAgain(_job, suspect.Unit.Id) is not null
                || SinceItRanWithout(suspect.Unit.Id) is 0 or > MostControls
            )
                continue;
            if (LookingAtWhatWasDisturbed(suspect) is { } look)
                return look;
            var rivals = _diagnosis.RivalsOf(suspect.Unit.Id);
            if (rivals.IsEmpty)
                continue;
            if (rivals.All(r => r.ByChance))
            {
                // Luck: a clean start without the part makes it less likely, and so does a failure with it. What mostly acts is told by
                // the one, what seldom does by the other.
                var there = _job.Now.Now.Has(suspect.Unit.Id);
                if (
                    _job.Trials[^1].Passed != there
                    && SameStarts() < MostRuns
                    && rivals.FirstOrDefault(r => EndsStarts(r.Fault, ShowingStart.Of(_job)) && r.Rate is { } rate && rate < Apart == there)
                        is { } lucky
                )
                    return Control(suspect, lucky, Candidates.Of([], _job.Now, _job.Now, _diagnosis.Atlas));
                continue;
            }

            var open = rivals.Where(r => !r.ByChance).ToArray();
            var atStake = _preferences.CostOfBeingWrong(suspect.Unit.Kind, _diagnosis.Atlas);
            var control = _all
                .Value.Select(a => a.Assessment.Candidate)
                .Append(Candidates.Of([], _job.Now, _job.Now, _diagnosis.Atlas))
                .Where(c => c.Missing is null && IsNewAndClean(c, suspect))
                .Select(c => (Step: c, Rivals: open.Where(r => Tells(c, suspect, r)).ToArray()))
                .Select(c => (c.Step, c.Rivals, Told: c.Rivals.Sum(r => _diagnosis.Inference.Marginals[r.Index])))
                .Where(c => c.Told > 0 && (c.Step.Weighed <= CheapControl || _preferences.CostOf(c.Step.Weighed) <= c.Told * atStake))
                .ToArray();
            if (control.Length > 0)
            {
                var most = control.Max(c => c.Told);
                var (step, told, _) = control.Where(c => c.Told >= most / 2).MinBy(c => c.Step.Weighed);
                return Control(suspect, told.MaxBy(r => _diagnosis.Inference.Marginals[r.Index])!, step);
            }
        }

        return null;

        int SinceItRanWithout(UnitId unit) => _job.Trials.SkipWhile(t => !t.Passed || t.Situation.Now.Has(unit)).Count();

        static Decision Control(Suspect suspect, Rival rival, Candidate step) =>
            new(Phase.Prove, AdviceKind.Control)
            {
                Step = step,
                About = suspect.Unit,
                Fault = rival.Fault,
                Probability = suspect.Probability,
            };
    }

    /// <summary>
    /// What hands lean on or take off when a part is swapped: a plug or seat there may have been cured or put out by that, and
    /// not by the part. It is looked at once before the part is condemned.
    /// </summary>
    private Decision? LookingAtWhatWasDisturbed(Suspect suspect)
    {
        foreach (var mode in _diagnosis.Atlas.Modes.Where(m => m.DisturbedBy.GetValueOrDefault(suspect.Unit.Kind) >= WorthALook))
        {
            var fault = _diagnosis.Faults.FirstOrDefault(f =>
                f.Mode.Id == mode.Id
                && f.Hands == ByHands.LeftAlone
                && f.Unit.Origin == Origin.Customer
                && f.Unit.Id != suspect.Unit.Id
                && _job.Now.Now.Has(f.Unit.Id)
            );
            if (
                fault is null
                || fault.DealtWith(_job.Now)
                || _diagnosis.Atlas.Checks.FirstOrDefault(c => IsLook(c, fault)) is not { } check
            )
                continue;
            if (_job.Testimonies.Any(t => t.Entry is FindingEntry f && f.Check == check.Id))
                continue;
            return new Decision(Phase.Prove, AdviceKind.Control)
            {
                Step = Candidates.Looking(check, fault.Unit, _job.Now, _diagnosis.Atlas),
                About = suspect.Unit,
                Fault = fault,
                Probability = suspect.Probability,
            };
        }

        return null;

        static bool IsLook(Check check, Fault fault) =>
            !check.Powered
            && check.On == fault.Unit.Kind
            && check.Shows.GetValueOrDefault(fault.Mode.Id) >= Apart
            && check.Minutes.Value <= 2;
    }

    /// <summary>Whether a step comes out otherwise with the suspect's fault than with a rival's.</summary>
    private bool Tells(Candidate step, Suspect suspect, Rival rival)
    {
        if (step.Check is { } check)
        {
            var own = EvidenceColumn.Sensitivity(suspect.Leading.Fault, check, step.Checked!.Id, step.After);
            return Math.Abs(own - EvidenceColumn.Sensitivity(rival.Fault, check, step.Checked.Id, step.After)) >= Apart;
        }

        // A change that is nothing to either of them only makes one more start of it.
        return Ceiling.Of(step.After).Stage >= _job.Goal
            && EndsStarts(rival.Fault, step.Kind)
            && Math.Abs(AtWork(suspect.Leading.Fault, step.After) - AtWork(rival.Fault, step.After)) >= Apart
            && (step.Changes.Length == 0 || Bears(suspect.Leading.Fault) || Bears(rival.Fault));

        bool Bears(Fault fault) => Math.Abs(AtWork(fault, step.After) - AtWork(fault, _job.Now)) >= Apart;
    }

    /// <summary>Whether it acts at such a start, and mostly keeps the machine from its goal while it does: no such start tells of
    /// what does not.</summary>
    private bool EndsStarts(Fault fault, StartKind? kind) => fault.Mode.ActsAt(kind) >= Apart && fault.Mode.Reach[(int)_job.Goal] < Apart;

    /// <summary>How far a fault is in play, 0 to 1, against where it is most: how often it then acts is another matter.</summary>
    private static double AtWork(Fault fault, Situation there) => fault.Mode.Most > 0 ? fault.Engaged(there) / fault.Mode.Most : 0;

    /// <summary>Whether a start so was not made yet, and nothing else that is known to be wrong acts in it.</summary>
    private bool IsNewAndClean(Candidate step, Suspect suspect) =>
        step.Check is not null
        || (
            (step.Changes.Length == 0 ? SameStarts() < MostRuns : !_job.Trials.Any(t => t.Situation.IsSameAs(step.After)))
            && !_diagnosis.Suspects.Any(s =>
                s.Probability >= Closing.EnoughWhenOut
                && s.Unit.Id != suspect.Unit.Id
                && s.Leading.Fault.Engaged(step.After) >= Apart
                && Closing.Keeps(s.Leading.Fault, step.After, _job.Goal)
            )
        );

    private bool IsEndless => _job.Trials.Length >= EndlessStarts || Effort.Minutes(_job, _diagnosis.Atlas) >= EndlessJob;

    private int MostRuns => ShowingStart.Of(_job) is StartKind.Cold or StartKind.Load ? MostForLuckAtLength : MostForLuck;

    private int SameStarts() => _job.Trials.Reverse().TakeWhile(t => t.Situation.IsSameAs(_job.Now)).Count();

    private Decision? Proving()
    {
        // What mostly lets it come up is not waited for, nor what passed often enough since it went back.
        var open = _diagnosis.Suspects.Where(s =>
            s.Probability >= WorthProving
            && !_closing.IsSettled(s)
            && EndsStarts(s.Leading.Fault, ShowingStart.Of(_job))
            && !_closing.PassedOftenSincePutBack(s.Unit)
        );
        foreach (var suspect in open)
        {
            if (Ranked.Where(a => a.Proves?.Id == suspect.Unit.Id).MinBy(a => a.Candidate.Weighed) is not { } step)
                continue;
            return new Decision(Phase.Prove, AdviceKind.CompleteProof)
            {
                Step = step.Candidate,
                About = suspect.Unit,
                Probability = suspect.Probability,
            };
        }

        return null;
    }

    private Decision? HouseFirst() =>
        _preferences.First(_diagnosis, _all.Value.Select(a => a.Assessment)) is { } preferred
            ? new Decision(Phase.Narrow, AdviceKind.HouseFirst) { Step = preferred.Candidate }
            : null;

    private Decision? Narrowing() => _school.WeighsEverything ? Weighing() : Following();

    private Decision? Weighing()
    {
        var useful = _useful.Value;
        var best = Beliefs.Choice.Best(
            [.. useful.Select(a => a.Prospect)],
            [.. useful.Select(a => a.Assessment.Gain)],
            [.. useful.Select(a => Beliefs.Penalty(a.Assessment))]
        );
        if (best < 0)
            return null;
        var next = useful[best].Assessment;
        var uncertain =
            Effort.Minutes(_job, _diagnosis.Atlas) >= LongJob && Beliefs.Choice.Uncertainty / Math.Max(1e-6, next.Rate) > WorthGoingOn;
        if (IsEndless && _closing.Accepting() is { } accepted)
            return accepted;
        if ((uncertain || IsEndless) && _closing.Accepting() is null)
            return _closing.AgainstTheLikeliest(LikelierThanNot) ?? new Decision(Phase.Stuck, AdviceKind.NotProved);
        return WithAPart is [var wanted, ..] && wanted.Gain / (wanted.Candidate.Weighed + PartMinutes) > next.Rate
            ? new Decision(Phase.Stuck, AdviceKind.PartTellsMore) { Missing = wanted.Candidate.Missing, WithAPart = wanted.Candidate }
            : new Decision(Phase.Narrow, AdviceKind.TellsMost) { Step = next.Candidate };
    }

    private Decision? Following()
    {
        var telling = Ranked.Select(a => a.Candidate).ToHashSet();
        var next = _school.Next(_job, telling, telling.Contains) ?? Ranked.FirstOrDefault()?.Candidate;
        return next is null ? null : new Decision(Phase.Narrow, AdviceKind.NextOfSchool) { Step = next };
    }

    private Decision WhenNothingTells()
    {
        if (WithAPart is [var wanted, ..])
            return new Decision(Phase.Stuck, AdviceKind.OnlyAPartTells)
            {
                Missing = wanted.Candidate.Missing,
                WithAPart = wanted.Candidate,
            };
        if (_closing.AgainstTheLikeliest(WorthActingOn) is { } move)
            return move;
        if (_closing.Together() is { } together)
            return together;
        if (_closing.Accepting() is { } accepted)
            return accepted;
        return
            !_job.Trials[^1].Passed
            && Ceiling.Of(_job.Now).CanReach(_job.Goal)
            && _job.Trials.Reverse().TakeWhile(t => !t.Passed && t.Situation.IsSameAs(_job.Now)).Count() < MostMisSeen
            && Closing.StillThere(_diagnosis, _job.Now.Now) < Closing.WorthTryingTogether
            ? new Decision(Phase.ProveRuns, AdviceKind.MisSeen) { Step = Candidates.Of([], _job.Now, _job.Now, _diagnosis.Atlas) }
            : new Decision(Phase.Stuck, AdviceKind.NothingTells);
    }
}
