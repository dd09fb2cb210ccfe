using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

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
            Misfit.TooFewPlugs => "The card needs more power plugs than the supply has: no picture, or it stops under load.",
            Misfit.SupplyTooSmall when PowerEstimate.Of(machine) is { } e =>
                $"The supply is rated {machine.Parts[found.Unit].Watts} W; these parts may draw {e.Most} W, {e.Wanted} W with a margin: "
                    + "it cuts out or restarts under load.",
            Misfit.CoolerForOtherSocket => $"{it1} is for another socket: it does not press evenly, and the CPU gets hot.",
            Misfit.CoolerTooWeak =>
                $"{it1} carries off {machine.Parts[found.Unit].Watts} W, the CPU gives {machine.Cpu?.Watts} W: slow or off under load.",
            Misfit.MoreFansThanHeaders => "There are more fans than headers, and no hub: one of them hangs somewhere else, or stands.",
            _ => found.Kind.ToString(),
        };
    }

    /// <summary>What it is, in a few words.</summary>
    public static string Words(this Misfit kind) =>
        kind switch
        {
            Misfit.SocketDiffers => "CPU for another socket",
            Misfit.FirmwareTooOld => "firmware older than the CPU needs",
            Misfit.FirmwareUnknown => "firmware not known, and the CPU needs one of some version",
            Misfit.NoCooler => "no cooler",
            Misfit.MemoryTypeDiffers => "memory of another generation",
            Misfit.MixedSticks => "sticks not of one kit",
            Misfit.WrongSlots => "sticks in other slots than are filled first",
            Misfit.OneChannel => "all sticks on one channel",
            Misfit.MonitorOnBoardWithoutGraphics => "monitor on a board whose CPU has no graphics",
            Misfit.MonitorOnBoardBesideCard => "monitor on the board beside a card",
            Misfit.NothingForAPicture => "nothing that makes a picture",
            Misfit.NoCardCable => "no power cable to the card",
            Misfit.TooFewPlugs => "fewer power plugs than the card needs",
            Misfit.SupplyTooSmall => "supply rated for less than the parts may draw",
            Misfit.CoolerForOtherSocket => "cooler for another socket",
            Misfit.CoolerTooWeak => "cooler weaker than the CPU",
            _ => "more fans than headers",
        };

    /// <summary>
    /// How it bears on the complaint: by itself enough for it, as likely the cause as its fault is a suspect, or told besides.
    /// </summary>
    public static string Bearing(this MisfitFound found, BenchDiagnosis diagnosis)
    {
        if (found.Kind is Misfit.MonitorOnBoardWithoutGraphics or Misfit.NothingForAPicture or Misfit.SocketDiffers)
            return "Enough by itself for a black screen.";
        if (found.Kind == Misfit.NoCooler)
            return "It is put right before anything else.";
        var modes = found.Kind.Causes();
        var likely = diagnosis.Suspects.SelectMany(s => s.Faults).Where(f => modes.Contains(f.Fault.Mode.Id)).Sum(f => f.Probability);
        return modes.Count == 0 || likely < 0.005
            ? "Told besides: it does not explain the complaint."
            : $"As the cause of the complaint: {CaseWords.Likelihood(Math.Min(1, likely))}.";
    }

    /// <summary>Ids of the modes of the atlas by which a misfit does harm.</summary>
    public static IReadOnlyCollection<string> Causes(this Misfit kind) =>
        kind switch
        {
            Misfit.FirmwareTooOld or Misfit.FirmwareUnknown => ["firmware-too-old"],
            Misfit.MemoryTypeDiffers => ["stick-incompatible"],
            Misfit.MixedSticks => ["kit-mixed", "kit-incompatible"],
            Misfit.WrongSlots => ["wrong-slots"],
            Misfit.NoCardCable or Misfit.TooFewPlugs => ["card-aux-unplugged"],
            Misfit.SupplyTooSmall => ["supply-weak", "supply-dips"],
            Misfit.CoolerForOtherSocket or Misfit.CoolerTooWeak => ["cooler-no-contact"],
            Misfit.MoreFansThanHeaders => ["case-fan-stopped"],
            Misfit.MonitorOnBoardBesideCard => ["card-not-primary"],
            _ => [],
        };
}
