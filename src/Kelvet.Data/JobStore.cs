using System.Collections.Concurrent;
using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>A job read back from the database.</summary>
/// <param name="Row">Number, dates, power and closing.</param>
/// <param name="Bench">Intake and log.</param>
public sealed record StoredJob(JobRow Row, BenchJob Bench)
{
    /// <summary>The number on the job card.</summary>
    public int Number => Row.Number;

    /// <summary>Whether it is closed.</summary>
    public bool IsClosed => Row.ClosedAtUtc is not null;

    /// <summary>Ids of the units found at fault when the job was closed.</summary>
    public ImmutableArray<UnitId> Found =>
        [.. Row.FoundUnits.Split(' ', StringSplitOptions.RemoveEmptyEntries).Where(UnitId.IsValid).Select(id => new UnitId(id))];
}

/// <summary>A job of a list: read, or why it cannot be.</summary>
/// <param name="Row">Number, title, dates and closing.</param>
/// <param name="Job">The job; null when it cannot be read.</param>
/// <param name="Unreadable">Why it cannot be read; empty when it can.</param>
public sealed record ListedJob(JobRow Row, StoredJob? Job, string Unreadable);

/// <summary>Jobs that were read, so that one that is asked for again is read on from where it was. The database is the truth.</summary>
public sealed class JobCache
{
    private const int Most = 400;

    private readonly ConcurrentDictionary<int, BenchJob> _jobs = new();

    /// <summary>Forgets everything: the next look reads the database.</summary>
    public void Forget() => _jobs.Clear();

    internal BenchJob? Find(int id) => _jobs.GetValueOrDefault(id);

    internal void Keep(int id, BenchJob job)
    {
        if (_jobs.Count > Most)
            _jobs.Clear();
        _jobs[id] = job;
    }
}

/// <summary>Reads jobs, and opens new ones. Their logs grow by the <see cref="Desk"/> alone.</summary>
public sealed class JobStore(KelvetDb db, JobCache cache, TimeProvider clock)
{
    private const int FirstNumber = 1001;
    private const int Constraint = 19;

    /// <summary>Opens a new job, with its log when one comes along (an import).</summary>
    /// <exception cref="DataFileException">The intake has a field that is too long to be kept.</exception>
    public async Task<int> OpenAsync(BenchJob job, string by, DateTime? openedAtUtc = null, CancellationToken cancel = default)
    {
        var intake = JobFormat.Write(job.Intake);
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
            catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: Constraint } && attempt < 5)
            {
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>The job of a number, or null.</summary>
    /// <exception cref="DataFileException">What is stored cannot be read by this version; the message says where.</exception>
    public async Task<StoredJob?> FindAsync(int number, CancellationToken cancel = default)
    {
        var row = await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Number == number, cancel);
        return row is null ? null : await ReadAsync(row, cancel);
    }

    /// <summary>Whether there is a job of a number.</summary>
    public Task<bool> ExistsAsync(int number, CancellationToken cancel = default) => db.Jobs.AnyAsync(j => j.Number == number, cancel);

    /// <summary>Reads a job's log, on from where it was read last.</summary>
    internal async Task<StoredJob> ReadAsync(JobRow row, CancellationToken cancel)
    {
        var known = cache.Find(row.Id);
        var from = known?.Entries.Length ?? 0;
        var bodies = await db
            .Steps.AsNoTracking()
            .Where(s => s.JobId == row.Id && s.Number > from)
            .OrderBy(s => s.Number)
            .Select(s => s.Body)
            .ToListAsync(cancel);
        var job =
            known is not null && bodies.Count == 0 ? known : Read(known ?? BenchJob.Open(JobFormat.ReadIntake(row.IntakeJson)), bodies);
        cache.Keep(row.Id, job);
        return new StoredJob(row, job);
    }

    /// <summary>Jobs, newest first, a page at a time. One that cannot be read takes none of the others with it.</summary>
    public async Task<(IReadOnlyList<ListedJob> Jobs, int Total)> ListAsync(
        string? search,
        bool? closed,
        int page,
        int size,
        CancellationToken cancel = default
    )
    {
        var query = db.Jobs.AsNoTracking();
        if (closed is { } c)
            query = query.Where(j => j.ClosedAtUtc != null == c);
        if (!string.IsNullOrWhiteSpace(search))
        {
            var like = $"%{search.Trim().Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_")}%";
            var isNumber = int.TryParse(search.Trim(), out var number);
            query = query.Where(j =>
                EF.Functions.Like(j.Title, like, "\\") || EF.Functions.Like(j.Customer, like, "\\") || (isNumber && j.Number == number)
            );
        }

        var total = await query.CountAsync(cancel);
        var pages = Math.Max(1, (total + size - 1) / size);
        var rows = await query
            .OrderByDescending(j => j.Number)
            .Skip((Math.Clamp(page, 1, pages) - 1) * size)
            .Take(size)
            .ToListAsync(cancel);
        var jobs = new List<ListedJob>(rows.Count);
        foreach (var row in rows)
        {
            try
            {
                jobs.Add(new ListedJob(row, await ReadAsync(row, cancel), ""));
            }
            catch (Exception e) when (IsUnreadable(e))
            {
                jobs.Add(new ListedJob(row, null, e.Message));
            }
        }

        return (jobs, total);
    }

    /// <summary>Whether an exception says that what is stored of a job cannot be read.</summary>
    public static bool IsUnreadable(Exception e) =>
        e
            is DataFileException
                or EntryRefusedException
                or ChangeRefusedException
                or ArgumentException
                or InvalidOperationException
                or KeyNotFoundException;

    private static BenchJob Read(BenchJob job, IReadOnlyList<string> bodies)
    {
        var first = job.Entries.Length + 1;
        return job.With(bodies.Select((body, i) => Line(body, first + i)));

        static Entry Line(string body, int number)
        {
            try
            {
                return JobFormat.ReadEntry(body);
            }
            catch (DataFileException e)
            {
                throw new DataFileException($"Line {number} of the log: {e.Message}", e);
            }
        }
    }

    /// <summary>A line as it is stored.</summary>
    /// <exception cref="EntryRefusedException">It could not be read back, so it is not stored.</exception>
    internal static StepRow RowOf(Entry entry, int number)
    {
        string body;
        try
        {
            body = JobFormat.Write(entry);
            _ = JobFormat.ReadEntry(body);
        }
        catch (Exception e) when (e is DataFileException or ArgumentException)
        {
            throw new EntryRefusedException($"The line cannot be kept: {e.Message}", e);
        }

        return new StepRow
        {
            Id = entry.Id,
            Number = number,
            Body = body,
            AtUtc = entry.At.UtcDateTime,
        };
    }
}
