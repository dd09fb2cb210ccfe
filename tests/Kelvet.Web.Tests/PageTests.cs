using System.Net;
using System.Text;
using AngleSharp.Html.Dom;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Data;

namespace Kelvet.Web.Tests;

public class PageTests
{
    [Fact]
    public async Task An_empty_shop_offers_intake_and_an_example()
    {
        await using var shop = await Workshop.OpenAsync();
        var page = await shop.GetAsync("/");
        Assert.Contains("The bench is clear", page.Body!.TextContent);
        var (response, _) = await shop.SendAsync(page, "form[action*=Example]", []);
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        var bench = await shop.GetAsync(response.Headers.Location!.ToString());
        Assert.Contains("8 starts", bench.Body!.TextContent);
    }

    [Fact]
    public async Task The_demo_shop_has_jobs_with_worked_out_verdicts_and_one_long_log()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var jobs = (await shop.JobsAsync()).Select(j => j.Job!).ToArray();
        Assert.True(jobs.Length >= 8);
        Assert.Contains(jobs, j => j.Bench.Lines.Length >= 25);
        Assert.Contains(jobs, j => j.IsClosed);
        Assert.Contains(jobs, j => j.Bench.Lines.Length == 0);
        var page = await shop.GetAsync("/?show=all");
        Assert.Equal(jobs.Length, page.QuerySelectorAll(".job-list > li").Length);
        Assert.Contains("condemned", page.Body!.TextContent);
        foreach (var job in jobs)
        {
            foreach (var path in new[] { "", "/log", "/steps", "/report", "/close", "/part" })
                await shop.GetAsync($"/jobs/{job.Number}{path}");
            foreach (var unit in job.Bench.Intake.Parts.All)
                await shop.GetAsync($"/jobs/{job.Number}/unit/{unit.Id}");
        }
    }

    [Fact]
    public async Task A_machine_is_taken_in_with_the_defaults_and_a_title()
    {
        await using var shop = await Workshop.OpenAsync();
        var form = await shop.GetAsync("/jobs/new");
        var (response, _) = await shop.SendAsync(
            form,
            "form[method=post]:not([action])",
            [("Form.Title", "Black at once")],
            action: "/jobs/new"
        );
        Assert.Equal("/jobs/1001", response.Headers.Location!.ToString());
        var job = await shop.WithStoreAsync(s => s.FindAsync(1001));
        Assert.Equal("Black at once", job!.Bench.Intake.Title);
        Assert.Equal(2, job.Bench.Now.Sticks.Length);
        Assert.True(job.Bench.Now.Cpu!.HasGraphics);
    }

    [Fact]
    public async Task A_wrong_intake_names_the_fields_and_keeps_what_was_typed()
    {
        await using var shop = await Workshop.OpenAsync();
        var form = await shop.GetAsync("/jobs/new");
        var (response, page) = await shop.SendAsync(
            form,
            "form[method=post]:not([action])",
            [
                ("Form.Board", new string('b', 61)),
                ("Form.Customer", "Odo"),
                ("Form.Slots", "2"),
                ("Form.Filled", "A2"),
                ("Form.Drives", "many"),
            ],
            action: "/jobs/new"
        );
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        var alert = page.QuerySelector("[role=alert]")!.TextContent;
        Assert.Contains("Board: At most 60 characters", alert);
        Assert.Contains("Filled: This board has no slot A2", alert);
        Assert.Contains("Drives: \"many\" cannot be read here", alert);
        Assert.Equal("Odo", page.QuerySelector("#customer")!.GetAttribute("value"));
        Assert.Empty((await shop.WithStoreAsync(s => s.ListAsync(null, JobsShown.All, 1, 5))).Jobs);
    }

    [Fact]
    public async Task A_change_and_its_outcome_are_recorded_in_one_go_and_move_the_suspects()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        const string path = "/jobs/1009?do=swap%20supply%20shelf-supply";
        Assert.Contains(
            "swap Ondel 350 W, small for Brask 550 W",
            (await shop.GetAsync(path)).QuerySelector(".pending")!.TextContent,
            StringComparison.OrdinalIgnoreCase
        );
        var (response, _) = await shop.RecordAsync(path, "6-8");
        Assert.StartsWith("/jobs/1009?said=3", response.Headers.Location!.ToString());
        var after = await shop.GetAsync(response.Headers.Location!.ToString());
        Assert.Contains("Recorded as start", after.QuerySelector("#record-panel [role=status]")!.TextContent);
        Assert.Contains("The customer's supply", after.QuerySelector(".suspects .suspect .name")!.TextContent);
        Assert.Contains("Ondel 350 W, small", after.QuerySelector(".suspects .suspect")!.GetAttribute("title"));
        Assert.Contains("proof one-way", after.QuerySelector(".suspects .suspect")!.TextContent);
        Assert.Matches("Prove it|Start it again", after.QuerySelector(".next")!.TextContent);
    }

    [Theory]
    [InlineData("true", "a plug is out or half seated")]
    [InlineData("false", "nothing found")]
    public async Task A_look_is_recorded_as_found_or_not_found_and_moves_the_suspects(string found, string words)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(
            await shop.GetAsync("/jobs/1007?check=look-plugs&checked=supply"),
            "#record",
            [],
            action: "/jobs/1007?handler=Off"
        );
        shop.Clock.Advance(TimeSpan.FromMinutes(1));
        var bench = await shop.GetAsync("/jobs/1007?check=look-plugs&checked=supply");
        Assert.Contains("Look at the plugs and rear switch", bench.QuerySelector("#h-next")!.TextContent);
        Assert.Contains("24-pin", bench.QuerySelector("#next-panel .reason")!.TextContent);
        var (response, _) = await shop.SendAsync(bench, "#record", [], ("found", found));
        Assert.Equal("/jobs/1007?said=4", response.Headers.Location!.ToString());
        Assert.Contains(words, (await shop.GetAsync("/jobs/1007/log")).QuerySelector("#line-4")!.TextContent);
        var (refused, page) = await shop.SendAsync(
            await shop.GetAsync("/jobs/1007?check=look-plugs&checked=supply"),
            "#record",
            [("check", "stare-at-it")],
            ("found", found)
        );
        Assert.Equal(HttpStatusCode.OK, refused.StatusCode);
        Assert.Contains("not known here", page.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task The_same_form_sent_twice_is_one_line()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1010");
        var bench = await shop.GetAsync("/jobs/1010");
        await shop.SendAsync(bench, "#record", [], ("seen", "4"));
        var (again, _) = await shop.SendAsync(bench, "#record", [], ("seen", "4"));
        Assert.Equal(HttpStatusCode.Redirect, again.StatusCode);
        Assert.Single((await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Lines);
    }

    [Fact]
    public async Task A_step_recorded_against_an_older_state_is_offered_for_review_and_not_applied()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1010");
        var first = await shop.GetAsync("/jobs/1010");
        var second = await shop.GetAsync("/jobs/1010?do=clear-cmos");
        await shop.SendAsync(first, "#record", [], ("seen", "4"));
        var (response, page) = await shop.SendAsync(second, "#record", [], ("seen", "6-8"));
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        Assert.Contains("Meanwhile line 1 was recorded", page.QuerySelector("[role=alert]")!.TextContent);
        Assert.Contains("clear CMOS", page.QuerySelector(".pending")!.TextContent);
        Assert.Single((await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Lines);
    }

    [Theory]
    [InlineData("swap nobody shelf-supply", "There is no unit nobody")]
    [InlineData("fit stick-1 memory.A2", "is taken by")]
    [InlineData("dance", "is not a change")]
    public async Task An_impossible_change_is_refused_on_the_page_with_the_reason(string change, string reason)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync($"/jobs/1003?do={Uri.EscapeDataString(change)}");
        Assert.Contains(reason, page.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task Power_without_a_cooler_is_refused_before_and_after_the_button()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1010?do=remove%20cooler");
        Assert.Contains("without a cooler", page.QuerySelector("[role=alert]")!.TextContent);
        Assert.Empty(page.QuerySelectorAll("button.stage"));
        var (_, answer) = await shop.SendAsync(page, "#record", [], ("seen", "4"));
        Assert.Contains("without a cooler", answer.QuerySelector("[role=alert]")!.TextContent);
        Assert.Empty((await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Lines);
    }

    [Fact]
    public async Task A_trial_that_cannot_show_a_picture_says_so_before_the_power_goes_on()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1009?do=remove%20monitor");
        Assert.Contains(
            "can show no picture even on a healthy machine: no monitor is connected",
            page.QuerySelector("#record-panel")!.TextContent
        );
    }

    [Fact]
    public async Task A_line_is_corrected_and_the_old_text_stays_struck()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var form = await shop.GetAsync("/jobs/1009/log/2");
        var (response, _) = await shop.SendAsync(
            form,
            "#correct",
            [("Form.Reason", "the lead was out"), ("Form.Low", "1"), ("Form.High", "1"), ("Form.Preview", "false")],
            ("Form.What", "Correct"),
            "/jobs/1009/log/2"
        );
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        var log = await shop.GetAsync("/jobs/1009/log");
        Assert.Contains("dead, no standby", log.QuerySelector("#line-2 del")!.TextContent);
        Assert.Contains("standby only", log.QuerySelector("#line-2 ins")!.TextContent);
        Assert.Contains("the lead was out", log.QuerySelector("#line-2")!.TextContent);
        var job = await shop.WithStoreAsync(s => s.FindAsync(1009));
        Assert.Equal(BootStage.StandbyOnly, job!.Bench.Trials[1].Seen.Low);
    }

    [Fact]
    public async Task A_job_is_closed_reported_on_both_papers_and_reopened()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var close = await shop.GetAsync("/jobs/1003/close");
        Assert.True(((IHtmlInputElement)close.QuerySelector("input[value=stick-2]")!).IsChecked);
        Assert.Matches(@"came and went: 2 of 4 starts of the same machine", close.Body!.TextContent);
        var (_, unsaid) = await shop.SendAsync(close, "form.grid", [("words", " "), ("by", "Jorin Pell")], action: "/jobs/1003/close");
        Assert.Contains("Say what was done", unsaid.QuerySelector("[role=alert]")!.TextContent);
        var (response, _) = await shop.SendAsync(
            close,
            "form.grid",
            [("words", "Second stick replaced."), ("by", "Jorin Pell"), .. Workshop.Settled(close)],
            action: "/jobs/1003/close"
        );
        Assert.Equal("/jobs/1003/report", response.Headers.Location!.ToString());
        var report = (await shop.GetAsync("/jobs/1003/report?paper=letter"));
        Assert.NotNull(report.QuerySelector(".paper-letter"));
        Assert.Contains("serial HB16-0002", report.Body!.TextContent);
        Assert.Contains("with it back the machine failed", report.Body!.TextContent);
        var blocked = await shop.GetAsync("/jobs/1003?do=clear-cmos");
        Assert.Null(blocked.QuerySelector("#record"));
        var (reopened, _) = await shop.SendAsync(await shop.GetAsync("/jobs/1003/close"), "form[action*=Reopen]", []);
        Assert.Equal("/jobs/1003", reopened.Headers.Location!.ToString());
    }

    [Fact]
    public async Task A_job_exported_and_imported_reasons_the_same_and_a_broken_file_changes_nothing()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var text = await shop.Client.GetStringAsync(new Uri("/jobs/1003/export", UriKind.Relative));
        var imported = await ImportAsync(shop, text);
        Assert.Equal(HttpStatusCode.Redirect, imported.StatusCode);
        var again = await shop.Client.GetStringAsync(new Uri($"{imported.Headers.Location}/export", UriKind.Relative));
        Assert.Equal(text, again);

        var before = (await shop.WithStoreAsync(s => s.ListAsync(null, JobsShown.All, 1, 1))).Total;
        var broken = await ImportAsync(shop, text.Replace("\"clear-cmos\"", "\"hit-it\"", StringComparison.Ordinal));
        Assert.Equal(HttpStatusCode.OK, broken.StatusCode);
        Assert.Contains("$.steps[4].changes[0]", WebUtility.HtmlDecode(await broken.Content.ReadAsStringAsync()));
        Assert.Equal(before, (await shop.WithStoreAsync(s => s.ListAsync(null, JobsShown.All, 1, 1))).Total);
    }

    private static async Task<HttpResponseMessage> ImportAsync(Workshop shop, string text)
    {
        var page = await shop.GetAsync("/jobs/import");
        using var content = new MultipartFormDataContent
        {
            {
                new StringContent(page.QuerySelector("form[enctype] input[name=__RequestVerificationToken]")!.GetAttribute("value")!),
                "__RequestVerificationToken"
            },
            { new ByteArrayContent(Encoding.UTF8.GetBytes(text)), "file", "job.json" },
        };
        return await shop.Client.PostAsync(new Uri("/jobs/import", UriKind.Relative), content);
    }

    [Fact]
    public async Task A_part_comes_in_from_the_shelf_and_by_description()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1010/part");
        await shop.SendAsync(page, "form[action*=Shelf]", [], ("unit", "shelf-cpu"));
        var (response, _) = await shop.SendAsync(page, "#another", [("kind", "Supply"), ("name", "Velm 600 W")], action: "/jobs/1010/part");
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench;
        Assert.True(job.Now.Parts.Has(new UnitId("shelf-cpu")) && job.Now.Parts.Has(new UnitId("extra-supply-1")));
        var (bad, answer) = await shop.SendAsync(
            page,
            "#another",
            [("kind", "Supply"), ("name", new string('x', 81))],
            action: "/jobs/1010/part"
        );
        Assert.Equal(HttpStatusCode.OK, bad.StatusCode);
        Assert.Contains("name of 1 to 80 characters", answer.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task Steps_carry_the_technicians_name_and_the_shops_clock()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(await shop.GetAsync("/who"), "form.panel", [("name", "Jorin Pell")], action: "/who");
        await shop.SendAsync(
            await shop.GetAsync("/shop"),
            "form.panel",
            [("name", "Fen Lane"), ("zone", "Asia/Kathmandu")],
            action: "/shop"
        );
        await shop.RecordAsync("/jobs/1010", "4");
        var entry = (await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Entries[0];
        Assert.Equal("Jorin Pell", entry.By);
        Assert.Equal(Core.Faults.Atlas.Standard.Version, entry.AtlasVersion);
        var log = await shop.GetAsync("/jobs/1010/log");
        var there = TimeZoneInfo.ConvertTime(entry.At, TimeZoneInfo.FindSystemTimeZoneById("Asia/Kathmandu"));
        Assert.Contains(there.ToString("HH:mm"), log.QuerySelector("#line-1")!.TextContent);
        Assert.Contains(there.ToString("d MMM yyyy"), log.QuerySelector("tr.day")!.TextContent);
        var (_, wrong) = await shop.SendAsync(await shop.GetAsync("/shop"), "form.panel", [("zone", "Mars/Base")], action: "/shop");
        Assert.Contains("\"Mars/Base\" is not a time zone", wrong.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task Forms_without_their_token_and_foreign_returns_are_refused()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        using var bare = new FormUrlEncodedContent([new("seen", "4")]);
        var response = await shop.Client.PostAsync(new Uri("/jobs/1010", UriKind.Relative), bare);
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        Assert.Contains("That form is stale", await response.Content.ReadAsStringAsync());
        var (picked, _) = await shop.SendAsync(
            await shop.GetAsync("/who?back=https%3A%2F%2Felsewhere.example%2F"),
            "form.panel",
            [("name", "Ada Fenn")],
            action: "/who"
        );
        Assert.Equal("/", picked.Headers.Location!.ToString());
    }

    [Fact]
    public async Task Every_answer_holds_the_page_to_its_own_scripts_and_has_none_inline()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        foreach (var path in new[] { "/", "/jobs/new", "/jobs/1003", "/jobs/1003/report", "/shop", "/keys" })
        {
            using var response = await shop.Client.GetAsync(new Uri(path, UriKind.Relative));
            Assert.Contains("script-src 'self'", response.Headers.GetValues("Content-Security-Policy").Single());
            var page = await shop.GetAsync(path);
            Assert.All(page.QuerySelectorAll("script"), s => Assert.True(s.HasAttribute("src") && s.TextContent.Length == 0));
            Assert.DoesNotContain(
                page.All,
                e => e.Attributes.Any(a => a.Name.StartsWith("on", StringComparison.Ordinal) || a.Name == "style")
            );
        }
    }

    [Theory]
    [InlineData("/jobs/9999")]
    [InlineData("/jobs/1003/unit/ghost")]
    [InlineData("/jobs/1003/log/500")]
    [InlineData("/nowhere")]
    public async Task What_is_not_there_is_answered_in_the_same_look(string path)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync(path, HttpStatusCode.NotFound);
        Assert.Equal("Nothing here", page.QuerySelector("h1")!.TextContent);
        Assert.NotNull(page.QuerySelector("header.strip"));
    }

    [Fact]
    public async Task A_long_list_is_searched_and_paged()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = BenchJob.Open((await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Intake with { Title = "100% odd_name" });
        for (var i = 0; i < 15; i++)
            await shop.OpenJobAsync(job, by: "");
        var first = await shop.GetAsync("/");
        Assert.Equal(12, first.QuerySelectorAll(".job-list > li").Length);
        Assert.NotNull(first.QuerySelector("a[rel=next]"));
        Assert.Equal(12, (await shop.GetAsync("/?q=100%25%20odd_")).QuerySelectorAll(".job-list > li").Length);
        Assert.Empty((await shop.GetAsync("/?q=%25%25%25")).QuerySelectorAll(".job-list > li"));
        Assert.Single((await shop.GetAsync("/?q=1003")).QuerySelectorAll(".job-list > li"));
    }
}
