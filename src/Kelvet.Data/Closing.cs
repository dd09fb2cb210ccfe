using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Data;

/// <summary>What a job is closed with.</summary>
/// <param name="Words">What was done, in the technician's words.</param>
/// <param name="Found">Units found at fault.</param>
/// <param name="ProvedModes">Fault modes that the log proved.</param>
/// <param name="Figures">The figures of the report, JSON.</param>
/// <param name="AtUtc">When; null for now.</param>
public sealed record Closing(
    string Words,
    IReadOnlyList<UnitId> Found,
    IReadOnlyList<string> ProvedModes,
    string Figures,
    DateTime? AtUtc = null
)
{
    /// <summary>Those of the units found at fault that only another part helped.</summary>
    public IReadOnlyList<UnitId> Broken { get; init; } = [];

    /// <summary>What becomes of each part that is not where it came in; empty where each was settled before, or none is.</summary>
    public IReadOnlyList<SettledEntry> Fates { get; init; } = [];
}
