using System.Collections.Concurrent;

namespace Kelvet.Data;

/// <summary>
/// How long ago something about a job was recorded, counted by a clock that nobody sets: when the wall clock goes back an
/// hour, nobody waits an hour. What was recorded before this program was started is reckoned by the wall clock once, and
/// counted from there.
/// </summary>
public sealed class Elapsed(TimeProvider clock)
{
    private readonly ConcurrentDictionary<int, (DateTime Recorded, TimeSpan Before, long From)> _known = new();

    /// <summary>Time since a moment of a job, 0 or more.</summary>
    /// <param name="job">The job's key.</param>
    /// <param name="recordedUtc">The moment, as the wall clock had it then; null for none.</param>
    public TimeSpan Since(int job, DateTime? recordedUtc)
    {
        if (recordedUtc is not { } recorded)
            return TimeSpan.Zero;
        var known = _known.AddOrUpdate(job, _ => Reckoned(recorded), (_, k) => k.Recorded == recorded ? k : Reckoned(recorded));
        return known.Before + clock.GetElapsedTime(known.From);
    }

    /// <summary>The moment is now.</summary>
    public void Now(int job, DateTime recordedUtc) => _known[job] = (recordedUtc, TimeSpan.Zero, clock.GetTimestamp());

    private (DateTime Recorded, TimeSpan Before, long From) Reckoned(DateTime recorded)
    {
        var past = clock.GetUtcNow().UtcDateTime - DateTime.SpecifyKind(recorded, DateTimeKind.Utc);
        return (recorded, past > TimeSpan.Zero ? past : TimeSpan.Zero, clock.GetTimestamp());
    }
}
