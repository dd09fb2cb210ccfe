using System.Diagnostics;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

namespace Kelvet.Web.Tests;

public class StorageTests
{
    [Fact]
    public async Task The_log_cannot_be_changed_or_shortened_behind_the_programs_back()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await using var db = new SqliteConnection($"Data Source={Path.Combine(shop.Folder, Database.FileName)}");
        await db.OpenAsync();
        foreach (var sql in new[] { "UPDATE Steps SET Body = '{}'", "DELETE FROM Steps" })
        {
            await using var command = db.CreateCommand();
            command.CommandText = sql;
            var refused = await Assert.ThrowsAsync<SqliteException>(() => command.ExecuteNonQueryAsync());
            Assert.Contains("append-only", refused.Message);
        }
    }

    [Fact]
    public async Task The_database_is_durable_and_checks_its_keys()
    {
        await using var shop = await Workshop.OpenAsync();
        var options = new DbContextOptionsBuilder<KelvetDb>();
        Database.Configure(options, shop.Folder);
        await using var db = new KelvetDb(options.Options);
        await db.Database.OpenConnectionAsync();
        Assert.Equal("wal", await Scalar("PRAGMA journal_mode"));
        Assert.Equal("2", await Scalar("PRAGMA synchronous"));
        Assert.Equal("1", await Scalar("PRAGMA foreign_keys"));

        async Task<string?> Scalar(string sql)
        {
            await using var command = db.Database.GetDbConnection().CreateCommand();
            command.CommandText = sql;
            return (await command.ExecuteScalarAsync())?.ToString();
        }
    }

    [Fact]
    public async Task Two_benches_that_write_at_once_lose_nothing()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await Task.WhenAll(Enumerable.Range(0, 4).Select(n => shop.NoteAsync(1010, $"note {n}")));
        var job = await shop.WithStoreAsync(s => s.FindAsync(1010));
        Assert.Equal([1, 2, 3, 4], job!.Bench.Lines.Select(l => l.Number));
    }

    [Fact]
    public async Task A_migration_is_applied_after_a_copy_of_what_was_there()
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
        var options = new DbContextOptionsBuilder<KelvetDb>();
        Database.Configure(options, folder);
        await using (var db = new KelvetDb(options.Options))
        {
            // A database from before the first migration, with something in it.
            await db.GetService<IMigrator>().MigrateAsync("0");
            await db.Database.ExecuteSqlRawAsync("CREATE TABLE Keepsake (Word TEXT); INSERT INTO Keepsake VALUES ('kept');");
            var copies = new CopyRoom(folder, "1.0", TimeProvider.System);
            var copy = await Database.MigrateAsync(db, folder, copies, "1.0");
            Assert.NotNull(copy);
            CopyFile.Verify(copy, into: Path.Combine(folder, "looked-into"));
            await using var old = new SqliteConnection(
                $"Data Source={Path.Combine(folder, "looked-into", Database.FileName)};Pooling=False"
            );
            await old.OpenAsync();
            await using var command = old.CreateCommand();
            command.CommandText = "SELECT Word FROM Keepsake";
            Assert.Equal("kept", await command.ExecuteScalarAsync());
            Assert.Null(await Database.MigrateAsync(db, folder, copies, "1.0"));
            // Another version of the program changes nothing in it and makes a copy all the same: a way back.
            Assert.NotNull(await Database.MigrateAsync(db, folder, copies, "1.1"));
        }

        SqliteConnection.ClearAllPools();
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task A_killed_server_loses_no_acknowledged_step()
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
        var acknowledged = 0;
        for (var round = 0; round < 2; round++)
        {
            using var server = await RunningServer.StartAsync(folder);
            for (var i = 0; i < 5; i++)
            {
                await server.RecordAsync("/jobs/1010", "4");
                acknowledged++;
            }

            // The next moment after the answer, without any warning.
            server.Kill();
        }

        using var last = await RunningServer.StartAsync(folder);
        var page = await last.GetAsync("/jobs/1010/log");
        Assert.Equal(acknowledged, page.QuerySelectorAll("tr[id^=line-]").Length);
        last.Kill();
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task What_keeps_it_from_starting_is_said_in_one_line()
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
        using var first = await RunningServer.StartAsync(folder);
        await SaysAsync("already runs on the data", "--data", folder, "--port", "0");
        await SaysAsync("is taken by another program", "--data", folder + "-2", "--port", $"{first.Port}");
        await SaysAsync("is not a port", "--data", folder + "-2", "--port", "99999");
        await SaysAsync("cannot be written", "--data", "/proc/kelvet", "--port", "0");
        first.Kill();
        Directory.Delete(folder, true);
        Directory.Delete(folder + "-2", true);

        static async Task SaysAsync(string words, params string[] arguments)
        {
            using var process = RunningServer.Launch(arguments);
            var error = await process.StandardError.ReadToEndAsync();
            await process.WaitForExitAsync();
            Assert.NotEqual(0, process.ExitCode);
            Assert.Contains(words, error);
            Assert.Single(error.Trim().Split('\n'));
        }
    }

    [Fact]
    public async Task Of_two_that_want_one_port_at_the_same_moment_the_later_says_so_in_one_line()
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
        var port = RunningServer.FreePort();
        using var one = RunningServer.Launch("--data", Path.Combine(folder, "1"), "--demo", "--port", $"{port}");
        using var two = RunningServer.Launch("--data", Path.Combine(folder, "2"), "--demo", "--port", $"{port}");
        Process[] both = [one, two];
        await Task.WhenAny(both.Select(p => p.WaitForExitAsync()));
        foreach (var running in both.Where(p => !p.HasExited))
            running.Kill();
        foreach (var refused in both.Where(p => p.HasExited && p.ExitCode == 1))
        {
            // The built tests have no static files beside them, of which the server warns.
            var said = (await refused.StandardError.ReadToEndAsync())
                .Trim()
                .Split('\n')
                .Where(l => !l.Contains("WebRootPath", StringComparison.Ordinal));
            Assert.Equal($"Port {port} is taken by another program. Choose another with --port.", Assert.Single(said));
        }

        Assert.Contains(both, p => p.HasExited && p.ExitCode == 1);
        await Task.WhenAll(both.Select(p => p.WaitForExitAsync()));
        Directory.Delete(folder, true);
    }
}
