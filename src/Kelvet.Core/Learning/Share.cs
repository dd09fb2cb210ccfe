namespace Kelvet.Core.Learning;

/// <summary>A share that was counted.</summary>
public static class Share
{
    /// <summary>
    /// The 95 % interval of a share: E. B. Wilson, Journal of the American Statistical Association 22 (1927) 209.
    /// </summary>
    /// <param name="hits">Of how many it is so.</param>
    /// <param name="of">Of how many, 1 or more.</param>
    public static (double Low, double High) Wilson(int hits, int of)
    {
        const double z = 1.959964;
        double p = (double)hits / of,
            n = of;
        var middle = (p + (z * z / (2 * n))) / (1 + (z * z / n));
        var half = z / (1 + (z * z / n)) * Math.Sqrt((p * (1 - p) / n) + (z * z / (4 * n * n)));
        return (middle - half, middle + half);
    }
}
