using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>In what a part can still be given back.</summary>
public enum Window
{
    /// <summary>Dead on arrival: most sellers swap it at once. Common practice, 14 days.</summary>
    DeadOnArrival,

    /// <summary>The seller takes it back.</summary>
    Return,

    /// <summary>The maker's warranty.</summary>
    Warranty,
}

/// <summary>A window of a part and its last day.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Last">The last day.</param>
public sealed record PartWindow(Window Kind, DateOnly Last)
{
    /// <summary>Days of "dead on arrival" from purchase. Common practice; a seller's terms may differ.</summary>
    public const int ArrivalDays = 14;

    /// <summary>Days before the end from which it presses.</summary>
    public const int Presses = 3;

    /// <summary>Days that are left after today; negative once it is over.</summary>
    public int DaysLeft(DateOnly today) => Last.DayNumber - today.DayNumber;

    /// <summary>The windows of a part, the one that ends first before the others; none where the purchase is not known.</summary>
    public static ImmutableArray<PartWindow> Of(Unit unit)
    {
        if (unit.Bought is not { } bought)
            return [];
        var windows = new List<PartWindow> { new(Window.DeadOnArrival, bought.AddDays(ArrivalDays)) };
        if (unit.ReturnDays is { } days)
            windows.Add(new PartWindow(Window.Return, bought.AddDays(days)));
        if (unit.WarrantyMonths is { } months)
            windows.Add(new PartWindow(Window.Warranty, bought.AddMonths(months)));
        return [.. windows.OrderBy(w => w.Last)];
    }
}
