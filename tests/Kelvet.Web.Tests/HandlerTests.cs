using System.Net;
using AngleSharp.Html.Dom;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>What a page's handler must not let through, by requests that no page makes.</summary>
public class HandlerTests
{
    private static async Task<BenchJob> BenchAsync(Workshop shop, int number) =>
        (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;

    /// <summary>Sends a form of a page, which answers with the page again and says why in an alert.</summary>
    private static async Task<string> RefusedAsync(
        Workshop shop,
        string page,
        string form,
        string action,
        params (string Name, string Value)[] fields
    )
    {
        var (answer, said) = await shop.SendAsync(await shop.GetAsync(page), form, fields, action: action);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        return said.QuerySelector("[role=alert]")!.TextContent;
    }

    [Fact]
    public async Task A_start_that_the_desk_refuses_keeps_the_codes_that_a_reader_showed_of_it()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(await shop.GetAsync("/jobs/1010"), "#record", [], action: "/jobs/1010?handler=On");
        var readers = shop.Services.GetRequiredService<Readers>();
        for (var i = 0; i < 400 && readers.Shown(1010, SignalLibrary.Standard, ["aptio"]) is not [{ Code: "55" }]; i++)
            await Task.Delay(25);
        var bench = await shop.GetAsync("/jobs/1010");
        // Another bench was quicker, and the start is offered for review.
        await shop.NoteAsync(1010, "The lid is off.");
        var lines = (await BenchAsync(shop, 1010)).Lines.Length;
        var (refused, _) = await shop.SendAsync(bench, "#record", [("seen", "4"), ("lines", "0")], action: "/jobs/1010");
        Assert.Equal(HttpStatusCode.OK, refused.StatusCode);
        Assert.Equal(lines, (await BenchAsync(shop, 1010)).Lines.Length);
        await shop.RecordAsync("/jobs/1010", "4");
        Assert.Equal("55", Assert.IsType<TrialEntry>((await BenchAsync(shop, 1010)).Entries[^1]).Signs.Code);
    }

    [Fact]
    public async Task A_copy_is_put_back_by_the_word_alone()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(await shop.GetAsync("/copies"), "form[action*=Make]", [], action: "/copies?handler=Make");
        var address = (await shop.GetAsync("/copies")).QuerySelector("table a")!.GetAttribute("href")!;
        foreach (var sure in new[] { "", "yes", "restored" })
            Assert.Contains(
                "Type the word restore",
                await RefusedAsync(shop, address, "#picked form", "/copies?handler=Restore", ("sure", sure)),
                StringComparison.Ordinal
            );
    }

    [Fact]
    public async Task A_clean_start_is_counted_once_and_only_of_a_machine_that_may_be_started()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1003", "7-8");
        var before = (await BenchAsync(shop, 1003)).Lines.Length;
        (string, string)[] fields = [("stepId", Guid.NewGuid().ToString())];
        for (var i = 0; i < 2; i++)
        {
            var page = await shop.GetAsync("/jobs/1003/proof");
            var (sent, _) = await shop.SendAsync(page, "form.counter", fields, action: "/jobs/1003/proof?handler=Clean");
            Assert.Equal(HttpStatusCode.Redirect, sent.StatusCode);
        }

        Assert.Equal(before + 1, (await BenchAsync(shop, 1003)).Lines.Length);

        await shop.SendAsync(await shop.GetAsync("/jobs/1003"), "#record", [], action: "/jobs/1003?handler=Off");
        var why = await RefusedAsync(
            shop,
            "/jobs/1003/proof",
            "form.counter",
            "/jobs/1003/proof?handler=Clean",
            ("stepId", Guid.NewGuid().ToString())
        );
        Assert.NotEqual("", why.Trim());
        Assert.Equal(before + 1, (await BenchAsync(shop, 1003)).Lines.Length);
    }

    [Fact]
    public async Task A_job_is_not_opened_with_a_file_that_is_no_picture()
    {
        await using var shop = await Workshop.OpenAsync();
        var (answer, page) = await shop.SendAsync(
            await shop.GetAsync("/jobs/new"),
            "#intake",
            [],
            action: "/jobs/new",
            file: ("photo", "machine.jpg", "no picture"u8.ToArray())
        );
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.Contains("not a PNG, JPEG or WebP picture", page.Body!.TextContent, StringComparison.Ordinal);
        Assert.Empty(await shop.JobsAsync());
    }

    [Theory]
    [InlineData("nobody")]
    [InlineData("../x")]
    public async Task A_job_is_not_closed_over_a_part_that_is_not_in_it(string found)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        const string Close = "/jobs/1010/close";
        Assert.Contains(
            "not in this job",
            await RefusedAsync(shop, Close, "form:has(#words)", Close, ("words", "done"), ("by", "Ada"), ("found", found)),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_part_is_not_bought_over_what_may_restore_the_old_one_without_a_reason_that_the_log_keeps()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010", "4");
        var lines = (await BenchAsync(shop, 1010)).Entries.Length;
        const string Part = "/jobs/1010/part";
        (string, string)[] described = [("kind", "Supply"), ("name", "Velm 500 W"), ("serial", "V-1"), ("origin", "New")];
        var (answer, page) = await shop.SendAsync(await shop.GetAsync(Part), "form:has(#kind)", described, action: Part);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.Contains("seat it anew. Or say why not.", page.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        Assert.Equal("Velm 500 W", page.QuerySelector("#name")!.GetAttribute("value"));
        Assert.Equal(lines, (await BenchAsync(shop, 1010)).Entries.Length);
        // A hand-made request finds the same rule at the desk.
        await Assert.ThrowsAsync<EntryRefusedException>(() =>
            shop.WithDeskAsync(
                (desk, rules) =>
                    desk.RecordWordsAsync(
                        1010,
                        new ArrivalEntry(Guid.NewGuid(), Unit.Plain(new UnitId("n"), UnitKind.Supply, "Velm 500 W", Origin.New)),
                        null,
                        Attachments.None,
                        rules
                    )
            )
        );
        await shop.SendAsync(page, "form:has(#kind)", [.. described, ("why", "It is ten years old.")], action: Part);
        var after = (await BenchAsync(shop, 1010)).Entries;
        Assert.Equal("It is ten years old.", Assert.IsType<GoAheadEntry>(after[^2]).Reason);
        Assert.Equal(Origin.New, Assert.IsType<ArrivalEntry>(after[^1]).Unit.Origin);
        var unit = await shop.GetAsync("/jobs/1010/unit/supply");
        Assert.Contains("Passed over", unit.QuerySelector("#before")!.TextContent, StringComparison.Ordinal);
        Assert.Contains("It is ten years old.", (await shop.GetAsync("/jobs/1010/log")).Body!.TextContent, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_job_is_not_closed_over_a_part_left_out_untried_without_a_reason()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010", "4");
        await shop.RecordAsync("/jobs/1010?do=swap+stick-1+shelf-stick", "6-8");
        const string Close = "/jobs/1010/close";
        (string, string)[] told = [("words", "Another stick."), ("by", "Ada"), ("found", "stick-1")];
        var (answer, page) = await shop.SendAsync(await shop.GetAsync(Close), "form:has(#words)", told, action: Close);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.Contains("seat it anew", page.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        Assert.DoesNotContain("Closed job", page.QuerySelector("h1")!.TextContent, StringComparison.Ordinal);
        var lines = (await BenchAsync(shop, 1010)).Entries.Length;
        var (closed, _) = await shop.SendAsync(
            page,
            "form:has(#words)",
            [.. told, ("why[stick-1]", "Its owner wants more."), .. Workshop.Settled(page)],
            action: Close
        );
        Assert.Equal(HttpStatusCode.Redirect, closed.StatusCode);
        Assert.Contains("Closed job", (await shop.GetAsync(Close)).QuerySelector("h1")!.TextContent, StringComparison.Ordinal);
        Assert.Equal(
            "Its owner wants more.",
            Assert.Single((await BenchAsync(shop, 1010)).Entries.Skip(lines).OfType<GoAheadEntry>()).Reason
        );
        // Going in and out it was seated anew; a paper for its maker says that, and not what was left undone.
        var paper = (await shop.GetAsync("/jobs/1010/return/stick-1")).Body!.TextContent;
        Assert.DoesNotContain("not seated anew", paper, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain("Its owner wants more.", paper, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_another_line_has_followed_is_not_said_to_have_stopped()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010", "6-8");
        var line = (await BenchAsync(shop, 1010)).Trials[^1].Number;
        await shop.NoteAsync(1010, "It was left to itself for a while.");
        foreach (var handler in new[] { "Stopped", "Button" })
        {
            var why = await RefusedAsync(
                shop,
                "/jobs/1010",
                "#record",
                $"/jobs/1010?handler={handler}",
                ("line", $"{line}"),
                ("button", "NoResponse"),
                ("stepId", Guid.NewGuid().ToString())
            );
            Assert.Contains("followed by another line", why, StringComparison.Ordinal);
        }

        Assert.Equal(StageRange.AtLeast(BootStage.Picture), (await BenchAsync(shop, 1010)).Trials[^1].Seen);
    }

    [Fact]
    public async Task The_climb_tells_what_failed_and_what_nobody_followed_by_the_goal_of_the_complaint()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var intake = (await BenchAsync(shop, 1010)).Intake with
        {
            Goal = BootStage.Stable,
            Complaint = new Complaint
            {
                When = StartKind.Load,
                Then = Core.Observed.Ending.Restarted,
                Minutes = 30,
            },
        };
        var job = BenchJob
            .Open(intake)
            .Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.OsLoads)))
            .Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.OsLoads)) { Kind = StartKind.Load })
            .Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.Stable)) { Kind = StartKind.Load });
        var number = await shop.OpenJobAsync(job);
        var page = await shop.GetAsync($"/jobs/{number}");
        Assert.Equal(
            ["pass", "tick unfollowed", "tick fail-ground", "tick pass"],
            page.QuerySelectorAll(".chart a rect:not(.column)").Select(r => r.ClassName).Where(c => c is not null)
        );
        var run = await shop.GetAsync($"/jobs/{number}/heat");
        var chosen = await shop.GetAsync($"/jobs/{number}/heat?for=Cooler");
        Assert.Equal("60", chosen.QuerySelector("#minutes")!.GetAttribute("placeholder"));
        // A request that does not say what it is made for starts the run that is complained of.
        await shop.SendAsync(run, "form:has(#readings)", [("for", "")], action: $"/jobs/{number}/heat?handler=Start");
        Assert.StartsWith("Run under load begun, 60 min", (await BenchAsync(shop, number)).Entries[^1].Note, StringComparison.Ordinal);
        await shop.SendAsync(page, "#record", [], action: $"/jobs/{number}?handler=On");
        var keys = (await shop.GetAsync($"/jobs/{number}")).QuerySelectorAll("#stages .stage.pass");
        Assert.Equal("8", Assert.Single(keys).GetAttribute("data-key"));
        Assert.Equal("SupplyRails", ((IHtmlSelectElement)run.QuerySelector("select[name=for]")!).Value);
        Assert.Equal("60", run.QuerySelector("#minutes")!.GetAttribute("placeholder"));
    }

    [Fact]
    public async Task A_closed_job_without_a_run_says_so()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Assert.Contains("No run was kept, and the job is closed.", (await shop.GetAsync("/jobs/1011/heat")).Body!.TextContent);
        Assert.DoesNotContain("No run was kept", (await shop.GetAsync("/jobs/1003/heat")).Body!.TextContent);
    }
}
