using System.Collections.Immutable;

namespace Kelvet.Core.Stock;

/// <summary>What is ordered.</summary>
public enum OrderKind
{
    /// <summary>A part.</summary>
    Buy,

    /// <summary>The repair of a part, which is sent out for it.</summary>
    Repair,
}

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
/// <param name="Of">Of what orders.</param>
/// <param name="Charged">Whether what it came to is said.</param>
public sealed record OrderStep(
    OrderState From,
    OrderState To,
    string Words,
    bool Why = false,
    OrderKind Of = OrderKind.Buy,
    bool Charged = false
)
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
        new(OrderState.ToSend, OrderState.Ordered, "It is sent out", Of: OrderKind.Repair),
        new(OrderState.ToSend, OrderState.Dropped, "Not sent after all", Of: OrderKind.Repair),
        new(OrderState.Ordered, OrderState.Arrived, "It is back, mended", Of: OrderKind.Repair, Charged: true),
        new(OrderState.Ordered, OrderState.Returned, "It is back, not mended", Why: true, Of: OrderKind.Repair, Charged: true),
    ];

    /// <summary>What may follow a state.</summary>
    public static IEnumerable<OrderStep> After(OrderState state, OrderKind kind = OrderKind.Buy) =>
        All.Where(s => s.From == state && s.Of == kind);

    /// <summary>The step from one state to another; null where it may not be.</summary>
    public static OrderStep? Find(OrderState from, OrderState to, OrderKind kind = OrderKind.Buy) =>
        All.FirstOrDefault(s => s.From == from && s.To == to && s.Of == kind);

    /// <summary>A state in words.</summary>
    public static string WordsOf(OrderState state, OrderKind kind = OrderKind.Buy) =>
        (state, kind) switch
        {
            (OrderState.ToSend, OrderKind.Repair) => "to be sent out",
            (OrderState.Ordered, OrderKind.Repair) => "at the specialist",
            (OrderState.Arrived, OrderKind.Repair) => "back, mended",
            (OrderState.Returned, OrderKind.Repair) => "back, not mended",
            (OrderState.ToSend, _) => "to be ordered",
            (OrderState.Ordered, _) => "on its way",
            (OrderState.Arrived, _) => "here",
            (OrderState.ToReturn, _) => "to be sent back",
            (OrderState.Returned, _) => "sent back",
            _ => "dropped",
        };
}
