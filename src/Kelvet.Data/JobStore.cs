using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Files;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>A job read back from the database.</summary>
/// <param name="Row">Number, dates and closing.</param>
/// <param name="Bench">Intake and log.</param>
public sealed record StoredJob(JobRow Row, BenchJob Bench)
{
    public int Number => Row.Number;

    public bool IsClosed => Row.ClosedAtUtc is not null;

    /// <summary>Ids of the units found at fault when the job was closed.</summary>
    public ImmutableArray<UnitId> Found =>
        [.. Row.FoundUnits.Split(' ', StringSplitOptions.RemoveEmptyEntries).Where(UnitId.IsValid).Select(id => new UnitId(id))];
}

/// <summary>Reads and writes jobs. The log grows by <see cref="AppendAsync"/> alone.</summary>
public sealed class JobStore(KelvetDb db, TimeProvider clock)
{
    private const int FirstNumber = 1001;
    private const int UniqueViolation = 19;

    /// <summary>Opens a new job, with its log when one comes along (an import).</summary>
    /// <exception cref="DataFileException">The intake has a field that is too long to be kept.</exception>
    public async Task<int> OpenAsync(BenchJob job, string by, DateTime? openedAtUtc = null, CancellationToken cancel = default)
    {
        var intake = JobWriter.Write(job.Intake);
        _ = JobFormat.ReadIntake(intake);
        for (var attempt = 0; ; attempt++)
        {
            var last = await db.Jobs.MaxAsync(j => (int?)j.Number, cancel) ?? FirstNumber - 1;
            var row = new JobRow
            {
                Number = last + 1,
                Title = job.Intake.Title,
                Customer = job.Intake.Customer,
                IntakeJson = intake,
                OpenedAtUtc = openedAtUtc ?? clock.GetUtcNow().UtcDateTime,
                OpenedBy = by,
            };
            row.Steps.AddRange(job.Entries.Select((e, i) => RowOf(e, i + 1)));
            db.Jobs.Add(row);
            try
            {
                await db.SaveChangesAsync(cancel);
                return row.Number;
            }
            catch (DbUpdateException e) when (IsUniqueViolation(e) && attempt < 5)
            {
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>The job of a number, or null.</summary>
    public async Task<StoredJob?> FindAsync(int number, CancellationToken cancel = default)
    {
        var row = await db.Jobs.AsNoTracking().Include(j => j.Steps.OrderBy(s => s.Number)).FirstOrDefaultAsync(j => j.Number == number, cancel);
        return row is null ? null : Read(row);
    }

    /// <summary>
    /// Adds a line to a job's log. On return it is on the disk. A line whose id is stored already is left as it is.
    /// </summary>
    /// <returns>The job with the line.</returns>
    /// <exception cref="EntryRefusedException">The line does not fit the machine as it stands, or the job is closed.</exception>
    public async Task<StoredJob> AppendAsync(int number, Entry entry, CancellationToken cancel = default)
    {
        for (var attempt = 0; ; attempt++)
        {
            var stored = await FindAsync(number, cancel) ?? throw new EntryRefusedException($"There is no job {number}.");
            if (stored.Bench.Entries.Any(e => e.Id == entry.Id)) return stored;
            if (stored.IsClosed) throw new EntryRefusedException($"Job {number} is closed. Reopen it to record more.");
            var stamped = entry with { At = entry.At == default ? clock.GetUtcNow() : entry.At, AtlasVersion = Atlas.Standard.Version };
            var longer = stored.Bench.Append(stamped);
            var row = RowOf(stamped, longer.Entries.Length);
            row.JobId = stored.Row.Id;
            db.Steps.Add(row);
            try
            {
                await db.SaveChangesAsync(cancel);
                stored.Row.Steps.Add(row);
                return stored with { Bench = longer };
            }
            catch (DbUpdateException e) when (IsUniqueViolation(e) && attempt < 5)
            {
                // Another bench wrote to this job in between: read again and check against what it wrote.
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>Closes a job with the units that were found at fault and the fault modes that its log proved.</summary>
    public async Task CloseAsync(int number, string by, string words, IEnumerable<UnitId> found, IEnumerable<string> provedModes, DateTime? closedAtUtc = null, CancellationToken cancel = default)
    {
        var row = await db.Jobs.FirstAsync(j => j.Number == number, cancel);
        row.ClosedAtUtc = closedAtUtc ?? clock.GetUtcNow().UtcDateTime;
        row.ClosedBy = by;
        row.ClosingWords = words;
        row.FoundUnits = string.Join(' ', found);
        row.ProvedModes = string.Join(' ', provedModes);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>The closed jobs that teach base rates: those with a proved fault, closed since the shop last forgot.</summary>
    public async Task<IReadOnlyList<ProvedJob>> ProvedAsync(DateTime? since, CancellationToken cancel = default)
    {
        var rows = await db.Jobs.AsNoTracking().Where(j => j.ClosedAtUtc != null && j.ProvedModes != "" && (since == null || j.ClosedAtUtc >= since))
            .Select(j => new { j.IntakeJson, j.ProvedModes }).ToListAsync(cancel);
        return rows.ConvertAll(r =>
        {
            var intake = JobFormat.ReadIntake(r.IntakeJson);
            return new ProvedJob(intake.Parts, [.. intake.Contexts], [.. r.ProvedModes.Split(' ')]);
        });
    }

    public async Task ReopenAsync(int number, CancellationToken cancel = default)
    {
        var row = await db.Jobs.FirstAsync(j => j.Number == number, cancel);
        row.ClosedAtUtc = null;
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Jobs, newest first, a page at a time.</summary>
    public async Task<(IReadOnlyList<StoredJob> Jobs, int Total)> ListAsync(string? search, bool? closed, int page, int size, CancellationToken cancel = default)
    {
        var query = db.Jobs.AsNoTracking();
        if (closed is { } c) query = query.Where(j => j.ClosedAtUtc != null == c);
        if (!string.IsNullOrWhiteSpace(search))
        {
            var like = $"%{search.Trim().Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_")}%";
            var isNumber = int.TryParse(search.Trim(), out var number);
            query = query.Where(j => EF.Functions.Like(j.Title, like, "\\") || EF.Functions.Like(j.Customer, like, "\\") || (isNumber && j.Number == number));
        }

        var total = await query.CountAsync(cancel);
        var rows = await query.OrderByDescending(j => j.Number).Skip((page - 1) * size).Take(size)
            .Include(j => j.Steps.OrderBy(s => s.Number)).AsSplitQuery().ToListAsync(cancel);
        return (rows.ConvertAll(Read), total);
    }

    private static StoredJob Read(JobRow row)
    {
        var job = BenchJob.Open(JobFormat.ReadIntake(row.IntakeJson));
        return new StoredJob(row, job.With(row.Steps.Select(s => JobFormat.ReadEntry(s.Body))));
    }

    private static StepRow RowOf(Entry entry, int number)
    {
        var body = JobWriter.Write(entry);
        try
        {
            // What cannot be read back is not stored.
            _ = JobFormat.ReadEntry(body);
        }
        catch (DataFileException e)
        {
            throw new EntryRefusedException($"The line cannot be kept: {e.Message}", e);
        }

        return new StepRow { Id = entry.Id, Number = number, Body = body, AtUtc = entry.At.UtcDateTime };
    }

    private static bool IsUniqueViolation(DbUpdateException e) => e.InnerException is SqliteException { SqliteErrorCode: UniqueViolation };
}
