using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Proving;

/// <summary>A place that holds one thing in one arrangement and another in the other.</summary>
/// <param name="Where">The place, or "start" or "monitor", in words.</param>
/// <param name="First">What is there in the first; "empty" when nothing is.</param>
/// <param name="Second">What is there in the second.</param>
public sealed record Difference(string Where, string First, string Second);

/// <summary>Two trials side by side: what differed in the machine, and whom each of the two speaks against.</summary>
/// <param name="First">The earlier.</param>
/// <param name="Second">The later.</param>
/// <param name="Differences">What differed; empty when the machine stood the same.</param>
/// <param name="Moved">The units that the two move furthest apart: weight of each trial on it, natural logarithm of odds, furthest
/// first.</param>
public sealed record Comparison(
    Trial First,
    Trial Second,
    ImmutableArray<Difference> Differences,
    ImmutableArray<(Unit Unit, double First, double Second)> Moved
)
{
    /// <summary>Whether the two differ in one place and in the outcome: the pair that tells most.</summary>
    public bool Tells => Differences.Length == 1 && First.Passed != Second.Passed && (First.Failed || Second.Failed);

    /// <summary>Compares two trials of a log.</summary>
    /// <returns>Null when the log has no such trials, or they are one.</returns>
    public static Comparison? Of(BenchDiagnosis diagnosis, int line, int otherLine)
    {
        var trials = diagnosis.Job.Trials;
        if (
            line == otherLine
            || trials.FirstOrDefault(t => t.Number == Math.Min(line, otherLine)) is not { } first
            || trials.FirstOrDefault(t => t.Number == Math.Max(line, otherLine)) is not { } second
        )
            return null;
        var moved = Weight
            .All(diagnosis)
            .Select(w =>
                (
                    Unit: diagnosis.Job.Now.Parts[w.Key],
                    First: w.Value.First(x => x.Evidence.Line == first.Number).LogRatio,
                    Second: w.Value.First(x => x.Evidence.Line == second.Number).LogRatio
                )
            );
        return new Comparison(
            first,
            second,
            Between(first.Situation.Now, second.Situation.Now, diagnosis.Job.Now.Parts),
            [
                .. moved
                    .Where(m => Math.Max(Math.Abs(m.First), Math.Abs(m.Second)) > 0.1)
                    .OrderByDescending(m => Math.Abs(m.Second - m.First))
                    .Take(3),
            ]
        );
    }

    /// <summary>What differs between two arrangements, place by place.</summary>
    public static ImmutableArray<Difference> Between(Configuration first, Configuration second, Parts parts)
    {
        var differences = first
            .At.Keys.Union(second.At.Keys)
            .Order()
            .Where(p => first[p] != second[p])
            .Select(p => new Difference(p.Words(), Name(first[p]), Name(second[p])))
            .ToList();
        if (first.Start != second.Start)
            differences.Add(new Difference("start", Words(first.Start), Words(second.Start)));
        if (first.Display != second.Display)
            differences.Add(new Difference("monitor", first.Display?.Words() ?? "nowhere", second.Display?.Words() ?? "nowhere"));
        return [.. differences];

        string Name(UnitId? id) => id is { } unit ? parts[unit].Name : "empty";

        static string Words(StartMethod method) => method == StartMethod.CaseSwitch ? "case switch" : "header pins";
    }
}
