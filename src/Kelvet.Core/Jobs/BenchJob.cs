using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>What was written down when the machine came in.</summary>
public sealed record Intake
{
    /// <summary>Short name of the job.</summary>
    public required string Title { get; init; }

    public string Customer { get; init; } = "";

    /// <summary>What the customer saw, in their words.</summary>
    public string Symptom { get; init; } = "";

    /// <summary>How far the customer says it got; null when not known.</summary>
    public StageRange? Reported { get; init; }

    /// <summary>Ids of <see cref="Faults.IntakeContext"/> entries that apply.</summary>
    public ImmutableArray<string> Contexts { get; init; } = [];

    /// <summary>All units known at intake, fitted or on the shelf beside the bench.</summary>
    public required Parts Parts { get; init; }

    /// <summary>The machine as received.</summary>
    public required Configuration Received { get; init; }
}

/// <summary>A line of the log as it now reads: what stands, what was struck and by which later line.</summary>
/// <param name="Number">1 for the first line.</param>
/// <param name="Written">The line as it was written.</param>
/// <param name="StruckBy">The line that struck it, or null.</param>
public sealed record LogLine(int Number, Entry Written, StrikeEntry? StruckBy)
{
    /// <summary>What counts in this line's place: the line itself, its replacement, or nothing.</summary>
    public Entry? Stands => StruckBy is null ? Written : StruckBy.Replacement;
}

/// <summary>A trial in its setting.</summary>
/// <param name="Number">Number of its line in the log; 0 for what the customer reported.</param>
/// <param name="Ordinal">1 for the first trial of the job, counting standing trials only.</param>
/// <param name="Entry">What was recorded.</param>
/// <param name="Changes">All changes since the trial before, work without a start-up included.</param>
/// <param name="Situation">The machine as it was started.</param>
/// <param name="Ceiling">What a healthy machine could have reached.</param>
public sealed record Trial(int Number, int Ordinal, TrialEntry Entry, ImmutableArray<Change> Changes, Situation Situation, Ceiling Ceiling)
{
    /// <summary>The range reached, with the power-button test worked in.</summary>
    public StageRange Seen => Entry.Reached;
}

/// <summary>A line that is evidence without being a trial: a finding, a claim, a try in another machine.</summary>
/// <param name="Number">Number of its line in the log.</param>
/// <param name="Entry">What was recorded.</param>
/// <param name="Situation">The machine at that moment; for a claim, as the customer says it was.</param>
public sealed record Testimony(int Number, Entry Entry, Situation Situation);

/// <summary>
/// A job's log and everything that follows from it. Immutable: <see cref="Append"/> is the only way to a longer log,
/// and it refuses a line that does not fit the machine as it stands.
/// </summary>
public sealed class BenchJob
{
    /// <summary>Most lines in one log.</summary>
    public const int MostLines = 2000;

    private BenchJob(Intake intake, ImmutableArray<Entry> entries, Replay replay)
    {
        Intake = intake;
        Entries = entries;
        Lines = replay.Lines;
        Trials = replay.Trials;
        Testimonies = replay.Testimonies;
        Now = replay.Now;
    }

    /// <summary>Opens a job.</summary>
    /// <exception cref="ChangeRefusedException">A unit of the received machine does not fit where it is said to be.</exception>
    public static BenchJob Open(Intake intake)
    {
        CheckReceived(intake);
        return new BenchJob(intake, [], Replayed(intake, []));
    }

    public Intake Intake { get; }

    /// <summary>Every line as written, oldest first.</summary>
    public ImmutableArray<Entry> Entries { get; }

    /// <summary>Every line with what struck it.</summary>
    public ImmutableArray<LogLine> Lines { get; }

    /// <summary>The trials that stand, oldest first.</summary>
    public ImmutableArray<Trial> Trials { get; }

    /// <summary>The findings, claims and tries elsewhere that stand, oldest first.</summary>
    public ImmutableArray<Testimony> Testimonies { get; }

    /// <summary>The machine as it now stands.</summary>
    public Situation Now { get; }

    /// <summary>The job with one more line. A line whose id is in the log already changes nothing.</summary>
    /// <exception cref="EntryRefusedException">The line does not fit; the message says why.</exception>
    public BenchJob Append(Entry entry) => Entries.Any(e => e.Id == entry.Id) ? this : With([entry]);

    /// <summary>
    /// The job with many lines at once, each checked as <see cref="Append"/> would, at the cost of one replay.
    /// </summary>
    /// <exception cref="EntryRefusedException">A line does not fit.</exception>
    public BenchJob With(IEnumerable<Entry> more)
    {
        var entries = Entries;
        foreach (var entry in more)
        {
            if (entries.Length >= MostLines) throw new EntryRefusedException($"The log is full: a job holds at most {MostLines} lines.");
            CheckWords(entry);
            if (entry is StrikeEntry strike) CheckStrike(strike, LinesOf(entries));
            entries = entries.Add(entry);
        }

        return new BenchJob(Intake, entries, Replayed(Intake, entries));
    }

    /// <summary>The job as it stood after its first lines.</summary>
    public BenchJob AfterLines(int count) => Open(Intake).With(Entries.Take(count));

    /// <summary>
    /// Customer's units that are not where they were when the machine came in, with the place they came from.
    /// </summary>
    public IEnumerable<(Unit Unit, Place Place)> OutOfPlace() => Intake.Received.At
        .Where(p => Now.Now[p.Key] != p.Value)
        .Select(p => (Intake.Parts[p.Value], p.Key));

    private static void CheckStrike(StrikeEntry strike, ImmutableArray<LogLine> lines)
    {
        var line = lines.FirstOrDefault(l => l.Written.Id == strike.Struck)
            ?? throw new EntryRefusedException("The line to be struck is not in this log.");
        if (line.StruckBy is not null) throw new EntryRefusedException($"Line {line.Number} is struck already.");
        if (line.Written is StrikeEntry) throw new EntryRefusedException($"Line {line.Number} is a correction; it is not struck, write a new line.");
        if (strike.Replacement is { } r && r.GetType() != line.Written.GetType())
            throw new EntryRefusedException($"Line {line.Number} can only be replaced by a line of the same sort.");
        if (string.IsNullOrWhiteSpace(strike.Reason)) throw new EntryRefusedException("Say why the line is struck.");
    }

    private static void CheckWords(Entry entry)
    {
        if (entry.Note.Length > Entry.LongestNote) throw new EntryRefusedException($"The note has {entry.Note.Length} characters; {Entry.LongestNote} is the most.");
        if (entry is StrikeEntry { Reason.Length: > Entry.LongestNote }) throw new EntryRefusedException($"The reason is longer than {Entry.LongestNote} characters.");
        if (entry is NoteEntry && string.IsNullOrWhiteSpace(entry.Note)) throw new EntryRefusedException("The note is empty.");
        if (entry is WorkEntry { Changes.Length: 0 }) throw new EntryRefusedException("Nothing was changed.");
    }

    private static void CheckReceived(Intake intake)
    {
        if (string.IsNullOrWhiteSpace(intake.Title) || intake.Title.Length > 120)
            throw new ChangeRefusedException("The job needs a title of 1 to 120 characters.");
        var received = intake.Received;
        if (received.At.Values.GroupBy(id => id).FirstOrDefault(g => g.Count() > 1) is { } twice)
            throw new ChangeRefusedException($"Unit {twice.Key} is said to be in two places.");
        var board = received[Place.Board] is { } id && intake.Parts.Find(id) is Motherboard b
            ? b
            : throw new ChangeRefusedException("The machine needs a motherboard.");
        foreach (var (place, unitId) in received.At)
        {
            var unit = intake.Parts.Find(unitId) ?? throw new ChangeRefusedException($"There is no unit {unitId} to be in {place.Words()}.");
            if (Situation.WhyUnfit(unit, place, board) is { } why) throw new ChangeRefusedException(why);
        }

        if (received.Display is { } shown
            && Situation.AtIntake(intake.Parts, received).OutputsAt(shown.Source)?.Any(o => o.Name == shown.Output) != true)
        {
            throw new ChangeRefusedException($"The monitor is said to be on {shown.Words()}, and there is no such output.");
        }
    }

    private static ImmutableArray<LogLine> LinesOf(ImmutableArray<Entry> entries)
    {
        var strikes = entries.OfType<StrikeEntry>().ToDictionary(s => s.Struck);
        return [.. entries.Select((e, i) => new LogLine(i + 1, e, strikes.GetValueOrDefault(e.Id)))];
    }

    private sealed record Replay(ImmutableArray<LogLine> Lines, ImmutableArray<Trial> Trials, ImmutableArray<Testimony> Testimonies, Situation Now);

    private static Replay Replayed(Intake intake, ImmutableArray<Entry> entries)
    {
        var lines = LinesOf(entries);
        var now = Situation.AtIntake(intake.Parts, intake.Received);
        var trials = ImmutableArray.CreateBuilder<Trial>();
        var testimonies = ImmutableArray.CreateBuilder<Testimony>();
        var since = ImmutableArray.CreateBuilder<Change>();
        foreach (var line in lines)
        {
            try
            {
                switch (line.Stands)
                {
                    case ArrivalEntry arrival:
                        now = now.WithUnit(arrival.Unit);
                        break;
                    case WorkEntry work:
                        now = now.After(work.Changes);
                        since.AddRange(work.Changes);
                        break;
                    case TrialEntry trial:
                        now = now.After(trial.Changes);
                        since.AddRange(trial.Changes);
                        if (now.WhyNotPowered() is { } unsafeNow) throw new ChangeRefusedException(unsafeNow);
                        trials.Add(new Trial(line.Number, trials.Count + 1, trial, since.ToImmutable(), now, Ceiling.Of(now)));
                        since.Clear();
                        break;
                    case ClaimEntry claim:
                        testimonies.Add(new Testimony(line.Number, claim, Situation.AtIntake(now.Parts, intake.Received).After(claim.Changes)));
                        break;
                    case FindingEntry finding:
                        testimonies.Add(new Testimony(line.Number, finding, Known(now, finding.Unit)));
                        break;
                    case ElsewhereEntry elsewhere:
                        testimonies.Add(new Testimony(line.Number, elsewhere, Known(now, elsewhere.Unit)));
                        break;
                    default:
                        break;
                }
            }
            catch (Exception e) when (e is ChangeRefusedException or ArgumentException)
            {
                throw new EntryRefusedException(line.Number == lines.Length ? e.Message : $"Line {line.Number} would no longer be possible: {e.Message}", e);
            }
        }

        return new Replay(lines, trials.ToImmutable(), testimonies.ToImmutable(), now);

        static Situation Known(Situation now, UnitId unit) => now.Parts.Has(unit) ? now : throw new ChangeRefusedException($"There is no unit {unit} in this job.");
    }
}
