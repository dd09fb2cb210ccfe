using System.Diagnostics;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Hosting;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Copies that one can trust: made, read back, brought away, put back, byte for byte, wherever it was killed.</summary>
public class CopyTests
{
    private static readonly byte[] Photo = MakePhoto();

    private static byte[] MakePhoto()
    {
        using var picture = new SkiaSharp.SKBitmap(64, 48);
        return picture.Encode(SkiaSharp.SKEncodedImageFormat.Jpeg, 90).ToArray();
    }

    private static string NewFolder() => Directory.CreateTempSubdirectory("kelvet-test-").FullName;

    private static CopyRoom RoomOf(string folder, TimeProvider? clock = null) => new(folder, "1.0 test", clock ?? TimeProvider.System);

    private static string[] Known(string folder)
    {
        var options = new DbContextOptionsBuilder<KelvetDb>();
        Database.Configure(options, folder);
        using var db = new KelvetDb(options.Options);
        return [.. db.Database.GetMigrations()];
    }

    /// <summary>Everything that a shop has: each job's export, each photo, each row of each table.</summary>
    private static async Task<SortedDictionary<string, string>> EverythingAsync(string folder)
    {
        var all = new SortedDictionary<string, string>(StringComparer.Ordinal);
        await using (var shop = await Workshop.OpenAsync(folder: folder, keep: true))
        {
            foreach (var job in await shop.JobsAsync())
                all[$"export {job.Row.Number}"] = await shop.Client.GetStringAsync(
                    new Uri($"/jobs/{job.Row.Number}/export", UriKind.Relative)
                );
        }

        SqliteConnection.ClearAllPools();
        await using var db = new SqliteConnection($"Data Source={Path.Combine(folder, Database.FileName)};Mode=ReadOnly;Pooling=False");
        await db.OpenAsync();
        var tables = new List<string>();
        await using (var names = db.CreateCommand())
        {
            names.CommandText = "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name <> 'Cards'";
            await using var reader = await names.ExecuteReaderAsync();
            while (await reader.ReadAsync())
                tables.Add(reader.GetString(0));
        }

        foreach (var table in tables)
        {
            await using var rows = db.CreateCommand();
            rows.CommandText = $"SELECT * FROM \"{table}\" ORDER BY rowid";
            await using var reader = await rows.ExecuteReaderAsync();
            var text = new StringBuilder();
            while (await reader.ReadAsync())
            {
                for (var i = 0; i < reader.FieldCount; i++)
                    text.Append(reader.GetName(i))
                        .Append('=')
                        .Append(reader.GetValue(i) is byte[] b ? Convert.ToHexString(SHA256.HashData(b)) : reader.GetValue(i))
                        .Append('|');
                text.Append('\n');
            }

            all[$"table {table}"] = text.ToString();
        }

        foreach (var key in Directory.Exists(Path.Combine(folder, "keys")) ? Directory.GetFiles(Path.Combine(folder, "keys")) : [])
            all[$"key {Path.GetFileName(key)}"] = await File.ReadAllTextAsync(key);
        return all;
    }

    /// <summary>A shop with something of everything, its folder left behind when the shop is closed.</summary>
    private static async Task<string> FullShopAsync()
    {
        await using var shop = await Workshop.OpenAsync(demo: true, keep: true);
        await shop.WithDeskAsync(
            (desk, rules) =>
                desk.RecordWordsAsync(
                    1010,
                    new NoteEntry(Guid.NewGuid()) { Note = "with a photo" },
                    null,
                    new Attachments(Photo, [("reader", "# kelvet-codes 1\n0.1 55\n")]),
                    rules
                )
        );
        await shop.SendAsync(await shop.GetAsync("/shop"), "#ways", [("drainSeconds", "25"), ("tester", "Trusted")]);
        await shop.SendAsync(
            await shop.GetAsync("/jobs/new"),
            "#intake",
            [("Form.Title", "Sealed"), ("Form.Customer", "Nia Thorne"), ("Form.Password", "swordfish")],
            action: "/jobs/new"
        );
        return shop.Folder;
    }

    [Theory]
    [InlineData("")]
    [InlineData("correct horse battery")]
    public async Task A_copy_put_back_is_the_shop_to_the_byte(string passphrase)
    {
        var folder = await FullShopAsync();
        var before = await EverythingAsync(folder);
        Assert.True(before.Count > 30);
        var copy = RoomOf(folder).Make(CopyWishes.Usual with { Passphrase = passphrase });
        // On another machine, beside nothing; and over a shop that has gone on since, with its write-ahead log beside it.
        var other = NewFolder();
        Restoring.Stage(copy.Path, other, passphrase, TimeProvider.System, Known(other));
        Assert.NotNull(Restoring.Resume(other));
        Assert.Equal(before, await EverythingAsync(other));
        await using (var shop = await Workshop.OpenAsync(folder: folder, keep: true))
        {
            await shop.NoteAsync(1010, "since the copy");
            // The process is gone in the middle: its write-ahead log stays.
            foreach (var file in new[] { "", "-wal", "-shm" })
                File.Copy($"{Path.Combine(folder, Database.FileName)}{file}", $"{Path.Combine(folder, "left")}{file}");
        }

        SqliteConnection.ClearAllPools();
        foreach (var file in new[] { "", "-wal", "-shm" })
            File.Move($"{Path.Combine(folder, "left")}{file}", $"{Path.Combine(folder, Database.FileName)}{file}", overwrite: true);
        Assert.True(new FileInfo(Path.Combine(folder, $"{Database.FileName}-wal")).Length > 0);
        Restoring.Stage(copy.Path, folder, passphrase, TimeProvider.System, Known(folder));
        var replaced = Restoring.Resume(folder)!;
        Assert.Equal(before, await EverythingAsync(folder));
        // What was there is kept, with what was recorded since.
        Assert.True(File.Exists(Path.Combine(replaced, $"{Database.FileName}-wal")));
        Assert.Contains("since the copy", (await EverythingAsync(replaced))["export 1010"], StringComparison.Ordinal);
        if (passphrase.Length > 0)
        {
            var bytes = await File.ReadAllBytesAsync(copy.Path);
            Assert.Equal(-1, bytes.AsSpan().IndexOf("Nia Thorne"u8));
        }
    }

    /// <summary>Does the first moves of a restore as it does them, as if it was killed after them.</summary>
    private static void KilledAfter(string folder, int moves)
    {
        var ready = Path.Combine(folder, "restoring");
        var replaced = Path.Combine(folder, File.ReadAllText(Path.Combine(ready, "replaced")));
        Action[] all =
        [
            () => Directory.CreateDirectory(replaced),
            () => File.Move(Path.Combine(folder, $"{Database.FileName}-wal"), Path.Combine(replaced, $"{Database.FileName}-wal")),
            () => File.Move(Path.Combine(folder, Database.FileName), Path.Combine(replaced, Database.FileName)),
            () => Directory.Move(Path.Combine(folder, "keys"), Path.Combine(replaced, "keys")),
            () => File.WriteAllText(Path.Combine(ready, "moved"), ""),
            () => File.Move(Path.Combine(ready, Database.FileName), Path.Combine(folder, Database.FileName)),
            () => Directory.Move(Path.Combine(ready, "keys"), Path.Combine(folder, "keys")),
            () => Directory.Move(ready, Path.Combine(folder, "restoring.done")),
            () => File.Delete(Path.Combine(folder, "restoring.done", "moved")),
        ];
        foreach (var move in all.Take(moves))
            move();
    }

    [Fact]
    public async Task A_restore_goes_on_wherever_it_was_killed()
    {
        var made = await FullShopAsync();
        var before = await EverythingAsync(made);
        var copy = RoomOf(made).Make(CopyWishes.Usual);
        for (var moves = 0; moves <= 9; moves++)
        {
            var folder = NewFolder();
            File.WriteAllText(Path.Combine(folder, Database.FileName), "what was there");
            File.WriteAllText(Path.Combine(folder, $"{Database.FileName}-wal"), "its log");
            Directory.CreateDirectory(Path.Combine(folder, "keys"));
            Restoring.Stage(copy.Path, folder, "", TimeProvider.System, Known(folder));
            KilledAfter(folder, moves);
            Restoring.Resume(folder);
            Assert.Null(Restoring.Resume(folder));
            Assert.False(Restoring.IsReady(folder));
            Assert.Equal(before, await EverythingAsync(folder));
            var replaced = Assert.Single(Directory.GetDirectories(folder, $"{Restoring.Replaced}*"));
            Assert.Equal("what was there", File.ReadAllText(Path.Combine(replaced, Database.FileName)));
            Assert.Equal("its log", File.ReadAllText(Path.Combine(replaced, $"{Database.FileName}-wal")));
        }

        // Killed while it was unpacked: nothing was touched, and it is swept up.
        var half = NewFolder();
        Directory.CreateDirectory(Path.Combine(half, "restoring.part"));
        File.WriteAllText(Path.Combine(half, Database.FileName), "what was there");
        Assert.Null(Restoring.Resume(half));
        Assert.Equal([Path.Combine(half, Database.FileName)], Directory.GetFileSystemEntries(half));
    }

    [Fact]
    public async Task A_copy_that_is_not_sound_is_not_put_back_and_nothing_is_touched()
    {
        var folder = await FullShopAsync();
        var clock = new BenchClock();
        var copy = RoomOf(folder, clock).Make(CopyWishes.Usual with { Passphrase = "correct horse battery" });
        clock.Advance(TimeSpan.FromDays(1));
        var open = RoomOf(folder, clock).Make(CopyWishes.Usual);
        Refused(copy.Path, "its passphrase", "");
        Refused(copy.Path, "cannot be opened with this passphrase", "wrong one");
        var bytes = await File.ReadAllBytesAsync(open.Path);
        var bad = Path.Combine(NewFolder(), "kelvet-20260101-000000.zip");
        await File.WriteAllBytesAsync(bad, bytes[..(bytes.Length / 2)]);
        Refused(bad, "damaged");
        bytes[bytes.Length / 3] ^= 0x55;
        await File.WriteAllBytesAsync(bad, bytes);
        Refused(bad, "damaged");
        await File.WriteAllTextAsync(bad, "no archive");
        Refused(bad, "damaged, or no copy");
        Refused(Path.Combine(folder, "nowhere.zip"), "There is no copy");
        Refused(open.Path, "newer version", known: [.. Known(folder).SkipLast(1)]);
        var text = Path.Combine(NewFolder(), "kelvet-20260101-000000.db");
        await File.WriteAllTextAsync(text, "no database at all, however long it is written");
        Refused(text, "no database");
        // One of an older version, a database alone, is put back and the keys that are there stay.
        var alone = Path.Combine(NewFolder(), "kelvet-20260101-000000.db");
        Database.CopyTo(Path.Combine(folder, Database.FileName), alone);
        var keys = Directory.GetFiles(Path.Combine(folder, "keys"));
        Restoring.Stage(alone, folder, "", TimeProvider.System, Known(folder));
        Restoring.Resume(folder);
        Assert.Equal(keys, Directory.GetFiles(Path.Combine(folder, "keys")));

        void Refused(string path, string words, string passphrase = "", string[]? known = null)
        {
            var before = Directory.GetFileSystemEntries(folder).Order().ToArray();
            var error = Assert.Throws<DataFileException>(() =>
                Restoring.Stage(path, folder, passphrase, TimeProvider.System, known ?? Known(folder))
            );
            Assert.Contains(words, error.Message);
            Assert.Equal(before, Directory.GetFileSystemEntries(folder).Order());
        }
    }

    [Fact]
    public async Task Of_copies_made_within_a_second_or_before_the_clock_was_set_back_the_last_one_stays()
    {
        var folder = await FullShopAsync();
        var clock = new BenchClock();
        var room = RoomOf(folder, clock);
        var made = new List<CopyAt>();
        foreach (var step in new[] { 0, 0, 0, 1, -30 })
        {
            clock.Advance(TimeSpan.FromSeconds(step));
            made.Add(room.Make(CopyWishes.Usual));
            Assert.Equal(made[^1].Path, Assert.Single(room.All("")).Path);
        }

        Assert.Equal(made.Count, made.DistinctBy(m => m.AtUtc).Count());
        // What two restores in a second replace stands in two folders.
        foreach (var _ in made)
        {
            Restoring.Stage(made[^1].Path, folder, "", clock, Known(folder));
            Restoring.Resume(folder);
        }

        Assert.Equal(made.Count, Directory.GetDirectories(folder, $"{Restoring.Replaced}*").Length);
    }

    [Fact]
    public async Task What_cannot_be_copied_is_told_and_pushes_no_older_copy_out()
    {
        var folder = await FullShopAsync();
        var clock = new BenchClock();
        var room = RoomOf(folder, clock);
        var first = room.Make(CopyWishes.Usual);
        clock.Advance(TimeSpan.FromDays(300));
        // A second place that is not there: the copy is made all the same, and it is said.
        var away = Path.Combine(NewFolder(), "stick");
        Assert.Contains(
            "is not there",
            Assert.Throws<DataFileException>(() => room.Make(CopyWishes.Usual with { Second = away, Days = 366 })).Message
        );
        Assert.Contains("is not there", room.Status().Failure);
        Assert.Equal(2, room.All("").Count);
        Directory.CreateDirectory(away);
        var second = room.Make(CopyWishes.Usual with { Second = away, Days = 366 });
        Assert.Equal("", room.Status().Failure);
        Assert.Equal(File.ReadAllBytes(second.Path), File.ReadAllBytes(Path.Combine(away, second.Name)));
        Assert.Equal(second.AtUtc, room.Status().SecondUtc!.Value, TimeSpan.FromSeconds(1));
        // Pruned as told, in both places.
        clock.Advance(TimeSpan.FromDays(30));
        var third = room.Make(new CopyWishes(away, 1, 0, ""));
        Assert.Equal([third.Name], Directory.GetFiles(away).Select(Path.GetFileName));
        Assert.Equal([third.Name], room.All("").Select(c => c.Name));
        // A database that is damaged: the last sound copy stays, and nothing half made is left.
        SqliteConnection.ClearAllPools();
        ScrambleTable(Path.Combine(folder, Database.FileName), "Steps");
        clock.Advance(TimeSpan.FromDays(30));
        Assert.Contains("damaged", Assert.Throws<DataFileException>(() => room.Make(new CopyWishes(away, 1, 0, ""))).Message);
        Assert.Equal([third.Name], room.All("").Select(c => c.Name));
        Assert.Contains("damaged", room.Status().Failure);
        Assert.Empty(Directory.GetFileSystemEntries(room.Place, ".making*"));
        Assert.False(File.Exists(first.Path));
    }

    /// <summary>Scrambles the root page of a table, or of the first page below it.</summary>
    internal static void ScrambleTable(string file, string table)
    {
        long root,
            size;
        using (var db = new SqliteConnection($"Data Source={file};Pooling=False"))
        {
            db.Open();
            root = Asked($"SELECT rootpage FROM sqlite_master WHERE type = 'table' AND name = '{table}'");
            size = Asked("PRAGMA page_size");
            _ = Asked("PRAGMA wal_checkpoint(TRUNCATE)");

            long Asked(string sql)
            {
                using var command = db.CreateCommand();
                command.CommandText = sql;
                return Convert.ToInt64(command.ExecuteScalar(), System.Globalization.CultureInfo.InvariantCulture);
            }
        }

        using var stream = new FileStream(file, FileMode.Open, FileAccess.ReadWrite, FileShare.ReadWrite);
        stream.Position = (root - 1) * size;
        stream.Write([.. Enumerable.Range(0, (int)size).Select(i => (byte)(i * 37 + 11))]);
    }

    [Theory]
    [InlineData("Cards")]
    [InlineData("Steps")]
    [InlineData("Photos")]
    [InlineData("Captures")]
    [InlineData("Customers")]
    [InlineData("Shelf")]
    [InlineData("Catalogue")]
    [InlineData("Jobs")]
    public async Task Damage_in_a_table_is_told_with_what_still_works_and_ends_nothing(string table)
    {
        var folder = await FullShopAsync();
        ScrambleTable(Path.Combine(folder, Database.FileName), table);
        await using var shop = await Workshop.OpenAsync(folder: folder);
        var keeper = shop.Services.GetRequiredService<HealthKeeper>();
        keeper.Look();
        using var health = await shop.Client.GetAsync(new Uri("/healthz", UriKind.Relative));
        if (table == "Cards")
        {
            // What is only worked out is thrown away and made anew.
            Assert.True(keeper.Last!.Tables.IsEmpty, string.Join(' ', keeper.Last!.Findings));
            await shop.GetAsync("/");
            return;
        }

        Assert.Equal(HttpStatusCode.ServiceUnavailable, health.StatusCode);
        Assert.Contains(table, keeper.Last!.Tables);
        Assert.NotEmpty(StoreHealth.Words(table));
        using var first = await shop.Client.GetAsync(new Uri("/", UriKind.Relative));
        var told = await first.Content.ReadAsStringAsync();
        Assert.Contains("damaged", told);
        if (table != "Jobs")
        {
            Assert.Equal(HttpStatusCode.OK, first.StatusCode);
            Assert.Contains($"({table})", told.Replace($"of the {table} ", $"({table})"));
        }

        // No page answers as if the program had failed.
        foreach (
            var path in new[] { "/jobs/1010", "/jobs/1010/log", "/shelf", "/customers", "/catalogue", "/shop", "/copies", "/jobs/new" }
        )
        {
            using var page = await shop.Client.GetAsync(new Uri(path, UriKind.Relative));
            Assert.True((int)page.StatusCode != 500, $"{table}: {path} {page.StatusCode}");
        }
    }

    [Fact]
    public async Task Everything_is_read_through_by_a_command_and_a_copy_is_made_and_put_back_by_two_more()
    {
        var folder = await FullShopAsync();
        var (code, told) = await RunAsync("check", "--data", folder);
        Assert.True(code == 0, told);
        Assert.Contains("jobs: 13 sound", told);
        Assert.Contains("photos: 1 sound", told);
        Assert.Contains("everything is sound", told);
        (code, told) = await RunAsync("copy", "--data", folder);
        Assert.True(code == 0, told);
        (code, told) = await RunAsync("restore", "--look", "--data", folder);
        Assert.Equal(0, code);
        Assert.Contains("13 jobs", told);
        (code, told) = await RunAsync("restore", "--data", folder);
        Assert.True(code == 0, told);
        Assert.Contains(Restoring.Replaced, told);
        ScrambleTable(Path.Combine(folder, Database.FileName), "Photos");
        (code, told) = await RunAsync("check", "--data", folder);
        Assert.True(code == 1, told);
        Assert.Contains("(Photos)", told);
        Assert.Contains("jobs: 13 sound", told);
        (code, told) = await RunAsync("copy", "--data", folder);
        Assert.Equal(1, code);
        Assert.Single(told.Trim().Split('\n'));
    }

    private static async Task<(int Code, string Told)> RunAsync(params string[] arguments)
    {
        using var process = RunningServer.Launch(arguments);
        var told = process.StandardOutput.ReadToEndAsync();
        var wrong = process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (process.ExitCode, await told + await wrong);
    }

    [Fact]
    public async Task A_copy_is_put_back_from_its_page_and_the_server_goes_on()
    {
        var folder = await FullShopAsync();
        using var server = await RunningServer.StartAsync(folder);
        await server.PostAsync("/copies", "form[action*=Make]", "/copies?handler=Make");
        var copies = await server.GetAsync("/copies");
        var address = copies.QuerySelector("table a")!.GetAttribute("href")!;
        Assert.Contains("13 jobs", (await server.GetAsync(address)).QuerySelector("#picked")!.TextContent);
        await server.PostAsync(
            "/jobs/1010/card",
            "form[action*=Pass]",
            "/jobs/1010/card?handler=Pass",
            ("to", "Ada"),
            ("note", "after the copy")
        );
        Assert.Contains("after the copy", (await server.GetAsync("/jobs/1010/log")).Body!.TextContent);
        await server.PostAsync(address, "#picked form", "/copies?handler=Restore", ("sure", "restore"));
        var clock = Stopwatch.StartNew();
        while (true)
        {
            try
            {
                Assert.DoesNotContain("after the copy", (await server.GetAsync("/jobs/1010/log")).Body!.TextContent);
                break;
            }
            catch (Exception e) when (e is HttpRequestException or Xunit.Sdk.XunitException && clock.Elapsed < TimeSpan.FromSeconds(30))
            {
                await Task.Delay(200);
            }
        }

        Assert.Single(Directory.GetDirectories(folder, $"{Restoring.Replaced}*"));
        Assert.Contains("with a photo", (await server.GetAsync("/jobs/1010/log")).Body!.TextContent);
    }
}
