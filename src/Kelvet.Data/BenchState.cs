using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>What goes on at the bench beside the log: power, timers, photos.</summary>
public sealed class BenchState(KelvetDb db, TimeProvider clock)
{
    /// <summary>Timers that ended longer ago than this are not shown any more.</summary>
    private static readonly TimeSpan Stale = TimeSpan.FromMinutes(10);

    /// <summary>Most timers that run for one job.</summary>
    public const int MostTimers = 6;

    /// <summary>Most photos of one line.</summary>
    public const int MostPhotos = 8;

    /// <summary>Records what was done about supply and lead.</summary>
    public Task PowerAsync(int number, Power power, CancellationToken cancel = default)
    {
        var now = clock.GetUtcNow().UtcDateTime;
        return db.Jobs.Where(j => j.Number == number).ExecuteUpdateAsync(j => j.SetProperty(x => x.Power, power).SetProperty(x => x.PowerSinceUtc, now), cancel);
    }

    /// <summary>Starts a countdown; one of the same name starts again.</summary>
    /// <param name="number">The job.</param>
    /// <param name="name">What it is for.</param>
    /// <param name="seconds">Length, 1 to 7200.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task StartTimerAsync(int number, string name, int seconds, CancellationToken cancel = default)
    {
        var job = await db.Jobs.AsNoTracking().Where(j => j.Number == number).Select(j => j.Id).FirstAsync(cancel);
        await db.Timers.Where(t => t.JobId == job && t.Name == name).ExecuteDeleteAsync(cancel);
        if (await db.Timers.CountAsync(t => t.JobId == job, cancel) >= MostTimers)
            await db.Timers.Where(t => t.JobId == job).OrderBy(t => t.StartedAtUtc).Take(1).ExecuteDeleteAsync(cancel);
        db.Timers.Add(new TimerRow { JobId = job, Name = name, Seconds = Math.Clamp(seconds, 1, 7200), StartedAtUtc = clock.GetUtcNow().UtcDateTime });
        await db.SaveChangesAsync(cancel);
    }

    public Task StopTimerAsync(int jobId, string name, CancellationToken cancel = default) =>
        db.Timers.Where(t => t.JobId == jobId && t.Name == name).ExecuteDeleteAsync(cancel);

    /// <summary>Timers that run or ended a little while ago, oldest first.</summary>
    public async Task<IReadOnlyList<TimerRow>> TimersAsync(int jobId, CancellationToken cancel = default)
    {
        var now = clock.GetUtcNow().UtcDateTime;
        var all = await db.Timers.AsNoTracking().Where(t => t.JobId == jobId).OrderBy(t => t.Id).ToListAsync(cancel);
        return all.FindAll(t => t.StartedAtUtc.AddSeconds(t.Seconds) + Stale > now);
    }

    /// <summary>Keeps a photo of a line.</summary>
    /// <returns>False when the line has as many as it may.</returns>
    public async Task<bool> AddPhotoAsync(int jobId, Guid step, byte[] jpeg, CancellationToken cancel = default)
    {
        if (await db.Photos.CountAsync(p => p.JobId == jobId && p.StepId == step, cancel) >= MostPhotos) return false;
        db.Photos.Add(new PhotoRow { Id = Guid.NewGuid(), JobId = jobId, StepId = step, Jpeg = jpeg, AtUtc = clock.GetUtcNow().UtcDateTime });
        await db.SaveChangesAsync(cancel);
        return true;
    }

    /// <summary>The ids of a job's photos by line.</summary>
    public async Task<ILookup<Guid, Guid>> PhotosAsync(int jobId, CancellationToken cancel = default) =>
        (await db.Photos.AsNoTracking().Where(p => p.JobId == jobId).OrderBy(p => p.AtUtc).Select(p => new { p.StepId, p.Id }).ToListAsync(cancel)).ToLookup(p => p.StepId, p => p.Id);

    public Task<byte[]?> PhotoAsync(int number, Guid id, CancellationToken cancel = default) =>
        db.Photos.AsNoTracking().Where(p => p.Id == id && db.Jobs.Any(j => j.Id == p.JobId && j.Number == number)).Select(p => p.Jpeg).FirstOrDefaultAsync(cancel);
}
