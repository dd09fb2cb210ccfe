using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;

namespace Kelvet.Web.Shown;

/// <summary>A step as it is drawn beside others: what it takes and what it may show, all on one scale.</summary>
/// <param name="Attended">Length of the minutes that somebody stands there, of <see cref="Full"/>.</param>
/// <param name="All">Length of those and the waiting.</param>
/// <param name="Minutes">The minutes in words.</param>
/// <param name="Outcomes">What it may show, likeliest first.</param>
public sealed record StepBar(double Attended, double All, string Minutes, IReadOnlyList<StepBar.Outcome> Outcomes)
{
    /// <summary>Length of the whole scale.</summary>
    public const double Full = 200;

    /// <summary>One thing that a step may show.</summary>
    /// <param name="When">What is seen then.</param>
    /// <param name="Chance">How likely, in words.</param>
    /// <param name="Means">Whom it would point at.</param>
    /// <param name="Share">Length of its chance, of <see cref="Full"/>.</param>
    /// <param name="IsGood">Whether it passes, or nothing is found.</param>
    public sealed record Outcome(string When, string Chance, string Means, double Share, bool IsGood);

    /// <param name="step">The step as weighed.</param>
    /// <param name="longest">Minutes of the longest that stands beside it.</param>
    /// <param name="now">The machine as it stands.</param>
    public static StepBar Of(Assessment step, double longest, Situation now)
    {
        var (all, waiting) = (step.Candidate.Minutes.Value, step.Candidate.Waiting.Value);
        var seen = step.Candidate.Seen(now);
        var incoming = Saying.Incoming(step.Candidate.Changes, seen).Select(u => u.Id).ToHashSet();
        var outcomes = step
            .Outcomes.GroupBy(step.IsGood)
            .Select(g =>
            {
                var chance = g.Sum(o => o.Probability);
                return new Outcome(
                    PlainAdvice.When(step, g.Key),
                    CaseWords.Likelihood(chance),
                    $"suspect {PlainAdvice.Meaning(g.First(), seen, incoming)}",
                    Length(chance, 1),
                    g.Key
                );
            })
            .OrderByDescending(o => o.Share);
        return new StepBar(
            Length(all - waiting, longest),
            Length(all, longest),
            waiting >= 0.5 ? $"{all - waiting:0.#} min at it, {waiting:0.#} waiting" : $"{all:0.#} min",
            [.. outcomes]
        );
    }

    private static double Length(double of, double whole) => Math.Round(Full * Math.Clamp(of / whole, 0, 1), 1);
}
