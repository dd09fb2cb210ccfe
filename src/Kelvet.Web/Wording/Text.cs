using Kelvet.Core.Proving;

namespace Kelvet.Web.Wording;

/// <summary>How numbers and sentences are put on the screen.</summary>
public static class Text
{
    public static string Capital(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>Cuts a label that would not fit, with an ellipsis.</summary>
    public static string Cut(string text, int most) => text.Length <= most ? text : text[..(most - 1)].TrimEnd() + "…";

    /// <summary>A name as the id of an element.</summary>
    public static string Id(string name) => string.Concat(name.Select(c => char.IsLetterOrDigit(c) ? char.ToLowerInvariant(c) : '-'));

    /// <summary>The class of a standing.</summary>
    public static string CssClass(Standing standing) => standing.ToString().ToLowerInvariant();
}
