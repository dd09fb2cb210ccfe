using Kelvet.Core.Faults;

namespace Kelvet.Core.Words;

/// <summary>Words for faults.</summary>
public static class FaultWords
{
    /// <summary>The fault in words: "memory slot dead (A2)".</summary>
    public static string Words(this Fault fault) =>
        (fault.Part.Length == 0 || fault.Mode.On == FaultSite.DigitalOutputs ? fault.Mode.Name : $"{fault.Mode.Name} ({fault.Part})")
        + (
            fault.After == CureOutcome.Failed ? ", not cured by what was done"
            : fault.Tries > 1 ? ", cured at the second try"
            : ""
        )
        + fault.Hands switch
        {
            ByHands.Cured => ", cured in passing by work beside it",
            ByHands.BroughtAbout => ", brought about by work beside it",
            _ => "",
        };
}
