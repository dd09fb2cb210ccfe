using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kelvet.Core.Text;

namespace Kelvet.Core.Billing;

/// <summary>How work is charged.</summary>
public enum Labour
{
    /// <summary>By the quarter of an hour that was begun.</summary>
    ByTime,

    /// <summary>One amount for a job, however long it took.</summary>
    Flat,
}

/// <summary>How the shop writes its bills, and what stands at their head.</summary>
public sealed record BillingTerms
{
    /// <summary>Before anybody has said: euros without tax.</summary>
    public static BillingTerms Usual { get; } = new();

    private const int LongestLine = 120,
        LongestAddress = 400;

    private static readonly JsonSerializerOptions Json = new() { Converters = { new JsonStringEnumConverter() } };

    private readonly string _currency = "EUR";
    private readonly decimal _tax;
    private readonly decimal _flat;
    private readonly decimal _fee;
    private readonly string _country = "";
    private readonly int _offerDays = 14;
    private readonly ImmutableSortedDictionary<string, decimal> _extras = ImmutableSortedDictionary<string, decimal>.Empty;

    /// <summary>Letters of the currency.</summary>
    /// <exception cref="ArgumentException">There is no such currency.</exception>
    public string CurrencyCode
    {
        get => _currency;
        init =>
            _currency =
                Currency.Find(value)?.Code
                ?? throw new ArgumentException($"\"{value}\" is no currency known here. Three letters, such as EUR.", nameof(CurrencyCode));
    }

    /// <summary>Rate of tax on work and parts, 0 to 100 %.</summary>
    public decimal Tax
    {
        get => _tax;
        init => _tax = value is >= 0 and <= 100 ? value : throw new ArgumentException("The tax is 0 to 100 %.", nameof(Tax));
    }

    /// <summary>What the tax is called on paper: "VAT".</summary>
    public string TaxName { get; init; } = "VAT";

    /// <summary>Whether the shop's prices are with tax.</summary>
    public bool WithTax { get; init; }

    /// <summary>How work is charged.</summary>
    public Labour Labour { get; init; }

    /// <summary>For a job, where work is charged flat.</summary>
    public decimal FlatPrice
    {
        get => _flat;
        init => _flat = Price(value, nameof(FlatPrice));
    }

    /// <summary>For finding out what it is, beside the work; 0 for none.</summary>
    public decimal DiagnosisFee
    {
        get => _fee;
        init => _fee = Price(value, nameof(DiagnosisFee));
    }

    /// <summary>Where the shop is, up to 400 characters on some lines.</summary>
    public string Address { get; init; } = "";

    /// <summary>How the shop is reached.</summary>
    public string Reach { get; init; } = "";

    /// <summary>The shop's tax number.</summary>
    public string TaxNumber { get; init; } = "";

    /// <summary>The shop's country by its two letters in ISO 3166-1; empty where it is not said.</summary>
    /// <exception cref="ArgumentException">It is not two capital letters.</exception>
    public string Country
    {
        get => _country;
        init =>
            _country =
                value.Length == 0 || (value.Length == 2 && value.All(char.IsAsciiLetterUpper))
                    ? value
                    : throw new ArgumentException("A country is two capital letters, such as those of a passport.", nameof(Country));
    }

    /// <summary>What stands before an invoice's number: "R-".</summary>
    public string Prefix { get; init; } = "";

    /// <summary>What stands before a receipt's number: "Q-".</summary>
    public string ReceiptPrefix { get; init; } = "";

    /// <summary>Days for which an estimate holds, 1 to 365.</summary>
    /// <exception cref="ArgumentException">It is out of that range.</exception>
    public int OfferDays
    {
        get => _offerDays;
        init =>
            _offerDays = value is >= 1 and <= 365
                ? value
                : throw new ArgumentException("An estimate holds 1 to 365 days.", nameof(OfferDays));
    }

    /// <summary>Prices of extras, by their ids; those that are not in it have the usual.</summary>
    public ImmutableSortedDictionary<string, decimal> ExtraPrices
    {
        get => _extras;
        init
        {
            foreach (var price in value.Values)
                _ = Price(price, nameof(ExtraPrices));
            _extras = value;
        }
    }

    /// <summary>What an extra costs in this shop.</summary>
    public decimal PriceOf(Extra extra) => ExtraPrices.GetValueOrDefault(extra.Id, extra.Usual);

    /// <summary>A receipt's number as it is printed.</summary>
    public string ReceiptNumberOf(int number) =>
        $"{ReceiptPrefix}{number.ToString("00000", System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>A number as it is printed.</summary>
    public string NumberOf(int number) => $"{Prefix}{number.ToString("00000", System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>The currency.</summary>
    [JsonIgnore]
    public Currency Currency => Currency.Find(CurrencyCode)!;

    /// <summary>What is too long for paper, in words; null where nothing is.</summary>
    public string? WhyNot() =>
        TaxName.Length is 0 or > 20 ? "The tax is called by 1 to 20 characters."
        : Address.Length > LongestAddress ? $"The address has {Address.Length} characters; {LongestAddress} are the most."
        : Reach.Length > LongestLine ? $"How you are reached: {LongestLine} characters are the most."
        : TaxNumber.Length > 40 ? "The tax number has 40 characters at most."
        : Prefix.Length > 12 || ReceiptPrefix.Length > 12 ? "What stands before an invoice's or receipt's number has 12 characters at most."
        : null;

    /// <summary>As it is stored.</summary>
    public string Write() => JsonSerializer.Serialize(this, Json);

    /// <summary>What was stored; the usual where nothing was.</summary>
    /// <exception cref="DataFileException">It cannot be read.</exception>
    public static BillingTerms Read(string json)
    {
        try
        {
            return json.Length == 0 ? Usual : JsonSerializer.Deserialize<BillingTerms>(json, Json) ?? Usual;
        }
        catch (Exception e) when (e is JsonException or ArgumentException)
        {
            throw new DataFileException($"How the shop writes its bills cannot be read: {e.Message}", e);
        }
    }

    private static decimal Price(decimal value, string name) =>
        value is >= 0 and <= BillLine.Most ? value : throw new ArgumentException($"A price is 0 to {BillLine.Most:N0}.", name);
}
