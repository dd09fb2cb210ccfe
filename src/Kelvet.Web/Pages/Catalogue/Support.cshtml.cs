using System.Collections.Immutable;
using System.Text;
using Kelvet.Core.Listings;
using Kelvet.Core.Text;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Catalogue;

/// <summary>Which firmware boards need for which CPU.</summary>
public sealed class SupportModel(SupportLists lists) : FormPage
{
    private const int MostShown = 200;

    /// <summary>What is looked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary>The lines that are shown.</summary>
    public IReadOnlyList<SupportLine> Lines { get; private set; } = [];

    /// <summary>How many match.</summary>
    public int Total { get; private set; }

    /// <summary>Mistakes of a file that was not taken.</summary>
    public ImmutableArray<CatalogueMistake> Mistakes { get; private set; } = [];

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        var words = (Q ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        SupportLine[] found =
        [
            .. (await lists.CurrentAsync()).Lines.Where(l =>
                words.All(w => $"{l.Board} {l.Revision} {l.Cpu}".Contains(w, StringComparison.OrdinalIgnoreCase))
            ),
        ];
        (Lines, Total) = ([.. found.Take(MostShown)], found.Length);
    }

    /// <summary>The list as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync() =>
        File(Encoding.UTF8.GetBytes((await lists.CurrentAsync()).Write()), "text/csv; charset=utf-8", "support.csv");

    /// <summary>Takes a list in the place of the one that is here.</summary>
    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is not { Length: > 0 })
            return await RefusedAsync("Choose a CSV file.", "file");
        if (file.Length > CatalogueFile.MostBytes)
            return await RefusedAsync(
                $"The file has {file.Length / 1e6:0.0} MB; {CatalogueFile.MostBytes / 1_000_000} MB is the most.",
                "file"
            );
        try
        {
            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, HttpContext.RequestAborted);
            var (list, mistakes) = SupportList.Read(CatalogueFile.Decode(memory.ToArray()).Text);
            if (!mistakes.IsEmpty)
            {
                Mistakes = mistakes;
                return await RefusedAsync(
                    $"{(mistakes.Length == 1 ? "One line" : $"{mistakes.Length} lines")} of the file cannot be read.",
                    "file"
                );
            }

            if (list.Lines.IsEmpty)
                return await RefusedAsync("The file has no line below its header. What is here stays.", "file");
            await lists.KeepAsync(list);
            return Redirect("/catalogue/support");
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message, "file");
        }
    }
}
