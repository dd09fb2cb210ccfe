using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Diagnosis;

/// <summary>
/// Faults that are not independent. Damage in passing: a supply or board that kills parts can hurt what ran beside it,
/// spares included, and the pair of culprit and victim is then likelier than the product of its odds says. And a fault
/// whose cure was tried is either cured or not, never both.
/// </summary>
public static class Coupling
{
    /// <summary>
    /// Factor per pair of faults, 1 where they are independent. A unit is exposed when it was in the machine in a trial
    /// (or as received) in which the culprit could act. Null when no pair is affected.
    /// </summary>
    public static double[][]? Of(BenchJob job, ImmutableArray<Fault> faults, Atlas atlas)
    {
        double[][]? coupling = null;
        // Shared by all that depend on nothing.
        double[] alone = [.. Enumerable.Repeat(1.0, faults.Length)];
        for (var culprit = 0; culprit < faults.Length; culprit++)
        {
            var harms = faults[culprit].Mode.Harms;
            if (harms.Count == 0)
                continue;
            var ran = job
                .Trials.Select(t => t.Situation)
                .Append(Machines.Situation.AtIntake(job.Now.Parts, job.Intake.Received))
                .Where(s => faults[culprit].Engaged(s) > 0)
                .SelectMany(s => s.Now.At.Values)
                .ToHashSet();
            for (var victim = 0; victim < faults.Length; victim++)
            {
                if (faults[victim].Unit.Id == faults[culprit].Unit.Id || !ran.Contains(faults[victim].Unit.Id))
                    continue;
                if (!harms.TryGetValue(faults[victim].Mode.Id, out var added))
                    continue;
                Couple(culprit, victim, (faults[victim].Odds + added) / faults[victim].Odds);
            }
        }

        for (var f = 1; f < faults.Length; f++)
        {
            for (var before = f - 1; before >= 0 && faults[f].ExcludesOutcomeOf(faults[before]); before--)
                Couple(before, f, 0);
        }

        TieTogether();

        return coupling;

        // What one cause has done to one part it has likelier done to another.
        void TieTogether()
        {
            foreach (var context in atlas.Contexts.Where(c => c.Together.Count > 0 && job.Intake.Contexts.Contains(c.Id)))
            {
                int[] tied =
                [
                    .. Enumerable
                        .Range(0, faults.Length)
                        .Where(f => faults[f].Unit.Origin == Origin.Customer && context.Together.ContainsKey(faults[f].Mode.Id)),
                ];
                foreach (var (a, i) in tied.Select((f, i) => (f, i)))
                {
                    foreach (
                        var b in tied.Skip(i + 1).Where(b => faults[a].Unit.Id != faults[b].Unit.Id || faults[a].Part != faults[b].Part)
                    )
                        Couple(a, b, Math.Sqrt(context.Together[faults[a].Mode.Id] * context.Together[faults[b].Mode.Id]));
                }
            }
        }

        void Couple(int a, int b, double factor)
        {
            coupling ??= [.. Enumerable.Repeat(alone, faults.Length)];
            foreach (var f in new[] { a, b }.Where(f => coupling[f] == alone))
                coupling[f] = [.. alone];
            coupling[a][b] *= factor;
            coupling[b][a] = coupling[a][b];
        }
    }

    /// <summary>Whether two couplings are equal.</summary>
    public static bool Same(double[][]? a, double[][]? b) =>
        a is null || b is null
            ? a is null && b is null
            : a.Length == b.Length && a.Zip(b).All(rows => rows.First.AsSpan().SequenceEqual(rows.Second));
}
