namespace Kelvet.Core.Observed;

/// <summary>The ways in which a board tells where it is.</summary>
public enum SignalKind
{
    /// <summary>Two-digit POST checkpoints, as shown by a display or a reader.</summary>
    Post,

    /// <summary>Beep patterns.</summary>
    Beeps,

    /// <summary>Indicator lights, in the order in which they lit, or a power light that blinks.</summary>
    Lights,

    /// <summary>Events that firmware logs or sends: IPMI offsets, UEFI status codes of 32 bits.</summary>
    Firmware,
}

/// <summary>Words for the kinds.</summary>
public static class SignalWords
{
    /// <summary>The kind as a technician says it.</summary>
    public static string Words(this SignalKind kind) =>
        kind switch
        {
            SignalKind.Post => "POST code",
            SignalKind.Beeps => "beeps",
            SignalKind.Lights => "lights",
            SignalKind.Firmware => "firmware event",
            _ => kind.ToString(),
        };

    /// <summary>The domain as a technician says it.</summary>
    public static string Words(this StallDomain domain) =>
        domain switch
        {
            StallDomain.Power => "power",
            StallDomain.Cpu => "CPU",
            StallDomain.Memory => "memory",
            StallDomain.Video => "video",
            StallDomain.Boot => "boot",
            StallDomain.None => "past POST",
            _ => domain.ToString(),
        };
}
