using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>Picks the technician and the theme of this browser.</summary>
public sealed class WhoModel(Shop shop, Visitor visitor) : FormPage
{
    /// <summary>Most characters of a name.</summary>
    public const int LongestName = 60;

    public IReadOnlyList<string> Names { get; private set; } = [];

    public string Back { get; private set; } = "/";

    /// <summary>Shows who works here.</summary>
    public Task OnGetAsync(string? back)
    {
        Back = Local(back);
        return ShowAsync();
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync() => Names = await shop.TechniciansAsync();

    public async Task<IActionResult> OnPostAsync(string? name, string? back)
    {
        await OnGetAsync(back);
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > LongestName)
        {
            return await RefusedAsync($"A name has 1 to {LongestName} characters.", "name");
        }

        await shop.AddTechnicianAsync(name);
        visitor.Remember(name);
        return LocalRedirect(Back);
    }

    public IActionResult OnPostTheme(string? theme, string? back)
    {
        visitor.RememberTheme(theme ?? "");
        return LocalRedirect(Local(back));
    }

    /// <summary>Turns a way of showing the bench on or off.</summary>
    public IActionResult OnPostView(string? view, string? back)
    {
        visitor.Turn(view ?? "");
        return LocalRedirect(Local(back));
    }

    /// <summary>Leaves the guide through a first job.</summary>
    public IActionResult OnPostGuide(string? back)
    {
        visitor.Guide(null);
        return LocalRedirect(Local(back));
    }

    private string Local(string? back) => Url.IsLocalUrl(back) ? back : "/";
}
