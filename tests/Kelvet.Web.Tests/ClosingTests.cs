using System.Net;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Records;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>What a job is closed with, what a proof and a machine may cost, and runs under load: from whatever request.</summary>
public class ClosingTests
{
    private static async Task<StoredJob> JobAsync(Workshop shop, int number) =>
        (await shop.JobsAsync()).Single(j => j.Row.Number == number).Job!;

    [Fact]
    public async Task A_choice_of_proof_is_a_line_of_the_log_and_names_a_part_that_is_there()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1003/proof");
        const string Choose = "/jobs/1003/proof?handler=Choose";
        Task<(HttpResponseMessage Response, AngleSharp.Html.Dom.IHtmlDocument Page)> SendAsync(params (string, string)[] fields) =>
            shop.SendAsync(page, "form.counter", fields, action: Choose);
        (string, string)[][] wrong =
        [
            [("unit", "nobody"), ("twoWay", "true")],
            [("unit", "../x"), ("twoWay", "true")],
            [("unit", "board")],
        ];
        foreach (var fields in wrong)
        {
            var (refused, said) = await SendAsync(fields);
            Assert.Equal(HttpStatusCode.OK, refused.StatusCode);
            Assert.Contains("Say which part it is", said.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        }

        var (answer, _) = await SendAsync(
            ("unit", "board"),
            ("twoWay", "true"),
            ("reason", "the maker asks"),
            ("back", "//elsewhere.example")
        );
        Assert.Equal("/jobs/1003", answer.Headers.Location!.ToString());
        var line = Assert.IsType<ProofChoiceEntry>((await JobAsync(shop, 1003)).Bench.Entries[^1]);
        Assert.Equal((new UnitId("board"), true, "the maker asks"), (line.Unit, line.TwoWay, line.Note));
    }

    [Fact]
    public async Task A_closed_job_keeps_what_it_was_taken_for_how_it_was_proved_and_whether_the_advice_was_followed()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        // What is proposed is done, on the page that proposed it; then something else is.
        await shop.RecordAsync("/jobs/1010", "4");
        var bench = (await JobAsync(shop, 1010)).Bench;
        Assert.True(bench.Entries[^1].Followed);
        await shop.RecordAsync("/jobs/1010?do=remove+keyboard", "4");
        Assert.False((await JobAsync(shop, 1010)).Bench.Entries[^1].Followed);
        const string Close = "/jobs/1010/close";
        var page = await shop.GetAsync(Close);
        var (no, said) = await shop.SendAsync(
            page,
            "form:has(#words)",
            [("words", "done"), ("by", "Ada"), ("first", "shelf-stick")],
            action: Close
        );
        Assert.Equal(HttpStatusCode.OK, no.StatusCode);
        Assert.Contains("not among the parts that came in", said.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        var (closed, _) = await shop.SendAsync(
            page,
            "form:has(#words)",
            [("words", "done"), ("by", "Ada"), ("first", "supply"), ("found", "stick-1"), .. Workshop.Settled(page)],
            action: Close
        );
        Assert.Equal(HttpStatusCode.Redirect, closed.StatusCode);
        var record = CaseRecord.Read((await JobAsync(shop, 1010)).Row.ClosedFigures);
        Assert.Equal(new FirstGuess("supply", "Velm 450 W", true), record.First);
        Assert.False(record.FirstWasRight);
        Assert.Equal((1, 2), (record.Followed, record.Advised));
        Assert.Equal("stick-1", record.Named.Single().Unit);
        Assert.NotEmpty(record.Named.Single().Mode);
        var learnt = (await shop.GetAsync("/shop")).QuerySelector("#learnt")!.TextContent;
        Assert.Contains("lines that were what had been proposed, 1 of 2", learnt, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Prices_are_kept_whole_or_refused_by_name()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/shop");
        var before = (await shop.Services.GetRequiredService<HouseRules>().CurrentAsync()).Preferences;
        foreach (
            var (field, value, says) in new[]
            {
                ("sure", "20", "50 to 99.9"),
                ("comingBack", "-1", "comes back"),
                ("bought", "7", "price was not sent"),
            }
        )
        {
            var (_, said) = await shop.SendAsync(page, "#prices", [(field, value)]);
            Assert.Contains(says, said.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        }

        Assert.Equal(before, (await shop.Services.GetRequiredService<HouseRules>().CurrentAsync()).Preferences);
        var (response, _) = await shop.SendAsync(page, "#prices", [("sure", "99"), ("dearPart", "100")]);
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        var after = (await shop.Services.GetRequiredService<HouseRules>().CurrentAsync()).Preferences;
        Assert.Equal(
            (0.99, 100, 110, 55),
            (after.Sure, after.DearPart, after.PriceOf(UnitKind.Motherboard).New, after.PriceOf(UnitKind.Motherboard).Used)
        );
    }

    [Fact]
    public async Task A_job_is_not_closed_before_every_part_is_settled_and_the_shelf_follows()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        async Task<ShelfRow?> SpareAsync(string id)
        {
            await using var scope = shop.Services.CreateAsyncScope();
            var parts = (await scope.ServiceProvider.GetRequiredService<Shop>().WholeShelfAsync()).Parts;
            return parts.SingleOrDefault(p => p.Unit.Id.Value == id).Row;
        }

        const string Path = "/jobs/1009/close";
        await shop.RecordAsync("/jobs/1009?do=swap%20supply%20shelf-supply", "6-8");
        var before = await JobAsync(shop, 1009);
        var many = (await SpareAsync("shelf-supply"))!.Quantity;
        // A request made by hand: nothing is said, and nothing is stored.
        var refused = await Assert.ThrowsAsync<EntryRefusedException>(() =>
            shop.WithDeskAsync((desk, rules) => desk.CloseAsync(1009, new Closing("done", [], [], ""), rules))
        );
        Assert.Contains("what becomes of", refused.Message, StringComparison.Ordinal);
        // Kept without leave: refused by name.
        var page = await shop.GetAsync(Path);
        var (_, asked) = await shop.SendAsync(
            page,
            "form.grid",
            [("words", "Done."), ("by", "Ada"), ("becomes[supply].Fate", "Kept")],
            action: Path
        );
        Assert.Contains("who agreed", asked.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        Assert.Equal(before.Bench.Lines.Length, (await JobAsync(shop, 1009)).Bench.Lines.Length);
        Assert.False((await JobAsync(shop, 1009)).IsClosed);

        (string, string)[] said =
        [
            ("words", "Done."),
            ("by", "Ada"),
            ("becomes[supply].Fate", "Kept"),
            ("becomes[supply].Agreed", "the owner, by phone"),
            ("becomes[shelf-supply].Fate", "Sold"),
            ("becomes[shelf-supply].Price", "49.90"),
        ];
        var (closed, _) = await shop.SendAsync(page, "form.grid", said, action: Path);
        Assert.Equal(HttpStatusCode.Redirect, closed.StatusCode);
        Assert.Equal(many - 1, (await SpareAsync("shelf-supply"))!.Quantity);
        var job = await JobAsync(shop, 1009);
        Assert.Equal([Fate.Kept, Fate.Sold], job.Bench.Lines.Select(l => l.Stands).OfType<SettledEntry>().Select(s => s.Fate));
        var kept = job.Bench.Lines.Select(l => l.Stands).OfType<SettledEntry>().First(s => s.Fate == Fate.Kept);
        var lies = await SpareAsync($"kept-{kept.Id:N}");
        Assert.Equal(ShelfCondition.Doubtful, lies!.Condition);
        Assert.Contains(
            "was sold with the machine for 49.90",
            (await shop.GetAsync("/jobs/1009/log")).Body!.TextContent,
            StringComparison.Ordinal
        );

        // Reopened: it is lent again, and what was kept is on the bench.
        await shop.WithDeskAsync((desk, _) => desk.ReopenAsync(1009));
        await shop.WithDeskAsync((desk, _) => desk.ReopenAsync(1009));
        Assert.Equal(many, (await SpareAsync("shelf-supply"))!.Quantity);
        Assert.Equal(0, (await SpareAsync($"kept-{kept.Id:N}"))!.Quantity);
        Assert.Contains("in job 1009", (await shop.GetAsync("/shelf")).Body!.TextContent, StringComparison.Ordinal);
        // Lent: it stays the shop's, and its place is known.
        (string, string)[] lent = [("words", "Done."), ("by", "Ada"), ("becomes[shelf-supply].Fate", "Lent")];
        var (again, _) = await shop.SendAsync(await shop.GetAsync(Path), "form.grid", lent, action: Path);
        Assert.Equal(HttpStatusCode.Redirect, again.StatusCode);
        Assert.Equal(many, (await SpareAsync("shelf-supply"))!.Quantity);
        Assert.Contains("in job 1009", (await shop.GetAsync("/shelf")).Body!.TextContent, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_a_machine_is_worth_is_kept_beside_what_was_agreed()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var agreed = DropOff.Of((await JobAsync(shop, 1003)).Row);
        const string Worth = "/jobs/1003/worth";
        var page = await shop.GetAsync(Worth);
        var (_, said) = await shop.SendAsync(page, "form:has(#machine)", [("machine", "-5")], action: Worth);
        Assert.Contains("worth 0 to 100,000", said.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        await shop.SendAsync(page, "form:has(#machine)", [("machine", "240")], action: Worth);
        Assert.Equal(agreed with { Worth = 240 }, DropOff.Of((await JobAsync(shop, 1003)).Row));
        await Assert.ThrowsAsync<ArgumentOutOfRangeException>(() => shop.WithDeskAsync((desk, _) => desk.ValueAsync(1003, 1_000_001)));
    }

    [Fact]
    public async Task A_run_is_started_only_with_limits_that_mean_something()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1003/heat");
        const string Start = "/jobs/1003/heat?handler=Start";
        var lines = (await JobAsync(shop, 1003)).Bench.Entries.Length;
        foreach (
            var (field, value, says) in new[]
            {
                ("minutes", "0", "1 to 1440"),
                ("limit", "200", "40 to 130"),
                ("mostWatts", "-3", "most draw"),
                ("air", "99", "air is"),
            }
        )
        {
            var (_, said) = await shop.SendAsync(page, "form:has(#readings)", [(field, value)], action: Start);
            Assert.Contains(says, said.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        }

        Assert.Equal(lines, (await JobAsync(shop, 1003)).Bench.Entries.Length);
        var (begun, _) = await shop.SendAsync(page, "form:has(#readings)", [("minutes", "30"), ("limit", "90")], action: Start);
        Assert.Equal(HttpStatusCode.Redirect, begun.StatusCode);
        var note = (await JobAsync(shop, 1003)).Bench.Entries[^1].Note;
        Assert.StartsWith("Run under load begun, 30 min", note, StringComparison.Ordinal);
        Assert.Contains("Broken off at 90 °C", note, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_job_waits_for_something_from_somebody_since_a_day_and_goes_on_when_the_part_is_there()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1003/card");
        var (_, said) = await shop.SendAsync(page, "form:has(#what)", [("what", ""), ("wait", "Part")]);
        Assert.Contains("Say what it waits for", said.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        var lines = (await JobAsync(shop, 1003)).Bench.Entries.Length;
        await shop.SendAsync(page, "form:has(#what)", [("what", "a supply"), ("from", "the market"), ("wait", "Part")]);
        var row = (await JobAsync(shop, 1003)).Row;
        Assert.Equal((JobWait.Part, "a supply", "the market"), (row.Wait, row.WaitsFor, row.WaitsFrom));
        var since = row.WaitsSinceUtc;
        Assert.NotNull(since);
        Assert.Contains(
            "Waiting for a supply, from the market",
            (await shop.GetAsync("/?show=waiting")).Body!.TextContent,
            StringComparison.Ordinal
        );
        // Another part is what it waits for now: since when stays.
        shop.Clock.Advance(TimeSpan.FromDays(1));
        await shop.WithDeskAsync((desk, _) => desk.WaitAsync(1003, JobWait.Part, "a supply and a lead", "", null));
        Assert.Equal(since, (await JobAsync(shop, 1003)).Row.WaitsSinceUtc);
        var part = Unit.Plain(new UnitId("new-supply"), UnitKind.Supply, "Velm 500 W", Origin.New);
        await shop.WithDeskAsync(
            (desk, rules) => desk.RecordWordsAsync(1003, new ArrivalEntry(Guid.NewGuid(), part), null, Attachments.None, rules)
        );
        var after = await JobAsync(shop, 1003);
        Assert.Equal((JobWait.None, "", "", null), (after.Row.Wait, after.Row.WaitsFor, after.Row.WaitsFrom, after.Row.WaitsSinceUtc));
        Assert.Equal(lines + 1, after.Bench.Entries.Length);
    }
}
