using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The bench: the machine, the climb, the suspects, the next step, and recording what happened.</summary>
public sealed partial class IndexModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    BenchState bench,
    SignalStore signals,
    Readers readers,
    LiveJobs live,
    PhotoRoom photos,
    TimeProvider clock
) : JobPageModel(store, readings, visitor)
{
    /// <summary>Shows the bench.</summary>
    public Task OnGetAsync() => PrepareAsync();

    /// <summary>Line of the last start when it leaves open whether POST completed and the button was not tried; null otherwise.</summary>
    public int? Undecided =>
        Job.Row.Power == Power.On
        && Job.Bench.Trials.LastOrDefault() is { } last
        && last.Position == Job.Bench.Lines.Length
        && last.Entry.Button is null
        && last.Seen.Low < BootStage.PostNoPicture
        && last.Seen.High >= BootStage.PostNoPicture
        && !last.Seen.ShowsPicture
            ? last.Number
            : null;

    /// <summary>Line of the last start when it says "this far or better" and may as well have stopped there; null otherwise.</summary>
    public int? Unfollowed =>
        Job.Row.Power == Power.On
        && Job.Bench.Trials.LastOrDefault() is { } last
        && last.Position == Job.Bench.Lines.Length
        && last.Seen is { Low: BootStage.Picture or BootStage.OsLoads, High: BootStage.Stable }
            ? last.Number
            : null;

    /// <summary>Records a start and how far it got.</summary>
    public async Task<IActionResult> OnPostAsync(
        string? seen,
        string? stall,
        Core.Observed.Ending? ended,
        ButtonTest? button,
        Signs? signs,
        string? note,
        string? liveReason,
        Guid stepId,
        int? lines,
        IFormFile? photo,
        IFormFile? capture
    )
    {
        if (!ObservedFormat.TryRead(seen, out var range) && ended is null)
            return await RefusedAsync("Say which stage was reached, 0 to 8, or a range such as 4-5.");
        StallSignal? pointed = null;
        if (!string.IsNullOrEmpty(stall))
        {
            if (!Dashed.TryRead<StallDomain>(stall.ToLowerInvariant(), out var domain))
                return await RefusedAsync("Choose where the lights pointed from the list.");
            pointed = domain;
        }

        var (changes, unread) = PendingChanges.Sent(Do ?? []);
        if (unread is not null)
            return await RefusedAsync(unread);
        var (codes, why) = await CodeSign.ReadAsync(capture);
        if (why is not null)
            return await RefusedAsync(
                $"{why} The start was not recorded: choose another capture, or none, and record it again.",
                "capture"
            );
        var noted = signs ?? Signs.None;
        noted = codes is null ? noted : codes.Into(noted, double.MaxValue);
        var entry = ended is { } how
            ? TrialEntry.ThatEnded(Id(stepId), changes, how, noted, await RanAsync())
            : new TrialEntry(Id(stepId), changes, range, pointed) { Button = button, Signs = noted };
        entry = entry with { Note = note ?? "", Live = liveReason?.Trim() ?? "", Kind = Kind };
        entry = entry with { Followed = await IsFollowedAsync(entry) };
        return await RecordStartAsync(entry, lines, photo, capture?.FileName, codes);
    }

    /// <summary>Minutes that can be tapped on the line of a start's time; any other is written.</summary>
    public static IReadOnlyList<int> MinuteMarks { get; } = [1, 2, 3, 5, 7, 10, 15, 20, 30, 45, 60, 90];

    /// <summary>How long the machine has run since it was started.</summary>
    private async Task<TimeSpan> RanAsync() =>
        await Store.FindAsync(Number, HttpContext.RequestAborted) is { } job ? desk.PowerOf(job, TimeSpan.Zero).Since : TimeSpan.Zero;

    /// <summary>Records a start with the codes that readers showed of it; where it is not recorded, they stay with the start that
    /// is tried again.</summary>
    private async Task<IActionResult> RecordStartAsync(
        TrialEntry entry,
        int? lines,
        IFormFile? photo,
        string? file,
        Core.Observed.CodeLog? imported
    )
    {
        var (signs, taken) = readers.Take(Number, entry.Signs);
        var kept = false;
        try
        {
            IEnumerable<(string, Core.Observed.CodeLog)> captures = imported is null
                ? taken
                : [.. taken, ($"file {Text.Cut(file ?? "", 60)}", imported)];
            return await RecordAsync(
                photo,
                async jpeg =>
                {
                    var answer = await desk.RecordStartAsync(
                        Number,
                        entry with
                        {
                            Signs = signs,
                        },
                        lines,
                        new Attachments(jpeg, [.. captures.Select(c => (c.Item1, c.Item2.Write()))]),
                        await DeskAsync(),
                        HttpContext.RequestAborted
                    );
                    kept = answer is { Refused: null, WasThere: false };
                    return answer;
                }
            );
        }
        finally
        {
            if (!kept)
                readers.PutBack(Number, taken);
        }
    }

    /// <summary>Records what a look, a test or a reading found.</summary>
    public async Task<IActionResult> OnPostFindingAsync(
        bool? found,
        string? what,
        string? note,
        string? liveReason,
        Guid stepId,
        int? lines,
        IFormFile? photo,
        int? passes,
        int? errors,
        double? minutes,
        string? addresses
    )
    {
        if (Atlas.Standard.Check(Check ?? "") is not { } check || !UnitId.IsValid(Checked))
            return await RefusedAsync("That check is not known here. Take the step again.");
        FindingEntry finding;
        try
        {
            finding = FindingEntry.Of(Id(stepId), check, new UnitId(Checked!), found, what) with
            {
                Passes = passes,
                Errors = errors,
                Minutes = minutes,
                Addresses = addresses?.Trim() ?? "",
                Note = note ?? "",
                Live = liveReason?.Trim() ?? "",
            };
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync($"{Forms.Plainly(e)}.", e.ParamName ?? "");
        }

        finding = finding with { Followed = await IsFollowedAsync(finding) };
        return await RecordAsync(
            photo,
            async jpeg =>
                await desk.RecordFindingAsync(
                    Number,
                    finding,
                    check,
                    lines,
                    new Attachments(jpeg, []),
                    await DeskAsync(),
                    HttpContext.RequestAborted
                )
        );
    }

    /// <summary>Records work without a start, or a note.</summary>
    public async Task<IActionResult> OnPostWorkAsync(string? note, string? liveReason, Guid stepId, int? lines, IFormFile? photo)
    {
        var (changes, unread) = PendingChanges.Sent(Do ?? []);
        if (unread is not null)
            return await RefusedAsync(unread);
        return await RecordAsync(
            photo,
            async jpeg =>
            {
                var with = new Attachments(jpeg, []);
                return changes.Length > 0
                    ? await desk.RecordWorkAsync(
                        Number,
                        new WorkEntry(Id(stepId), changes) { Note = note ?? "", Live = liveReason?.Trim() ?? "" },
                        lines,
                        with,
                        await DeskAsync(),
                        HttpContext.RequestAborted
                    )
                    : await desk.RecordWordsAsync(
                        Number,
                        new NoteEntry(Id(stepId)) { Note = note ?? "" },
                        lines,
                        with,
                        await DeskAsync(),
                        HttpContext.RequestAborted
                    );
            }
        );
    }

    /// <summary>What the power button did after the last start: the line is corrected by it.</summary>
    public async Task<IActionResult> OnPostButtonAsync(ButtonTest? button, int? line, Guid stepId)
    {
        if (button is not { } test)
            return await RefusedAsync("Say what the button did: an orderly stop, or nothing.");
        await ReadAsync();
        if (line is null || Undecided != line)
            return await RefusedAsync("That start has been followed by another line. Correct it in the log.");
        return await CorrectStartAsync(line.Value, stepId, "Power-button test after the start.", button: test);
    }

    /// <summary>Corrects the last start by what was told of it afterwards.</summary>
    private async Task<IActionResult> CorrectStartAsync(
        int line,
        Guid stepId,
        string why,
        StageRange? seen = null,
        ButtonTest? button = null
    )
    {
        var start = Job.Bench.Trials[^1].Entry;
        var corrected = new TrialEntry(Guid.NewGuid(), start.Changes, seen ?? start.Seen, start.Stall)
        {
            Button = button ?? start.Button,
            Kind = start.Kind,
            Signs = start.Signs,
            Followed = start.Followed,
            Note = start.Note,
            By = start.By,
            At = start.At,
            Live = start.Live,
        };
        var strike = new StrikeEntry(Id(stepId), Job.Bench.Lines[line - 1].Written.Id, why, corrected);
        return await RecordAsync(
            null,
            async _ =>
                await desk.MendAsync(
                    Number,
                    strike,
                    Job.Bench.Lines.Length,
                    Attachments.None,
                    await DeskAsync(),
                    HttpContext.RequestAborted
                )
        );
    }

    /// <summary>A start that was recorded as "this far or better" stopped there: the line is corrected.</summary>
    public async Task<IActionResult> OnPostStoppedAsync(int? line, Guid stepId)
    {
        await ReadAsync();
        if (line is null || Unfollowed != line)
            return await RefusedAsync("That start has been followed by another line. Correct it in the log.");
        return await CorrectStartAsync(line.Value, stepId, "It stopped there.", seen: StageRange.At(Job.Bench.Trials[^1].Seen.Low));
    }

    /// <summary>Takes the last line back. What was to be done before it is pending again.</summary>
    public async Task<IActionResult> OnPostUndoAsync(Guid line, Guid stepId)
    {
        try
        {
            var answer = await desk.UndoAsync(Number, line, Id(stepId), await DeskAsync(), HttpContext.RequestAborted);
            Tell("line");
            var taken = answer.Job.Bench.Lines.FirstOrDefault(l => l.Written.Id == line)?.Content;
            return Redirect(PendingChanges.Address(Number, taken?.Done ?? [], kind: (taken as TrialEntry)?.Kind));
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Supply off, lead out, start held: the drain begins.</summary>
    public async Task<IActionResult> OnPostOffAsync()
    {
        await desk.TakePowerOffAsync(Number, await DeskAsync(), HttpContext.RequestAborted);
        readers.MachineStopped(Number);
        return BackToBench();
    }

    /// <summary>Nothing loose, cooler on, lead in: power on.</summary>
    public Task<IActionResult> OnPostOnAsync() => PowerAsync(desk.PutPowerOnAsync);

    /// <summary>Started again as it stands.</summary>
    public Task<IActionResult> OnPostAgainAsync() => PowerAsync(desk.StartAgainAsync);

    private async Task<IActionResult> PowerAsync(Func<int, IReadOnlyList<Change>, DeskRules, CancellationToken, Task<DeskAnswer>> command)
    {
        var (changes, unread) = PendingChanges.Sent(Do ?? []);
        if (unread is not null)
            return await RefusedAsync(unread);
        try
        {
            var answer = await command(Number, changes, await DeskAsync(), HttpContext.RequestAborted);
            if (answer.Refused is { } refused)
                return await RefusedAsync(refused.Words());
            readers.MachineStarted(Number);
            if (Kind == StartKind.Load && await Store.FindAsync(Number, HttpContext.RequestAborted) is { } job)
                await desk.StartTimerAsync(Number, HeatModel.Run, RunOf(job).Minutes * 60, HttpContext.RequestAborted);
            return BackToBench();
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>The run that the complaint asks for.</summary>
    public RunPlan Planned => RunOf(Job);

    private static RunPlan RunOf(StoredJob job) => RunPlan.Of(job.Bench.Intake.Complaint);

    /// <summary>Starts a countdown, or stops it.</summary>
    public async Task<IActionResult> OnPostTimerAsync(string? name, int? seconds)
    {
        if (seconds is not { } length || length is < 0 or > 7200)
            return await RefusedAsync("A countdown takes 1 to 7200 seconds; 0 stops it.");
        if (string.IsNullOrEmpty(name) || (length > 0 && HandTimers.All(t => t.Name != name)))
            return await RefusedAsync($"There is no timer \"{Text.Cut(name ?? "", 40)}\".");
        if (length == 0)
            await desk.StopTimerAsync(Number, name, HttpContext.RequestAborted);
        else
            await desk.StartTimerAsync(Number, name, length, HttpContext.RequestAborted);
        return BackToBench();
    }

    /// <summary>Plugs a reader of POST codes into this machine, or takes it out.</summary>
    public async Task<IActionResult> OnPostReaderAsync(int? reader, bool? @out)
    {
        if (reader is not { } id || @out is not { } away)
            return await RefusedAsync("Say which reader is plugged in or taken out.");
        await signals.PlugAsync(id, away ? null : Number);
        await readers.ReloadAsync();
        return BackToBench();
    }

    /// <summary>Carries a recording out and says where to go from there; the page is drawn anew only when it is refused.</summary>
    private async Task<IActionResult> RecordAsync(IFormFile? photo, Func<byte[]?, Task<DeskAnswer>> record)
    {
        byte[]? jpeg = null;
        if (photo is { Length: > 0 })
        {
            (jpeg, var why) = await photos.ReadAsync(photo, HttpContext.RequestAborted);
            if (why is not null)
                return await RefusedAsync($"{why} The step was not recorded: choose another photo, or none, and record it again.", "photo");
        }

        try
        {
            var answer = await record(jpeg);
            if (answer.Refused is { } refused)
            {
                OffersLive = refused.MayHaveHappened;
                return await RefusedAsync(refused.Words());
            }

            if (answer.WasThere)
                return Redirect($"/jobs/{Number}");
            Tell("line");
            return Redirect($"/jobs/{Number}?said={answer.Job.Bench.Lines.Length}{(Visit ? "&visit=true" : "")}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Tells the other benches; the one that did it names itself and knows already.</summary>
    private void Tell(string what) => live.Tell(Number, $"{what} {Request.Headers["X-Bench"]}");

    private RedirectResult BackToBench()
    {
        Tell("bench");
        var changes = PendingChanges.Sent(Do ?? []).Changes;
        return Redirect(
            UnitId.IsValid(Checked) && Slug.IsValid(Check)
                ? $"/jobs/{Number}?check={Check}&checked={Checked}{(Visit ? "&visit=true" : "")}"
                : PendingChanges.Address(Number, changes, kind: Kind)
        );
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        await PrepareAsync();
    }

    private static Guid Id(Guid sent) => sent == Guid.Empty ? Guid.NewGuid() : sent;
}
