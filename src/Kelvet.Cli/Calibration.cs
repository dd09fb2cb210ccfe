using System.Globalization;
using System.Text;

namespace Kelvet.Cli;

/// <summary>How often parts that were said to be at fault were, by how likely it was said.</summary>
internal static class Calibration
{
    /// <summary>One band of what was said.</summary>
    /// <param name="From">Its lower end, 0 to 1.</param>
    /// <param name="To">Its upper end.</param>
    /// <param name="Said">Mean of what was said in it.</param>
    /// <param name="Was">Share that was at fault.</param>
    /// <param name="Count">How many claims it holds.</param>
    public sealed record Band(double From, double To, double Said, double Was, int Count);

    private static readonly double[] Ends = [0.05, 0.1, 0.2, 0.35, 0.5, 0.65, 0.8, 0.95, 1.000001];

    public static Band[] Of(IEnumerable<(double Said, bool Was)> claims)
    {
        var all = claims.ToArray();
        return
        [
            .. Ends.Zip(Ends.Skip(1))
                .Select(e => (Ends: e, In: all.Where(c => c.Said >= e.First && c.Said < e.Second).ToArray()))
                .Where(b => b.In.Length > 0)
                .Select(b => new Band(
                    b.Ends.First,
                    Math.Min(1, b.Ends.Second),
                    b.In.Average(c => c.Said),
                    b.In.Average(c => c.Was ? 1.0 : 0),
                    b.In.Length
                )),
        ];
    }

    public static string Table(IEnumerable<Band> bands)
    {
        var text = new StringBuilder("| said to be at fault | on the mean | were | claims |\n|---|---|---|---|\n");
        foreach (var b in bands)
            text.Append(
                CultureInfo.InvariantCulture,
                $"| {100 * b.From:0} to {100 * b.To:0} % | {100 * b.Said:0.0} % | {100 * b.Was:0.0} % | {b.Count} |\n"
            );
        return text.ToString();
    }

    public static string Drawing(IReadOnlyCollection<Band> bands)
    {
        const int size = 320,
            left = 70,
            top = 20;
        double X(double p) => left + (p * size);
        double Y(double p) => top + ((1 - p) * size);
        var svg = new StringBuilder();
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {left + size + 30} {top + size + 60}\" font-family=\"sans-serif\" "
                + $"font-size=\"14\" role=\"img\" aria-label=\"Said and was: how often parts said to be at fault were\">\n"
        );
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<rect x=\"{left}\" y=\"{top}\" width=\"{size}\" height=\"{size}\" fill=\"#fff\" stroke=\"#555\"/>\n"
                + $"<line x1=\"{X(0)}\" y1=\"{Y(0)}\" x2=\"{X(1)}\" y2=\"{Y(1)}\" stroke=\"#999\" stroke-dasharray=\"4 4\"/>\n"
        );
        foreach (var tick in new[] { 0, 0.25, 0.5, 0.75, 1 })
            svg.Append(
                CultureInfo.InvariantCulture,
                $"<text x=\"{X(tick):0}\" y=\"{top + size + 20}\" text-anchor=\"middle\">{100 * tick:0} %</text>"
                    + $"<text x=\"{left - 8}\" y=\"{Y(tick) + 5:0}\" text-anchor=\"end\">{100 * tick:0} %</text>\n"
            );
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<text x=\"{left + (size / 2)}\" y=\"{top + size + 45}\" text-anchor=\"middle\">said to be at fault</text>"
                + $"<text transform=\"translate(18 {top + (size / 2)}) rotate(-90)\" text-anchor=\"middle\">were at fault</text>\n"
        );
        foreach (var b in bands)
        {
            // Two standard errors of a share, as bars.
            var spread = 2 * Math.Sqrt(Math.Max(b.Was * (1 - b.Was), 1e-4) / b.Count);
            svg.Append(
                CultureInfo.InvariantCulture,
                $"<line x1=\"{X(b.Said):0.0}\" y1=\"{Y(Math.Min(1, b.Was + spread)):0.0}\" x2=\"{X(b.Said):0.0}\" "
                    + $"y2=\"{Y(Math.Max(0, b.Was - spread)):0.0}\" stroke=\"#1b5e7d\"/>"
                    + $"<circle cx=\"{X(b.Said):0.0}\" cy=\"{Y(b.Was):0.0}\" r=\"4\" fill=\"#1b5e7d\"/>\n"
            );
        }

        return svg.Append("</svg>\n").ToString();
    }
}
