using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>What is to be ordered, on its way, and to go back; and who sells to the shop.</summary>
public sealed class OrdersModel(Orders orders, Shop shop, HouseRules house, Visitor visitor) : FormPage
{
    /// <summary>A part of the shelf of which more is to be got; null for none.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Shelf { get; set; }

    /// <summary>Whether those that are done with are shown too.</summary>
    [BindProperty(SupportsGet = true)]
    public bool All { get; set; }

    /// <summary>The orders.</summary>
    public IReadOnlyList<(OrderRow Row, Unit Unit)> Rows { get; private set; } = [];

    /// <summary>Sellers.</summary>
    public IReadOnlyList<SupplierRow> Suppliers { get; private set; } = [];

    /// <summary>The part of the shelf that more is got of.</summary>
    public Unit? More { get; private set; }

    /// <summary>What is to be sent to each seller.</summary>
    public IReadOnlyList<(string Supplier, string Email, string Message)> ToSend { get; private set; } = [];

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        var cancel = HttpContext.RequestAborted;
        Rows = await orders.ListAsync(All, cancel);
        Suppliers = await orders.SuppliersAsync(cancel);
        More = Shelf is { } id ? (await shop.WholeShelfAsync()).Parts.FirstOrDefault(p => p.Row.Id == id).Unit : null;
        var name = (await shop.RowAsync()).Name;
        ToSend =
        [
            .. Rows.Where(r => r.Row is { State: OrderState.ToSend, Kind: OrderKind.Buy })
                .GroupBy(r => r.Row.Supplier)
                .Select(g =>
                    (
                        g.Key,
                        Suppliers.FirstOrDefault(s => s.Name == g.Key)?.Email ?? "",
                        OrderText.Message(g.Select(o => LineOf(o.Row, o.Unit)), name)
                    )
                ),
        ];
    }

    private static OrderLine LineOf(OrderRow row, Unit unit) =>
        new(row.Id, unit.Kind, unit.Name, row.Pieces, row.Needs, row.Price is { } cents ? cents / 100m : null);

    /// <summary>What is to be sent, as CSV.</summary>
    public async Task<IActionResult> OnGetCsvAsync()
    {
        await ShowAsync();
        var lines = Rows.Where(r => r.Row is { State: OrderState.ToSend, Kind: OrderKind.Buy }).Select(r => LineOf(r.Row, r.Unit));
        return File(Encoding.UTF8.GetBytes(OrderText.Csv(lines)), "text/csv; charset=utf-8", "orders.csv");
    }

    /// <summary>Orders something for the shelf.</summary>
    public async Task<IActionResult> OnPostAsync(
        UnitKind? kind,
        string? name,
        string? supplier,
        decimal? price,
        int? pieces,
        DateOnly? expected
    )
    {
        await ShowAsync();
        if (kind is not { } sort || !ShelfModel.Kinds.Contains(sort))
            return await RefusedAsync("Choose a kind from the list.", "kind");
        try
        {
            // More of what lies there is the same part; anything else is a new one, for sale before it is a spare.
            var unit =
                More is { } more && more.Kind == sort && more.Name == name?.Trim()
                    ? more
                    : UnitForm.Like(
                        Situation.AtIntake(Parts.None, Configuration.Empty),
                        sort,
                        new UnitId($"ordered-{Guid.NewGuid():N}"),
                        name ?? "",
                        Origin.New
                    );
            await orders.AddAsync(
                new Wanted(unit, null, supplier?.Trim() ?? "", price, pieces ?? 1, expected, "", "for the shelf"),
                await UnderAsync(),
                HttpContext.RequestAborted
            );
            return Redirect("/orders");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? UnitForm.Plainly(wrong) : e.Message);
        }
    }

    /// <summary>An order goes a step on.</summary>
    public async Task<IActionResult> OnPostStepAsync(int? order, OrderState? to, string? wrong, decimal? charged)
    {
        if (order is not { } id || to is not { } state)
            return await RefusedAsync("Choose an order and what becomes of it.");
        try
        {
            var row = await orders.StepAsync(id, state, wrong?.Trim() ?? "", charged, await UnderAsync(), HttpContext.RequestAborted);
            house.Changed();
            return Redirect(state == OrderState.Arrived && row.JobNumber is { } job ? $"/jobs/{job}" : "/orders");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message, "wrong");
        }
    }

    private async Task<DeskRules> UnderAsync()
    {
        var rules = await house.CurrentAsync();
        return new DeskRules(visitor.Name, rules.Set, rules.Drain) { Preferences = rules.Preferences };
    }

    /// <summary>Keeps a seller.</summary>
    public async Task<IActionResult> OnPostSellerAsync(string? seller, string? email, string? phone, int? returnDays)
    {
        try
        {
            await orders.KeepSupplierAsync(
                seller?.Trim() ?? "",
                email?.Trim() ?? "",
                phone?.Trim() ?? "",
                returnDays,
                HttpContext.RequestAborted
            );
            return Redirect("/orders");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message, "seller");
        }
    }
}
