using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Evidence;

/// <summary>
/// How faults hold up a start: the arithmetic by which a trial is read backwards (<see cref="EvidenceColumn"/>) and
/// foretold (planning). There is no other place for it.
/// </summary>
public static class TrialModel
{
    /// <summary>Chance of getting at least to a stage past one fault.</summary>
    /// <param name="engaged">Chance, 0 to 1, that the fault acts.</param>
    /// <param name="reach">Chance, 0 to 1, of getting there while it acts.</param>
    public static double Past(double engaged, double reach) => 1 - engaged + (engaged * reach);

    /// <summary>Chance that a range is seen.</summary>
    /// <param name="toLow">Chance of getting at least to its low end.</param>
    /// <param name="beyond">Chance of getting beyond its high end.</param>
    /// <param name="seen">The range.</param>
    /// <param name="slip">Chance that the observation is worthless.</param>
    public static double Seen(double toLow, double beyond, StageRange seen, double slip) =>
        Seen(toLow, beyond, Weight(slip), Worthless(seen, slip));

    /// <summary>The same, with what the range and the slip come to worked out before.</summary>
    public static double Seen(double toLow, double beyond, double weight, double worthless) => (weight * (toLow - beyond)) + worthless;

    /// <summary>What an observation counts that is not worthless.</summary>
    public static double Weight(double slip) => 1 - slip;

    /// <summary>Chance that a worthless observation falls into a range.</summary>
    public static double Worthless(StageRange seen, double slip) => slip * seen.Width / BootStages.Count;
}
