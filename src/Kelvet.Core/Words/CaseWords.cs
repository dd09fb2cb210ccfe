using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>Words for the case against a part.</summary>
public static class CaseWords
{
    /// <summary>A standing in words.</summary>
    public static string Words(this Standing standing) =>
        standing switch
        {
            Standing.PutRight => "found, put right",
            Standing.ProofOneWay => "proof one-way",
            _ => standing.ToString().ToLowerInvariant(),
        };

    /// <summary>How a machine that had come up ended, in a word or two.</summary>
    public static string Brief(this Ending ending) =>
        ending switch
        {
            Ending.Froze => "froze",
            Ending.Restarted => "restarted",
            Ending.Off => "went off",
            Ending.StopError => "stop error",
            _ => "went dark",
        };

    /// <summary>What a standing means, in a sentence; empty where the word says it.</summary>
    public static string Means(this Standing standing) => Terms.Meanings.FirstOrDefault(m => m.Term == standing.Words()).Means ?? "";

    /// <summary>How likely, in words: "very likely" from 85 %, "likely" from 45 %, "possible" from 8 %, "unlikely" below.</summary>
    public static string Likelihood(double probability) =>
        probability switch
        {
            >= 0.85 => "very likely",
            >= 0.45 => "likely",
            >= 0.08 => "possible",
            _ => "unlikely",
        };

    /// <summary>The weight of a piece of evidence in words.</summary>
    public static string Words(this Weight weight) => InWords(weight.LogRatio);

    /// <summary>
    /// The grades of Kass and Raftery, "Bayes Factors", JASA 90 (1995), p. 777: twice the logarithm, below 2
    /// not worth more than a bare mention, to 6 positive, to 10 strong, above very strong.
    /// </summary>
    public static string InWords(double logRatio)
    {
        var twice = 2 * Math.Abs(logRatio);
        if (twice < 0.2)
            return "says nothing";
        var side = logRatio > 0 ? "against" : "for";
        return twice switch
        {
            < 2 => $"barely worth a mention, {side} it",
            < 6 => $"positive, {side} it",
            < 10 => $"strong, {side} it",
            _ => $"very strong, {side} it",
        };
    }

    /// <summary>A contradiction in words.</summary>
    public static string Words(this Contradiction contradiction) =>
        contradiction.Impossible is { } plain
            ? $"Line {plain.Line} says {plain.Seen.Words()}, and {string.Join("; ", plain.Why.Select(w => w.Words()))}: correct whichever "
                + "of the two is not so."
            : $"No set of three faults explains line {string.Join(", ", contradiction.Lines)} better than a slip does: look there "
                + $"for something mis-seen, or for a fault that is not in the atlas.";

    /// <summary>What the log proves about a unit, in the order in which it happened; empty when nothing is proved.</summary>
    public static string Story(this Proof proof)
    {
        var events = proof.Events;
        if (events.Length == 0)
            return proof.Elsewhere > 0 ? $"In another, known-good machine it failed as well (line {proof.Elsewhere})." : "";
        var told = events.Select(
            (e, i) =>
            {
                var before = events.Take(i).Any(b => b.With == e.With);
                var state = proof.Repaired is not null
                    ? e.With
                        ? "before it was mended"
                        : "after it was mended"
                    : e.With
                        ? before
                            ? "with it back"
                            : "with it"
                        : before
                            ? "without it again"
                            : "without it";
                return $"{state} the machine {(e.With ? "failed" : "passed")} (start {e.Trial.Ordinal}: {e.Trial.Seen.Words()})";
            }
        );
        var story = string.Join("; ", told);
        var elsewhere = proof.Elsewhere > 0 ? $" In another, known-good machine it failed as well (line {proof.Elsewhere})." : "";
        return $"{char.ToUpperInvariant(story[0])}{story[1..]}.{elsewhere}";
    }
}
