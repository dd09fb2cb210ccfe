using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Pages;

/// <summary>
/// How far a job is, for whoever has the code on its ticket: the number of the job and one sentence, nothing of its owner, its machine,
/// its log or its price. Where the shop has not switched it on, or there is no such code, it is not there.
/// </summary>
public sealed class StateModel(KelvetDb db, Shop shop) : PageModel
{
    /// <summary>The code.</summary>
    [BindProperty(SupportsGet = true)]
    public string Code { get; set; } = "";

    /// <summary>Name of the shop.</summary>
    public string Name { get; private set; } = "";

    /// <summary>How the shop is reached.</summary>
    public string Reach { get; private set; } = "";

    /// <summary>Number of the job.</summary>
    public int Number { get; private set; }

    /// <summary>How far it is.</summary>
    public string State { get; private set; } = "";

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync()
    {
        var row = await shop.RowAsync();
        if (!row.StatePage || !StateCodes.IsOne(Code))
            return NotFound();
        var job = await db
            .Jobs.AsNoTracking()
            .Where(j => j.StateCode == Code)
            .Select(j => new
            {
                j.Number,
                j.ClosedAtUtc,
                j.HandedOverUtc,
                j.Wait,
                j.PromisedUtc,
            })
            .FirstOrDefaultAsync(HttpContext.RequestAborted);
        if (job is null)
            return NotFound();
        (Name, Reach, Number) = (row.Name, (await shop.TermsAsync()).Reach, job.Number);
        State =
            job.HandedOverUtc is not null ? "It was handed over."
            : job.ClosedAtUtc is not null ? "It can be fetched."
            : job.Wait == JobWait.Part ? "It waits for a part."
            : job.Wait == JobWait.Customer ? "We wait for your answer. Please get in touch."
            : job.PromisedUtc is { } day ? $"It is being worked on. It is promised for {day:yyyy-MM-dd}."
            : "It is being worked on.";
        ViewData["Plain"] = true;
        return Page();
    }
}
