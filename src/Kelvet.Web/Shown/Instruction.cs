using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Shown;

/// <summary>The one thing to do now, and why, as the bench shows it largest.</summary>
/// <param name="Words">The imperative.</param>
/// <param name="Reason">One or two plain sentences; empty when there is nothing to say.</param>
/// <param name="IsAdvice">Whether it is what the bench proposes, and not a step that is under way.</param>
public sealed record Instruction(string Words, string Reason, bool IsAdvice = false)
{
    private const int LongestReason = 130;
    private const int LongestNames = 44;

    /// <param name="bench">The log.</param>
    /// <param name="advice">What the bench proposes.</param>
    /// <param name="gate">Where the work stands between hands in and power on.</param>
    /// <param name="pending">What is to be done before the next start.</param>
    /// <param name="step">The step that is under way as a candidate; null when none is.</param>
    /// <param name="drain">Seconds that start is held.</param>
    public static Instruction Of(BenchJob bench, PlainAdvice advice, Gate gate, PendingChanges pending, Candidate? step, int drain)
    {
        var what = step?.Imperative(bench.Now) ?? "";
        return gate.Step switch
        {
            GateStep.WaitForDrain when step is null && pending.Changes.Length == 0 => new("Hold start. Hands off.", Next(advice)),
            _ when step is null && gate.Step is not (GateStep.RecordStart or GateStep.Blocked) => new(
                advice.Imperative,
                Short(Named(advice)),
                true
            ),
            GateStep.Blocked => new("Do not power it.", gate.WhyBlocked ?? ""),
            GateStep.TakePowerOff => new("Power off. Lead out.", $"Then hold start {drain} s, and: {what}"),
            GateStep.WaitForDrain => new("Hold start. Hands off.", $"Then: {what}"),
            GateStep.RecordStart => new(
                step is { Check: not null } ? what : "Watch it. How far does it get?",
                StartCourse.Of(bench, pending.Changes).Why
            ),
            _ => new(what, Short(Full(step!, pending))),
        };
    }

    /// <summary>The reason, after the names of the parts that come in.</summary>
    private static string Named(PlainAdvice advice) =>
        advice.Names.Length switch
        {
            0 => advice.Reason,
            > LongestNames => $"{Text.Cut(advice.Names, LongestNames)} {advice.Reason}",
            _ => $"{advice.Names}. {advice.Reason}",
        };

    /// <summary>As many whole sentences as fit; all of them are said where it is asked why.</summary>
    private static string Short(string text)
    {
        var end = text.Length;
        while (end > LongestReason && text.LastIndexOf(". ", end - 2, StringComparison.Ordinal) is > 0 and var stop)
            end = stop + 1;
        return Text.Cut(text[..end], LongestReason);
    }

    private static string Next(PlainAdvice advice) => advice.Imperative.Length > 0 ? $"Then: {advice.Imperative}" : "";

    /// <summary>The step with the names of the parts, and what to mind.</summary>
    private static string Full(Candidate step, PendingChanges pending) =>
        step.Check is { } check
            ? $"{Text.Capital(check.Name)}. {step.Caution}".Trim()
            : $"{Text.Capital(pending.Changes.Words(step.After.Parts))}. {step.Caution}".Trim();
}
