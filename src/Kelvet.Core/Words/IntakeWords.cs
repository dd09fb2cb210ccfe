using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>A unit that the customer's answers made likelier or less likely.</summary>
/// <param name="Unit">The unit.</param>
/// <param name="Without">Its probability without the answers.</param>
/// <param name="With">Its probability with them.</param>
/// <param name="Because">Names of the answers that moved it so.</param>
public sealed record Moved(Unit Unit, double Without, double With, IReadOnlyList<string> Because);

/// <summary>What was told at the counter, in words: what to mind, what it says of the suspects, what "works" will mean.</summary>
public static class IntakeWords
{
    /// <summary>What to do, and why.</summary>
    public static string Words(this Triage triage) =>
        triage switch
        {
            Triage.SupplyTripped =>
                "Do not power its supply again, in this machine or another: it tripped a breaker. Work with a shop supply.",
            Triage.SupplyBurnt => "Do not power its supply again: it smelt or burnt. Look the board over and record that before any start.",
            Triage.DryFirst => "Do not power it. Lead out, coin cell out, board out, dry it, and record the look for damp.",
            Triage.CoolerFirst => "Do not power it: there is no cooler on the CPU.",
            Triage.PutRightFirst => "Put right what does not fit together before the first start.",
            Triage.CleanFirst => "Drain it, clean heavy dust first (off, cold, fans held still, outside or with a mask), then look.",
            Triage.Electrician =>
                "Tell the customer: do not use that outlet or strip until a licensed electrician has checked it, by the local code.",
            Triage.BringTheRest => "Ask for their mains lead, strip, monitor and video cable: the fault may sit outside the machine.",
            _ => "Ask whether the data are backed up; offer a copy before work that touches the drive. No looking at files.",
        };

    /// <summary>Whether it keeps the machine, or its supply, from being powered.</summary>
    public static bool Stops(this Triage triage) =>
        triage is Triage.SupplyTripped or Triage.SupplyBurnt or Triage.DryFirst or Triage.CoolerFirst;

    /// <summary>What the machine is complained of, when and how often: "no picture, 3 of 10 times; since a storm". Empty where nothing was
    /// told.</summary>
    public static string ComplaintWords(this Intake intake)
    {
        var complaint = intake.Complaint;
        string?[] told =
        [
            intake.Reported?.Words(),
            complaint.Then is { } then ? SignKinds.Ended.Say(then) : null,
            complaint.Picture is { } spoilt ? $"stripes or blocks {SignKinds.Artefacts.Say(spoilt)}" : null,
            complaint.When?.AsTold(),
            complaint.Minutes is { } minutes ? $"after {minutes:0.#} min" : null,
            intake.ReportedTimes is { } times ? $"{times.Failed} of {times.Of} times" : null,
            complaint.Since.Length > 0 ? $"since {complaint.Since}" : null,
        ];
        return string.Join(", ", told.Where(t => t is not null));
    }

    /// <summary>When it happens, as it is told: "only from cold".</summary>
    public static string AsTold(this StartKind kind) =>
        kind switch
        {
            StartKind.Cold => "only from cold",
            StartKind.Warm => "only while warm",
            StartKind.Restart => "after a restart",
            StartKind.Wake => "on waking from sleep",
            _ => "under load",
        };

    /// <summary>What "works" will mean when this job is done.</summary>
    public static string GoalWords(this BenchJob job)
    {
        var complaint = job.Intake.Complaint;
        var what = job.Goal switch
        {
            BootStage.Stable => complaint.When switch
            {
                StartKind.Load => $"it holds {(complaint.Minutes is { } m ? $"{Math.Max(30, 2 * m):0} min" : "30 min")} under load",
                StartKind.Wake => "it wakes from sleep with a picture, again and again",
                _ when complaint.Minutes is { } m => $"it runs {Math.Max(30, 2 * m):0} min without ending so",
                _ => "it holds under load and over repeated starts",
            },
            BootStage.OsLoads => "the system comes up",
            _ => complaint.Picture is null ? "it shows a picture" : "it shows a clean picture",
        };
        var how = complaint.When switch
        {
            StartKind.Cold => ", from cold",
            StartKind.Warm => ", while warm",
            StartKind.Restart => ", after a restart",
            _ => "",
        };
        var often =
            job.Intake.ReportedTimes is { } t && t.Of > t.Failed
                ? $"{CleanStarts.Needed(t.Failed, t.Of)} clean starts in a row, since it failed {t.Failed} of {t.Of}"
                : "at three starts in a row";
        return $"\"Works\" will mean: {what}{how}, {often}.";
    }

    /// <summary>The units that the contexts of the intake moved, most moved first; nothing after the first start.</summary>
    public static IReadOnlyList<Moved> AnswersMoved(BenchJob job, Atlas atlas)
    {
        if (job.Intake.Contexts.Length == 0)
            return [];
        var with = BenchDiagnosis.Of(BenchJob.Open(job.Intake), atlas);
        var without = BenchDiagnosis.Of(BenchJob.Open(job.Intake with { Contexts = [] }), atlas);
        return
        [
            .. with
                .Suspects.Select(s => new Moved(s.Unit, without[s.Unit.Id].Probability, s.Probability, Because(s, job, atlas)))
                .Where(m => Math.Abs(m.With - m.Without) >= 0.02 && Ratio(m) is > 1.25 or < 0.8)
                .OrderByDescending(m => Math.Abs(m.With - m.Without))
                .Take(6),
        ];

        static double Ratio(Moved m) => m.With / Math.Max(1e-9, m.Without);
    }

    /// <summary>A unit that was moved, as a sentence.</summary>
    public static string Words(this Moved moved, Situation machine)
    {
        var it = machine.The(moved.Unit);
        var because = moved.Because.Count > 0 ? $": {string.Join("; ", moved.Because)}" : "";
        var (now, was) = (CaseWords.Likelihood(moved.With), CaseWords.Likelihood(moved.Without));
        var how = (moved.With / Math.Max(1e-9, moved.Without)) switch
        {
            >= 2.5 => "several times as likely",
            >= 1.7 => "about twice as likely",
            > 1 => "somewhat likelier",
            > 0.6 => "somewhat less likely",
            _ => "much less likely",
        };
        return $"{char.ToUpperInvariant(it[0])}{it[1..]} is {how} by what was told ({(now == was ? now : $"{now}, was {was}")}){because}.";
    }

    /// <summary>How a start compares with what was told.</summary>
    public static string Words(this Likeness likeness) =>
        likeness switch
        {
            Likeness.Same => "The same as told.",
            Likeness.EndsOtherwise => "As far as told, and it does something else then: ask again, or it is a second fault.",
            Likeness.StopsEarlier => "Not as told: it stops earlier. Transport, your own set-up, or the fault has grown.",
            Likeness.GetsFurther => "Not as told: it gets further. The fault comes and goes, or the picture was on another output.",
            _ => "It works here.",
        };

    /// <summary>The same in a few words, for the row of what was just recorded.</summary>
    public static string Brief(this Likeness likeness) =>
        likeness switch
        {
            Likeness.Same => "As told.",
            Likeness.EndsOtherwise => "Ends otherwise.",
            Likeness.StopsEarlier => "Earlier than told.",
            Likeness.GetsFurther => "Further than told.",
            _ => "It works here.",
        };

    /// <summary>A point of the set-up.</summary>
    public static string Words(this SetUpPoint point) =>
        point switch
        {
            SetUpPoint.Lead => "Known-good mains lead, in an outlet that works",
            SetUpPoint.RearSwitch => "Rear switch of the supply on",
            SetUpPoint.StandbyLight => "Standby light seen, before start is pressed",
            SetUpPoint.VideoCable => "Known-good video cable, on the output that it is drawn on",
            SetUpPoint.MonitorInput => "Monitor on, set to that input",
            _ => "Keyboard plugged in, its lights seen",
        };

    /// <summary>How sure a customer is.</summary>
    public static string Words(this Sureness sure) =>
        sure switch
        {
            Sureness.Certain => "saw it more than once",
            Sureness.Doubtful => "not sure, or heard it said",
            _ => "thinks so",
        };

    private static IReadOnlyList<string> Because(Suspect suspect, BenchJob job, Atlas atlas)
    {
        var leading = suspect.Leading.Fault.Mode;
        return
        [
            .. atlas.Contexts.Where(c => job.Intake.Contexts.Contains(c.Id) && c.Factor(leading) is > 1.2 or < 0.85).Select(c => c.Name),
        ];
    }
}
