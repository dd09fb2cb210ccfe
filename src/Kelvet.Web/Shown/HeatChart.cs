using System.Globalization;
using System.Text;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Web.Shown;

/// <summary>Readings of a run over time, with their limits and, for a temperature, the fitted rise.</summary>
public static class HeatChart
{
    private const double Width = 760,
        Height = 260,
        Left = 84,
        Bottom = 30,
        Top = 10;

    private const int MostPoints = 600;

    /// <summary>A temperature with its limit.</summary>
    public static string Of(IReadOnlyList<Heat> readings, HeatRun? fit, double limit) =>
        Drawn([.. readings.Select(r => (r.Seconds, r.Celsius))], "Temperature", "°C", [limit], fit);

    /// <summary>Any column with the limits that it has; empty where nothing was read.</summary>
    /// <param name="readings">The readings.</param>
    /// <param name="column">The column.</param>
    /// <param name="quantity">What it is.</param>
    /// <param name="limits">When the run is broken off.</param>
    public static string Of(RunReadings readings, int column, Quantity quantity, RunLimits limits)
    {
        var values = readings.Values[column];
        (double, double)[] points = [.. readings.Seconds.Zip(values).Where(p => double.IsFinite(p.Second))];
        if (points.Length == 0)
            return "";
        double[] at = quantity switch
        {
            Quantity.Temperature => [limits.Celsius],
            Quantity.Watts when limits.Watts is { } most => [most],
            Quantity.Volts when RunLimits.RailOf(values) is { } rail => [rail * (1 - limits.Tolerance), rail * (1 + limits.Tolerance)],
            _ => [],
        };
        return Drawn(points, readings.Columns[column], quantity.Unit(values.Where(double.IsFinite).Max()), at, null);
    }

    private static string Drawn(
        (double Seconds, double Value)[] points,
        string name,
        string unit,
        IReadOnlyList<double> limits,
        HeatRun? fit
    )
    {
        var last = Math.Max(1, points[^1].Seconds);
        var (least, most) = (points.Min(p => p.Value), points.Max(p => p.Value));
        (least, most) = (Math.Min(least, limits.DefaultIfEmpty(least).Min()), Math.Max(most, limits.DefaultIfEmpty(most).Max()));
        // Five even steps of a round size around what is shown.
        var rough = Math.Max((most - least) / 4, Math.Max(1e-3, Math.Abs(most) * 1e-3));
        var ten = Math.Pow(10, Math.Floor(Math.Log10(rough)));
        var step =
            ten
            * (
                rough / ten is <= 1 ? 1
                : rough / ten <= 2 ? 2
                : rough / ten <= 5 ? 5
                : 10
            );
        var (low, high) = (Math.Floor(least / step) * step, Math.Ceiling(most / step) * step);
        high = high > low ? high : low + step;
        double X(double s) => Left + ((Width - Left - 10) * s / last);
        double Y(double v) => Top + ((Height - Top - Bottom) * (high - Math.Clamp(v, low, high)) / (high - low));
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"belief heat\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" ");
        var limited = string.Join(" and ", limits.Select(l => l.ToString("0.##", CultureInfo.InvariantCulture)));
        Write($"aria-label=\"{System.Net.WebUtility.HtmlEncode(name)} over {last:0} s{(limited.Length > 0 ? ", limit " : "")}{limited}\">");
        for (var v = low; v <= high + (step / 2); v += step)
            Write($"<text x=\"{Left - 6}\" y=\"{Y(v) + 5:0.#}\" text-anchor=\"end\">{Math.Round(v, 6):0.####} {unit}</text>");
        for (var i = 0; i <= 4; i++)
        {
            var anchor = i == 4 ? "end" : "middle";
            Write($"<text x=\"{X(last * i / 4):0.#}\" y=\"{Height - 6}\" text-anchor=\"{anchor}\">{last * i / 4:0} s</text>");
        }

        foreach (var limit in limits)
            Write($"<line class=\"limit\" x1=\"{Left}\" x2=\"{Width - 10}\" y1=\"{Y(limit):0.#}\" y2=\"{Y(limit):0.#}\"/>");
        var every = Math.Max(1, points.Length / MostPoints);
        var shown = points.Where((_, i) => i % every == 0).Select(p => FormattableString.Invariant($"{X(p.Seconds):0.#},{Y(p.Value):0.#}"));
        Write($"<polyline points=\"{string.Join(' ', shown)}\"/>");
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
