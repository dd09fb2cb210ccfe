using System.Collections.Immutable;

namespace Kelvet.Core.Diagnosis;

/// <summary>
/// The smallest sets that explain everything, by consistency alone and without odds: R. Reiter, "A theory of diagnosis
/// from first principles", Artificial Intelligence 32 (1987); J. de Kleer and B. C. Williams, "Diagnosing multiple
/// faults", ibid.
/// </summary>
public static class MinimalSets
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
                    if (!hitting.Exists(h => h.IsSubsetOf(longer)) && !extended.Exists(e => e.IsSubsetOf(longer)))
                        extended.Add(longer);
                }
            }

            minimal = [.. hitting, .. extended.Where(e => !extended.Exists(o => o.Count < e.Count && o.IsSubsetOf(e)))];
        }

        return [.. minimal.OrderBy(s => s.Count).ThenBy(s => string.Join(' ', s), StringComparer.Ordinal).Take(Most)];
    }
}
