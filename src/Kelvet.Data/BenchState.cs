using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>Reads what goes on at the bench beside the log: timers and photos.</summary>
public sealed class BenchState(KelvetDb db, TimeProvider clock)
{
    /// <summary>Timers that ended longer ago than this are not shown any more.</summary>
    private static readonly TimeSpan Stale = TimeSpan.FromMinutes(10);

    /// <summary>Most timers that run for one job.</summary>
    public const int MostTimers = 6;

    /// <summary>Most photos of one line.</summary>
    public const int MostPhotos = 8;

    /// <summary>Most bytes of all photos of the shop.</summary>
    public const long MostPhotoBytes = 20_000_000_000;

    /// <summary>Most characters of all captures of the shop.</summary>
    public const long MostCaptureCharacters = 2_000_000_000;

    /// <summary>Timers that run or ended a little while ago, oldest first.</summary>
    public async Task<IReadOnlyList<TimerRow>> TimersAsync(int jobId, CancellationToken cancel = default)
    {
        var now = clock.GetUtcNow().UtcDateTime;
        var all = await db.Timers.AsNoTracking().Where(t => t.JobId == jobId).OrderBy(t => t.Id).ToListAsync(cancel);

        // A clock that was set back must not make a countdown longer than it is.
        foreach (var ahead in all.Where(t => t.StartedAtUtc > now))
            ahead.StartedAtUtc = now;
        return all.FindAll(t => t.StartedAtUtc.AddSeconds(t.Seconds) + Stale > now);
    }

    /// <summary>The ids of a job's photos by line.</summary>
    public async Task<ILookup<Guid, Guid>> PhotosAsync(int jobId, CancellationToken cancel = default) =>
        (
            await db
                .Photos.AsNoTracking()
                .Where(p => p.JobId == jobId)
                .OrderBy(p => p.AtUtc)
                .Select(p => new { p.StepId, p.Id })
                .ToListAsync(cancel)
        ).ToLookup(p => p.StepId, p => p.Id);

    /// <summary>A photo, JPEG; null when the job has none of that id.</summary>
    public Task<byte[]?> PhotoAsync(int number, Guid id, CancellationToken cancel = default) =>
        db
            .Photos.AsNoTracking()
            .Where(p => p.Id == id && db.Jobs.Any(j => j.Id == p.JobId && j.Number == number))
            .Select(p => p.Jpeg)
            .FirstOrDefaultAsync(cancel);

    /// <summary>Bytes of all photos and characters of all captures.</summary>
    public async Task<(long Photos, long Captures)> SizesAsync(CancellationToken cancel = default) =>
        (
            await db.Photos.SumAsync(p => (long?)p.Jpeg.Length, cancel) ?? 0,
            await db.Captures.SumAsync(c => (long?)c.Text.Length, cancel) ?? 0
        );
}
