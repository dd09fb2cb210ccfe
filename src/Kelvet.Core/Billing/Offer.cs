using System.Collections.Immutable;
using System.Text.Json;
using Kelvet.Core.Text;

namespace Kelvet.Core.Billing;

/// <summary>A line of an estimate: what it is for, and between what it comes to.</summary>
public sealed record OfferLine
{
    /// <summary>Longest reason.</summary>
    public const int LongestWhy = 200;

    /// <summary>A line.</summary>
    /// <param name="what">What it is for, 1 to 160 characters.</param>
    /// <param name="from">The least that it comes to, 0 to <see cref="BillLine.Most"/>, by the terms with or without tax.</param>
    /// <param name="to">The most, <paramref name="from"/> to <see cref="BillLine.Most"/>.</param>
    /// <param name="why">Why it is between these two, or why it is offered; at most <see cref="LongestWhy"/> characters.</param>
    /// <param name="extra">Whether it is beside the repair.</param>
    /// <exception cref="ArgumentException">Something is out of its range; the message says what.</exception>
    public OfferLine(string what, decimal from, decimal to, string why, bool extra)
    {
        if (what.Trim().Length is 0 or > BillLine.LongestWhat)
            throw new ArgumentException($"A line says what it is for, in 1 to {BillLine.LongestWhat} characters.", nameof(what));
        if (from is < 0 or > BillLine.Most)
            throw new ArgumentException($"A price is 0 to {BillLine.Most:N0}.", nameof(from));
        if (to < from || to > BillLine.Most)
            throw new ArgumentException($"The most of a line is not below its least, and at most {BillLine.Most:N0}.", nameof(to));
        if (why.Length > LongestWhy)
            throw new ArgumentException($"A reason has {LongestWhy} characters at most.", nameof(why));
        (What, From, To, Why, Extra) = (what.Trim(), from, to, why.Trim(), extra);
    }

    /// <summary>What it is for.</summary>
    public string What { get; }

    /// <summary>The least that it comes to.</summary>
    public decimal From { get; }

    /// <summary>The most.</summary>
    public decimal To { get; }

    /// <summary>Why it is between these two, or why it is offered.</summary>
    public string Why { get; }

    /// <summary>Whether it is beside the repair, so that it may be left out and the rest still makes sense.</summary>
    public bool Extra { get; }
}

/// <summary>What an owner is asked to agree to: lines that they accept one by one. Its sums are those of a <see cref="Bill"/>.</summary>
public sealed record Offer
{
    /// <summary>Longest text of what is known or would be done.</summary>
    public const int LongestText = 1000;

    /// <summary>An estimate.</summary>
    /// <param name="terms">How the shop writes its bills.</param>
    /// <param name="known">What is known so far.</param>
    /// <param name="proposal">What would be done.</param>
    /// <param name="lines">1 to <see cref="Bill.MostLines"/>.</param>
    /// <param name="until">The last day on which it holds.</param>
    /// <param name="deposit">What is asked for beforehand, 0 to <see cref="BillLine.Most"/> and not above the whole.</param>
    /// <exception cref="ArgumentException">Something is out of its range; the message says what.</exception>
    public Offer(BillingTerms terms, string known, string proposal, ImmutableArray<OfferLine> lines, DateOnly until, decimal deposit)
    {
        if (lines.Length is 0 or > Bill.MostLines)
            throw new ArgumentException($"An estimate has 1 to {Bill.MostLines} lines.", nameof(lines));
        if (known.Length > LongestText || proposal.Length > LongestText)
            throw new ArgumentException($"What is known, and what would be done: {LongestText} characters at most.", nameof(known));
        (Currency, WithTax, Tax, TaxName) = (terms.Currency, terms.WithTax, terms.Tax, terms.TaxName);
        (Known, Proposal, Lines, Until) = (known, proposal, lines, until);
        if (deposit < 0 || deposit > Most.Total)
            throw new ArgumentException($"A deposit is 0 to {Currency.Words(Most.Total)}, the whole.", nameof(deposit));
        Deposit = Currency.Round(deposit);
    }

    /// <summary>Its currency.</summary>
    public Currency Currency { get; }

    /// <summary>Whether prices are with tax.</summary>
    public bool WithTax { get; }

    /// <summary>Rate of tax, %.</summary>
    public decimal Tax { get; }

    /// <summary>What the tax is called.</summary>
    public string TaxName { get; }

    /// <summary>What is known so far.</summary>
    public string Known { get; }

    /// <summary>What would be done.</summary>
    public string Proposal { get; }

    /// <summary>Its lines.</summary>
    public ImmutableArray<OfferLine> Lines { get; }

    /// <summary>The last day on which it holds.</summary>
    public DateOnly Until { get; }

    /// <summary>What is asked for beforehand; 0 for nothing.</summary>
    public decimal Deposit { get; }

    /// <summary>All of it at its least.</summary>
    public Bill Least => BillOf(Lines, l => l.From);

    /// <summary>All of it at its most.</summary>
    public Bill Most => BillOf(Lines, l => l.To);

    /// <summary>What some lines come to at most, with tax.</summary>
    /// <param name="accepted">Indexes of lines.</param>
    public decimal MostOf(IEnumerable<int> accepted) =>
        accepted.Select(i => Lines[i]).ToImmutableArray() is { Length: > 0 } some ? BillOf(some, l => l.To).Total : 0;

    /// <summary>"49.90 to 80.00", or "80.00" where both are the same.</summary>
    public string Between(decimal from, decimal to) =>
        from == to ? Currency.Figure(to) : $"{Currency.Figure(from)} to {Currency.Figure(to)}";

    private Bill BillOf(ImmutableArray<OfferLine> lines, Func<OfferLine, decimal> price) =>
        new(Currency, WithTax, [.. lines.Select(l => new BillLine(l.What, 1, "pc", price(l), Tax))]);
}

/// <summary>How leave was given.</summary>
public enum LeaveHow
{
    /// <summary>At the counter, by word of mouth.</summary>
    AtTheCounter,

    /// <summary>By phone.</summary>
    ByPhone,

    /// <summary>By e-mail or a message.</summary>
    InWriting,

    /// <summary>Signed on the paper.</summary>
    OnPaper,
}

/// <summary>The owner's answer to an estimate.</summary>
public sealed record Leave
{
    /// <summary>Longest name of who gave it.</summary>
    public const int LongestWho = 80;

    /// <summary>An answer.</summary>
    /// <param name="offer">What is answered.</param>
    /// <param name="accepted">Indexes of the lines that they agree to; none for "give it back as it is".</param>
    /// <param name="who">Who gave it, 1 to <see cref="LongestWho"/> characters.</param>
    /// <param name="how">How.</param>
    /// <exception cref="ArgumentException">Something is missing, or there is no such line.</exception>
    public Leave(Offer offer, IEnumerable<int> accepted, string who, LeaveHow how)
    {
        Accepted = [.. accepted.Distinct().Order()];
        if (Accepted.Any(i => i < 0 || i >= offer.Lines.Length))
            throw new ArgumentException("One of the ticked lines is not in this estimate.", nameof(accepted));
        if (who.Trim().Length is 0 or > LongestWho)
            throw new ArgumentException($"Say who answered, in 1 to {LongestWho} characters.", nameof(who));
        (Offer, Who, How) = (offer, who.Trim(), how);
    }

    /// <summary>What was answered.</summary>
    public Offer Offer { get; }

    /// <summary>Indexes of the lines that are agreed to, in order.</summary>
    public ImmutableArray<int> Accepted { get; }

    /// <summary>Who gave it.</summary>
    public string Who { get; }

    /// <summary>How.</summary>
    public LeaveHow How { get; }

    /// <summary>Whether it goes on.</summary>
    public bool GoesOn => Accepted.Any(i => !Offer.Lines[i].Extra);

    /// <summary>What it may come to now without another question, with tax.</summary>
    public decimal Limit => Offer.MostOf(Accepted);

    /// <summary>Extras that are agreed to.</summary>
    public IEnumerable<OfferLine> Extras => Accepted.Select(i => Offer.Lines[i]).Where(l => l.Extra);

    /// <summary>The line of the log: who it was is not in it.</summary>
    public string Words()
    {
        var how = How.Words();
        if (!GoesOn)
            return $"The owner's answer to the estimate, {how}: no, give it back as it is.";
        var left = Offer.Lines.Where((_, i) => !Accepted.Contains(i)).Select(l => l.What).ToArray();
        return $"Leave by the owner, {how}: {string.Join("; ", Accepted.Select(i => Offer.Lines[i].What))}. At most "
            + $"{Offer.Currency.Words(Limit)}."
            + (left.Length > 0 ? $" Left out: {string.Join("; ", left)}." : "");
    }
}

/// <summary>How leave was given, in words.</summary>
public static class LeaveWords
{
    /// <summary>"by phone".</summary>
    public static string Words(this LeaveHow how) =>
        how switch
        {
            LeaveHow.AtTheCounter => "at the counter",
            LeaveHow.ByPhone => "by phone",
            LeaveHow.InWriting => "in writing",
            _ => "signed",
        };
}

/// <summary>An estimate as it is stored.</summary>
public static class OfferFormat
{
    private sealed record Stored(
        string Currency,
        bool WithTax,
        decimal Tax,
        string TaxName,
        string Known,
        string Proposal,
        DateOnly Until,
        decimal Deposit,
        StoredLine[] Lines
    );

    private sealed record StoredLine(string What, decimal From, decimal To, string Why, bool Extra);

    /// <summary>As JSON.</summary>
    public static string Write(Offer offer) =>
        JsonSerializer.Serialize(
            new Stored(
                offer.Currency.Code,
                offer.WithTax,
                offer.Tax,
                offer.TaxName,
                offer.Known,
                offer.Proposal,
                offer.Until,
                offer.Deposit,
                [.. offer.Lines.Select(l => new StoredLine(l.What, l.From, l.To, l.Why, l.Extra))]
            )
        );

    /// <summary>Reads it back.</summary>
    /// <exception cref="DataFileException">It is no estimate.</exception>
    public static Offer Read(string json)
    {
        try
        {
            var s = JsonSerializer.Deserialize<Stored>(json) ?? throw new DataFileException("An estimate is empty.");
            var terms = new BillingTerms
            {
                CurrencyCode = s.Currency,
                WithTax = s.WithTax,
                Tax = s.Tax,
                TaxName = s.TaxName,
            };
            return new Offer(
                terms,
                s.Known,
                s.Proposal,
                [.. s.Lines.Select(l => new OfferLine(l.What, l.From, l.To, l.Why, l.Extra))],
                s.Until,
                s.Deposit
            );
        }
        catch (Exception e) when (e is JsonException or ArgumentException)
        {
            throw new DataFileException($"An estimate cannot be read: {e.Message}", e);
        }
    }
}

/// <summary>An estimate in words for its owner.</summary>
public static class OfferWords
{
    /// <summary>What leave is asked for, in a message: what would be done, between what it comes to, and until when that holds.</summary>
    public static string Asked(this Offer offer)
    {
        var (least, most) = (offer.Least.Total, offer.Most.Total);
        var extras = offer.Lines.Where(l => l.Extra).Select(l => l.What).ToArray();
        return $"{offer.Proposal} That comes to {offer.Between(least, most)} {offer.Currency.Code}"
            + (extras.Length > 0 ? $", with what may be left out: {string.Join("; ", extras)}." : ".")
            + (offer.Deposit > 0 ? $" We ask for {offer.Currency.Words(offer.Deposit)} beforehand." : "")
            + $" The estimate holds until {offer.Until:yyyy-MM-dd}.";
    }
}
