using System.Net;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Invoices: numbers without a gap, nothing changed once it is issued, one figure on every paper.</summary>
public class InvoiceTests
{
    private static async Task CloseAsync(Workshop shop, int number)
    {
        var path = $"/jobs/{number}/close";
        var page = await shop.GetAsync(path);
        (string, string)[] said = [("words", "Done."), ("by", "Ada Fenn"), .. Workshop.Settled(page)];
        var (closed, _) = await shop.SendAsync(page, "form.grid", said, action: path);
        Assert.Equal(HttpStatusCode.Redirect, closed.StatusCode);
    }

    private static async Task<T> WithAsync<T>(Workshop shop, Func<Invoices, Task<T>> use)
    {
        await using var scope = shop.Services.CreateAsyncScope();
        return await use(scope.ServiceProvider.GetRequiredService<Invoices>());
    }

    private static string Said(AngleSharp.Html.Dom.IHtmlDocument page) => page.QuerySelector("main")!.TextContent;

    [Fact]
    public async Task An_invoice_is_issued_once_keeps_its_figures_and_is_taken_back_by_a_credit_note()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        const string Path = "/jobs/1009/invoice";
        await shop.RecordAsync("/jobs/1009?do=swap%20supply%20shelf-supply", "6-8");
        // Open: a figure, and no number.
        var (_, early) = await shop.SendAsync(await shop.GetAsync("/jobs/1009/close"), "form.grid", [], action: Path);
        Assert.Contains("once the job is closed", Said(early), StringComparison.Ordinal);
        (string, string)[] terms =
        [
            ("currency", "CHF"),
            ("tax", "8.1"),
            ("taxName", "VAT"),
            ("flat", "0"),
            ("fee", "0"),
            ("address", "Quay 3\nHarrowmere"),
            ("prefix", "R-"),
        ];
        var (kept, _) = await shop.SendAsync(await shop.GetAsync("/shop"), "#billing", terms);
        Assert.Equal(HttpStatusCode.Redirect, kept.StatusCode);
        await CloseAsync(shop, 1009);
        var before = await shop.GetAsync(Path);
        Assert.Contains("not issued yet", Said(before), StringComparison.Ordinal);
        var total = before.QuerySelector(".total .num")!.TextContent.Trim();
        Assert.EndsWith(" CHF", total, StringComparison.Ordinal);
        Assert.Contains(total, Said(await shop.GetAsync("/jobs/1009/customer?cost=true")), StringComparison.Ordinal);

        await shop.SendAsync(before, "main form", [], action: Path);
        await shop.SendAsync(before, "main form", [], action: Path);
        var issued = await shop.GetAsync(Path);
        Assert.Contains("Invoice R-00002", Said(issued), StringComparison.Ordinal);
        Assert.Contains("Quay 3", Said(issued), StringComparison.Ordinal);
        Assert.Equal(total, issued.QuerySelector(".total .num")!.TextContent.Trim());
        // The shop moves, and the hour gets dearer: what is issued stays.
        (string, string)[] moved =
        [
            .. terms.Where(t => t.Item1 is not ("prefix" or "address")),
            ("prefix", "X-"),
            ("address", "Elsewhere"),
        ];
        await shop.SendAsync(await shop.GetAsync("/shop"), "#billing", moved);
        Assert.Contains("Invoice R-00002", Said(await shop.GetAsync(Path)), StringComparison.Ordinal);
        Assert.Contains("Quay 3", Said(await shop.GetAsync(Path)), StringComparison.Ordinal);
        await shop.SendAsync(await shop.GetAsync("/shop"), "#ways", [("hourlyRate", "999")]);
        Assert.Equal(total, (await shop.GetAsync(Path)).QuerySelector(".total .num")!.TextContent.Trim());
        Assert.Contains(total, Said(await shop.GetAsync("/jobs/1009/customer?cost=true")), StringComparison.Ordinal);

        var books = await shop.Client.GetStringAsync("/invoices?handler=Csv");
        Assert.Contains("R-00002,", books, StringComparison.Ordinal);
        Assert.Contains($",{total.Split(' ')[0]}\n", books, StringComparison.Ordinal);
        Assert.Equal($"375.60 EUR, {total}", (await shop.GetAsync("/invoices")).QuerySelector("tfoot .num")!.TextContent.Trim());
        var (_, wrong) = await shop.SendAsync(issued, "main form", [("invoice", "77")], action: Path + "?handler=Credit");
        Assert.Contains("no invoice of this job", Said(wrong), StringComparison.Ordinal);
        await shop.SendAsync(issued, "main form", [("invoice", "2")], action: Path + "?handler=Credit");
        await shop.SendAsync(issued, "main form", [("invoice", "2")], action: Path + "?handler=Credit");
        var credit = Said(await shop.GetAsync(Path + "?of=3"));
        Assert.Contains("Credit note R-00003", credit, StringComparison.Ordinal);
        Assert.Contains("Takes invoice R-00002 back", credit, StringComparison.Ordinal);
        Assert.Contains("-" + total, credit, StringComparison.Ordinal);
        // Issued anew, it is another number and today's figures.
        await shop.SendAsync(await shop.GetAsync(Path), "main form", [], action: Path);
        var again = await shop.GetAsync(Path);
        Assert.Contains("Invoice X-00004", Said(again), StringComparison.Ordinal);
        Assert.NotEqual(total, again.QuerySelector(".total .num")!.TextContent.Trim());
        Assert.Equal([2, 3, 4], (await WithAsync(shop, i => i.OfAsync(1009))).Select(i => i.Number));
    }

    [Fact]
    public async Task Twenty_benches_at_once_leave_no_gap_and_no_number_twice()
    {
        await using var shop = await Workshop.OpenAsync();
        var bill = new Bill(Currency.Find("EUR")!, false, [new BillLine("Work", 1, "h", 60, 0)]);
        await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(async bench =>
                {
                    for (var n = 0; n < 6; n++)
                    {
                        var job = 2000 + (bench * 10) + n;
                        var invoice = await WithAsync(shop, i => i.IssueAsync(job, bill, BillingTerms.Usual, $"Bench {bench}"));
                        if (n % 3 == 0)
                            await WithAsync(shop, i => i.CreditAsync(job, invoice.Number, $"Bench {bench}"));
                        // Nobody has two of one job.
                        if (n % 3 == 1)
                            Assert.Equal(
                                invoice.Number,
                                (await WithAsync(shop, i => i.IssueAsync(job, bill, BillingTerms.Usual, "again"))).Number
                            );
                    }
                })
        );
        var all = await WithAsync(shop, i => i.SinceAsync(DateTime.MinValue));
        Assert.Equal(20 * 8, all.Count);
        Assert.Equal(Enumerable.Range(1, all.Count), all.Select(i => i.Number));
    }
}
