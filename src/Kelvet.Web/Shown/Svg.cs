using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Html;

namespace Kelvet.Web.Shown;

/// <summary>SVG text, which Razor's own text tag stands in the way of.</summary>
public static class Svg
{
    /// <param name="x">Left, middle or right of the text, by the anchor.</param>
    /// <param name="y">Base line.</param>
    /// <param name="words">The text; it is encoded here.</param>
    /// <param name="anchor">start, middle or end.</param>
    public static IHtmlContent Label(double x, double y, string words, string anchor = "start") =>
        new HtmlString(
            FormattableString.Invariant($"<text x=\"{x}\" y=\"{y}\" text-anchor=\"{anchor}\">{HtmlEncoder.Default.Encode(words)}</text>")
        );
}
