using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Words;

namespace Kelvet.Web.Shown;

/// <summary>A start of the log as a bar of the climb that lies down: stage 0 at the left, 8 at the right.</summary>
/// <param name="Look">How it came out, as the style sheet calls it.</param>
/// <param name="X">Left edge.</param>
/// <param name="Width">How wide the range is.</param>
/// <param name="Words">The same for a reader of the screen.</param>
public sealed record LyingStart(string Look, int X, int Width, string Words)
{
    /// <summary>Width of a stage.</summary>
    private const int Stage = 20;

    /// <param name="job">The job.</param>
    /// <param name="line">A line of its log; null is answered for one that is no start, or does not count.</param>
    public static LyingStart? Of(BenchJob job, LogLine line) =>
        job.Trials.FirstOrDefault(t => t.Number == line.Number) is { } trial
            ? new LyingStart(
                ClimbColumn.LookOf(job, trial),
                (int)trial.Seen.Low * Stage,
                ((trial.Seen.ShowsPicture && trial.Seen.High == BootStage.Stable ? trial.Seen.Low : trial.Seen.High) - trial.Seen.Low + 1)
                    * Stage,
                trial.Seen.Words()
            )
            : null;
}
