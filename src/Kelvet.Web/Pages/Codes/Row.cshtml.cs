using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Codes;

/// <summary>One signal of one table: what it means, what other tables say, and where it was met in this shop.</summary>
public sealed class RowModel(HouseRules house, SignalStore store) : PageModel
{
    private const int MostPast = 20;

    public SignalTable Table { get; private set; } = null!;

    public SignalRow Row { get; private set; } = null!;

    /// <summary>What other tables say of the same signal.</summary>
    public IEnumerable<SignalMatch> Others { get; private set; } = [];

    public bool Disagree { get; private set; }

    public IReadOnlyList<SignalPast> Past { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(string table, string signal)
    {
        var library = (await house.CurrentAsync()).Atlas.Signals;
        if (library.Table(table) is not { } found || SignalText.Of(found.Kind, signal) is not { } form || found.Find(form) is not { } row)
            return NotFound();
        (Table, Row) = (found, row);
        var answer = library.Ask(found.Kind, form, []);
        Others = answer.Matches.Where(m => m.Table.Id != table);
        Disagree = answer.Disagree;
        Past = await store.PastAsync(found.Kind, row.Signal, MostPast, HttpContext.RequestAborted);
        return Page();
    }
}
