using System.Collections.Immutable;
using System.Text.Json;
using Kelvet.Core.Billing;
using Kelvet.Core.Machines;
using Kelvet.Core.Records;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The report for the owner, in plain words; with what it comes to where that is asked for.</summary>
public sealed class CustomerPaperModel(JobStore store, DiagnosisCache readings, Visitor visitor, JobSums sums)
    : JobPageModel(store, readings, visitor)
{
    private static readonly JsonSerializerOptions Json = new() { WriteIndented = true, PropertyNamingPolicy = JsonNamingPolicy.CamelCase };

    /// <summary>a4 or letter.</summary>
    public string Paper { get; private set; } = "a4";

    /// <summary>Whether the cost is on it.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Cost { get; set; }

    /// <summary>The report.</summary>
    public PlainReport Plain { get; private set; } = null!;

    /// <summary>What it comes to; null where there is nothing to charge.</summary>
    public Bill? Bill { get; private set; }

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync(string? paper)
    {
        Bill = (await sums.OfAsync(this, HttpContext.RequestAborted)).Bill;
        Paper = paper == "letter" ? "letter" : "a4";
        Plain = PlainReport.Of(Reading.Diagnosis, Found, Rules.Preferences, Job.IsClosed);
    }

    /// <summary>The same for a program; how to reach the customer is not in it.</summary>
    public IActionResult OnGetJson()
    {
        var plain = PlainReport.Of(Reading.Diagnosis, Found, Rules.Preferences, Job.IsClosed);
        var told = new
        {
            job = Number,
            taken = Job.Row.OpenedAtUtc,
            closed = Job.Row.ClosedAtUtc,
            complaint = Job.Bench.Intake.Symptom,
            wrong = plain.Wrong,
            known = plain.Known,
            done = plain.Done,
            watch = plain.Watch,
            besides = plain.Besides,
        };
        return File(JsonSerializer.SerializeToUtf8Bytes(told, Json), "application/json", $"job-{Number}-report.json");
    }
}
