using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Core.Billing;

/// <summary>A part of a machine that is the shop's, and what it would fetch by itself.</summary>
/// <param name="Unit">The part.</param>
/// <param name="Price">What it fetches used and tested; 0 for one that is at fault.</param>
/// <param name="Minutes">Bench minutes of taking it out and looking at it.</param>
/// <param name="IsSound">Whether it is not found at fault.</param>
public sealed record PartedOut(Unit Unit, decimal Price, double Minutes, bool IsSound);

/// <summary>
/// A machine that the shop bought to mend and sell: what it has cost so far, what selling it leaves, and what its parts would. Amounts are
/// without tax, in the shop's currency.
/// </summary>
/// <param name="Bought">What it cost, 0 upward.</param>
/// <param name="PartsIn">What went in: price of each part of the shelf or bought for it.</param>
/// <param name="Work">What the bench minutes so far cost.</param>
/// <param name="ToCome">What finishing it is expected to cost, parts used; 0 once it is finished.</param>
/// <param name="Asking">What is asked for it, or was paid; null where nobody said.</param>
/// <param name="Parts">Its parts, the dearest first.</param>
/// <param name="Hourly">Price of an hour.</param>
public sealed record Resale(
    decimal Bought,
    decimal PartsIn,
    decimal Work,
    decimal ToCome,
    decimal? Asking,
    ImmutableArray<PartedOut> Parts,
    decimal Hourly
)
{
    /// <summary>Whatever it cost so far.</summary>
    public decimal Cost => Bought + PartsIn + Work;

    /// <summary>What is left when it is sold for what is asked; null where nothing is asked.</summary>
    public decimal? Margin => Asking - Cost - ToCome;

    /// <summary>What its sound parts fetch, less the work of taking them out. What was spent is spent either way.</summary>
    public decimal PartingOut => Parts.Sum(Left);

    /// <summary>What a part leaves: not less than nothing, for what fetches less than its work stays in.</summary>
    private decimal Left(PartedOut part) => Math.Max(0, part.Price - (Hourly * (decimal)part.Minutes / 60));

    /// <summary>Whether its parts bring more than selling it whole, with what finishing it still costs.</summary>
    public bool PartingOutPays => Asking is { } asked && PartingOut > asked - ToCome;

    /// <summary>What follows, in words.</summary>
    /// <param name="currency">The shop's currency.</param>
    public string Words(Currency currency)
    {
        if (Asking is not { } asked)
            return "Say what is asked for it: then it is told whether mending or parting out pays.";
        var whole = $"Sold whole for {currency.Words(asked)} it leaves {currency.Words(Margin!.Value)}.";
        return PartingOutPays
            ? $"{whole} Its parts bring {currency.Words(PartingOut)} against {currency.Words(asked - ToCome)}: part it out."
            : $"{whole} Its parts would bring {currency.Words(PartingOut)}: sell it whole.";
    }

    /// <summary>The figures of a job.</summary>
    /// <param name="job">The job.</param>
    /// <param name="found">The parts that are found at fault.</param>
    /// <param name="bought">What the machine cost.</param>
    /// <param name="asking">What is asked for it.</param>
    /// <param name="toCome">What finishing it is expected to cost.</param>
    /// <param name="cost">What a part that went in has cost.</param>
    /// <param name="atlas">Bench times.</param>
    /// <param name="preferences">Prices.</param>
    public static Resale Of(
        BenchJob job,
        IReadOnlyCollection<UnitId> found,
        decimal bought,
        decimal? asking,
        decimal toCome,
        Func<Unit, decimal> cost,
        Atlas atlas,
        Preferences preferences
    )
    {
        var machine = job.Now;
        var fitted = machine.Now.At.Values.Select(id => machine.Parts[id]).Where(u => !Settling.StaysAtBench(u)).ToArray();
        var own = job.Intake.Parts.All.Where(u => u.Origin == Origin.Customer && !u.IsAway && !Settling.StaysAtBench(u));
        return new Resale(
            bought,
            fitted.Where(u => u.Origin != Origin.Customer).Sum(cost),
            (decimal)Worth.SpentOn(job, atlas, preferences),
            toCome,
            asking,
            [
                .. own.Concat(fitted.Where(u => u.Origin != Origin.Customer))
                    .Select(u => new PartedOut(
                        u,
                        found.Contains(u.Id) ? 0 : (decimal)preferences.PriceOf(u.Kind).Used,
                        atlas.Work.Remove.TryGetValue(u.Kind, out var takes) ? takes.Value : 0,
                        !found.Contains(u.Id)
                    ))
                    .OrderByDescending(p => p.Price)
                    .ThenBy(p => p.Unit.Id.Value, StringComparer.Ordinal),
            ],
            (decimal)preferences.HourlyRate
        );
    }
}
