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

/// <summary>What goes with a new job beside its intake.</summary>
public sealed record Opening
{
    /// <summary>Nothing.</summary>
    public static Opening Nothing { get; } = new();

    /// <summary>Whose machine it is; null to find or keep them by the name in the intake.</summary>
    public int? Customer { get; init; }

    /// <summary>The machine as it was kept; null where it was not.</summary>
    public int? Machine { get; init; }

    /// <summary>What was agreed and left.</summary>
    public DropOff DropOff { get; init; } = DropOff.Nothing;

    /// <summary>When it was promised; null where it was not.</summary>
    public DateTime? PromisedUtc { get; init; }

    /// <summary>Photos at drop-off, JPEG.</summary>
    public IReadOnlyList<byte[]> Photos { get; init; } = [];
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
public sealed class JobStore(KelvetDb db, JobCache cache, TimeProvider clock, JobNews news)
{
    private const int FirstNumber = 1001;
    private const int Constraint = 19;

    /// <summary>Opens a new job, with its log when one comes along (an import).</summary>
    /// <exception cref="DataFileException">The intake has a field that is too long to be kept.</exception>
    public async Task<int> OpenAsync(
        BenchJob job,
        string by,
        DateTime? openedAtUtc = null,
        Opening? with = null,
        CancellationToken cancel = default
    )
    {
        with ??= Opening.Nothing;
        // Whose machine it is stands beside the intake, where it can be erased.
        var intake = JobFormat.Write(job.AsTakenIn with { Customer = "" });
        _ = JobFormat.ReadIntake(intake);
        _ = JobFormat.ReadIntake(JobFormat.Write(job.AsTakenIn));
        var customer = with.Customer ?? await CustomerOfAsync(job.Intake.Customer, cancel);
        for (var attempt = 0; ; attempt++)
        {
            var last = await db.Jobs.MaxAsync(j => (int?)j.Number, cancel) ?? FirstNumber - 1;
            var row = new JobRow
            {
                Number = last + 1,
                Title = job.Intake.Title,
                Customer = job.Intake.Customer,
                CustomerId = customer,
                MachineId = with.Machine,
                IntakeJson = intake,
                DropOffJson = with.DropOff == DropOff.Nothing ? "" : with.DropOff.Write(),
                PromisedUtc = with.PromisedUtc,
                OpenedAtUtc = openedAtUtc ?? clock.GetUtcNow().UtcDateTime,
                OpenedBy = by,
            };
            row.Search = CustomerStore.SearchOf(
                row,
                job.Intake,
                customer is { } c ? await db.Customers.AsNoTracking().FirstOrDefaultAsync(r => r.Id == c, cancel) : null,
                with.Machine is { } m ? await db.Machines.AsNoTracking().FirstOrDefaultAsync(r => r.Id == m, cancel) : null
            );
            row.Steps.AddRange(job.Entries.Select((e, i) => RowOf(e, i + 1)));
            db.Jobs.Add(row);
            try
            {
                await using var transaction = await db.Database.BeginTransactionAsync(cancel);
                await db.SaveChangesAsync(cancel);
                await AttachAsync(row, with.Photos, by, cancel);
                await transaction.CommitAsync(CancellationToken.None);
                news.Tell(row.Number);
                return row.Number;
            }
            catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: Constraint } && attempt < 5)
            {
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>The customer of a name; one that is not there yet is kept. Null where no name was told.</summary>
    private async Task<int?> CustomerOfAsync(string name, CancellationToken cancel)
    {
        if (name.Length == 0)
            return null;
        var row = await db.Customers.FirstOrDefaultAsync(c => c.Name == name, cancel);
        if (row is null)
        {
            db.Customers.Add(
                row = new CustomerRow
                {
                    Name = name,
                    Search = name.ToLowerInvariant(),
                    SinceUtc = clock.GetUtcNow().UtcDateTime,
                }
            );
            await db.SaveChangesAsync(cancel);
        }

        return row.Id;
    }

    /// <summary>Photos at drop-off hang on a line of their own.</summary>
    private async Task AttachAsync(JobRow row, IReadOnlyList<byte[]> photos, string by, CancellationToken cancel)
    {
        if (photos.Count == 0)
            return;
        var note = new NoteEntry(Guid.NewGuid())
        {
            Note = "Photos at drop-off.",
            By = by,
            At = new DateTimeOffset(row.OpenedAtUtc, TimeSpan.Zero),
        };
        var step = RowOf(note, row.Steps.Count + 1);
        step.JobId = row.Id;
        db.Steps.Add(step);
        db.Photos.AddRange(
            photos.Select(p => new PhotoRow
            {
                Id = Guid.NewGuid(),
                JobId = row.Id,
                StepId = note.Id,
                Jpeg = p,
                AtUtc = row.OpenedAtUtc,
            })
        );
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>
    /// Makes jobs of an older version findable by customer, part and mark: once, after a database of that version came in.
    /// </summary>
    public async Task IndexOnceAsync(CancellationToken cancel = default)
    {
        foreach (var row in await db.Jobs.Where(j => j.Search == "").ToListAsync(cancel))
        {
            row.CustomerId ??= await CustomerOfAsync(row.Customer, cancel);
            try
            {
                row.Search = CustomerStore.SearchOf(row, JobFormat.ReadIntake(row.IntakeJson), null, null);
            }
            catch (DataFileException)
            {
                row.Search = $"{row.Number} {row.Title} {row.Customer}".ToLowerInvariant();
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
        var job =
            known is not null && bodies.Count == 0
                ? known
                : Read(known ?? BenchJob.Open(JobFormat.ReadIntake(row.IntakeJson) with { Customer = row.Customer }), bodies);
        cache.Keep(row.Id, job);
        return new StoredJob(row, job);
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

    /// <summary>A job of a list: read, or why it cannot be. One that cannot be read takes none of the others with it.</summary>
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
        return await db
            .Steps.AsNoTracking()
            .Where(s => ids.Contains(s.JobId))
            .GroupBy(s => s.JobId)
            .Select(g => new { g.Key, Lines = g.Max(s => s.Number) })
            .ToDictionaryAsync(g => g.Key, g => g.Lines, cancel);
    }

    /// <summary>What is kept of jobs for their list, by their rows.</summary>
    public async Task<IReadOnlyDictionary<int, CardRow>> CardsAsync(IReadOnlyList<JobRow> jobs, CancellationToken cancel = default)
    {
        int[] ids = [.. jobs.Select(j => j.Id)];
        return await db.Cards.AsNoTracking().Where(c => ids.Contains(c.JobId)).ToDictionaryAsync(c => c.JobId, cancel);
    }

    /// <summary>Keeps what the list shows of a job.</summary>
    public Task KeepCardAsync(int job, string stamp, string json, CancellationToken cancel = default) =>
        db.Database.ExecuteSqlAsync(
            $"""
            INSERT INTO Cards (JobId, Stamp, Json) VALUES ({job}, {stamp}, {json})
            ON CONFLICT (JobId) DO UPDATE SET Stamp = excluded.Stamp, Json = excluded.Json
            """,
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
