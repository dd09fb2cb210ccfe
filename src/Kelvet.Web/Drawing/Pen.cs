using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;

namespace Kelvet.Web.Drawing;

/// <summary>A box in the drawing's own units; one unit is one CSS pixel at its natural size.</summary>
public readonly record struct Box(double X, double Y, double W, double H)
{
    public double Right => X + W;

    public double Bottom => Y + H;

    public double MiddleX => X + (W / 2);

    public double MiddleY => Y + (H / 2);

    /// <summary>The same box, smaller on every side.</summary>
    public Box Inset(double by) => new(X + by, Y + by, Math.Max(0, W - (2 * by)), Math.Max(0, H - (2 * by)));

    /// <summary>The same box elsewhere.</summary>
    public Box Moved(double dx, double dy) => this with { X = X + dx, Y = Y + dy };
}

/// <summary>Draws lines as SVG. Every shape has a class; what it looks like is the style sheet's.</summary>
public sealed class Pen
{
    private readonly StringBuilder _svg = new();

    /// <summary>What was drawn.</summary>
    public string Svg => _svg.ToString();

    public Pen Rect(Box box, string look, double round = 2) =>
        Add(
            $"<rect class=\"{look}\" x=\"{box.X:0.#}\" y=\"{box.Y:0.#}\" width=\"{box.W:0.#}\" height=\"{box.H:0.#}\" rx=\"{round:0.#}\"/>"
        );

    public Pen Circle(double x, double y, double radius, string look) =>
        Add($"<circle class=\"{look}\" cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"{radius:0.#}\"/>");

    public Pen Line(double x1, double y1, double x2, double y2, string look = "thin") =>
        Add($"<path class=\"{look}\" d=\"M{x1:0.#} {y1:0.#}L{x2:0.#} {y2:0.#}\"/>");

    /// <summary>A path whose steps are relative to a corner.</summary>
    public Pen Path(double x, double y, string steps, string look = "thin") =>
        Add($"<path class=\"{look}\" d=\"M{x:0.#} {y:0.#}{steps}\"/>");

    /// <summary>A cable from one point to another, hanging as cables do.</summary>
    public Pen Cable(double x1, double y1, double x2, double y2, string look = "wire", double sag = 30)
    {
        var across = Math.Abs(x2 - x1) > Math.Abs(y2 - y1);
        var (a, b) = across ? (y1 + sag, y2 + sag) : (y1, y2);
        var (c, d) = across ? (x1, x2) : (x1 - sag, x2 - sag);
        return Add($"<path class=\"{look}\" d=\"M{x1:0.#} {y1:0.#}C{c:0.#} {a:0.#} {d:0.#} {b:0.#} {x2:0.#} {y2:0.#}\"/>");
    }

    /// <summary>A label; turned ones are read from below.</summary>
    public Pen Text(double x, double y, string words, string anchor = "start", bool turned = false)
    {
        var at = turned
            ? FormattableString.Invariant($"transform=\"translate({x:0.#} {y:0.#}) rotate(-90)\"")
            : FormattableString.Invariant($"x=\"{x:0.#}\" y=\"{y:0.#}\"");
        _svg.Append(CultureInfo.InvariantCulture, $"<text {at} text-anchor=\"{anchor}\">{HtmlEncoder.Default.Encode(words)}</text>");
        return this;
    }

    /// <summary>A fan seen from above: a ring, a hub and blades.</summary>
    public Pen Fan(double x, double y, double radius)
    {
        Circle(x, y, radius, "part");
        _svg.Append(CultureInfo.InvariantCulture, $"<g class=\"blades\" transform-origin=\"{x:0.#} {y:0.#}\">");
        for (var i = 0; i < 5; i++)
        {
            var turn = i * 2 * Math.PI / 5;
            var (s, c) = (Math.Sin(turn), Math.Cos(turn));
            var (ex, ey) = (x + (radius * 0.86 * c), y + (radius * 0.86 * s));
            var (mx, my) = (x + (radius * 0.62 * Math.Cos(turn - 0.5)), y + (radius * 0.62 * Math.Sin(turn - 0.5)));
            Add($"<path class=\"thin\" d=\"M{x:0.#} {y:0.#}Q{mx:0.#} {my:0.#} {ex:0.#} {ey:0.#}\"/>");
        }

        _svg.Append("</g>");
        return Circle(x, y, radius * 0.24, "solid");
    }

    private Pen Add(FormattableString shape)
    {
        _svg.Append(FormattableString.Invariant(shape));
        return this;
    }
}
