using Kelvet.Core.Machines;
using Kelvet.Core.Tables;
using Kelvet.Data;
using Kelvet.Web.Drawing;
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

    /// <summary>The machine as the form describes it so far; null while it describes none.</summary>
    public DrawingView? Picture()
    {
        // What is drawn needs no title yet, and says nothing of what is wrong.
        var (title, wrong) = (Form.Title, Form.Wrong.ToArray());
        Form.Title = string.IsNullOrWhiteSpace(title) ? "-" : title;
        Form.Wrong.Clear();
        var job = Form.Open([]);
        Form.Title = title;
        Form.Wrong.Clear();
        foreach (var (field, words) in wrong)
            Form.Wrong[field] = words;
        return job is null ? null : DrawingView.Of(job.Now, null);
    }

    /// <summary>The picture of the machine as the form describes it, and nothing else.</summary>
    public IActionResult OnPostPicture() => Picture() is { } picture ? Partial("_Drawing", picture) : new NoContentResult();

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
