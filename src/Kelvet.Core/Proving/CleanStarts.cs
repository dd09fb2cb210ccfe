namespace Kelvet.Core.Proving;

/// <summary>
/// How many clean starts it takes to believe in the repair of a fault that came and went. A machine that failed k of n
/// starts fails, unrepaired, at a rate whose posterior under a flat prior is Beta(k + 1, n - k + 1); the chance of m clean
/// starts in a row with that fault still there is then B(k + 1, n - k + 1 + m) / B(k + 1, n - k + 1).
/// </summary>
public static class CleanStarts
{
    /// <summary>More starts than this are never asked for.</summary>
    public const int Most = 500;

    /// <summary>Chance, 0 to 1, of so many clean starts in a row if nothing was repaired.</summary>
    /// <param name="failed">Failed starts before the repair, 1 or more.</param>
    /// <param name="starts">All starts before the repair, at least as many as failed.</param>
    /// <param name="clean">Clean starts since, 0 or more.</param>
    /// <exception cref="ArgumentOutOfRangeException">A count is out of range.</exception>
    public static double ChanceUnrepaired(int failed, int starts, int clean)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(failed, 1);
        ArgumentOutOfRangeException.ThrowIfLessThan(starts, failed);
        ArgumentOutOfRangeException.ThrowIfNegative(clean);

        // The ratio of Beta functions, factor by factor: each clean start multiplies by (b + i) / (a + b + i).
        double a = failed + 1,
            b = starts - failed + 1,
            chance = 1;
        for (var i = 0; i < clean; i++)
            chance *= (b + i) / (a + b + i);
        return chance;
    }

    /// <summary>
    /// Clean starts after which the repair is believed, when before any of them it was as likely to have failed as to
    /// have worked; <see cref="Most"/> when even that many do not do.
    /// </summary>
    /// <param name="failed">Failed starts before the repair, 1 or more.</param>
    /// <param name="starts">All starts before the repair.</param>
    /// <param name="belief">The belief that is asked for, 0.5 to below 1.</param>
    /// <exception cref="ArgumentOutOfRangeException">A count or the belief is out of range.</exception>
    public static int Needed(int failed, int starts, double belief = 0.95)
    {
        if (belief is not (>= 0.5 and < 1))
            throw new ArgumentOutOfRangeException(nameof(belief), belief, "The belief asked for is 0.5 to below 1.");
        for (var clean = 0; clean < Most; clean++)
        {
            if (1 / (1 + ChanceUnrepaired(failed, starts, clean)) >= belief)
                return clean;
        }

        return Most;
    }
}
