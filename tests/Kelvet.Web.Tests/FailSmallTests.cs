using System.Net;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>What goes wrong stays small: one form, one line, one job, one cache.</summary>
public class FailSmallTests
{
    private static async Task<BenchJob> JobAsync(Workshop shop, int number) => (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;

    private static async Task<T> WithDbAsync<T>(Workshop shop, Func<KelvetDb, Task<T>> use)
    {
        await using var scope = shop.Services.CreateAsyncScope();
        return await use(scope.ServiceProvider.GetRequiredService<KelvetDb>());
    }

    /// <summary>Puts a line into a log behind the program's back.</summary>
    private static Task<int> SmuggleAsync(Workshop shop, int number, string body) =>
        WithDbAsync(
            shop,
            async db =>
            {
                var id = await db.Jobs.Where(j => j.Number == number).Select(j => j.Id).SingleAsync();
                var last = await db.Steps.Where(s => s.JobId == id).MaxAsync(s => (int?)s.Number) ?? 0;
                db.Steps.Add(
                    new StepRow
                    {
                        Id = Guid.Parse("22222222-2222-2222-2222-222222222222"),
                        JobId = id,
                        Number = last + 1,
                        Body = body,
                        AtUtc = DateTime.UtcNow,
                    }
                );
                return await db.SaveChangesAsync();
            }
        );

    [Theory]
    [InlineData("３ short", "3 short")]
    [InlineData("٣", null)]
    public async Task A_digit_of_another_script_takes_no_page_down(string beeps, string? kept)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var (response, page) = await shop.RecordAsync("/jobs/1010", "4", ("signs.beeps", beeps));
        if (kept is null)
        {
            Assert.Contains("Beeps: ", page.QuerySelector("[role=alert]")!.TextContent);
            Assert.Contains("is not a beep pattern", page.QuerySelector("[role=alert]")!.TextContent);
            Assert.Empty((await JobAsync(shop, 1010)).Lines);
        }
        else
        {
            Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
            Assert.Equal(kept, (await JobAsync(shop, 1010)).Trials[0].Entry.Signs.Beeps);
        }

        foreach (
            var path in new[]
            {
                "/",
                $"/?q={Uri.EscapeDataString(beeps)}",
                "/jobs/1010",
                "/jobs/1010/log",
                "/jobs/1010/report",
                "/jobs/1010/close",
            }
        )
            await shop.GetAsync(path);
    }

    [Theory]
    [InlineData("""{ "id": "22222222-2222-2222-2222-222222222222", "kind": "x-ray", "of": "the board" }""")]
    [InlineData("not even JSON")]
    [InlineData("""{ "id": "22222222-2222-2222-2222-222222222222", "kind": "trial", "changes": ["remove nobody"], "seen": "4" }""")]
    public async Task A_line_that_cannot_be_read_is_one_row_and_is_struck_on_one_page(string body)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await SmuggleAsync(shop, 1009, body);
        shop.Services.GetRequiredService<JobCache>().Forget();
        var row = (await shop.GetAsync("/?show=all")).QuerySelector(".unreadable")!;
        Assert.Contains("1009", row.TextContent);
        var address = row.QuerySelector("a")!.GetAttribute("href")!;
        await shop.GetAsync("/jobs/1009", HttpStatusCode.UnprocessableEntity);
        var lines = await shop.GetAsync(address);
        var number = lines.QuerySelectorAll("li.panel").Length;
        // A reason is asked for; then it is struck, and the job works.
        var (_, refused) = await shop.SendAsync(lines, $"#line-{number} form", [("reason", " ")], action: "/jobs/1009/lines");
        Assert.Contains("Say why", refused.QuerySelector("[role=alert]")!.TextContent);
        var (done, _) = await shop.SendAsync(lines, $"#line-{number} form", [], action: "/jobs/1009/lines");
        Assert.Equal(HttpStatusCode.Redirect, done.StatusCode);
        foreach (var path in new[] { "/jobs/1009", "/jobs/1009/log", "/jobs/1009/report", "/jobs/1009/lines" })
            await shop.GetAsync(path);
        Assert.Empty((await shop.GetAsync("/?show=all")).QuerySelectorAll(".unreadable"));
        await shop.RecordAsync("/jobs/1009", "4");
        // After a restart it is read the same way.
        shop.Services.GetRequiredService<JobCache>().Forget();
        Assert.Equal(number, (await JobAsync(shop, 1009)).Lines.Single(l => l.StruckBy is not null).Number);
        Assert.Contains(
            body[..8],
            await (await shop.Client.GetAsync(new Uri("/jobs/1009/lines?handler=File", UriKind.Relative))).Content.ReadAsStringAsync()
        );
    }

    [Fact]
    public async Task A_job_that_works_is_mended_in_its_log_and_not_on_that_page()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var (_, page) = await shop.SendAsync(await shop.GetAsync("/jobs/1009/lines"), "#line-1 form", [], action: "/jobs/1009/lines");
        Assert.Contains("mend it in its log", page.QuerySelector("[role=alert]")!.TextContent);
        Assert.All((await JobAsync(shop, 1009)).Lines, l => Assert.Null(l.StruckBy));
    }

    /// <summary>Fails on what it is told to, as a mistake of the program would.</summary>
    private sealed class Mistaken(LineJudge judge) : ILineJudge
    {
        public Task JudgeAsync(StoredJob longer, IReadOnlyList<Entry> lines, CancellationToken cancel) =>
            lines.Any(l => l.Note == "poison") ? throw new FormatException("a digit") : judge.JudgeAsync(longer, lines, cancel);
    }

    [Fact]
    public async Task A_line_that_cannot_be_worked_out_is_refused_as_a_mistake_of_the_program_and_not_stored()
    {
        await using var shop = await Workshop.OpenAsync(
            demo: true,
            also: s => s.AddSingleton<LineJudge>().AddSingleton<ILineJudge, Mistaken>()
        );
        var lines = (await JobAsync(shop, 1010)).Lines.Length;
        var refused = await Assert.ThrowsAsync<EntryRefusedException>(() => shop.NoteAsync(1010, "poison"));
        Assert.Contains("a mistake of the program", refused.Message);
        Assert.Contains(
            shop.Logged.Lines,
            l => l.StartsWith("Error", StringComparison.Ordinal) && l.Contains("NoteEntry", StringComparison.Ordinal)
        );
        await shop.NoteAsync(1010, "sound");
        Assert.Equal(lines + 1, (await JobAsync(shop, 1010)).Lines.Length);
        // An import with such a line is refused whole.
        var job = await JobAsync(shop, 1010);
        var jobs = await WithDbAsync(shop, db => db.Jobs.CountAsync());
        await Assert.ThrowsAsync<EntryRefusedException>(() =>
            shop.OpenJobAsync(job.Append(new NoteEntry(Guid.NewGuid()) { Note = "poison" }))
        );
        Assert.Equal(jobs, await WithDbAsync(shop, db => db.Jobs.CountAsync()));
    }

    [Fact]
    public async Task A_template_fills_the_form_and_keeps_what_was_typed()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/new");
        foreach (var template in await WithDbAsync(shop, db => db.Machines.Where(m => m.IsTemplate).ToListAsync()))
        {
            var (response, filled) = await shop.SendAsync(
                page,
                "#intake",
                [("Form.Title", "Typed before"), ("Form.Customer", "Nia Thorne")],
                action: $"/jobs/new?handler=Machine&machine={template.Id}"
            );
            Assert.Equal(HttpStatusCode.OK, response.StatusCode);
            Assert.Equal("Typed before", filled.QuerySelector("[name='Form.Title']")!.GetAttribute("value"));
            Assert.Equal("Nia Thorne", filled.QuerySelector("[name='Form.Customer']")!.GetAttribute("value"));
            var (opened, _) = await shop.SendAsync(filled, "#intake", [], action: "/jobs/new");
            Assert.Equal(HttpStatusCode.Redirect, opened.StatusCode);
        }

        // One that was kept with places that hold what is not its own, as older versions did; and one that is no machine at all.
        await WithDbAsync(
            shop,
            async db =>
            {
                var row = await db.Machines.FirstAsync(m => m.IsTemplate);
                var kept = JobFormat.ReadIntake(row.IntakeJson);
                row.IntakeJson = JobFormat.Write(kept with { Received = kept.Received.WithUnit(Place.Outlet, new UnitId("outlet")) });
                (await db.Machines.Where(m => m.IsTemplate).OrderBy(m => m.Id).LastAsync()).IntakeJson = "{}";
                return await db.SaveChangesAsync();
            }
        );
        foreach (var template in await WithDbAsync(shop, db => db.Machines.Where(m => m.IsTemplate).ToListAsync()))
        {
            var (response, filled) = await shop.SendAsync(
                page,
                "#intake",
                [("Form.Title", "Typed before")],
                action: $"/jobs/new?handler=Machine&machine={template.Id}"
            );
            Assert.Equal(HttpStatusCode.OK, response.StatusCode);
            Assert.Equal("Typed before", filled.QuerySelector("[name='Form.Title']")!.GetAttribute("value"));
            if (template.IntakeJson == "{}")
                Assert.Contains("cannot be read", filled.Body!.TextContent);
        }
    }

    [Fact]
    public async Task A_form_that_is_refused_keeps_what_was_typed_in_every_kind_of_field()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var (_, page) = await shop.SendAsync(
            await shop.GetAsync("/shelf"),
            "form[action*=Part]",
            [("kind", "Cooler"), ("part", "Tarn tower"), ("serial", "T-9"), ("quantity", "5000"), ("forSale", "true")]
        );
        Assert.Contains("1 to 999", page.QuerySelector("[role=alert]")!.TextContent);
        Assert.Equal("Tarn tower", page.QuerySelector("form [name=part]")!.GetAttribute("value"));
        Assert.Equal("5000", page.QuerySelector("form [name=quantity]")!.GetAttribute("value"));
        Assert.NotNull(page.QuerySelector("form [name=kind] option[value=Cooler][selected]"));
        Assert.NotNull(page.QuerySelector("form [name=forSale][checked]"));
        // The other form of the page is as it was.
        var (_, ways) = await shop.SendAsync(await shop.GetAsync("/shop"), "#ways", [("drainSeconds", "9999"), ("pin", "Straighten")]);
        Assert.Equal("9999", ways.QuerySelector("#ways [name=drainSeconds]")!.GetAttribute("value"));
        Assert.NotNull(ways.QuerySelector("#ways [name=pin] option[value=Straighten][selected]"));
        Assert.Equal("Fen Lane Computer Repairs, Harrowmere", ways.QuerySelector("form [name=name]")!.GetAttribute("value"));
    }

    [Fact]
    public async Task The_same_form_twice_is_done_once_and_leads_to_the_same_place()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var intake = await shop.GetAsync("/jobs/new");
        (string, string)[] told = [("Form.Title", "Twice"), ("Form.Customer", "Nia Thorne"), ("Form.Phone", "01632 960199")];
        var first = (await shop.SendAsync(intake, "#intake", told, action: "/jobs/new")).Response.Headers.Location;
        var second = (await shop.SendAsync(intake, "#intake", told, action: "/jobs/new")).Response.Headers.Location;
        Assert.Equal(first, second);
        Assert.Single(await WithDbAsync(shop, db => db.Jobs.Where(j => j.Title == "Twice").ToListAsync()));
        Assert.Single(await WithDbAsync(shop, db => db.Customers.Where(c => c.Name == "Nia Thorne").ToListAsync()));

        // A shelf part, at the same moment from two clicks.
        var shelf = await shop.GetAsync("/shelf");
        (string, string)[] part = [("kind", "Cooler"), ("part", "Tarn tower"), ("quantity", "1")];
        var both = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => shop.SendAsync(shelf, "form[action*=Part]", part)));
        Assert.All(both, b => Assert.Equal(HttpStatusCode.Redirect, b.Response.StatusCode));
        Assert.Single(await WithDbAsync(shop, db => db.Shelf.Where(s => s.UnitJson.Contains("Tarn tower")).ToListAsync()));

        // Passed on: one line of the log.
        var card = await shop.GetAsync("/jobs/1010/card");
        var lines = (await JobAsync(shop, 1010)).Lines.Length;
        foreach (var _ in new[] { 1, 2 })
            await shop.SendAsync(card, "form[action*=Pass]", [("to", "Jorin Pell"), ("note", "over to you")]);
        Assert.Equal(lines + 1, (await JobAsync(shop, 1010)).Lines.Length);
        // A page that is loaded anew has another id: what is meant twice is done twice.
        await shop.SendAsync(await shop.GetAsync("/jobs/1010/card"), "form[action*=Pass]", [("to", "Jorin Pell"), ("note", "over to you")]);
        Assert.Equal(lines + 2, (await JobAsync(shop, 1010)).Lines.Length);
    }

    [Fact]
    public async Task Two_screens_on_a_customer_do_not_overwrite_each_other()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var (one, other) = (await shop.GetAsync("/customers/1"), await shop.GetAsync("/customers/1"));
        await shop.SendAsync(one, "form.grid-form", [("phone", "01632 960001")], action: "/customers/1");
        var (_, told) = await shop.SendAsync(other, "form.grid-form", [("reach", "never before ten")], action: "/customers/1");
        Assert.Contains("on another screen", told.QuerySelector("[role=alert]")!.TextContent);
        Assert.Contains("01632 960001", told.QuerySelector("[role=alert]")!.TextContent);
        Assert.Equal("never before ten", told.QuerySelector("[name=reach]")!.GetAttribute("value"));
        var kept = await WithDbAsync(shop, db => db.Customers.SingleAsync(c => c.Id == 1));
        Assert.Equal("01632 960001", kept.Phone);
        // Kept again, knowing of it.
        await shop.SendAsync(told, "form.grid-form", [("phone", "01632 960001"), ("reach", "never before ten")], action: "/customers/1");
        Assert.Equal("never before ten", (await WithDbAsync(shop, db => db.Customers.SingleAsync(c => c.Id == 1))).Reach);
    }

    [Fact]
    public async Task What_another_program_holds_is_told_in_words_and_nothing_is_half_done()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var close = await shop.GetAsync("/jobs/1008/close");
        var shelf = await shop.GetAsync("/shelf");
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!;
        await using (var other = new SqliteConnection($"Data Source={Path.Combine(shop.Folder, Database.FileName)};Pooling=False"))
        {
            await other.OpenAsync();
            await using var held = await other.BeginTransactionAsync(System.Data.IsolationLevel.Serializable);
            var sent = await Task.WhenAll(
                shop.SendAsync(
                    close,
                    "form.grid",
                    [("words", "Board replaced."), ("by", "Ada Fenn"), ("found", "board"), .. Workshop.Settled(close)],
                    action: "/jobs/1008/close"
                ),
                shop.SendAsync(shelf, "form[action*=Part]", [("kind", "Cooler"), ("part", "Tarn tower"), ("quantity", "1")])
            );
            Assert.All(sent, s => Assert.Equal(HttpStatusCode.OK, s.Response.StatusCode));
            Assert.All(sent, s => Assert.Contains("in use by another program", s.Page.QuerySelector("[role=alert]")!.TextContent));
            Assert.Equal("Tarn tower", sent[1].Page.QuerySelector("[name=part]")!.GetAttribute("value"));
            // Reading goes on meanwhile.
            await shop.GetAsync("/");
            await shop.GetAsync("/jobs/1008");
        }

        Assert.False((await shop.WithStoreAsync(s => s.FindAsync(1008)))!.IsClosed);
        Assert.Equal(job.Bench.Lines.Length, (await JobAsync(shop, 1008)).Lines.Length);
        var (done, _) = await shop.SendAsync(
            close,
            "form.grid",
            [("words", "Board replaced."), ("by", "Ada Fenn"), ("found", "board"), .. Workshop.Settled(close)],
            action: "/jobs/1008/close"
        );
        Assert.Equal("/jobs/1008/report", done.Headers.Location!.ToString());
    }

    [Fact]
    public async Task Twenty_benches_at_once_wait_for_each_other_and_none_fails()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var base0 = await JobAsync(shop, 1010);
        var jobs = new List<int>();
        for (var i = 0; i < 20; i++)
            jobs.Add(await shop.OpenJobAsync(BenchJob.Open(base0.AsTakenIn)));
        await Task.WhenAll(
            jobs.Select(async number =>
            {
                for (var n = 0; n < 5; n++)
                    Assert.Null((await shop.NoteAsync(number, $"note {n}")).Refused);
            })
        );
        foreach (var number in jobs)
            Assert.Equal(5, (await JobAsync(shop, number)).Lines.Length);
    }

    [Fact]
    public async Task A_data_folder_that_is_replaced_under_the_program_is_noticed_refused_and_told()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.NoteAsync(1010, "before");
        var page = await shop.GetAsync("/jobs/1010");
        var away = $"{shop.Folder}-away";
        Directory.Move(shop.Folder, away);
        try
        {
            Directory.CreateDirectory(shop.Folder);
            File.Copy(Path.Combine(away, Database.FileName), Path.Combine(shop.Folder, Database.FileName));
            await Assert.ThrowsAsync<StoreException>(() => shop.NoteAsync(1010, "lost"));
            foreach (var path in new[] { "/", "/jobs/1010", "/shelf", "/healthz" })
            {
                using var answer = await shop.Client.GetAsync(new Uri(path, UriKind.Relative));
                Assert.Equal(HttpStatusCode.ServiceUnavailable, answer.StatusCode);
                Assert.Contains("was moved, replaced", await answer.Content.ReadAsStringAsync());
            }

            var (sent, told) = await shop.SendAsync(page, "#record", [("note", "lost")], action: "/jobs/1010?handler=Work");
            Assert.Equal(HttpStatusCode.ServiceUnavailable, sent.StatusCode);
            Assert.Contains("Nothing was recorded", told.Body!.TextContent);
            Directory.Delete(shop.Folder, true);
        }
        finally
        {
            if (Directory.Exists(shop.Folder))
                Directory.Delete(shop.Folder, true);
            Directory.Move(away, shop.Folder);
        }

        await shop.NoteAsync(1010, "after");
        Assert.Equal(["before", "after"], (await JobAsync(shop, 1010)).Lines.Select(l => l.Written.Note));
    }

    /// <summary>A clock whose reading a test sets.</summary>
    private sealed class Machine : TimeProvider
    {
        public TimeSpan Up { get; set; } = TimeSpan.FromHours(3);

        public override long TimestampFrequency => TimeSpan.TicksPerSecond;

        public override long GetTimestamp() => Up.Ticks;
    }

    [Fact]
    public void Off_is_only_as_old_as_the_machines_own_clock_can_show()
    {
        var machine = new Machine();
        var before = new Elapsed(machine, "boot-1");
        var off = before.Now();
        machine.Up += TimeSpan.FromSeconds(7);
        // The program was restarted: the clock runs on, whatever the wall clock was set to.
        Assert.Equal(7, new Elapsed(machine, "boot-1").Since(off).TotalSeconds, 2);
        // The machine was restarted: it is known for as long as it is up, and no longer.
        machine.Up = TimeSpan.FromSeconds(4);
        Assert.Equal(4, new Elapsed(machine, "boot-2").Since(off).TotalSeconds, 2);
        // A reading that is ahead, and what is no reading, show nothing.
        Assert.Equal(TimeSpan.Zero, new Elapsed(machine, "boot-1").Since(off));
        Assert.Equal(TimeSpan.Zero, before.Since(""));
        Assert.Equal(TimeSpan.Zero, before.Since("boot-1 ٣"));
        Assert.NotEmpty(Elapsed.ThisBoot);
    }

    [Fact]
    public async Task An_opened_or_imported_log_is_stamped_capped_and_judged_as_one_that_is_recorded()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var plain = (await JobAsync(shop, 1010)).AsTakenIn;
        var number = await shop.OpenJobAsync(
            BenchJob.Open(plain).Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)))
        );
        var line = (await JobAsync(shop, number)).Entries[0];
        Assert.Equal("Ada", line.By);
        Assert.NotEqual(default, line.At);
        Assert.NotEmpty(line.Rules);
        Assert.NotEmpty(line.AtlasVersion);
        // A start of what nobody powers.
        var blocked = BenchJob
            .Open(plain with { Contexts = [Safety.TrippedBreaker] })
            .Append(new NoteEntry(Guid.NewGuid()) { Note = "It tripped." })
            .Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)));
        var refused = await Assert.ThrowsAsync<EntryRefusedException>(() => shop.OpenJobAsync(blocked));
        Assert.StartsWith("Line 2: ", refused.Message);
        var jobs = await WithDbAsync(shop, db => db.Jobs.CountAsync());
        byte[] jpeg = [0xff, 0xd8, 0xff, 0xd9];
        await Assert.ThrowsAsync<EntryRefusedException>(() =>
            shop.OpenJobAsync(BenchJob.Open(plain), new Opening { Photos = [.. Enumerable.Repeat(jpeg, BenchState.MostPhotos + 1)] })
        );
        // Nothing of it is there: no job, no customer, no photo.
        Assert.Equal(jobs, await WithDbAsync(shop, db => db.Jobs.CountAsync()));
        Assert.Equal(0, await WithDbAsync(shop, db => db.Photos.CountAsync(p => p.Jpeg == jpeg)));
    }

    [Fact]
    public async Task Any_sign_of_a_start_is_corrected_and_a_forgotten_one_is_put_in_with_all_of_it()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010", "6-8", ("signs.memorySeen", "4"), ("signs.ended", "Froze"), ("signs.minutes", "7"));
        Assert.False((await JobAsync(shop, 1010)).Trials[0].Passed);
        var page = await shop.GetAsync("/jobs/1010/log/1");
        Assert.Equal("7", page.QuerySelector("#correct [name='Form.Signs.minutes']")!.GetAttribute("value"));
        await shop.SendAsync(
            page,
            "#correct",
            [
                ("Form.Reason", "mis-read"),
                ("Form.Signs.memorySeen", "8"),
                ("Form.Signs.ended", ""),
                ("Form.Preview", "false"),
                ("Form.Button", "Orderly"),
            ],
            ("Form.What", "Correct"),
            "/jobs/1010/log/1"
        );
        var corrected = (await JobAsync(shop, 1010)).Trials[0];
        Assert.True(corrected.Passed);
        Assert.Equal(
            (8, null, 7.0, ButtonTest.Orderly),
            (corrected.Entry.Signs.MemorySeen, corrected.Entry.Signs.Ended, corrected.Entry.Signs.Minutes, corrected.Entry.Button)
        );
        // Every sign that there is has a field.
        var names = page.QuerySelectorAll("#correct [name^='Form.Signs.']")
            .Select(f => f.GetAttribute("name")!["Form.Signs.".Length..])
            .ToHashSet();
        Assert.Equal(SignKinds.All.Where(k => k.Place != SignPlace.Nowhere).Select(k => k.Field).Order(), names.Order());
        // One that was forgotten, in front of the next.
        await shop.RecordAsync("/jobs/1010", "4");
        await shop.SendAsync(
            await shop.GetAsync("/jobs/1010/log/3"),
            "#insert",
            [
                ("Form.Reason", "forgotten"),
                ("Form.Kind", "Start"),
                ("Form.Low", "4"),
                ("Form.High", "5"),
                ("Form.Start", "Cold"),
                ("Form.Button", "NoResponse"),
                ("Form.Signs.beeps", "1 long 3 short"),
                ("Form.Signs.fans", "Twitch"),
                ("Form.Preview", "false"),
            ],
            ("Form.What", "Insert"),
            "/jobs/1010/log/3"
        );
        var put = (await JobAsync(shop, 1010)).Trials[1].Entry;
        Assert.Equal(
            (StartKind.Cold, ButtonTest.NoResponse, "1 long 3 short", FanBehaviour.Twitch),
            (put.Kind, put.Button, put.Signs.Beeps, put.Signs.Fans)
        );
    }

    [Fact]
    public async Task Whether_the_advice_was_followed_travels_with_the_form()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1010");
        var page = await shop.GetAsync("/jobs/1010");
        Assert.NotEmpty(page.QuerySelector("#record [name=proposed]")!.GetAttribute("value")!);
        // The program was restarted between the page and the key.
        shop.Services.GetRequiredService<DiagnosisCache>().Forget();
        shop.Services.GetRequiredService<JobCache>().Forget();
        await shop.SendAsync(page, "#record", [], ("seen", "4"));
        Assert.True((await JobAsync(shop, 1010)).Entries[^1].Followed);
    }

    [Fact]
    public async Task A_search_is_played_out_beside_the_bench_and_its_page_says_so()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1008/estimate");
        Assert.Contains("played out beside the bench", page.QuerySelector("#ahead")!.TextContent);
        Assert.Null(page.QuerySelector("table.sheet"));
        for (var i = 0; i < 600; i++)
        {
            if (await shop.Client.GetStringAsync(new Uri("/jobs/1008/ahead", UriKind.Relative)) == "done")
                break;
            await Task.Delay(100);
        }

        Assert.NotNull((await shop.GetAsync("/jobs/1008/estimate")).QuerySelector("table.sheet"));
    }

    [Fact]
    public async Task The_log_file_holds_nobodys_name_and_no_line_that_was_typed()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        using var content = new MultipartFormDataContent
        {
            {
                new StringContent(
                    (await shop.GetAsync("/jobs/import"))
                        .QuerySelector("form[enctype] input[name=__RequestVerificationToken]")!
                        .GetAttribute("value")!
                ),
                "__RequestVerificationToken"
            },
            { new ByteArrayContent("{ \"format\": \"x\" }"u8.ToArray()), "file", "Zebedee Oxenford.json" },
        };
        await shop.Client.PostAsync(new Uri("/jobs/import", UriKind.Relative), content);
        await shop.SendAsync(
            await shop.GetAsync("/jobs/new"),
            "#intake",
            [("Form.Title", "x"), ("Form.Customer", "Zebedee Oxenford")],
            action: "/jobs/new"
        );
        Assert.Contains(shop.Logged.Lines, l => l.Contains("Refused a job file", StringComparison.Ordinal));
        Assert.DoesNotContain(shop.Logged.Lines, l => l.Contains("Zebedee", StringComparison.Ordinal));

        var format = new LogLines();
        var written = new StringWriter();
        var logged = new Serilog.Events.LogEvent(
            DateTimeOffset.UnixEpoch,
            Serilog.Events.LogEventLevel.Warning,
            new InvalidOperationException("one\n2026-01-01 forged\u2028\u202e"),
            new Serilog.Parsing.MessageTemplateParser().Parse("Refused {Why}"),
            [new Serilog.Events.LogEventProperty("Why", new Serilog.Events.ScalarValue("a\nb\u0007\u202e"))]
        );
        format.Format(logged, written);
        var lines = written.ToString().TrimEnd().Split('\n');
        Assert.EndsWith("\\u000ab\\u0007\\u202e\"", lines[0].TrimEnd());
        Assert.All(lines.Skip(1), l => Assert.StartsWith("    ", l));
        Assert.DoesNotContain('\u202e', written.ToString());
    }
}
