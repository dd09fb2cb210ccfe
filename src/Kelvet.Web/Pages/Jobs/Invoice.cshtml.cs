using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Planning;
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
        Bill = Issued is { } issued ? BillFormat.Read(issued.BillJson) : await BillAsync();
        if (Job.Row.CustomerId is { } id)
            Customer = await customers.GetAsync(id, HttpContext.RequestAborted);
    }

    private async Task<Bill?> BillAsync() => BillOf(this, await shop.TermsAsync());

    /// <summary>What a job comes to by the shop's prices.</summary>
    public static Bill? BillOf(JobPageModel page, BillingTerms terms) =>
        JobBill.Of(
            page.Job.Bench,
            page.Found,
            Effort.Minutes(page.Job.Bench, page.Rules.Atlas),
            (decimal)page.Rules.Preferences.HourlyRate,
            page.Rules.Preferences.SellingPrice,
            terms
        );

    /// <summary>Issues it: it gets its number, and is not changed any more.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        await ReadAsync();
        if (!Job.IsClosed)
            return await RefusedAsync("An invoice is issued once the job is closed: what was done and sold is known then.");
        if (Visitor.Name.Length == 0)
            return await RefusedAsync("Say who you are first, above: an invoice says who issued it.");
        if (await BillAsync() is not { } bill)
            return await RefusedAsync("There is nothing to charge: no work, no part that was sold.");
        await invoices.IssueAsync(Number, bill, await shop.TermsAsync(), Visitor.Name, HttpContext.RequestAborted);
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
}
