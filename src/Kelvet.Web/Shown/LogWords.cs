using Kelvet.Core.Diagnosis;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
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
            TrialEntry t => $"{(t.Changes.Length > 0 ? Text.Capital(Changes(job, t.Changes)) + ". " : "")}{Start(t)}: {Seen(t)}.",
            WorkEntry w => $"{Text.Capital(Changes(job, w.Changes))}. Not started.",
            FindingEntry f => $"{Text.Capital(Check(job, f.Check, f.Unit))}: {(f.Found ? Found(f) : "nothing found")}{TestRun(job, f)}.",
            UnseenEntry u => $"{Text.Capital(Check(job, u.Check, u.Unit))}: could not be seen.",
            ProcedureEntry p => Procedure(p),
            MisfitEntry m => $"Found before the first start: {m.Kind.Words()}.",
            ProofChoiceEntry p => $"{Name(job, p.Unit)}: {(p.TwoWay ? "to be proved both ways" : "one-way proof accepted")}.",
            AmendEntry a => $"Corrected what was taken in: {a.Reason}",
            ClaimEntry c => $"The customer tells: {(c.Changes.Length > 0 ? Changes(job, c.Changes) : "as it came in")}, {c.Seen.Words()}"
                + $"{(c.Times is { } times ? $", {times.Failed} of {times.Of} times" : "")}"
                + $"{(c.Sure == Sureness.Fairly ? "" : $" ({c.Sure.Words()})")}.",
            ElsewhereEntry e => $"{Name(job, e.Unit)} in another, known-good machine: {(e.Worked ? "it ran" : "it did not run")}.",
            ArrivalEntry a => $"{Name(job, a.Unit.Id)} came to the bench ({a.Unit.Origin.Words()}).",
            StrikeEntry k =>
                $"Struck line {NumberOf(job, k.Struck)}{string.Concat(k.Also.Select(a => $", {NumberOf(job, a)}"))}: {k.Reason}",
            InsertEntry i => $"Forgotten in front of line {NumberOf(job, i.Before)}: {Of(job, i.Line)} ({i.Reason})",
            _ => "",
        };

    private static string Procedure(ProcedureEntry entry)
    {
        var procedure = Procedures.Find(entry.Procedure);
        var skipped = entry.Skipped.Select(i => procedure?.Steps.ElementAtOrDefault(i - 1)?.Do ?? $"step {i}");
        return $"Procedure: {procedure?.Name ?? entry.Procedure}{(entry.Minutes is { } m ? $", {m:0.#} min" : "")}."
            + (entry.Skipped.Length > 0 ? $" Not done: {string.Join(" ", skipped)}" : "");
    }

    private static string Start(TrialEntry start) => start.Kind is { } kind ? Text.Capital(kind.Words()) : "Started";

    /// <summary>What was done, for a piece of evidence.</summary>
    public static string Done(BenchJob job, EvidencePiece evidence) =>
        evidence switch
        {
            { Trial: { } t } => t.Changes.Length == 0 ? "no change" : Changes(job, t.Changes),
            { Testimony.Entry: FindingEntry f } => Check(job, f.Check, f.Unit),
            { Testimony.Entry: { } other } => Of(job, other),
            _ => "as the customer tells it",
        };

    /// <summary>What was seen, for a piece of evidence.</summary>
    public static string Shown(BenchJob job, EvidencePiece evidence) =>
        evidence switch
        {
            { Trial: { } t } => Seen(t.Entry),
            { Testimony.Entry: FindingEntry f } => f.Found ? Found(f) : "nothing found",
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
        if (signs.Ended is { } ended)
            yield return Ended(ended);
        if (signs.Minutes is { } minutes)
            yield return $"after {minutes:0.#} min";
        if (signs.Text is { } text)
            yield return $"on the screen: {OnTheScreen(text)}";
        if (signs.ClockWrong is { } wrong)
            yield return wrong ? "date and time wrong" : "date and time right";
        if (signs.Noise is { } noise)
            yield return $"noise: {Noise(noise)}";
        if (signs.FanSpeed is { } speed)
            yield return $"CPU fan {speed} turns a minute";
        if (signs.Volts is { } volts)
            yield return $"12 V rail {volts:0.0#} V";
        if (signs.Watts is { } watts)
            yield return $"{watts:0.#} W at the wall";
        if (signs.MemorySpeed is { } mts)
            yield return $"memory at {mts} MT/s";
        if (signs.SlotsSeen.Length > 0)
            yield return $"sticks seen in {signs.SlotsSeen}";
        if (signs.ProfileOn is { } on)
            yield return on ? "memory profile on" : "memory profile off";
        if (signs.Channels is { } channels)
            yield return $"{channels} memory {(channels == 1 ? "channel" : "channels")} seen";
    }

    /// <summary>What a machine that had come up did, for people.</summary>
    public static string Ended(Ending ended) =>
        ended switch
        {
            Ending.Froze => "it froze",
            Ending.Restarted => "it restarted by itself",
            Ending.Off => "it went off",
            Ending.StopError => "the system stopped with an error",
            _ => "the screen went dark while it ran on",
        };

    /// <summary>What stands on the screen, for people.</summary>
    public static string OnTheScreen(ScreenText text) =>
        text switch
        {
            ScreenText.NoDrive => "no drive to start from",
            ScreenText.SettingsLost => "settings lost",
            ScreenText.Memory => "a memory error, or memory that changed",
            ScreenText.Fan => "a fan that does not turn",
            ScreenText.TooHot => "too hot",
            ScreenText.CardPower => "a card without its power",
            _ => "a setting that did not work",
        };

    /// <summary>What it sounds like, for people.</summary>
    public static string Noise(Noise noise) =>
        noise switch
        {
            Core.Observed.Noise.Grinding => "a fan or pump grinds",
            Core.Observed.Noise.Clicking => "clicks, again and again",
            _ => "a high whine",
        };

    /// <summary>What a test program ran and counted, what that means, and which stick its addresses name.</summary>
    private static string TestRun(BenchJob job, FindingEntry f)
    {
        var said = new List<string>();
        if (f.Passes is { } passes)
            said.Add(passes == 1 ? "one pass" : $"{passes} passes");
        if (f.Minutes is { } minutes)
            said.Add($"{minutes:0.#} min");
        if (f.Errors is { } errors)
            said.Add($"{errors} {(errors == 1 ? "error" : "errors")}");
        var run = said.Count == 0 ? "" : $" ({string.Join(", ", said)})";
        if (!f.Found && f.Passes is { } clean)
            return $"{run}. {MemoryWords.NoErrors(clean)}";
        if (f.Addresses.Length == 0 || job.Testimonies.FirstOrDefault(t => t.Entry.Id == f.Id)?.Situation is not { } machine)
            return run;
        var first = f.Addresses.Split(' ', StringSplitOptions.RemoveEmptyEntries)[0];
        var (stick, why) = TestProgram.StickAt(machine, first);
        return $"{run}. {first}: {(stick is null ? why.Words() : $"in {machine.The(stick)}")}";
    }

    private static string Found(FindingEntry f)
    {
        var check = Atlas.Standard.Check(f.Check);
        return check?.Findings.FirstOrDefault(s => s.Id == f.What)?.Name ?? check?.Found ?? "found";
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

    private static string Check(BenchJob job, string check, UnitId unit) =>
        $"{Atlas.Standard.Check(check)?.Name ?? check} ({Name(job, unit)})";

    private static string Name(BenchJob job, UnitId id) => job.Now.Parts.Find(id) is { } unit ? job.Now.Parts.NameOf(unit) : id.Value;
}
