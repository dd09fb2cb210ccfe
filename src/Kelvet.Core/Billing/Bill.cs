using System.Collections.Immutable;

namespace Kelvet.Core.Billing;

/// <summary>A line of a bill.</summary>
public sealed record BillLine
{
    /// <summary>The most of anything, and the highest price of one.</summary>
    public const decimal Most = 100_000;

    /// <summary>Most characters of what a line is for.</summary>
    public const int LongestWhat = 160;

    /// <summary>A line.</summary>
    /// <param name="what">What it is for, 1 to 160 characters.</param>
    /// <param name="quantity">How many or how much, above 0 to <see cref="Most"/>.</param>
    /// <param name="unit">Of what: "h", "pc".</param>
    /// <param name="price">Of one, 0 to <see cref="Most"/>, by the terms with or without tax.</param>
    /// <param name="tax">Rate of tax, 0 to 100 %.</param>
    /// <exception cref="ArgumentException">Something is out of its range; the message says what.</exception>
    public BillLine(string what, decimal quantity, string unit, decimal price, decimal tax)
    {
        if (what.Trim().Length is 0 or > LongestWhat)
            throw new ArgumentException($"A line of a bill says what it is for, in 1 to {LongestWhat} characters.", nameof(what));
        if (quantity is <= 0 or > Most)
            throw new ArgumentException($"How much of it: above 0 to {Most:N0}.", nameof(quantity));
        if (price is < 0 or > Most)
            throw new ArgumentException($"A price is 0 to {Most:N0}.", nameof(price));
        if (tax is < 0 or > 100)
            throw new ArgumentException("A tax is 0 to 100 %.", nameof(tax));
        (What, Quantity, Unit, Price, Tax) = (what.Trim(), quantity, unit, price, tax);
    }

    /// <summary>What it is for.</summary>
    public string What { get; }

    /// <summary>How many or how much.</summary>
    public decimal Quantity { get; }

    /// <summary>Of what.</summary>
    public string Unit { get; }

    /// <summary>Of one.</summary>
    public decimal Price { get; }

    /// <summary>Rate of tax, %.</summary>
    public decimal Tax { get; }
}

/// <summary>What is taxed at one rate, and the tax on it.</summary>
/// <param name="Rate">Per cent.</param>
/// <param name="Net">Without tax.</param>
/// <param name="Tax">The tax.</param>
public sealed record TaxSum(decimal Rate, decimal Net, decimal Tax);

/// <summary>
/// A bill: its lines, and sums that add up to the last decimal. Each line is rounded; tax is reckoned on the sum of a rate, not line by
/// line (EN 16931-1:2017, rules BR-CO-10, BR-CO-13, BR-CO-14, BR-CO-15 and BR-CO-17).
/// </summary>
public sealed record Bill
{
    /// <summary>The most lines of a bill.</summary>
    public const int MostLines = 200;

    /// <summary>A bill.</summary>
    /// <param name="currency">Its currency.</param>
    /// <param name="withTax">Whether prices are with tax, so that it is reckoned out of them.</param>
    /// <param name="lines">At least one.</param>
    /// <exception cref="ArgumentException">There is no line, or there are too many.</exception>
    public Bill(Currency currency, bool withTax, ImmutableArray<BillLine> lines)
    {
        if (lines.Length is 0 or > MostLines)
            throw new ArgumentException($"A bill has 1 to {MostLines} lines.", nameof(lines));
        (Currency, WithTax, Lines) = (currency, withTax, lines);
        Amounts = [.. lines.Select(l => currency.Round(l.Quantity * l.Price))];
        Taxes =
        [
            .. lines
                .Zip(Amounts, (line, amount) => (line.Tax, amount))
                .GroupBy(l => l.Tax)
                .OrderByDescending(g => g.Key)
                .Select(g => SumOf(g.Key, g.Sum(l => l.amount))),
        ];
    }

    /// <summary>Its currency.</summary>
    public Currency Currency { get; }

    /// <summary>Whether prices are with tax.</summary>
    public bool WithTax { get; }

    /// <summary>Its lines.</summary>
    public ImmutableArray<BillLine> Lines { get; }

    /// <summary>What each line comes to, with tax or without as prices are.</summary>
    public ImmutableArray<decimal> Amounts { get; }

    /// <summary>By rate, the highest first.</summary>
    public ImmutableArray<TaxSum> Taxes { get; }

    /// <summary>Without tax.</summary>
    public decimal Net => Taxes.Sum(t => t.Net);

    /// <summary>All taxes.</summary>
    public decimal Tax => Taxes.Sum(t => t.Tax);

    /// <summary>What is to be paid.</summary>
    public decimal Total => Net + Tax;

    private TaxSum SumOf(decimal rate, decimal amount)
    {
        var tax = Currency.Round(WithTax ? amount * rate / (100 + rate) : amount * rate / 100);
        return new TaxSum(rate, WithTax ? amount - tax : amount, tax);
    }
}
