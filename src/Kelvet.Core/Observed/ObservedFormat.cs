using Kelvet.Core.Machines;

namespace Kelvet.Core.Observed;

/// <summary>The text form of a range of boot stages, "4" or "4-5". Nowhere else is it written or read.</summary>
public static class ObservedFormat
{
    /// <summary>The form that <see cref="TryRead"/> reads.</summary>
    public static string Write(StageRange range) => range.Low == range.High ? $"{(int)range.Low}" : $"{(int)range.Low}-{(int)range.High}";

    /// <summary>Reads "4" or "4-5".</summary>
    public static bool TryRead(string? text, out StageRange range)
    {
        range = default;
        var parts = (text ?? "").Trim().Split('-');
        if (parts.Length is not (1 or 2))
            return false;
        if (!TryStage(parts[0], out var low) || !TryStage(parts[^1], out var high) || low > high)
            return false;
        range = new StageRange(low, high);
        return true;
    }

    private static bool TryStage(string text, out BootStage stage)
    {
        stage = default;
        text = text.Trim();
        if (text.Length != 1 || text[0] is < '0' or > '8')
            return false;
        stage = (BootStage)(text[0] - '0');
        return true;
    }
}
