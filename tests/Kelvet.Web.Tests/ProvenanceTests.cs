using System.Net;
using System.Text.Json;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>What a figure was read with; one figure everywhere; what closing a job changes and what it does not.</summary>
public class ProvenanceTests
{
    private static async Task<StoredJob> JobAsync(Workshop shop, int number) => (await shop.WithStoreAsync(s => s.FindAsync(number)))!;

    private static async Task<HttpResponseMessage> CloseAsync(Workshop shop, int number, string words, params string[] found)
    {
        var page = await shop.GetAsync($"/jobs/{number}/close");
        return (
            await shop.SendAsync(
                page,
                "form.grid",
                [("words", words), ("by", "Jorin Pell"), .. found.Select(f => ("found", f)), .. Workshop.Settled(page)],
                action: $"/jobs/{number}/close"
            )
        ).Response;
    }

    [Fact]
    public async Task Each_line_and_each_closing_carry_the_rules_that_held_and_the_rules_are_kept()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010", "4");
        var rules = await shop.Services.GetRequiredService<HouseRules>().CurrentAsync();
        Assert.Equal(rules.Set.Id, (await JobAsync(shop, 1010)).Bench.Entries[^1].Rules);
        Assert.Equal(HttpStatusCode.Redirect, (await CloseAsync(shop, 1008, "Board replaced.", "board")).StatusCode);
        Assert.Equal(rules.Set.Id, (await JobAsync(shop, 1008)).Row.ClosedRules);
        await using var scope = shop.Services.CreateAsyncScope();
        var kept = await scope.ServiceProvider.GetRequiredService<KelvetDb>().RuleSets.SingleAsync(r => r.Id == rules.Set.Id);
        Assert.Equal((Core.Faults.Atlas.Standard.Version, HouseRules.Program), (kept.Atlas, kept.Program));
        Assert.Equal(Core.Faults.Atlas.Standard.Modes.Length, JsonSerializer.Deserialize<Dictionary<string, double>>(kept.OddsJson)!.Count);
        Assert.Contains($"read by rules {rules.Set.Id}", (await shop.GetAsync("/jobs/1008/report")).Body!.TextContent);
    }

    [Fact]
    public async Task A_closed_jobs_report_prints_the_same_whatever_is_learnt_or_changed_afterwards()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await CloseAsync(shop, 1008, "Board replaced.", "board");
        var before = (await shop.GetAsync("/jobs/1008/report")).QuerySelector("main")!.TextContent;
        Assert.Matches(@"\d+\s%", before);
        await CloseAsync(shop, 1009, "Supply replaced.", "supply");
        await shop.SendAsync(await shop.GetAsync("/shop"), "#ways", [("tester", "Trusted"), ("pin", "Straighten"), ("drain", "Always")]);
        await shop.WithStoreAsync(async s => await Task.FromResult(true));
        Assert.Equal(before, (await shop.GetAsync("/jobs/1008/report")).QuerySelector("main")!.TextContent);

        // Nor does it matter what the reader makes of the log by then: the figures are kept, not worked out anew.
        await using var scope = shop.Services.CreateAsyncScope();
        await scope
            .ServiceProvider.GetRequiredService<KelvetDb>()
            .Jobs.Where(j => j.Number == 1008)
            .ExecuteUpdateAsync(j => j.SetProperty(x => x.ClosedFigures, x => x.ClosedFigures.Replace("dead", "quite dead")));
        Assert.NotEqual(before, (await shop.GetAsync("/jobs/1008/report")).QuerySelector("main")!.TextContent);
    }

    [Fact]
    public async Task Closing_a_job_leaves_the_readings_of_all_others_as_they_are()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1007", "4");
        var cache = shop.Services.GetRequiredService<DiagnosisCache>();
        async Task<Reading> ReadAsync(int number)
        {
            var job = await JobAsync(shop, number);
            return cache.Of(job, await cache.RulesAsync(job));
        }

        var before = await ReadAsync(1007);
        var rules = await cache.RulesAsync();
        Assert.Equal(HttpStatusCode.Redirect, (await CloseAsync(shop, 1003, "Second stick replaced.", "stick-2")).StatusCode);
        Assert.NotEqual(rules.Set.Id, (await cache.RulesAsync()).Set.Id);
        Assert.Same(before.Diagnosis.Posterior, (await ReadAsync(1007)).Diagnosis.Posterior);

        // After a restart it is the same figure as well: the job is read by the odds of its last line.
        var probability = before.Diagnosis.Suspects[0].Probability;
        shop.Services.GetRequiredService<HouseRules>().Changed();
        Assert.Equal(probability, (await ReadAsync(1007)).Diagnosis.Suspects[0].Probability, 1e-12);
    }

    [Fact]
    public async Task Learnt_odds_are_one_rows_change_and_come_off_again_when_the_job_is_reopened()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        async Task<List<TallyRow>> TalliesAsync()
        {
            await using var scope = shop.Services.CreateAsyncScope();
            return await scope.ServiceProvider.GetRequiredService<KelvetDb>().Tallies.AsNoTracking().OrderBy(t => t.Mode).ToListAsync();
        }

        var before = await TalliesAsync();
        await CloseAsync(shop, 1003, "Second stick replaced.", "stick-2");
        var after = await TalliesAsync();
        Assert.Equal(before.Sum(t => t.Cases) + 1, after.Sum(t => t.Cases));
        await shop.SendAsync(await shop.GetAsync("/jobs/1003/close"), "form[action*=Reopen]", []);
        Assert.Equal(
            before.Select(t => (t.Mode, t.Cases)),
            (await TalliesAsync()).Where(t => before.Exists(b => b.Mode == t.Mode)).Select(t => (t.Mode, t.Cases))
        );
        Assert.Equal(before.Sum(t => t.Exposure), (await TalliesAsync()).Sum(t => t.Exposure), 1e-6);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Reopening_takes_back_what_closing_said_and_what_it_taught_unless_that_was_forgotten_since(bool forgotten)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await using var scope = shop.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
        var desk = scope.ServiceProvider.GetRequiredService<Desk>();
        async Task<int> CasesAsync() => await db.Tallies.AsNoTracking().SumAsync(t => t.Cases);
        var rules = new DeskRules("Jorin Pell", (await shop.Services.GetRequiredService<HouseRules>().CurrentAsync()).Set, TimeSpan.Zero);
        var before = await CasesAsync();
        var bench = (await JobAsync(shop, 1003)).Bench;
        var fates = Settling.Usual(bench, [.. bench.Now.Parts.All.Select(u => u.Id)], Guid.NewGuid, _ => 35);
        await desk.CloseAsync(1003, new Closing("Stick replaced.", [new("stick-2")], ["stick-dead"], "{}") { Fates = fates }, rules);
        Assert.Equal(before + 1, await CasesAsync());
        await db
            .Jobs.Where(j => j.Number == 1003)
            .ExecuteUpdateAsync(j => j.SetProperty(r => r.HandedOverUtc, DateTime.UtcNow).SetProperty(r => r.NotReproduced, true));
        if (forgotten)
            await db.Shops.ExecuteUpdateAsync(s => s.SetProperty(r => r.LearnFromUtc, DateTime.UtcNow.AddMinutes(1)));
        db.ChangeTracker.Clear();
        await desk.ReopenAsync(1003);
        // What was forgotten is not taken off a second time.
        Assert.Equal(before + (forgotten ? 1 : 0), await CasesAsync());
        var row = await db.Jobs.AsNoTracking().SingleAsync(j => j.Number == 1003);
        Assert.Equal((null, null, false), (row.ClosedAtUtc, row.HandedOverUtc, row.NotReproduced));
        Assert.Equal(("", "", ""), (row.TaughtJson, row.ClosedFigures, row.ClosedRules));
    }

    [Fact]
    public async Task Bench_closing_page_and_report_show_one_figure_for_what_may_be_left()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = await JobAsync(shop, 1003);
        var cache = shop.Services.GetRequiredService<DiagnosisCache>();
        var left = Percent.Words(cache.Of(job, await cache.RulesAsync(job)).Outlook.Left).Replace('\u00a0', ' ');
        foreach (var path in new[] { "close", "report" })
            Assert.Matches(
                $@"left\s+in\s+the\s+machine\s+as\s+it\s+goes\s+out:\s+{left}",
                (await shop.GetAsync($"/jobs/1003/{path}")).Body!.TextContent.Replace('\u00a0', ' ')
            );
        Assert.DoesNotContain("further fault", (await shop.GetAsync("/jobs/1003/report")).Body!.TextContent);
    }

    [Fact]
    public async Task A_job_is_closed_by_somebody()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1009/close");
        var (_, refused) = await shop.SendAsync(
            page,
            "form.grid",
            [("words", "Supply replaced."), ("by", " ")],
            action: "/jobs/1009/close"
        );
        Assert.Contains("Say who closes the job", refused.QuerySelector("[role=alert]")!.TextContent);
        Assert.Equal("Supply replaced.", refused.QuerySelector("#words")!.TextContent);
        await Assert.ThrowsAsync<EntryRefusedException>(() =>
            shop.WithDeskAsync((desk, rules) => desk.CloseAsync(1009, new Closing("x", [], [], ""), rules with { By = "" }))
        );
        await CloseAsync(shop, 1009, "Supply replaced.", "supply");
        Assert.Matches(@"closed .+ by Jorin Pell\.", (await shop.GetAsync("/jobs/1009/report")).Body!.TextContent);
    }

    [Fact]
    public async Task A_job_without_outputs_sticks_drive_card_and_monitor_is_taken_in_as_it_is()
    {
        await using var shop = await Workshop.OpenAsync();
        var form = await shop.GetAsync("/jobs/new");
        foreach (var box in form.QuerySelectorAll("input[type=checkbox]"))
            box.RemoveAttribute("checked");
        var (response, _) = await shop.SendAsync(
            form,
            "form[method=post]:not([action])",
            [
                ("Form.Title", "Bare"),
                ("Form.Drives", "0"),
                ("Form.Monitor", ""),
                ("Form.Stick", ""),
                ("Form.CardSlots", "0"),
                ("Form.CpuGraphics", "false"),
            ],
            action: "/jobs/new"
        );
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        var now = (await JobAsync(shop, 1001)).Bench.Now;
        Assert.Empty(now.Board!.Outputs);
        Assert.Empty(now.Board.CardSlots);
        Assert.Empty(now.Sticks);
        Assert.False(now.Cpu!.HasGraphics);
        Assert.Null(now.Now[Place.Monitor]);
        Assert.DoesNotContain(now.Now.At.Keys, p => p.Kind == PlaceKind.Storage);
        await shop.GetAsync("/jobs/1001");
    }
}
