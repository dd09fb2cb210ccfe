using Kelvet.Core.Diagnosis;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Demo;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>The jobs, newest first.</summary>
public sealed class IndexModel(JobStore store, DiagnosisCache readings, Visitor visitor) : PageModel
{
    private const int PageSize = 12;

    public sealed record Row(StoredJob Job, Reading Reading)
    {
        public Suspect? Leader => Job.Bench.Trials.Length == 0 ? null : Reading.Diagnosis.Suspects[0];
    }

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    [BindProperty(SupportsGet = true)]
    public string Show { get; set; } = "open";

    [BindProperty(SupportsGet = true)]
    public int P { get; set; } = 1;

    public IReadOnlyList<Row> Rows { get; private set; } = [];

    public int Pages { get; private set; }

    public bool Empty { get; private set; }

    public async Task OnGetAsync()
    {
        P = Math.Max(1, P);
        bool? closed = Show switch { "closed" => true, "all" => null, _ => false };
        var (jobs, total) = await store.ListAsync(Q, closed, P, PageSize, HttpContext.RequestAborted);
        var rules = await readings.RulesAsync();
        Rows = [.. jobs.Select(j => new Row(j, readings.Of(j, rules)))];
        Pages = Math.Max(1, (total + PageSize - 1) / PageSize);
        Empty = total == 0 && string.IsNullOrEmpty(Q) && (await store.ListAsync(null, null, 1, 1, HttpContext.RequestAborted)).Total == 0;
    }

    /// <summary>Opens one of the demo jobs in an empty shop.</summary>
    public async Task<IActionResult> OnPostExampleAsync() =>
        Redirect($"/jobs/{await store.OpenAsync(JobFormat.Read(DemoShop.Text("one-slot.json")), visitor.Name, cancel: HttpContext.RequestAborted)}");
}
