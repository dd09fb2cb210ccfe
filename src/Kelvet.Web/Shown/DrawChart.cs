using System.Globalization;
using System.Text;
using Kelvet.Core.Observed;

namespace Kelvet.Web.Shown;

/// <summary>Draw at the wall over time: the least and the most in each column, whatever the number of readings.</summary>
public static class DrawChart
{
    private const int Width = 800,
        Height = 160;

    /// <summary>The picture.</summary>
    /// <param name="seconds">Times, rising.</param>
    /// <param name="watts">Watts at each.</param>
    /// <param name="trace">What it says.</param>
    public static string Of(IReadOnlyList<double> seconds, IReadOnlyList<double> watts, WallTrace trace)
    {
        var (from, to) = (seconds[0], Math.Max(seconds[^1], seconds[0] + 1));
        var (low, high) = (new double[Width], new double[Width]);
        Array.Fill(low, double.NaN);
        Array.Fill(high, double.NaN);
        var most = 1.0;
        for (var i = 0; i < seconds.Count; i++)
        {
            if (!double.IsFinite(watts[i]))
                continue;
            var x = Math.Clamp((int)((seconds[i] - from) / (to - from) * (Width - 1)), 0, Width - 1);
            low[x] = double.IsNaN(low[x]) ? watts[i] : Math.Min(low[x], watts[i]);
            high[x] = double.IsNaN(high[x]) ? watts[i] : Math.Max(high[x], watts[i]);
            most = Math.Max(most, watts[i]);
        }

        var svg = new StringBuilder();
        Write(
            $"<svg class=\"draw-chart\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" aria-label=\"Draw over time, at most {most:0} W\">"
        );
        foreach (var phase in trace.Phases)
        {
            var left = (phase.From - from) / (to - from) * Width;
            var wide = (phase.To - phase.From) / (to - from) * Width;
            Write($"<rect class=\"phase\" x=\"{left:0.#}\" y=\"0\" width=\"{wide:0.#}\" height=\"{Height}\"/>");
        }

        svg.Append("<path class=\"draw\" d=\"");
        var first = true;
        for (var x = 0; x < Width; x++)
        {
            if (double.IsNaN(low[x]))
                continue;
            Write($"{(first ? 'M' : 'L')}{x} {Y(high[x]):0.#}");
            if (high[x] > low[x])
                Write($"L{x} {Y(low[x]):0.#}");
            first = false;
        }

        Write($"\"/><text x=\"4\" y=\"14\">{most:0} W</text>");
        Write($"<text x=\"{Width - 4}\" y=\"{Height - 4}\" text-anchor=\"end\">{to - from:0} s</text></svg>");
        return svg.ToString();

        double Y(double w) => Height - 2 - (w / most * (Height - 20));
        void Write(FormattableString text) => svg.Append(text.ToString(CultureInfo.InvariantCulture));
    }
}
