using System.Globalization;
using Kelvet.Core.Text;
using Microsoft.Data.Sqlite;

namespace Kelvet.Data.Copies;

/// <summary>
/// Puts a copy back in two steps, so that a kill at any moment leaves either what was there or what was put back. First the copy is
/// unpacked beside the data and checked; then, with the data folder held by this process alone and nothing open in it, what is there
/// is moved into a folder of its own and the new moved into its place. Whoever starts next goes on where it was left.
/// </summary>
public static class Restoring
{
    private const string Making = "restoring.part",
        Ready = "restoring",
        Done = "restoring.done",
        Moved = "moved",
        Where = "replaced",
        Keys = "keys";

    /// <summary>Begins the name of a folder that holds what a restore has replaced.</summary>
    public const string Replaced = "replaced-";

    /// <summary>The write-ahead log goes with its database: beside another one it would silently undo it.</summary>
    private static readonly string[] Old =
    [
        $"{Database.FileName}-wal",
        $"{Database.FileName}-shm",
        $"{Database.FileName}-journal",
        Database.FileName,
        Keys,
    ];

    /// <summary>Whether a restore waits to be carried out.</summary>
    public static bool IsReady(string folder) => Directory.Exists(Path.Combine(folder, Ready));

    /// <summary>Unpacks a copy beside the data and checks it. Nothing that is there is touched.</summary>
    /// <param name="copy">A copy, or a database alone.</param>
    /// <param name="folder">The data folder.</param>
    /// <param name="passphrase">What the copy is encrypted with; empty for nothing.</param>
    /// <param name="clock">The clock.</param>
    /// <param name="known">Migrations that this program knows.</param>
    /// <returns>What the copy holds; null for a database alone.</returns>
    /// <exception cref="DataFileException">It is damaged, of a newer version, or the passphrase is another.</exception>
    public static CopyManifest? Stage(string copy, string folder, string passphrase, TimeProvider clock, IEnumerable<string> known)
    {
        if (!File.Exists(copy))
            throw new DataFileException($"There is no copy {copy}.");
        var making = Path.Combine(folder, Making);
        Delete(making);
        Delete(Path.Combine(folder, Ready));
        Directory.CreateDirectory(making);
        try
        {
            CopyManifest? manifest = null;
            if (Path.GetExtension(copy) == ".db")
                Database.CopyTo(copy, Path.Combine(making, Database.FileName));
            else
                manifest = CopyFile.Verify(copy, passphrase, making);
            var database = Path.Combine(making, Database.FileName);
            if (!File.Exists(database))
                throw new DataFileException($"{Path.GetFileName(copy)} holds no database.");
            if (!StoreHealth.Check(database).IsSound)
                throw new DataFileException($"The database in {Path.GetFileName(copy)} is damaged: put back another copy.");
            if (SchemaOf(database).Except(known, StringComparer.Ordinal).FirstOrDefault() is { } newer)
                throw new DataFileException(
                    $"{Path.GetFileName(copy)} was made by a newer version of Kelvet ({newer}). Start that version."
                );
            File.WriteAllText(Path.Combine(making, Where), Aside(folder, clock.GetUtcNow().UtcDateTime));
            Directory.Move(making, Path.Combine(folder, Ready));
            return manifest;
        }
        catch (SqliteException e)
        {
            Delete(making);
            throw new DataFileException($"{Path.GetFileName(copy)} holds no database that can be opened: {e.Message}", e);
        }
        catch
        {
            Delete(making);
            throw;
        }
    }

    /// <summary>
    /// Goes on with a restore that waits, or was left in the middle, and sweeps up one that was left before it was ready. The caller
    /// holds the data folder and has nothing open in it.
    /// </summary>
    /// <returns>The folder that holds what was replaced; null where nothing was to be done.</returns>
    public static string? Resume(string folder)
    {
        Delete(Path.Combine(folder, Making));
        Delete(Path.Combine(folder, Done));
        var ready = Path.Combine(folder, Ready);
        if (!Directory.Exists(ready))
            return null;
        var replaced = Path.Combine(folder, File.ReadAllText(Path.Combine(ready, Where)).Trim());
        if (!File.Exists(Path.Combine(ready, Moved)))
        {
            Directory.CreateDirectory(replaced);
            // A copy of a database alone brings no keys: those that are there stay.
            foreach (var name in Old.Where(n => n != Keys || Directory.Exists(Path.Combine(ready, Keys))))
                MoveOver(Path.Combine(folder, name), Path.Combine(replaced, name));
            File.WriteAllText(Path.Combine(ready, Moved), "");
        }

        foreach (var name in new[] { Database.FileName, Keys })
            MoveOver(Path.Combine(ready, name), Path.Combine(folder, name));
        // Its name goes in one step: what is left of it after a kill is swept up and never taken for one that waits.
        Directory.Move(ready, Path.Combine(folder, Done));
        Delete(Path.Combine(folder, Done));
        return replaced;
    }

    /// <summary>A name for what is replaced that no earlier restore has taken.</summary>
    private static string Aside(string folder, DateTime at)
    {
        string name;
        do
        {
            name = $"{Replaced}{at.ToString("yyyyMMdd-HHmmss", CultureInfo.InvariantCulture)}";
            at = at.AddSeconds(1);
        } while (Directory.Exists(Path.Combine(folder, name)));
        return name;
    }

    private static void MoveOver(string from, string to)
    {
        if (File.Exists(from))
            File.Move(from, to);
        else if (Directory.Exists(from))
            Directory.Move(from, to);
    }

    private static void Delete(string folder)
    {
        if (Directory.Exists(folder))
            Directory.Delete(folder, recursive: true);
    }

    private static List<string> SchemaOf(string database)
    {
        using var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = database,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
            }.ToString()
        );
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT MigrationId FROM __EFMigrationsHistory";
        using var reader = command.ExecuteReader();
        var applied = new List<string>();
        while (reader.Read())
            applied.Add(reader.GetString(0));
        return applied;
    }
}
