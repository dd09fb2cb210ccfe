using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Html;

namespace Kelvet.Web.Drawing;

/// <summary>Small drawings beside words: what hands do, what a part is, what a fan or a light or the screen shows.</summary>
public static class ActGlyph
{
    /// <summary>To look at the case against a part.</summary>
    public static IHtmlContent Evidence { get; } = Icon("M4 6h16M4 12h10M4 18h13");

    /// <summary>Stripes over a screen.</summary>
    public static IHtmlContent Stripes { get; } = Icon("M3 4h18v13H3zM6 4v13M9 4v13M14 4v13M16 4v13");

    /// <summary>What is done.</summary>
    public static IHtmlContent Of(ActKind act) =>
        Icon(
            act switch
            {
                ActKind.Fit or ActKind.Connect => "M12 3v11m-4 -4l4 4 4-4M4 18h16v3H4z",
                ActKind.Remove or ActKind.Bypass => "M12 15V3m-4 4l4-4 4 4M4 18h16v3H4z",
                ActKind.Move => "M4 12h14m-5 -5l5 5-5 5M3 6v12",
                ActKind.Swap => "M5 8h14m-4 -4l4 4-4 4M19 16H5m4 -4l-4 4 4 4",
                ActKind.Reseat => "M12 3v7m-3 -3l3 3 3-3M12 21v-7m-3 3l3-3 3 3M4 12h3m10 0h3",
                ActKind.StartWith => "M12 4v8M7 7a7 7 0 1 0 10 0",
                ActKind.DisplayAt => "M3 5h18v11H3zM9 20h6",
                ActKind.ClearCmos => "M12 4a8 8 0 1 0 0.01 0zM8 12h8M12 8v8",
                ActKind.Clean => "M4 20l8-8m2-6l5 5-4 4-5-5z",
                ActKind.Flash => "M13 3L6 13h5l-1 8 8-11h-5z",
                _ => "M4 17l9-9m1-4l6 6-3 3-6-6z",
            }
        );

    /// <summary>A part as it looks, with its mark.</summary>
    public static IHtmlContent Part(Unit unit, Standing? standing)
    {
        var pen = new Pen();
        var box = unit.Kind switch
        {
            UnitKind.MemoryStick => new Box(1, 8, 46, 13),
            UnitKind.GraphicsCard => new Box(14, 1, 18, 28),
            UnitKind.Motherboard => new Box(8, 2, 32, 26),
            UnitKind.Monitor => new Box(4, 2, 40, 24),
            UnitKind.Cooler => new Box(10, 1, 28, 28),
            _ => new Box(4, 3, 40, 24),
        };
        pen.Rect(box, "body", unit.Kind == UnitKind.Cooler ? 14 : 2);
        PartLook.Of(unit.GoesInto).Draw(pen, box);
        var sign = StandingSign.On(standing);
        var mark = sign.Length == 0 ? "" : $"<path class=\"loose-sign\" transform=\"translate(40 22)\" d=\"{sign}\"/>";
        return new HtmlString($"<svg class=\"part-glyph\" viewBox=\"0 0 48 30\" aria-hidden=\"true\">{pen.Svg}{mark}</svg>");
    }

    /// <summary>Indicators with one of them lit.</summary>
    public static IHtmlContent Lights(StallDomain? lit)
    {
        var pen = new Pen();
        var order = new[] { StallDomain.Cpu, StallDomain.Memory, StallDomain.Video, StallDomain.Boot };
        for (var i = 0; i < order.Length; i++)
            pen.Circle(5 + (i * 10), 12, 4, order[i] == lit ? "light on" : "light");
        return new HtmlString($"<svg class=\"glyph\" viewBox=\"0 0 40 24\" aria-hidden=\"true\">{pen.Svg}</svg>");
    }

    /// <summary>A fan and what it does.</summary>
    public static IHtmlContent Fan(FanBehaviour fan)
    {
        var pen = new Pen();
        pen.Fan(12, 12, 10);
        var does = fan switch
        {
            FanBehaviour.Still => "M28 6v12m6 -12v12",
            FanBehaviour.Twitch => "M26 12q3 -8 6 0t6 0",
            FanBehaviour.RunThenStop => "M26 8h8v8m4 -10v12",
            _ => "M26 12a6 6 0 1 1 2 5m-2 3v-4h4",
        };
        pen.Path(0, 0, does, "thick");
        return new HtmlString($"<svg class=\"glyph\" viewBox=\"0 0 40 24\" aria-hidden=\"true\">{pen.Svg}</svg>");
    }

    /// <summary>A screen, empty or with lines of text.</summary>
    public static IHtmlContent Screen(string text) => Icon("M3 4h18v13H3zM9 20h6" + (text.Length == 0 ? "" : "M6 8h12M6 11h9M6 14h5"));

    private static HtmlString Icon(string path) =>
        new($"<svg class=\"glyph\" viewBox=\"0 0 24 24\" aria-hidden=\"true\"><path class=\"thick\" d=\"{path}\"/></svg>");
}
