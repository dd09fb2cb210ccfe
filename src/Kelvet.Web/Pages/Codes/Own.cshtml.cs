using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Codes;

/// <summary>Tables that the shop brings in, and which tables a maker's boards go by.</summary>
public sealed class OwnModel(HouseRules house, SignalStore store, ILogger<OwnModel> log) : FormPage
{
    [BindProperty(SupportsGet = true)]
    public string? Maker { get; set; }

    public SignalLibrary Library { get; private set; } = SignalLibrary.Standard;

    public string? Done { get; private set; }

    /// <summary>Shows the tables.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync() => Library = (await house.CurrentAsync()).Atlas.Signals;

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        await OnGetAsync();
        if (file is not { Length: > 0 })
            return await RefusedAsync("Choose the file of the table first.");
        if (file.Length > SignalTableFile.MostCharacters)
            return await RefusedAsync($"The file has {file.Length} bytes; {SignalTableFile.MostCharacters} is the most.");
        using var reader = new StreamReader(file.OpenReadStream());
        try
        {
            var table = SignalTableFile.Read(await reader.ReadToEndAsync(), Text.Cut(file.FileName, 60));
            if (Library.Tables.Count(t => t.IsOwn) >= SignalStore.Most && Library.Table(table.Id) is not { IsOwn: true })
                return await RefusedAsync($"{SignalStore.Most} tables of its own are the most for a shop. Drop one first.");
            await store.KeepAsync(table);
            house.Changed();
            await OnGetAsync();
            Done = $"{table.Name} ({table.Rows.Length} rows) is in, version {table.Version}.";
            return Page();
        }
        catch (DataFileException e)
        {
            log.LogWarning("Refused the table {File}: {Why}", file.FileName, e.Message);
            return await RefusedAsync($"{e.Message} Nothing was changed.");
        }
    }

    public async Task<IActionResult> OnPostDropAsync(string? table)
    {
        await store.DropAsync(table ?? "");
        house.Changed();
        return Redirect("/codes");
    }

    public async Task<IActionResult> OnPostMakerAsync(string? maker, string[]? tables)
    {
        await OnGetAsync();
        if (string.IsNullOrWhiteSpace(maker) || maker.Trim().Length > 40)
            return await RefusedAsync("Say how the names of the maker's boards begin, in 1 to 40 characters.");
        string[] chosen = [.. (tables ?? []).Where(t => !string.IsNullOrEmpty(t)).Distinct()];
        if (chosen.FirstOrDefault(t => Library.Table(t) is null) is { } unknown)
            return await RefusedAsync($"There is no table \"{Text.Cut(unknown, 40)}\"; choose from the lists.");
        if (Library.Makers.Length >= SignalStore.Most && chosen.Length > 0)
            return await RefusedAsync($"{SignalStore.Most} makers are the most.");
        await store.MakerAsync(maker.Trim(), chosen);
        house.Changed();
        return Redirect("/codes/own");
    }
}
