using Kelvet.Core.Machines;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>A part of the shelf: what is kept of it, and its label.</summary>
public sealed class ShelfPartModel(Shop shop, HouseRules house) : FormPage, IFindsItself
{
    /// <summary>Its row.</summary>
    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    public ShelfRow Row { get; private set; } = null!;

    /// <summary>Numbers of the jobs in whose machines it is.</summary>
    public IReadOnlyList<int> In { get; private set; } = [];

    public Unit Unit { get; private set; } = null!;

    /// <summary>Where this page is, for the label.</summary>
    public string Address => $"{Request.Scheme}://{Request.Host}/shelf/{Id}";

    /// <inheritdoc/>
    public async Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        if ((await shop.WholeShelfAsync()).Parts.Where(p => p.Row.Id == Id).ToArray() is not [var (row, unit)])
            return NotFound();
        (Row, Unit) = (row, unit);
        In = [.. (await shop.UsesAsync())[Id]];
        return null;
    }

    /// <summary>Shows it.</summary>
    public void OnGet() { }

    /// <inheritdoc/>
    protected override async Task ShowAsync() => await FindAsync(HttpContext.RequestAborted);

    /// <summary>Keeps what was changed.</summary>
    public async Task<IActionResult> OnPostAsync(
        string? name,
        string? serial,
        int? quantity,
        ShelfCondition? condition,
        int? watts,
        int? plugs
    )
    {
        if (quantity is not { } many || many is < 0 or > ShelfModel.Most)
            return await RefusedAsync($"How many: 0 to {ShelfModel.Most}.", "quantity");
        if (condition is not { } how)
            return await RefusedAsync("Choose a condition from the list.", "condition");
        try
        {
            var unit = Unit with { Name = name ?? "", Serial = serial?.Trim() ?? "", Watts = watts, Plugs = plugs };
            // What the bench made of its trust holds until somebody says otherwise.
            await shop.ChangeShelfAsync(Id, r => (r.Quantity, r.Why, r.Condition) = (many, r.Condition == how ? r.Why : "", how), unit);
            house.Changed();
            return Redirect("/shelf");
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(UnitForm.Plainly(e));
        }
    }

    /// <summary>Takes it out of use, or back into it.</summary>
    public async Task<IActionResult> OnPostRetireAsync()
    {
        await shop.ChangeShelfAsync(Id, r => r.Retired = !r.Retired);
        house.Changed();
        return Redirect("/shelf");
    }
}
