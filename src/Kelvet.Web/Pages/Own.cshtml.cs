using Kelvet.Core.Billing;
using Kelvet.Data;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Pages;

/// <summary>The machines that the shop bought to mend and sell.</summary>
public sealed class OwnModel(KelvetDb db, Shop shop) : PageModel
{
    /// <summary>One of them.</summary>
    /// <param name="Row">Its job.</param>
    /// <param name="Own">What it cost and what is asked for it.</param>
    /// <param name="IsSold">Whether it went out.</param>
    public sealed record Owned(JobRow Row, DropOff Own, bool IsSold);

    /// <summary>All of them, the newest first.</summary>
    public IReadOnlyList<Owned> Machines { get; private set; } = [];

    /// <summary>The shop's currency.</summary>
    public Currency Currency { get; private set; } = BillingTerms.Usual.Currency;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        Currency = (await shop.TermsAsync()).Currency;
        // What stands in the column says "Bought" of every job; of those that are the shop's own it says a number.
        var rows = await db
            .Jobs.AsNoTracking()
            .Where(j => j.DropOffJson.Contains("\"Bought\":") && !j.DropOffJson.Contains("\"Bought\":null"))
            .OrderByDescending(j => j.Number)
            .Take(200)
            .ToListAsync(HttpContext.RequestAborted);
        Machines = [.. rows.Select(r => new Owned(r, DropOff.Of(r), r.HandedOverUtc is not null)).Where(o => o.Own.Bought is not null)];
    }
}
