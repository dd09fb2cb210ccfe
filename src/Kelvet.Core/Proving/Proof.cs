using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Proving;

/// <summary>Two trials that differ in one unit alone and in their outcome.</summary>
/// <param name="Pass">The trial that got a picture, with the unit's faults out of play.</param>
/// <param name="Fail">The trial that did not, with them in play.</param>
public sealed record ProofPair(Trial Pass, Trial Fail);

/// <summary>
/// What the log proves about a unit. Both ways: with the suspect out the machine passes, with it back the
/// machine fails, and nothing else that could matter changed in between.
/// </summary>
/// <param name="TakenOut">A failure that went away when the unit's faults went out of play.</param>
/// <param name="PutBack">A failure that came when they came back into play.</param>
/// <param name="Elsewhere">Line of a try in another, known-good machine that failed with it; 0 when there is none.</param>
/// <param name="Repaired">
/// A failure that went away when the unit was mended in place, with nothing else that could matter changed, and the
/// number of passes since: proof by repair and return for faults that are not a part (a seat, a setting, firmware).
/// </param>
public sealed record Proof(ProofPair? TakenOut, ProofPair? PutBack, int Elsewhere, (ProofPair Pair, int Passes)? Repaired)
{
    /// <summary>Passes after a repair in place that make it a proof: the one that showed it and one more.</summary>
    private const int PassesAfterRepair = 2;

    /// <summary>Bites that differ by less than this count as equal.</summary>
    private const double SameBite = 0.1;

    /// <summary>A fault that bites at least so often must have been able to act in the failing trial.</summary>
    private const double Bites = 0.5;

    /// <summary>A fault that bites at least so often would have shown in a passing trial.</summary>
    private const double FullyAtWork = 0.95;

    /// <summary>Whether the fault left with the unit and came back with it, or the like: proved.</summary>
    public bool TwoWay => PutBack is not null || (TakenOut is not null && Elsewhere > 0) || Repaired is { Passes: >= PassesAfterRepair };

    /// <summary>Whether one side of the proof stands.</summary>
    public bool OneWay => (TakenOut ?? PutBack) is not null || Elsewhere > 0 || Repaired is not null;

    /// <summary>
    /// The trials that it rests on, each once, in the order in which they happened: with the unit's faults in play, the
    /// machine failed; without, it passed.
    /// </summary>
    public ImmutableArray<(Trial Trial, bool With)> Events =>
        [
            .. new[] { TakenOut, PutBack }
                .OfType<ProofPair>()
                .SelectMany(p => new[] { (Trial: p.Fail, With: true), (Trial: p.Pass, With: false) })
                .DistinctBy(e => e.Trial.Number)
                .OrderBy(e => e.Trial.Position),
        ];

    /// <summary>Nothing proved.</summary>
    public static Proof None { get; } = new(null, null, 0, null);

    /// <summary>Looks for proof about every unit in a log.</summary>
    /// <param name="job">The job.</param>
    /// <param name="faults">All faults of the job.</param>
    /// <param name="engaged">Per trial, per fault, the chance that it acted.</param>
    /// <param name="passed">Faults that cannot matter: at work in a passing trial, or negligible.</param>
    /// <param name="leading">
    /// Per unit, the fault that it is held to have: what is proved is that fault, and a pair of trials in which another one of the
    /// unit's came into play (a slot, where the whole board is meant) proves nothing of it. Null to take any.
    /// </param>
    /// <returns>The units of which something is proved.</returns>
    public static Dictionary<UnitId, Proof> All(
        BenchJob job,
        ImmutableArray<Fault> faults,
        IReadOnlyList<double[]> engaged,
        bool[] passed,
        IReadOnlyDictionary<UnitId, int>? leading = null
    )
    {
        var trials = job.Trials;
        var takenOut = new Dictionary<UnitId, ProofPair>();
        var putBack = new Dictionary<UnitId, ProofPair>();
        for (var i = 1; i < trials.Length; i++)
        {
            for (var j = i - 1; j >= 0; j--)
            {
                if (trials[i].Passed == trials[j].Passed)
                    continue;
                var (pass, fail) = trials[i].Passed ? (i, j) : (j, i);
                if (!Failed(trials[fail]))
                    continue;
                foreach (var unit in BroughtIntoPlay(engaged[pass], engaged[fail], passed, faults).Where(IsItsFault))
                    (pass > fail ? takenOut : putBack).TryAdd(unit, new ProofPair(trials[pass], trials[fail]));

                bool IsItsFault(UnitId unit) =>
                    leading is null || !leading.TryGetValue(unit, out var held) || engaged[fail][held] - engaged[pass][held] > SameBite;
            }
        }

        var elsewhere = job
            .Testimonies.Select(t => (t.Number, Entry: t.Entry as ElsewhereEntry))
            .Where(t => t.Entry is not null)
            .GroupBy(t => t.Entry!.Unit)
            .Where(g => !g.Last().Entry!.Worked)
            .ToDictionary(g => g.Key, g => g.Last().Number);
        return takenOut
            .Keys.Union(putBack.Keys)
            .Union(elsewhere.Keys)
            .ToDictionary(
                u => u,
                u => new Proof(
                    takenOut.GetValueOrDefault(u),
                    putBack.GetValueOrDefault(u),
                    elsewhere.GetValueOrDefault(u),
                    RepairedInPlace(job, u, takenOut.GetValueOrDefault(u))
                )
            );
    }

    private static (ProofPair Pair, int Passes)? RepairedInPlace(BenchJob job, UnitId unit, ProofPair? takenOut)
    {
        if (takenOut is null || !takenOut.Pass.Situation.Now.Has(unit))
            return null;
        var mended = takenOut.Pass.Changes.Any(c =>
            c is Change.ClearCmos
                ? takenOut.Pass.Situation.Now[Place.Board] == unit
                : c is Change.Reseat { Unit: var reseated } && reseated == unit || c is Change.Mend { Unit: var mend } && mend == unit
        );
        var since = job.Trials.Where(t => t.Ordinal >= takenOut.Pass.Ordinal && t.Situation.Now.Has(unit)).TakeWhile(t => t.Passed).Count();
        return mended ? (takenOut, since) : null;
    }

    /// <summary>
    /// Whether going from one engagement to the other brings into play faults of this unit and of no other.
    /// Faults that cannot matter (at work in a passing trial, or negligible) are passed over.
    /// </summary>
    public static bool OnlyThisUnit(double[] pass, double[] fail, bool[] passed, ImmutableArray<Fault> faults, UnitId unit) =>
        BroughtIntoPlay(pass, fail, passed, faults).Contains(unit);

    /// <summary>The units of which it can be said that they alone came into play: one, or none, or several that were all cleared
    /// but for one another.</summary>
    private static List<UnitId> BroughtIntoPlay(double[] pass, double[] fail, bool[] passed, ImmutableArray<Fault> faults)
    {
        UnitId? notCleared = null;
        var biting = new List<UnitId>();
        for (var f = 0; f < faults.Length; f++)
        {
            if (fail[f] - pass[f] <= SameBite)
                continue;
            var unit = faults[f].Unit.Id;
            if (!passed[f])
            {
                if (notCleared is { } other && other != unit)
                    return [];
                notCleared = unit;
            }

            if (fail[f] >= Bites && !biting.Contains(unit))
                biting.Add(unit);
        }

        return notCleared is { } only
            ? biting.Contains(only)
                ? [only]
                : []
            : biting;
    }

    /// <summary>Per fault, whether it was fully at work, and so would have shown, in a trial that got a picture.</summary>
    public static bool[] AtWorkInAPass(IReadOnlyList<Trial> trials, IReadOnlyList<double[]> engaged, int faults)
    {
        var passed = new bool[faults];
        for (var t = 0; t < trials.Count; t++)
        {
            if (!trials[t].Passed)
                continue;
            for (var f = 0; f < faults; f++)
                passed[f] |= engaged[t][f] >= FullyAtWork;
        }

        return passed;
    }

    private static bool Failed(Trial trial) => trial.Failed && trial.Ceiling.Stage >= trial.Goal;
}
