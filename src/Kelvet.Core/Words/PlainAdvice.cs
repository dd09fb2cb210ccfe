using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>What to do next as it is said to somebody who looks up for a second.</summary>
/// <param name="Imperative">What to do, by places, without figures.</param>
/// <param name="Reason">What its outcomes would mean, or why it is done, in words; empty when there is nothing to say.</param>
public sealed record PlainAdvice(string Imperative, string Reason)
{
    /// <summary>The names of the parts that come in; empty where none does.</summary>
    public string Names { get; init; } = "";

    /// <summary>From here on one part alone is named.</summary>
    private const double Alone = 0.6;

    /// <summary>Below this a part is not named as what an outcome would mean.</summary>
    private const double Named = 0.1;

    /// <summary>Advice in plain words.</summary>
    public static PlainAdvice Of(Advice advice, BenchDiagnosis diagnosis) =>
        Said(advice, diagnosis) with
        {
            Names = advice.Decision.Step?.Changes.NamesOfIncoming(diagnosis.Job.Now) ?? "",
        };

    // Long: one entry for each kind of advice.
    private static PlainAdvice Said(Advice advice, BenchDiagnosis diagnosis)
    {
        var now = diagnosis.Job.Now;
        var d = advice.Decision;
        string The(Unit? unit) => unit is null ? "it" : now.The(unit);
        var step = d.Step?.Imperative(now) ?? "";
        return d.Kind switch
        {
            AdviceKind.LookThenStart => new(
                "Look it over, then start it.",
                "Power off: every plug, stick and card. Then start it as it came in and record how far it gets."
            ),
            AdviceKind.MakeSafe => new(
                d.Missing is not null ? Get(d.Missing)
                    : step.Length > 0 ? step
                    : "Do not power it.",
                d.Block!.Value.Words()
            ),
            AdviceKind.CompleteProof or AdviceKind.PutBackToProve => new(
                step,
                $"If it fails with {The(d.About)} back and {AdviceWords.Otherwise(d)}, that proves it."
            ),
            AdviceKind.MakeItFail => new(step, advice.Why()),
            AdviceKind.CheapFirst => new(step, $"Before {The(d.About)} is replaced: it takes minutes, and may be all."),
            AdviceKind.AwaitFailure => new(
                Again(step, d),
                $"{Capital(The(d.About))} is back and should fail again; it may do so only now and then."
            ),
            AdviceKind.SwapToProve => new(step, $"If it starts without {The(d.About)}, half the proof is there."),
            AdviceKind.Control when d.About!.Id == d.Fault!.Unit.Id => new(
                step,
                $"Is {The(d.About)} broken, or is it only this: {d.Fault.Words()}?"
            ),
            AdviceKind.Control => new(step, $"It tells {The(d.About)} from {The(d.Fault!.Unit)}: {d.Fault.Words()}."),
            AdviceKind.LeaveOut => new($"Leave out {The(d.About)}.", ""),
            AdviceKind.LookBeforeGivingBack => new(step, "It has not failed here. It is looked over before it is given back."),
            AdviceKind.MendWhatWasFound => new(step, "It was found so. It is put right before anything else is tried."),
            AdviceKind.Mend => new(step, $"This is what most likely cures {The(d.About)}."),
            AdviceKind.FlashWhileItRuns => new(step, $"Now, while it runs: {d.Fault!.Words()}."),
            AdviceKind.ReplaceCondemned => new(
                d.StandIn is null || step.Length == 0 ? $"Replace {The(d.About)}." : step,
                "It is condemned, proved both ways. Then everything goes back as received and is proved to run."
            ),
            AdviceKind.GetReplacement => new(
                Get(d.Missing!),
                $"{Capital(The(d.About))} is all but proved, and nothing at hand can take its place."
            ),
            AdviceKind.GetSticks => new(Get(d.Missing!), "None of the customer's sticks can stay, and there is no other."),
            AdviceKind.TryTogether => new(
                d.Step!.Changes.Length > 1 ? $"Put it together. {Started(d)}" : step,
                "What keeps it from starting is known and stays out."
            ),
            AdviceKind.PutRight => new(step, "Nothing is broken: it goes where it belongs."),
            AdviceKind.PutRestBack => new(
                d.Step!.Changes.Length > 1 ? $"Put the rest back. {Started(d)}" : step,
                "What was found is dealt with. The whole machine is tried as received."
            ),
            AdviceKind.StartOnceMore => new(Again(step, d), $"It runs. {AdviceWords.Starts(d.More)} needed."),
            AdviceKind.MisSeen => new("Start it again. Watch closely.", advice.Why()),
            AdviceKind.Done => new("Close the job.", $"It runs, {AdviceWords.InPlace(d)}."),
            AdviceKind.NotReproduced => new("Not reproduced here.", Rest(advice.Words())),
            AdviceKind.PartTellsMore or AdviceKind.OnlyAPartTells => new(
                Get(d.Missing!),
                "It would tell more than anything at hand: "
                    + char.ToLowerInvariant(d.WithAPart!.Imperative(now)[0])
                    + d.WithAPart!.Imperative(now)[1..]
            ),
            AdviceKind.NothingTells => new("Nothing here tells more.", advice.Words()),
            AdviceKind.NotProved => new("Stop here.", advice.Words()),
            _ => new(step.Length > 0 ? step : advice.Words(), Told(advice, now)),
        };
    }

    private static string Started(Decision decision) =>
        decision.Step is { Kind: { } kind } ? $"{Capital(AdviceWords.ThenStart(kind))}." : "Start it.";

    private static string Again(string step, Decision decision) => decision.Step is { Kind: not null } ? step : "Start it again.";

    /// <summary>What the outcomes of the step would mean, or what it bears on where they mean the same.</summary>
    private static string Told(Advice advice, Situation now)
    {
        if (advice.Next is not { } next)
            return "";
        if (ItWasThat(next, now) is { Length: > 0 } cause)
            return cause;
        if (Outcomes(next, now) is { Length: > 0 } told)
            return told;
        if (advice.Decision.Step is { Check: null } step && step.Changes.RestoredWith(now) is { IsEmpty: false } restoring)
        {
            var settings = restoring.Any(c => c is Change.ClearCmos);
            var cleaned = restoring.Length > (settings ? 1 : 0);
            return (settings, cleaned) switch
            {
                (true, true) => "If it fails even so, it is not its seat, its contacts or the settings.",
                (false, true) => "If it fails even so, it is not its seat or its contacts.",
                _ => "If it fails even so, it is not its seat or the settings.",
            };
        }

        return advice.Decision.Kind == AdviceKind.HouseFirst ? "This shop does it first."
            : HowFarItMoves(next, now) is { Length: > 0 } moved ? moved
            : "It tells most for its minutes.";
    }

    /// <summary>"If it starts, it was the settings. If not, suspect the board." Of a step that does nothing but restore:
    /// its passing accuses no part. Empty for any other.</summary>
    private static string ItWasThat(Assessment step, Situation now)
    {
        string[] causes = [.. step.Candidate.Changes.Select(CauseOf).OfType<string>().Distinct()];
        if (causes.Length == 0 || step.Candidate.Changes.Any(c => CauseOf(c) is null))
            return "";
        var (passes, fails) = Whens(step);
        var left = step.Outcomes.FirstOrDefault(o => !step.IsGood(o)) is { Meaning.Length: > 0 } failed
            ? $" {fails}, suspect {Meaning(failed, step.Candidate.Seen(now))}."
            : "";
        return $"{passes}, it was {string.Join(" or ", causes)}.{left}";
    }

    /// <summary>What an act that restores takes away; null for any other act.</summary>
    private static string? CauseOf(Change change) =>
        change switch
        {
            Change.ClearCmos => "the settings",
            Change.Reseat => "its seat",
            Change.Mend { Remedy: Remedy.Clean } => "dirt",
            Change.Mend { Remedy: Remedy.Straighten } => "the pins",
            Change.Mend { Remedy: Remedy.Repaste } => "the paste",
            Change.Mend { Remedy: Remedy.Flash } => "the firmware",
            Change.Mend { Remedy: Remedy.Rewire } => "a plug that was wrong",
            Change.Mend { Remedy: Remedy.Set } => "how it was set",
            Change.Mend { Remedy: Remedy.Isolate } => "the case",
            Change.Mend { Remedy: Remedy.NewCell } => "the coin cell",
            _ => null,
        };

    /// <summary>Of the part that it moves most: "If it starts, the supply is possible. If not, likely." Where one word would do for both,
    /// by numbers; empty where it moves none.</summary>
    private static string HowFarItMoves(Assessment step, Situation now)
    {
        var (passed, failed) = (step.Outcomes.FirstOrDefault(step.IsGood), step.Outcomes.FirstOrDefault(o => !step.IsGood(o)));
        if (passed is null || failed is null)
            return "";
        var moved = passed
            .Meaning.Concat(failed.Meaning)
            .Select(m => (m.Unit, Good: In(passed, m.Unit), Bad: In(failed, m.Unit)))
            .DefaultIfEmpty()
            .MaxBy(m => Math.Abs(m.Good - m.Bad));
        if (moved is not { Unit: { } unit, Good: var good, Bad: var bad })
            return "";
        var (passes, fails) = Whens(step);
        var the = step.Candidate.Seen(now).The(unit);
        var words = (Good: CaseWords.Likelihood(good), Bad: CaseWords.Likelihood(bad));
        if (Percent.Words(good) == Percent.Words(bad))
            return "";
        var (ifGood, ifBad) = words.Good == words.Bad ? ($"at {Percent.Words(good)}", $"at {Percent.Words(bad)}") : words;
        return step.Candidate.Check is null
            ? $"{passes}, {the} is {ifGood}. {fails}, {ifBad}."
            : $"{fails}, {the} is {ifBad}. {passes}, {ifGood}.";

        static double In(Outcome outcome, Unit unit) => outcome.Meaning.FirstOrDefault(m => m.Unit.Id == unit.Id).Probability;
    }

    /// <summary>How a step's passing and its failing are spoken of.</summary>
    private static (string Passes, string Fails) Whens(Assessment step) =>
        step.Candidate.Check is not null ? ("If not", "If wrong")
        : step.Goal > BootStage.Picture ? ("If it holds", "If not")
        : ("If it starts", "If not");

    /// <summary>What is seen where a step passes, or where it fails: "If it starts".</summary>
    public static string When(Assessment step, bool passes) => passes ? Whens(step).Passes : Whens(step).Fails;

    /// <summary>"If it starts, suspect the stick in B2. If not, the board or the CPU." Empty where both mean the same.</summary>
    public static string Outcomes(Assessment step, Situation now)
    {
        now = step.Candidate.Seen(now);
        var incoming = Saying.Incoming(step.Candidate.Changes, now).Select(u => u.Id).ToHashSet();
        var isLook = step.Candidate.Check is not null;
        var good = step.Outcomes.FirstOrDefault(step.IsGood);
        var bad = step.Outcomes.FirstOrDefault(o => !step.IsGood(o));
        var (passes, fails) = Whens(step);
        var said = isLook ? new[] { (fails, bad), (passes, good) } : [(passes, good), (fails, bad)];
        var meant = said.Where(s => s.Item2 is { Meaning.Length: > 0 })
            .Select(s => (When: s.Item1, Whom: Meaning(s.Item2!, now, incoming)))
            .ToArray();
        // What means the same either way is no reason.
        if (meant.Length == 0 || meant.Select(m => m.Whom).Distinct().Count() < meant.Length)
            return "";
        var first = $"{meant[0].When}, suspect {meant[0].Whom}.";
        return meant.Length == 1 ? first : $"{first} {meant[1].When}, {meant[1].Whom}.";
    }

    /// <summary>Whom an outcome points at, by place.</summary>
    /// <param name="outcome">The outcome.</param>
    /// <param name="now">The machine.</param>
    /// <param name="incoming">What comes in with the step, and is called "that stick".</param>
    public static string Meaning(Outcome outcome, Situation now, IReadOnlySet<UnitId>? incoming = null)
    {
        string The(Unit unit) => incoming?.Contains(unit.Id) == true ? $"that {unit.Kind.Brief()}" : now.The(unit);
        var named = outcome.Meaning.Where(m => m.Probability >= Named).ToImmutableArray();
        if (named.Length == 0)
            return "nobody in particular";
        return named[0].Probability >= Alone || named.Length == 1 ? The(named[0].Unit) : $"{The(named[0].Unit)} or {The(named[1].Unit)}";
    }

    private static string Get(Unit missing) => $"Get a known-good {missing.Kind.Brief()}.";

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>What follows the first sentence or half-sentence.</summary>
    private static string Rest(string text) => Capital(text[(text.IndexOf(':') + 1)..].Trim());
}
