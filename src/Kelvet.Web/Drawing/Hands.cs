using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Web.Drawing;

/// <summary>Where hands go next.</summary>
/// <param name="Place">The place; the board for what has none of its own.</param>
/// <param name="Way">What they do there.</param>
/// <param name="Other">Where it comes from or goes to; null when that is off the machine.</param>
public sealed record Hand(Place Place, HandWay Way, Place? Other = null)
{
    /// <summary>The output that the monitor goes to; empty for none.</summary>
    public string Output { get; init; } = "";

    /// <summary>What a step has hands do, in its order.</summary>
    public static ImmutableArray<Hand> Of(Candidate step, Situation now) =>
        step.Check is not null && now.Now.PlaceOf(step.Checked!.Id) is { } place ? [new Hand(place, HandWay.At)] : Of(step.Changes, now);

    /// <summary>What changes have hands do.</summary>
    public static ImmutableArray<Hand> Of(IEnumerable<Change> changes, Situation now)
    {
        var hands = ImmutableArray.CreateBuilder<Hand>();
        foreach (var change in changes)
        {
            Place? At(UnitId id) => now.Now.PlaceOf(id);
            var hand = change switch
            {
                Change.Fit c => new Hand(c.Place, HandWay.In),
                Change.Remove c when At(c.Unit) is { } p => new Hand(p, HandWay.Out),
                Change.Bypass c when At(c.Unit) is { } p => new Hand(p, HandWay.Out),
                Change.Move c => new Hand(c.Place, HandWay.Move, At(c.Unit)),
                Change.Swap c when At(c.Out) is { } p && At(c.In) is { } q => new Hand(p, HandWay.Move, q),
                Change.Swap c when At(c.Out) is { } p => new Hand(p, HandWay.In),
                Change.DisplayAt c => new Hand(c.Output.Source, HandWay.At) { Output = c.Output.Output },
                Change.ClearCmos => new Hand(Place.Of(PlaceKind.Cell), HandWay.At),
                Change.StartWith => new Hand(Place.Switch, HandWay.At),
                _ => change.Subject is { } id && At(id) is { } p ? new Hand(p, HandWay.At) : null,
            };
            if (hand is not null)
                hands.Add(hand);
            now = now.TryAfter(change, out var next, out _) ? next : now;
        }

        return hands.ToImmutable();
    }
}

/// <summary>What hands do at a place.</summary>
public enum HandWay
{
    At,
    In,
    Out,
    Move,
}
