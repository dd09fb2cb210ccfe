using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <summary>How a step is done by hand: its procedure, ticked step by step, beside the machine.</summary>
public sealed class HowModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live, TimeProvider clock)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>Id of the procedure.</summary>
    [BindProperty(SupportsGet = true)]
    public string Procedure { get; set; } = "";

    /// <summary>Where to go back to: the bench with what is pending.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    /// <summary>The procedure.</summary>
    public Procedure? Shown => Procedures.Find(Procedure);

    /// <summary>When the page was opened, for the minutes that it took.</summary>
    public DateTime OpenedUtc { get; } = clock.GetUtcNow().UtcDateTime;

    /// <summary>The bench of this job, with what is pending; no address of elsewhere is followed.</summary>
    public string Bench =>
        Back is { } back && (back == $"/jobs/{Number}" || back.StartsWith($"/jobs/{Number}?", StringComparison.Ordinal))
            ? back
            : $"/jobs/{Number}";

    /// <summary>Shows it.</summary>
    public IActionResult OnGet() => Shown is null ? NotFound() : Page();

    /// <summary>Records that it was carried out, with what was skipped.</summary>
    public async Task<IActionResult> OnPostAsync(List<int>? done, DateTime? opened, Guid stepId)
    {
        if (!Slug.IsValid(Procedure) || Shown is not { } procedure)
            return NotFound();
        var ticked = (done ?? []).ToHashSet();
        ImmutableArray<int> skipped = [.. Enumerable.Range(1, procedure.Steps.Length).Where(i => !ticked.Contains(i))];
        if (skipped.Length == procedure.Steps.Length)
            return await RefusedAsync("Tick what was done. Nothing was, so nothing is recorded.");
        var minutes = opened is { } from ? (clock.GetUtcNow().UtcDateTime - from.ToUniversalTime()).TotalMinutes : (double?)null;
        try
        {
            _ = await desk.RecordWordsAsync(
                Number,
                new ProcedureEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, procedure.Id, skipped)
                {
                    Minutes = minutes is >= 0 and <= 1440 ? Math.Max(0.1, Math.Round(minutes.Value, 1)) : null,
                },
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect(Bench);
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
