using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;

namespace Kelvet.Web.Shown;

/// <summary>One trial in the chart.</summary>
/// <param name="Trial">The trial.</param>
/// <param name="X">Left edge.</param>
/// <param name="Top">Top of the range that was reached.</param>
/// <param name="Height">Height of that range.</param>
/// <param name="Cap">Line above which this trial could not climb; null when there was no such line.</param>
/// <param name="Changes">What was changed before it, for the column.</param>
/// <param name="Sign">What lights, code or beeps said, shortly; empty when nothing was noted.</param>
/// <param name="Corrected">Whether the line was corrected.</param>
/// <param name="Looks">Looks and readings made between the trial before and this one, in words.</param>
/// <param name="Pairs">Whether it differs from the trial before in one change and in the outcome.</param>
public sealed record ClimbColumn(
    Trial Trial,
    double X,
    double Top,
    double Height,
    double? Cap,
    string Changes,
    bool Pairs,
    string Sign,
    bool Corrected,
    ImmutableArray<string> Looks
);

/// <summary>The climb: a column per trial, a row per boot stage.</summary>
public sealed class ClimbChart
{
    public const double Row = 18;
    public const double Column = 44;
    public const double Head = 24;
    private const double Changes = 132;
    public const double LabelWidth = 168;

    public ClimbChart(BenchJob job)
    {
        Columns = [.. job.Trials.Select((t, i) => ColumnOf(job, t, i))];
    }

    public ImmutableArray<ClimbColumn> Columns { get; }

    public double Width => Math.Max(Columns.Length, 1) * Column;

    /// <summary>Whether a row for lights, codes and beeps is needed.</summary>
    public bool HasSigns => Columns.Any(c => c.Sign.Length > 0);

    public double Height => Head + (BootStages.Count * Row) + Changes;

    /// <summary>Characters that fit below a column, under the row of signs where there is one.</summary>
    public int LongestChange => HasSigns ? 12 : 14;

    /// <summary>Where the words of the changes begin: from above, so that a low panel cuts their end and not their beginning.</summary>
    public double ChangesFrom => TopOf(BootStage.NoStandby) + Row + (HasSigns ? 32 : 14);

    /// <summary>Top edge of a stage's row; the highest stage is at the top.</summary>
    public static double TopOf(BootStage stage) => Head + ((BootStages.Count - 1 - (int)stage) * Row);

    private static ClimbColumn ColumnOf(BenchJob job, Trial trial, int index)
    {
        // A picture that was not followed further is drawn at the picture's row, with an open end told by its label.
        var high = trial.Seen.ShowsPicture && trial.Seen.High == BootStage.Stable ? trial.Seen.Low : trial.Seen.High;
        var top = TopOf(high);
        var changes =
            trial.Changes.Length == 0
                ? index == 0
                    ? "as received"
                    : "no change"
                : trial.Changes.Words(job.Now.Parts);
        var pairs = index > 0 && trial.Changes.Length == 1 && trial.Seen.ShowsPicture != job.Trials[index - 1].Seen.ShowsPicture;
        double? cap = trial.Ceiling.Stage < BootStage.Picture ? TopOf(trial.Ceiling.Stage) : null;
        var before = index == 0 ? 0 : job.Trials[index - 1].Position;
        ImmutableArray<string> looks =
        [
            .. job
                .Testimonies.Where(t => t.Position > before && t.Position < trial.Position && t.Entry is FindingEntry or ElsewhereEntry)
                .Select(t => $"{t.Number}: {LogWords.Of(job, t.Entry)}"),
        ];
        var corrected = job.Lines[trial.Number - 1].StruckBy is not null;
        return new ClimbColumn(
            trial,
            index * Column,
            top,
            TopOf(trial.Seen.Low) + Row - top,
            cap,
            changes,
            pairs,
            SignOf(trial.Entry),
            corrected,
            looks
        );
    }

    private static string SignOf(TrialEntry trial)
    {
        if (trial.Signs.Code.Length > 0)
            return Text.Cut(trial.Signs.Code, 5);
        if (trial.Signs.Beeps.Length > 0)
            return "beeps";
        if (trial.Signs.Lights.Length > 0)
            return "lights";
        return trial.Stall?.Pointed switch
        {
            StallDomain.Power => "pwr",
            StallDomain.Cpu => "CPU",
            StallDomain.Memory => "mem",
            StallDomain.Video => "vid",
            StallDomain.Boot => "boot",
            _ => "",
        };
    }
}
