using Kelvet.Core.Text;

namespace Kelvet.Core.Faults;

/// <summary>The text form of a fault of a job, for files and programs: "board/slot-dead/A2"; "… uncured" for one that its cure
/// left.</summary>
public static class FaultFormat
{
    /// <summary>The text form.</summary>
    public static string Write(Fault fault) =>
        $"{fault.Unit.Id}/{fault.Mode.Id}{(fault.Part.Length == 0 ? "" : $"/{fault.Part}")}"
        + $"{(fault.After == CureOutcome.Failed ? " uncured" : fault.Tries > 1 ? $" cured-{fault.Tries}" : "")}"
        + $"{(fault.Hands == ByHands.LeftAlone ? "" : $" {Dashed.Of(fault.Hands)}")}";
}
