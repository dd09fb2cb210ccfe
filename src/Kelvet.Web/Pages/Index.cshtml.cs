using System.Globalization;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Demo;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>The jobs, newest first.</summary>
public sealed class IndexModel(
    JobStore store,
    Desk desk,
    CustomerStore customers,
    JobNews news,
    DiagnosisCache readings,
    Visitor visitor,
    HealthKeeper health,
    CopyKeeper copies,
    TimeProvider clock,
    ILogger<IndexModel> log
) : PageModel
{
    private const int PageSize = 12;

    /// <summary>A row: the job as stored, its lines, and what is shown of it; or why it cannot be read.</summary>
    public sealed record Row(JobRow Stored, int Lines, JobCard? Card, string Unreadable)
    {
        /// <summary>The machine, small.</summary>
        public DrawingView? Picture { get; init; }
    }

    /// <summary>Where a job stands, in a few words, and whether that presses.</summary>
    public (string Words, bool Presses) Stands(Row row)
    {
        var stored = row.Stored;
        return stored.HandedOverUtc is not null ? ("handed over", false)
            : stored.ClosedAtUtc is not null ? (stored.NotReproduced ? "ready, not reproduced" : "ready", false)
            : stored.Wait != JobWait.None ? (WaitsFor(stored), stored.DueUtc < Now)
            : row.Lines == 0 ? ("waiting", false)
            : row.Card is { IsProving: true } ? ("proving", false)
            : ("on the bench", false);
    }

    /// <summary>What is due on a day.</summary>
    public sealed record WeekEntry(JobRow Job, string What);

    /// <summary>A day of the shop's week; without a date, what is past.</summary>
    public sealed record WeekDay(string Name, DateTime? Date, IReadOnlyList<WeekEntry> Due);

    private static string WaitsFor(JobRow stored) =>
        $"waiting for {(stored.Wait == JobWait.Part ? "" : "the customer: ")}{stored.WaitsFor}"
        + (stored.WaitsFrom.Length > 0 ? $", from {stored.WaitsFrom}" : "");

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

    /// <summary>What closes within days for a part that stands out; empty where nothing does.</summary>
    public string Closes(Row row)
    {
        var today = DateOnly.FromDateTime(Now);
        var next = row
            .Card?.Windows.Select(w => (w.Part, Window: new PartWindow(w.Kind, w.Last)))
            .Where(w => row.Stored.HandedOverUtc is null && w.Window.DaysLeft(today) is >= 0 and <= PartWindow.Presses)
            .OrderBy(w => w.Window.Last)
            .FirstOrDefault();
        return next is { Part: { } part } closing ? $"{part}: {closing.Window.Words(today)}" : "";
    }

    private DateTime Now { get; } = clock.GetUtcNow().UtcDateTime;

    /// <summary>Customers at whose place parts fail again and again.</summary>
    public IReadOnlySet<int> Sites { get; private set; } = new HashSet<int>();

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

    private JobsShown Wanted => Dashed.TryRead<JobsShown>(Show ?? "", out var shown) ? shown : JobsShown.Open;

    /// <summary>The page, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int P { get; set; } = 1;

    /// <summary>The jobs of this page.</summary>
    public IReadOnlyList<Row> Rows { get; private set; } = [];

    /// <summary>How many pages there are.</summary>
    public int Pages { get; private set; }

    /// <summary>What is damaged in the database and what still works; empty where it is sound.</summary>
    public IReadOnlyList<string> Damage { get; private set; } = [];

    /// <summary>How copying last went.</summary>
    public CopyStatus Copying => copies.Room.Status();

    /// <summary>Age of the last copy from which the first page presses.</summary>
    private static readonly TimeSpan Stale = TimeSpan.FromDays(2);

    /// <summary>What is said of the copies, and whether it presses.</summary>
    public (string Words, bool Presses) CopiesSaid =>
        Copying switch
        {
            { Failure: { Length: > 0 } failure } => (failure, true),
            { LastUtc: { } last } when Now - last > Stale => ($"The last copy of the data is {(Now - last).TotalDays:0} days old.", true),
            { LastUtc: { } last } => ($"Last copy of the data: {Kelvet.Web.Pages.Copies.IndexModel.AgoOf(Now - last)}.", false),
            _ => ("No copy of the data has been made yet.", false),
        };

    /// <summary>What is due on a day of the week that begins today; the first is what is past.</summary>
    public IReadOnlyList<WeekDay> Week { get; private set; } = [];

    private const int Days = 7;

    private async Task<IReadOnlyList<WeekDay>> WeekAsync()
    {
        var today = (await visitor.LocalAsync(Now)).Date;
        var due = new List<(DateTime Day, WeekEntry Entry)>();
        foreach (var job in await store.DueAsync(Now.AddDays(Days), HttpContext.RequestAborted))
        {
            if (job.PromisedUtc is { } promised)
                due.Add(((await visitor.LocalAsync(promised)).Date, new WeekEntry(job, "promised")));
            if (job is { Wait: not JobWait.None, DueUtc: { } at, ClosedAtUtc: null })
                due.Add(((await visitor.LocalAsync(at)).Date, new WeekEntry(job, job.Wait == JobWait.Part ? "part comes" : "answer due")));
        }

        return due.Count == 0
            ? []
            :
            [
                new WeekDay("Past", null, [.. due.Where(d => d.Day < today).Select(d => d.Entry)]),
                .. Enumerable
                    .Range(0, Days)
                    .Select(d => today.AddDays(d))
                    .Select(day => new WeekDay(
                        day == today ? "Today" : day.ToString("ddd d MMM", CultureInfo.InvariantCulture),
                        day,
                        [.. due.Where(e => e.Day == day).Select(e => e.Entry)]
                    )),
            ];
    }

    /// <summary>Whether the shop has no job at all.</summary>
    public bool Empty { get; private set; }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        Damage = health.Last is { IsSound: false } last ? [.. last.Words()] : [];
        var (jobs, total) = await store.ListAsync(Q, Wanted, Math.Max(1, P), PageSize, HttpContext.RequestAborted);
        Pages = Math.Max(1, (total + PageSize - 1) / PageSize);
        P = Math.Clamp(P, 1, Pages);
        var rules = await readings.RulesAsync();
        var lines = await store.LinesAsync(jobs, HttpContext.RequestAborted);
        var cards = await store.CardsAsync(jobs, HttpContext.RequestAborted);
        var rows = new List<Row>();
        var made = 0;
        foreach (var job in jobs)
        {
            var stamp = JobCard.Stamp(job, lines.GetValueOrDefault(job.Id), rules);
            var known =
                cards.GetValueOrDefault(job.Id) is { } kept && kept.Stamp == stamp && JobCard.Read(kept.Json) is { } card
                    ? Drawn(new Row(job, lines.GetValueOrDefault(job.Id), card, ""))
                    : null;
            made += known is null ? 1 : 0;
            rows.Add(known ?? await RowOfAsync(job));
        }

        Rows = rows;
        // For whoever measures the list: of how many jobs what is shown had to be worked out.
        Response.Headers["Server-Timing"] = $"made;desc=\"{made}\"";
        if (Wanted == JobsShown.Open && string.IsNullOrEmpty(Q))
            Week = await WeekAsync();
        Again = await store.BeforeAsync(jobs, HttpContext.RequestAborted);
        int[] theirs = [.. jobs.Where(j => j.ClosedAtUtc is null).Select(j => j.CustomerId).OfType<int>().Distinct()];
        Sites = (await customers.DyingAgainAsync(theirs, HttpContext.RequestAborted)).Keys.ToHashSet();
        Empty =
            total == 0
            && string.IsNullOrEmpty(Q)
            && (await store.ListAsync(null, JobsShown.All, 1, 1, HttpContext.RequestAborted)).Total == 0;
    }

    /// <summary>Opens one of the demo jobs in an empty shop.</summary>
    public async Task<IActionResult> OnPostExampleAsync() => Redirect($"/jobs/{await OpenExampleAsync(false)}");

    /// <summary>Opens the example's machine as it came in, and guides through it.</summary>
    public async Task<IActionResult> OnPostFirstAsync()
    {
        var number = await OpenExampleAsync(true);
        visitor.Guide(number);
        return Redirect($"/jobs/{number}");
    }

    private async Task<int> OpenExampleAsync(bool anew)
    {
        var example = JobFormat.Read(DemoShop.Text("one-slot.json"));
        if (anew)
            example = BenchJob.Open(example.AsTakenIn);
        var rules = await readings.RulesAsync();
        var under = new DeskRules(visitor.Name, rules.Set, rules.Drain);
        return await desk.OpenAsync(example, Opening.Nothing, under, HttpContext.RequestAborted);
    }

    /// <summary>A job whose card is not kept, or not good any more: worked out from its log.</summary>
    private async Task<Row> RowOfAsync(JobRow row)
    {
        // It is kept from here on, beside the bench.
        news.Tell(row.Number);
        try
        {
            var listed = await store.ReadListedAsync(row, HttpContext.RequestAborted);
            if (listed.Job is not { } job)
                return Unreadable(listed.Unreadable);
            var card = JobCard.Of(job, readings.Of(job, await readings.RulesAsync(job)));
            var made = new Row(row, job.Bench.Entries.Length, card, "");
            return made with { Picture = card.Picture() };
        }
        catch (Exception e) when (JobStore.IsUnreadable(e))
        {
            return Unreadable(e.Message);
        }
        catch (Exception e) when (StoreTroubles.Of(e) == StoreTrouble.Damaged)
        {
            return Unreadable("what is stored of it is damaged on the disk.");
        }
        catch (Exception e) when (e is not OperationCanceledException && StoreTroubles.Of(e) is null)
        {
            // One job takes none of the others with it, whatever is wrong.
            log.LogError(e, "Job {Job} cannot be worked out", row.Number);
            return new Row(
                row,
                0,
                null,
                $"Kelvet fails on it: a mistake of the program, in the log file under {HttpContext.TraceIdentifier}."
            );
        }

        Row Unreadable(string why)
        {
            log.LogWarning("Job {Job} cannot be read: {Why}", row.Number, why);
            return new Row(row, 0, null, $"It cannot be read here: {why}");
        }
    }

    /// <summary>A row by a card that was kept; null where the card is not whole.</summary>
    private static Row? Drawn(Row row)
    {
        try
        {
            return row with { Picture = row.Card!.Picture() };
        }
        catch (Exception e) when (e is DataFileException or ChangeRefusedException or ArgumentException or NullReferenceException)
        {
            return null;
        }
    }
}
