using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Kelvet.Web.Shown;
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
        if (!ObservedFormat.TryRead(seen, out var range))
            return await RefusedAsync("Say which stage was reached, 0 to 8, or a range such as 4-5.");
        StallSignal? pointed = null;
        if (!string.IsNullOrEmpty(stall))
        {
            if (!Dashed.TryRead<StallDomain>(stall.ToLowerInvariant(), out var domain))
                return await RefusedAsync("Choose where the lights pointed from the list.");
            pointed = domain;
        }

        if (signs?.WhyNot() is { } wrong)
            return await RefusedAsync(wrong.Words, $"signs.{wrong.Field}");
        var (changes, unread) = PendingChanges.Sent(Do ?? []);
        if (unread is not null)
            return await RefusedAsync(unread);
        var (codes, why) = await CodeSign.ReadAsync(capture);
        if (why is not null)
            return await RefusedAsync(
                $"{why} The start was not recorded: choose another capture, or none, and record it again.",
                "capture"
            );
        var noted = CodeSign.Trimmed(signs ?? Signs.None);
        var entry = new TrialEntry(Id(stepId), changes, range, pointed)
        {
            Note = note ?? "",
            Live = liveReason?.Trim() ?? "",
            Button = button,
            Kind = Kind,
            Signs = codes is null ? noted : codes.Into(noted, double.MaxValue),
        };
        return await RecordStartAsync(entry, lines, photo, capture?.FileName, codes);
    }

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
        IFormFile? photo
    )
    {
        if (Atlas.Standard.Check(Check ?? "") is not { } check || !UnitId.IsValid(Checked))
            return await RefusedAsync("That check is not known here. Take the step again.");
        if (!string.IsNullOrEmpty(what) && check.Findings.All(f => f.Id != what))
            return await RefusedAsync("That is not among what this look tells apart. Choose one of its findings.", "what");
        if ((found ?? (string.IsNullOrEmpty(what) ? null : true)) is not { } seen)
            return await RefusedAsync("Say whether it was found: yes or no.");
        var finding = new FindingEntry(Id(stepId), check.Id, new UnitId(Checked!), seen)
        {
            What = seen ? what ?? "" : "",
            Note = note ?? "",
            Live = liveReason?.Trim() ?? "",
        };
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
            var changes = taken switch
            {
                TrialEntry t => t.Changes,
                WorkEntry w => w.Changes,
                _ => [],
            };
            return Redirect(PendingChanges.Address(Number, changes, kind: (taken as TrialEntry)?.Kind));
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
            return BackToBench();
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

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

    private async Task PrepareAsync()
    {
        Stand();
        Pending = PendingChanges.Read(Bench, Do ?? []);
        Problem = Pending.Problem;
        Ceiling = Ceiling.Of(Pending.After);
        Timers = await bench.TimersAsync(Job.Row.Id, HttpContext.RequestAborted);
        if (A is { } a && B is { } b)
            Comparison = Comparison.Of(Reading.Diagnosis, a, b);
        if (Pending.Changes.Length > 0 && Bench.Trials.Length > 0)
            Foreseen = Planner.Foresee(Shown.Diagnosis, Pending.Changes);
        Points = IsPast || Job.IsClosed ? [] : [.. PointsOf(Bench, Rules.Atlas)];
        if (Visit && Check is null && Points.FirstOrDefault(p => p.Found is null) is { } first)
            (Check, Checked) = (first.Check.Id, first.Unit.Id.Value);
        Visit = Visit && Check is not null;
        if (
            !IsPast
            && Atlas.Standard.Check(Check ?? "") is { } check
            && UnitId.IsValid(Checked)
            && Bench.Now.Parts.Find(new UnitId(Checked!)) is { } unit
            && unit.Kind == check.On
        )
            OpenCheck = (check, unit);
        Gate = Gate.Of(Bench, Pending, OpenCheck?.Check, desk.PowerOf(Job, Rules.Drain), NowUtc);
        AllReaders = await signals.ReadersAsync();
        var library = Rules.Atlas.Signals;
        ReaderViews = readers.Shown(Number, library, library.FamilyOf(Pending.After.Board));
        if (
            (A is { } chosen && B is null ? Bench.Trials.FirstOrDefault(t => t.Number == chosen) : Bench.Trials.LastOrDefault()) is
            { } start
        )
            BoardSays = CodeSign.Of(start, Shown.Diagnosis);
        Picked = UnitId.IsValid(Pick) ? Bench.Now.Parts.Find(new UnitId(Pick!)) : null;
        Step =
            OpenCheck is { } open ? Candidates.Looking(open.Check, open.Unit, Bench.Now, Rules.Atlas)
            : Pending.Changes.Length > 0 || Kind is not null
                ? Candidates.Of(Pending.Changes, Bench.Now, Pending.After, Rules.Atlas) with
                {
                    Kind = Kind,
                }
            : null;
        Plain = PlainAdvice.Of(Shown.Advice, Shown.Diagnosis);
        Course = StartCourse.Of(Bench, Pending.Changes);
        Instruction =
            Job.IsClosed ? new Instruction("Closed.", Job.Row.ClosingWords)
            : IsPast ? new Instruction(Plain.Imperative, $"As it was after line {StandAt}. {Plain.Reason}")
            : Instruction.Of(Bench, Plain, Gate, Pending, Step, Rules.DrainSeconds);
        Drawing = Draw();
    }

    /// <summary>The log as far as the line that is stood at.</summary>
    private void Stand()
    {
        (Bench, Shown) = (Job.Bench, Reading);
        if (StandAt is not { } line || line < 0 || line >= Job.Bench.Entries.Length)
            return;
        Bench = Job.Bench.AfterLines(line);
        var diagnosis = BenchDiagnosis.Of(Bench, Rules.Atlas);
        Shown = new Reading(diagnosis, Planner.Advise(diagnosis, Rules.School, Rules.Preferences), Rules);
        (Do, Check, Pick, Kind) = ([], null, null, null);
    }

    private DrawingView Draw()
    {
        var open = !Job.IsClosed && !IsPast;
        var parts = Bench.Now.Parts;
        var hands =
            Step is not null ? Hand.Of(Step, Bench.Now)
            : open && Instruction.IsAdvice && Shown.Advice.Decision.Step is { } next ? Hand.Of(next, Bench.Now)
            : [];
        var pins = Pending.After.Now.Start == StartMethod.HeaderPins;
        var startWith = new Change.StartWith(pins ? StartMethod.CaseSwitch : StartMethod.HeaderPins);
        return new DrawingView
        {
            Drawing = new MachineDrawing(Pending.After, Shown.Diagnosis, Bench.Intake.Received),
            Live = Gate.Power.IsStarted,
            Hands = OpenCheck is not null && Visit ? [] : hands,
            Picked = Picked?.Id,
            Last = Bench.Trials.LastOrDefault()?.Entry,
            Taps = open && OpenCheck is null && Gate.Step == GateStep.RecordStart,
            Points = Visit
                ?
                [
                    .. Points.Select(
                        (p, i) => (p.Place, i + 1, p.Found is not null, OpenCheck is { } o && o.Check == p.Check && o.Unit.Id == p.Unit.Id)
                    ),
                ]
                : [],
            PartLink = part => LinkOf(part, open),
            OutputLink = output => open && !output.IsShown ? With(new Change.DisplayAt(new OutputRef(Place.Board, output.Name))) : null,
            Clear = open ? With(new Change.ClearCmos(), "Coin cell and CMOS: clear") : null,
            Header = open
                ? With(
                    startWith,
                    $"Front-panel header, started {(pins ? "at the pins" : "by the case switch")}. {Text.Capital(startWith.Words(parts))}"
                )
                : null,
        };

        DrawnLink With(Change change, string words = "") =>
            new(Pending.With(Number, change), words.Length > 0 ? words : Text.Capital(change.Words(parts)), true);
    }

    private DrawnLink? LinkOf(DrawnPart part, bool open)
    {
        if (open && Picked is { } picked && Pending.Drop(picked, part.Place) is { } drop)
            return new DrawnLink(Pending.With(Number, drop), Text.Capital(drop.Words(Bench.Now.Parts)), true);
        if (part.Unit is null)
            return null;
        if (IsPast)
            return new DrawnLink($"/jobs/{Number}/unit/{part.Unit.Id}", "");
        return new DrawnLink(Pending.Picking(Number, part.Unit.Id), "");
    }

    /// <summary>Every look with the machine off that is worth a visit, in walking order.</summary>
    private static IEnumerable<VisitPoint> PointsOf(BenchJob job, Atlas atlas)
    {
        return job
            .Now.Now.At.SelectMany(at =>
                atlas
                    .Checks.Where(c =>
                        c.On == job.Now.Parts[at.Value].Kind
                        && c.InVisit
                        && (c.OnlyWith is null || job.Intake.Contexts.Contains(c.OnlyWith))
                    )
                    .Select(c => new VisitPoint(c, job.Now.Parts[at.Value], at.Key, Answer(c, at.Value)))
            )
            .OrderBy(p => PartLook.Order(p.Place.Kind))
            .ThenBy(p => p.Place);

        bool? Answer(Check check, UnitId unit) =>
            job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().LastOrDefault(f => f.Check == check.Id && f.Unit == unit)?.Found;
    }
}
