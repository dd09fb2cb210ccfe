using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
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

/// <summary>Money, with new parts and with used ones, in the shop's currency.</summary>
/// <param name="New">With new parts.</param>
/// <param name="Used">With used parts, tested.</param>
public readonly record struct Price(double New, double Used)
{
    /// <summary>Both added up.</summary>
    public static Price operator +(Price a, Price b) => new(a.New + b.New, a.Used + b.Used);

    /// <summary>Money that is the same either way, added.</summary>
    public static Price operator +(Price a, double b) => new(a.New + b, a.Used + b);

    /// <summary>A share of it.</summary>
    public static Price operator *(double share, Price a) => new(share * a.New, share * a.Used);

    /// <summary>Both added up.</summary>
    public static Price Add(Price left, Price right) => left + right;

    /// <summary>A share of it.</summary>
    public static Price Multiply(double share, Price price) => share * price;
}

/// <summary>What the search may still take until the job can be closed, by playing it out.</summary>
/// <param name="Minutes">Bench minutes on average.</param>
/// <param name="Least">The shortest end.</param>
/// <param name="Most">The longest end.</param>
/// <param name="Replaced">What was replaced, over all ends.</param>
/// <param name="Ends">How many ends were played, 1 upward.</param>
public sealed record SearchAhead(double Minutes, double Least, double Most, ImmutableArray<UnitKind> Replaced, int Ends);

/// <summary>A way with what it is expected to take from here.</summary>
/// <param name="Way">The way.</param>
/// <param name="Minutes">Bench minutes that are expected.</param>
/// <param name="Parts">Price of parts that is expected.</param>
/// <param name="Cost">Both together.</param>
/// <param name="Holds">Chance, 0 to 1, that the machine is repaired by it without searching on.</param>
/// <param name="Part">The part that is replaced; null where that is not known yet.</param>
public sealed record WayCost(WayOut Way, double Minutes, Price Parts, Price Cost, double Holds, Unit? Part);

/// <summary>Whether it is worth going on: what each way is expected to cost from here, beside what was spent.</summary>
/// <param name="Spent">What the bench minutes so far cost.</param>
/// <param name="Ways">The ways that make sense, the cheapest expected first; giving it back last.</param>
/// <param name="BreakEven">Minutes of searching that cost as much as replacing the likeliest part; null where none stands out.</param>
/// <param name="Machine">What the machine is worth, running: what its parts would fetch used.</param>
public sealed record Worth(double Spent, ImmutableArray<WayCost> Ways, double? BreakEven, double Machine)
{
    /// <summary>Below this no part stands out enough to be replaced unproved.</summary>
    private const double StandsOut = 0.2;

    /// <summary>Share of what the customer allows from which leave is asked for. Bench judgement.</summary>
    private const double Near = 0.8;

    /// <summary>Whether what was spent comes near what the customer allows, so that leave should be asked for.</summary>
    /// <param name="spent">What the bench minutes so far cost.</param>
    /// <param name="limit">What the customer allows; null where nothing was said.</param>
    public static bool IsNear(double spent, double? limit) => limit is { } most && spent >= Near * most;

    /// <summary>What the bench minutes of a log cost so far.</summary>
    public static double SpentOn(BenchJob job, Atlas atlas, Preferences preferences) => preferences.CostOf(Effort.Minutes(job, atlas));

    /// <summary>Bench minutes to build a board, CPU and memory in together. Common practice.</summary>
    private const double CoreMinutes = 75;

    /// <summary>Whether the cheapest way that mends it costs more from here than the machine is then worth.</summary>
    public bool IsNotWorthIt => Ways.Where(w => w.Way != WayOut.GiveBack).All(w => w.Cost.Used > Machine);

    /// <summary>Weighs the ways out of a job.</summary>
    /// <param name="diagnosis">The log; at least one trial.</param>
    /// <param name="minutes">Minutes that telling the suspects apart may still take at the rate of the next step; null where nothing
    /// tells anything. Not counted where <paramref name="ahead"/> is known.</param>
    /// <param name="ahead">The search, played out; null where it was not.</param>
    /// <param name="preferences">What an hour and parts cost.</param>
    /// <param name="machine">What the machine is worth; null to add up its parts.</param>
    public static Worth Of(BenchDiagnosis diagnosis, double? minutes, SearchAhead? ahead, Preferences preferences, double? machine = null)
    {
        var suspects = diagnosis.Suspects.Where(s => s.Unit.Origin == Origin.Customer).ToArray();
        var leading = suspects.MaxBy(s => s.Probability);
        var search = SearchingOn(diagnosis, leading, minutes, ahead, preferences);
        var ways = new List<WayCost>();
        if (search is not null)
            ways.Add(search);
        double? even = null;
        // What is put right in place is not bought.
        if (leading is { Probability: >= StandsOut } && TakesAPart(leading))
        {
            var price = preferences.PriceOf(leading.Unit.Kind);
            var fit = Economy.FittingMinutes(leading.Unit.Kind, diagnosis.Atlas);
            var missed = 1 - leading.Probability;
            ways.Add(
                new WayCost(
                    WayOut.ReplaceLikeliest,
                    fit + (missed * (search?.Minutes ?? 0)),
                    price + (missed * (search?.Parts ?? default)),
                    price + preferences.CostOf(fit) + (missed * (search?.Cost ?? default)),
                    leading.Probability,
                    leading.Unit
                )
            );
            even = preferences.HourlyRate > 0 ? (preferences.CostOf(fit) + price.New) / preferences.HourlyRate * 60 : null;
        }

        var core = suspects.Where(s => s.Unit.Kind is UnitKind.Motherboard or UnitKind.Cpu or UnitKind.MemoryStick).ToArray();
        if (core.Sum(s => s.Probability) >= 0.5 && core.Select(s => s.Unit.Kind).Distinct().Count() == 3)
        {
            var parts = core.Select(s => preferences.PriceOf(s.Unit.Kind)).Aggregate(Price.Add);
            var holds = Math.Min(1, core.Sum(s => s.Probability));
            ways.Add(new WayCost(WayOut.ReplaceCore, CoreMinutes, parts, parts + preferences.CostOf(CoreMinutes), holds, null));
        }

        return new Worth(
            SpentOn(diagnosis.Job, diagnosis.Atlas, preferences),
            [.. ways.OrderBy(w => w.Cost.New), new WayCost(WayOut.GiveBack, 0, default, default, 0, null)],
            even,
            machine ?? diagnosis.Job.Intake.Received.At.Values.Sum(id => preferences.PriceOf(diagnosis.Job.Intake.Parts[id].Kind).Used)
        );
    }

    /// <summary>Whether another part is what helps against the likeliest fault of a suspect.</summary>
    public static bool TakesAPart(Suspect suspect) => suspect.Leading.Fault.Act.Cure == Cure.Replace;

    /// <summary>Searching on: what is found is each suspect by its share, or what was replaced where the search was played out.</summary>
    private static WayCost? SearchingOn(
        BenchDiagnosis diagnosis,
        Suspect? leading,
        double? minutes,
        SearchAhead? ahead,
        Preferences preferences
    )
    {
        var certain = leading is { Probability: >= BenchDiagnosis.Certain } && TakesAPart(leading) ? leading.Unit : null;
        if (ahead is not null)
        {
            var bought = ahead.Replaced.Select(preferences.PriceOf).Aggregate(default(Price), Price.Add);
            return Way(ahead.Minutes, 1.0 / ahead.Ends * bought);
        }

        if (minutes is not { } telling)
            return null;
        var all = diagnosis.Suspects.Sum(s => s.Probability);
        if (all <= 0)
            return Way(telling, default);
        var fit = diagnosis.Suspects.Sum(s => s.Probability / all * Economy.FittingMinutes(s.Unit.Kind, diagnosis.Atlas));
        return Way(
            telling + fit,
            diagnosis
                .Suspects.Select(s => TakesAPart(s) ? s.Probability / all * preferences.PriceOf(s.Unit.Kind) : default)
                .Aggregate(Price.Add)
        );

        WayCost Way(double takes, Price parts) => new(WayOut.SearchOn, takes, parts, parts + preferences.CostOf(takes), 1, certain);
    }
}
