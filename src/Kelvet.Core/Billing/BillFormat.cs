using System.Collections.Immutable;
using System.Text.Json;
using Kelvet.Core.Text;

namespace Kelvet.Core.Billing;

/// <summary>A bill as it is stored: what it was reckoned from, so that its sums are reckoned again and not believed.</summary>
public static class BillFormat
{
    private sealed record Stored(string Currency, bool WithTax, StoredLine[] Lines);

    private sealed record StoredLine(string What, decimal Quantity, string Unit, decimal Price, decimal Tax);

    /// <summary>As JSON.</summary>
    public static string Write(Bill bill) =>
        JsonSerializer.Serialize(
            new Stored(
                bill.Currency.Code,
                bill.WithTax,
                [.. bill.Lines.Select(l => new StoredLine(l.What, l.Quantity, l.Unit, l.Price, l.Tax))]
            )
        );

    /// <summary>Reads it back.</summary>
    /// <exception cref="DataFileException">It is no bill.</exception>
    public static Bill Read(string json)
    {
        try
        {
            var stored = JsonSerializer.Deserialize<Stored>(json) ?? throw new DataFileException("A bill is empty.");
            return new Bill(
                Currency.Find(stored.Currency) ?? throw new DataFileException($"A bill is in \"{stored.Currency}\", which is no currency."),
                stored.WithTax,
                [.. stored.Lines.Select(l => new BillLine(l.What, l.Quantity, l.Unit, l.Price, l.Tax))]
            );
        }
        catch (Exception e) when (e is JsonException or ArgumentException)
        {
            throw new DataFileException($"A bill cannot be read: {e.Message}", e);
        }
    }
}
