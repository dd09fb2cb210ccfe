using System.Globalization;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Words;

/// <summary>Windows in which a part can be given back, in words.</summary>
public static class WindowWords
{
    /// <summary>Which window: "return to the seller".</summary>
    public static string Words(this Window window) =>
        window switch
        {
            Window.DeadOnArrival => "dead on arrival",
            Window.Return => "return to the seller",
            _ => "maker's warranty",
        };

    /// <summary>How long it stays open: "return to the seller until 2026-12-04, 3 days left".</summary>
    public static string Words(this PartWindow window, DateOnly today)
    {
        var until = window.Last.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
        return window.DaysLeft(today) switch
        {
            < 0 => $"{window.Kind.Words()} ended {until}",
            0 => $"{window.Kind.Words()} ends today",
            1 => $"{window.Kind.Words()} ends tomorrow",
            var days => $"{window.Kind.Words()} until {until}, {days} days left",
        };
    }
}
