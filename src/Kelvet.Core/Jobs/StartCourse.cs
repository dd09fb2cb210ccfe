using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>What usually has happened by a time after pressing start.</summary>
/// <param name="Seconds">After pressing start, 0 and above.</param>
/// <param name="Words">What has usually happened by then.</param>
public sealed record StartMark(int Seconds, string Words);

/// <summary>
/// How a start usually goes, and how long to wait before "no picture" may be said. The times are common practice with no
/// source; a board that has been seen to start in this job goes by its own time.
/// </summary>
/// <param name="Marks">What usually happens when, earliest first.</param>
/// <param name="Wait">Seconds before "no picture" may be said.</param>
/// <param name="Why">Why it may take longer than usual; empty for an ordinary start.</param>
public sealed record StartCourse(ImmutableArray<StartMark> Marks, int Wait, string Why)
{
    /// <summary>Seconds of wait for an ordinary start.</summary>
    public const int Usual = 60;

    private const int UsualPicture = 20;
    private const int Training = 180;
    private const int LongTraining = 600;
    private const int AfterFlash = 300;

    /// <summary>How the next start goes, or the one that is under way.</summary>
    /// <param name="job">The job so far.</param>
    /// <param name="pending">What was changed since its last start.</param>
    public static StartCourse Of(BenchJob job, IEnumerable<Change> pending)
    {
        var parts = job.Now.Parts;
        var since = job.Trials.Reverse().TakeWhile(t => !t.Seen.ShowsPicture).SelectMany(t => t.Changes).Concat(pending).ToArray();
        var picture = Own(job) ?? UsualPicture;
        var (wait, why) = (Math.Max(Usual, 2 * picture), "");
        if (since.Any(c => c is Change.Mend { Remedy: Remedy.Flash }))
            (wait, why) = (AfterFlash, "First start after a flash: it may restart by itself up to three times. Leave it alone.");
        else if (since.Any(c => c is Change.ClearCmos || Kinds(c).Any(Retrains)))
        {
            var slow = parts.All.OfType<MemoryStick>().Any(s => s.MemoryType == "DDR5") || job.Now.Board?.MemoryType == "DDR5";
            wait = slow ? LongTraining : Training;
            why = $"The memory is trained anew: no picture for up to {wait / 60} minutes and a restart or two are normal.";
        }

        return new StartCourse(
            [
                new(2, "fans turn"),
                new(Math.Max(3, picture / 2), "codes and lights move"),
                new(picture, "picture"),
                new(picture + 40, "system loads"),
            ],
            wait,
            why
        );

        IEnumerable<UnitKind> Kinds(Change change) => change.Subject is { } id && parts.Find(id) is { } unit ? [unit.Kind] : [];
    }

    private static bool Retrains(UnitKind kind) => kind is UnitKind.MemoryStick or UnitKind.Cpu or UnitKind.Motherboard;

    /// <summary>The longest that this machine took to a picture in this job; null when it was never timed.</summary>
    private static int? Own(BenchJob job) =>
        job.Trials.Where(t => t.Seen.ShowsPicture).Select(t => t.Entry.Signs.Waited).Where(w => w is > 0 and < Usual * 10).Max();
}
