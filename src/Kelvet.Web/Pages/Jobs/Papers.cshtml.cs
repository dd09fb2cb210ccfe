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
    JobSums sums,
    Offers offers
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
        var sum = await sums.OfAsync(this, HttpContext.RequestAborted);
        var asked = (await offers.OfAsync(Number, HttpContext.RequestAborted)).LastOrDefault(o => o.How is null);
        var facts = new OwnerMessage.Facts(
            (await shop.RowAsync()).Name,
            Number,
            customer?.Name ?? row.Customer,
            PlainReport.Of(Reading.Diagnosis, Found, Rules.Preferences, Job.IsClosed)
        )
        {
            IsClosed = Job.IsClosed,
            Total =
                sum.Bill is null ? ""
                : sum.Paid > 0
                    ? $"{sum.Bill.Currency.Words(sum.Bill.Total)}, of which {sum.Bill.Currency.Words(sum.Due)} is still to be paid"
                : sum.Bill.Currency.Words(sum.Bill.Total),
            Asked = asked is null ? "" : OfferWords.Asked(asked.Read()),
            WaitsFor = row.Wait == JobWait.Part ? row.WaitsFor : "",
            Due = row.DueUtc is { } due ? DateOnly.FromDateTime(due) : null,
        };
        Messages = OwnerMessage.Of(facts);
    }
}
