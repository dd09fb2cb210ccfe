using Kelvet.Data;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Customers;

/// <summary>The customers, by name.</summary>
public sealed class IndexModel(CustomerStore customers) : PageModel
{
    private const int PageSize = 40;

    /// <summary>What is looked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary>The page, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int P { get; set; } = 1;

    /// <summary>The customers of this page.</summary>
    public IReadOnlyList<CustomerRow> Rows { get; private set; } = [];

    /// <summary>How many pages there are.</summary>
    public int Pages { get; private set; }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync()
    {
        P = Math.Clamp(P, 1, 100_000);
        (Rows, var total) = await customers.ListAsync(Q, P, PageSize, HttpContext.RequestAborted);
        Pages = Math.Max(1, (total + PageSize - 1) / PageSize);
    }
}
