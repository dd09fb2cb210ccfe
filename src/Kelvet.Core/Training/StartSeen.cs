using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Training;

/// <summary>What is to be seen and heard of a start.</summary>
/// <param name="Seen">How far it got, as it is written down.</param>
/// <param name="Stall">What its lights point at; null for nothing.</param>
/// <param name="By">The fault that ended it; null for none.</param>
public sealed record StartSeen(StageRange Seen, StallSignal? Stall, FaultMode? By)
{
    /// <summary>What it beeps, in the form of the tables; empty for nothing.</summary>
    public string Beeps { get; init; } = "";

    /// <summary>Filled slots whose memory it does not see though it came up.</summary>
    public ImmutableArray<string> Lost { get; init; } = [];

    /// <summary>Whether its picture is spoilt.</summary>
    public bool IsSpoilt { get; init; }

    /// <summary>Whether it shows a symptom though it came up.</summary>
    public bool Shows(Symptom symptom) => symptom == Symptom.Artefacts ? IsSpoilt : Lost.Length > 0;
}
