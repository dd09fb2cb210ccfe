using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>
/// Steps that are thought of only where something likely hangs on them: a setting, the machine laid down, a start that is
/// cold, from sleep, a restart or followed by a run under load.
/// </summary>
internal static class Occasions
{
    /// <summary>Chance that a fault is there from which what tells of it alone is thought of.</summary>
    private const double WorthThinkingOf = 0.03;

    /// <summary>How far a fault must come out of play for a step to be thought of on its account.</summary>
    private const double OutOfPlay = 0.3;

    /// <summary>The steps.</summary>
    public static IEnumerable<Candidate> Of(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        var now = job.Now;
        if (job.Trials is not [.., var last] || Safety.WhyNotPowered(job, now) is not null)
            return [];
        Fault[] likely =
        [
            .. diagnosis
                .Faults.Zip(diagnosis.Inference.Marginals)
                .Where(f => f.Second >= WorthThinkingOf && !f.First.DealtWith(now))
                .Select(f => f.First),
        ];
        var runs = last.Seen.ShowsPicture && last.Situation.IsSameAs(now);
        return Settings(diagnosis, likely, runs)
            .Concat(LaidDown(diagnosis, likely))
            .Concat(WithoutItsDrives(diagnosis, likely))
            .Concat(Starts(diagnosis, likely, runs));
    }

    /// <summary>Where more than a picture is asked for and a drive or its cable may be why: without them, from the shop's stick.</summary>
    private static IEnumerable<Candidate> WithoutItsDrives(BenchDiagnosis diagnosis, Fault[] likely)
    {
        var job = diagnosis.Job;
        Change[] changes =
        [
            .. job.Now.Now.At.Where(p => p.Key.Kind == PlaceKind.Storage).Select(p => new Change.Remove(p.Value)),
            new Change.Choose(MachineOption.LiveMedium),
        ];
        return
            job.Goal > BootStage.Picture
            && likely.Any(f => f.Unit.Kind is UnitKind.Storage or UnitKind.DataCable)
            && Candidates.TryAll(job.Now, changes, out var after)
            && Safety.WhyNotPowered(job, after) is null
            ? [Candidates.Of(changes, job.Now, after, diagnosis.Atlas)]
            : [];
    }

    /// <summary>A setting, where the machine shows a picture to change it by: as it stands, and back to the last failure with it.</summary>
    private static IEnumerable<Candidate> Settings(BenchDiagnosis diagnosis, Fault[] likely, bool runs)
    {
        if (!runs)
            yield break;
        var job = diagnosis.Job;
        var back = job.Trials.LastOrDefault(t => t.Failed) is { } failure ? Transition.Between(job.Now, failure.Situation.Now) ?? [] : [];
        foreach (var option in likely.Select(f => Cures.OptionOf(f.Mode.Cure)).OfType<MachineOption>().Distinct())
        {
            var choose = new Change.Choose(option);
            Change[][] ways =
                back.Length > 0
                    ?
                    [
                        [choose],
                        [choose, .. back],
                    ]
                    :
                    [
                        [choose],
                    ];
            foreach (var changes in ways)
            {
                if (Candidates.TryAll(job.Now, changes, out var after) && Safety.WhyNotPowered(job, after) is null)
                    yield return Candidates.Of(changes, job.Now, after, diagnosis.Atlas);
            }
        }
    }

    /// <summary>The machine on its side, or stood up again, where a likely fault comes out of play by it.</summary>
    private static IEnumerable<Candidate> LaidDown(BenchDiagnosis diagnosis, Fault[] likely)
    {
        var now = diagnosis.Job.Now;
        Change lay = new Change.Lay(now.Posture == Posture.Upright ? Posture.OnItsSide : Posture.Upright);
        var after = now.After(lay);
        return likely.Any(f => f.Engaged(now) - f.Engaged(after) >= OutOfPlay) ? [Candidates.Of([lay], now, after, diagnosis.Atlas)] : [];
    }

    /// <summary>Starts of other kinds than the ordinary one: all but the cold one need a machine that runs.</summary>
    private static IEnumerable<Candidate> Starts(BenchDiagnosis diagnosis, Fault[] likely, bool runs)
    {
        var now = diagnosis.Job.Now;
        var work = diagnosis.Atlas.Work;
        if (!likely.Any(f => f.Mode.HangsOnTheStart))
            return [];
        // The same start of the same machine over and over clears nothing more.
        var made = diagnosis.Job.Trials.Reverse().TakeWhile(t => t.Situation.IsSameAs(now)).ToArray();
        var plain = Candidates.Of([], now, now, diagnosis.Atlas);
        return Enum.GetValues<StartKind>()
            .Where(k => k != StartKind.Warm && (runs || k == StartKind.Cold))
            // Where the complaint names its start, no other shows it.
            .Where(k => ShowingStart.Of(diagnosis.Job) is not { } shows || shows == k)
            .Where(k => made.Count(t => t.Entry.Kind == k) < MostOfAKind)
            .Select(k => ShowingStart.Started(plain, k, diagnosis.Job, work));
    }

    /// <summary>Starts of one kind in a row with nothing changed.</summary>
    private const int MostOfAKind = 3;
}
