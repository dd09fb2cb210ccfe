using System.Collections.Concurrent;
using Kelvet.Core.Listings;
using Kelvet.Core.Text;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>How far an import is.</summary>
public enum ImportState
{
    /// <summary>Its columns are to be mapped.</summary>
    Mapping,

    /// <summary>Its rows are read and kept.</summary>
    Running,

    /// <summary>Everything in it is kept.</summary>
    Done,

    /// <summary>It has mistakes: nothing of it is kept.</summary>
    Refused,
}

/// <summary>A catalogue that is brought in.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Name of the file.</param>
/// <param name="Text">The file.</param>
/// <param name="Note">What was noted when it was decoded; empty where nothing was.</param>
/// <param name="Lines">Lines of the file, about.</param>
public sealed record CatalogueImport(Guid Id, string Name, string Text, string Note, int Lines)
{
    /// <summary>How far it is.</summary>
    public ImportState State { get; set; }

    /// <summary>Rows that were read so far.</summary>
    public int Read { get; set; }

    /// <summary>Parts that were new, and parts that were replaced.</summary>
    public (int Added, int Replaced) Kept { get; set; }

    /// <summary>What is wrong, the first of it.</summary>
    public IReadOnlyList<CatalogueMistake> Mistakes { get; set; } = [];

    /// <summary>How many lines have a mistake.</summary>
    public int Wrong { get; set; }

    /// <summary>When it was brought in, for throwing it away.</summary>
    public DateTime AtUtc { get; init; }
}

/// <summary>
/// Brings catalogues in beside the bench: rows are read in the background, and only a file without a mistake is kept, whole.
/// What is brought in is held in memory until then; a restart forgets it and has kept nothing of it.
/// </summary>
public sealed class CatalogueImports(IServiceScopeFactory scopes, TimeProvider clock, ILogger<CatalogueImports> log)
{
    private const int Most = 4;
    private static readonly TimeSpan Kept = TimeSpan.FromHours(1);

    private readonly ConcurrentDictionary<Guid, CatalogueImport> _imports = new();

    /// <summary>An import by its id; null when it is not known any more.</summary>
    public CatalogueImport? Find(Guid id) => _imports.GetValueOrDefault(id);

    /// <summary>Takes a file in, its columns to be mapped next.</summary>
    /// <exception cref="DataFileException">It is no text, or too many are under way.</exception>
    public CatalogueImport Begin(string name, byte[] file)
    {
        var now = clock.GetUtcNow().UtcDateTime;
        foreach (var old in _imports.Values.Where(i => now - i.AtUtc > Kept || i.State is ImportState.Done or ImportState.Refused))
            _imports.TryRemove(old.Id, out _);
        if (_imports.Count >= Most)
            throw new DataFileException("Other imports are under way. Finish one of them first.");
        var (text, note) = CatalogueFile.Decode(file);
        _ = CatalogueFile.Preview(text, 1);
        var import = new CatalogueImport(Guid.NewGuid(), name, text, note, text.AsSpan().Count('\n') + 1) { AtUtc = now };
        _imports[import.Id] = import;
        return import;
    }

    /// <summary>Reads the rows in the background and keeps them when none has a mistake.</summary>
    /// <param name="import">The import.</param>
    /// <param name="mapping">For each field of the header the key of its column; empty for one that is passed over.</param>
    /// <returns>The work, for whoever waits for it.</returns>
    public Task RunAsync(CatalogueImport import, IReadOnlyList<string> mapping)
    {
        lock (import)
        {
            if (import.State == ImportState.Running)
                return Task.CompletedTask;
            (import.State, import.Read, import.Wrong, import.Mistakes) = (ImportState.Running, 0, 0, []);
        }

        return Task.Run(async () =>
        {
            var parts = new List<CataloguePart>();
            var mistakes = new List<CatalogueMistake>();
            try
            {
                CatalogueFile.Read(
                    import.Text,
                    mapping,
                    (_, part) =>
                    {
                        parts.Add(part);
                        import.Read++;
                    },
                    mistake =>
                    {
                        import.Wrong++;
                        if (mistakes.Count < CatalogueFile.MostMistakes)
                            mistakes.Add(mistake);
                    }
                );
                if (mistakes.Count == 0)
                {
                    await using var scope = scopes.CreateAsyncScope();
                    import.Kept = await scope.ServiceProvider.GetRequiredService<CatalogueStore>().KeepAsync(parts);
                }
            }
            catch (DataFileException e)
            {
                mistakes.Add(new CatalogueMistake(1, e.Message));
            }
            catch (Exception e)
            {
                log.LogError(e, "Import {Import} failed", import.Id);
                mistakes.Add(new CatalogueMistake(0, "It could not be kept. Nothing of it is in the catalogue; try again."));
            }

            import.Mistakes = mistakes;
            import.Wrong = Math.Max(import.Wrong, mistakes.Count);
            import.State = mistakes.Count == 0 ? ImportState.Done : ImportState.Refused;
            log.LogInformation("Import of {Rows} rows: {State}, {Wrong} mistakes", import.Read, import.State, import.Wrong);
        });
    }
}
