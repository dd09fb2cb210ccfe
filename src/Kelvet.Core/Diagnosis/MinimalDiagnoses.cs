using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Diagnosis;

/// <summary>
/// The smallest sets that explain everything, by consistency alone and without odds: R. Reiter, "A theory of diagnosis
/// from first principles", Artificial Intelligence 32 (1987); J. de Kleer and B. C. Williams, "Diagnosing multiple
/// faults", ibid.
/// </summary>
public static class MinimalDiagnoses
{
    /// <summary>At most so many are listed.</summary>
    private const int Most = 1000;

    /// <summary>
    /// All minimal sets that share a member with every conflict, smallest first. A conflict is a set of which at least one
    /// member must be at fault.
    /// </summary>
    /// <param name="conflicts">The conflicts.</param>
    /// <param name="largest">Sets with more members are left out.</param>
    public static ImmutableArray<ImmutableSortedSet<T>> HittingSets<T>(IEnumerable<IReadOnlyCollection<T>> conflicts, int largest)
        where T : IComparable<T>
    {
        var minimal = new List<ImmutableSortedSet<T>> { ImmutableSortedSet<T>.Empty };
        foreach (var conflict in conflicts.Select(c => c.ToImmutableSortedSet()).OrderBy(c => c.Count))
        {
            // Sets that hit it already stay; the others are extended by each member, unless that swallows one that stays.
            var hitting = minimal.Where(s => s.Overlaps(conflict)).ToList();
            var extended = new List<ImmutableSortedSet<T>>();
            foreach (var set in minimal.Where(s => !s.Overlaps(conflict) && s.Count < largest))
            {
                foreach (var member in conflict)
                {
                    var longer = set.Add(member);
                    if (!hitting.Exists(h => h.IsSubsetOf(longer)) && !extended.Exists(e => e.IsSubsetOf(longer))) extended.Add(longer);
                }
            }

            minimal = [.. hitting, .. extended.Where(e => !extended.Exists(o => o.Count < e.Count && o.IsSubsetOf(e)))];
        }

        return [.. minimal.OrderBy(s => s.Count).ThenBy(s => string.Join(' ', s), StringComparer.Ordinal).Take(Most)];
    }

    /// <summary>
    /// The smallest sets of units that explain a log: every failing trial needs a unit that could stop it where it
    /// stopped and was not fully at work in a passing one.
    /// </summary>
    public static ImmutableArray<ImmutableSortedSet<UnitId>> Of(BenchDiagnosis diagnosis)
    {
        var conflicts = new List<IReadOnlyCollection<UnitId>>();
        for (var t = 0; t < diagnosis.Job.Trials.Length; t++)
        {
            var trial = diagnosis.Job.Trials[t];
            if (trial.Seen.High >= trial.Ceiling.Stage || trial.Seen.ShowsPicture) continue;
            conflicts.Add([.. Enumerable.Range(0, diagnosis.Faults.Length).Where(f => Explains(f, t)).Select(f => diagnosis.Faults[f].Unit.Id).Distinct()]);
        }

        return conflicts.Count == 0 || conflicts.Exists(c => c.Count == 0) ? [] : HittingSets(conflicts, Posterior.MostFaults);

        bool Explains(int f, int t)
        {
            var mode = diagnosis.Faults[f].Mode;
            var seen = diagnosis.Job.Trials[t].Seen;
            var stops = mode.Reach[(int)seen.Low] - mode.Reach[Math.Min((int)seen.High + 1, BootStages.Count - 1)];
            var clearedByPass = diagnosis.Passed[f] && mode.Reach[(int)BootStage.Picture] < 0.1;
            return diagnosis.Engaged[t][f] > 0.02 && stops > 0.01 && !clearedByPass;
        }
    }
}

/// <summary>A log that no set of faults explains better than slips do.</summary>
/// <param name="Lines">Lines most likely mis-recorded, or that a fault unknown to the atlas explains, worst first.</param>
public sealed record Contradiction(ImmutableArray<int> Lines)
{
    /// <summary>A likelihood is put down to a slip when the rest of it is less than so many times the slip's part.</summary>
    private const double SlipShare = 1;

    /// <summary>The contradiction in words.</summary>
    public string Words => $"No set of three faults explains line {string.Join(", ", Lines)} better than a slip does: look there for something mis-seen, or for a fault that is not in the atlas.";

    /// <summary>Looks for one: lines that the likeliest explanations put down to slips.</summary>
    /// <returns>Null when the log is explained.</returns>
    public static Contradiction? In(BenchDiagnosis diagnosis)
    {
        var lines = new List<(int Line, double Share)>();
        foreach (var piece in diagnosis.Evidence.Where(e => e.Trial is not null || e.Testimony?.Entry is ClaimEntry))
        {
            // Posterior share of hypotheses under which this line is mostly a slip.
            double slipped = 0, all = 0;
            foreach (var h in diagnosis.Hypotheses)
            {
                all += h.Probability;
                if (piece.Column.Explained(h.Faults.AsSpan()) < SlipShare * piece.Column.Offset) slipped += h.Probability;
            }

            if (all > 0 && slipped / all > 0.5) lines.Add((piece.Line, slipped / all));
        }

        return lines.Count == 0 ? null : new Contradiction([.. lines.OrderByDescending(l => l.Share).ThenBy(l => l.Line).Select(l => l.Line)]);
    }
}
