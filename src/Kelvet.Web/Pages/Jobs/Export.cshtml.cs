using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A job as a file in the job format.</summary>
public sealed class ExportModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    public FileContentResult OnGet() =>
        File(Encoding.UTF8.GetBytes(JobFormat.Write(Job.Bench)), "application/json", $"kelvet-job-{Number}.json");
}
