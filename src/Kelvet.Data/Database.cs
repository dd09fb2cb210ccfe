using System.Data.Common;
using Kelvet.Core.Text;
using Kelvet.Data.Copies;
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

    /// <summary>Name of the file that says which version of the program was here last.</summary>
    public const string VersionFile = "kelvet.version";

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
    /// Brings the database in a folder up to date. When there is something to change in one that exists, or another version of the
    /// program was here last, a copy is made first. The caller holds the folder for this process alone.
    /// </summary>
    /// <param name="db">The database.</param>
    /// <param name="folder">The data folder.</param>
    /// <param name="copies">Where copies are made.</param>
    /// <param name="program">Version of the program.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>The path of the copy, or null when none was needed.</returns>
    /// <exception cref="DataFileException">The database is of a newer version.</exception>
    public static async Task<string?> MigrateAsync(
        KelvetDb db,
        string folder,
        CopyRoom copies,
        string program,
        CancellationToken cancel = default
    )
    {
        Directory.CreateDirectory(folder);
        var path = Path.Combine(folder, FileName);
        var version = Path.Combine(folder, VersionFile);
        ClearHalfMade(path);
        if (!File.Exists(path))
        {
            await db.Database.MigrateAsync(cancel);
            await File.WriteAllTextAsync(version, program, cancel);
            return null;
        }

        await ReleaseLockAsync(db, cancel);
        var known = db.Database.GetMigrations().ToHashSet(StringComparer.Ordinal);
        if ((await db.Database.GetAppliedMigrationsAsync(cancel)).FirstOrDefault(m => !known.Contains(m)) is { } newer)
            throw new DataFileException(
                $"it was written by a newer version of Kelvet ({newer}). Start that version, or restore a copy from the folder backups."
            );
        var isOther = !File.Exists(version) || await File.ReadAllTextAsync(version, cancel) != program;
        var isPending = (await db.Database.GetPendingMigrationsAsync(cancel)).Any();
        if (!isOther && !isPending)
            return null;
        string? copy = null;
        try
        {
            copy = copies.Make(CopyWishes.Usual with { Days = 36_500 }).Path;
        }
        catch (DataFileException) when (!isPending)
        {
            // Nothing is changed: the program starts, and the first page tells that the copy failed.
        }

        await db.Database.MigrateAsync(cancel);
        await File.WriteAllTextAsync(version, program, cancel);
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

    /// <summary>
    /// Copies a live database with SQLite's own backup, so that the copy is whole whatever is being written. The copy is one file: it
    /// needs no write-ahead log beside it.
    /// </summary>
    /// <param name="database">The database.</param>
    /// <param name="target">The copy, which must not be there.</param>
    public static void CopyTo(string database, string target)
    {
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
        using var command = to.CreateCommand();
        command.CommandText = "PRAGMA journal_mode=DELETE";
        command.ExecuteNonQuery();
    }

    private sealed class Durable : DbConnectionInterceptor
    {
        private const string Pragmas = "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;";

        /// <summary>A connection that only asks whether there is a database changes nothing of how it is written.</summary>
        private static bool OnlyReads(DbConnection connection) =>
            new SqliteConnectionStringBuilder(connection.ConnectionString).Mode == SqliteOpenMode.ReadOnly;

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            if (OnlyReads(connection))
                return;
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
            if (OnlyReads(connection))
                return;
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
