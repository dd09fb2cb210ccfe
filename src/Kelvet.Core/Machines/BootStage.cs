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

    /// <summary>The trade's short words for a stage.</summary>
    public static string Words(this BootStage stage) => stage switch
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

/// <summary>
/// What a trial showed: the machine got at least to <see cref="Low"/> and not beyond <see cref="High"/>.
/// A range stays a range: "fans, black screen, cannot tell" is 4 to 5, and reading it as 4 would
/// condemn a good CPU where only a video output is dead.
/// </summary>
public readonly record struct StageRange
{
    /// <summary>Creates a range.</summary>
    /// <exception cref="ArgumentOutOfRangeException">A bound is not a stage, or low is above high.</exception>
    public StageRange(BootStage low, BootStage high)
    {
        if (!Enum.IsDefined(low)) throw new ArgumentOutOfRangeException(nameof(low), low, "A boot stage is 0 to 8.");
        if (!Enum.IsDefined(high)) throw new ArgumentOutOfRangeException(nameof(high), high, "A boot stage is 0 to 8.");
        if (low > high)
            throw new ArgumentOutOfRangeException(nameof(low), low, $"The low end {(int)low} is above the high end {(int)high}.");
        Low = low;
        High = high;
    }

    public BootStage Low { get; }

    public BootStage High { get; }

    /// <summary>How many stages the range spans, 1 to 9.</summary>
    public int Width => High - Low + 1;

    /// <summary>Whether the trial counts as a pass for a no-video complaint: a picture was seen.</summary>
    public bool ShowsPicture => Low >= BootStage.Picture;

    public bool Contains(BootStage stage) => stage >= Low && stage <= High;

    /// <summary>Exactly one stage.</summary>
    public static StageRange At(BootStage stage) => new(stage, stage);

    /// <summary>At least this stage; how much further was not followed.</summary>
    public static StageRange AtLeast(BootStage stage) => new(stage, BootStage.Stable);

    /// <summary>Reads "4" or "4-5".</summary>
    public static bool TryParse(string? text, out StageRange range)
    {
        range = default;
        var parts = (text ?? "").Trim().Split('-');
        if (parts.Length is not (1 or 2)) return false;
        if (!TryStage(parts[0], out var low) || !TryStage(parts[^1], out var high) || low > high) return false;
        range = new StageRange(low, high);
        return true;
    }

    private static bool TryStage(string text, out BootStage stage)
    {
        stage = default;
        text = text.Trim();
        if (text.Length != 1 || text[0] is < '0' or > '8') return false;
        stage = (BootStage)(text[0] - '0');
        return true;
    }

    /// <summary>The form that <see cref="TryParse"/> reads: "4" or "4-5".</summary>
    public override string ToString() => Low == High ? $"{(int)Low}" : $"{(int)Low}-{(int)High}";

    /// <summary>The range in words: "runs, no POST to POST, no picture".</summary>
    public string Words()
    {
        if (Low == High) return Low.Words();
        if (Low == BootStage.RunsNoPost && High == BootStage.PostNoPicture) return "runs, no picture; POST not told";
        return High == BootStage.Stable ? $"{Low.Words()} or better" : $"{Low.Words()} to {High.Words()}";
    }
}
