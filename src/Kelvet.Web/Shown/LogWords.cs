using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;

namespace Kelvet.Web.Shown;

/// <summary>Lines of the log and pieces of evidence in words.</summary>
public static class LogWords
{
    /// <summary>A line as it is read in the log.</summary>
    public static string Of(BenchJob job, Entry entry) => Said(job, entry) + (entry.Live.Length > 0 ? $" Done live: {entry.Live}" : "");

    private static string Said(BenchJob job, Entry entry) =>
        entry switch
        {
            TrialEntry t => $"{(t.Changes.Length > 0 ? Text.Capital(Changes(job, t.Changes)) + ". " : "")}Started: {Seen(t)}.",
            WorkEntry w => $"{Text.Capital(Changes(job, w.Changes))}. Not started.",
            FindingEntry f =>
                $"{Text.Capital(Check(job, f))}: {(f.Found ? Atlas.Standard.Check(f.Check)?.Found ?? "found" : "nothing found")}.",
            ClaimEntry c => $"The customer tells: {(c.Changes.Length > 0 ? Changes(job, c.Changes) : "as it came in")}, {c.Seen.Words()}.",
            ElsewhereEntry e => $"{Name(job, e.Unit)} in another, known-good machine: {(e.Worked ? "it ran" : "it did not run")}.",
            ArrivalEntry a => $"{a.Unit.Name} came to the bench ({a.Unit.Origin.Words()}).",
            StrikeEntry k =>
                $"Struck line {NumberOf(job, k.Struck)}{string.Concat(k.Also.Select(a => $", {NumberOf(job, a)}"))}: {k.Reason}",
            InsertEntry i => $"Forgotten in front of line {NumberOf(job, i.Before)}: {Of(job, i.Line)} ({i.Reason})",
            _ => "",
        };

    /// <summary>What was done, for a piece of evidence.</summary>
    public static string Done(BenchJob job, EvidencePiece evidence) =>
        evidence switch
        {
            { Trial: { } t } => t.Changes.Length == 0 ? "no change" : Changes(job, t.Changes),
            { Testimony.Entry: FindingEntry f } => Check(job, f),
            { Testimony.Entry: { } other } => Of(job, other),
            _ => "as the customer tells it",
        };

    /// <summary>What was seen, for a piece of evidence.</summary>
    public static string Shown(BenchJob job, EvidencePiece evidence) =>
        evidence switch
        {
            { Trial: { } t } => Seen(t.Entry),
            { Testimony.Entry: FindingEntry f } => f.Found ? "found" : "nothing found",
            { Testimony: not null } => "",
            _ => job.Intake.Reported?.Words() ?? "",
        };

    /// <summary>The domain's name for people.</summary>
    public static string Domain(StallDomain domain) =>
        domain switch
        {
            StallDomain.Cpu => "CPU",
            StallDomain.None => "no fault shown",
            _ => domain.ToString().ToLowerInvariant(),
        };

    private static int NumberOf(BenchJob job, Guid id) => job.Lines.First(l => l.Written.Id == id).Number;

    private static string Seen(TrialEntry t) =>
        t.Reached.Words()
        + (t.Stall is { } s ? $"; lights or code pointed at {Domain(s.Pointed)}" : "")
        + t.Button switch
        {
            ButtonTest.Orderly => "; orderly stop on the power button",
            ButtonTest.NoResponse => "; the power button did nothing",
            _ => "",
        }
        + string.Concat(Signs(t.Signs).Select(sign => $"; {sign}"));

    private static IEnumerable<string> Signs(Signs signs)
    {
        if (signs.Code.Length > 0)
            yield return $"code {signs.Code}"
                + signs.Motion switch
                {
                    CodeMotion.Passing => ", still changing",
                    CodeMotion.Cycling => ", round and round",
                    _ => "",
                };
        if (signs.Codes.Contains(' '))
            yield return $"codes {signs.Codes}";
        if (signs.Lights.Length > 0)
            yield return $"lights {signs.Lights}";
        if (signs.Beeps.Length > 0)
            yield return $"beeps {signs.Beeps}{(signs.BeepsSure < 1 ? $" ({100 * signs.BeepsSure:0} % sure)" : "")}";
        if (signs.Alarm is { } alarm)
            yield return Alarm(alarm);
        if (signs.Fans is { } fans)
            yield return $"fans {Fans(fans)}";
        if (signs.CardFans is { } card)
            yield return $"card's fans {Fans(card)}";
        if (signs.Waited is { } waited)
            yield return $"waited {waited} s";
        if (signs.Temperature is { } degrees)
            yield return $"CPU {degrees:0.#} °C";
        if (signs.MemorySeen is { } memory)
            yield return $"{memory} GB of memory seen";
        if (signs.Artefacts is { } spoilt)
            yield return $"stripes or blocks {Artefacts(spoilt)}";
    }

    /// <summary>Since when a picture is spoilt, for people.</summary>
    public static string Artefacts(Artefacts artefacts) =>
        artefacts == Core.Observed.Artefacts.FromTheLogo ? "from the logo on" : "once the system runs";

    /// <summary>What was smelt, heard or tripped, for people.</summary>
    public static string Alarm(Alarm alarm) =>
        alarm switch
        {
            Core.Observed.Alarm.Smell => "it smelt burnt",
            Core.Observed.Alarm.Burnt => "it smoked, sparked or crackled",
            _ => "it tripped the breaker",
        };

    /// <summary>What the fans did, for people.</summary>
    public static string Fans(FanBehaviour fans) =>
        fans switch
        {
            FanBehaviour.Still => "still",
            FanBehaviour.Twitch => "twitch",
            FanBehaviour.Run => "run",
            FanBehaviour.RunThenStop => "run, then stop",
            _ => "at full speed",
        };

    private static string Changes(BenchJob job, IEnumerable<Change> changes) => changes.Words(job.Now.Parts);

    private static string Check(BenchJob job, FindingEntry f) => $"{Atlas.Standard.Check(f.Check)?.Name ?? f.Check} ({Name(job, f.Unit)})";

    private static string Name(BenchJob job, UnitId id) => job.Now.Parts.Find(id)?.Name ?? id.Value;
}
