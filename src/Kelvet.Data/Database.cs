using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Kelvet.Data;

/// <summary>Where the database lies and how it is opened.</summary>
public static class Database
{
    public const string FileName = "kelvet.db";

    /// <summary>Options for a database file: foreign keys on, write-ahead log, every commit on the disk before it is acknowledged.</summary>
    public static void Configure(DbContextOptionsBuilder options, string folder) => options
        .UseSqlite(new SqliteConnectionStringBuilder
        {
            DataSource = Path.Combine(folder, FileName),
            ForeignKeys = true,
            DefaultTimeout = 10,
        }.ToString())
        .AddInterceptors(new Durable());

    /// <summary>
    /// Brings the database in a folder up to date. When there is something to change in one that exists, a copy
    /// is made first.
    /// </summary>
    /// <returns>The path of the copy, or null when none was needed.</returns>
    public static async Task<string?> MigrateAsync(KelvetDb db, string folder, TimeProvider clock, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(folder);
        var path = Path.Combine(folder, FileName);
        string? copy = null;
        if (File.Exists(path) && new FileInfo(path).Length > 0)
        {
            var pending = (await db.Database.GetPendingMigrationsAsync(cancel)).ToArray();
            if (pending.Length > 0) copy = Backup(path, Path.Combine(folder, "backups"), clock);
        }

        await db.Database.MigrateAsync(cancel);
        return copy;
    }

    /// <summary>Copies a live database with SQLite's own backup, so that the copy is whole whatever is being written.</summary>
    public static string Backup(string database, string folder, TimeProvider clock)
    {
        Directory.CreateDirectory(folder);
        var target = Path.Combine(folder, $"kelvet-{clock.GetUtcNow():yyyyMMdd-HHmmss}.db");
        using var from = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = database, Mode = SqliteOpenMode.ReadOnly, Pooling = false }.ToString());
        using var to = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = target, Pooling = false }.ToString());
        from.Open();
        to.Open();
        from.BackupDatabase(to);
        return target;
    }

    private sealed class Durable : DbConnectionInterceptor
    {
        private const string Pragmas = "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;";

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            using var command = connection.CreateCommand();
            command.CommandText = Pragmas;
            command.ExecuteNonQuery();
        }

        public override async Task ConnectionOpenedAsync(DbConnection connection, ConnectionEndEventData eventData, CancellationToken cancellationToken = default)
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
