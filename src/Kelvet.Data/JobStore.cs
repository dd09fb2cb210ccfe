using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
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
    public ImmutableArray<UnitId> Found => FoundIn(Row);

    /// <summary>The same of a row alone.</summary>
    public static ImmutableArray<UnitId> FoundIn(JobRow row) =>
        [.. row.FoundUnits.Split(' ', StringSplitOptions.RemoveEmptyEntries).Where(UnitId.IsValid).Select(id => new UnitId(id))];
}

/// <summary>A job of a list: read, or why it cannot be.</summary>
/// <param name="Row">Number, title, dates and closing.</param>
/// <param name="Job">The job; null when it cannot be read.</param>
/// <param name="Unreadable">Why it cannot be read; empty when it can.</param>
public sealed record ListedJob(JobRow Row, StoredJob? Job, string Unreadable);

/// <summary>Jobs that were read, so that one that is asked for again is read on from where it was. The database is the truth.</summary>
public sealed class JobCache
{
    private const int Most = 200;

    private readonly Recent<int, BenchJob> _jobs = new(Most);

    /// <summary>Forgets everything: the next look reads the database.</summary>
    public void Forget() => _jobs.Clear();

    /// <summary>Forgets one job.</summary>
    internal void Drop(int id) => _jobs.Drop(id);

    internal BenchJob? Find(int id) => _jobs.TryGet(id, out var job) ? job : null;

    internal void Keep(int id, BenchJob job) => _jobs.Update(id, (_, _) => job);
}

/// <summary>What the list of jobs shows.</summary>
public enum JobsShown
{
    /// <summary>What is here and not closed.</summary>
    Open,

    /// <summary>What waits for a part or the customer.</summary>
    Waiting,

    /// <summary>Closed and not handed over.</summary>
    Ready,

    /// <summary>Closed, handed over or not.</summary>
    Closed,

    /// <summary>Everything.</summary>
    All,
}

/// <summary>Reads jobs, and opens new ones. Their logs grow by the <see cref="Desk"/> alone.</summary>
public sealed class JobStore(KelvetDb db, JobCache cache)
{
    /// <summary>
    /// Makes jobs of an older version findable by customer, part and mark: once, after a database of that version came in.
    /// </summary>
    public async Task IndexOnceAsync(CustomerStore customers, CancellationToken cancel = default)
    {
        foreach (var row in await db.Jobs.Where(j => j.Search == "").ToListAsync(cancel))
        {
            row.CustomerId ??= await customers.NamedAsync(row.Customer, cancel);
            try
            {
                row.Search = CustomerStore.SearchOf(row, JobFormat.ReadIntake(row.IntakeJson), null, null);
            }
            catch (DataFileException)
            {
                row.Search = $"{row.Number} {row.Title} {row.Customer}".ToLowerInvariant();
            }
        }

        foreach (var row in await db.Jobs.Where(j => j.FoundUnits != "" && j.FoundKinds == "").ToListAsync(cancel))
        {
            try
            {
                var parts = JobFormat.ReadIntake(row.IntakeJson).Parts;
                row.FoundKinds = CustomerStore.KindsOf(parts, StoredJob.FoundIn(row));
            }
            catch (DataFileException)
            {
                // What was found there cannot be told; the job stays as it is.
            }
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
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
        var job = known is not null && bodies.Count == 0 ? known : await MendedAsync(row, known, bodies, cancel);
        cache.Keep(row.Id, job);
        return new StoredJob(row, job);
    }

    /// <summary>Reads lines on; where one cannot be read, and was struck for that, the log is read without it.</summary>
    private async Task<BenchJob> MendedAsync(JobRow row, BenchJob? known, IReadOnlyList<string> bodies, CancellationToken cancel)
    {
        try
        {
            return Read(known ?? BenchJob.Open(JobFormat.ReadIntake(row.IntakeJson) with { Customer = row.Customer }), bodies);
        }
        catch (DataFileException)
        {
            var steps = await db.Steps.AsNoTracking().Where(s => s.JobId == row.Id).OrderBy(s => s.Number).ToListAsync(cancel);
            var log = StoredLog.Of(row, steps);
            if (log.Lines.Any(l => l.Unreadable.Length > 0 && !l.IsStruck) || log.Intake.Length > 0)
                throw;
            return Without(log);
        }
    }

    /// <summary>Jobs, newest first, a page at a time.</summary>
    public async Task<(IReadOnlyList<JobRow> Jobs, int Total)> ListAsync(
        string? search,
        JobsShown shown,
        int page,
        int size,
        CancellationToken cancel = default
    )
    {
        var query = db.Jobs.AsNoTracking();
        query = shown switch
        {
            JobsShown.Open => query.Where(j => j.ClosedAtUtc == null),
            JobsShown.Waiting => query.Where(j => j.ClosedAtUtc == null && j.Wait != JobWait.None),
            JobsShown.Ready => query.Where(j => j.ClosedAtUtc != null && j.HandedOverUtc == null),
            JobsShown.Closed => query.Where(j => j.ClosedAtUtc != null),
            _ => query,
        };
        foreach (var word in CustomerStore.WordsOf(search))
        {
            var like = CustomerStore.LikeOf(word);
            query = query.Where(j => EF.Functions.Like(j.Search, like, "\\"));
        }

        var total = await query.CountAsync(cancel);
        var pages = Math.Max(1, (total + size - 1) / size);
        var rows = await query
            .OrderByDescending(j => j.Number)
            .Skip((Math.Clamp(page, 1, pages) - 1) * size)
            .Take(size)
            .ToListAsync(cancel);
        return (rows, total);
    }

    /// <summary>Jobs that were promised, or wait for something that is due, before a day; the earliest first, at most a hundred.</summary>
    /// <param name="before">UTC.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<IReadOnlyList<JobRow>> DueAsync(DateTime before, CancellationToken cancel = default) =>
        await db
            .Jobs.AsNoTracking()
            .Where(j =>
                j.HandedOverUtc == null
                && (j.PromisedUtc < before || (j.ClosedAtUtc == null && j.Wait != JobWait.None && j.DueUtc < before))
            )
            .OrderBy(j => j.PromisedUtc ?? j.DueUtc)
            .Take(100)
            .ToListAsync(cancel);

    /// <summary>A job of a list: read, or why what is stored of it cannot be. One that cannot be read takes none of the others with
    /// it.</summary>
    public async Task<ListedJob> ReadListedAsync(JobRow row, CancellationToken cancel = default)
    {
        try
        {
            return new ListedJob(row, await ReadAsync(row, cancel), "");
        }
        catch (Exception e) when (IsUnreadable(e))
        {
            return new ListedJob(row, null, e.Message);
        }
    }

    /// <summary>Lines of the logs of jobs, by their rows; none for a log without lines.</summary>
    public async Task<IReadOnlyDictionary<int, int>> LinesAsync(IReadOnlyList<JobRow> jobs, CancellationToken cancel = default)
    {
        int[] ids = [.. jobs.Select(j => j.Id)];
        try
        {
            return await db
                .Steps.AsNoTracking()
                .Where(s => ids.Contains(s.JobId))
                .GroupBy(s => s.JobId)
                .Select(g => new { g.Key, Lines = g.Max(s => s.Number) })
                .ToDictionaryAsync(g => g.Key, g => g.Lines, cancel);
        }
        catch (Exception e) when (StoreTroubles.Of(e) == StoreTrouble.Damaged)
        {
            // Each job is read by itself, and says by itself whether it is damaged.
            return ids.ToDictionary(id => id, _ => -1);
        }
    }

    /// <summary>What is kept of jobs for their list, by their rows.</summary>
    public async Task<IReadOnlyDictionary<int, CardRow>> CardsAsync(IReadOnlyList<JobRow> jobs, CancellationToken cancel = default)
    {
        int[] ids = [.. jobs.Select(j => j.Id)];
        try
        {
            return await db.Cards.AsNoTracking().Where(c => ids.Contains(c.JobId)).ToDictionaryAsync(c => c.JobId, cancel);
        }
        catch (Exception e) when (StoreTroubles.Of(e) == StoreTrouble.Damaged)
        {
            // They are only worked out: the list does without until they are made anew.
            return new Dictionary<int, CardRow>();
        }
    }

    /// <summary>Keeps what the list shows of a job.</summary>
    public Task KeepCardAsync(int job, string stamp, string json, CancellationToken cancel = default) =>
        db.DoneAsync(
            c =>
                db.Database.ExecuteSqlAsync(
                    $"""
                    INSERT INTO Cards (JobId, Stamp, Json) VALUES ({job}, {stamp}, {json})
                    ON CONFLICT (JobId) DO UPDATE SET Stamp = excluded.Stamp, Json = excluded.Json
                    """,
                    c
                ),
            cancel
        );

    /// <summary>Numbers of jobs of which nothing is kept for their list, newest first.</summary>
    public async Task<IReadOnlyList<int>> WithoutCardAsync(CancellationToken cancel = default) =>
        await db
            .Jobs.AsNoTracking()
            .Where(j => !db.Cards.Any(c => c.JobId == j.Id))
            .OrderByDescending(j => j.Number)
            .Select(j => j.Number)
            .ToListAsync(cancel);

    /// <summary>Numbers of those jobs whose customer or machine was here in an earlier one.</summary>
    public async Task<IReadOnlySet<int>> BeforeAsync(IReadOnlyList<JobRow> jobs, CancellationToken cancel = default)
    {
        int?[] customers = [.. jobs.Select(j => j.CustomerId).Where(c => c is not null).Distinct()];
        var first = await db
            .Jobs.AsNoTracking()
            .Where(j => customers.Contains(j.CustomerId))
            .GroupBy(j => j.CustomerId)
            .Select(g => new { g.Key, First = g.Min(j => j.OpenedAtUtc) })
            .ToDictionaryAsync(g => g.Key!.Value, g => g.First, cancel);
        return jobs.Where(j => j.CustomerId is { } c && first.TryGetValue(c, out var f) && f < j.OpenedAtUtc)
            .Select(j => j.Number)
            .ToHashSet();
    }

    /// <summary>Whether an exception says that what is stored of a job cannot be read by this version; anything else is a mistake
    /// of the program.</summary>
    public static bool IsUnreadable(Exception e) => e is DataFileException or EntryRefusedException or ChangeRefusedException;

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

    /// <summary>The lines of a job as they are stored, whether they can be read or not; null where there is no such job.</summary>
    public async Task<StoredLog?> AsStoredAsync(int number, CancellationToken cancel = default)
    {
        if (await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Number == number, cancel) is not { } row)
            return null;
        var steps = await db.Steps.AsNoTracking().Where(s => s.JobId == row.Id).OrderBy(s => s.Number).ToListAsync(cancel);
        return StoredLog.Of(row, steps);
    }

    /// <summary>The log of a job in which lines that cannot be read are struck: what is left of it.</summary>
    private static BenchJob Without(StoredLog log) =>
        BenchJob
            .Open(JobFormat.ReadIntake(log.Row.IntakeJson) with { Customer = log.Row.Customer })
            .With(log.Lines.Select(l => l.Entry ?? l.InPlace()));

    /// <summary>The figures that the last closed jobs were closed with, as JSON; those that kept none are left out.</summary>
    /// <param name="most">Most jobs.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task<IReadOnlyList<string>> ClosedFiguresAsync(int most, CancellationToken cancel = default) =>
        await db
            .Jobs.AsNoTracking()
            .Where(j => j.ClosedAtUtc != null && j.ClosedFigures != "")
            .OrderByDescending(j => j.ClosedAtUtc)
            .ThenBy(j => j.Id)
            .Select(j => j.ClosedFigures)
            .Take(most)
            .ToListAsync(cancel);

    /// <summary>Numbers of the jobs that were closed with a fault that the log proved, the latest first.</summary>
    public async Task<IReadOnlyList<int>> ProvedAsync(int most, CancellationToken cancel = default) =>
        await db
            .Jobs.AsNoTracking()
            .Where(j => j.ClosedAtUtc != null && j.ProvedModes != "")
            .OrderByDescending(j => j.ClosedAtUtc)
            .ThenBy(j => j.Id)
            .Select(j => j.Number)
            .Take(most)
            .ToListAsync(cancel);

    /// <summary>Minutes that procedures were measured to take, in all jobs, by their ids.</summary>
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<double>>> MeasuredAsync(CancellationToken cancel = default)
    {
        var bodies = await db
            .Steps.AsNoTracking()
            .Where(s => EF.Functions.Like(s.Body, "%\"procedure\"%") && EF.Functions.Like(s.Body, "%\"minutes\"%"))
            .Select(s => s.Body)
            .ToListAsync(cancel);
        return bodies
            .Select(JobFormat.ReadEntry)
            .OfType<ProcedureEntry>()
            .Where(p => p.Minutes > 0)
            .GroupBy(p => p.Procedure)
            .ToDictionary(g => g.Key, g => (IReadOnlyList<double>)[.. g.Select(p => p.Minutes!.Value)]);
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
