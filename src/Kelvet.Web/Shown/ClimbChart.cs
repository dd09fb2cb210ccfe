using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Shown;

/// <summary>One column of the chart: a start, or several of the same machine folded into one.</summary>
/// <param name="Trials">The starts, oldest first; at least one.</param>
/// <param name="X">Left edge.</param>
/// <param name="Top">Top of the range that was reached.</param>
/// <param name="Height">Height of that range.</param>
/// <param name="Cap">Line above which this trial could not climb; null when there was no such line.</param>
/// <param name="Changes">What was changed before it, in full.</param>
/// <param name="Brief">The same in lines short enough for the column.</param>
/// <param name="Sign">What lights, code or beeps said, shortly; empty when nothing was noted.</param>
/// <param name="Corrected">Whether a line of it was corrected.</param>
/// <param name="Looks">Looks and readings made between the trial before and this one, in words.</param>
/// <param name="Pairs">Whether it differs from the trial before in one change and in the outcome.</param>
public sealed record ClimbColumn(
    ImmutableArray<Trial> Trials,
    double X,
    double Top,
    double Height,
    double? Cap,
    string Changes,
    ImmutableArray<string> Brief,
    bool Pairs,
    string Sign,
    bool Corrected,
    ImmutableArray<string> Looks
)
{
    /// <summary>
    /// Base line of <see cref="Sign"/>: above the range, or below one that reaches the top; null where there is none, or no room between
    /// the range and the words under the column. The column's title has it in full.
    /// </summary>
    public double? SignAt =>
        Sign.Length == 0 ? null
        : Top > ClimbChart.TopOf(BootStage.Picture) ? Top - 4
        : Top + Height + 15 <= ClimbChart.Head + (BootStages.Count * ClimbChart.Row) ? Top + Height + 15
        : null;

    /// <summary>The last of its starts.</summary>
    public Trial Trial => Trials[^1];

    /// <summary>Which start it is, 1 the first; or which starts.</summary>
    public string Number => Trials.Length == 1 ? $"{Trial.Ordinal}" : $"{Trials[0].Ordinal}–{Trial.Ordinal}";

    /// <summary>"7 starts: 4 passed"; empty for one.</summary>
    public string Folded { get; init; } = "";

    /// <summary>
    /// How a start came out, as the style sheet calls it: what got there and was not followed to its end did neither; what passed and
    /// could not have failed says nothing, and is hollow.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="trial">A start of it.</param>
    public static string LookOf(BenchJob job, Trial trial) =>
        trial.Failed ? "fail"
        : !trial.Passed ? "unfollowed"
        : job.CouldHaveFailed(trial) ? "pass"
        : "hollow";

    /// <summary>"7 starts, 4 passed"; where none was followed to its end, or none could have failed, that instead.</summary>
    internal static string CountOf(BenchJob job, ImmutableArray<Trial> trials, string then = ", ") =>
        trials.All(t => !t.Passed && !t.Failed) ? $"{trials.Length} starts{then}not followed to the end"
        : trials.All(t => !job.CouldHaveFailed(t)) ? $"{trials.Length} starts{then}none could show it"
        : $"{trials.Length} starts{then}{trials.Count(t => t.Passed)} passed";
}

/// <summary>A proof both ways, drawn over the columns that make it.</summary>
/// <param name="From">Left end.</param>
/// <param name="To">Right end.</param>
/// <param name="Marks">Middles of its columns.</param>
/// <param name="Words">What is proved.</param>
public sealed record ClimbProof(double From, double To, ImmutableArray<double> Marks, string Words);

/// <summary>The climb: the job's story, a column per start, a row per boot stage.</summary>
public sealed class ClimbChart
{
    public const double Row = 15;
    public const double Head = 20;
    public const double LabelWidth = 104;

    private const double Wide = 92;

    /// <summary>Room for all columns of a long job at once, and how narrow a column may get for it.</summary>
    private const double WholeWidth = 180;
    private const double Narrowest = 6;
    private const double Narrow = 26;
    private const double Line = 18;
    private const int MostLines = 2;

    /// <summary>Characters that fit in a line below a column.</summary>
    private const int LineLength = 10;

    /// <summary>Starts of the same machine in a row from which they are folded.</summary>
    private const int FoldsFrom = 3;

    /// <param name="diagnosis">The job as read.</param>
    /// <param name="whole">Whether all columns are drawn so narrow that a long job fits, without words.</param>
    /// <param name="apart">Lines that are drawn by themselves though they could be folded.</param>
    public ClimbChart(BenchDiagnosis diagnosis, bool whole = false, params IEnumerable<int> apart)
    {
        Whole = whole;
        var job = diagnosis.Job;
        Column = whole ? Math.Clamp(Math.Floor(WholeWidth / Math.Max(1, job.Trials.Length)), Narrowest, Narrow) : Wide;
        var columns = ImmutableArray.CreateBuilder<ClimbColumn>();
        var (chosen, i) = (apart.ToHashSet(), 0);
        while (i < job.Trials.Length)
        {
            var run = RunAt(job, i, chosen);
            columns.Add(ColumnOf(job, i, run, columns.Count * Column));
            i += run;
        }

        Columns = columns.ToImmutable();
        Proofs =
        [
            .. diagnosis
                .Suspects.Where(s => s.Proof.TwoWay && s.Standing == Standing.Condemned)
                .Select(s => ProofOf(s, job))
                .OfType<ClimbProof>(),
        ];
    }

    public bool Whole { get; }

    public ImmutableArray<ClimbColumn> Columns { get; }

    public ImmutableArray<ClimbProof> Proofs { get; }

    public double Column { get; }

    public double Width => (Math.Max(Columns.Length, 1) * Column) + (Whole ? Narrow / 2 : 0);

    public double Bottom => Head + (BootStages.Count * Row);

    public double Height => Bracket + (Proofs.Length > 0 && !Whole ? 20 : 2);

    /// <summary>Where the brackets of proofs lie.</summary>
    public double Bracket => Bottom + (Whole ? 18 : 12 + (MostLines * Line));

    /// <summary>Base line of a line of words below a column.</summary>
    public double LineAt(int index) => Bottom + 20 + (index * Line);

    /// <summary>Top edge of a stage's row; the highest stage is at the top.</summary>
    public static double TopOf(BootStage stage) => Head + ((BootStages.Count - 1 - (int)stage) * Row);

    /// <summary>How many starts from this one on are of the same machine, changed by nothing, and folded.</summary>
    private static int RunAt(BenchJob job, int first, HashSet<int> apart)
    {
        var run = 1;
        while (
            first + run < job.Trials.Length
            && job.Trials[first + run].Changes.Length == 0
            && job.Trials[first + run].Situation.IsSameAs(job.Trials[first].Situation)
        )
            run++;
        return run < FoldsFrom || job.Trials.Skip(first).Take(run).Any(t => apart.Contains(t.Number)) ? 1 : run;
    }

    private static ClimbColumn ColumnOf(BenchJob job, int index, int count, double x)
    {
        ImmutableArray<Trial> trials = [.. job.Trials.Skip(index).Take(count)];
        var trial = trials[0];
        var low = trials.Min(t => t.Seen.Low);
        // A picture that was not followed further is drawn at the picture's row, with an open end told by its label.
        var high = trials.Max(t => t.Seen.ShowsPicture && t.Seen.High == BootStage.Stable ? t.Seen.Low : t.Seen.High);
        var top = TopOf(high);
        var before = index == 0 ? 0 : job.Trials[index - 1].Position;
        var from = index == 0 ? Situation.AtIntake(job.Intake.Parts, job.Intake.Received) : job.Trials[index - 1].Situation;
        var (changes, brief) =
            trial.Changes.Length > 0 ? (trial.Changes.Words(job.Now.Parts), trial.Changes.InBrief(from))
            : index == 0 ? ("as received", "as received")
            : ("no change", "again");
        if (count > 1)
            brief = ClimbColumn.CountOf(job, trials);
        var pairs =
            index > 0 && trial.Changes.Length == 1 && ClimbColumn.LookOf(job, trial) != ClimbColumn.LookOf(job, job.Trials[index - 1]);
        double? cap = trial.Ceiling.Stage < BootStage.Picture ? TopOf(trial.Ceiling.Stage) : null;
        ImmutableArray<string> looks =
        [
            .. job
                .Testimonies.Where(t => t.Position > before && t.Position < trial.Position && t.Entry is FindingEntry or ElsewhereEntry)
                .Select(t => $"{t.Number}: {LogWords.Of(job, t.Entry)}"),
        ];
        var corrected = trials.Any(t => job.Lines[t.Number - 1].StruckBy is not null);
        return new ClimbColumn(
            trials,
            x,
            top,
            TopOf(low) + Row - top,
            cap,
            changes,
            Wrap(brief),
            pairs,
            SignOf(trials[^1].Entry),
            corrected,
            looks
        )
        {
            Folded = count > 1 ? ClimbColumn.CountOf(job, trials, ": ") : "",
        };
    }

    private ClimbProof? ProofOf(Suspect suspect, BenchJob job)
    {
        ImmutableArray<double> marks =
        [
            .. suspect
                .Proof.Events.Select(e => Columns.FirstOrDefault(c => c.Trials.Any(t => t.Number == e.Trial.Number)))
                .OfType<ClimbColumn>()
                .Select(c => c.X + (Column / 2))
                .Distinct()
                .Order(),
        ];
        return marks.Length == 0 ? null : new ClimbProof(marks[0], marks[^1], marks, $"proved: {job.Now.The(suspect.Unit)}");
    }

    /// <summary>Words in lines; what does not fit ends in an ellipsis, and is in the column's title in full.</summary>
    private static ImmutableArray<string> Wrap(string words)
    {
        var lines = new List<string> { "" };
        foreach (var word in words.Split(' '))
        {
            if (lines[^1].Length > 0 && lines[^1].Length + word.Length + 1 > LineLength)
                lines.Add("");
            lines[^1] += (lines[^1].Length > 0 ? " " : "") + Text.Cut(word, LineLength);
        }

        return lines.Count <= MostLines ? [.. lines] : [.. lines.Take(MostLines - 1), Text.Cut($"{lines[MostLines - 1]}…", LineLength)];
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
