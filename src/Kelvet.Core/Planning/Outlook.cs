using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>
/// The figures that bench, closing page and report show of how a job stands, worked out in one place.
/// </summary>
/// <param name="Left">Chance, 0 to 1, that the machine as it is to go out has a fault that keeps a picture away.</param>
/// <param name="Intermittence">How often it failed of how many starts of one and the same machine; null when it did not come and
/// go.</param>
public sealed record Outlook(double Left, Intermittence? Intermittence)
{
    /// <summary>Reads it off a log.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="preferences">The shop's; the usual when null.</param>
    public static Outlook Of(BenchDiagnosis diagnosis, Preferences? preferences = null) =>
        new(Planner.StillThere(diagnosis, Planner.Repaired(diagnosis, preferences)), Intermittence.In(diagnosis.Job));
}
