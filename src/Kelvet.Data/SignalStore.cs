using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>A start of this shop's past at which a signal stood.</summary>
/// <param name="Number">The job.</param>
/// <param name="Line">The line of its log.</param>
/// <param name="Title">The job's title.</param>
/// <param name="Closed">When it was closed, UTC; null when it is open.</param>
/// <param name="Found">Names of the units that were found at fault.</param>
public sealed record SignalPast(int Number, int Line, string Title, DateTime? Closed, IReadOnlyList<string> Found);

/// <summary>What a shop keeps about codes, beeps and lights: its own tables, its makers, its readers, captures, and its past.</summary>
public sealed class SignalStore(KelvetDb db)
{
    /// <summary>Most tables and makers of a shop.</summary>
    public const int Most = 200;

    /// <summary>Most readers of a shop.</summary>
    public const int MostReaders = 16;

    /// <summary>The tables that ship with the shop's own, and what of its own cannot be read, with the reason; that stays stored
    /// and is not used.</summary>
    public async Task<(SignalLibrary Library, IReadOnlyList<(string Id, string Why)> Unreadable)> LibraryAsync()
    {
        var texts = await db.SignalTables.AsNoTracking().OrderBy(t => t.Id).ToListAsync();
        var own = new List<SignalTable>();
        var unreadable = new List<(string, string)>();
        foreach (var row in texts)
        {
            try
            {
                own.Add(SignalTableFile.Read(row.Text, row.Id));
            }
            catch (DataFileException e)
            {
                unreadable.Add((row.Id, e.Message));
            }
        }

        var makers = await db.Makers.AsNoTracking().OrderBy(m => m.Maker).ToListAsync();
        return (
            SignalLibrary.Standard.With(
                own,
                makers.Select(m => new MakerTables(m.Maker, [.. m.Tables.Split(' ', StringSplitOptions.RemoveEmptyEntries)]))
            ),
            unreadable
        );
    }

    /// <summary>Keeps a table; one of the same id is replaced.</summary>
    public async Task KeepAsync(SignalTable table)
    {
        await using var writing = await db.WriteAsync();
        var row = await db.SignalTables.FindAsync(table.Id);
        if (row is null)
            db.SignalTables.Add(row = new SignalTableRow { Id = table.Id });
        row.Text = SignalTableFile.Write(table);
        await db.SaveChangesAsync();
        await writing.CommitAsync();
    }

    /// <summary>Drops a table of the shop's own; one that ships comes back in its place.</summary>
    public Task DropAsync(string id) => db.DoneAsync(db.SignalTables.Where(t => t.Id == id).ExecuteDeleteAsync);

    /// <summary>Says which tables a maker's boards go by; none forgets the maker.</summary>
    public async Task MakerAsync(string maker, IReadOnlyCollection<string> tables)
    {
        await using var writing = await db.WriteAsync();
        var row = await db.Makers.FirstOrDefaultAsync(m => m.Maker == maker);
        if (row is null && tables.Count > 0)
            db.Makers.Add(row = new MakerRow { Maker = maker });
        if (row is null)
            return;
        if (tables.Count == 0)
            db.Makers.Remove(row);
        row.Tables = string.Join(' ', tables);
        await db.SaveChangesAsync();
        await writing.CommitAsync();
    }

    public async Task<IReadOnlyList<ReaderRow>> ReadersAsync() => await db.Readers.AsNoTracking().OrderBy(r => r.Name).ToListAsync();

    /// <summary>Adds a reader.</summary>
    /// <returns>False when one has the name already.</returns>
    public async Task<bool> AddReaderAsync(ReaderRow reader)
    {
        await using var writing = await db.WriteAsync();
        if (await db.Readers.AnyAsync(r => r.Name == reader.Name))
            return false;
        db.Readers.Add(reader);
        await db.SaveChangesAsync();
        await writing.CommitAsync();
        return true;
    }

    public Task RemoveReaderAsync(int id) => db.DoneAsync(db.Readers.Where(r => r.Id == id).ExecuteDeleteAsync);

    /// <summary>Plugs a reader into a job's machine, or takes it out.</summary>
    public Task PlugAsync(int id, int? job) =>
        db.DoneAsync(c => db.Readers.Where(r => r.Id == id).ExecuteUpdateAsync(r => r.SetProperty(x => x.JobNumber, job), c));

    /// <summary>A job's captures by line: number and where it came from.</summary>
    public async Task<ILookup<Guid, (int Id, string Source)>> CapturedAsync(int jobId, CancellationToken cancel = default) =>
        (
            await db
                .Captures.AsNoTracking()
                .Where(c => c.JobId == jobId)
                .OrderBy(c => c.Id)
                .Select(c => new
                {
                    c.StepId,
                    c.Id,
                    c.Source,
                })
                .ToListAsync(cancel)
        ).ToLookup(c => c.StepId, c => (c.Id, c.Source));

    /// <summary>A capture's plain text; null when the job has none of that number.</summary>
    public Task<string?> CaptureAsync(int number, int id, CancellationToken cancel = default) =>
        db
            .Captures.AsNoTracking()
            .Where(c => c.Id == id && db.Jobs.Any(j => j.Id == c.JobId && j.Number == number))
            .Select(c => c.Text)
            .FirstOrDefaultAsync(cancel);

    /// <summary>Where a signal was met in this shop, the newest jobs first.</summary>
    /// <param name="kind">Its kind.</param>
    /// <param name="signal">In the form of the tables.</param>
    /// <param name="most">Most jobs that are told.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task<IReadOnlyList<SignalPast>> PastAsync(SignalKind kind, string signal, int most, CancellationToken cancel = default)
    {
        var field = kind switch
        {
            SignalKind.Beeps => "\"beeps\":",
            SignalKind.Lights => "\"lights\":",
            _ => "\"code\":",
        };
        var lines = await db
            .Steps.AsNoTracking()
            .Where(s => s.Body.Contains(field))
            .OrderByDescending(s => s.JobId)
            .ThenBy(s => s.Number)
            .Select(s => new
            {
                s.JobId,
                s.Number,
                s.Body,
            })
            .ToListAsync(cancel);
        var met = lines.Where(l => Says(l.Body, kind, signal)).DistinctBy(l => l.JobId).Take(most).ToArray();
        var ids = met.Select(m => m.JobId).ToArray();
        var jobs = await db.Jobs.AsNoTracking().Where(j => ids.Contains(j.Id)).ToDictionaryAsync(j => j.Id, cancel);
        return
        [
            .. met.Select(m => (Met: m, Job: jobs[m.JobId]))
                .OrderByDescending(m => m.Job.Number)
                .Select(m => new SignalPast(m.Job.Number, m.Met.Number, m.Job.Title, m.Job.ClosedAtUtc, Names(m.Job))),
        ];
    }

    private static bool Says(string body, SignalKind kind, string signal)
    {
        if (Signs(body) is not { } signs)
            return false;
        return SignalText.Of(
                kind,
                kind switch
                {
                    SignalKind.Beeps => signs.Beeps,
                    SignalKind.Lights => signs.Lights,
                    _ => signs.Code,
                }
            ) == signal;
    }

    private static Signs? Signs(string body)
    {
        try
        {
            var entry = JobFormat.ReadEntry(body);
            return (
                entry as TrialEntry ?? (entry as StrikeEntry)?.Replacement as TrialEntry ?? (entry as InsertEntry)?.Line as TrialEntry
            )?.Signs;
        }
        catch (DataFileException)
        {
            // A line of a newer version: what it says cannot be known here.
            return null;
        }
    }

    private static IReadOnlyList<string> Names(JobRow row)
    {
        if (row.FoundUnits.Length == 0)
            return [];
        var ids = row.FoundUnits.Split(' ', StringSplitOptions.RemoveEmptyEntries).Where(UnitId.IsValid);
        try
        {
            var parts = JobFormat.ReadIntake(row.IntakeJson).Parts;
            return [.. ids.Select(id => parts.Find(new UnitId(id))?.Name ?? id)];
        }
        catch (DataFileException)
        {
            return [.. ids];
        }
    }
}
