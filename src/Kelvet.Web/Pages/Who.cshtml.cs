using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>Picks the technician and the theme of this browser.</summary>
public sealed class WhoModel(Shop shop, Visitor visitor) : PageModel
{
    private const int LongestName = 60;

    public IReadOnlyList<string> Names { get; private set; } = [];

    public string Back { get; private set; } = "/";

    public string? Problem { get; private set; }

    public async Task OnGetAsync(string? back)
    {
        Names = await shop.TechniciansAsync();
        Back = Local(back);
    }

    public async Task<IActionResult> OnPostAsync(string? name, string? back)
    {
        await OnGetAsync(back);
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > LongestName)
        {
            Problem = $"A name has 1 to {LongestName} characters.";
            return Page();
        }

        await shop.AddTechnicianAsync(name);
        visitor.Remember(name);
        return LocalRedirect(Back);
    }

    public IActionResult OnPostTheme(string theme, string? back)
    {
        visitor.RememberTheme(theme);
        return LocalRedirect(Local(back));
    }

    private string Local(string? back) => Url.IsLocalUrl(back) ? back : "/";
}
