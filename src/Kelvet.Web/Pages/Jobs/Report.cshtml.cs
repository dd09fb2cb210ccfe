using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The report for the customer and for a return, on A4 or Letter paper.</summary>
public sealed class ReportModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    public string Paper { get; private set; } = "a4";

    public void OnGet(string? paper) => Paper = paper == "letter" ? "letter" : "a4";
}
