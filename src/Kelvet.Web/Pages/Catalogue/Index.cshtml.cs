using System.Text;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Catalogue;

/// <summary>The shop's catalogue of parts.</summary>
public sealed class IndexModel(CatalogueStore catalogue, CatalogueImports imports) : FormPage
{
    private const int PageSize = 40;

    /// <summary>What is looked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary>A kind, as files write it; empty for all.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Kind { get; set; }

    /// <summary>The page, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int P { get; set; } = 1;

    /// <summary>The parts of this page.</summary>
    public IReadOnlyList<(CatalogueRow Row, Unit Unit)> Rows { get; private set; } = [];

    /// <summary>How many match.</summary>
    public int Total { get; private set; }

    /// <summary>How many pages there are.</summary>
    public int Pages => Math.Max(1, (Total + PageSize - 1) / PageSize);

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        UnitKind? kind = Dashed.TryRead<UnitKind>(Kind ?? "", out var of) ? of : null;
        P = Math.Clamp(P, 1, 100_000);
        (Rows, Total) = await catalogue.ListAsync(kind, Q, P, PageSize, HttpContext.RequestAborted);
    }

    /// <summary>The whole catalogue as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync() =>
        File(
            Encoding.UTF8.GetBytes(CatalogueFile.Write(await catalogue.AllAsync(HttpContext.RequestAborted))),
            "text/csv; charset=utf-8",
            "catalogue.csv"
        );

    /// <summary>Takes a file in; its columns are mapped next.</summary>
    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is not { Length: > 0 })
            return await RefusedAsync("Choose a CSV file.", "file");
        if (file.Length > CatalogueFile.MostBytes)
            return await RefusedAsync(
                $"The file has {file.Length / 1e6:0.0} MB; {CatalogueFile.MostBytes / 1_000_000} MB is the most. Split it.",
                "file"
            );
        try
        {
            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, HttpContext.RequestAborted);
            return Redirect($"/catalogue/import/{imports.Begin(Wording.Text.Cut(file.FileName, 80), memory.ToArray()).Id}");
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message, "file");
        }
    }

    /// <summary>Takes a part out.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(int? part)
    {
        if (part is not { } id)
            return await RefusedAsync("Say which part.");
        await catalogue.RemoveAsync(id, HttpContext.RequestAborted);
        return Redirect($"/catalogue?q={Uri.EscapeDataString(Q ?? "")}&kind={Uri.EscapeDataString(Kind ?? "")}");
    }

    /// <summary>What is known of a part, in a few words.</summary>
    public static string Facts(Unit unit)
    {
        var facts = new List<string>();
        if (unit is Motherboard b)
            facts.AddRange([b.Socket, b.MemoryType, $"{b.Slots.Length} slots", string.Join(" ", b.Outputs.Select(o => o.Name))]);
        if (unit is Cpu c)
            facts.AddRange([c.Socket, c.HasGraphics ? "with graphics" : "no graphics", c.NeedsFirmware is { } f ? $"firmware {f}" : ""]);
        if (unit is MemoryStick m)
            facts.AddRange([m.MemoryType, m.SizeGb > 0 ? $"{m.SizeGb} GB" : ""]);
        if (unit is GraphicsCard g)
            facts.Add(string.Join(" ", g.Outputs.Select(o => o.Name)));
        if (unit.Plugs is { } plugs)
            facts.Add($"{plugs} card {(plugs == 1 ? "plug" : "plugs")}");
        if (unit.Fits.Length > 0)
            facts.Add($"for {string.Join(" ", unit.Fits)}");
        return string.Join(", ", facts.Where(f => f.Length > 0));
    }
}
