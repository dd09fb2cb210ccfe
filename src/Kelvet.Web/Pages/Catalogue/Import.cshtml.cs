using System.Collections.Immutable;
using Kelvet.Core.Listings;
using Kelvet.Core.Text;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Catalogue;

/// <summary>An import: its columns mapped, then how far it is.</summary>
public sealed class ImportModel(CatalogueImports imports) : FormPage, IFindsItself
{
    private const int Shown = 6;

    /// <summary>Its id.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid Id { get; set; }

    /// <summary>The import.</summary>
    public CatalogueImport Import { get; private set; } = null!;

    /// <summary>Names of the columns in the file.</summary>
    public ImmutableArray<string> Header { get; private set; } = [];

    /// <summary>For each of them the column of the catalogue that it goes to.</summary>
    public IReadOnlyList<string> Mapping { get; private set; } = [];

    /// <summary>The first rows.</summary>
    public ImmutableArray<ImmutableArray<string>> Rows { get; private set; } = [];

    /// <inheritdoc/>
    public Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        if (imports.Find(Id) is not { } import)
            return Task.FromResult<IActionResult?>(NotFound());
        Import = import;
        return Task.FromResult<IActionResult?>(null);
    }

    /// <summary>Shows it.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override Task ShowAsync()
    {
        (Header, var mapping, Rows) = CatalogueFile.Preview(Import.Text, Shown);
        if (Mapping.Count == 0)
            Mapping = mapping;
        return Task.CompletedTask;
    }

    /// <summary>How far it is, and nothing else.</summary>
    public IActionResult OnGetProgress() => Partial("_Progress", Import);

    /// <summary>Reads it by the mapping.</summary>
    public async Task<IActionResult> OnPostAsync(string?[]? map)
    {
        Mapping = [.. (map ?? []).Select(m => m ?? "")];
        await ShowAsync();
        if (Mapping.Count != Header.Length)
            return await RefusedAsync("The file has other columns than were mapped. Map them again.");
        try
        {
            // What is wrong with the mapping itself is said at once.
            CatalogueFile.Read("kind,name", Mapping, (_, _) => { }, _ => { });
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message);
        }

        _ = imports.RunAsync(Import, Mapping);
        return Redirect($"/catalogue/import/{Id}");
    }
}
