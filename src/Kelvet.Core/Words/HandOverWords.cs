using Kelvet.Core.Machines;
using Kelvet.Core.Worksheets;

namespace Kelvet.Core.Words;

/// <summary>The points of a hand-over sheet, in words.</summary>
public static class HandOverWords
{
    /// <summary>How the line begins that says that the sheet was gone through.</summary>
    public const string Done = "Hand-over sheet:";

    /// <summary>What is looked at.</summary>
    public static string Words(this HandOverItem item) =>
        item.Kind switch
        {
            HandOverKind.Memory when item.Detail.Length == 0 => "Memory: it sees as much as is in it",
            HandOverKind.Memory => $"Memory: it sees {item.Detail}",
            HandOverKind.Drive => $"{item.Unit!.Name} is seen, with its size",
            HandOverKind.Output when item.Detail.Length == 0 => $"Picture at each output of the {item.Unit!.Kind.Words()}",
            HandOverKind.Output => $"Picture at {item.Detail}",
            HandOverKind.Ports => $"USB ports {item.Detail}: a stick in each",
            HandOverKind.Network => "Network is found, sound is heard",
            HandOverKind.Fan => $"{item.Unit!.Name}: its fan turns, on its own header",
            HandOverKind.Pump => $"{item.Unit!.Name} runs: its speed is shown",
            HandOverKind.Temperature => "CPU's temperature after ten minutes",
            HandOverKind.Firmware => $"Firmware's version and date noted{(item.Detail.Length > 0 ? $": {item.Detail}" : "")}",
            HandOverKind.Clock => "Date and time right, also after the lead was out",
            HandOverKind.Settings => "Settings, boot order and memory profile as agreed",
            HandOverKind.Misfit => $"Told: {item.Misfit!.Value.Words()}",
            HandOverKind.Finding when item.Misfit is { } misfit => $"Put right: {misfit.Words()}",
            HandOverKind.Finding => $"{item.Unit!.Name}, {item.Detail}: put right, or told",
            HandOverKind.LooseEnd => $"Done: {item.Detail}",
            HandOverKind.PartOut => $"{item.Unit!.Name}: back in, or in a bag with its label",
            HandOverKind.PartLent => $"{item.Unit!.Name} is the shop's: out again, or sold",
            _ => "Case closed, nothing loose in it, accessories with it",
        };
}
