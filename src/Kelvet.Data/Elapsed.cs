using System.Globalization;

namespace Kelvet.Data;

/// <summary>
/// How long ago something was recorded, counted by a clock that nobody sets: the machine's own, which runs from when it was booted.
/// A moment is kept as that clock's reading and the id of the boot that it counts from. After a restart of the program it is as old
/// as the clock shows; after a restart of the machine at least as old as the machine is up, and no older than that is believed. The
/// wall clock, which anybody may set, says nothing of it.
/// </summary>
/// <param name="clock">The clock.</param>
/// <param name="boot">Id of this boot.</param>
public sealed class Elapsed(TimeProvider clock, string boot)
{
    private const string BootId = "/proc/sys/kernel/random/boot_id";

    /// <summary>Id of this boot of the machine (Linux, random(4)); one for this process alone where the system tells none.</summary>
    public static string ThisBoot { get; } = File.Exists(BootId) ? File.ReadAllText(BootId).Trim() : Guid.NewGuid().ToString();

    /// <summary>This moment, to be kept.</summary>
    public string Now() => string.Create(CultureInfo.InvariantCulture, $"{boot} {Reading().TotalMilliseconds:0}");

    /// <summary>Time since a moment that was kept, 0 or more; since this machine was booted where it is of another boot, 0 where it
    /// cannot be read.</summary>
    public TimeSpan Since(string moment)
    {
        if (
            moment.Split(' ') is not [var of, var text]
            || !double.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var at)
        )
            return TimeSpan.Zero;
        var past = of == boot ? Reading() - TimeSpan.FromMilliseconds(at) : Reading();
        return past > TimeSpan.Zero ? past : TimeSpan.Zero;
    }

    private TimeSpan Reading() => TimeSpan.FromSeconds((double)clock.GetTimestamp() / clock.TimestampFrequency);
}
