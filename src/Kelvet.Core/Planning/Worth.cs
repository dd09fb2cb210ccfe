using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>A way to end a job.</summary>
public enum WayOut
{
    /// <summary>Search on until it is known, then mend or replace that.</summary>
    SearchOn,

    /// <summary>Replace the likeliest part now, and search on where it was not that.</summary>
    ReplaceLikeliest,

    /// <summary>Board, CPU and memory together.</summary>
    ReplaceCore,

    /// <summary>Give it back as it is.</summary>
    GiveBack,
}

/// <summary>A way with what it is expected to take from here.</summary>
/// <param name="Way">The way.</param>
/// <param name="Minutes">Bench minutes that are expected.</param>
/// <param name="Parts">Price of parts that is expected, in the shop's currency.</param>
/// <param name="Cost">Both together, in the shop's currency.</param>
/// <param name="Holds">Chance, 0 to 1, that the machine is repaired by it without searching on.</param>
/// <param name="Part">The part that is replaced; null where that is not known yet.</param>
public sealed record WayCost(WayOut Way, double Minutes, double Parts, double Cost, double Holds, Unit? Part);

/// <summary>Whether it is worth going on: what each way is expected to cost from here, beside what was spent.</summary>
/// <param name="Spent">What the bench minutes so far cost.</param>
/// <param name="Ways">The ways that make sense, the cheapest expected first; giving it back last.</param>
/// <param name="BreakEven">Minutes of searching that cost as much as replacing the likeliest part; null where none stands out.</param>
public sealed record Worth(double Spent, ImmutableArray<WayCost> Ways, double? BreakEven)
{
    /// <summary>Below this no part stands out enough to be replaced unproved.</summary>
    private const double StandsOut = 0.2;

    /// <summary>Bench minutes to build a board, CPU and memory in together. Common practice.</summary>
    private const double CoreMinutes = 75;

    /// <summary>Weighs the ways out of a job.</summary>
    /// <param name="diagnosis">The log; at least one trial.</param>
    /// <param name="expected">Minutes that the search may still take; null where nothing tells anything.</param>
    /// <param name="preferences">What an hour and parts cost.</param>
    public static Worth Of(BenchDiagnosis diagnosis, double? expected, Preferences preferences)
    {
        double Hours(double minutes) => minutes / 60 * preferences.HourlyRate;
        double Price(UnitKind kind) => preferences.PartPrices.GetValueOrDefault(kind);
        var leading = diagnosis.Suspects.Where(s => s.Unit.Origin == Origin.Customer).MaxBy(s => s.Probability);
        var ways = new List<WayCost>();
        // What the part will be that is found: each suspect by its share.
        var all = diagnosis.Suspects.Sum(s => s.Probability);
        var priceFound = all > 0 ? diagnosis.Suspects.Sum(s => s.Probability * Price(s.Unit.Kind)) / all : 0;
        var fitFound =
            all > 0 ? diagnosis.Suspects.Sum(s => s.Probability * Economy.FittingMinutes(s.Unit.Kind, diagnosis.Atlas)) / all : 0;
        WayCost? search = null;
        if (expected is { } minutes)
        {
            var certain = leading is { Probability: >= BenchDiagnosis.Certain };
            search = new WayCost(
                WayOut.SearchOn,
                minutes + fitFound,
                priceFound,
                Hours(minutes + fitFound) + priceFound,
                1,
                certain ? leading!.Unit : null
            );
            ways.Add(search);
        }

        double? even = null;
        if (leading is { Probability: >= StandsOut })
        {
            var price = Price(leading.Unit.Kind);
            var fit = Economy.FittingMinutes(leading.Unit.Kind, diagnosis.Atlas);
            var missed = 1 - leading.Probability;
            ways.Add(
                new WayCost(
                    WayOut.ReplaceLikeliest,
                    fit + (missed * (search?.Minutes ?? 0)),
                    price + (missed * (search?.Parts ?? 0)),
                    Hours(fit) + price + (missed * (search?.Cost ?? 0)),
                    leading.Probability,
                    leading.Unit
                )
            );
            even = preferences.HourlyRate > 0 ? (Hours(fit) + price) / preferences.HourlyRate * 60 : null;
        }

        var core = diagnosis
            .Suspects.Where(s =>
                s.Unit.Origin == Origin.Customer && s.Unit.Kind is UnitKind.Motherboard or UnitKind.Cpu or UnitKind.MemoryStick
            )
            .ToArray();
        if (core.Sum(s => s.Probability) >= 0.5 && core.Select(s => s.Unit.Kind).Distinct().Count() == 3)
        {
            var parts = core.Sum(s => Price(s.Unit.Kind));
            ways.Add(
                new WayCost(
                    WayOut.ReplaceCore,
                    CoreMinutes,
                    parts,
                    Hours(CoreMinutes) + parts,
                    Math.Min(1, core.Sum(s => s.Probability)),
                    null
                )
            );
        }

        return new Worth(
            Hours(Effort.Minutes(diagnosis.Job, diagnosis.Atlas)),
            [.. ways.OrderBy(w => w.Cost), new WayCost(WayOut.GiveBack, 0, 0, 0, 0, null)],
            even
        );
    }
}
