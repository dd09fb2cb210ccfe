using Kelvet.Core.Machines;
using Kelvet.Core.Tables;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Takes a machine in.</summary>
public sealed class NewModel(JobStore store, Shop shop, HouseRules house, Visitor visitor) : FormPage, ITellsFields
{
    [BindProperty]
    public IntakeForm Form { get; set; } = new();

    public IReadOnlyList<Unit> Shelf { get; private set; } = [];

    /// <summary>The tables that a board may go by.</summary>
    public SignalLibrary Signals { get; private set; } = SignalLibrary.Standard;

    /// <summary>An ordinary office machine, to be changed to what came in.</summary>
    public async Task OnGetAsync()
    {
        await ShowAsync();
        Form = IntakeForm.Usual();
        Form.Spares = [.. Shelf.Select(u => u.Id.Value)];
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        Signals = (await house.CurrentAsync()).Atlas.Signals;
        Shelf = await shop.ShelfAsync();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        await ShowAsync();
        foreach (var (field, state) in ModelState.Where(s => s.Value?.Errors.Count > 0))
            Form.Wrong[field.Replace("Form.", "", StringComparison.Ordinal)] = $"\"{state!.AttemptedValue}\" cannot be read here.";
        if (Form.Open(Shelf) is not { } job)
            return Page();
        return Redirect($"/jobs/{await store.OpenAsync(job, visitor.Name, cancel: HttpContext.RequestAborted)}");
    }
}
