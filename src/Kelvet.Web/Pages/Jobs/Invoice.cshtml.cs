using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The invoice of a job: as it would be, then as it was issued.</summary>
public sealed class InvoiceModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Shop shop,
    Invoices invoices,
    Payments payments,
    JobSums sums,
    CustomerStore customers
) : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    [BindProperty(SupportsGet = true)]
    public string Paper { get; set; } = "a4";

    /// <summary>Number of the invoice or credit note that is looked at; null for the one that holds.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Of { get; set; }

    /// <summary>How the shop writes its bills.</summary>
    public BillingTerms Terms { get; private set; } = BillingTerms.Usual;

    /// <summary>What it comes to; null where there is nothing to charge.</summary>
    public Bill? Bill { get; private set; }

    /// <summary>The invoice or credit note that is shown; null while none is issued.</summary>
    public InvoiceRow? Issued { get; private set; }

    /// <summary>All of this job.</summary>
    public IReadOnlyList<InvoiceRow> All { get; private set; } = [];

    /// <summary>To whom it is; null where nobody is kept.</summary>
    public CustomerRow? Customer { get; private set; }

    /// <summary>What was paid of it, the oldest first.</summary>
    public IReadOnlyList<PaymentRow> Receipts { get; private set; } = [];

    /// <summary>What was paid in all.</summary>
    public decimal Paid => Payment.PaidOf(Receipts.Select(r => r.Read()));

    /// <summary>What is still to be paid of what is shown; below zero where too much was.</summary>
    public decimal Due => (Bill?.Total ?? 0) - Paid;

    /// <summary>Whether a credit note takes the shown invoice back.</summary>
    public bool IsCredited => Issued is { Credits: null } shown && All.Any(i => i.Credits == shown.Number);

    /// <summary>Its number as it stands on paper.</summary>
    public static string NumberOf(InvoiceRow row) => BillingTerms.Read(row.TermsJson).NumberOf(row.Number);

    /// <summary>Shows it.</summary>
    public Task OnGetAsync() => FillAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        await FillAsync();
    }

    private async Task FillAsync()
    {
        Paper = Paper == "letter" ? "letter" : "a4";
        All = await invoices.OfAsync(Number, HttpContext.RequestAborted);
        Issued = Of is { } asked ? All.FirstOrDefault(i => i.Number == asked) : Invoices.Holding(All);
        Terms = Issued is { } written ? BillingTerms.Read(written.TermsJson) : await shop.TermsAsync();
        Bill = Issued is { } issued ? BillFormat.Read(issued.BillJson) : await sums.BillAsync(this, Terms, HttpContext.RequestAborted);
        Receipts = await payments.OfAsync(Number, HttpContext.RequestAborted);
        if (Job.Row.CustomerId is { } id)
            Customer = await customers.GetAsync(id, HttpContext.RequestAborted);
    }

    /// <summary>Issues it: it gets its number, and is not changed any more.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        await ReadAsync();
        if (!Job.IsClosed)
            return await RefusedAsync("An invoice is issued once the job is closed: what was done and sold is known then.");
        if (Visitor.Name.Length == 0)
            return await RefusedAsync("Say who you are first, above: an invoice says who issued it.");
        var terms = await shop.TermsAsync();
        if (await sums.BillAsync(this, terms, HttpContext.RequestAborted) is not { } bill)
            return await RefusedAsync("There is nothing to charge: no work, no part that was sold.");
        await invoices.IssueAsync(Number, bill, terms, Visitor.Name, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/invoice");
    }

    /// <summary>Takes it back by a credit note.</summary>
    public async Task<IActionResult> OnPostCreditAsync(int? invoice)
    {
        await ReadAsync();
        if (Visitor.Name.Length == 0)
            return await RefusedAsync("Say who you are first, above: a credit note says who issued it.");
        if (
            invoice is not { } number
            || await invoices.CreditAsync(Number, number, Visitor.Name, HttpContext.RequestAborted) is not { } credit
        )
            return await RefusedAsync("That is no invoice of this job. Choose one from the list.", "invoice");
        return Redirect($"/jobs/{Number}/invoice?of={credit.Number}");
    }

    /// <summary>Takes money, or gives it back: there is a receipt for it.</summary>
    public async Task<IActionResult> OnPostPayAsync(decimal? amount, string? how, PaymentKind? kind)
    {
        await ReadAsync();
        try
        {
            var payment = new Payment(kind ?? PaymentKind.Payment, amount ?? 0, how ?? "");
            var row = await payments.TakeAsync(Number, payment, await shop.TermsAsync(), Visitor.Name, HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}/receipt?of={row.Number}");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "amount");
        }
    }

    /// <summary>The invoice for another program.</summary>
    public async Task<IActionResult> OnGetXmlAsync()
    {
        await FillAsync();
        if (Issued is not { } issued || Bill is not { } bill)
            return NotFound();
        var zone = await shop.TimeZoneAsync();
        var day = TimeZoneInfo.ConvertTimeFromUtc(DateTime.SpecifyKind(issued.IssuedUtc, DateTimeKind.Utc), zone);
        var entry = new BookEntry(
            Terms.NumberOf(issued.Number),
            DateOnly.FromDateTime(day),
            Number,
            issued.Credits is { } taken ? Terms.NumberOf(taken) : "",
            bill
        );
        // What was paid before it was issued: an invoice is not changed by what is paid of it later.
        var before = Payment.PaidOf(Receipts.Where(r => r.AtUtc <= issued.IssuedUtc).Select(r => r.Read()));
        var facts = new InvoiceFacts(
            entry,
            (await shop.RowAsync()).Name,
            Customer?.Name ?? Job.Bench.Intake.Customer,
            Terms,
            issued.Credits is null ? Math.Min(before, bill.Total) : 0
        );
        return File(
            System.Text.Encoding.UTF8.GetBytes($"<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n{CrossIndustryInvoice.Write(facts)}"),
            "application/xml",
            $"{(issued.Credits is null ? "invoice" : "credit-note")}-{issued.Number}.xml"
        );
    }
}
