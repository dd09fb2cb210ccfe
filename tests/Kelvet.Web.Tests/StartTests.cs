using System.Diagnostics;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Hosting;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Starts after kills, power cuts, other versions and the first edition; what the data folder holds.</summary>
public class StartTests
{
    private static string NewFolder() => Directory.CreateTempSubdirectory("kelvet-test-").FullName;

    private static string FileIn(string folder) => Path.Combine(folder, Database.FileName);

    private static async Task SqlAsync(string folder, string sql)
    {
        await using var db = new SqliteConnection($"Data Source={FileIn(folder)};Pooling=False");
        await db.OpenAsync();
        await using var command = db.CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync();
    }

    private static async Task<(int Code, string Said)> EndAsync(string folder)
    {
        using var process = RunningServer.Launch("--data", folder, "--port", "0");
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(40));
        await process.WaitForExitAsync(limit.Token);
        return (process.ExitCode, (await process.StandardError.ReadToEndAsync()).Trim());
    }

    [Fact]
    public async Task A_start_that_was_killed_while_it_migrated_locks_nobody_out()
    {
        var folder = NewFolder();
        using (await RunningServer.StartAsync(folder)) { }

        await SqlAsync(folder, "INSERT OR REPLACE INTO __EFMigrationsLock (Id, Timestamp) VALUES (1, '2026-01-01 00:00:00+00:00')");
        var clock = Stopwatch.StartNew();
        using var again = await RunningServer.StartAsync(folder);
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(30));
        Assert.Equal(12, (await again.GetAsync("/?show=all")).QuerySelectorAll(".job-list > li").Length);
    }

    [Fact]
    public async Task A_first_start_that_was_killed_while_the_file_was_made_is_gone_past()
    {
        var folder = NewFolder();
        foreach (var left in new[] { "", "-wal", "-shm" })
            await File.WriteAllBytesAsync(FileIn(folder) + left, []);
        using (var server = await RunningServer.StartAsync(folder, "--demo"))
            Assert.Equal(12, (await server.GetAsync("/?show=all")).QuerySelectorAll(".job-list > li").Length);

        // One that got as far as the lock and the empty history.
        var half = NewFolder();
        await SqlAsync(
            half,
            "CREATE TABLE __EFMigrationsLock (Id INTEGER NOT NULL PRIMARY KEY, Timestamp TEXT NOT NULL); INSERT INTO "
                + "__EFMigrationsLock VALUES (1, 'x'); CREATE TABLE __EFMigrationsHistory (MigrationId TEXT NOT NULL PRIMARY "
                + "KEY, ProductVersion TEXT NOT NULL);"
        );
        using var second = await RunningServer.StartAsync(half, "--demo");
        Assert.Equal(12, (await second.GetAsync("/?show=all")).QuerySelectorAll(".job-list > li").Length);
    }

    [Fact]
    public async Task A_database_of_a_newer_version_is_refused_in_one_line_and_left_as_it_is()
    {
        var folder = NewFolder();
        using (await RunningServer.StartAsync(folder)) { }

        await SqlAsync(folder, "INSERT INTO __EFMigrationsHistory VALUES ('20991231235959_Later', '11.0.0')");
        var (code, said) = await EndAsync(folder);
        Assert.Equal(1, code);
        Assert.Contains(
            "written by a newer version of Kelvet (20991231235959_Later)",
            Assert.Single(said.Split('\n'), l => !l.Contains("WebRootPath", StringComparison.Ordinal))
        );
    }

    [Fact]
    public async Task A_start_that_cannot_read_its_readers_runs_says_so_and_ends_as_failed()
    {
        var folder = NewFolder();
        using (await RunningServer.StartAsync(folder)) { }

        await SqlAsync(folder, "DROP TABLE Readers");
        using var process = RunningServer.Launch("--data", folder, "--port", "0");
        string? line;
        while ((line = await process.StandardOutput.ReadLineAsync()) is not null && !line.Contains("is ready", StringComparison.Ordinal))
        { }

        Assert.NotNull(line);
        using (Process.Start("kill", $"-TERM {process.Id}"))
            await process.WaitForExitAsync();
        Assert.Equal(1, process.ExitCode);
        Assert.Contains(
            "readers of POST codes cannot be read",
            string.Concat(Directory.EnumerateFiles(Path.Combine(folder, "logs")).Select(File.ReadAllText))
        );
    }

    [Fact]
    public async Task What_happens_is_in_the_log_file_with_the_id_that_an_error_page_shows()
    {
        var folder = NewFolder();
        using var server = await RunningServer.StartAsync(folder);
        await server.RecordAsync("/jobs/1010", "4");
        await SqlAsync(folder, "PRAGMA foreign_keys = OFF; DROP TABLE Shelf");
        using var client = new HttpClient();
        using var broken = await client.GetAsync(new Uri($"http://127.0.0.1:{server.Port}/jobs/new"));
        Assert.Equal(500, (int)broken.StatusCode);
        var id = System
            .Text.RegularExpressions.Regex.Match(await broken.Content.ReadAsStringAsync(), "id=\"correlation\">([^<]+)<")
            .Groups[1]
            .Value;
        server.Kill();
        var log = string.Concat(Directory.EnumerateFiles(Path.Combine(folder, "logs")).Select(File.ReadAllText));
        Assert.Contains(id, log);
        Assert.Contains("no such table: Shelf", log);
        Assert.Matches(@"Command ""?record start""? on job 1010: ""?done""?, line 1, [\d.]+ ms", log);
        Assert.Contains("is ready on", log);
    }

    [Fact]
    public async Task A_request_that_is_half_sent_when_it_is_told_to_stop_is_still_answered()
    {
        using var server = await RunningServer.StartAsync(NewFolder());
        using var client = new System.Net.Sockets.TcpClient("127.0.0.1", server.Port);
        await using var line = client.GetStream();
        await line.WriteAsync("POST /who HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\nContent-Length: 10\r\n\r\nhalf="u8.ToArray());
        await Task.Delay(200);
        var ended = server.StopAsync();
        // Longer than a command is given to end by itself.
        await Task.Delay(3000);
        Assert.False(ended.IsCompleted);
        await line.WriteAsync("whole"u8.ToArray());
        using var reader = new StreamReader(line);
        Assert.StartsWith("HTTP/1.1 ", await reader.ReadToEndAsync());
        Assert.Equal(0, await ended);
    }

    [Fact]
    public async Task Files_of_the_data_folder_are_their_owners_alone()
    {
        var folder = NewFolder();
        File.SetUnixFileMode(
            folder,
            UnixFileMode.UserRead
                | UnixFileMode.UserWrite
                | UnixFileMode.UserExecute
                | UnixFileMode.GroupRead
                | UnixFileMode.OtherRead
                | UnixFileMode.OtherExecute
        );
        using var server = await RunningServer.StartAsync(folder);
        await server.RecordAsync("/jobs/1010", "4");
        const UnixFileMode others =
            UnixFileMode.GroupRead
            | UnixFileMode.GroupWrite
            | UnixFileMode.GroupExecute
            | UnixFileMode.OtherRead
            | UnixFileMode.OtherWrite
            | UnixFileMode.OtherExecute;
        foreach (var path in Directory.EnumerateFileSystemEntries(folder, "*", SearchOption.AllDirectories).Append(folder))
            Assert.Equal((UnixFileMode)0, File.GetUnixFileMode(path) & others);
    }

    /// <summary>What a row of a table is known by.</summary>
    private static string Telling(string table) =>
        table switch
        {
            "Steps" => "Body",
            "Photos" => "Jpeg",
            "Captures" or "SignalTables" => "Text",
            "Makers" => "Maker || Tables",
            "Readers" => "Name || Address",
            "Shelf" => "UnitJson",
            _ => "Name",
        };

    [Fact]
    public async Task A_database_of_the_first_edition_opens_and_keeps_everything()
    {
        var folder = NewFolder();
        File.Copy(Path.Combine(AppContext.BaseDirectory, "data", "first-edition.db"), FileIn(folder));
        Dictionary<string, string> Content(string file)
        {
            using var db = new SqliteConnection($"Data Source={file};Pooling=False");
            db.Open();
            return new[]
            {
                "Steps",
                "Photos",
                "Captures",
                "SignalTables",
                "Makers",
                "Readers",
                "Shelf",
                "Technicians",
                "Timers",
                "Jobs",
            }.ToDictionary(
                t => t,
                t =>
                {
                    using var command = db.CreateCommand();
                    command.CommandText =
                        t == "Jobs"
                            ? "SELECT group_concat(Number || Title || Customer || IntakeJson || OpenedAtUtc || ClosingWords "
                                + "|| FoundUnits || ProvedModes || Power, '|') FROM (SELECT * FROM Jobs ORDER BY Id)"
                            : $"SELECT count(*) || group_concat(hex(quote({Telling(t)}))) FROM {t}";
                    return $"{command.ExecuteScalar()}";
                }
            );
        }

        var before = Content(FileIn(folder));
        await using (var shop = await Workshop.OpenAsync(folder: folder))
        {
            Assert.Equal(before, Content(FileIn(folder)));
            var copy = Assert.Single(Directory.EnumerateFiles(Path.Combine(folder, CopyRoom.FolderName), "*.zip"));
            CopyFile.Verify(copy, into: Path.Combine(folder, "looked-into"));
            Assert.Equal(before, Content(Path.Combine(folder, "looked-into", Database.FileName)));

            // And all of it is in use: ways, learnt odds, tables, photo, capture, power, every page.
            var rules = await shop.Services.GetRequiredService<HouseRules>().CurrentAsync();
            Assert.Equal(("power-first", 25, 72.0), (rules.School.Id, rules.DrainSeconds, rules.Preferences.HourlyRate));
            Assert.Empty(rules.Unreadable);
            Assert.Equal(2, rules.Learnt.Sum(l => l.Tally.Cases));
            Assert.NotNull(rules.Atlas.Signals.Table("own-beeps"));
            var log = await shop.GetAsync("/jobs/1010/log");
            Assert.NotNull(log.QuerySelector("a.photo"));
            Assert.NotNull(log.QuerySelector("a[href*=captures]"));
            Assert.Equal(Power.Off, (await shop.WithStoreAsync(s => s.FindAsync(1009)))!.Row.Power);
            Assert.Equal(10, (await shop.GetAsync("/?show=all")).QuerySelectorAll(".job-list > li").Length);
            for (var job = 1001; job <= 1010; job++)
            {
                foreach (var path in new[] { "", "/log", "/steps", "/report", "/close", "/export" })
                    await shop.GetAsync($"/jobs/{job}{path}");
            }

            await shop.RecordAsync("/jobs/1010", "4");
        }
    }

    [Fact]
    public void Copies_of_the_database_are_kept_by_day_for_a_week_and_by_week_for_a_quarter()
    {
        var folder = NewFolder();
        var now = new DateTime(2026, 11, 26, 12, 0, 0, DateTimeKind.Utc);
        for (var hours = 0; hours < 24 * 200; hours += 7)
            File.WriteAllText(Path.Combine(folder, $"kelvet-{now.AddHours(-hours):yyyyMMdd-HHmmss}.zip"), "");
        File.WriteAllText(Path.Combine(folder, "kelvet-keepsake.zip"), "");
        CopyRoom.Prune(folder, 7, 13, now);
        var kept = Directory.EnumerateFiles(folder).Select(f => Path.GetFileNameWithoutExtension(f)!).Order().ToArray();
        Assert.Contains("kelvet-keepsake", kept);
        Assert.Contains($"kelvet-{now:yyyyMMdd-HHmmss}", kept);
        Assert.InRange(kept.Length, 7 + 13 - 2, 8 + 14 + 1);
        Assert.True(kept[0].CompareTo($"kelvet-{now.AddDays(-91):yyyyMMdd}") >= 0, kept[0]);
        CopyRoom.Prune(folder, 7, 13, now);
        Assert.Equal(kept.Length, Directory.EnumerateFiles(folder).Count());
    }
}
