using Kelvet.Core.Files;
using Kelvet.Core.Signals;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Codes;

/// <summary>Tables that the shop brings in, and which tables a maker's boards go by.</summary>
public sealed class OwnModel(HouseRules house, SignalStore store) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Maker { get; set; }

    public SignalLibrary Library { get; private set; } = SignalLibrary.Standard;

    public string? Problem { get; private set; }

    public string? Done { get; private set; }

    public async Task OnGetAsync() => Library = (await house.CurrentAsync()).Atlas.Signals;

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        await OnGetAsync();
        if (file is not { Length: > 0 }) return Refused("Choose the file of the table first.");
        if (file.Length > SignalTableFile.MostCharacters) return Refused($"The file has {file.Length} bytes; {SignalTableFile.MostCharacters} is the most.");
        using var reader = new StreamReader(file.OpenReadStream());
        try
        {
            var table = SignalTableFile.Read(await reader.ReadToEndAsync(), Text.Cut(file.FileName, 60));
            if (Library.Tables.Count(t => t.IsOwn) >= SignalStore.Most && Library.Table(table.Id) is not { IsOwn: true }) return Refused($"{SignalStore.Most} tables of its own are the most for a shop. Drop one first.");
            await store.KeepAsync(table);
            house.Changed();
            await OnGetAsync();
            Done = $"{table.Name} ({table.Rows.Length} rows) is in, version {table.Version}.";
            return Page();
        }
        catch (DataFileException e)
        {
            return Refused($"{e.Message} Nothing was changed.");
        }
    }

    public async Task<IActionResult> OnPostDropAsync(string? table)
    {
        await store.DropAsync(table ?? "");
        house.Changed();
        return Redirect("/codes");
    }

    public async Task<IActionResult> OnPostMakerAsync(string? maker, string[] tables)
    {
        await OnGetAsync();
        if (string.IsNullOrWhiteSpace(maker) || maker.Trim().Length > 40) return Refused("Say how the names of the maker's boards begin, in 1 to 40 characters.");
        string[] chosen = [.. tables.Where(t => t.Length > 0).Distinct()];
        if (chosen.FirstOrDefault(t => Library.Table(t) is null) is { } unknown) return Refused($"There is no table \"{Text.Cut(unknown, 40)}\"; choose from the lists.");
        if (Library.Makers.Length >= SignalStore.Most && chosen.Length > 0) return Refused($"{SignalStore.Most} makers are the most.");
        await store.MakerAsync(maker.Trim(), chosen);
        house.Changed();
        return Redirect("/codes/own");
    }

    private PageResult Refused(string why)
    {
        Problem = why;
        return Page();
    }
}
