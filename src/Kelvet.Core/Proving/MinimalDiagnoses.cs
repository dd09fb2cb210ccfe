using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Proving;

/// <summary>The smallest sets of units that explain a log, by consistency alone (<see cref="MinimalSets"/>).</summary>
public static class MinimalDiagnoses
{
    /// <summary>
    /// The smallest sets of units that explain a log: every failing trial needs a unit that could stop it where it
    /// stopped and was not fully at work in a passing one. A unit that is cleared is in none, unless nothing else is left.
    /// </summary>
    public static ImmutableArray<ImmutableSortedSet<UnitId>> Of(BenchDiagnosis diagnosis)
    {
        var conflicts = new List<IReadOnlyCollection<UnitId>>();
        for (var t = 0; t < diagnosis.Job.Trials.Length; t++)
        {
            var trial = diagnosis.Job.Trials[t];
            if (trial.Seen.High >= trial.Ceiling.Stage || !trial.Failed)
                continue;
            conflicts.Add([
                .. Enumerable
                    .Range(0, diagnosis.Faults.Length)
                    .Where(f => Explains(f, t))
                    .Select(f => diagnosis.Faults[f].Unit.Id)
                    .Distinct(),
            ]);
        }

        if (conflicts.Count == 0 || conflicts.Exists(c => c.Count == 0))
            return [];
        var cleared = diagnosis.Suspects.Where(s => s.Standing == Standing.Cleared).Select(s => s.Unit.Id).ToHashSet();
        List<IReadOnlyCollection<UnitId>> open =
        [
            .. conflicts.Select(c => (IReadOnlyCollection<UnitId>)[.. c.Where(u => !cleared.Contains(u))]),
        ];
        return MinimalSets.HittingSets(open.Exists(c => c.Count == 0) ? conflicts : open, Posterior.MostFaults);

        bool Explains(int f, int t)
        {
            var mode = diagnosis.Faults[f].Mode;
            var seen = diagnosis.Job.Trials[t].Seen;
            var stops = mode.Reach[(int)seen.Low] - mode.Reach[Math.Min((int)seen.High + 1, BootStages.Count - 1)];
            var clearedByPass = diagnosis.Passed[f] && mode.Reach[(int)diagnosis.Job.Goal] < 0.1;
            return diagnosis.Engaged[t][f] > 0.02 && stops > 0.01 && !clearedByPass;
        }
    }
}
