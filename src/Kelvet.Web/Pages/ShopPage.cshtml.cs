using Kelvet.Core.Files;
using Kelvet.Core.Machines;
using Kelvet.Data;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>The shop's name, clock and shelf of known-good parts.</summary>
public sealed class ShopPageModel(Shop shop) : PageModel
{
    /// <summary>Kinds that are lent from job to job. Boards are described in a job, where their slots are known.</summary>
    public static IReadOnlyList<UnitKind> Kinds { get; } =
    [
        UnitKind.Supply, UnitKind.MemoryStick, UnitKind.GraphicsCard, UnitKind.Cpu, UnitKind.VideoCable, UnitKind.Monitor,
        UnitKind.MainsLead, UnitKind.PowerExtension, UnitKind.Storage, UnitKind.Cooler,
    ];

    public string Name { get; private set; } = "";

    public string Zone { get; private set; } = "";

    public IReadOnlyList<Unit> Shelf { get; private set; } = [];

    public string? Problem { get; private set; }

    public async Task OnGetAsync()
    {
        var row = await shop.RowAsync();
        Name = row.Name;
        Zone = row.TimeZone;
        Shelf = await shop.ShelfAsync();
    }

    public async Task<IActionResult> OnPostAsync(string? name, string? zone)
    {
        await OnGetAsync();
        if (string.IsNullOrWhiteSpace(name) || name.Length > 80) return Refused("The shop needs a name of 1 to 80 characters.");
        if (!TimeZoneInfo.TryFindSystemTimeZoneById(zone ?? "", out _)) return Refused($"\"{zone}\" is not a time zone known here. Use a name such as Europe/Berlin.");
        await shop.NameAsync(name.Trim(), zone!);
        return Redirect("/shop");
    }

    public async Task<IActionResult> OnPostPartAsync(UnitKind kind, string? part, string? serial, string? fits)
    {
        await OnGetAsync();
        if (!Kinds.Contains(kind)) return Refused("Choose a kind from the list.");
        var number = 1;
        while (Shelf.Any(u => u.Id.Value == $"shelf-{DataPart.Dashed(kind)}-{number}")) number++;
        try
        {
            Unit unit = UnitForm.Like(Situation.AtIntake(Parts.None, Configuration.Empty), kind, new UnitId($"shelf-{DataPart.Dashed(kind)}-{number}"), part ?? "", Origin.Shelf);
            unit = unit switch
            {
                MemoryStick m => m with { MemoryType = fits?.Trim() ?? "" },
                Cpu c => c with { Socket = fits?.Trim() ?? "" },
                _ => unit,
            };
            await shop.AddToShelfAsync([unit with { Serial = serial?.Trim() ?? "" }]);
            return Redirect("/shop");
        }
        catch (ArgumentException e)
        {
            return Refused(UnitForm.Plainly(e));
        }
    }

    private PageResult Refused(string why)
    {
        Problem = why;
        return Page();
    }
}
