using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The case against one unit: its faults, the proof, and what each step said.</summary>
public sealed class UnitModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live)
    : JobPageModel(store, readings, visitor)
{
    public Unit Unit { get; private set; } = null!;

    public Suspect Suspect { get; private set; } = null!;

    public ImmutableArray<Weight> Weights { get; private set; }

    public IActionResult OnGet(string id) => Find(id) ? Page() : NotFound();

    /// <summary>Goes past what holds the part from being replaced, with a reason.</summary>
    public async Task<IActionResult> OnPostGoAheadAsync(string id, string? reason, Guid stepId)
    {
        await ReadAsync();
        if (!Find(id))
            return NotFound();
        try
        {
            var entry = new GoAheadEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, Unit.Id, reason ?? "");
            _ = await desk.RecordWordsAsync(Number, entry, null, Attachments.None, await DeskAsync(), HttpContext.RequestAborted);
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/unit/{id}");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "reason");
        }
    }

    private bool Find(string id)
    {
        if (Reading.Diagnosis.Suspects.FirstOrDefault(s => s.Unit.Id.Value == id) is not { } suspect)
            return false;
        Suspect = suspect;
        Unit = suspect.Unit;
        Weights = Weight.On(Reading.Diagnosis, Unit.Id);
        return true;
    }
}
