using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;

namespace Kelvet.Data;

/// <summary>The shop's catalogue of parts.</summary>
public sealed class CatalogueStore(KelvetDb db)
{
    private const int MostFound = 12;

    /// <summary>How many parts there are.</summary>
    public Task<int> CountAsync(CancellationToken cancel = default) => db.Catalogue.CountAsync(cancel);

    /// <summary>Names of a kind that hold each word.</summary>
    public async Task<IReadOnlyList<string>> NamesAsync(UnitKind kind, string? text, CancellationToken cancel = default) =>
        await Query(kind, text).Select(c => c.Name).Take(MostFound).ToListAsync(cancel);

    /// <summary>A page of the catalogue, and how many parts match.</summary>
    public async Task<(IReadOnlyList<(CatalogueRow Row, Unit Unit)> Rows, int Total)> ListAsync(
        UnitKind? kind,
        string? text,
        int page,
        int size,
        CancellationToken cancel = default
    )
    {
        var query = Query(kind, text);
        var rows = await query.Skip((page - 1) * size).Take(size).ToListAsync(cancel);
        return ([.. rows.Select(r => (r, JobFormat.ReadUnit(r.UnitJson)))], await query.CountAsync(cancel));
    }

    /// <summary>The parts of kinds and names, by kind and name in upper case; a name that is not there is left out.</summary>
    public async Task<IReadOnlyDictionary<(UnitKind, string), Unit>> GetAsync(
        IEnumerable<(UnitKind Kind, string Name)> named,
        CancellationToken cancel = default
    )
    {
        var found = new Dictionary<(UnitKind, string), Unit>();
        foreach (var (kind, name) in named)
        {
            var (dashed, key) = (Dashed.Of(kind), name.ToUpperInvariant());
            if (await db.Catalogue.AsNoTracking().FirstOrDefaultAsync(c => c.Kind == dashed && c.Key == key, cancel) is { } row)
                found[(kind, key)] = JobFormat.ReadUnit(row.UnitJson);
        }

        return found;
    }

    /// <summary>A part by its row; null where there is none.</summary>
    public async Task<Unit?> FindAsync(int id, CancellationToken cancel = default) =>
        await db.Catalogue.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id, cancel) is { } row ? JobFormat.ReadUnit(row.UnitJson) : null;

    /// <summary>Everything, for a file.</summary>
    public async Task<IReadOnlyList<CataloguePart>> AllAsync(CancellationToken cancel = default) =>
        [
            .. (await db.Catalogue.AsNoTracking().OrderBy(c => c.Kind).ThenBy(c => c.Key).ToListAsync(cancel)).Select(
                r => new CataloguePart(JobFormat.ReadUnit(r.UnitJson), r.Price / 100m)
            ),
        ];

    /// <summary>
    /// Keeps parts: one of a kind and name that is there already is replaced. All in one transaction, or none; made ready
    /// before it, so that the bench waits as short as can be.
    /// </summary>
    /// <returns>How many were new, and how many were replaced.</returns>
    public async Task<(int Added, int Replaced)> KeepAsync(IReadOnlyList<CataloguePart> parts, CancellationToken cancel = default)
    {
        var ready = parts
            .Select(p =>
                (
                    Kind: Dashed.Of(p.Unit.Kind),
                    p.Unit.Name,
                    Json: JobFormat.Write(p.Unit),
                    Price: p.Price is { } m ? (long?)(m * 100) : null
                )
            )
            .ToArray();
        var before = await CountAsync(cancel);
        await using (var writing = await db.WriteAsync(cancel))
        {
            var connection = (SqliteConnection)db.Database.GetDbConnection();
            await using var command = connection.CreateCommand();
            command.Transaction = (SqliteTransaction)db.Database.CurrentTransaction!.GetDbTransaction();
            command.CommandText = """
                INSERT INTO Catalogue (Kind, Name, "Key", UnitJson, Price) VALUES ($kind, $name, $key, $json, $price)
                ON CONFLICT (Kind, "Key") DO UPDATE SET Name = excluded.Name, UnitJson = excluded.UnitJson, Price = excluded.Price
                """;
            var (kind, name, key, json, price) = (Add("$kind"), Add("$name"), Add("$key"), Add("$json"), Add("$price"));
            command.Prepare();
            foreach (var part in ready)
            {
                (kind.Value, name.Value, key.Value, json.Value, price.Value) = (
                    part.Kind,
                    part.Name,
                    part.Name.ToUpperInvariant(),
                    part.Json,
                    (object?)part.Price ?? DBNull.Value
                );
                command.ExecuteNonQuery();
            }

            await writing.CommitAsync(cancel);

            SqliteParameter Add(string parameter)
            {
                var p = command.CreateParameter();
                p.ParameterName = parameter;
                p.SqliteType = parameter == "$price" ? SqliteType.Integer : SqliteType.Text;
                command.Parameters.Add(p);
                return p;
            }
        }
        var added = await CountAsync(cancel) - before;
        return (added, parts.Count - added);
    }

    /// <summary>Takes a part out of the catalogue; jobs that have it keep it.</summary>
    public Task RemoveAsync(int id, CancellationToken cancel = default) =>
        db.DoneAsync(db.Catalogue.Where(c => c.Id == id).ExecuteDeleteAsync, cancel);

    private IQueryable<CatalogueRow> Query(UnitKind? kind, string? text)
    {
        var query = db.Catalogue.AsNoTracking();
        if (kind is { } k)
        {
            var dashed = Dashed.Of(k);
            query = query.Where(c => c.Kind == dashed);
        }

        foreach (var word in CustomerStore.WordsOf(text))
        {
            var like = CustomerStore.LikeOf(word.ToUpperInvariant());
            query = query.Where(c => EF.Functions.Like(c.Key, like, "\\"));
        }

        return query.OrderBy(c => c.Kind).ThenBy(c => c.Key);
    }
}
