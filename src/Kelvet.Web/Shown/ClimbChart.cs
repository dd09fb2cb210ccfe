using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Web.Shown;

/// <summary>One trial in the chart.</summary>
/// <param name="Trial">The trial.</param>
/// <param name="X">Left edge.</param>
/// <param name="Top">Top of the range that was reached.</param>
/// <param name="Height">Height of that range.</param>
/// <param name="Cap">Line above which this trial could not climb; null when there was no such line.</param>
/// <param name="Changes">What was changed before it, for the column.</param>
/// <param name="Pairs">Whether it differs from the trial before in one change and in the outcome.</param>
public sealed record ClimbColumn(Trial Trial, double X, double Top, double Height, double? Cap, string Changes, bool Pairs);

/// <summary>The climb: a column per trial, a row per boot stage.</summary>
public sealed class ClimbChart
{
    public const double Row = 20;
    public const double Column = 44;
    public const double Head = 26;
    public const double Foot = 136;
    public const double LabelWidth = 168;

    public ClimbChart(BenchJob job)
    {
        Columns = [.. job.Trials.Select((t, i) => ColumnOf(job, t, i))];
    }

    public ImmutableArray<ClimbColumn> Columns { get; }

    public double Width => Math.Max(Columns.Length, 1) * Column;

    public static double Height => Head + (BootStages.Count * Row) + Foot;

    /// <summary>Top edge of a stage's row; the highest stage is at the top.</summary>
    public static double TopOf(BootStage stage) => Head + ((BootStages.Count - 1 - (int)stage) * Row);

    private static ClimbColumn ColumnOf(BenchJob job, Trial trial, int index)
    {
        // A picture that was not followed further is drawn at the picture's row, with an open end told by its label.
        var high = trial.Seen.ShowsPicture && trial.Seen.High == BootStage.Stable ? trial.Seen.Low : trial.Seen.High;
        var top = TopOf(high);
        var changes = trial.Changes.Length == 0
            ? index == 0 ? "as received" : "no change"
            : string.Join(", ", trial.Changes.Select(c => c.Words(job.Now.Parts)));
        var pairs = index > 0 && trial.Changes.Length == 1 && trial.Seen.ShowsPicture != job.Trials[index - 1].Seen.ShowsPicture;
        double? cap = trial.Ceiling.Stage < BootStage.Picture ? TopOf(trial.Ceiling.Stage) : null;
        return new ClimbColumn(trial, index * Column, top, TopOf(trial.Seen.Low) + Row - top, cap, changes, pairs);
    }
}
