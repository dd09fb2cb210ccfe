using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>Steps that are worth setting side by side: the proposed one, and the best of each other sort.</summary>
public static class Apart
{
    /// <summary>Steps side by side, at most.</summary>
    public const int Most = 4;

    /// <summary>The proposed step first, then the best that do something else or to something else: three swaps of sticks are one
    /// choice.</summary>
    /// <param name="advice">What is proposed and what else would tell something.</param>
    public static ImmutableArray<Assessment> Of(Advice advice)
    {
        IEnumerable<Assessment> all = advice.Next is { } next ? [next, .. advice.Alternatives] : advice.Alternatives;
        return [.. all.DistinctBy(a => SortOf(a.Candidate, advice.Parts)).Take(Most)];
    }

    /// <summary>What is done, and to what sort of part.</summary>
    private static (ActKind? Act, UnitKind? To, bool Look) SortOf(Candidate step, Parts parts)
    {
        var first = step.Changes.FirstOrDefault();
        var to = step.Checked?.Kind ?? (first?.Subject is { } id ? parts.Find(id)?.Kind : null);
        return (first?.Act, to, step.Check is not null);
    }

    /// <summary>
    /// How much a step tells for its minutes against another: "half as much". Common practice, no source: words for thirds and halves.
    /// </summary>
    /// <param name="step">The step.</param>
    /// <param name="other">The one it is set beside.</param>
    public static string TellsAgainst(this Assessment step, Assessment other) =>
        (step.Rate / Math.Max(1e-9, other.Rate)) switch
        {
            >= 1.25 => "more",
            >= 0.85 => "as much",
            >= 0.6 => "two thirds as much",
            >= 0.4 => "half as much",
            >= 0.2 => "a third as much",
            _ => "little",
        };
}
