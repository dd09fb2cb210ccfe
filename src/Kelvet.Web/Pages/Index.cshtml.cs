using Kelvet.Core.Jobs;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Demo;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>The jobs, newest first.</summary>
public sealed class IndexModel(JobStore store, DiagnosisCache readings, Visitor visitor, TimeProvider clock, ILogger<IndexModel> log)
    : PageModel
{
    private const int PageSize = 12;

    /// <summary>A row: the job as stored, and its reading; or why it cannot be read.</summary>
    public sealed record Row(JobRow Stored, StoredJob? Job, Reading? Reading, string Unreadable)
    {
        /// <summary>What to do next; null where the job cannot be read.</summary>
        public PlainAdvice? Plain { get; } = Reading is null ? null : PlainAdvice.Of(Reading.Advice, Reading.Diagnosis);

        /// <summary>The first suspect; null before the first trial.</summary>
        public Suspect? Leader => Job is null || Job.Bench.Trials.Length == 0 ? null : Reading!.Diagnosis.Suspects[0];
    }

    /// <summary>Where a job stands, in a few words, and whether that presses.</summary>
    public (string Words, bool Presses) Stands(Row row)
    {
        var stored = row.Stored;
        return stored.HandedOverUtc is not null ? ("handed over", false)
            : stored.ClosedAtUtc is not null ? (stored.NotReproduced ? "ready, not reproduced" : "ready", false)
            : stored.Wait != JobWait.None
                ? ($"waiting for {(stored.Wait == JobWait.Part ? "" : "the customer: ")}{stored.WaitsFor}", stored.DueUtc < Now)
            : row.Job is { Bench.Entries.Length: 0 } ? ("waiting", false)
            : row.Reading?.Advice.Phase is Phase.Prove or Phase.Done ? ("proving", false)
            : ("on the bench", false);
    }

    /// <summary>Days since a job came in, in a word.</summary>
    public string AgeOf(JobRow row)
    {
        var days = (int)(Now - row.OpenedAtUtc).TotalDays;
        return days switch
        {
            <= 0 => "today",
            1 => "1 day",
            _ => $"{days} days",
        };
    }

    /// <summary>Whether a promise is broken, or breaks today.</summary>
    public bool IsLate(JobRow row) => row is { PromisedUtc: { } promised, HandedOverUtc: null } && promised < Now.AddHours(20);

    private DateTime Now { get; } = clock.GetUtcNow().UtcDateTime;

    /// <summary>Numbers of the jobs on this page whose customer was here before.</summary>
    public IReadOnlySet<int> Again { get; private set; } = new HashSet<int>();

    /// <summary>The machine's state in a word, where it is told; null where it is not recorded.</summary>
    public static (string Class, string Words)? StateOf(Power power) =>
        power switch
        {
            Power.Off => ("safe", "off"),
            Power.NotRecorded => null,
            _ => ("live", "live"),
        };

    /// <summary>What is looked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary>open, closed or all.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; } = "open";

    private JobsShown Shown => Dashed.TryRead<JobsShown>(Show ?? "", out var shown) ? shown : JobsShown.Open;

    /// <summary>The page, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int P { get; set; } = 1;

    /// <summary>The jobs of this page.</summary>
    public IReadOnlyList<Row> Rows { get; private set; } = [];

    /// <summary>How many pages there are.</summary>
    public int Pages { get; private set; }

    /// <summary>Whether the shop has no job at all.</summary>
    public bool Empty { get; private set; }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        var (jobs, total) = await store.ListAsync(Q, Shown, Math.Max(1, P), PageSize, HttpContext.RequestAborted);
        Pages = Math.Max(1, (total + PageSize - 1) / PageSize);
        P = Math.Clamp(P, 1, Pages);
        var rows = new List<Row>();
        foreach (var job in jobs)
            rows.Add(await RowOfAsync(job));
        Rows = rows;
        Again = await store.BeforeAsync([.. jobs.Select(j => j.Row)], HttpContext.RequestAborted);
        Empty =
            total == 0
            && string.IsNullOrEmpty(Q)
            && (await store.ListAsync(null, JobsShown.All, 1, 1, HttpContext.RequestAborted)).Total == 0;
    }

    /// <summary>Opens one of the demo jobs in an empty shop.</summary>
    public async Task<IActionResult> OnPostExampleAsync()
    {
        var example = JobFormat.Read(DemoShop.Text("one-slot.json"));
        return Redirect($"/jobs/{await store.OpenAsync(example, visitor.Name, cancel: HttpContext.RequestAborted)}");
    }

    private async Task<Row> RowOfAsync(ListedJob listed)
    {
        if (listed.Job is not { } job)
            return Unreadable(listed.Unreadable);
        try
        {
            return new Row(listed.Row, job, readings.Of(job, await readings.RulesAsync(job)), "");
        }
        catch (Exception e) when (JobStore.IsUnreadable(e))
        {
            return Unreadable(e.Message);
        }

        Row Unreadable(string why)
        {
            log.LogWarning("Job {Job} cannot be read: {Why}", listed.Row.Number, why);
            return new Row(listed.Row, null, null, why);
        }
    }
}
