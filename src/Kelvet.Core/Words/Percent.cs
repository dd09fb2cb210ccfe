namespace Kelvet.Core.Words;

/// <summary>A probability in the words that a technician reads.</summary>
public static class Percent
{
    /// <summary>"61 %", "over 99 %", "under 1 %"; the space does not break.</summary>
    public static string Words(double p) =>
        p switch
        {
            > 0.995 and < 1 => "over 99\u00a0%",
            < 0.005 and > 0 => "under 1\u00a0%",
            _ => $"{p * 100:0}\u00a0%",
        };
}
