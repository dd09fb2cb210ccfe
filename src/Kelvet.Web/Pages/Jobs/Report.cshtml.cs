using System.Text.Json;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The report for the customer and for a return, on A4 or Letter paper. A closed job prints the figures it was closed
/// with.</summary>
public sealed class ReportModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    public string Paper { get; private set; } = "a4";

    /// <summary>The figures.</summary>
    public CaseRecord Figures { get; private set; } = null!;

    /// <summary>Id of the rules that the figures come from; empty when they were not kept.</summary>
    public string ReadWith => Job.IsClosed ? Job.Row.ClosedRules : Rules.Set.Id;

    /// <summary>Shows it.</summary>
    public void OnGet(string? paper)
    {
        Paper = paper == "letter" ? "letter" : "a4";
        Figures =
            Job.IsClosed && Job.Row.ClosedFigures.Length > 0
                ? JsonSerializer.Deserialize<CaseRecord>(Job.Row.ClosedFigures)!
                : CaseRecord.Of(Reading.Diagnosis, Job.IsClosed ? Job.Found : null);
    }
}
