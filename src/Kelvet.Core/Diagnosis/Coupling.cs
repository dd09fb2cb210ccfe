using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;

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
    public static double[][]? Of(BenchJob job, ImmutableArray<Fault> faults)
    {
        double[][]? coupling = null;
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
            if (faults[f].ExcludesOutcomeOf(faults[f - 1]))
                Couple(f - 1, f, 0);
        }

        return coupling;

        void Couple(int a, int b, double factor)
        {
            coupling ??= [.. faults.Select(_ => Enumerable.Repeat(1.0, faults.Length).ToArray())];
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
