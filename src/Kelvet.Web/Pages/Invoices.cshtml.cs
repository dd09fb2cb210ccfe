using System.Text;
using Kelvet.Core.Billing;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>Every invoice and credit note of a time, and the file for the books.</summary>
public sealed class InvoicesModel(Invoices invoices, Shop shop, TimeProvider clock) : FormPage
{
    /// <summary>From which day on; a year back where it is not said.</summary>
    [BindProperty(SupportsGet = true)]
    public DateOnly? From { get; set; }

    /// <summary>The invoices, the oldest first.</summary>
    public IReadOnlyList<BookEntry> Entries { get; private set; } = [];

    /// <summary>What came in by them, by currency.</summary>
    public IEnumerable<string> Sums =>
        Entries.GroupBy(e => e.Bill.Currency).Select(g => g.Key.Words(g.Sum(e => e.Total))).Order(StringComparer.Ordinal);

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <summary>The same as CSV.</summary>
    public async Task<IActionResult> OnGetCsvAsync()
    {
        await ShowAsync();
        return File(Encoding.UTF8.GetBytes(Books.Csv(Entries)), "text/csv; charset=utf-8", $"invoices-{From:yyyy-MM-dd}.csv");
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        var zone = await shop.TimeZoneAsync();
        From ??= DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(clock.GetUtcNow(), zone).DateTime).AddYears(-1);
        var from = TimeZoneInfo.ConvertTimeToUtc(From.Value.ToDateTime(TimeOnly.MinValue), zone);
        Entries =
        [
            .. (await invoices.SinceAsync(from, HttpContext.RequestAborted)).Select(row =>
            {
                var terms = BillingTerms.Read(row.TermsJson);
                var day = TimeZoneInfo.ConvertTimeFromUtc(DateTime.SpecifyKind(row.IssuedUtc, DateTimeKind.Utc), zone);
                return new BookEntry(
                    terms.NumberOf(row.Number),
                    DateOnly.FromDateTime(day),
                    row.JobNumber,
                    row.Credits is { } taken ? terms.NumberOf(taken) : "",
                    BillFormat.Read(row.BillJson)
                );
            }),
        ];
    }
}
