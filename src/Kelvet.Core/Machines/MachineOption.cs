namespace Kelvet.Core.Machines;

/// <summary>A firmware or system setting that is changed to see whether a fault goes with it.</summary>
public enum MachineOption
{
    /// <summary>The memory profile off: the sticks run at their plain speed.</summary>
    ProfileOff,

    /// <summary>The memory profile on again, as after the settings were cleared.</summary>
    ProfileOn,

    /// <summary>The memory 200 MT/s below its profile.</summary>
    ProfileOneDown,

    /// <summary>The memory 400 MT/s below its profile.</summary>
    ProfileTwoDown,

    /// <summary>The memory 600 MT/s below its profile.</summary>
    ProfileThreeDown,

    /// <summary>The card's link held to an older generation.</summary>
    LinkHeldBack,

    /// <summary>Legacy video on, for cards whose firmware is too old for the board.</summary>
    LegacyVideo,

    /// <summary>The card, not the board, told to be the primary display.</summary>
    CardFirst,

    /// <summary>The system's fast start off: every start is a whole one.</summary>
    FastStartOff,

    /// <summary>Without a drive it starts from the shop's stick, which has a system of its own.</summary>
    LiveMedium,
}

/// <summary>How the machine lies.</summary>
public enum Posture
{
    /// <summary>It stands as in use: a card hangs in its slot.</summary>
    Upright,

    /// <summary>It lies on its side: a card stands on its slot.</summary>
    OnItsSide,
}

/// <summary>How a start came about. What fails only cold, only warm or only from sleep shows in some of them.</summary>
public enum StartKind
{
    /// <summary>From off, after a rest that let it get cold.</summary>
    Cold,

    /// <summary>From off, while still warm.</summary>
    Warm,

    /// <summary>A restart of a machine that ran.</summary>
    Restart,

    /// <summary>Woken from sleep.</summary>
    Wake,

    /// <summary>Followed by a run under load.</summary>
    Load,
}

/// <summary>Words for settings, posture and kinds of start.</summary>
public static class OptionWords
{
    /// <summary>What is done, as said to a technician.</summary>
    public static string Words(this MachineOption option) =>
        option switch
        {
            MachineOption.ProfileOff => "memory profile off",
            MachineOption.ProfileOn => "memory profile on",
            MachineOption.ProfileOneDown => "memory 200 MT/s below its profile",
            MachineOption.ProfileTwoDown => "memory 400 MT/s below its profile",
            MachineOption.ProfileThreeDown => "memory 600 MT/s below its profile",
            MachineOption.LinkHeldBack => "card link to an older generation",
            MachineOption.LegacyVideo => "legacy video on",
            MachineOption.CardFirst => "card as primary display",
            MachineOption.FastStartOff => "fast start off",
            MachineOption.LiveMedium => "the shop's stick to start from",
            _ => throw new ArgumentOutOfRangeException(nameof(option), option, "No such setting."),
        };

    /// <summary>How it lies, in words.</summary>
    public static string Words(this Posture posture) => posture == Posture.Upright ? "upright" : "on its side";

    /// <summary>The kind of start, in words.</summary>
    public static string Words(this StartKind kind) =>
        kind switch
        {
            StartKind.Cold => "cold start",
            StartKind.Warm => "warm start",
            StartKind.Restart => "restart",
            StartKind.Wake => "wake from sleep",
            StartKind.Load => "run under load",
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "No such start."),
        };
}
