using Kelvet.Core.Jobs;

namespace Kelvet.Core.Planning;

/// <summary>Whether what was recorded is what had been proposed.</summary>
public static class Followed
{
    /// <summary>Whether a line is the step that was proposed.</summary>
    /// <param name="advice">What was proposed.</param>
    /// <param name="before">The job that it was proposed for.</param>
    /// <param name="entry">What was recorded then.</param>
    /// <returns>Null where nothing was proposed, or the line is neither a start nor a finding.</returns>
    /// <exception cref="Machines.ChangeRefusedException">One of the changes of a start is impossible.</exception>
    public static bool? By(Advice advice, BenchJob before, Entry entry) =>
        entry switch
        {
            // Before the first start it is looked over, then started as it came in.
            TrialEntry t when advice.Phase == Phase.Reproduce => t.Changes.IsEmpty,
            FindingEntry f when advice.Phase == Phase.Reproduce => advice.Decision.Step is not { Check: { } own } || IsIt(own.Id, f),
            _ when advice.Decision.Step is not { } => null,
            TrialEntry t => advice.Decision.Step is { Check: null } step
                && (step.Kind is null || step.Kind == t.Kind)
                && before.Now.After(t.Changes).IsSameAs(step.After),
            FindingEntry f => advice.Decision.Step is { Check: { } check } && IsIt(check.Id, f),
            _ => null,
        };

    private static bool IsIt(string check, FindingEntry finding) => check == finding.Check;

    /// <summary>How often what was proposed was done, and of how many lines it is known.</summary>
    public static (int Followed, int Known) Of(BenchJob job)
    {
        bool[] known = [.. job.Lines.Select(l => l.Stands?.Followed).OfType<bool>()];
        return (known.Count(f => f), known.Length);
    }
}
