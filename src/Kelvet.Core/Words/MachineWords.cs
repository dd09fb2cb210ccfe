using Kelvet.Core.Machines;

namespace Kelvet.Core.Words;

/// <summary>Words for what is done to a machine and what holds it down.</summary>
public static class MachineWords
{
    /// <summary>What holds a ceiling down, in words.</summary>
    public static string Words(this CeilingReason reason) =>
        reason switch
        {
            CeilingReason.NoSupply => "no power supply is connected",
            CeilingReason.NoBoard => "no board is on the bench",
            CeilingReason.NoSwitch => "no case switch is connected to start it",
            CeilingReason.NoCpu => "no CPU is fitted",
            CeilingReason.NoMemory => "no memory is fitted",
            CeilingReason.NoMonitor => "no monitor is connected",
            CeilingReason.NoCable => "no video cable is connected",
            CeilingReason.NoAdapter => "the display adapter is out",
            CeilingReason.NoOutput => "the monitor is not plugged into an output",
            CeilingReason.CpuWithoutGraphics => "the monitor is on the board, and this CPU has no graphics to drive it",
            CeilingReason.NothingForAPicture => "nothing in it can make a picture: no graphics in the CPU, and no card",
            CeilingReason.BoardBesideCard => "the monitor is on the board beside a fitted card, which usually takes the picture",
            CeilingReason.CardNotFitted => "the monitor is on a card that is not fitted",
            CeilingReason.NoMainCable => "no main cable goes from the supply to the board",
            CeilingReason.NoCpuCable => "no cable goes from the supply to the processor's plug",
            CeilingReason.NoCardCable => "no cable goes from the supply to the card",
            CeilingReason.NoDrive => "no drive is connected",
            _ => reason.ToString(),
        };

    /// <summary>All that holds a ceiling down, in words; empty when nothing does.</summary>
    public static string Words(this Ceiling ceiling) => string.Join("; ", ceiling.Reasons.Select(Words));

    /// <summary>A change in the trade's words, with the units' names.</summary>
    public static string Words(this Change change, Parts parts) =>
        change.Words(id => parts.Find(id) is { } unit ? parts.NameOf(unit) : id.Value);

    /// <summary>A change with its units called as the caller calls them.</summary>
    internal static string Words(this Change change, Func<UnitId, string> name) =>
        change switch
        {
            Change.Fit c => $"fit {name(c.Unit)} in {c.Place.Words()}",
            Change.Remove c => $"take out {name(c.Unit)}",
            Change.Move c => $"move {name(c.Unit)} to {c.Place.Words()}",
            Change.Swap c => $"swap {name(c.Out)} for {name(c.In)}",
            Change.Reseat c => $"reseat {name(c.Unit)}",
            Change.Connect c => $"connect {name(c.Unit)}",
            Change.Bypass c => $"bypass {name(c.Unit)}",
            Change.StartWith { Method: StartMethod.CaseSwitch } => "start with the case switch",
            Change.StartWith => "start at the header pins",
            Change.DisplayAt c => $"monitor on {c.Output.Words()}",
            Change.ClearCmos => "clear CMOS",
            Change.IntoCase c => $"put {name(c.Unit)} back into the case",
            Change.Choose c => $"set {c.Option.Words()}",
            Change.Undo c => $"put back the setting: {c.Option.Words()}",
            Change.Lay c => c.Posture == Posture.Upright ? "stand the machine up" : "lay the machine on its side",
            Change.Mend { Remedy: Remedy.Isolate } c => $"run {name(c.Unit)} out of the case",
            Change.Mend { Remedy: Remedy.Straighten } c => $"straighten the socket pins of {name(c.Unit)}",
            Change.Mend { Remedy: Remedy.NewCell } c => $"put a new coin cell on {name(c.Unit)}",
            Change.Mend { Remedy: Remedy.Flash } c => $"flash the firmware of {name(c.Unit)}",
            Change.Mend { Remedy: Remedy.Set } c => $"set {name(c.Unit)} right",
            Change.Mend c => $"{c.Remedy.ToString().ToLowerInvariant()} {name(c.Unit)}",
            _ => throw new ArgumentException($"No words for {change.GetType().Name}.", nameof(change)),
        };

    /// <summary>Several changes in words, with commas between.</summary>
    public static string Words(this IEnumerable<Change> changes, Parts parts) => string.Join(", ", changes.Select(c => c.Words(parts)));
}
