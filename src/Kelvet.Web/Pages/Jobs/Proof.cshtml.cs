using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>How many clean starts prove a repair, counted with one key.</summary>
public sealed class ProofModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    BenchState bench,
    LiveJobs live,
    TimeProvider clock
) : JobPageModel(store, readings, visitor)
{
    /// <summary>Name of the timer of a rest.</summary>
    private const string Rest = "rest";

    /// <summary>The counts.</summary>
    public ProofByStarts Proof { get; private set; } = null!;

    /// <summary>How sure the shop asks to be, 0.5 to below 1.</summary>
    public double Asked => Rules.Preferences.Sure;

    /// <summary>The kind of start that is counted next.</summary>
    [BindProperty(SupportsGet = true)]
    public StartKind? Kind { get; set; }

    /// <summary>Number of the last start, where it failed after clean ones; null otherwise.</summary>
    public int? Broken { get; private set; }

    /// <summary>The clean starts in a row: their lines and what was seen.</summary>
    public IReadOnlyList<(int Line, string Words)> Run { get; private set; } = [];

    /// <summary>Minutes of a rest that let it get cold.</summary>
    public int RestMinutes => (int)Math.Ceiling(Rules.Atlas.Work.Rest.Value);

    /// <summary>When the rest is over, UTC; null without one.</summary>
    public DateTime? RestEnds { get; private set; }

    /// <summary>Now, UTC.</summary>
    public DateTime NowUtc => clock.GetUtcNow().UtcDateTime;

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        var job = Job.Bench;
        Proof = ProofByStarts.Of(job);
        Kind ??= job.Intake.Complaint.When ?? StartKind.Warm;
        var clean = Intermittence.CleanRun(job);
        var lines = new List<(int, string)>();
        foreach (var t in clean)
            lines.Add((t.Number, $"{t.Kind.Words()}{(t.Entry.At == default ? "" : $", {await Visitor.TimeAsync(t.Entry.At)}")}"));
        Run = lines;
        if (job.Trials is [.., { Passed: true } before, { Failed: true } last] && before.Situation.IsSameAs(last.Situation))
            Broken = last.Ordinal;
        RestEnds = (await bench.TimersAsync(Job.Row.Id)).FirstOrDefault(t => t.Name == Rest) is { } rest
            ? rest.StartedAtUtc.AddSeconds(rest.Seconds)
            : null;
    }

    /// <summary>Counts a clean start: told as started again, and recorded.</summary>
    public async Task<IActionResult> OnPostCleanAsync(StartKind? kind, Guid stepId)
    {
        await ReadAsync();
        var rules = await DeskAsync();
        var entry = new TrialEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, [], StageRange.AtLeast(Job.Bench.Goal)) { Kind = kind };
        entry = entry with { Followed = await IsFollowedAsync(entry) };
        try
        {
            if (!Job.Bench.Has(entry.Id))
            {
                var started = await desk.StartAgainAsync(Number, [], rules, HttpContext.RequestAborted);
                if (started.Refused is { } refused)
                    return await RefusedAsync(refused.Words());
                var answer = await desk.RecordStartAsync(Number, entry, null, Attachments.None, rules, HttpContext.RequestAborted);
                if (answer.Refused is { } not)
                    return await RefusedAsync(not.Words());
                live.Tell(Number, "line");
            }

            return Redirect($"/jobs/{Number}/proof?kind={kind}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Asks for a proof both ways, or accepts one side.</summary>
    public async Task<IActionResult> OnPostChooseAsync(string? unit, bool? twoWay, string? reason, string? back, Guid stepId)
    {
        await ReadAsync();
        if (unit is null || !UnitId.IsValid(unit) || !Job.Bench.Now.Parts.Has(new UnitId(unit)) || twoWay is null)
            return await RefusedAsync("Say which part it is, and whether it is to be proved both ways.", "unit");
        if (reason?.Length > Entry.LongestNote)
            return await RefusedAsync($"The reason has {reason.Length} characters; {Entry.LongestNote} are the most.", "reason");
        try
        {
            _ = await desk.RecordWordsAsync(
                Number,
                new ProofChoiceEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, new UnitId(unit), twoWay.Value)
                {
                    Note = reason?.Trim() ?? "",
                },
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect(
                back switch
                {
                    "close" => $"/jobs/{Number}/close",
                    "proof" => $"/jobs/{Number}/proof",
                    _ => $"/jobs/{Number}",
                }
            );
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Starts the rest that makes the next start a cold one.</summary>
    public async Task<IActionResult> OnPostRestAsync()
    {
        await ReadAsync();
        await desk.StartTimerAsync(Number, Rest, RestMinutes * 60, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/proof?kind={StartKind.Cold}");
    }
}
