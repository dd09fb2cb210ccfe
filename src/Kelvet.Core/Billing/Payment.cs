using System.Collections.Immutable;

namespace Kelvet.Core.Billing;

/// <summary>What a payment is.</summary>
public enum PaymentKind
{
    /// <summary>Before the work is done.</summary>
    Deposit,

    /// <summary>Of an invoice.</summary>
    Payment,

    /// <summary>From the shop to the owner.</summary>
    PaidBack,
}

/// <summary>Money that was taken or given, for which there is a receipt.</summary>
public sealed record Payment
{
    /// <summary>Longest word for how it was paid.</summary>
    public const int LongestHow = 40;

    /// <summary>A payment.</summary>
    /// <param name="kind">What it is.</param>
    /// <param name="amount">How much, above 0 to <see cref="BillLine.Most"/>, with tax, in the shop's currency.</param>
    /// <param name="how">How: "cash"; at most <see cref="LongestHow"/> characters.</param>
    /// <exception cref="ArgumentException">It is none; the message says why.</exception>
    public Payment(PaymentKind kind, decimal amount, string how)
    {
        if (amount is <= 0 or > BillLine.Most)
            throw new ArgumentException($"A payment is above 0 to {BillLine.Most:N0}.", nameof(amount));
        if (how.Trim().Length is 0 or > LongestHow)
            throw new ArgumentException($"Say how it was paid, in 1 to {LongestHow} characters.", nameof(how));
        (Kind, Amount, How) = (kind, amount, how.Trim());
    }

    /// <summary>What it is.</summary>
    public PaymentKind Kind { get; }

    /// <summary>How much.</summary>
    public decimal Amount { get; }

    /// <summary>How.</summary>
    public string How { get; }

    /// <summary>What came in by it; below zero for what was paid back.</summary>
    public decimal In => Kind == PaymentKind.PaidBack ? -Amount : Amount;

    /// <summary>What a job was paid in all.</summary>
    public static decimal PaidOf(IEnumerable<Payment> payments) => payments.Sum(p => p.In);

    /// <summary>Why it cannot be taken beside those before it; null where it can.</summary>
    /// <param name="before">The payments of the job so far.</param>
    public string? WhyNot(IReadOnlyCollection<Payment> before) =>
        Kind == PaymentKind.PaidBack && Amount > PaidOf(before) ? "More cannot be paid back than was paid." : null;

    /// <summary>"deposit".</summary>
    public static string Words(PaymentKind kind) =>
        kind switch
        {
            PaymentKind.Deposit => "deposit",
            PaymentKind.Payment => "payment",
            _ => "paid back",
        };
}
