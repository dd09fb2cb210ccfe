using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Proving;

/// <summary>Clean starts of one kind against how often it failed before.</summary>
/// <param name="Kind">The kind of start; null for all kinds together.</param>
/// <param name="Failed">Failed starts before, as seen on the bench or, where none were, as told; 0 where it never failed so.</param>
/// <param name="Starts">All starts before.</param>
/// <param name="Clean">Clean starts in a row of the machine as it now stands, since it was last changed or failed.</param>
public sealed record StartsOfKind(StartKind? Kind, int Failed, int Starts, int Clean)
{
    /// <summary>Clean starts in a row after which the repair is believed so far; null where it never failed so.</summary>
    /// <param name="belief">0.5 to below 1.</param>
    public int? Needed(double belief) => Failed == 0 ? null : CleanStarts.Needed(Failed, Starts, belief);

    /// <summary>
    /// Belief, 0.5 to 1, that the repair holds after so many clean starts, when it was even before the first; null where it
    /// never failed so.
    /// </summary>
    public double? Belief(int clean) => Failed == 0 ? null : 1 / (1 + CleanStarts.ChanceUnrepaired(Failed, Starts, clean));

    /// <summary>
    /// Highest rate of failing, 0 to 1, that so many clean starts still leave open at 95 %: 1 - 0.05^(1/m), about 3/m (the rule of
    /// three: Hanley and Lippman-Hand, JAMA 249 (1983) 1743). 1 without a clean start.
    /// </summary>
    public double RateLeftOpen => Clean == 0 ? 1 : 1 - Math.Pow(0.05, 1.0 / Clean);
}

/// <summary>How far starts prove a repair, for all starts and for each kind by itself.</summary>
/// <param name="All">All kinds together.</param>
/// <param name="Kinds">Each kind that was ever made, or that the complaint is about.</param>
public sealed record ProofByStarts(StartsOfKind All, ImmutableArray<StartsOfKind> Kinds)
{
    /// <summary>Counts the starts of a job.</summary>
    public static ProofByStarts Of(BenchJob job)
    {
        var clean = Intermittence.CleanRun(job);
        var before = job.Trials.Take(job.Trials.Length - clean.Length).Where(t => t.Failed || t.Passed);
        // The machine as it failed most: what failed in one arrangement and passed in another says nothing of how often.
        Trial[] failing =
        [
            .. Intermittence.SetUps(before).Where(g => g.Any(t => t.Failed)).OrderByDescending(g => g.Length).FirstOrDefault([]),
        ];
        var told = job.Intake.ReportedTimes;
        return new ProofByStarts(Counted(null), [.. Enum.GetValues<StartKind>().Where(IsOfInterest).Select(k => Counted(k))]);

        bool IsOfInterest(StartKind kind) => job.Trials.Any(t => t.Kind == kind) || job.Intake.Complaint.When == kind;

        StartsOfKind Counted(StartKind? kind)
        {
            var of = failing.Where(t => kind is null || t.Kind == kind).ToArray();
            var passed = clean.Count(t => kind is null || t.Kind == kind);
            var (failed, starts) = (of.Count(t => t.Failed), of.Length);
            // Not seen on the bench: as often as it was told, for the kind that it was told of.
            if (failed == 0 && failing.Length == 0 && told is { } times && (kind is null || kind == job.Intake.Complaint.When))
                (failed, starts) = (times.Failed, times.Of);
            return new StartsOfKind(kind, failed, starts, passed);
        }
    }
}
