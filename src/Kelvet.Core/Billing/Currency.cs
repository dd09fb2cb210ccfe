using System.Globalization;

namespace Kelvet.Core.Billing;

/// <summary>
/// A currency by its letters in ISO 4217, with the decimals that its amounts are written with. The list is a part of ISO 4217:2015 list
/// one, from memory; its decimals are compared with those of ECMA-402, which takes them from there, as the browser knows them
/// (tests/browser/papers.test.mjs); seven differ, for which the browser goes by what is usual in cash.
/// </summary>
public sealed record Currency
{
    private static readonly string[] Two =
    [
        "AED",
        "ALL",
        "AMD",
        "ANG",
        "ARS",
        "AUD",
        "AZN",
        "BAM",
        "BBD",
        "BDT",
        "BGN",
        "BMD",
        "BND",
        "BOB",
        "BRL",
        "BSD",
        "BWP",
        "BZD",
        "CAD",
        "CHF",
        "CNY",
        "COP",
        "CRC",
        "CZK",
        "DKK",
        "DOP",
        "DZD",
        "EGP",
        "ETB",
        "EUR",
        "FJD",
        "GBP",
        "GEL",
        "GHS",
        "GTQ",
        "HKD",
        "HNL",
        "HTG",
        "HUF",
        "IDR",
        "ILS",
        "INR",
        "JMD",
        "KES",
        "KGS",
        "KHR",
        "KZT",
        "LKR",
        "MAD",
        "MDL",
        "MKD",
        "MNT",
        "MOP",
        "MUR",
        "MXN",
        "MYR",
        "NAD",
        "NGN",
        "NIO",
        "NOK",
        "NPR",
        "NZD",
        "PAB",
        "PEN",
        "PHP",
        "PKR",
        "PLN",
        "QAR",
        "RON",
        "RSD",
        "RUB",
        "SAR",
        "SEK",
        "SGD",
        "THB",
        "TRY",
        "TTD",
        "TWD",
        "TZS",
        "UAH",
        "USD",
        "UYU",
        "UZS",
        "ZAR",
        "ZMW",
    ];

    private static readonly string[] None = ["CLP", "ISK", "JPY", "KRW", "PYG", "RWF", "UGX", "VND", "XAF", "XOF", "XPF"];
    private static readonly string[] Three = ["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"];

    private Currency(string code, int digits) => (Code, Digits) = (code, digits);

    /// <summary>Those that are known, by their letters.</summary>
    public static IReadOnlyList<Currency> All { get; } =
    [
        .. Two.Select(c => new Currency(c, 2))
            .Concat(None.Select(c => new Currency(c, 0)))
            .Concat(Three.Select(c => new Currency(c, 3)))
            .OrderBy(c => c.Code, StringComparer.Ordinal),
    ];

    /// <summary>Three capital letters.</summary>
    public string Code { get; }

    /// <summary>Decimals of an amount, 0 to 3.</summary>
    public int Digits { get; }

    /// <summary>The currency of some letters; null where they are none.</summary>
    public static Currency? Find(string? code) => All.FirstOrDefault(c => c.Code == code);

    /// <summary>An amount rounded to what can be paid: a half goes away from nought, as on a till.</summary>
    public decimal Round(decimal amount) => Math.Round(amount, Digits, MidpointRounding.AwayFromZero);

    /// <summary>"49.90 EUR"; an amount with its decimals and its currency.</summary>
    public string Words(decimal amount) => $"{Figure(amount)} {Code}";

    /// <summary>"49.90".</summary>
    public string Figure(decimal amount) => Round(amount).ToString($"F{Digits}", CultureInfo.InvariantCulture);
}
