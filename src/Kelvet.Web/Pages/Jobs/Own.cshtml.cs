using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A machine that is the shop's own: what it has cost, what it brings, and what its parts would.</summary>
public sealed class OwnMachineModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, Shop shop, JobSums sums)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>What it cost and what is asked for it; nothing where it is a customer's.</summary>
    public DropOff Own { get; private set; } = DropOff.Nothing;

    /// <summary>The figures; null where it is a customer's.</summary>
    public Resale? Resale { get; private set; }

    /// <summary>The shop's currency.</summary>
    public Currency Currency { get; private set; } = BillingTerms.Usual.Currency;

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync()
    {
        Own = DropOff.Of(Job.Row);
        Currency = (await shop.TermsAsync()).Currency;
        if (Own.Bought is not { } bought)
            return;
        var toCome = 0m;
        if (!Job.IsClosed && Job.Bench.Trials.Length > 0)
        {
            var worth = Worth.Of(Reading.Diagnosis, Reading.Advice.Economy?.Expected?.Value, null, Rules.Preferences);
            toCome = worth.Ways.Where(w => w.Way != WayOut.GiveBack).Select(w => (decimal)w.Cost.Used).DefaultIfEmpty(0).Min();
        }

        Resale = Resale.Of(
            Job.Bench,
            Found,
            bought,
            Own.Asking,
            toCome,
            await sums.CostAsync(this, HttpContext.RequestAborted),
            Rules.Atlas,
            Rules.Preferences
        );
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        await OnGetAsync();
    }

    /// <summary>Says what it cost and what is asked for it.</summary>
    public async Task<IActionResult> OnPostAsync(decimal? bought, decimal? asking)
    {
        try
        {
            _ = await desk.OwnAsync(Number, bought, asking, HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}/own");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message, "bought");
        }
    }

    /// <summary>Its parts go to the shelf.</summary>
    public async Task<IActionResult> OnPostPartAsync(string[]? units)
    {
        await ReadAsync();
        if (units is null or [] || units.Any(u => !UnitId.IsValid(u)))
            return await RefusedAsync("Tick the parts that go to the shelf.", "units");
        try
        {
            _ = await desk.PartOutAsync(Number, [.. units.Select(u => new UnitId(u))], await DeskAsync(), HttpContext.RequestAborted);
            return Redirect("/shelf");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message, "units");
        }
    }
}
