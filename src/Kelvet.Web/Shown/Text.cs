using Kelvet.Core.Diagnosis;

namespace Kelvet.Web.Shown;

/// <summary>How numbers and sentences are put on the screen.</summary>
public static class Text
{
    /// <summary>A probability for the technician: "61 %", "over 99\u00a0%", "under 1\u00a0%".</summary>
    public static string Percent(double p) => p switch
    {
        > 0.995 and < 1 => "over 99\u00a0%",
        < 0.005 and > 0 => "under 1\u00a0%",
        _ => $"{p * 100:0}\u00a0%",
    };

    public static string Capital(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>Cuts a label that would not fit, with an ellipsis.</summary>
    public static string Cut(string text, int most) => text.Length <= most ? text : text[..(most - 1)].TrimEnd() + "…";

    public static string CssClass(Standing standing) => standing.ToString().ToLowerInvariant();
}
