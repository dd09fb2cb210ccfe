using System.Globalization;
using System.Text;
using Kelvet.Core.Planning;

namespace Kelvet.Web.Shown;

/// <summary>What the ways out of a job cost, all on one scale of money: spent, the bench from here, parts used to new.</summary>
public sealed class WayBar
{
    /// <summary>Width of the drawing in its own units.</summary>
    public const double Width = 400;
    private const double Height = 28;

    private readonly Worth _worth;
    private readonly double? _limit;
    private readonly double _most;

    /// <param name="worth">The ways.</param>
    /// <param name="limit">What the customer allows; null where nothing was said.</param>
    public WayBar(Worth worth, double? limit)
    {
        (_worth, _limit) = (worth, limit);
        _most = Math.Max(1, worth.Ways.Select(w => worth.Spent + w.Cost.New).Append(worth.Machine).Append(limit ?? 0).Max()) * 1.02;
    }

    /// <summary>A way.</summary>
    public string Of(WayCost way)
    {
        var spent = _worth.Spent;
        var bench = spent + way.Cost.Used - way.Parts.Used;
        var svg = new StringBuilder();
        Write($"<svg viewBox=\"0 0 {Width} {Height}\" preserveAspectRatio=\"none\" aria-hidden=\"true\">");
        Part("spent", 0, spent);
        Part("bench", spent, bench);
        Part("parts", bench, bench + way.Parts.Used);
        Part("if-new", bench + way.Parts.Used, bench + way.Parts.New);
        Line("worth", _worth.Machine);
        if (_limit is { } limit)
            Line("limit", limit);
        return svg.Append("</svg>").ToString();

        double X(double money) => Math.Clamp(Width * money / _most, 0, Width);
        void Part(string look, double from, double to)
        {
            if (to > from)
                Write($"<rect class=\"{look}\" x=\"{X(from):0.#}\" y=\"5\" width=\"{X(to) - X(from):0.#}\" height=\"18\"/>");
        }
        void Line(string look, double at) => Write($"<path class=\"{look}\" d=\"M{X(at):0.#} 0v{Height}\"/>");
        void Write(FormattableString text) => svg.Append(text.ToString(CultureInfo.InvariantCulture));
    }
}
