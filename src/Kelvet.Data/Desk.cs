using System.Diagnostics;
using System.Text.Json;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Kelvet.Data;

/// <summary>What goes with a line.</summary>
/// <param name="Photo">A JPEG; null when there is none.</param>
/// <param name="Captures">Codes of readers or files: where they came from, and the plain text.</param>
public sealed record Attachments(byte[]? Photo, IReadOnlyList<(string Source, string Text)> Captures)
{
    /// <summary>Nothing.</summary>
    public static Attachments None { get; } = new(null, []);
}

/// <summary>What came of a command.</summary>
/// <param name="Job">The job as it then stands.</param>
/// <param name="Refused">Why the gate let it not pass; null when it did.</param>
/// <param name="WasThere">Whether the same line was recorded before, so that nothing was done again.</param>
public sealed record DeskAnswer(StoredJob Job, GateAnswer? Refused = null, bool WasThere = false);

/// <summary>
/// The one desk at which everything is recorded. A command reads the job, asks the gate, and writes the line with its
/// photo, captures, power state and timers in one transaction that holds the database's write lock from its beginning, so
/// that nothing comes between the look and the writing. A second sending with the same id finds all of it.
/// </summary>
public sealed partial class Desk(
    KelvetDb db,
    JobStore jobs,
    CustomerStore customers,
    JobCache cache,
    JobNews news,
    ILineJudge judge,
    Elapsed elapsed,
    TimeProvider clock,
    ILogger<Desk> logger
)
{
    /// <summary>Supply and lead of a job.</summary>
    public BenchPower PowerOf(StoredJob job, TimeSpan drain) =>
        new(job.Row.Power, job.Row.PowerSinceUtc is null ? TimeSpan.Zero : elapsed.Since(job.Row.PowerMoment), drain);

    /// <summary>Records a start and how far it got.</summary>
    /// <param name="number">The job.</param>
    /// <param name="start">The start.</param>
    /// <param name="lines">Lines of the log that the technician had seen; null to append whatever came between.</param>
    /// <param name="with">Photo and captures.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">The line does not fit the machine as it stands, or the job is closed.</exception>
    public Task<DeskAnswer> RecordStartAsync(
        int number,
        TrialEntry start,
        int? lines,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel = default
    ) => LineAsync("record start", number, start, handsIn: false, lines, with, rules, cancel);

    /// <summary>Records what a look, a test or a reading found.</summary>
    /// <param name="number">The job.</param>
    /// <param name="finding">The finding.</param>
    /// <param name="check">Its check, which says whether hands go in.</param>
    /// <param name="lines">Lines that the technician had seen; null for any.</param>
    /// <param name="with">Photo.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">The line does not fit, or the job is closed.</exception>
    public Task<DeskAnswer> RecordFindingAsync(
        int number,
        FindingEntry finding,
        Check check,
        int? lines,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel = default
    ) => LineAsync("record finding", number, finding, check.HandsIn, lines, with, rules, cancel);

    /// <summary>Records work without a start.</summary>
    /// <inheritdoc cref="RecordStartAsync"/>
    public Task<DeskAnswer> RecordWorkAsync(
        int number,
        WorkEntry work,
        int? lines,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel = default
    ) => LineAsync("record work", number, work, handsIn: false, lines, with, rules, cancel);

    /// <summary>Records a note, a part that comes in, or what the customer tells: nothing is done to the machine.</summary>
    /// <inheritdoc cref="RecordStartAsync"/>
    public Task<DeskAnswer> RecordWordsAsync(
        int number,
        Entry entry,
        int? lines,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel = default
    ) =>
        entry.Row.Command == LineCommand.Words
            ? LineAsync("record words", number, entry, handsIn: false, lines, with, rules, cancel)
            : throw new ArgumentException($"A {entry.GetType().Name} has a command of its own.", nameof(entry));

    /// <summary>Mends the log: strikes a line, puts another in its place, or puts in one that was forgotten.</summary>
    /// <inheritdoc cref="RecordStartAsync"/>
    public Task<DeskAnswer> MendAsync(
        int number,
        Entry mending,
        int? lines,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel = default
    ) =>
        mending.Row.Command == LineCommand.Mending
            ? LineAsync("mend log", number, mending, handsIn: false, lines, with, rules, cancel)
            : throw new ArgumentException("A log is mended by a strike or an insertion.", nameof(mending));

    /// <summary>Takes the last line back: it is struck, and a start waits to be told again.</summary>
    /// <param name="number">The job.</param>
    /// <param name="last">Id of the line, which must be the last that stands.</param>
    /// <param name="id">Id of the line that strikes it.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It is not the last line any more, or what follows needs it.</exception>
    public Task<DeskAnswer> UndoAsync(int number, Guid last, Guid id, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "undo",
            number,
            async job =>
            {
                if (job.Bench.Has(id))
                    return new DeskAnswer(job, WasThere: true);
                if (job.Bench.Lines.LastOrDefault(l => l.Stands is not null and not StrikeEntry) is not { } line || line.Written.Id != last)
                    throw new EntryRefusedException("Another line has been recorded since. Strike it in the log.");
                var after = await AppendAsync(job, new StrikeEntry(id, last, "Taken back at once."), rules, Attachments.None, cancel);
                if (line.Stands is TrialEntry start)
                    SetPower(after, PowerGate.WhenTakenBack(start, after.Row.Power, after.Bench.Now.Parts));
                return new DeskAnswer(after);
            },
            cancel
        );

    /// <summary>Closes a job.</summary>
    /// <param name="number">The job.</param>
    /// <param name="closing">What was found and done, and the figures that it is closed with.</param>
    /// <param name="rules">What it is carried out under; the name must be given.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It is closed already, or nobody says who closes it.</exception>
    public Task<DeskAnswer> CloseAsync(int number, Closing closing, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "close",
            number,
            async job =>
            {
                if (job.IsClosed)
                    throw new EntryRefusedException($"Job {number} is closed already.");
                if (rules.By.Length == 0)
                    throw new EntryRefusedException("Say who closes the job.");
                if (ReplacementGate.HeldAtClosing(job.Bench, closing.Found, Atlas.Standard, rules.Preferences) is { Length: > 0 } held)
                    throw new EntryRefusedException(string.Join(" ", held.Select(u => Held(job.Bench, u, rules))));
                foreach (var fate in closing.Fates.Where(f => !job.Bench.Has(f.Id)))
                    job = await AppendAsync(job, fate, rules, Attachments.None, cancel);
                CheckSettled(job.Bench);
                await MoveShelfAsync(job, closes: true, cancel);
                var row = job.Row;
                row.ClosedAtUtc = closing.AtUtc ?? Now();
                row.ClosedBy = rules.By;
                row.ClosingWords = closing.Words;
                row.FoundUnits = string.Join(' ', closing.Found);
                row.FoundKinds = CustomerStore.KindsOf(job.Bench.Intake.Parts, closing.Found);
                row.ProvedModes = string.Join(' ', closing.ProvedModes);
                row.ClosedFigures = closing.Figures;
                row.ClosedRules = rules.Rules.Id;
                await KeepRulesAsync(rules.Rules, cancel);
                var taught =
                    closing.ProvedModes.Count == 0
                        ? []
                        : Experience.Contribution(
                            Atlas.Standard,
                            new ProvedJob(job.Bench.Intake.Parts, job.Bench.Intake.Contexts, [.. closing.ProvedModes])
                        );
                row.TaughtJson = taught.Count == 0 ? "" : JsonSerializer.Serialize(taught);
                await CountAsync(taught, (a, b) => a + b, cancel);
                await TeachModelsAsync(job, closing, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    /// <summary>Reopens a job: what it taught is taken off again.</summary>
    public Task<DeskAnswer> ReopenAsync(int number, CancellationToken cancel = default) =>
        RunAsync(
            "reopen",
            number,
            async job =>
            {
                var row = job.Row;
                if (!job.IsClosed)
                    return new DeskAnswer(job, WasThere: true);
                if (DropOff.Of(row).PartedOut.Length > 0)
                    throw new EntryRefusedException("This machine was parted out: its parts lie on the shelf. Take it in anew.");
                await MoveShelfAsync(job, closes: false, cancel);
                var forgotten = await db.Shops.AsNoTracking().OrderBy(s => s.Id).Select(s => s.LearnFromUtc).FirstOrDefaultAsync(cancel);
                if (row.TaughtJson.Length > 0 && (forgotten is null || row.ClosedAtUtc >= forgotten))
                    await CountAsync(JsonSerializer.Deserialize<Dictionary<string, Tally>>(row.TaughtJson)!, (a, b) => a - b, cancel);
                if (row.TaughtModels.Length > 0 && (forgotten is null || row.ClosedAtUtc >= forgotten))
                    await CountModelsAsync(ReadModels(row), (a, b) => a - b, cancel);
                (row.ClosedAtUtc, row.HandedOverUtc, row.NotReproduced) = (null, null, false);
                row.TaughtJson = row.TaughtModels = row.ClosedFigures = row.ClosedRules = "";
                return new DeskAnswer(job);
            },
            cancel
        );

    private async Task<DeskAnswer> LineAsync(
        string what,
        int number,
        Entry entry,
        bool handsIn,
        int? lines,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel
    )
    {
        entry = Stamped(entry, rules);
        await JudgeAheadAsync(number, entry, lines, cancel);
        return await RunAsync(
            what,
            number,
            async job =>
            {
                if (job.Bench.Has(entry.Id))
                    return new DeskAnswer(job, WasThere: true);
                if (lines is { } seen && seen != job.Bench.Lines.Length)
                    throw new EntryRefusedException(
                        $"Meanwhile line {job.Bench.Lines.Length} was recorded from another bench. Your changes are kept "
                            + $"below: check them against the machine and record again."
                    );
                if (Refused(job, entry, handsIn, rules.Drain) is { } refused)
                    return new DeskAnswer(job, refused);
                if (entry is ArrivalEntry { Unit: var comes })
                    CheckMayCome(job, comes, rules);
                var after = await AppendAsync(job, entry, rules, with, cancel);
                if (entry is TrialEntry)
                    await StopAsync(after, "wait", cancel);
                if (entry is TrialEntry)
                    await WeighShelfAsync(after, cancel);
                if (entry is ArrivalEntry && after.Row.Wait == JobWait.Part)
                    GoOn(after.Row);
                // What was off stays off, and does not drain anew.
                if (PowerGate.After(entry, after.Row.Power) is var power && power != after.Row.Power)
                    SetPower(after, power);
                return new DeskAnswer(after);
            },
            cancel
        );
    }

    private static string Held(BenchJob job, Unit unit, DeskRules rules) =>
        OpenChecks.Of(job, unit.Id, Atlas.Standard, rules.Preferences).WhyHeld(job.Now.The(unit));

    private GateAnswer? Refused(StoredJob job, Entry entry, bool handsIn, TimeSpan drain)
    {
        try
        {
            return PowerGate.WhyNot(job.Bench, entry, handsIn, PowerOf(job, drain));
        }
        catch (ChangeRefusedException e)
        {
            throw new EntryRefusedException(e.Message, e);
        }
    }

    private async Task<StoredJob> AppendAsync(StoredJob job, Entry entry, DeskRules rules, Attachments with, CancellationToken cancel)
    {
        if (job.IsClosed)
            throw new EntryRefusedException($"Job {job.Number} is closed. Reopen it to record more.");
        var stamped = Stamped(entry, rules);
        var row = JobStore.RowOf(stamped, job.Bench.Entries.Length + 1);
        // What is judged is what will be read back.
        BenchJob longer;
        if (_judged is { } known && ReferenceEquals(known.From, job.Bench) && known.Longer.Entries[^1].Id == stamped.Id)
        {
            longer = known.Longer;
        }
        else
        {
            longer = Appended(job.Bench, row);
            await JudgeAsync(job with { Bench = longer }, [stamped], cancel);
        }

        row.JobId = job.Row.Id;
        db.Steps.Add(row);
        await KeepRulesAsync(rules.Rules, cancel);
        await AttachAsync(job.Row.Id, Attached(stamped), with, cancel);
        return job with { Bench = longer };
    }

    /// <summary>The line that a photo or capture belongs to: of a correction, the line that it corrects.</summary>
    private static Guid Attached(Entry entry) => entry is StrikeEntry { Replacement: not null } strike ? strike.Struck : entry.Id;

    private async Task AttachAsync(int jobId, Guid step, Attachments with, CancellationToken cancel)
    {
        if (with.Photo is { } jpeg)
        {
            if (await db.Photos.CountAsync(p => p.JobId == jobId && p.StepId == step, cancel) >= BenchState.MostPhotos)
                throw new EntryRefusedException($"The line has {BenchState.MostPhotos} photos, the most.");
            if (await db.Photos.SumAsync(p => (long?)p.Jpeg.Length, cancel) + jpeg.Length > BenchState.MostPhotoBytes)
                throw new EntryRefusedException(
                    $"The shop's photos fill {BenchState.MostPhotoBytes / 1_000_000_000} GB, the most. Record it without the photo."
                );
            db.Photos.Add(
                new PhotoRow
                {
                    Id = Guid.NewGuid(),
                    JobId = jobId,
                    StepId = step,
                    Jpeg = jpeg,
                    AtUtc = Now(),
                }
            );
        }

        foreach (var (source, text) in with.Captures)
        {
            var from = source.Length > 120 ? source[..120] : source;
            if (await db.Captures.AnyAsync(c => c.JobId == jobId && c.StepId == step && c.Source == from, cancel))
                continue;
            if (await db.Captures.SumAsync(c => (long?)c.Text.Length, cancel) + text.Length > BenchState.MostCaptureCharacters)
                throw new EntryRefusedException(
                    $"The shop's captures of codes fill {BenchState.MostCaptureCharacters / 1_000_000} MB, the most. Record "
                        + $"it without a capture."
                );
            db.Captures.Add(
                new CaptureRow
                {
                    JobId = jobId,
                    StepId = step,
                    Source = from,
                    Text = text,
                    AtUtc = Now(),
                }
            );
        }
    }

    private async Task CountAsync(IReadOnlyDictionary<string, Tally> taught, Func<Tally, Tally, Tally> with, CancellationToken cancel)
    {
        foreach (var (mode, tally) in taught)
        {
            var row = await db.Tallies.FindAsync([mode], cancel);
            if (row is null)
                db.Tallies.Add(row = new TallyRow { Mode = mode });
            (row.Cases, row.Exposure) = with(new Tally(row.Cases, row.Exposure), tally);
        }
    }

    private async Task KeepRulesAsync(RuleSet rules, CancellationToken cancel)
    {
        if (db.RuleSets.Local.Any(r => r.Id == rules.Id) || await db.RuleSets.AnyAsync(r => r.Id == rules.Id, cancel))
            return;
        db.RuleSets.Add(
            new RuleSetRow
            {
                Id = rules.Id,
                Atlas = rules.Atlas,
                Program = rules.Program,
                OddsJson = JsonSerializer.Serialize(rules.Odds),
                PreferencesJson = rules.Preferences,
                SinceUtc = Now(),
            }
        );
    }

    private DateTime Now() => clock.GetUtcNow().UtcDateTime;

    /// <summary>Carries a command out in one transaction, and says in the log what came of it.</summary>
    private async Task<DeskAnswer> RunAsync(string what, int number, Func<StoredJob, Task<DeskAnswer>> command, CancellationToken cancel)
    {
        var started = Stopwatch.GetTimestamp();
        try
        {
            db.ChangeTracker.Clear();
            await using var writing = await db.WriteAsync(cancel);
            var row =
                await db.Jobs.FirstOrDefaultAsync(j => j.Number == number, cancel)
                ?? throw new EntryRefusedException($"There is no job {number}.");
            var wasOpen = row.ClosedAtUtc is null;
            var before = await jobs.ReadAsync(row, cancel);
            var lines = before.Bench.Entries.Length;
            var answer = await command(before);
            if (answer.Job.Bench.Entries.Length != lines || wasOpen != row.ClosedAtUtc is null)
                await FollowShelfAsync(answer.Job, cancel);
            await db.SaveChangesAsync(cancel);
            if (answer is { Refused: null, WasThere: false })
                await writing.CommitAsync(cancel);
            cache.Keep(row.Id, answer.Job.Bench);
            news.Tell(number);
            if (wasOpen && row.ClosedAtUtc is not null)
                news.TellClosed();
            Log(
                answer.Refused is { } refused ? $"refused: {refused.Why}"
                    : answer.WasThere ? "was there"
                    : "done",
                answer.Job.Bench.Lines.Length
            );
            return answer;
        }
        catch (EntryRefusedException)
        {
            // What was refused may name whoever typed it: the kind of command is enough.
            Log("refused", 0);
            throw;
        }
        catch (Exception e) when (StoreTroubles.Of(e) is { } trouble)
        {
            logger.LogError("Command {Command} on job {Job} failed: {Trouble}", what, number, trouble);
            throw new StoreException(trouble, e);
        }

        void Log(string outcome, int line) =>
            logger.LogInformation(
                "Command {Command} on job {Job}: {Outcome}, line {Line}, {Milliseconds:0.0} ms",
                what,
                number,
                outcome,
                line,
                Stopwatch.GetElapsedTime(started).TotalMilliseconds
            );
    }
}
