using System.Globalization;
using System.Text;
using Kelvet.Core.Machines;

namespace Kelvet.Web.Shown;

/// <summary>What a machine draws on 12 V, drawn as a bar against what its supply has.</summary>
public sealed class PowerBars(PowerBudget budget)
{
    private const double Width = 400,
        Height = 26;

    private double Most => Math.Max(1, Math.Max(budget.Twelve(Work.Excursion), (budget.Has ?? 0) * PowerBudget.ForMoments)) * 1.03;

    /// <summary>A bar for one way of working: a piece for each part, the limit as a line.</summary>
    public string Of(Work work)
    {
        var svg = new StringBuilder();
        Write($"<svg class=\"power-bar\" viewBox=\"0 0 {Width} {Height}\" preserveAspectRatio=\"none\" aria-hidden=\"true\">");
        var at = 0.0;
        foreach (var (part, i) in budget.Parts.Select((p, i) => (p, i)))
        {
            var watts = part.Twelve[(int)work];
            if (watts <= 0)
                continue;
            var wide = Math.Max(0.5, X(at + watts) - X(at));
            var known = part.Known == Known.Told ? "told" : "assumed";
            Write($"<rect class=\"{known} of-{i % 2}\" x=\"{X(at):0.#}\" y=\"4\" width=\"{wide:0.#}\" height=\"18\"/>");
            at += watts;
        }

        if (budget.Has is { } has)
            Write($"<path class=\"limit\" d=\"M{X(work == Work.Excursion ? has * PowerBudget.ForMoments : has):0.#} 0v{Height}\"/>");
        return svg.Append("</svg>").ToString();

        double X(double watts) => Math.Clamp(Width * watts / Most, 0, Width);
        void Write(FormattableString text) => svg.Append(text.ToString(CultureInfo.InvariantCulture));
    }
}
