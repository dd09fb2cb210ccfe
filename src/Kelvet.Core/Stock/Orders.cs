using System.Collections.Immutable;

namespace Kelvet.Core.Stock;

/// <summary>How far an order is.</summary>
public enum OrderState
{
    /// <summary>It is to be sent.</summary>
    ToSend,

    /// <summary>It was sent; what was ordered is on its way.</summary>
    Ordered,

    /// <summary>It came.</summary>
    Arrived,

    /// <summary>It came wrong or dead, and is to go back.</summary>
    ToReturn,

    /// <summary>It went back.</summary>
    Returned,

    /// <summary>It is not wanted any more.</summary>
    Dropped,
}

/// <summary>A step of an order: the one table of what may follow what.</summary>
/// <param name="From">From.</param>
/// <param name="To">To.</param>
/// <param name="Words">What is pressed.</param>
/// <param name="Why">Whether it has to be said why.</param>
public sealed record OrderStep(OrderState From, OrderState To, string Words, bool Why = false)
{
    /// <summary>Every step; of those from one state the usual first.</summary>
    public static ImmutableArray<OrderStep> All { get; } =
    [
        new(OrderState.ToSend, OrderState.Ordered, "Sent"),
        new(OrderState.ToSend, OrderState.Arrived, "It arrived"),
        new(OrderState.ToSend, OrderState.Dropped, "Not wanted any more"),
        new(OrderState.Ordered, OrderState.Arrived, "It arrived"),
        new(OrderState.Ordered, OrderState.Dropped, "Not wanted any more"),
        new(OrderState.Arrived, OrderState.ToReturn, "Wrong or dead: send it back", Why: true),
        new(OrderState.ToReturn, OrderState.Returned, "It is sent back"),
    ];

    /// <summary>What may follow a state.</summary>
    public static IEnumerable<OrderStep> After(OrderState state) => All.Where(s => s.From == state);

    /// <summary>The step from one state to another; null where it may not be.</summary>
    public static OrderStep? Find(OrderState from, OrderState to) => All.FirstOrDefault(s => s.From == from && s.To == to);

    /// <summary>A state in words.</summary>
    public static string Of(OrderState state) =>
        state switch
        {
            OrderState.ToSend => "to be ordered",
            OrderState.Ordered => "on its way",
            OrderState.Arrived => "here",
            OrderState.ToReturn => "to be sent back",
            OrderState.Returned => "sent back",
            _ => "dropped",
        };
}
