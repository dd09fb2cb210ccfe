using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>Why memory runs at less than it could, or in one channel.</summary>
public enum MemoryLimit
{
    /// <summary>Sticks of different kits: they run at the slowest one's speed and timings.</summary>
    SlowestStick,

    /// <summary>The profile is held back or off.</summary>
    ProfileHeldBack,

    /// <summary>All sticks hang on one channel, with another one free.</summary>
    OneChannel,

    /// <summary>Channels hold different amounts: what one has more of runs in one channel.</summary>
    UnevenChannels,

    /// <summary>Two sticks on a channel where one hangs behind the other: four seldom run at the speed that two do.</summary>
    TwoOnAChannel,
}

/// <summary>How the memory of a machine runs by what is fitted and set: before any start, from the sticks' own figures.</summary>
/// <param name="TotalGb">All of it, GB; null where the size of a stick is not recorded.</param>
/// <param name="Speed">Megatransfers per second that all run at; null where the speed of a stick is not recorded.</param>
/// <param name="Slowest">The stick that the speed is set by; null where all are alike or it is not known.</param>
/// <param name="Channels">Channels that hold a stick, in the board's order.</param>
/// <param name="Limits">What holds it back.</param>
public sealed record MemoryRun(
    int? TotalGb,
    int? Speed,
    MemoryStick? Slowest,
    ImmutableArray<string> Channels,
    ImmutableArray<MemoryLimit> Limits
)
{
    /// <summary>Megatransfers per second from one step of the ladder to the next. Common practice.</summary>
    public const int Step = 200;

    /// <summary>How the memory of a machine runs; null where it has no board or no stick.</summary>
    public static MemoryRun? Of(Situation machine)
    {
        if (machine.Board is not { } board || machine.Sticks.Length == 0)
            return null;
        MemoryStick[] sticks = [.. machine.Sticks.Select(s => s.Stick)];
        var full = sticks.Select(s => SpeedOf(s, 0)).ToArray();
        var now = sticks.Select(s => SpeedOf(s, machine.ProfileStepsDown)).ToArray();
        int? speed = now.All(s => s is not null) ? now.Min() : null;
        var slowest = full.All(s => s is not null) && full.Distinct().Count() > 1 ? sticks.MinBy(s => SpeedOf(s, 0)) : null;
        var byChannel = machine
            .Sticks.GroupBy(s => board.Slot(s.Place.Part)?.Channel ?? "")
            .ToDictionary(g => g.Key, g => g.Sum(s => s.Stick.SizeGb));
        return new MemoryRun(
            machine.FittedGb,
            speed,
            slowest,
            [.. board.Channels.Where(byChannel.ContainsKey)],
            [.. HeldBackBy(machine, board, slowest, byChannel)]
        );
    }

    /// <summary>Speed of a stick so many steps below its profile; null where it is not known.</summary>
    /// <param name="stick">The stick.</param>
    /// <param name="stepsDown">As <see cref="Situation.ProfileStepsDown"/>.</param>
    public static int? SpeedOf(MemoryStick stick, int stepsDown) =>
        stick.Profile is not { } profile ? stick.Speed
        : stepsDown >= Situation.ProfileSteps.Length ? stick.Speed
        : stick.Speed is { } plain ? Math.Max(plain, profile - (Step * stepsDown))
        : profile - (Step * stepsDown);

    /// <summary>Whether two sticks are told to be of different kits: by the kit's name, the part number, size or speed.</summary>
    public static bool AreOfDifferentKits(MemoryStick one, MemoryStick other) =>
        Differ(one.Kit, other.Kit)
        || (one.Kit.Length == 0 && Differ(one.PartNumber, other.PartNumber))
        || (one.SizeGb > 0 && other.SizeGb > 0 && one.SizeGb != other.SizeGb)
        || (SpeedOf(one, 0) is { } a && SpeedOf(other, 0) is { } b && a != b);

    private static bool Differ(string one, string other) =>
        one.Length > 0 && other.Length > 0 && !string.Equals(one, other, StringComparison.OrdinalIgnoreCase);

    private static IEnumerable<MemoryLimit> HeldBackBy(
        Situation machine,
        Motherboard board,
        MemoryStick? slowest,
        Dictionary<string, int> byChannel
    )
    {
        if (slowest is not null)
            yield return MemoryLimit.SlowestStick;
        if (machine.ProfileStepsDown > 0 && machine.Sticks.Any(s => s.Stick.Profile is not null))
            yield return MemoryLimit.ProfileHeldBack;
        if (byChannel.Count == 1 && machine.Sticks.Length > 1 && board.Channels.Count() > 1)
            yield return MemoryLimit.OneChannel;
        if (byChannel.Count > 1 && machine.FittedGb is not null && byChannel.Values.Distinct().Count() > 1)
            yield return MemoryLimit.UnevenChannels;
        if (board.Layout != SlotLayout.Forked && machine.Sticks.Length > byChannel.Count && byChannel.Count > 1)
            yield return MemoryLimit.TwoOnAChannel;
    }
}
