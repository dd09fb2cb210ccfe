using Kelvet.Core.Machines;

namespace Kelvet.Core.Words;

/// <summary>What does not fit together, and what comes of it. Common practice, no source.</summary>
public static class MisfitWords
{
    /// <summary>What it is and what it leads to.</summary>
    public static string Words(this MisfitFound found, Situation machine)
    {
        var it = machine.The(machine.Parts[found.Unit]);
        var it1 = char.ToUpperInvariant(it[0]) + it[1..];
        var total = machine.FittedGb is { } gb ? $", {gb} GB in all" : "";
        return found.Kind switch
        {
            Misfit.SocketDiffers => $"{it1} is for another socket than the board has: it does not belong in it.",
            Misfit.FirmwareTooOld => "The board's firmware is older than this CPU needs: no POST until it is flashed.",
            Misfit.FirmwareUnknown =>
                "This CPU needs a firmware of some version, and the board's is not known: read the sticker on the chip, or start it with "
                    + "an older CPU.",
            Misfit.NoCooler => "There is no cooler: it is not powered, not even for a second.",
            Misfit.MemoryTypeDiffers => $"{it1} is of another generation than the board takes: it does not belong in it.",
            Misfit.MixedSticks => $"The sticks are not of one kit: they run at the slowest{total}, and may fail only together.",
            Misfit.WrongSlots => "The sticks are not in the slots that are filled first: slower, or no POST at all.",
            Misfit.OneChannel => $"All sticks share one channel{total}: it runs, at half the memory's speed.",
            Misfit.MonitorOnBoardWithoutGraphics =>
                "The monitor is on the board, and this CPU has no graphics: black whatever else is right.",
            Misfit.MonitorOnBoardBesideCard => "The monitor is on the board beside a card, which usually takes the picture: black there.",
            Misfit.NothingForAPicture => "No graphics in the CPU, and no card: it can show no picture.",
            Misfit.NoCardCable => $"{it1} needs power of its own, and no cable goes to it: no picture, or it stops under load.",
            _ => found.Kind.ToString(),
        };
    }
}
