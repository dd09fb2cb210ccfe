using System.Globalization;
using System.Text;
using Kelvet.Core.Proving;

namespace Kelvet.Web.Shown;

/// <summary>Belief in a repair against clean starts, as a small drawing with the shop's line and where the log stands.</summary>
public static class BeliefChart
{
    private const double Width = 420,
        Height = 150,
        Left = 64,
        Bottom = 26,
        Top = 8;

    /// <summary>The chart; empty where it never failed.</summary>
    public static string Of(StartsOfKind starts, double asked)
    {
        if (starts.Needed(asked) is not { } needed)
            return "";
        var most = Math.Max(Math.Max(needed, starts.Clean) + 2, 6);
        double X(double n) => Left + ((Width - Left - 10) * n / most);
        double Y(double belief) => Top + ((Height - Top - Bottom) * (1 - belief) / 0.5);
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"belief\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" ");
        Write($"aria-label=\"Belief after clean starts: half at none, {100 * asked:0} % at {needed}; the log has {starts.Clean}\">");
        foreach (var tick in new[] { 0.5, 0.75, 1 })
            Write($"<text x=\"{Left - 6}\" y=\"{Y(tick) + 5:0.#}\" text-anchor=\"end\">{100 * tick:0} %</text>");
        var every =
            most <= 12 ? 2
            : most <= 30 ? 5
            : 20;
        for (var n = 0; n <= most; n += every)
            Write($"<text x=\"{X(n):0.#}\" y=\"{Height - 6}\" text-anchor=\"middle\">{n}</text>");
        Write($"<line class=\"asked\" x1=\"{Left}\" x2=\"{Width - 10}\" y1=\"{Y(asked):0.#}\" y2=\"{Y(asked):0.#}\"/>");
        var points = Enumerable.Range(0, most + 1).Select(n => FormattableString.Invariant($"{X(n):0.#},{Y(starts.Belief(n)!.Value):0.#}"));
        Write($"<polyline points=\"{string.Join(' ', points)}\"/>");
        Write($"<circle class=\"stands\" cx=\"{X(starts.Clean):0.#}\" cy=\"{Y(starts.Belief(starts.Clean)!.Value):0.#}\" r=\"6\"/></svg>");
        return svg.ToString();

        void Write(FormattableString text) => svg.Append(text.ToString(CultureInfo.InvariantCulture));
    }
}
