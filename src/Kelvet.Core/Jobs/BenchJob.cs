using System.Collections.Immutable;
using System.Diagnostics.Metrics;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>What was written down when the machine came in.</summary>
public sealed record Intake
{
    /// <summary>Most contexts of one intake.</summary>
    public const int MostContexts = 40;

    /// <summary>Short name of the job.</summary>
    public required string Title { get; init; }

    /// <summary>Whose machine it is; empty when not given.</summary>
    public string Customer { get; init; } = "";

    /// <summary>What the customer saw, in their words.</summary>
    public string Symptom { get; init; } = "";

    /// <summary>How far the customer says it got; null when not known.</summary>
    public StageRange? Reported { get; init; }

    /// <summary>How often it fails so, as the customer says; null where always, or not said.</summary>
    public Times? ReportedTimes { get; init; }

    /// <summary>
    /// The stage that a start must reach to be past what the complaint is about; null where it follows from the report: the
    /// stage after a complaint about the system, else a picture.
    /// </summary>
    public BootStage? Goal { get; init; }

    /// <summary>What else the complaint says.</summary>
    public Complaint Complaint { get; init; } = Complaint.None;

    /// <summary>Ids of <see cref="Faults.IntakeContext"/> entries that apply.</summary>
    public ImmutableArray<string> Contexts { get; init; } = [];

    /// <summary>All units known at intake, fitted or on the shelf beside the bench.</summary>
    public required Parts Parts { get; init; }

    /// <summary>The machine as received.</summary>
    public required Configuration Received { get; init; }
}

/// <summary>A line of the log as it now reads: what stands, what was struck and by which later line.</summary>
/// <param name="Number">1 for the first line, in the order of writing.</param>
/// <param name="Position">1 for the first line, in the order of events: a line that was forgotten stands where it belongs.</param>
/// <param name="Written">The line as it was written.</param>
/// <param name="StruckBy">The line that struck or corrected it last, or null.</param>
public sealed record LogLine(int Number, int Position, Entry Written, StrikeEntry? StruckBy)
{
    /// <summary>What the line says: itself, or the line that it puts in.</summary>
    public Entry Content => Written is InsertEntry insert ? insert.Line : Written;

    /// <summary>What counts in this line's place: the line itself, its replacement, or nothing.</summary>
    public Entry? Stands =>
        StruckBy is null ? Content
        : StruckBy.Struck == Written.Id ? StruckBy.Replacement
        : null;

    /// <summary>Whether it can be struck or corrected: it counts, in its own words or in those of a correction, and is no correction
    /// itself.</summary>
    public bool CanBeMended => Written is not StrikeEntry && Stands is not null;
}

/// <summary>A trial in its setting.</summary>
/// <param name="Number">Number of its line in the log; 0 for what the customer reported.</param>
/// <param name="Position">Its place in the order of events.</param>
/// <param name="Ordinal">1 for the first trial of the job, counting standing trials only.</param>
/// <param name="Entry">What was recorded.</param>
/// <param name="Changes">All changes since the trial before, work without a start-up included.</param>
/// <param name="Situation">The machine as it was started.</param>
/// <param name="Ceiling">What a healthy machine could have reached.</param>
public sealed record Trial(
    int Number,
    int Position,
    int Ordinal,
    TrialEntry Entry,
    ImmutableArray<Change> Changes,
    Situation Situation,
    Ceiling Ceiling
)
{
    /// <summary>The range reached, with the power-button test worked in.</summary>
    public StageRange Seen => Entry.Reached;

    /// <summary>The kind of start; one of which none was noted is an ordinary one.</summary>
    public StartKind Kind => Entry.Kind ?? StartKind.Warm;

    /// <summary>The stage that a start must reach to be past what the complaint is about.</summary>
    public BootStage Goal { get; init; } = BootStage.Picture;

    /// <summary>Whether it got past what the complaint is about.</summary>
    public bool Passed => Seen.Low >= Goal && Defect is null;

    /// <summary>Whether it ended before that. What may have got there and was not followed further did neither.</summary>
    public bool Failed => Seen.High < Goal || (Seen.Low >= Goal && Defect is not null);

    /// <summary>What was wrong with a start that got a picture: memory missing, a spoilt picture; null when nothing was.</summary>
    public Symptom? Defect =>
        !Seen.ShowsPicture ? null
        : Entry.Signs.Artefacts is not null ? Symptom.Artefacts
        : MissingGb > 0 || SlotsUnseen.Length > 0 ? Symptom.MissingMemory
        : null;

    /// <summary>Whether the machine said of its memory how much it sees, or where.</summary>
    public bool TellsOfMemory =>
        Seen.ShowsPicture && ((Entry.Signs.MemorySeen is not null && Situation.FittedGb is not null) || Entry.Signs.SlotsSeen.Length > 0);

    /// <summary>Memory that is fitted and not seen, GB; null where how much is seen, or fitted, is not known.</summary>
    public int? MissingGb => Entry.Signs.MemorySeen is { } seen && Situation.FittedGb is { } fitted ? Math.Max(0, fitted - seen) : null;

    /// <summary>Slots that hold a stick which the machine does not see there; empty where it does not say.</summary>
    public ImmutableArray<string> SlotsUnseen
    {
        get
        {
            var seen = Entry.Signs.NamesOfSlotsSeen().ToHashSet(StringComparer.OrdinalIgnoreCase);
            return seen.Count == 0 ? [] : [.. Situation.Sticks.Select(s => s.Place.Part).Where(slot => !seen.Contains(slot))];
        }
    }
}

/// <summary>A line that is evidence without being a trial: a finding, a claim, a try in another machine.</summary>
/// <param name="Number">Number of its line in the log.</param>
/// <param name="Position">Its place in the order of events.</param>
/// <param name="Entry">What was recorded.</param>
/// <param name="Situation">The machine at that moment; for a claim, as the customer says it was.</param>
public sealed record Testimony(int Number, int Position, Entry Entry, Situation Situation);

/// <summary>
/// A job's log and everything that follows from it. Immutable: <see cref="Append"/> is the only way to a longer log,
/// and it refuses a line that does not fit the machine as it stands.
/// </summary>
public sealed class BenchJob
{
    /// <summary>Most lines in one log.</summary>
    public const int MostLines = 2000;

    private static readonly Meter Meter = new("Kelvet.Core");

    /// <summary>Counts how often a whole log is replayed, for whoever listens to the meter "Kelvet.Core".</summary>
    private static readonly Counter<long> Replays = Meter.CreateCounter<long>("kelvet.log.replays");

    private readonly Replayed _replayed;

    /// <summary>The stage that a start must reach to be past what the complaint is about.</summary>
    public BootStage Goal => GoalOf(Intake);

    /// <summary>The goal that an intake sets.</summary>
    internal static BootStage GoalOf(Intake intake) =>
        intake.Goal
        ?? (intake.Complaint.IsOfUse ? BootStage.Stable : (BootStage?)null)
        ?? (intake.Reported is { Low: >= BootStage.Picture, High: < BootStage.Stable } told ? told.High + 1 : BootStage.Picture);

    private BenchJob(Intake takenIn, Intake intake, ImmutableArray<Entry> entries, ImmutableArray<LogLine> lines, Replayed replayed)
    {
        AsTakenIn = takenIn;
        Intake = intake;
        Entries = entries;
        Lines = lines;
        _replayed = replayed;
    }

    /// <summary>Opens a job.</summary>
    /// <exception cref="ChangeRefusedException">A unit of the received machine does not fit where it is said to be.</exception>
    public static BenchJob Open(Intake intake)
    {
        CheckReceived(intake);
        return new BenchJob(intake, intake, [], [], Replayed.AtIntake(intake));
    }

    /// <summary>What was written down when the machine came in, before any correction.</summary>
    public Intake AsTakenIn { get; }

    /// <summary>What was written down when the machine came in, as it has been corrected since.</summary>
    public Intake Intake { get; }

    /// <summary>Every context that was ever told of: what bears on safety is not taken back by a correction.</summary>
    public IEnumerable<string> EverTold =>
        AsTakenIn.Contexts.Concat(Entries.OfType<AmendEntry>().SelectMany(a => a.Intake.Contexts)).Distinct();

    /// <summary>Every line as written, oldest first.</summary>
    public ImmutableArray<Entry> Entries { get; }

    /// <summary>Every line with what struck it, in the order of writing.</summary>
    public ImmutableArray<LogLine> Lines { get; }

    /// <summary>What a line is called wherever it is named: "start 3", counted from the first start that stands; else "line 7".</summary>
    /// <param name="number">The line's number.</param>
    public string NameOf(int number) =>
        Trials.FirstOrDefault(t => t.Number == number) is { } trial ? $"start {trial.Ordinal}" : $"line {number}";

    /// <summary>Every line in the order of events.</summary>
    public IEnumerable<LogLine> InOrder => Lines.OrderBy(l => l.Position);

    /// <summary>The trials that stand, in the order of events.</summary>
    public ImmutableArray<Trial> Trials => _replayed.Trials;

    /// <summary>The findings, claims and tries elsewhere that stand, in the order of events.</summary>
    public ImmutableArray<Testimony> Testimonies => _replayed.Testimonies;

    /// <summary>The machine as it now stands.</summary>
    public Situation Now => _replayed.Now;

    /// <summary>Whether a line of this id is in the log.</summary>
    public bool Has(Guid id) => Entries.Any(e => e.Id == id);

    /// <summary>The job with one more line. A line whose id is in the log already changes nothing.</summary>
    /// <exception cref="EntryRefusedException">The line does not fit; the message says why.</exception>
    public BenchJob Append(Entry entry) => Has(entry.Id) ? this : With([entry]);

    /// <summary>
    /// The job with many lines at once, each checked as <see cref="Append"/> would. Lines that only follow on cost their own
    /// replay; a correction costs one of the whole log, however many there are.
    /// </summary>
    /// <exception cref="EntryRefusedException">A line does not fit; <see cref="EntryRefusedException.Line"/> is its number.</exception>
    public BenchJob With(IEnumerable<Entry> more)
    {
        var log = new LogBook(Entries, Lines);
        foreach (var entry in more)
            log.Add(entry);
        if (log.Added == 0)
            return this;
        var lines = log.Lines();
        var intake = log.IsMended ? Amended(lines) : Intake;
        var replayed = log.IsMended ? Replayed.AtIntake(intake) : _replayed;
        if (log.IsMended || Entries.Length == 0)
            Replays.Add(1);
        return new BenchJob(
            AsTakenIn,
            intake,
            log.Entries,
            lines,
            replayed.After(log.IsMended ? lines.OrderBy(l => l.Position) : lines.Skip(Lines.Length), lines.Length)
        );
    }

    /// <summary>The intake by the last correction that stands.</summary>
    private Intake Amended(ImmutableArray<LogLine> lines)
    {
        if (lines.LastOrDefault(l => l.Stands is AmendEntry) is not { Stands: AmendEntry amended } line)
            return AsTakenIn;
        var intake = amended.Intake with { Customer = AsTakenIn.Customer };
        try
        {
            CheckReceived(intake);
        }
        catch (ChangeRefusedException e)
        {
            throw new EntryRefusedException(e.Message, e) { Line = line.Number };
        }

        return intake;
    }

    /// <summary>What the lines of the log become when it is mended so, without mending it.</summary>
    /// <param name="mending">A strike, an insertion or a correction of the intake.</param>
    /// <exception cref="EntryRefusedException">The mending itself does not fit; the message says why.</exception>
    public MendingPreview Preview(Entry mending)
    {
        var log = new LogBook(Entries, Lines);
        log.Add(mending);
        var lines = log.Lines();
        var (after, impossible) = Replayed.AtIntake(Amended(lines)).Leniently(lines.OrderBy(l => l.Position));
        var before = Trials.ToDictionary(t => t.Number);
        var then = after.Trials.ToDictionary(t => t.Number);
        return new MendingPreview([
            .. lines
                .OrderBy(l => l.Position)
                .Where(l => l.Written.Id != mending.Id && l.Written is not StrikeEntry)
                .Select(Become)
                .OfType<LineFate>(),
        ]);

        LineFate? Become(LogLine line)
        {
            var was = Lines.First(l => l.Written.Id == line.Written.Id);
            if (was.Stands is null)
                return null;
            if (line.Stands is null)
                return new LineFate(line, FateOfLine.Struck, "");
            if (impossible.FirstOrDefault(i => i.Line.Number == line.Number) is { Why: { } why })
                return new LineFate(line, FateOfLine.Impossible, why);
            if (!Equals(was.Stands, line.Stands))
                return new LineFate(line, FateOfLine.Corrected, "");
            return
                before.TryGetValue(line.Number, out var t) && then.TryGetValue(line.Number, out var n) && !t.Situation.IsSameAs(n.Situation)
                ? new LineFate(line, FateOfLine.OtherMachine, "")
                : null;
        }
    }

    /// <summary>The machine as it stood before a line, from what counts in front of it.</summary>
    /// <param name="line">One of <see cref="Lines"/>.</param>
    public Situation MachineBefore(LogLine line) =>
        Replayed.AtIntake(Intake).Leniently(InOrder.Where(l => l.Position < line.Position)).Replayed.Now;

    /// <summary>The job as it stood after its first lines.</summary>
    public BenchJob AfterLines(int count) => Open(AsTakenIn).With(Entries.Take(count));

    /// <summary>
    /// The machine as it is to go out: as received, but for what did not fit together and was taken as a finding.
    /// </summary>
    public Configuration AsItBelongs
    {
        get
        {
            var found = Lines.Select(l => l.Stands).OfType<MisfitEntry>().Select(m => m.Kind).ToHashSet();
            if (found.Count == 0)
                return Intake.Received;
            var machine = Situation.AtIntake(Now.Parts, Intake.Received);
            foreach (var misfit in MisfitFound.In(machine).Where(m => found.Contains(m.Kind)))
            {
                foreach (var change in misfit.Fix)
                    machine = machine.TryAfter(change, out var next, out _) ? next : machine;
            }

            return machine.Now;
        }
    }

    /// <summary>
    /// Customer's units that are not where they belong, with the place that they go to: where they were when the machine came
    /// in, or where they should have been.
    /// </summary>
    public IEnumerable<(Unit Unit, Place Place)> OutOfPlace() =>
        AsItBelongs.At.Where(p => Now.Now[p.Key] != p.Value).Select(p => (Intake.Parts[p.Value], p.Key));

    private static void CheckReceived(Intake intake)
    {
        if (string.IsNullOrWhiteSpace(intake.Title) || intake.Title.Length > 120)
            throw new ChangeRefusedException("The job needs a title of 1 to 120 characters.");
        if (intake.Contexts.Length > Intake.MostContexts)
            throw new ChangeRefusedException($"{Intake.MostContexts} contexts are the most.");
        var received = intake.Received;
        if (received.At.Values.GroupBy(id => id).FirstOrDefault(g => g.Count() > 1) is { } twice)
            throw new ChangeRefusedException($"Unit {twice.Key} is said to be in two places.");
        var board =
            received[Place.Board] is { } id && intake.Parts.Find(id) is Motherboard b
                ? b
                : throw new ChangeRefusedException("The machine needs a motherboard.");
        foreach (var (place, unitId) in received.At)
        {
            var unit =
                intake.Parts.Find(unitId) ?? throw new ChangeRefusedException($"There is no unit {unitId} to be in {place.Words()}.");
            if (Situation.WhyUnfit(unit, place, board) is { } why)
                throw new ChangeRefusedException(why);
        }

        if (
            received.Display is { } shown
            && Situation.AtIntake(intake.Parts, received).OutputsAt(shown.Source)?.Any(o => o.Name == shown.Output) != true
        )
        {
            throw new ChangeRefusedException($"The monitor is said to be on {shown.Words()}, and there is no such output.");
        }
    }
}
