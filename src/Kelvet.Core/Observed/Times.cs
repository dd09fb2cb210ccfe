using System.Globalization;

namespace Kelvet.Core.Observed;

/// <summary>"k of n", as a customer counts: "sometimes" is 1 of 2.</summary>
/// <param name="Failed">How often it failed, 1 to 1000.</param>
/// <param name="Of">Of how many, at least as many.</param>
public readonly record struct Times(int Failed, int Of)
{
    /// <summary>Whether the counts can be.</summary>
    public bool Makes => Failed is >= 1 and <= 1000 && Of >= Failed && Of <= 1000;
}

/// <summary>The text form of "k of n" in job files: "2/5".</summary>
public static class TimesFormat
{
    /// <summary>Writes it.</summary>
    public static string Write(Times times) => string.Create(CultureInfo.InvariantCulture, $"{times.Failed}/{times.Of}");

    /// <summary>Reads it; false where it is not two whole numbers, or cannot be.</summary>
    public static bool TryRead(string? text, out Times times)
    {
        times = default;
        if (text?.Split('/') is not [var failed, var of] || !Number(failed, out var k) || !Number(of, out var n))
            return false;
        times = new Times(k, n);
        return times.Makes;
    }

    private static bool Number(string text, out int number) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out number);
}
