using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A page about one job: finds the job of the address and reads its log, or answers 404.</summary>
public abstract class JobPageModel(JobStore store, DiagnosisCache readings, Visitor visitor) : PageModel
{
    private Reading? _reading;

    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    public StoredJob Job { get; private set; } = null!;

    public Reading Reading => _reading ??= readings.Of(Job, Rules);

    /// <summary>How this shop works.</summary>
    public Rules Rules { get; private set; } = null!;

    protected JobStore Store => store;

    protected Visitor Visitor => visitor;

    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        if (await store.FindAsync(Number, HttpContext.RequestAborted) is not { } job)
        {
            context.Result = NotFound();
            return;
        }

        Rules = await readings.RulesAsync();
        Show(job);
        await next();
    }

    /// <summary>Shows this state of the job.</summary>
    protected void Show(StoredJob job)
    {
        Job = job;
        _reading = null;
        ViewData["Title"] = $"{job.Number} {job.Bench.Intake.Title}";
        ViewData["Crumb"] = $"{job.Number} · {job.Bench.Intake.Title}";
    }
}
