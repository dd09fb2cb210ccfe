using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>Whether what was recorded is what had been proposed.</summary>
public static class Followed
{
    /// <summary>Whether a line is the step that was proposed.</summary>
    /// <param name="proposed">What was proposed.</param>
    /// <param name="before">The job that it was proposed for.</param>
    /// <param name="entry">What was recorded then.</param>
    /// <returns>Null where nothing was proposed, or the line is neither a start nor a finding.</returns>
    /// <exception cref="ChangeRefusedException">One of the changes is impossible.</exception>
    public static bool? By(Proposal proposed, BenchJob before, Entry entry) =>
        entry switch
        {
            // Before the first start it is looked over, then started as it came in.
            TrialEntry t when proposed.Phase == Phase.Reproduce => t.Changes.IsEmpty,
            FindingEntry f when proposed.Phase == Phase.Reproduce => proposed.Check is null || proposed.Check == f.Check,
            _ when proposed.Changes is null => null,
            TrialEntry t => proposed.Check is null
                && (proposed.Kind is null || proposed.Kind == t.Kind)
                && before.Now.After(t.Changes).IsSameAs(before.Now.After(proposed.Changes.Value)),
            FindingEntry f => proposed.Check == f.Check,
            _ => null,
        };

    /// <summary>How often what was proposed was done, and of how many lines it is known.</summary>
    public static (int Followed, int Known) Of(BenchJob job)
    {
        bool[] known = [.. job.Lines.Select(l => l.Stands?.Followed).OfType<bool>()];
        return (known.Count(f => f), known.Length);
    }
}
