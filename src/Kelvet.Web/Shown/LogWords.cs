using Kelvet.Core.Diagnosis;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Shown;

/// <summary>Lines of the log and pieces of evidence in words.</summary>
public static class LogWords
{
    /// <summary>A line as it is read in the log.</summary>
    public static string Of(BenchJob job, Entry entry) => Said(job, entry) + (entry.Live.Length > 0 ? $" Done live: {entry.Live}" : "");

    private static string Said(BenchJob job, Entry entry) => entry.ReadBy(new Reader(job));

    /// <summary>Each kind of line in words.</summary>
    private sealed class Reader(BenchJob job) : ILineReader<string>
    {
        public string Trial(TrialEntry t) =>
            $"{(t.Changes.Length > 0 ? Text.Capital(Changes(job, t.Changes)) + ". " : "")}{Start(t)}: {Seen(t)}.";

        public string Work(WorkEntry w) => $"{Text.Capital(Changes(job, w.Changes))}. Not started.";

        public string Finding(FindingEntry f) =>
            $"{Text.Capital(Check(job, f.Check, f.Unit))}: {(f.Found ? Found(f) : "nothing found")}{TestRun(job, f)}.";

        public string Unseen(UnseenEntry u) => $"{Text.Capital(Check(job, u.Check, u.Unit))}: could not be seen.";

        public string Procedure(ProcedureEntry p) => LogWords.Procedure(p);

        public string Misfit(MisfitEntry m) => $"Found before the first start: {m.Kind.Words()}.";

        public string ProofChoice(ProofChoiceEntry p) =>
            $"{Name(job, p.Unit)}: {(p.TwoWay ? "to be proved both ways" : "one-way proof accepted")}.";

        public string GoAhead(GoAheadEntry g) =>
            $"{Name(job, g.Unit)} is to be replaced, though not all that may restore it was tried: {g.Reason}";

        public string Settled(SettledEntry s) =>
            $"{Text.Capital(Name(job, s.Unit))} {FateRow.Row(s.Fate).Past}"
            + $"{(s.Price is { } price ? $" for {price:0.00}" : "")}{(s.Agreed.Length > 0 ? $", as agreed: {s.Agreed}" : "")}.";

        public string Amend(AmendEntry a) => $"Corrected what was taken in: {a.Reason}";

        public string Claim(ClaimEntry c) =>
            $"The customer tells: {(c.Changes.Length > 0 ? Changes(job, c.Changes) : "as it came in")}, {c.Seen.Words()}"
            + $"{(c.Times is { } times ? $", {times.Failed} of {times.Of} times" : "")}"
            + $"{(c.Sure == Sureness.Fairly ? "" : $" ({c.Sure.Words()})")}.";

        public string Elsewhere(ElsewhereEntry e) =>
            $"{Name(job, e.Unit)} in another, known-good machine: {(e.Worked ? "it ran" : "it did not run")}.";

        public string Arrival(ArrivalEntry a) => $"{Name(job, a.Unit.Id)} came to the bench ({a.Unit.Origin.Words()}).";

        public string Strike(StrikeEntry k) =>
            $"Struck line {NumberOf(job, k.Struck)}{string.Concat(k.Also.Select(a => $", {NumberOf(job, a)}"))}: {k.Reason}";

        public string Insert(InsertEntry i) => $"Forgotten in front of line {NumberOf(job, i.Before)}: {Of(job, i.Line)} ({i.Reason})";

        public string Note(NoteEntry n) => "";
    }

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
        + string.Concat(t.Signs.Told().Select(sign => $"; {sign}"));

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
        if (f.Rails is { } rails)
            said.Add(rails.Words());
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

    private static string Changes(BenchJob job, IEnumerable<Change> changes) => changes.Words(job.Now.Parts);

    private static string Check(BenchJob job, string check, UnitId unit) =>
        $"{Atlas.Standard.Check(check)?.Name ?? check} ({Name(job, unit)})";

    private static string Name(BenchJob job, UnitId id) => job.Now.Parts.Find(id) is { } unit ? job.Now.Parts.NameOf(unit) : id.Value;
}
