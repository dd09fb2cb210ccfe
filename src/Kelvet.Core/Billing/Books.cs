using System.Globalization;
using Kelvet.Core.Text;

namespace Kelvet.Core.Billing;

/// <summary>An invoice or credit note as the books take it.</summary>
/// <param name="Number">Its number as it is printed.</param>
/// <param name="Day">When it was issued, by the shop's clock.</param>
/// <param name="Job">Number of the job.</param>
/// <param name="Credits">Number of the invoice that it takes back, as printed; empty for an invoice.</param>
/// <param name="Bill">What it is for.</param>
public sealed record BookEntry(string Number, DateOnly Day, int Job, string Credits, Bill Bill)
{
    private decimal Sign => Credits.Length > 0 ? -1 : 1;

    /// <summary>What comes in by it; below zero for a credit note.</summary>
    public decimal Total => Sign * Bill.Total;

    /// <summary>What it comes to by rate of tax, below zero for a credit note.</summary>
    public IEnumerable<TaxSum> ByRate => Bill.Taxes.Select(t => t with { Net = Sign * t.Net, Tax = Sign * t.Tax });
}

/// <summary>Invoices as a file for the books.</summary>
public static class Books
{
    /// <summary>CSV: a header, and a row for each rate of tax of each invoice. Summed by column it is what was invoiced.</summary>
    public static string Csv(IEnumerable<BookEntry> entries) =>
        CsvText.Write(
            ["number", "date", "job", "takes back", "currency", "tax rate", "net", "tax", "gross"],
            entries.SelectMany(e =>
                e.ByRate.Select(t =>
                    (IEnumerable<string>)
                        [
                            e.Number,
                            e.Day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                            e.Job.ToString(CultureInfo.InvariantCulture),
                            e.Credits,
                            e.Bill.Currency.Code,
                            t.Rate.ToString("0.####", CultureInfo.InvariantCulture),
                            e.Bill.Currency.Figure(t.Net),
                            e.Bill.Currency.Figure(t.Tax),
                            e.Bill.Currency.Figure(t.Net + t.Tax),
                        ]
                )
            )
        );
}
