using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Kelvet.Core.Text;
using Microsoft.Data.Sqlite;

namespace Kelvet.Data.Copies;

/// <summary>How a shop wants its copies.</summary>
/// <param name="Second">A second place; empty for none.</param>
/// <param name="Days">Days of which the last copy of each is kept.</param>
/// <param name="Weeks">Weeks of which the last copy of each is kept.</param>
/// <param name="Passphrase">What copies are encrypted with; empty for nothing.</param>
public sealed record CopyWishes(string Second, int Days, int Weeks, string Passphrase)
{
    /// <summary>As a shop that has said nothing has them.</summary>
    public static CopyWishes Usual { get; } = new("", 7, 13, "");
}

/// <summary>How copying last went; kept beside the copies, so that it can be told when the database cannot.</summary>
/// <param name="Version">Version of this shape.</param>
/// <param name="LastUtc">When the last copy was made; null before the first.</param>
/// <param name="Last">Its name.</param>
/// <param name="SecondUtc">When one last reached the second place; null where none did.</param>
/// <param name="Failure">What went wrong since; empty where nothing did.</param>
/// <param name="FailedUtc">When.</param>
public sealed record CopyStatus(int Version, DateTime? LastUtc, string Last, DateTime? SecondUtc, string Failure, DateTime? FailedUtc)
{
    /// <summary>Before the first copy.</summary>
    public static CopyStatus None { get; } = new(1, null, "", null, "", null);
}

/// <summary>A copy that lies in one of the places.</summary>
/// <param name="Path">The file.</param>
/// <param name="AtUtc">When it was made, by its name.</param>
/// <param name="Bytes">Its size.</param>
/// <param name="IsSecond">Whether it lies in the second place.</param>
public sealed record CopyAt(string Path, DateTime AtUtc, long Bytes, bool IsSecond)
{
    /// <summary>Its name.</summary>
    public string Name => System.IO.Path.GetFileName(Path);
}

/// <summary>
/// Makes copies of a shop's data, checks them, brings them to a second place and throws old ones away. A copy takes its name only
/// once it was read back; one that is not sound never pushes an older one out.
/// </summary>
/// <param name="folder">The data folder.</param>
/// <param name="program">Version of the program.</param>
/// <param name="clock">The clock.</param>
public sealed class CopyRoom(string folder, string program, TimeProvider clock)
{
    /// <summary>Folder of the copies, in the data folder.</summary>
    public const string FolderName = "backups";

    private const string Prefix = "kelvet-",
        Time = "yyyyMMdd-HHmmss",
        Ending = ".zip",
        StatusFile = "status.json";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    private readonly string _copies = Path.Combine(folder, FolderName);

    /// <summary>Where they lie.</summary>
    public string Place => _copies;

    /// <summary>How copying last went.</summary>
    public CopyStatus Status()
    {
        try
        {
            return JsonSerializer.Deserialize<CopyStatus>(File.ReadAllText(Path.Combine(_copies, StatusFile)), Json) ?? CopyStatus.None;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or JsonException)
        {
            return CopyStatus.None;
        }
    }

    /// <summary>Makes a copy now.</summary>
    /// <returns>The copy.</returns>
    /// <exception cref="DataFileException">There is none: what went wrong, in words. It is kept in the status as well.</exception>
    public CopyAt Make(CopyWishes wishes)
    {
        try
        {
            var copy = Made(wishes.Passphrase);
            var status = Status() with { LastUtc = copy.AtUtc, Last = copy.Name, Failure = "", FailedUtc = null };
            Keep(status);
            Prune(_copies, wishes.Days, wishes.Weeks, Now());
            if (wishes.Second.Length > 0)
            {
                Second(copy, wishes);
                Keep(status with { SecondUtc = copy.AtUtc });
            }

            return copy;
        }
        catch (Exception e) when (e is DataFileException or IOException or UnauthorizedAccessException or SqliteException or StoreException)
        {
            var why = StoreTroubles.Of(e) switch
            {
                StoreTrouble.Full => "no room is left on the disk",
                StoreTrouble.Damaged => "the database is damaged",
                StoreTrouble.Busy => "the database is in use by another program",
                _ when (e as IOException)?.HResult == 28 => "no room is left on the disk",
                _ => e.Message.TrimEnd('.'),
            };
            TryKeep(Status() with { Failure = $"The last copy failed: {why}.", FailedUtc = Now() });
            throw new DataFileException($"The copy failed: {why}. Earlier copies are untouched.", e);
        }
    }

    private CopyAt Made(string passphrase)
    {
        Directory.CreateDirectory(_copies);
        Sweep(_copies);
        var at = Now();
        var work = Path.Combine(_copies, $".making-{Guid.NewGuid():N}");
        Directory.CreateDirectory(work);
        try
        {
            var database = Path.Combine(work, Database.FileName);
            Database.CopyTo(Path.Combine(folder, Database.FileName), database);
            var report = StoreHealth.Check(database);
            if (!report.IsSound)
                throw new DataFileException(
                    $"the database is damaged ({string.Join(", ", report.Tables.DefaultIfEmpty("see the first page"))})"
                );
            var file = Path.Combine(work, "copy");
            var manifest = CopyFile.Write(file, Described(database, at), Files(database), passphrase);
            _ = CopyFile.Verify(file, passphrase);
            var (path, named) = Free(at);
            File.Move(file, path);
            return new CopyAt(path, named, new FileInfo(path).Length, false);
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }
    }

    /// <summary>
    /// A name after all that are there, so that the copy made last is the newest by its name too: of two in a second, or after the
    /// clock was set back, the later one would else be thrown away for the earlier.
    /// </summary>
    private (string Path, DateTime At) Free(DateTime at)
    {
        // One from a clock that was days ahead stands in a day of its own and drives nothing out.
        var near = In(_copies, false).Where(c => c.AtUtc < at.AddDays(1));
        if (near.MaxBy(c => c.AtUtc) is { } newest && newest.AtUtc.AddSeconds(1) > at)
            at = newest.AtUtc.AddSeconds(1);
        return (Path.Combine(_copies, $"{Prefix}{at.ToString(Time, CultureInfo.InvariantCulture)}{Ending}"), at);
    }

    private CopyManifest Described(string database, DateTime at)
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
        return new CopyManifest(
            CopyManifest.Name,
            CopyManifest.Current,
            at,
            program,
            Asked("SELECT MAX(MigrationId) FROM __EFMigrationsHistory") as string ?? "",
            Count("Jobs"),
            Count("Steps"),
            Count("Photos"),
            Count("Customers"),
            false,
            []
        );

        int Count(string table) =>
            Asked($"SELECT COUNT(*) FROM sqlite_master WHERE type = 'table' AND name = '{table}'") is 1L
                ? (int)(long)Asked($"SELECT COUNT(*) FROM \"{table}\"")!
                : 0;

        object? Asked(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            return command.ExecuteScalar();
        }
    }

    private IEnumerable<(string Name, string Path)> Files(string database)
    {
        yield return (Database.FileName, database);
        var keys = Path.Combine(folder, "keys");
        if (!Directory.Exists(keys))
            yield break;
        foreach (var key in Directory.EnumerateFiles(keys, "*.xml").Order(StringComparer.Ordinal))
            yield return ($"keys/{Path.GetFileName(key)}", key);
    }

    /// <summary>Brings a copy to the second place and reads it back there.</summary>
    private void Second(CopyAt copy, CopyWishes wishes)
    {
        if (!Directory.Exists(wishes.Second))
            throw new DataFileException($"the second place {wishes.Second} is not there");
        Sweep(wishes.Second);
        var part = Path.Combine(wishes.Second, $".making-{copy.Name}");
        using (var from = File.OpenRead(copy.Path))
        using (var to = new FileStream(part, FileMode.Create, FileAccess.Write, FileShare.None))
        {
            from.CopyTo(to);
            to.Flush(flushToDisk: true);
        }

        if (!SumOf(part).SequenceEqual(SumOf(copy.Path)))
        {
            File.Delete(part);
            throw new DataFileException($"what was written to the second place {wishes.Second} is not what is read there");
        }

        File.Move(part, Path.Combine(wishes.Second, copy.Name), overwrite: true);
        Prune(wishes.Second, wishes.Days, wishes.Weeks, Now());
    }

    private static byte[] SumOf(string file)
    {
        using var stream = File.OpenRead(file);
        return SHA256.HashData(stream);
    }

    /// <summary>What a kill has left half made.</summary>
    private static void Sweep(string place)
    {
        foreach (var left in Directory.EnumerateDirectories(place, ".making-*"))
            Directory.Delete(left, recursive: true);
        foreach (var left in Directory.EnumerateFiles(place, ".making-*"))
            File.Delete(left);
    }

    /// <summary>Every copy in both places, newest first.</summary>
    public IReadOnlyList<CopyAt> All(string second) =>
        [.. In(_copies, false).Concat(second.Length > 0 ? In(second, true) : []).OrderByDescending(c => c.AtUtc).ThenBy(c => c.IsSecond)];

    /// <summary>A copy by its name; the one in the data folder goes before the one in the second place. Null where there is none.</summary>
    public CopyAt? Find(string name, string second) => All(second).FirstOrDefault(c => c.Name == name);

    /// <summary>Throws away what is not wanted any more: of each of the last days, and of each of the last weeks, the last copy is
    /// kept, and the newest always.</summary>
    /// <param name="place">The folder.</param>
    /// <param name="days">Days, 1 upward.</param>
    /// <param name="weeks">Weeks, 0 upward.</param>
    /// <param name="nowUtc">The time.</param>
    public static void Prune(string place, int days, int weeks, DateTime nowUtc)
    {
        var monday = new DateTime(2000, 1, 3, 0, 0, 0, DateTimeKind.Utc);
        var copies = In(place, false).ToArray();
        if (copies.Length == 0)
            return;
        var kept = copies
            .Where(c => nowUtc - c.AtUtc < TimeSpan.FromDays(days))
            .GroupBy(c => c.AtUtc.Date)
            .Concat(
                copies
                    .Where(c => nowUtc - c.AtUtc < TimeSpan.FromDays(7 * weeks))
                    .GroupBy(c => monday.AddDays(7 * Math.Floor((c.AtUtc - monday).TotalDays / 7)))
            )
            .Select(g => g.MaxBy(c => c.AtUtc)!.Path)
            .Append(copies.MaxBy(c => c.AtUtc)!.Path)
            .ToHashSet(StringComparer.Ordinal);
        foreach (var copy in copies.Where(c => !kept.Contains(c.Path)))
            File.Delete(copy.Path);
    }

    /// <summary>Copies in a folder; none where it cannot be read.</summary>
    private static IEnumerable<CopyAt> In(string place, bool isSecond)
    {
        string[] files;
        try
        {
            files = Directory.Exists(place) ? Directory.GetFiles(place, $"{Prefix}*") : [];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            yield break;
        }

        foreach (var file in files)
        {
            // Versions before the first kept copies of the database alone.
            if (Path.GetExtension(file) is Ending or ".db" && TimeOf(file) is { } at)
                yield return new CopyAt(file, at, new FileInfo(file).Length, isSecond);
        }
    }

    private static DateTime? TimeOf(string file) =>
        DateTime.TryParseExact(
            Path.GetFileNameWithoutExtension(file)[Prefix.Length..],
            Time,
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
            out var at
        )
            ? at
            : null;

    private void Keep(CopyStatus status)
    {
        var path = Path.Combine(_copies, StatusFile);
        File.WriteAllText($"{path}.part", JsonSerializer.Serialize(status, Json));
        File.Move($"{path}.part", path, overwrite: true);
    }

    private void TryKeep(CopyStatus status)
    {
        try
        {
            Directory.CreateDirectory(_copies);
            Keep(status);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // A disk that takes no copy takes no word of it either; whoever asked is told.
        }
    }

    private DateTime Now() => clock.GetUtcNow().UtcDateTime;
}
