using System.Data.Common;
using System.Globalization;
using Kelvet.Core.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Kelvet.Data;

/// <summary>Where the database lies and how it is opened.</summary>
public static class Database
{
    /// <summary>Name of the database file.</summary>
    public const string FileName = "kelvet.db";

    private const string CopyPrefix = "kelvet-";
    private const string CopyTime = "yyyyMMdd-HHmmss";

    /// <summary>Options for a database file: foreign keys on, write-ahead log, every commit on the disk before it is
    /// acknowledged.</summary>
    public static void Configure(DbContextOptionsBuilder options, string folder) =>
        options
            .UseSqlite(
                new SqliteConnectionStringBuilder
                {
                    DataSource = Path.Combine(folder, FileName),
                    ForeignKeys = true,
                    DefaultTimeout = 10,
                }.ToString()
            )
            .AddInterceptors(new Durable());

    /// <summary>
    /// Brings the database in a folder up to date. When there is something to change in one that exists, a copy
    /// is made first. The caller holds the folder for this process alone.
    /// </summary>
    /// <returns>The path of the copy, or null when none was needed.</returns>
    /// <exception cref="DataFileException">The database is of a newer version.</exception>
    public static async Task<string?> MigrateAsync(KelvetDb db, string folder, TimeProvider clock, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(folder);
        var path = Path.Combine(folder, FileName);
        ClearHalfMade(path);
        if (!File.Exists(path))
        {
            await db.Database.MigrateAsync(cancel);
            return null;
        }

        await ReleaseLockAsync(db, cancel);
        var known = db.Database.GetMigrations().ToHashSet(StringComparer.Ordinal);
        if ((await db.Database.GetAppliedMigrationsAsync(cancel)).FirstOrDefault(m => !known.Contains(m)) is { } newer)
            throw new DataFileException(
                $"it was written by a newer version of Kelvet ({newer}). Start that version, or restore a copy from the folder backups."
            );
        if (!(await db.Database.GetPendingMigrationsAsync(cancel)).Any())
            return null;
        var copy = Backup(path, Path.Combine(folder, "backups"), clock);
        Prune(Path.Combine(folder, "backups"), clock.GetUtcNow().UtcDateTime);
        await db.Database.MigrateAsync(cancel);
        return copy;
    }

    /// <summary>A first start that was killed while the file was made leaves an empty one: there is nothing in it to keep.</summary>
    private static void ClearHalfMade(string path)
    {
        if (!File.Exists(path) || new FileInfo(path).Length > 0)
            return;
        foreach (var left in new[] { path, $"{path}-wal", $"{path}-shm", $"{path}-journal" })
            File.Delete(left);
    }

    /// <summary>A start that was killed while it migrated leaves the migration lock taken; the folder is this process's alone, so
    /// it is nobody's.</summary>
    private static async Task ReleaseLockAsync(KelvetDb db, CancellationToken cancel)
    {
        const string Lock = "__EFMigrationsLock";
        if (
            await db
                .Database.SqlQuery<int>($"SELECT COUNT(*) AS Value FROM sqlite_master WHERE type = 'table' AND name = {Lock}")
                .SingleAsync(cancel) > 0
        )
            await db.Database.ExecuteSqlRawAsync($"DELETE FROM \"{Lock}\"", cancel);
    }

    /// <summary>Copies a live database with SQLite's own backup, so that the copy is whole whatever is being written.</summary>
    public static string Backup(string database, string folder, TimeProvider clock)
    {
        Directory.CreateDirectory(folder);
        var target = Path.Combine(
            folder,
            $"{CopyPrefix}{clock.GetUtcNow().UtcDateTime.ToString(CopyTime, CultureInfo.InvariantCulture)}.db"
        );
        using var from = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = database,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
            }.ToString()
        );
        using var to = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = target, Pooling = false }.ToString());
        from.Open();
        to.Open();
        from.BackupDatabase(to);
        return target;
    }

    /// <summary>Drops copies that are not wanted any more: of each day of a week the last is kept, of each week of a quarter the
    /// last.</summary>
    /// <param name="folder">The folder of copies.</param>
    /// <param name="nowUtc">The time.</param>
    public static void Prune(string folder, DateTime nowUtc)
    {
        if (!Directory.Exists(folder))
            return;
        var copies = Directory
            .EnumerateFiles(folder, $"{CopyPrefix}*.db")
            .Select(f => (File: f, At: TimeOf(f)))
            .Where(c => c.At is not null)
            .Select(c => (c.File, At: c.At!.Value))
            .ToArray();
        if (copies.Length == 0)
            return;
        var kept = copies
            .Where(c => nowUtc - c.At < TimeSpan.FromDays(7))
            .GroupBy(c => c.At.Date)
            .Concat(
                copies
                    .Where(c => nowUtc - c.At < TimeSpan.FromDays(91))
                    .GroupBy(c => new DateTime(2000, 1, 3).AddDays(7 * Math.Floor((c.At - new DateTime(2000, 1, 3)).TotalDays / 7)))
            )
            .Select(g => g.MaxBy(c => c.At).File)
            .Append(copies.MaxBy(c => c.At).File)
            .ToHashSet(StringComparer.Ordinal);
        foreach (var (file, _) in copies.Where(c => !kept.Contains(c.File)))
            File.Delete(file);
    }

    private static DateTime? TimeOf(string file) =>
        DateTime.TryParseExact(
            Path.GetFileNameWithoutExtension(file)[CopyPrefix.Length..],
            CopyTime,
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
            out var at
        )
            ? at
            : null;

    private sealed class Durable : DbConnectionInterceptor
    {
        private const string Pragmas = "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;";

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            using var command = connection.CreateCommand();
            command.CommandText = Pragmas;
            command.ExecuteNonQuery();
        }

        public override async Task ConnectionOpenedAsync(
            DbConnection connection,
            ConnectionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            await using var command = connection.CreateCommand();
            command.CommandText = Pragmas;
            await command.ExecuteNonQueryAsync(cancellationToken);
        }
    }
}

/// <summary>Lets the migration tool make a context.</summary>
public sealed class DesignTimeFactory : IDesignTimeDbContextFactory<KelvetDb>
{
    public KelvetDb CreateDbContext(string[] args)
    {
        var options = new DbContextOptionsBuilder<KelvetDb>();
        Database.Configure(options, Path.GetTempPath());
        return new KelvetDb(options.Options);
    }
}
