using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Brings a part to the bench in the course of a job: from the shelf, or described here.</summary>
public sealed class PartModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, Shop shop)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>Shelf parts that this job does not have yet.</summary>
    public IReadOnlyList<Unit> Shelf { get; private set; } = [];

    /// <summary>The part that is described, as it stands in the form.</summary>
    public (UnitKind? Kind, string Name, string Serial, Origin Origin) Described { get; private set; } = (null, "", "", Origin.Shelf);

    /// <summary>The customer's part that it would replace, where that is held; null where it may come.</summary>
    public Unit? Held { get; private set; }

    /// <summary>Shows what can come in.</summary>
    public async Task OnGetAsync() => Shelf = [.. (await shop.ShelfAsync()).Where(u => !Job.Bench.Now.Parts.Has(u.Id))];

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        await OnGetAsync();
    }

    /// <summary>A part of the shelf comes in.</summary>
    public async Task<IActionResult> OnPostShelfAsync(string? unit, Guid stepId)
    {
        await ShowAsync();
        if (Shelf.FirstOrDefault(u => u.Id.Value == unit) is not { } part)
            return await RefusedAsync("That part is no longer on the shelf list. Choose another.");
        return await ArriveAsync(part, stepId);
    }

    /// <summary>A part that is described comes in.</summary>
    public async Task<IActionResult> OnPostAsync(UnitKind? kind, string? name, string? serial, Origin? origin, string? why, Guid stepId)
    {
        await ShowAsync();
        Described = (kind, name ?? "", serial ?? "", origin ?? Origin.Shelf);
        if (kind is not { } sort)
            return await RefusedAsync("Choose what kind of part it is.", "kind");
        try
        {
            var unit = UnitForm.Like(Job.Bench.Now, sort, FreeId(sort), name ?? "", origin ?? Origin.Shelf) with
            {
                Serial = serial?.Trim() ?? "",
            };
            Held = ReplacementGate.HeldAgainst(Job.Bench, unit, Rules.Atlas, Rules.Preferences);
            if (Held is { } held && !string.IsNullOrWhiteSpace(why))
                _ = await desk.RecordWordsAsync(
                    Number,
                    new GoAheadEntry(Guid.NewGuid(), held.Id, why),
                    null,
                    Attachments.None,
                    await DeskAsync(),
                    HttpContext.RequestAborted
                );
            return await ArriveAsync(unit, stepId);
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(UnitForm.Plainly(e));
        }
    }

    private async Task<IActionResult> ArriveAsync(Unit unit, Guid stepId)
    {
        try
        {
            var entry = new ArrivalEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, unit);
            var answer = await desk.RecordWordsAsync(Number, entry, null, Attachments.None, await DeskAsync(), HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}?said={answer.Job.Bench.Lines.Length}&pick={unit.Id}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    private UnitId FreeId(UnitKind kind)
    {
        for (var n = 1; ; n++)
        {
            var id = new UnitId($"extra-{Core.Text.Dashed.Of(kind)}-{n}");
            if (!Job.Bench.Now.Parts.Has(id))
                return id;
        }
    }
}
