using System.Globalization;
using System.Text;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Web.Shown;

/// <summary>A temperature over time with its limit and the fitted rise.</summary>
public static class HeatChart
{
    private const double Width = 760,
        Height = 260,
        Left = 64,
        Bottom = 30,
        Top = 10;

    private const int MostPoints = 600;

    /// <summary>The chart.</summary>
    public static string Of(IReadOnlyList<Heat> readings, HeatRun? fit, double limit)
    {
        var last = Math.Max(1, readings[^1].Seconds);
        var low = Math.Floor((Math.Min(readings.Min(r => r.Celsius), limit) - 5) / 10) * 10;
        var high = Math.Ceiling((Math.Max(readings.Max(r => r.Celsius), limit) + 5) / 10) * 10;
        double X(double s) => Left + ((Width - Left - 10) * s / last);
        double Y(double c) => Top + ((Height - Top - Bottom) * (high - Math.Clamp(c, low, high)) / (high - low));
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"belief heat\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" ");
        Write($"aria-label=\"Temperature over {last:0} s, limit {limit:0} degrees\">");
        for (var c = low; c <= high; c += Math.Max(10, Math.Round((high - low) / 50) * 10))
            Write($"<text x=\"{Left - 6}\" y=\"{Y(c) + 5:0.#}\" text-anchor=\"end\">{c:0} °C</text>");
        for (var i = 0; i <= 4; i++)
        {
            var anchor = i == 4 ? "end" : "middle";
            Write($"<text x=\"{X(last * i / 4):0.#}\" y=\"{Height - 6}\" text-anchor=\"{anchor}\">{last * i / 4:0} s</text>");
        }

        Write($"<line class=\"limit\" x1=\"{Left}\" x2=\"{Width - 10}\" y1=\"{Y(limit):0.#}\" y2=\"{Y(limit):0.#}\"/>");
        var every = Math.Max(1, readings.Count / MostPoints);
        var points = readings
            .Where((_, i) => i % every == 0)
            .Select(r => FormattableString.Invariant($"{X(r.Seconds):0.#},{Y(r.Celsius):0.#}"));
        Write($"<polyline points=\"{string.Join(' ', points)}\"/>");
        if (fit is not null)
        {
            var curve = Enumerable
                .Range(0, 101)
                .Select(i => last * i / 100)
                .Select(s =>
                    FormattableString.Invariant($"{X(s):0.#},{Y(fit.End - ((fit.End - fit.Start) * Math.Exp(-s / fit.Tau))):0.#}")
                );
            Write($"<polyline class=\"fit\" points=\"{string.Join(' ', curve)}\"/>");
        }

        return svg.Append("</svg>").ToString();

        void Write(FormattableString text) => svg.Append(text.ToString(CultureInfo.InvariantCulture));
    }
}
