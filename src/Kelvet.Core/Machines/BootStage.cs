namespace Kelvet.Core.Machines;

/// <summary>
/// How far a start-up attempt climbed. The numbers are the ones a technician keys in at the bench.
/// Common practice, no published source: the stages are the ones that can be told apart by eye and ear.
/// </summary>
public enum BootStage
{
    /// <summary>Nothing at all; no standby light.</summary>
    NoStandby = 0,

    /// <summary>Standby light, but the start contact does nothing.</summary>
    StandbyOnly = 1,

    /// <summary>Starts, stops within seconds, stays off.</summary>
    CutsOut = 2,

    /// <summary>Starts and stops by itself again and again.</summary>
    RestartLoop = 3,

    /// <summary>Fans run; the power-on self-test does not complete.</summary>
    RunsNoPost = 4,

    /// <summary>The self-test completes (beep, indicators cleared, orderly shutdown on the button), no picture.</summary>
    PostNoPicture = 5,

    /// <summary>Firmware logo or setup screen.</summary>
    Picture = 6,

    /// <summary>The operating system comes up.</summary>
    OsLoads = 7,

    /// <summary>Holds under load and over repeated starts.</summary>
    Stable = 8,
}

/// <summary>Facts about the ladder of <see cref="BootStage"/> values.</summary>
public static class BootStages
{
    /// <summary>Number of stages, 9.</summary>
    public const int Count = 9;

    /// <summary>All stages, lowest first.</summary>
    public static IReadOnlyList<BootStage> All { get; } = Enum.GetValues<BootStage>();

    /// <summary>The stage in a word or two, for the axis of a chart.</summary>
    public static string Brief(this BootStage stage) =>
        stage switch
        {
            BootStage.NoStandby => "dead",
            BootStage.StandbyOnly => "standby",
            BootStage.CutsOut => "cuts out",
            BootStage.RestartLoop => "loops",
            BootStage.RunsNoPost => "no POST",
            BootStage.PostNoPicture => "POST",
            BootStage.Picture => "picture",
            BootStage.OsLoads => "system",
            _ => "stable",
        };

    /// <summary>The trade's short words for a stage.</summary>
    public static string Words(this BootStage stage) =>
        stage switch
        {
            BootStage.NoStandby => "dead, no standby",
            BootStage.StandbyOnly => "standby only",
            BootStage.CutsOut => "cuts out",
            BootStage.RestartLoop => "restart loop",
            BootStage.RunsNoPost => "runs, no POST",
            BootStage.PostNoPicture => "POST, no picture",
            BootStage.Picture => "picture",
            BootStage.OsLoads => "system loads",
            BootStage.Stable => "stable",
            _ => throw new ArgumentOutOfRangeException(nameof(stage), stage, "A boot stage is 0 to 8."),
        };
}
