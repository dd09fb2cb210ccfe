using Kelvet.Core.Billing;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The receipt for a payment.</summary>
public sealed class ReceiptModel(JobStore store, DiagnosisCache readings, Visitor visitor, Payments payments, Invoices invoices)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    [BindProperty(SupportsGet = true)]
    public string Paper { get; set; } = "a4";

    /// <summary>Its number; null for the last.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Of { get; set; }

    /// <summary>All of this job, the oldest first.</summary>
    public IReadOnlyList<PaymentRow> All { get; private set; } = [];

    /// <summary>The one that is shown; null where there is none.</summary>
    public PaymentRow? Row { get; private set; }

    /// <summary>Number of the invoice that holds, as printed; empty where none is issued.</summary>
    public string Invoice { get; private set; } = "";

    /// <summary>Its number as it stands on paper.</summary>
    public static string NumberOf(PaymentRow row) => BillingTerms.Read(row.TermsJson).ReceiptNumberOf(row.Number);

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync()
    {
        Paper = Paper == "letter" ? "letter" : "a4";
        All = await payments.OfAsync(Number, HttpContext.RequestAborted);
        Row =
            Of is { } asked ? All.FirstOrDefault(p => p.Number == asked)
            : All.Count > 0 ? All[^1]
            : null;
        Invoice = Invoices.Holding(await invoices.OfAsync(Number, HttpContext.RequestAborted)) is { } issued
            ? InvoiceModel.NumberOf(issued)
            : "";
    }
}
