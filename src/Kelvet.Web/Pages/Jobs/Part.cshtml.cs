using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Brings a part to the bench in the course of a job: from the shelf, or described here.</summary>
public sealed class PartModel(JobStore store, DiagnosisCache readings, Visitor visitor, Shop shop) : JobPageModel(store, readings, visitor)
{
    /// <summary>Shelf parts that this job does not have yet.</summary>
    public IReadOnlyList<Unit> Shelf { get; private set; } = [];

    public string? Problem { get; private set; }

    public async Task OnGetAsync() => Shelf = [.. (await shop.ShelfAsync()).Where(u => !Job.Bench.Now.Parts.Has(u.Id))];

    public async Task<IActionResult> OnPostShelfAsync(string unit, Guid stepId)
    {
        await OnGetAsync();
        if (Shelf.FirstOrDefault(u => u.Id.Value == unit) is not { } part) return Problematic("That part is no longer on the shelf list. Choose another.");
        return await ArriveAsync(part, stepId);
    }

    public async Task<IActionResult> OnPostAsync(UnitKind kind, string? name, string? serial, Origin origin, Guid stepId)
    {
        await OnGetAsync();
        try
        {
            var unit = UnitForm.Like(Job.Bench.Now, kind, FreeId(kind), name ?? "", origin) with { Serial = serial?.Trim() ?? "" };
            return await ArriveAsync(unit, stepId);
        }
        catch (ArgumentException e)
        {
            return Problematic(UnitForm.Plainly(e));
        }
    }

    private async Task<IActionResult> ArriveAsync(Unit unit, Guid stepId)
    {
        try
        {
            var stored = await Store.AppendAsync(Number, new ArrivalEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, unit) { By = Visitor.Name }, HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}?said={stored.Bench.Lines.Length}&pick={unit.Id}");
        }
        catch (EntryRefusedException e)
        {
            return Problematic(e.Message);
        }
    }

    private UnitId FreeId(UnitKind kind)
    {
        for (var n = 1; ; n++)
        {
            var id = new UnitId($"extra-{Core.Files.DataPart.Dashed(kind)}-{n}");
            if (!Job.Bench.Now.Parts.Has(id)) return id;
        }
    }

    private PageResult Problematic(string why)
    {
        Problem = why;
        return Page();
    }
}
