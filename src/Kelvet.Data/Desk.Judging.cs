using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Microsoft.Extensions.Logging;

namespace Kelvet.Data;

/// <summary>Works out of a log everything that the pages show of it.</summary>
public interface ILineJudge
{
    /// <summary>Works it out; whatever goes wrong is thrown.</summary>
    /// <param name="longer">The job with its new lines.</param>
    /// <param name="lines">The new lines.</param>
    /// <param name="cancel">Stops the work.</param>
    Task JudgeAsync(StoredJob longer, IReadOnlyList<Entry> lines, CancellationToken cancel);
}

/// <content>No line is stored before it was read back and everything that is shown of the log was worked out with it.</content>
public sealed partial class Desk
{
    /// <summary>The log that was judged ahead, and the log with its new line.</summary>
    private (BenchJob From, BenchJob Longer)? _judged;

    /// <summary>
    /// Strikes a line of a job that cannot be read, or worked out, as a whole. It is taken even where it does not mend all of it: a
    /// job may have more lines that are wrong.
    /// </summary>
    /// <param name="number">The job.</param>
    /// <param name="line">Id of the line.</param>
    /// <param name="reason">Why, in the technician's words.</param>
    /// <param name="id">Id of the line that strikes it.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">The job works: its log is mended in the log; or there is no such line, it is a
    /// correction, it is struck already, or no reason is given.</exception>
    public async Task StrikeStoredAsync(int number, Guid line, string reason, Guid id, DeskRules rules, CancellationToken cancel = default)
    {
        if (await WorksAsync(number, cancel))
            throw new EntryRefusedException("This job can be read and worked out: mend it in its log, where you see what follows.");
        db.ChangeTracker.Clear();
        await using var writing = await db.WriteAsync(cancel);
        var log = await jobs.AsStoredAsync(number, cancel) ?? throw new EntryRefusedException($"There is no job {number}.");
        if (log.Lines.Any(l => l.Id == id))
            return;
        var struck = log.Lines.FirstOrDefault(l => l.Id == line) ?? throw new EntryRefusedException("There is no such line in this job.");
        if (struck.IsStruck || struck.Entry is StrikeEntry)
            throw new EntryRefusedException($"Line {struck.Number} is a correction, or is struck already.");
        if (string.IsNullOrWhiteSpace(reason) || reason.Length > Entry.LongestNote)
            throw new EntryRefusedException($"Say why the line is struck, in 1 to {Entry.LongestNote} characters.");
        var row = JobStore.RowOf(Stamped(new StrikeEntry(id, line, reason.Trim()), rules), log.Lines.Length + 1);
        row.JobId = log.Row.Id;
        db.Steps.Add(row);
        await KeepRulesAsync(rules.Rules, cancel);
        await db.SaveChangesAsync(cancel);
        await writing.CommitAsync(cancel);
        cache.Drop(log.Row.Id);
        news.Tell(number);
        logger.LogInformation("Command {Command} on job {Job}: {Outcome}", "strike stored line", number, "done");
    }

    /// <summary>Whether a job can be read, and everything that is shown of it worked out.</summary>
    private async Task<bool> WorksAsync(int number, CancellationToken cancel)
    {
        try
        {
            if (await jobs.FindAsync(number, cancel) is { } job)
                await judge.JudgeAsync(job, job.Bench.Entries, cancel);
            return true;
        }
        catch (Exception e) when (e is not OperationCanceledException && StoreTroubles.Of(e) is null)
        {
            return false;
        }
    }

    private Entry Stamped(Entry entry, DeskRules rules) =>
        entry with
        {
            By = entry.By.Length > 0 ? entry.By : rules.By,
            At = entry.At == default ? clock.GetUtcNow() : entry.At,
            AtlasVersion = Atlas.Standard.Version,
            Rules = rules.Rules.Id,
        };

    /// <summary>The log with a line as it will be read back.</summary>
    private static BenchJob Appended(BenchJob before, StepRow row) => before.Append(JobFormat.ReadEntry(row.Body));

    /// <summary>Judges a line before the write lock is taken, so that benches do not wait for each other's sums.</summary>
    private async Task JudgeAheadAsync(int number, Entry stamped, int? lines, CancellationToken cancel)
    {
        if (await jobs.FindAsync(number, cancel) is not { IsClosed: false } job || job.Bench.Has(stamped.Id))
            return;
        if (lines is { } seen && seen != job.Bench.Lines.Length)
            return;
        var longer = Appended(job.Bench, JobStore.RowOf(stamped, job.Bench.Entries.Length + 1));
        await JudgeAsync(job with { Bench = longer }, [stamped], cancel);
        _judged = (job.Bench, longer);
    }

    private async Task JudgeAsync(StoredJob longer, IReadOnlyList<Entry> lines, CancellationToken cancel)
    {
        try
        {
            await judge.JudgeAsync(longer, lines, cancel);
        }
        catch (Exception e) when (e is DataFileException or ChangeRefusedException)
        {
            throw new EntryRefusedException($"The line does not fit: {e.Message} Nothing was recorded.", e);
        }
        catch (Exception e) when (e is not (EntryRefusedException or OperationCanceledException) && StoreTroubles.Of(e) is null)
        {
            logger.LogError(e, "A line of kind {Kind} cannot be worked out on job {Job}", lines[^1].GetType().Name, longer.Number);
            throw new EntryRefusedException(
                "Kelvet cannot work this line out: that is a mistake of the program, and stands in its log file. Nothing was "
                    + "recorded; say it another way, or as a note.",
                e
            );
        }
    }
}
