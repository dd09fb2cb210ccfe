using Kelvet.Core.Tables;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Codes;

/// <summary>One table, as a card to print.</summary>
public sealed class TableModel(HouseRules house) : PageModel
{
    public SignalTable Shown { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(string table)
    {
        if ((await house.CurrentAsync()).Atlas.Signals.Table(table) is not { } found)
            return NotFound();
        Shown = found;
        return Page();
    }
}
