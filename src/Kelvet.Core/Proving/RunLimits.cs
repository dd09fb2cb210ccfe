using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Proving;

/// <summary>What a run under load is made for.</summary>
public enum RunFor
{
    /// <summary>The cooler holds the processor's heat.</summary>
    Cooler,

    /// <summary>The case lets the heat out.</summary>
    CaseAir,

    /// <summary>The supply holds its rails.</summary>
    SupplyRails,

    /// <summary>Nothing that comes and goes under load is left.</summary>
    Endurance,
}

/// <summary>A run that is planned: what it proves, how long it takes, and when it is broken off.</summary>
/// <param name="For">What it proves.</param>
/// <param name="Minutes">How long, 1 to 1440.</param>
/// <param name="Limits">When it is broken off.</param>
public sealed record RunPlan(RunFor For, int Minutes, RunLimits Limits)
{
    /// <summary>Usual minutes. Common practice, no published source: a cooler settles within ten, a case within an hour.</summary>
    public static RunPlan Usual(RunFor @for) =>
        new(
            @for,
            @for switch
            {
                RunFor.Cooler => 10,
                RunFor.SupplyRails => 20,
                RunFor.CaseAir => 60,
                _ => 120,
            },
            RunLimits.Usual
        );

    /// <summary>
    /// The run that a complaint asks for: where it goes off or restarts under load the supply is tried, where it freezes or ends otherwise
    /// whether it holds out. Whatever it is made for, it lasts at least twice as long as it took there. Common practice.
    /// </summary>
    /// <param name="complaint">What is complained of.</param>
    /// <param name="said">What it is made for, where somebody has chosen; null for what the complaint asks for.</param>
    public static RunPlan Of(Complaint complaint, RunFor? said = null)
    {
        var plan = Usual(
            said
                ?? complaint.Then switch
                {
                    Ending.Restarted or Ending.Off => RunFor.SupplyRails,
                    null => RunFor.Cooler,
                    _ => RunFor.Endurance,
                }
        );
        return plan with { Minutes = Math.Max(plan.Minutes, (int)Math.Min(MostMinutes, Math.Ceiling(2 * (complaint.Minutes ?? 0)))) };
    }

    /// <summary>Longest run, minutes: a day.</summary>
    public const int MostMinutes = 1440;
}

/// <summary>A reading that went beyond a limit.</summary>
/// <param name="Column">Its column.</param>
/// <param name="Quantity">What the column is.</param>
/// <param name="Seconds">When it first did, seconds since the run began.</param>
/// <param name="Value">What was read.</param>
/// <param name="Limit">The limit that it crossed.</param>
public sealed record Crossing(string Column, Quantity Quantity, double Seconds, double Value, double Limit);

/// <summary>When a run is broken off.</summary>
/// <param name="Celsius">Hottest, 40 to 130 °C.</param>
/// <param name="Watts">Most draw, W; null for none.</param>
/// <param name="Tolerance">How far a rail may be from its nominal voltage, 0.01 to 0.2. The supply design guide gives 5 % for 12, 5
/// and 3.3 V (ATX12V, chapter on DC voltage regulation; from memory).</param>
public sealed record RunLimits(double Celsius, double? Watts, double Tolerance)
{
    /// <summary>The usual.</summary>
    public static RunLimits Usual { get; } = new(HeatRun.UsualLimit, null, SignNames.RailTolerance);

    /// <summary>Rails that are known by their voltage.</summary>
    private static readonly double[] Rails = [12, 5, 3.3];

    /// <summary>A fan that turned so fast before, and stands, has stopped: rpm.</summary>
    private const double Turned = SignNames.Standing;

    /// <summary>A clock that falls below this share of what it was at first has been held back. Common practice.</summary>
    public const double HeldBack = 0.8;

    /// <summary>The rail that a column is nearest to, volts; null where it is none (a core voltage, a coin cell).</summary>
    public static double? RailOf(IReadOnlyCollection<double> volts)
    {
        var finite = volts.Where(double.IsFinite).Order().ToArray();
        if (finite.Length == 0)
            return null;
        var middle = finite[finite.Length / 2];
        var nearest = Rails.MinBy(r => Math.Abs(middle - r) / r);
        return Math.Abs(middle - nearest) / nearest <= 0.15 ? nearest : null;
    }

    /// <summary>What went beyond the limits, the first of each column, earliest first.</summary>
    /// <param name="readings">The readings.</param>
    /// <param name="quantities">What each column is.</param>
    public ImmutableArray<Crossing> Crossed(RunReadings readings, IReadOnlyList<Quantity> quantities)
    {
        var crossed = new List<Crossing>();
        for (var c = 0; c < readings.Columns.Length; c++)
        {
            var values = readings.Values[c];
            if (LimitOf(quantities[c], values) is not { } isBeyond)
                continue;
            for (var i = 0; i < values.Length; i++)
            {
                if (!double.IsFinite(values[i]) || isBeyond(i) is not { } limit)
                    continue;
                crossed.Add(new Crossing(readings.Columns[c], quantities[c], readings.Seconds[i], values[i], limit));
                break;
            }
        }

        return [.. crossed.OrderBy(c => c.Seconds)];
    }

    /// <summary>The limit that a reading crosses, by its index; null for columns that have none.</summary>
    private Func<int, double?>? LimitOf(Quantity quantity, ImmutableArray<double> values)
    {
        switch (quantity)
        {
            case Quantity.Temperature:
                return i => values[i] >= Celsius ? Celsius : null;
            case Quantity.Watts when Watts is { } most:
                return i => values[i] > most ? most : null;
            case Quantity.Volts when RailOf(values) is { } rail:
                return i =>
                    values[i] < rail * (1 - Tolerance) ? rail * (1 - Tolerance)
                    : values[i] > rail * (1 + Tolerance) ? rail * (1 + Tolerance)
                    : null;
            case Quantity.Fan:
                var turning = values.Select((v, i) => (v, i)).FirstOrDefault(p => p.v >= Turned, (0, values.Length)).Item2;
                return i => i > turning && values[i] <= 0 ? 0 : null;
            case Quantity.Clock:
                var first = values.Where(double.IsFinite).Take(Math.Max(3, values.Length / 20)).DefaultIfEmpty(0).Max();
                return first > 0 ? i => values[i] < HeldBack * first ? HeldBack * first : null : null;
            default:
                return null;
        }
    }
}
