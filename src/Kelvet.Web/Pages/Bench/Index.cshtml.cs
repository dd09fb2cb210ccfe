using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The bench: the machine, the climb, the suspects, the next step, and recording what happened.</summary>
public sealed class IndexModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
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

    /// <summary>Number of the line that was just recorded, to be told once.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Said { get; set; }

    public string? Problem { get; set; }

    public PendingChanges Pending { get; private set; } = null!;

    /// <summary>What the pending changes would show; null before the first trial or when nothing is pending.</summary>
    public Assessment? Foreseen { get; private set; }

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

    public void OnGet() => Prepare();

    public async Task<IActionResult> OnPostAsync(string seen, string? stall, string? note, Guid stepId, int lines)
    {
        Prepare();
        if (!StageRange.TryParse(seen, out var range)) return Refused("Say which stage was reached, 0 to 8, or a range such as 4-5.");
        StallSignal? pointed = null;
        if (!string.IsNullOrEmpty(stall))
        {
            if (!Enum.TryParse<StallDomain>(stall, out var domain)) return Refused("Choose where the lights pointed from the list.");
            pointed = domain;
        }

        return await RecordAsync(new TrialEntry(Id(stepId), Pending.Changes, range, pointed) { Note = note ?? "" }, lines);
    }

    public async Task<IActionResult> OnPostFindingAsync(bool found, string? note, Guid stepId, int lines)
    {
        Prepare();
        if (OpenCheck is not { } open) return Refused("That check is not known here. Take the step again.");
        return await RecordAsync(new FindingEntry(Id(stepId), open.Check.Id, open.Unit.Id, found) { Note = note ?? "" }, lines);
    }

    public Task<IActionResult> OnPostWorkAsync(string? note, Guid stepId, int lines)
    {
        Prepare();
        Entry entry = Pending.Changes.Length > 0 ? new WorkEntry(Id(stepId), Pending.Changes) : new NoteEntry(Id(stepId));
        return RecordAsync(entry with { Note = note ?? "" }, lines);
    }

    private async Task<IActionResult> RecordAsync(Entry entry, int lines)
    {
        if (Pending.Problem is not null) return Refused(Pending.Problem);
        if (Job.Bench.Entries.Any(e => e.Id == entry.Id)) return Redirect($"/jobs/{Number}");
        if (lines != Job.Bench.Lines.Length)
        {
            return Refused($"Meanwhile line {Job.Bench.Lines.Length} was recorded from another bench. Your changes are kept below: check them against the machine and record again.");
        }

        try
        {
            var stored = await Store.AppendAsync(Number, entry with { By = Visitor.Name }, HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}?said={stored.Bench.Lines.Length}");
        }
        catch (EntryRefusedException e)
        {
            return Refused(e.Message);
        }
    }

    private PageResult Refused(string why)
    {
        Problem = why;
        return Page();
    }

    private static Guid Id(Guid sent) => sent == Guid.Empty ? Guid.NewGuid() : sent;

    private void Prepare()
    {
        Pending = PendingChanges.Read(Job.Bench, Do);
        Problem = Pending.Problem;
        Ceiling = Ceiling.Of(Pending.After);
        if (Pending.Changes.Length > 0 && Job.Bench.Trials.Length > 0) Foreseen = Planner.Foresee(Reading.Diagnosis, Pending.Changes);
        if (Atlas.Standard.Check(Check ?? "") is { } check && UnitId.IsValid(Checked) && Job.Bench.Now.Parts.Find(new UnitId(Checked!)) is { } unit && unit.Kind == check.On)
            OpenCheck = (check, unit);
        Picked = UnitId.IsValid(Pick) ? Job.Bench.Now.Parts.Find(new UnitId(Pick!)) : null;
    }
}
