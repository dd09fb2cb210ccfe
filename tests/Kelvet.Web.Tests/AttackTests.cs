using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using SkiaSharp;

namespace Kelvet.Web.Tests;

/// <summary>Odd, broken, extreme and hostile use: nothing breaks, nothing unreadable is taken for a fact, nothing stored is lost.</summary>
public class AttackTests
{
    private static async Task<(HttpStatusCode Status, string Alert)> PostAsync(
        Workshop shop,
        string action,
        params (string, string)[] fields
    )
    {
        var (response, page) = await shop.SendAsync(await shop.GetAsync("/shop"), "form[action*=Theme]", fields, action: action);
        return (response.StatusCode, page.QuerySelector("[role=alert]")?.TextContent ?? page.QuerySelector("h1")?.TextContent ?? "");
    }

    public static TheoryData<string, string, string> Unreadable { get; } =
        new()
        {
            { "/jobs/1007?handler=Finding", "check=look-plugs&checked=supply&found=banana", "Found: \"banana\" cannot be read" },
            { "/jobs/1007?handler=Finding", "check=look-plugs&checked=supply", "Say whether it was found" },
            { "/jobs/1007?handler=Finding", "check=look-plugs&checked=No Such&found=true", "not known here" },
            { "/jobs/1007?handler=Button", "line=3", "Say what the button did" },
            { "/jobs/1007?handler=Button", "line=x&button=Orderly", "Line: \"x\" cannot be read" },
            { "/jobs/1007", "", "Say which stage" },
            { "/jobs/1007", "seen=banana", "Say which stage" },
            { "/jobs/1007", "seen=4&stall=77", "Choose where the lights pointed" },
            { "/jobs/1007", "seen=4&lines=many", "Lines: \"many\" cannot be read" },
            { "/jobs/1007", "seen=4&button=Sideways", "Button: \"Sideways\" cannot be read" },
            { "/jobs/1007", "seen=4&signs.temperature=hot", "Temperature: \"hot\" cannot be read" },
            { "/jobs/1007", "seen=4&signs.temperature=NaN", "-20 to 150" },
            { "/jobs/1007", "seen=4&signs.temperature=Infinity", "-20 to 150" },
            { "/jobs/1007", "seen=4&signs.waited=-5", "Waited: it is 0 to 7200 s" },
            { "/jobs/1007", "seen=4&signs.fans=Sing", "Fans: \"Sing\" cannot be read" },
            { "/jobs/1007", "seen=4&signs.fans=99", "Fans: \"99\" cannot be read" },
            { "/jobs/1007", "seen=4&stepId=not-an-id", "StepId: \"not-an-id\" cannot be read" },
            { "/jobs/1007", "seen=4&do=", "is not a change" },
            { "/jobs/1007?handler=On", "do=jump", "is not a change" },
            { "/jobs/1007?handler=Timer", "seconds=60", "There is no timer" },
            { "/jobs/1007?handler=Timer", "name=flash", "takes 1 to 7200" },
            { "/jobs/1007?handler=Timer", "name=flash&seconds=99999", "takes 1 to 7200" },
            { "/jobs/1007?handler=Reader", "out=true", "Say which reader" },
            { "/jobs/1007?handler=Undo", "line=zero", "Line: \"zero\" cannot be read" },
            { "/jobs/1007/part", "kind=Toaster&name=x", "Kind: \"Toaster\" cannot be read" },
            { "/jobs/1007/part", "name=x", "Choose what kind" },
            { "/jobs/1007/log/1", "Form.What=Correct&Form.Low=nine&Form.High=4&Form.Reason=r", "Low: \"nine\" cannot be read" },
            { "/jobs/1007/log/1", "Form.What=Correct&Form.High=4&Form.Reason=r", "A stage is 0 to 8" },
            { "/jobs/1007/log/1", "Form.Reason=r", "Say what is to be done" },
            { "/shop?handler=Ways", "school=advisor&drainSeconds=20&hourlyRate=60&cmos=Never", "Cmos: \"Never\" cannot be read" },
            { "/shop?handler=Ways", "school=advisor&drainSeconds=20&hourlyRate=NaN", "0 to 10,000" },
            { "/shelf?handler=Part", "kind=77&part=x", "Kind: \"77\" cannot be read" },
            { "/shop?handler=RemoveReader", "", "Say which reader" },
            { "/codes/own?handler=Maker", "maker=Tarn&tables=", "" },
            { "/codes/own?handler=Maker", "tables=", "Say how the names" },
            { "/jobs/new", "Form.Title=t&Form.Slots=9&Form.Board=b&Form.Cpu=c&Form.Supply=s", "Choose one of the layouts" },
            {
                "/jobs/new",
                "Form.Title=t&Form.Slots=4&Form.Board=b&Form.Cpu=c&Form.Supply=s&Form.CpuGraphics=maybe",
                "cannot be read here"
            },
        };

    [Theory]
    [MemberData(nameof(Unreadable))]
    public async Task What_cannot_be_read_is_refused_with_the_field_named_and_recorded_as_nothing(string action, string form, string words)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1007");
        var before = (await shop.WithStoreAsync(s => s.FindAsync(1007)))!.Bench.Lines.Length;
        var fields = form.Split('&', StringSplitOptions.RemoveEmptyEntries)
            .Select(f => (f[..f.IndexOf('=', StringComparison.Ordinal)], f[(f.IndexOf('=', StringComparison.Ordinal) + 1)..]))
            .ToArray();
        var (status, alert) = await PostAsync(shop, action, fields);
        Assert.True((int)status < 400, $"{status}");
        Assert.Contains(words, alert);
        Assert.Equal(before, (await shop.WithStoreAsync(s => s.FindAsync(1007)))!.Bench.Lines.Length);
    }

    [Theory]
    [InlineData("GET", "/jobs/1007?do=")]
    [InlineData("GET", "/jobs/1007?a=x&b=y&said=z")]
    [InlineData("GET", "/?p=-3&show=&q=%25%5c")]
    [InlineData("GET", "/codes?kind=99&q=%00")]
    [InlineData("GET", "/listen?job=x")]
    [InlineData("POST", "/listen/lights?job=1007|{\"lights\":[null],\"end\":1}")]
    [InlineData("POST", "/listen/lights|null")]
    [InlineData("POST", "/listen/taps|{\"beeps\":[null,[1]],\"end\":1}")]
    [InlineData("POST", "/listen/taps|[]")]
    [InlineData("POST", "/listen/sound|nothing")]
    [InlineData("GET", "/listen/written?kind=77&text=x")]
    [InlineData("GET", "/listen/written?kind=Post")]
    [InlineData("BREW", "/jobs/1007")]
    [InlineData("DELETE", "/shop")]
    [InlineData("PUT", "/")]
    [InlineData("GET", "/jobs/99999999999")]
    [InlineData("GET", "/jobs/1007/captures/1.txt")]
    [InlineData("GET", "/jobs/4711/live")]
    [InlineData("GET", "/error/9999")]
    public async Task Odd_requests_are_answered_and_break_nothing(string method, string address)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var parts = address.Split('|');
        using var request = new HttpRequestMessage(new HttpMethod(method), new Uri(parts[0], UriKind.Relative));
        if (parts.Length > 1)
            request.Content = new StringContent(parts[1], Encoding.UTF8, "application/json");
        using var response = await shop.Client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        Assert.NotEqual(500, (int)response.StatusCode);
        if (address.Contains("4711", StringComparison.Ordinal))
            Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
        if (method is "BREW" or "DELETE" or "PUT")
            Assert.True(response.StatusCode is HttpStatusCode.MethodNotAllowed or HttpStatusCode.BadRequest, $"{response.StatusCode}");
        Assert.Equal(SecurityHeaders.Policy, Assert.Single(response.Headers.GetValues("Content-Security-Policy")));
    }

    [Fact]
    public async Task A_field_whose_name_is_half_a_character_is_refused_and_breaks_nothing()
    {
        Assert.Contains(
            "not valid Unicode",
            Assert.Throws<Core.Text.DataFileException>(() => JobFormat.Read("{ \"\\ud800\": 1, \"format\": \"kelvet-job\" }")).Message
        );
        await using var shop = await Workshop.OpenAsync(demo: true);
        using var body = new StringContent("seen=4&%ED%A0%80=1", Encoding.ASCII, "application/x-www-form-urlencoded");
        using var response = await shop.Client.PostAsync(new Uri("/jobs/1007", UriKind.Relative), body);
        Assert.True((int)response.StatusCode < 500);
    }

    [Fact]
    public async Task One_broken_or_extreme_job_or_part_takes_nothing_else_with_it()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!.Bench;
        var extreme = job.Intake with
        {
            Title = "Eighty units",
            Parts = Parts.Of(
                job.Intake.Parts.All.Concat(
                    Enumerable
                        .Range(1, 80 - job.Intake.Parts.Count)
                        .Select(i => new MemoryStick(new UnitId($"spare-{i}"), $"spare {i}", Origin.Shelf))
                )
            ),
        };
        var eighty = await shop.OpenJobAsync(
            BenchJob.Open(extreme).Append(new TrialEntry(Guid.NewGuid(), [], Core.Observed.StageRange.At(BootStage.RunsNoPost)))
        );
        await using var scope = shop.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
        var rows = await db.Jobs.AsNoTracking().ToDictionaryAsync(j => j.Number, j => j.Id);
        foreach (
            var (number, body) in new[]
            {
                (1010, """{ "id": "11111111-1111-1111-1111-111111111111", "kind": "x-ray", "of": "the board" }"""),
                (1009, "not even JSON"),
            }
        )
            db.Steps.Add(
                new StepRow
                {
                    Id = Guid.NewGuid(),
                    JobId = rows[number],
                    Number = number == 1010 ? 1 : 3,
                    Body = body,
                }
            );
        db.Shelf.Add(new ShelfRow { UnitJson = """{ "id": "odd", "kind": "toaster", "name": "A toaster" }""" });
        await db.SaveChangesAsync();
        await db.Jobs.Where(j => j.Number == 1006).ExecuteUpdateAsync(j => j.SetProperty(x => x.IntakeJson, "{}"));
        shop.Services.GetRequiredService<JobCache>().Forget();
        shop.Services.GetRequiredService<HouseRules>().Changed();

        var list = await shop.GetAsync("/?show=all");
        Assert.Equal(12, list.QuerySelectorAll(".job-list > li").Length);
        var broken = list.QuerySelectorAll("li.unreadable");
        Assert.Equal(
            ["1010", "1009", "1006"],
            broken.Select(r => r.TextContent.Contains("Eighty", StringComparison.Ordinal) ? r.TextContent : r.Children[0].TextContent)
        );
        Assert.Contains("\"x-ray\" is none of trial", broken[0].TextContent);
        Assert.Contains("Eighty units", list.Body!.TextContent);
        await shop.GetAsync($"/jobs/{eighty}");
        await shop.GetAsync($"/jobs/{eighty}/steps");
        var page = await shop.GetAsync("/jobs/1010", HttpStatusCode.UnprocessableEntity);
        Assert.Contains("Line 1 of the log", page.Body!.TextContent);
        Assert.Contains("A part of the shelf cannot be read", (await shop.GetAsync("/shop")).Body!.TextContent);
        await shop.GetAsync("/jobs/new");
        await shop.GetAsync("/codes/aptio/55");
    }

    [Fact]
    public async Task Tables_and_preferences_that_cannot_be_read_are_told_on_the_shop_page_and_stay_stored()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await using var scope = shop.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
        db.SignalTables.Add(new SignalTableRow { Id = "odd", Text = "# something else" });
        await db.SaveChangesAsync();
        await db.Shops.ExecuteUpdateAsync(s =>
            s.SetProperty(x => x.PreferencesJson, "{ \"CmosClear\": \"Never\" }").SetProperty(x => x.School, "astrology")
        );
        shop.Services.GetRequiredService<HouseRules>().Changed();
        var text = (await shop.GetAsync("/shop")).Body!.TextContent;
        Assert.Contains("table \"odd\" cannot be read and is not used", text);
        Assert.Contains("How the shop works cannot be read", text);
        Assert.Contains("no order of work \"astrology\"", text);
        Assert.Equal("# something else", (await db.SignalTables.AsNoTracking().SingleAsync(t => t.Id == "odd")).Text);
    }

    [Theory]
    [InlineData("localhost", true)]
    [InlineData("127.0.0.1:5480", true)]
    [InlineData("[::1]:5480", true)]
    [InlineData("bench.example", false)]
    [InlineData("rebound.attacker.example:5480", false)]
    [InlineData("127.0.0.1.attacker.example", false)]
    public async Task It_answers_to_its_own_names_alone(string host, bool answers)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        using var request = new HttpRequestMessage(HttpMethod.Get, new Uri("/jobs/1007/export", UriKind.Relative))
        {
            Headers = { Host = host },
        };
        using var response = await shop.Client.SendAsync(request);
        Assert.Equal(answers ? HttpStatusCode.OK : HttpStatusCode.BadRequest, response.StatusCode);
        if (!answers)
            Assert.DoesNotContain("kelvet-job", await response.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task What_is_the_shops_own_is_kept_by_no_cache()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        foreach (
            var path in new[] { "/", "/jobs/1007", "/jobs/1007/export", "/jobs/1007/report", "/shop", "/codes/aptio.csv", "/jobs/4711" }
        )
        {
            using var response = await shop.Client.GetAsync(new Uri(path, UriKind.Relative));
            Assert.True(response.Headers.CacheControl?.NoStore, path);
        }
    }

    [Fact]
    public async Task What_is_too_large_is_told_with_the_limit_that_is_in_force()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        using var body = new ByteArrayContent(new byte[13_000_000])
        {
            Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") },
        };
        using var response = await shop.Client.PostAsync(new Uri("/jobs/1007", UriKind.Relative), body);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, response.StatusCode);
        Assert.Contains($"larger than {SecurityHeaders.MostBytes / 1_000_000} MB", await response.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task A_table_named_own_can_be_dropped()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await using var scope = shop.Services.CreateAsyncScope();
        await scope
            .ServiceProvider.GetRequiredService<SignalStore>()
            .KeepAsync(Core.Tables.SignalLibrary.Standard.Table("pc-beeps")! with { Id = "own", Name = "A table called own" });
        shop.Services.GetRequiredService<HouseRules>().Changed();
        var page = await shop.GetAsync("/codes/own");
        Assert.Contains("A table called own", page.Body!.TextContent);
        await shop.SendAsync(page, "form[action*=Drop]", [], action: "/codes/own?handler=Drop");
        Assert.DoesNotContain("A table called own", (await shop.GetAsync("/codes/own")).Body!.TextContent);
    }

    [Fact]
    public async Task Two_uploads_of_one_table_at_once_are_both_taken()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var table = Core.Tables.SignalLibrary.Standard.Table("pc-beeps")! with { Id = "mine" };
        await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(async _ =>
                {
                    await using var scope = shop.Services.CreateAsyncScope();
                    await scope.ServiceProvider.GetRequiredService<SignalStore>().KeepAsync(table);
                })
        );
        await using var after = shop.Services.CreateAsyncScope();
        Assert.Equal(1, await after.ServiceProvider.GetRequiredService<KelvetDb>().SignalTables.CountAsync(t => t.Id == "mine"));
    }

    [Fact]
    public async Task More_changes_than_are_taken_at_once_are_told_and_none_is_dropped_in_silence()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var many = string.Join('&', Enumerable.Range(0, 22).Select(i => $"do={(i % 2 == 0 ? "remove" : "connect")}%20drive"));
        Assert.Contains(
            "2 more were sent and left out",
            (await shop.GetAsync($"/jobs/1007?{many}")).QuerySelector("[role=alert]")!.TextContent
        );
        var (_, alert) = await PostAsync(shop, $"/jobs/1007?handler=Work&{many}", ("note", ""));
        Assert.Contains("20 changes before one start are the most, and 22 were sent", alert);
    }

    [Fact]
    public void A_photo_that_is_cut_off_is_refused_and_one_that_unfolds_to_too_much_is_not_unfolded()
    {
        using var bitmap = new SKBitmap(800, 600);
        bitmap.Erase(SKColors.Teal);
        foreach (var format in new[] { SKEncodedImageFormat.Png, SKEncodedImageFormat.Jpeg })
        {
            var whole = bitmap.Encode(format, 80).ToArray();
            Assert.NotNull(Photos.Clean(whole).Jpeg);
            Assert.Contains("cannot be read to its end", Photos.Clean(whole[..(whole.Length * 6 / 10)]).Why);
        }

        using var bomb = new SKBitmap(8000, 7000, SKColorType.Gray8, SKAlphaType.Opaque);
        Assert.Contains("30 million is the most", Photos.Clean(bomb.Encode(SKEncodedImageFormat.Png, 1).ToArray()).Why);
        Assert.NotNull(Photos.Clean(bomb.Encode(SKEncodedImageFormat.Jpeg, 20).ToArray()).Jpeg);
    }

    [Fact]
    public async Task Photos_are_read_two_at_a_time()
    {
        using var bitmap = new SKBitmap(5400, 5400, SKColorType.Gray8, SKAlphaType.Opaque);
        var png = bitmap.Encode(SKEncodedImageFormat.Png, 1).ToArray();
        using var room = new PhotoRoom();
        GC.Collect();
        var before = Environment.WorkingSet;
        long most = 0;
        using var stop = new CancellationTokenSource();
        var watch = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                most = Math.Max(most, Environment.WorkingSet - before);
                await Task.Delay(5);
            }
        });
        var read = await Task.WhenAll(
            Enumerable
                .Range(0, 12)
                .Select(_ =>
                    Task.Run(() =>
                        room.ReadAsync(
                            new Microsoft.AspNetCore.Http.FormFile(new MemoryStream(png), 0, png.Length, "photo", "p.png"),
                            CancellationToken.None
                        )
                    )
                )
        );
        await stop.CancelAsync();
        await watch;
        Assert.All(read, r => Assert.NotNull(r.Jpeg));
        Assert.InRange(most, 0, 900_000_000);
    }

    [Fact]
    public async Task The_error_page_carries_the_id_that_the_log_has_and_keeps_its_headers()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await using (var scope = shop.Services.CreateAsyncScope())
            await scope.ServiceProvider.GetRequiredService<KelvetDb>().Database.ExecuteSqlRawAsync("DROP TABLE Shops");
        using var response = await shop.Client.GetAsync(new Uri("/shop", UriKind.Relative));
        Assert.Equal(HttpStatusCode.InternalServerError, response.StatusCode);
        Assert.Equal(SecurityHeaders.Policy, Assert.Single(response.Headers.GetValues("Content-Security-Policy")));
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await response.Content.ReadAsStringAsync());
        Assert.NotEmpty(page.QuerySelector("#correlation")!.TextContent);
        Assert.Contains(shop.Logged.Lines, l => l.Contains("no such table: Shops", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Health_asks_the_database()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Assert.Equal("kelvet", await shop.Client.GetStringAsync(new Uri("/healthz", UriKind.Relative)));
        await using (var scope = shop.Services.CreateAsyncScope())
            await scope.ServiceProvider.GetRequiredService<KelvetDb>().Database.ExecuteSqlRawAsync("ALTER TABLE Jobs RENAME TO Gone");
        using var response = await shop.Client.GetAsync(new Uri("/healthz", UriKind.Relative));
        Assert.Equal(HttpStatusCode.ServiceUnavailable, response.StatusCode);
    }

    [Fact]
    public async Task Ceilings_are_told_on_the_shop_page_and_a_full_shop_refuses_in_words()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var room = (await shop.GetAsync("/shop")).QuerySelector("#room")!.TextContent;
        foreach (var words in new[] { "Photos", "20 GB", "Captures of codes", "Log files", "140.0 MB", "7 days and 13 weeks" })
            Assert.Contains(words, room);
        await shop.NoteAsync(1007, "photos");
        var note = (await shop.WithStoreAsync(s => s.FindAsync(1007)))!.Bench.Entries[^1];
        await using var scope = shop.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
        var job = await db.Jobs.SingleAsync(j => j.Number == 1007);
        var mending = new StrikeEntry(Guid.NewGuid(), note.Id, "more", new NoteEntry(Guid.NewGuid()) { Note = "more" });
        for (var i = 0; i < BenchState.MostPhotos; i++)
            db.Photos.Add(
                new PhotoRow
                {
                    Id = Guid.NewGuid(),
                    JobId = job.Id,
                    StepId = note.Id,
                    Jpeg = [1],
                    AtUtc = DateTime.UtcNow,
                }
            );
        await db.SaveChangesAsync();
        var refused = await Assert.ThrowsAsync<EntryRefusedException>(() =>
            shop.WithDeskAsync((desk, rules) => desk.MendAsync(1007, mending, null, new Attachments([1], []), rules))
        );
        Assert.Contains("8 photos, the most", refused.Message);
    }
}
