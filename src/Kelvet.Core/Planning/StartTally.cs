using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>All starts of one kind in a job, and what they could tell.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="Trials">Those starts, oldest first; empty where the complaint asks for the kind and none was made yet.</param>
/// <param name="Failed">How many failed.</param>
/// <param name="Silent">How many passed and could not have shown the complaint: they tell nothing of it.</param>
public sealed record StartTally(StartKind Kind, ImmutableArray<Trial> Trials, int Failed, int Silent)
{
    /// <summary>Starts that could tell something.</summary>
    public int Telling => Trials.Length - Silent;

    /// <summary>Whether the next start is to be of this kind: the one that shows what is complained of.</summary>
    public bool IsNext { get; private init; }

    /// <summary>The kinds of which a start was made, with the one that is to be made next, from cold to load.</summary>
    public static ImmutableArray<StartTally> Of(BenchJob job)
    {
        var next = ShowingStart.Of(job) ?? StartKind.Warm;
        return [.. Enum.GetValues<StartKind>().Select(k => Counted(job, k, k == next)).Where(t => t.IsNext || t.Trials.Length > 0)];
    }

    private static StartTally Counted(BenchJob job, StartKind kind, bool next)
    {
        ImmutableArray<Trial> of = [.. job.Trials.Where(t => t.Kind == kind)];
        return new StartTally(kind, of, of.Count(t => t.Failed), of.Count(t => !job.CouldHaveFailed(t))) { IsNext = next };
    }
}
