using System.Text.RegularExpressions;

namespace Kelvet.Core.Text;

/// <summary>The form of every id in Kelvet's files: lower-case letters, digits and dashes, 1 to 40 characters.</summary>
public static partial class Slug
{
    /// <summary>Whether a text is an id.</summary>
    public static bool IsValid(string? text) => text is not null && Pattern().IsMatch(text);

    [GeneratedRegex("^[a-z0-9][a-z0-9-]{0,39}\\z")]
    private static partial Regex Pattern();
}
