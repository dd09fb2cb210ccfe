using Kelvet.Core.Billing;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The papers of a job, and what is written to its owner.</summary>
public sealed class PapersModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Shop shop,
    CustomerStore customers,
    Invoices invoices
) : JobPageModel(store, readings, visitor)
{
    /// <summary>Parts that a return sheet is for: those that were found at fault, or stand out so far.</summary>
    public IEnumerable<Suspect> Named =>
        Reading.Diagnosis.Suspects.Where(s =>
            Job.IsClosed
                ? Job.Found.Contains(s.Unit.Id)
                : s.Standing != Standing.PutRight && CaseRecord.StandingOut(Reading.Diagnosis, Rules.Preferences).Contains(s.Unit.Id)
        );

    /// <summary>What may be written to the owner as the job stands.</summary>
    public IReadOnlyList<OwnerMessage> Messages { get; private set; } = [];

    /// <summary>Their e-mail address; empty where it is not known.</summary>
    public string Email { get; private set; } = "";

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        var row = Job.Row;
        var customer = row.CustomerId is { } id ? await customers.GetAsync(id, HttpContext.RequestAborted) : null;
        Email = customer?.Email ?? "";
        var issued = Invoices.Holding(await invoices.OfAsync(Number, HttpContext.RequestAborted));
        var bill = issued is not null ? BillFormat.Read(issued.BillJson) : InvoiceModel.BillOf(this, await shop.TermsAsync());
        var facts = new OwnerMessage.Facts(
            (await shop.RowAsync()).Name,
            Number,
            customer?.Name ?? row.Customer,
            PlainReport.Of(Reading.Diagnosis, Found, Rules.Preferences, Job.IsClosed)
        )
        {
            IsClosed = Job.IsClosed,
            Total = bill is null ? "" : bill.Currency.Words(bill.Total),
            WaitsFor = row.Wait == JobWait.Part ? row.WaitsFor : "",
            Due = row.DueUtc is { } due ? DateOnly.FromDateTime(due) : null,
        };
        Messages = OwnerMessage.Of(facts);
    }
}
