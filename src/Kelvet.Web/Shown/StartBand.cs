using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;

namespace Kelvet.Web.Shown;

/// <summary>A start in the band: where it stands, and how it came out.</summary>
/// <param name="Index">Its place from the left, 0 the oldest that is drawn.</param>
/// <param name="Look">How it came out, as the style sheet calls it (see <see cref="ClimbColumn.LookOf"/>).</param>
/// <param name="Title">Its line, and what was seen.</param>
public sealed record StartMark(int Index, string Look, string Title);

/// <summary>
/// All starts of a job in the order in which they were made, a row for each kind: which kind fails, what could not have failed, and how
/// many have been clean since. The pages about starts are three views of it.
/// </summary>
public sealed class StartBand
{
    /// <summary>Starts that are drawn at most; of more, the newest.</summary>
    private const int Most = 80;

    /// <summary>Width of a start, and room that is left above and below it, in units of the drawing.</summary>
    public const double Step = 10;
    public const double Height = 20;

    /// <param name="job">The job.</param>
    public StartBand(BenchJob job)
    {
        Hidden = Math.Max(0, job.Trials.Length - Most);
        Drawn = job.Trials.Skip(Hidden).ToImmutableArray();
        Rows =
        [
            .. StartTally.Of(job).Select(t => (t, t.Trials.Where(s => s.Ordinal > Hidden).Select(s => MarkOf(job, s)).ToImmutableArray())),
        ];
        Changed = [.. Drawn.Select((t, i) => (t, i)).Where(d => d.i > 0 && d.t.Changes.Length > 0).Select(d => d.i)];
        Clean = Intermittence.CleanNow(job);
    }

    /// <summary>Older starts that are not drawn.</summary>
    public int Hidden { get; }

    /// <summary>The starts that are drawn.</summary>
    public ImmutableArray<Trial> Drawn { get; }

    /// <summary>A row for each kind.</summary>
    public ImmutableArray<(StartTally Tally, ImmutableArray<StartMark> Marks)> Rows { get; }

    /// <summary>Places before which something was changed.</summary>
    public ImmutableArray<int> Changed { get; }

    /// <summary>Clean starts in a row of the machine as it now stands.</summary>
    public int Clean { get; }

    /// <summary>Width of the drawing; the next start has a place of its own at its end.</summary>
    public double Width => (Drawn.Length + 1) * Step;

    private StartMark MarkOf(BenchJob job, Trial trial) =>
        new(trial.Ordinal - 1 - Hidden, ClimbColumn.LookOf(job, trial), $"Start {trial.Ordinal}: {trial.Seen.Words()}");
}
