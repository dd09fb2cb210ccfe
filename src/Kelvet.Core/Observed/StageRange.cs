using Kelvet.Core.Machines;

namespace Kelvet.Core.Observed;

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
        if (!Enum.IsDefined(low))
            throw new ArgumentOutOfRangeException(nameof(low), low, "A boot stage is 0 to 8.");
        if (!Enum.IsDefined(high))
            throw new ArgumentOutOfRangeException(nameof(high), high, "A boot stage is 0 to 8.");
        if (low > high)
            throw new ArgumentOutOfRangeException(nameof(low), low, $"The low end {(int)low} is above the high end {(int)high}.");
        Low = low;
        High = high;
    }

    /// <summary>The earliest stage it can be.</summary>
    public BootStage Low { get; }

    /// <summary>The latest stage it can be.</summary>
    public BootStage High { get; }

    /// <summary>How many stages the range spans, 1 to 9.</summary>
    public int Width => High - Low + 1;

    /// <summary>Whether the trial counts as a pass for a no-video complaint: a picture was seen.</summary>
    public bool ShowsPicture => Low >= BootStage.Picture;

    /// <summary>Whether the stage is within.</summary>
    public bool Contains(BootStage stage) => stage >= Low && stage <= High;

    /// <summary>Exactly one stage.</summary>
    public static StageRange At(BootStage stage) => new(stage, stage);

    /// <summary>At least this stage; how much further was not followed.</summary>
    public static StageRange AtLeast(BootStage stage) => new(stage, BootStage.Stable);

    /// <summary>The text form of <see cref="ObservedFormat"/>.</summary>
    public override string ToString() => ObservedFormat.Write(this);

    /// <summary>The range in words: "runs, no POST to POST, no picture".</summary>
    public string Words()
    {
        if (Low == High)
            return Low.Words();
        if (Low == BootStage.RunsNoPost && High == BootStage.PostNoPicture)
            return "runs, no picture; POST not told";
        return High == BootStage.Stable ? $"{Low.Words()} or better" : $"{Low.Words()} to {High.Words()}";
    }
}
