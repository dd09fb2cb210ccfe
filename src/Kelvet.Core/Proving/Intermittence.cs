using System.Collections.Immutable;
using Kelvet.Core.Jobs;

namespace Kelvet.Core.Proving;

/// <summary>
/// A fault that comes and goes, counted over starts of one and the same machine: the same parts in the same places with
/// the same done to them. What failed in one arrangement and passed in another says nothing about coming and going.
/// </summary>
/// <param name="Failed">Failed starts, 1 or more.</param>
/// <param name="Starts">All starts of that machine, more than failed.</param>
/// <param name="Clean">Clean starts in a row, at the end of the log, of the machine as it now stands.</param>
public sealed record Intermittence(int Failed, int Starts, int Clean)
{
    /// <summary>Clean starts in a row after which the repair is believed to 95 %.</summary>
    public int Needed => CleanStarts.Needed(Failed, Starts);

    /// <summary>Looks for it in a log: the machine that was started most often with both outcomes; null when there is none.</summary>
    public static Intermittence? In(BenchJob job)
    {
        var most = SetUps(job)
            .Select(s => (Failed: s.Count(t => t.Failed), Starts: s.Count(t => t.Failed || t.Passed)))
            .Where(s => s.Failed > 0 && s.Failed < s.Starts)
            .OrderByDescending(s => s.Starts)
            .ThenByDescending(s => s.Failed)
            .Select(s => ((int Failed, int Starts)?)s)
            .FirstOrDefault();
        return most is { } m ? new Intermittence(m.Failed, m.Starts, CleanNow(job)) : null;
    }

    /// <summary>Clean starts in a row, at the end of the log, of the machine as it now stands.</summary>
    public static int CleanNow(BenchJob job) => CleanRun(job).Length;

    /// <summary>Those starts, in the order in which they were made.</summary>
    public static ImmutableArray<Trial> CleanRun(BenchJob job) =>
        [.. job.Trials.Reverse().TakeWhile(t => t.Passed && t.Situation.IsSameAs(job.Now)).Reverse()];

    /// <summary>The trials by the machine that was started, in the order in which each was first started.</summary>
    public static ImmutableArray<ImmutableArray<Trial>> SetUps(BenchJob job) => SetUps(job.Trials);

    /// <summary>The same of some trials.</summary>
    public static ImmutableArray<ImmutableArray<Trial>> SetUps(IEnumerable<Trial> trials)
    {
        var groups = new List<List<Trial>>();
        foreach (var trial in trials)
        {
            if (groups.Find(g => g[0].Situation.IsSameAs(trial.Situation)) is { } known)
                known.Add(trial);
            else
                groups.Add([trial]);
        }

        return [.. groups.Select(g => g.ToImmutableArray())];
    }
}
