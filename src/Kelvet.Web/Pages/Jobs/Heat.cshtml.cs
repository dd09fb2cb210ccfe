using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Jobs;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A run under load: planned, started, its readings, and what they say of cooling and supply.</summary>
public sealed class HeatModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    BenchState bench,
    SignalStore signals,
    LiveJobs live,
    TimeProvider clock
) : JobPageModel(store, readings, visitor)
{
    /// <summary>Name of the timer of a run, and of where its readings come from.</summary>
    public const string Run = "run";

    /// <summary>Readings that are kept of a run.</summary>
    private const int MostKept = 5_000;

    private const int MostPasted = 900_000;

    /// <summary>What the run is made for; null for what the complaint asks for.</summary>
    [BindProperty(SupportsGet = true)]
    public RunFor? For { get; set; }

    /// <summary>What it is made for.</summary>
    public RunFor Purpose => Plan.For;

    /// <summary>Minutes that it takes, 1 to 1440; null for the usual ones.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Minutes { get; set; }

    /// <summary>Temperature at which it holds itself back and the run is broken off, 40 to 130 °C.</summary>
    [BindProperty(SupportsGet = true)]
    public double? Limit { get; set; }

    /// <summary>Draw above which the run is broken off, W; null for none.</summary>
    [BindProperty(SupportsGet = true)]
    public double? MostWatts { get; set; }

    /// <summary>Temperature of the air, -20 to 60 °C.</summary>
    [BindProperty(SupportsGet = true)]
    public double? Air { get; set; }

    /// <summary>Draw of the part, W; null to take it from a column of watts.</summary>
    [BindProperty(SupportsGet = true)]
    public double? Watts { get; set; }

    /// <summary>The plan.</summary>
    public RunPlan Plan
    {
        get
        {
            var usual = RunPlan.Of(Job.Bench.Intake.Complaint, For);
            return usual with
            {
                Minutes = Minutes ?? usual.Minutes,
                Limits = RunLimits.Usual with { Celsius = Limit ?? HeatRun.UsualLimit, Watts = MostWatts },
            };
        }
    }

    /// <summary>The readings; null before any was sent.</summary>
    public RunReadings? Read { get; private set; }

    /// <summary>What each column is.</summary>
    public ImmutableArray<Quantity> Quantities { get; private set; } = [];

    /// <summary>The temperature over time; null before any was sent.</summary>
    public IReadOnlyList<Heat>? Rise { get; private set; }

    /// <summary>The fit; null where there are too few readings.</summary>
    public HeatRun? Fit { get; private set; }

    /// <summary>What went beyond the limits.</summary>
    public ImmutableArray<Crossing> Crossed { get; private set; } = [];

    /// <summary>The temperature that is looked at; null where there is none.</summary>
    public int? Column { get; private set; }

    /// <summary>Seconds between readings where no times are told.</summary>
    public double Every { get; private set; } = 1;

    /// <summary>What was pasted, so that it can be read again otherwise.</summary>
    public string Sent { get; private set; } = "";

    /// <summary>Runs that are kept: number, line and when.</summary>
    public IReadOnlyList<(int Id, int Line)> Kept { get; private set; } = [];

    /// <summary>The kept run that is shown; null for none.</summary>
    public int? Shown { get; private set; }

    /// <summary>When a run that was started is over, UTC; null without one.</summary>
    public DateTime? Ends { get; private set; }

    /// <summary>Whether it is over.</summary>
    public bool IsOver => Ends <= clock.GetUtcNow().UtcDateTime;

    /// <summary>When it is over and now, ms since 1970.</summary>
    public string EndsMs => Moment.Ms(Ends!.Value);

    /// <inheritdoc cref="EndsMs"/>
    public string NowMs => Moment.Ms(clock.GetUtcNow().UtcDateTime);

    /// <summary>What is left of it, "7:30".</summary>
    public string Left => (Ends!.Value - clock.GetUtcNow().UtcDateTime).ToString(@"h\:mm\:ss", CultureInfo.InvariantCulture);

    /// <summary>Seconds of it that are over, 0 to all of them.</summary>
    public int Passed =>
        (int)Math.Clamp(Plan.Minutes * 60 - (Ends!.Value - clock.GetUtcNow().UtcDateTime).TotalSeconds, 0, Plan.Minutes * 60);

    /// <summary>The draw that the resistance is reckoned with, W; null where it is not known.</summary>
    public double? Draw =>
        Watts ?? (Read is { } read && Quantities.IndexOf(Quantity.Watts) is >= 0 and var watts ? read.Settled(watts) : null);

    /// <summary>The first thing that the readings say.</summary>
    public string Verdict =>
        Crossed.FirstOrDefault(c => c.Quantity != Quantity.Temperature && c.Quantity != Quantity.Clock) is { } crossing
            ? $"Broken off: {crossing.Words()}."
            : (Fit?.Verdict(Plan.Limits.Celsius) ?? HeatVerdict.NotToBeSaid).Words();

    /// <summary>Which cause of weak cooling the fans speak for; empty where they do not.</summary>
    public string Which => Fit is { } fit && Read is { } read ? HeatWords.Which(fit.Verdict(Plan.Limits.Celsius), read, Quantities) : "";

    /// <summary>What is written into the log.</summary>
    public string Words =>
        $"Run under load, to see whether {Purpose.Words()}. {Verdict}{(Which.Length > 0 ? $" {Which}" : "")}"
        + (Fit is { } fit ? $" {fit.Words(Draw, Air ?? RoomAir)}" : "")
        + string.Concat(Crossed.Take(6).Select(c => $" {c.Words()}."));

    /// <summary>Air of a room where none is told, °C.</summary>
    public const double RoomAir = 22;

    /// <summary>Shows the plan, or a run that is kept.</summary>
    public async Task OnGetAsync(int? run)
    {
        await ShowAsync();
        if (
            run is not { } id
            || Kept.All(k => k.Id != id)
            || await signals.CaptureAsync(Number, id, HttpContext.RequestAborted) is not { } csv
        )
            return;
        Shown = id;
        Judge(RunReadings.Read(csv), null, null);
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        var captured = await signals.CapturedAsync(Job.Row.Id, HttpContext.RequestAborted);
        Kept = [.. Job.Bench.InOrder.SelectMany(l => captured[l.Written.Id].Where(c => c.Source == Run).Select(c => (c.Id, l.Number)))];
        Ends = (await bench.TimersAsync(Job.Row.Id, HttpContext.RequestAborted)).FirstOrDefault(t => t.Name == Run) is { } timer
            ? timer.StartedAtUtc.AddSeconds(timer.Seconds)
            : null;
    }

    /// <summary>Starts the run: its time runs, and the log says what it is for and when it is broken off.</summary>
    public async Task<IActionResult> OnPostStartAsync(Guid stepId)
    {
        await ShowAsync();
        if (WhyNot() is { } why)
            return await RefusedAsync(why.Words, why.Field);
        var note = $"Run under load begun, {Plan.Minutes} min, to see whether {Purpose.Words()}. Broken off {Plan.Limits.Words()}.";
        if (await KeepAsync(new NoteEntry(Id(stepId)) { Note = note }, Attachments.None) is { } refused)
            return refused;
        await desk.StartTimerAsync(Number, Run, Plan.Minutes * 60, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/heat{Query}");
    }

    /// <summary>Reads what was sent.</summary>
    public async Task<IActionResult> OnPostAsync(string? readings, IFormFile? file, int? column, Quantity[]? quantities, double? every)
    {
        await ShowAsync();
        return await SentAsync(readings, file, column, quantities, every) is { } refused ? refused : Page();
    }

    /// <summary>Writes what a run said into the log, with its readings.</summary>
    public async Task<IActionResult> OnPostRecordAsync(string? readings, int? column, Quantity[]? quantities, double? every, Guid stepId)
    {
        await ShowAsync();
        if (await SentAsync(readings, null, column, quantities, every) is { } wrong)
            return wrong;
        var kept = Read!.Thinned(MostKept).ToCsv(Quantities);
        var entry = new NoteEntry(Id(stepId)) { Note = Text.Cut(Words, Entry.LongestNote) };
        if (await KeepAsync(entry, new Attachments(null, [(Run, kept)])) is { } refused)
            return refused;
        await desk.StopTimerAsync(Number, Run, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/log");
    }

    private string Query =>
        $"?for={Purpose}&minutes={Plan.Minutes}&limit={Plan.Limits.Celsius}&mostWatts={MostWatts}&air={Air}&watts={Watts}";

    private static Guid Id(Guid sent) => sent == Guid.Empty ? Guid.NewGuid() : sent;

    private (string Words, string Field)? WhyNot() =>
        !Enum.IsDefined(Purpose) ? ("Choose what the run is made for.", "for")
        : Plan.Minutes is not (>= 1 and <= RunPlan.MostMinutes) ? ($"A run takes 1 to {RunPlan.MostMinutes} minutes.", "minutes")
        : Plan.Limits.Celsius is not (>= 40 and <= 130) ? ("The limit is 40 to 130 °C.", "limit")
        : MostWatts is <= 0 or > 5000 ? ("The most draw is above 0 to 5000 W.", "mostWatts")
        : Air is < -20 or > 60 ? ("The air is -20 to 60 °C.", "air")
        : Watts is <= 0 or > 2000 ? ("The draw of the part is above 0 to 2000 W.", "watts")
        : null;

    private async Task<IActionResult?> SentAsync(string? readings, IFormFile? file, int? column, Quantity[]? quantities, double? every)
    {
        Every = every ?? 1;
        var text = readings ?? "";
        if (file is { Length: > 0 })
        {
            using var reader = new StreamReader(file.OpenReadStream());
            text = await reader.ReadToEndAsync(HttpContext.RequestAborted);
        }

        Sent = text.Length <= MostPasted ? text : "";
        if (WhyNot() is { } why)
            return await RefusedAsync(why.Words, why.Field);
        try
        {
            var read = RunReadings.Read(text, Every);
            Judge(read, column, quantities);
            if (text.Length > MostPasted || file is not null)
                Sent = read.Thinned(MostKept).ToCsv(Quantities);
            return Column is { } chosen && Rise is { Count: 0 }
                ? await RefusedAsync($"Column \"{read.Columns[chosen]}\" holds no reading. Choose another.", "column")
                : null;
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message, "readings");
        }
    }

    private void Judge(RunReadings read, int? column, Quantity[]? quantities)
    {
        Read = read;
        Quantities = quantities?.Length == read.Columns.Length ? [.. quantities] : read.Guessed;
        Crossed = Plan.Limits.Crossed(read, Quantities);
        var likely = read.LikelyTemperature;
        Column =
            column is >= 0 && column < read.Columns.Length ? column
            : Quantities[likely] == Quantity.Temperature ? likely
            : Quantities.IndexOf(Quantity.Temperature) is >= 0 and var first ? first
            : null;
        if (Column is not { } at)
            return;
        Rise = read.Of(at);
        Fit = HeatRun.Fit(Rise, Plan.Limits.Celsius);
    }

    private async Task<IActionResult?> KeepAsync(Entry entry, Attachments with)
    {
        try
        {
            _ = await desk.RecordWordsAsync(Number, entry, null, with, await DeskAsync(), HttpContext.RequestAborted);
            live.Tell(Number, "line");
            return null;
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
