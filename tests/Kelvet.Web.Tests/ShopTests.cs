using System.Net;
using Kelvet.Web.Hosting;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>How a shop works and what its jobs have taught, on the shop page.</summary>
public class ShopTests
{
    private const string WaysForm = "#ways";

    private static async Task<Rules> RulesAsync(Workshop shop) => await shop.Services.GetRequiredService<HouseRules>().CurrentAsync();

    [Fact]
    public async Task The_demo_shops_closed_jobs_teach_and_can_be_forgotten()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/shop");
        var row = Assert.Single(
            page.QuerySelectorAll("#learnt tbody tr"),
            r => r.TextContent.Contains("(supply-trips)", StringComparison.Ordinal)
        );
        Assert.Equal("1", row.Children[1].TextContent);
        var (response, _) = await shop.SendAsync(page, "form[action*=Forget]", []);
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        Assert.All((await RulesAsync(shop)).Learnt, l => Assert.Equal(1, l.Factor, 1e-12));
        Assert.Contains("Nothing yet", (await shop.GetAsync("/shop")).QuerySelector("#learnt")!.TextContent);
    }

    [Fact]
    public async Task Closing_a_proved_job_teaches_and_reopening_unteaches()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        int Cases(Rules rules) => rules.Learnt.Sum(l => l.Tally.Cases);
        var before = Cases(await RulesAsync(shop));
        var open = (await shop.JobsAsync())
            .Select(j => j.Job!)
            .First(j => !j.IsClosed && (j.Bench.Intake.Title == "Cuts out at once" || j.Bench.Trials.Length > 5));
        var proved = Core
            .Proving.BenchDiagnosis.Of(open.Bench, Core.Faults.Atlas.Standard)
            .Suspects.Count(s => s.Standing == Core.Proving.Standing.Condemned);
        var form = await shop.GetAsync($"/jobs/{open.Number}/close");
        var found = Core.Proving.BenchDiagnosis.Of(open.Bench, Core.Faults.Atlas.Standard).Suspects[0].Unit.Id;
        await shop.SendAsync(
            form,
            "main form.grid[method=post]",
            [("words", "Replaced."), ("by", "Jorin Pell"), ("found", found.Value), .. Workshop.Settled(form)],
            action: $"/jobs/{open.Number}/close"
        );
        Assert.Equal(before + Math.Min(1, proved), Cases(await RulesAsync(shop)));
        await shop.SendAsync(await shop.GetAsync($"/jobs/{open.Number}/close"), "form[action*=Reopen]", []);
        Assert.Equal(before, Cases(await RulesAsync(shop)));
    }

    [Fact]
    public async Task The_order_of_work_is_switched_from_a_jobs_steps_and_changes_the_proposal()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var before = (await shop.GetAsync("/jobs/1009")).QuerySelector("#h-next")!.TextContent.Trim();
        var (response, _) = await shop.SendAsync(
            await shop.GetAsync("/jobs/1009/steps"),
            "form[action*=School]",
            [("school", "bare-bench")]
        );
        Assert.Equal("/jobs/1009/steps", response.Headers.Location!.ToString());
        var after = await shop.GetAsync("/jobs/1009");
        Assert.NotEqual(before, after.QuerySelector("#h-next")!.TextContent.Trim());
        Assert.Contains(
            "strip to the bench",
            after.QuerySelector("#next-panel")!.TextContent + after.QuerySelector("#next-panel [title]")!.GetAttribute("title"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Switches_are_kept_and_followed_and_nonsense_is_refused()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/shop");
        await shop.SendAsync(page, WaysForm, [("school", "power-first"), ("cmos", "First"), ("drainSeconds", "30"), ("hourlyRate", "80")]);
        var rules = await RulesAsync(shop);
        Assert.Equal(("power-first", 30, 80.0), (rules.School.Id, rules.DrainSeconds, rules.Preferences.HourlyRate));
        Assert.Equal(Core.Planning.CmosClear.First, rules.Preferences.CmosClear);
        foreach (
            var (field, value, words) in new[]
            {
                ("drainSeconds", "2", "5 to 300"),
                ("school", "astrology", "no order of work"),
                ("hourlyRate", "-1", "0 to 10,000"),
            }
        )
        {
            var (_, answer) = await shop.SendAsync(await shop.GetAsync("/shop"), WaysForm, [(field, value)]);
            Assert.Contains(words, answer.QuerySelector("[role=alert]")!.TextContent);
        }

        Assert.Equal(rules.DrainSeconds, (await RulesAsync(shop)).DrainSeconds);
    }
}
