using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Stock;
using Kelvet.Data;
using Kelvet.Web.Pages.Jobs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>The life of parts: no part without a place, orders that arrive once, and the shelf before the seller.</summary>
public class StockTests
{
    /// <summary>Days of the random shop; more of them by KELVET_DAYS.</summary>
    private static int Days => int.TryParse(Environment.GetEnvironmentVariable("KELVET_DAYS"), out var days) ? days : 40;

    private static BenchJob Taken(IEnumerable<Unit> shelf)
    {
        var told = IntakeForm.Usual();
        (told.Title, told.Supply, told.Stick) = ("Dark", "Velm 450 W", "Quillon 8 GB");
        told.Spares = [.. shelf.Select(u => u.Id.Value)];
        return told.Open(shelf)!;
    }

    private static async Task<T> WithAsync<T>(Workshop shop, Func<Orders, DeskRules, Task<T>> use)
    {
        await using var scope = shop.Services.CreateAsyncScope();
        var rules = await scope.ServiceProvider.GetRequiredService<Hosting.HouseRules>().CurrentAsync();
        return await use(scope.ServiceProvider.GetRequiredService<Orders>(), new DeskRules("Ada", rules.Set, rules.Drain));
    }

    private static async Task WithDbAsync(Workshop shop, Func<KelvetDb, Task> use)
    {
        await using var scope = shop.Services.CreateAsyncScope();
        await use(scope.ServiceProvider.GetRequiredService<KelvetDb>());
    }

    [Fact]
    public async Task No_part_is_without_a_place_after_any_day_of_the_shop()
    {
        // Long: it lists what a shop does with parts, act by act.
        await using var shop = await Workshop.OpenAsync();
        var random = new Random(26);
        Unit[] spares =
        [
            Unit.Plain(new UnitId("sh-supply"), UnitKind.Supply, "Brask 550 W", Origin.Shelf),
            new MemoryStick(new UnitId("sh-stick"), "Quillon spare", Origin.Shelf),
        ];
        await using (var scope = shop.Services.CreateAsyncScope())
            await scope.ServiceProvider.GetRequiredService<Shop>().AddToShelfAsync(spares, "Ada", 2, "drawer 1");
        var done = new Dictionary<string, int>();
        for (var day = 0; day < Days; day++)
        {
            for (var act = 0; act < 6; act++)
                await ActAsync();
            await WithDbAsync(shop, Ledger.JudgeAsync);
        }

        // What was never done proves nothing.
        Assert.All(
            (string[])["open", "swap", "undo", "close", "reopen", "count", "order", "arrive", "part out"],
            act => Assert.True(done.GetValueOrDefault(act) > 1, $"{act}: {done.GetValueOrDefault(act)} times")
        );

        async Task ActAsync()
        {
            var numbers = (await shop.JobsAsync()).Select(j => j.Row.Number).ToArray();
            var number = numbers.Length > 0 ? numbers[random.Next(numbers.Length)] : 0;
            var job = number > 0 ? await shop.WithStoreAsync(s => s.FindAsync(number)) : null;
            var what = "";
            try
            {
                switch (random.Next(10))
                {
                    case 0 when numbers.Length < 14:
                        what = "open";
                        await shop.OpenJobAsync(Taken(spares));
                        break;
                    case 1 or 2 or 3 when job is { IsClosed: false }:
                        what = "swap";
                        var ids = job.Bench.Now.Parts.All.Where(u => u.Kind is UnitKind.Supply or UnitKind.MemoryStick).ToArray();
                        var (one, other) = (ids[random.Next(ids.Length)], ids[random.Next(ids.Length)]);
                        Change change = random.Next(4) == 0 ? new Change.Remove(one.Id) : new Change.Swap(one.Id, other.Id);
                        await shop.WithDeskAsync((d, r) => d.TakePowerOffAsync(number, r));
                        var work = new WorkEntry(Guid.NewGuid(), [change]);
                        var recorded = await shop.WithDeskAsync(
                            (d, r) => d.RecordWorkAsync(number, work, null, Attachments.None, r with { Drain = TimeSpan.Zero })
                        );
                        Assert.Null(recorded.Refused);
                        break;
                    case 4 when job is { IsClosed: false } && job.Bench.Lines.LastOrDefault(l => l.Stands is WorkEntry) is { } last:
                        what = "undo";
                        await shop.WithDeskAsync((d, r) => d.UndoAsync(number, last.Written.Id, Guid.NewGuid(), r));
                        break;
                    case 5 when job is { IsClosed: false }:
                        what = "close";
                        SettledEntry[] fates =
                        [
                            .. Settling
                                .Open(job.Bench)
                                .Select(p => (p.Unit, Rows: FateRow.For(p.Stray).ToArray()))
                                .Select(p => (p.Unit, Row: p.Rows[random.Next(p.Rows.Length)]))
                                .Select(p => new SettledEntry(
                                    Guid.NewGuid(),
                                    p.Unit.Id,
                                    p.Row.Fate,
                                    p.Row.Priced ? 30 : null,
                                    p.Row.Agreed ? "the owner" : ""
                                )),
                        ];
                        await shop.WithDeskAsync(
                            (d, r) => d.CloseAsync(number, new Closing("Done.", [], [], "{}") { Fates = [.. fates] }, r)
                        );
                        break;
                    case 6 when job is { IsClosed: true }:
                        what = "reopen";
                        await shop.WithDeskAsync((d, _) => d.ReopenAsync(number));
                        break;
                    case 7:
                        what = "count";
                        await using (var scope = shop.Services.CreateAsyncScope())
                            await scope
                                .ServiceProvider.GetRequiredService<Shop>()
                                .ChangeShelfAsync(1 + random.Next(2), r => r.Quantity = random.Next(5), "Ada");
                        break;
                    case 8 when job is { IsClosed: true }:
                        what = "part out";
                        await shop.WithDeskAsync((d, _) => d.OwnAsync(number, 40, null));
                        var sound = job
                            .Bench.Intake.Parts.All.Where(u => u.Origin == Origin.Customer && !Settling.StaysAtBench(u))
                            .ToArray();
                        var taken = sound[random.Next(sound.Length)].Id;
                        await shop.WithDeskAsync((d, r) => d.PartOutAsync(number, [taken], r));
                        break;
                    default:
                        var open = await WithAsync(shop, (o, _) => o.ListAsync(false));
                        if (open.Count == 0)
                        {
                            what = "order";
                            var unit = Unit.Plain(new UnitId($"o-{Guid.NewGuid():N}"), UnitKind.Supply, "Velm 500 W", Origin.New);
                            int? of = job is { IsClosed: false } ? number : null;
                            await WithAsync(shop, (o, r) => o.AddAsync(new Wanted(unit, of, "Reed", 40, 1, null, "", ""), r));
                            break;
                        }

                        what = "arrive";
                        var steps = OrderStep.After(open[0].Row.State).ToArray();
                        var to = steps[random.Next(steps.Length)].To;
                        await WithAsync(shop, (o, r) => o.StepAsync(open[0].Row.Id, to, "dead", r));
                        break;
                }
            }
            catch (EntryRefusedException)
            {
                return;
            }

            if (what.Length > 0)
                done[what] = done.GetValueOrDefault(what) + 1;
        }
    }

    [Fact]
    public async Task An_order_of_a_job_arrives_once_with_its_seller_and_the_job_goes_on()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await WithAsync(
            shop,
            async (o, _) =>
            {
                await o.KeepSupplierAsync("Reed and Sluice", "parts@reed.example.org", "", 14);
                return 0;
            }
        );
        var number = await shop.OpenJobAsync(Taken([]));
        var page = await shop.GetAsync($"/jobs/{number}/part?of=supply");
        Assert.Contains("Brask 550 W", page.QuerySelector(".from-shelf")!.TextContent, StringComparison.Ordinal);
        Assert.Equal("1", page.QuerySelector(".from-shelf button")!.GetAttribute("data-key"));
        var (ordered, refusal) = await shop.SendAsync(
            page,
            "#order",
            [("name", "Velm 500 W"), ("supplier", "Reed and Sluice"), ("price", "49.90"), ("ordered", "true"), ("why", "It burnt.")],
            action: $"/jobs/{number}/part?handler=Order"
        );
        Assert.Equal($"/jobs/{number}/part", ordered.Headers.Location?.ToString() ?? refusal.QuerySelector("[role=alert]")?.TextContent);
        var waiting = await shop.WithStoreAsync(s => s.FindAsync(number));
        Assert.Equal((JobWait.Part, "Velm 500 W", "Reed and Sluice"), (waiting!.Row.Wait, waiting.Row.WaitsFor, waiting.Row.WaitsFrom));
        var arrives = await shop.GetAsync($"/jobs/{number}/part");
        Assert.Equal("1", arrives.QuerySelector("button[value=Arrived]")!.GetAttribute("data-key"));
        foreach (var _ in new[] { 1, 2 })
            await shop.SendAsync(arrives, "form[action*=Step]", [("to", "Arrived")], action: $"/jobs/{number}/part?handler=Step");
        var here = await shop.WithStoreAsync(s => s.FindAsync(number));
        Assert.Equal(JobWait.None, here!.Row.Wait);
        var part = Assert.Single(here.Bench.Now.Parts.All, u => u.Name == "Velm 500 W");
        Assert.Equal((Origin.New, "Reed and Sluice", 14), (part.Origin, part.Seller, part.ReturnDays ?? 0));
        Assert.NotNull(part.Bought);
        // Dead on arrival: it has to be said what is wrong, and the return sheet is one link away.
        var orders = await shop.GetAsync("/orders?all=true");
        var (_, refused) = await shop.SendAsync(
            orders,
            "form[action*=Step]",
            [("order", "2"), ("to", "ToReturn")],
            action: "/orders?handler=Step"
        );
        Assert.Contains("Say what is wrong", refused.QuerySelector("[role=alert]")!.TextContent, StringComparison.Ordinal);
        await shop.SendAsync(
            orders,
            "form[action*=Step]",
            [("order", "2"), ("to", "ToReturn"), ("wrong", "dead")],
            action: "/orders?handler=Step"
        );
        var back = await shop.GetAsync("/orders");
        await shop.GetAsync(back.QuerySelector("a[href*='/return/']")!.GetAttribute("href")!);
    }

    [Fact]
    public async Task What_comes_for_a_job_that_is_closed_lies_on_the_shelf_and_goes_back_from_there()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await shop.OpenJobAsync(Taken([]));
        var part = Unit.Plain(new UnitId("o-1"), UnitKind.Peripheral, "Velm mouse", Origin.New);
        var id = await WithAsync(shop, (o, r) => o.AddAsync(new Wanted(part, number, "Reed", 40, 1, null, "", ""), r));
        await shop.WithDeskAsync((d, r) => d.CloseAsync(number, new Closing("Given back.", [], [], "{}"), r));
        async Task<int> OnShelfAsync(OrderState to)
        {
            await WithAsync(shop, (o, r) => o.StepAsync(id, to, "dead", r));
            var pieces = 0;
            await WithDbAsync(shop, async db => pieces = (await db.Shelf.SingleAsync()).Quantity);
            return pieces;
        }

        Assert.Equal(1, await OnShelfAsync(OrderState.Arrived));
        Assert.Equal(1, await OnShelfAsync(OrderState.ToReturn));
        Assert.Equal(0, await OnShelfAsync(OrderState.Returned));
        await WithDbAsync(shop, Ledger.JudgeAsync);
    }

    [Fact]
    public async Task Which_spare_would_have_saved_most_is_worked_out_beside_the_bench_from_closed_jobs()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(await shop.GetAsync("/shelf"), "#savings form", [], action: "/shelf?handler=Savings");
        for (var n = 0; n < 600 && await shop.Client.GetStringAsync(new Uri("/shelf/savings", UriKind.Relative)) == "playing"; n++)
            await Task.Delay(100);
        var section = (await shop.GetAsync("/shelf")).QuerySelector("#savings")!;
        var rows = section.QuerySelectorAll("tbody tr").ToArray();
        Assert.NotEmpty(rows);
        var saved = rows.Select(r => r.QuerySelectorAll("td")[1].TextContent);
        var minutes = saved.Select(m => int.Parse(m, System.Globalization.CultureInfo.InvariantCulture)).ToArray();
        Assert.Equal(minutes.OrderDescending(), minutes);
        Assert.True(minutes[0] > 0);
    }

    [Fact]
    public async Task What_is_sent_to_a_seller_names_no_customer_and_comes_as_a_message_and_as_a_file()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var number = await shop.OpenJobAsync(Taken([]));
        var (ordered, refusal) = await shop.SendAsync(
            await shop.GetAsync($"/jobs/{number}/part?of=supply"),
            "#order",
            [("name", "Velm 500 W"), ("supplier", "Reed"), ("needs", "at least 460 W"), ("why", "It burnt.")],
            action: $"/jobs/{number}/part?handler=Order"
        );
        Assert.Equal($"/jobs/{number}/part", ordered.Headers.Location?.ToString() ?? refusal.QuerySelector("[role=alert]")?.TextContent);
        var page = await shop.GetAsync("/orders");
        var message = string.Concat(page.QuerySelectorAll("textarea.message").Select(m => m.TextContent));
        Assert.Contains("1 x Velm 500 W, power supply. It has to match: at least 460 W", message, StringComparison.Ordinal);
        Assert.DoesNotContain($"{number}", message, StringComparison.Ordinal);
        var csv = await shop.Client.GetStringAsync("/orders?handler=Csv");
        Assert.StartsWith("order,kind,part,pieces,has to match,price\n", csv, StringComparison.Ordinal);
        Assert.Contains(",power supply,Velm 500 W,1,at least 460 W,", csv, StringComparison.Ordinal);
        Assert.DoesNotContain($"{number}", csv, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_part_of_the_shelf_tells_its_life_and_where_it_lies()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1009?do=swap%20supply%20shelf-supply", "6-8");
        var page = await shop.GetAsync("/shelf/1");
        var (kept, _) = await shop.SendAsync(
            page,
            "form.grid-form",
            [("position", "drawer 3"), ("quantity", "3"), ("reorderAt", "2")],
            action: "/shelf/1"
        );
        Assert.Equal("/shelf", kept.Headers.Location!.ToString());
        var life = (await shop.GetAsync("/shelf/1")).QuerySelector(".life")!.TextContent;
        foreach (
            var words in new[]
            {
                "Put on the shelf",
                "Went into the machine",
                "The machine passed with it in",
                "Counted anew: +1",
                "drawer 3",
            }
        )
            Assert.Contains(words, life, StringComparison.Ordinal);
        var shelf = (await shop.GetAsync("/shelf")).QuerySelector(".shelves")!.TextContent;
        Assert.Contains("drawer 3", shelf, StringComparison.Ordinal);
        Assert.Contains("get more", shelf, StringComparison.Ordinal);
        await WithDbAsync(shop, Ledger.JudgeAsync);
    }
}
