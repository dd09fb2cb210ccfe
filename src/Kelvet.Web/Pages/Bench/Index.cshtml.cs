using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Signals;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The bench: the machine, the climb, the suspects, the next step, and recording what happened.</summary>
public sealed class IndexModel(JobStore store, DiagnosisCache readings, Visitor visitor, BenchState bench, SignalStore signals, Readers readers, LiveJobs live, TimeProvider clock) : JobPageModel(store, readings, visitor)
{
    [BindProperty(SupportsGet = true, Name = "do")]
    public string[] Do { get; set; } = [];

    [BindProperty(SupportsGet = true)]
    public string? Pick { get; set; }

    /// <summary>Id of the check whose outcome is asked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Check { get; set; }

    /// <summary>The unit that it is made on.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Checked { get; set; }

    /// <summary>The check and unit that are open; null when a start is recorded.</summary>
    public (Check Check, Unit Unit)? OpenCheck { get; private set; }

    /// <summary>Line of the first trial to compare.</summary>
    [BindProperty(SupportsGet = true)]
    public int? A { get; set; }

    /// <summary>Line of the second.</summary>
    [BindProperty(SupportsGet = true)]
    public int? B { get; set; }

    /// <summary>Two trials side by side; null when none or one is chosen.</summary>
    public Comparison? Comparison { get; private set; }

    /// <summary>Where the work stands between hands in and power on.</summary>
    public Gate Gate { get; private set; } = null!;

    /// <summary>The shop's readers of POST codes.</summary>
    public IReadOnlyList<ReaderRow> AllReaders { get; private set; } = [];

    /// <summary>What the readers in this machine show.</summary>
    public IReadOnlyList<ReaderView> ReaderViews { get; private set; } = [];

    /// <summary>What code, beeps and lights of the last start, or of the chosen one, say.</summary>
    public IReadOnlyList<CodeSign> BoardSays { get; private set; } = [];

    /// <summary>Whether the tables that the board goes by are known.</summary>
    public bool FamilyKnown => Rules.Atlas.Signals.FamilyOf(Job.Bench.Now.Board).Length > 0;

    /// <summary>How the board's name begins.</summary>
    public string MakerWord => Job.Bench.Now.Board?.Name.Split(' ')[0] ?? "";

    public IReadOnlyList<TimerRow> Timers { get; private set; } = [];

    /// <summary>The time, by which countdowns go.</summary>
    public DateTime NowUtc { get; } = clock.GetUtcNow().UtcDateTime;

    /// <summary>Where the machine differs from how it was received.</summary>
    public IReadOnlyList<Difference> NotBack => Comparison.Between(Job.Bench.Intake.Received, Job.Bench.Now.Now, Job.Bench.Now.Parts);

    /// <summary>Every place that was ever changed, as it was received and as it is now, and whether it is back.</summary>
    public IEnumerable<(Difference Place, bool IsBack)> PutBackList
    {
        get
        {
            var away = NotBack;
            var received = Job.Bench.Intake.Received;
            return away.Concat(Job.Bench.Trials.SelectMany(t => Comparison.Between(received, t.Situation.Now, Job.Bench.Now.Parts)))
                .DistinctBy(d => d.Where).Select(d => (d, away.All(a => a.Where != d.Where)));
        }
    }

    /// <summary>Countdowns that are started by hand: name, seconds and what they are for.</summary>
    public IReadOnlyList<(string Name, int Seconds, string Title)> HandTimersFor => HandTimers;

    private static readonly IReadOnlyList<(string Name, int Seconds, string Title)> HandTimers =
    [
        ("wait", 60, "from pressing start until \"no picture\" may be said; the first start after a change can take minutes"), ("CMOS pins", 20, "hold the clear pins, machine unplugged"),
        ("battery out", 120, "coin cell out, start pressed a few times"), ("power cycle", 30, "off and on again"), ("flash", 600, "never interrupt it"),
    ];

    /// <summary>Number of the line that was just recorded, to be told once.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Said { get; set; }

    public string? Problem { get; set; }

    /// <summary>Field of the form whose file cannot be used; empty when the problem is another one.</summary>
    public string ProblemField { get; private set; } = "";

    public PendingChanges Pending { get; private set; } = null!;

    /// <summary>What the pending changes would show; null before the first trial or when nothing is pending.</summary>
    public Assessment? Foreseen { get; private set; }

    /// <summary>What to mind with the pending changes; empty when nothing special.</summary>
    public string Caution => Pending.Changes.Length == 0 ? "" : Candidates.Of(Pending.Changes, Job.Bench.Now, Pending.After, Rules.Atlas).Caution;

    public Ceiling Ceiling { get; private set; } = null!;

    public Unit? Picked { get; private set; }

    public Guid NewStepId { get; } = Guid.NewGuid();

    /// <summary>A stage or range that one key or click records.</summary>
    /// <param name="Key">The key.</param>
    /// <param name="Seen">The range as recorded.</param>
    /// <param name="Words">What the technician sees.</param>
    public sealed record StageButton(char Key, string Seen, string Words);

    public static IReadOnlyList<StageButton> Stages { get; } =
    [
        new('0', "0", "dead, no standby"), new('1', "1", "standby only"), new('2', "2", "cuts out"), new('3', "3", "restart loop"),
        new('4', "4", "runs, no POST"), new('9', "4-5", "4 or 5, can't tell"), new('5', "5", "POST, no picture"),
        new('6', "6-8", "picture"), new('7', "7-8", "system loads"), new('8', "8", "stable"),
    ];

    public Task OnGetAsync() => PrepareAsync();

    public async Task<IActionResult> OnPostAsync(string seen, string? stall, ButtonTest? button, Signs signs, string? note, Guid stepId, int lines, IFormFile? photo, IFormFile? capture)
    {
        await PrepareAsync();
        if (!StageRange.TryParse(seen, out var range)) return Refused("Say which stage was reached, 0 to 8, or a range such as 4-5.");
        StallSignal? pointed = null;
        if (!string.IsNullOrEmpty(stall))
        {
            if (!Enum.TryParse<StallDomain>(stall, out var domain)) return Refused("Choose where the lights pointed from the list.");
            pointed = domain;
        }

        if (Gate.WhyBlocked is { } why) return Refused(why);
        if (!ModelState.IsValid) return Refused("One of the details cannot be read: waited is whole seconds, temperature degrees Celsius.");
        var (from, why2) = await CodeSign.ReadAsync(capture);
        if (why2 is not null) return Refused($"{why2} The start was not recorded: choose another capture, or none, and record it again.", "capture");
        var noted = CodeSign.Trimmed(signs);
        var entry = new TrialEntry(Id(stepId), Pending.Changes, range, pointed) { Note = note ?? "", Button = button, Signs = from is null ? noted : from.Into(noted, double.MaxValue) };
        return await RecordStartAsync(entry, lines, photo, capture?.FileName, from);
    }

    /// <summary>Records a start with the codes that readers showed of it; where it is refused, they stay with the start that is tried again.</summary>
    private async Task<IActionResult> RecordStartAsync(TrialEntry entry, int lines, IFormFile? photo, string? file, CodeLog? imported)
    {
        if (Job.Bench.Entries.Any(e => e.Id == entry.Id)) return Redirect($"/jobs/{Number}");
        var (signs, captures) = readers.Take(Number, entry.Signs);
        var recorded = await RecordAsync(entry with { Signs = signs }, lines, photo);
        if (recorded is not RedirectResult)
        {
            readers.PutBack(Number, captures);
            return recorded;
        }

        if (imported is not null) captures = [.. captures, ($"file {Text.Cut(file ?? "", 60)}", imported)];
        foreach (var (source, codes) in captures) await signals.KeepCaptureAsync(Job.Row.Id, entry.Id, source, codes);
        await bench.PowerAsync(Number, Power.On, HttpContext.RequestAborted);
        await bench.StopTimerAsync(Job.Row.Id, "wait", HttpContext.RequestAborted);
        return recorded;
    }

    /// <summary>Plugs a reader of POST codes into this machine, or takes it out.</summary>
    public async Task<IActionResult> OnPostReaderAsync(int reader, bool @out)
    {
        await PrepareAsync();
        await signals.PlugAsync(reader, @out ? null : Number);
        await readers.ReloadAsync();
        return BackToBench();
    }

    /// <summary>Supply off, lead out, start held: the drain begins.</summary>
    public async Task<IActionResult> OnPostOffAsync()
    {
        await PrepareAsync();
        await bench.PowerAsync(Number, Power.Off, HttpContext.RequestAborted);
        readers.MachineStopped(Number);
        await bench.StartTimerAsync(Number, "drain", Rules.DrainSeconds, HttpContext.RequestAborted);
        return BackToBench();
    }

    /// <summary>Nothing loose, cooler on, lead in: power on.</summary>
    public async Task<IActionResult> OnPostOnAsync()
    {
        await PrepareAsync();
        if (Gate.WhyBlocked is { } why) return Refused(why);
        if (Gate.Step == GateStep.WaitForDrain) return Refused("It is still draining. Wait for the countdown.");
        if (Gate.Step == GateStep.TakePowerOff) return Refused("Hands go in first: take the power off, then drain.");
        await bench.PowerAsync(Number, Power.OnAgain, HttpContext.RequestAborted);
        await bench.StopTimerAsync(Job.Row.Id, "drain", HttpContext.RequestAborted);
        await bench.StartTimerAsync(Number, "wait", 60, HttpContext.RequestAborted);
        readers.MachineStarted(Number);
        return BackToBench();
    }

    /// <summary>Line of the last start when it leaves open whether POST completed and the button was not tried; null otherwise.</summary>
    public int? Undecided => Job.Row.Power == Power.On && Job.Bench.Trials.LastOrDefault() is { } last && last.Number == Job.Bench.Lines.Length && last.Entry.Button is null
        && last.Seen.Low < BootStage.PostNoPicture && last.Seen.High >= BootStage.PostNoPicture && !last.Seen.ShowsPicture ? last.Number : null;

    /// <summary>What the power button did after the last start: the line is corrected by it.</summary>
    public async Task<IActionResult> OnPostButtonAsync(ButtonTest button, int line, Guid stepId)
    {
        await PrepareAsync();
        if (Undecided != line) return Refused("That start has been followed by another line. Correct it in the log.");
        var start = Job.Bench.Trials[^1].Entry;
        var corrected = new TrialEntry(Guid.NewGuid(), start.Changes, start.Seen, start.Stall) { Button = button, Signs = start.Signs, Note = start.Note, By = start.By, At = start.At };
        return await RecordAsync(new StrikeEntry(Id(stepId), Job.Bench.Lines[line - 1].Written.Id, "Power-button test after the start.", corrected), Job.Bench.Lines.Length, null);
    }

    /// <summary>Starts a countdown, or stops it.</summary>
    public async Task<IActionResult> OnPostTimerAsync(string name, int seconds)
    {
        await PrepareAsync();
        if (seconds == 0) await bench.StopTimerAsync(Job.Row.Id, name, HttpContext.RequestAborted);
        else if (HandTimers.Any(t => t.Name == name)) await bench.StartTimerAsync(Number, name, seconds, HttpContext.RequestAborted);
        else return Refused($"There is no timer \"{Text.Cut(name, 40)}\".");
        return BackToBench();
    }

    /// <summary>Tells the other benches; the one that did it names itself and knows already.</summary>
    private void Tell(string what) => live.Tell(Number, $"{what} {Request.Headers["X-Bench"]}");

    private RedirectResult BackToBench()
    {
        Tell("bench");
        var address = PendingChanges.Address(Number, Pending.Changes);
        return Redirect(OpenCheck is { } open ? $"/jobs/{Number}?check={open.Check.Id}&checked={open.Unit.Id}" : address);
    }

    public async Task<IActionResult> OnPostFindingAsync(bool found, string? note, Guid stepId, int lines, IFormFile? photo)
    {
        await PrepareAsync();
        if (OpenCheck is not { } open) return Refused("That check is not known here. Take the step again.");
        return await RecordAsync(new FindingEntry(Id(stepId), open.Check.Id, open.Unit.Id, found) { Note = note ?? "" }, lines, photo);
    }

    public async Task<IActionResult> OnPostWorkAsync(string? note, Guid stepId, int lines, IFormFile? photo)
    {
        await PrepareAsync();
        Entry entry = Pending.Changes.Length > 0 ? new WorkEntry(Id(stepId), Pending.Changes) : new NoteEntry(Id(stepId));
        return await RecordAsync(entry with { Note = note ?? "" }, lines, photo);
    }

    private async Task<IActionResult> RecordAsync(Entry entry, int lines, IFormFile? photo)
    {
        if (Pending.Problem is not null) return Refused(Pending.Problem);
        if (Job.Bench.Entries.Any(e => e.Id == entry.Id)) return Redirect($"/jobs/{Number}");
        if (lines != Job.Bench.Lines.Length)
        {
            return Refused($"Meanwhile line {Job.Bench.Lines.Length} was recorded from another bench. Your changes are kept below: check them against the machine and record again.");
        }

        byte[]? jpeg = null;
        if (photo is { Length: > 0 })
        {
            (jpeg, var why) = await ReadAsync(photo);
            if (why is not null) return Refused($"{why} The step was not recorded: choose another photo, or none, and record it again.", "photo");
        }

        try
        {
            var stored = await Store.AppendAsync(Number, entry with { By = Visitor.Name }, HttpContext.RequestAborted);
            if (jpeg is not null) await bench.AddPhotoAsync(stored.Row.Id, entry.Id, jpeg, HttpContext.RequestAborted);
            Tell("line");
            return Redirect($"/jobs/{Number}?said={stored.Bench.Lines.Length}");
        }
        catch (EntryRefusedException e)
        {
            return Refused(e.Message);
        }
    }

    private static async Task<(byte[]? Jpeg, string? Why)> ReadAsync(IFormFile photo)
    {
        if (photo.Length > Photos.MostBytes) return Photos.Clean(new byte[Photos.MostBytes + 1]);
        using var memory = new MemoryStream();
        await photo.CopyToAsync(memory);
        return Photos.Clean(memory.ToArray());
    }

    private PageResult Refused(string why, string field = "")
    {
        (Problem, ProblemField) = (why, field);
        return Page();
    }

    private static Guid Id(Guid sent) => sent == Guid.Empty ? Guid.NewGuid() : sent;

    private async Task PrepareAsync()
    {
        Pending = PendingChanges.Read(Job.Bench, Do);
        Problem = Pending.Problem;
        Ceiling = Ceiling.Of(Pending.After);
        Timers = await bench.TimersAsync(Job.Row.Id, HttpContext.RequestAborted);
        if (A is { } a && B is { } b) Comparison = Comparison.Of(Reading.Diagnosis, a, b);
        if (Pending.Changes.Length > 0 && Job.Bench.Trials.Length > 0) Foreseen = Planner.Foresee(Reading.Diagnosis, Pending.Changes);
        if (Atlas.Standard.Check(Check ?? "") is { } check && UnitId.IsValid(Checked) && Job.Bench.Now.Parts.Find(new UnitId(Checked!)) is { } unit && unit.Kind == check.On)
            OpenCheck = (check, unit);
        Gate = Gate.Of(Job, Pending, OpenCheck?.Check, Rules.DrainSeconds, NowUtc);
        AllReaders = await signals.ReadersAsync();
        var library = Rules.Atlas.Signals;
        ReaderViews = readers.Shown(Number, library, library.FamilyOf(Pending.After.Board));
        if ((A is { } chosen && B is null ? Job.Bench.Trials.FirstOrDefault(t => t.Number == chosen) : Job.Bench.Trials.LastOrDefault()) is { } start) BoardSays = CodeSign.Of(start, Reading.Diagnosis);
        Picked = UnitId.IsValid(Pick) ? Job.Bench.Now.Parts.Find(new UnitId(Pick!)) : null;
    }
}
