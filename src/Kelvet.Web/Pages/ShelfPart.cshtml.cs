using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>A part of the shelf: what is kept of it, and its label.</summary>
public sealed class ShelfPartModel(Shop shop, HouseRules house, Visitor visitor) : FormPage, IFindsItself
{
    /// <summary>Its row.</summary>
    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    public ShelfRow Row { get; private set; } = null!;

    /// <summary>Numbers of the jobs in whose machines it is.</summary>
    public IReadOnlyList<int> In { get; private set; } = [];

    public Unit Unit { get; private set; } = null!;

    /// <summary>What happened to it, in order.</summary>
    public IReadOnlyList<PartMove> Moves { get; private set; } = [];

    /// <summary>What follows from that.</summary>
    public PartLife Life { get; private set; } = PartLife.Of([]);

    /// <summary>What closed jobs say of its model; null where they say too little.</summary>
    public ModelRate? Rate { get; private set; }

    /// <summary>Where this page is, for the label.</summary>
    public string Address => $"{Request.Scheme}://{Request.Host}/shelf/{Id}";

    /// <inheritdoc/>
    public async Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        if ((await shop.WholeShelfAsync()).Parts.Where(p => p.Row.Id == Id).ToArray() is not [var (row, unit)])
            return NotFound();
        (Row, Unit) = (row, unit);
        In = [.. (await shop.UsesAsync())[Id]];
        Moves = await shop.MovesAsync(Id);
        Life = PartLife.Of(Moves);
        Rate = (await house.CurrentAsync()).ModelOf(unit);
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
        int? plugs,
        string? position,
        int? reorderAt
    )
    {
        if (quantity is not { } many || many is < 0 or > ShelfModel.Most)
            return await RefusedAsync($"How many: 0 to {ShelfModel.Most}.", "quantity");
        if (condition is not { } how)
            return await RefusedAsync("Choose a condition from the list.", "condition");
        if (position?.Trim() is { Length: > ShelfModel.LongestPosition })
            return await RefusedAsync($"Where it lies, in at most {ShelfModel.LongestPosition} characters.", "position");
        if (reorderAt is < 0 or > ShelfModel.Most)
            return await RefusedAsync($"More are got at 0 to {ShelfModel.Most}, or leave it empty.", "reorderAt");
        try
        {
            var unit = Unit with { Name = name ?? "", Serial = serial?.Trim() ?? "", Watts = watts, Plugs = plugs };
            // What the bench made of its trust holds until somebody says otherwise.
            await shop.ChangeShelfAsync(
                Id,
                r =>
                {
                    (r.Quantity, r.Why, r.Condition) = (many, r.Condition == how ? r.Why : "", how);
                    (r.Position, r.ReorderAt) = (position?.Trim() ?? "", reorderAt);
                },
                visitor.Name,
                unit
            );
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
        await shop.ChangeShelfAsync(Id, r => r.Retired = !r.Retired, visitor.Name);
        house.Changed();
        return Redirect("/shelf");
    }
}
