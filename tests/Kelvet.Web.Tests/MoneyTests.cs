using System.Net;
using AngleSharp.Html.Dom;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Data;
using Kelvet.Web.Pages.Jobs;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Money between the shop and the owner: estimates and leave, deposits and receipts, repairs that are sent out, the shop's own
/// machines, and what an owner may see of their job.</summary>
public class MoneyTests
{
    private static string Said(IHtmlDocument page) => page.QuerySelector("main")!.TextContent;

    private static string Alert(IHtmlDocument page) => page.QuerySelector("[role=alert]")?.TextContent ?? "";

    private static byte[] Png(int width, int height)
    {
        using var bitmap = new SkiaSharp.SKBitmap(width, height);
        bitmap.Erase(SkiaSharp.SKColors.SteelBlue);
        return bitmap.Encode(SkiaSharp.SKEncodedImageFormat.Png, 90).ToArray();
    }

    private static async Task<T> WithAsync<TService, T>(Workshop shop, Func<TService, DeskRules, Task<T>> use)
        where TService : notnull
    {
        await using var scope = shop.Services.CreateAsyncScope();
        var rules = await scope.ServiceProvider.GetRequiredService<Hosting.HouseRules>().CurrentAsync();
        return await use(scope.ServiceProvider.GetRequiredService<TService>(), new DeskRules("Ada", rules.Set, TimeSpan.Zero));
    }

    private static Offer Given(decimal deposit = 0, int days = 10) =>
        new(
            BillingTerms.Usual,
            "",
            "We replace the power supply.",
            [new("Work", 30, 60, "not known", false), new("Power supply", 70, 70, "", false), new("Cleaning inside", 25, 25, "dust", true)],
            DateOnly.FromDateTime(DateTime.UtcNow).AddDays(days),
            deposit
        );

    private static async Task<Workshop> NamedAsync(bool demo = true)
    {
        var shop = await Workshop.OpenAsync(demo: demo);
        await shop.SendAsync(await shop.GetAsync("/who"), "form.panel", [("name", "Ada Fenn")], action: "/who");
        return shop;
    }

    private static async Task<int> DeadAsync(Workshop shop, string supply = "Velm 450 W")
    {
        var told = IntakeForm.Usual();
        (told.Title, told.Supply, told.Stick) = ("Dark", supply, "Quillon 8 GB");
        return await shop.OpenJobAsync(told.Open([])!);
    }

    private static async Task<IHtmlDocument> PlayedAsync(Workshop shop, string path)
    {
        for (var n = 0; n < 240; n++)
        {
            var page = await shop.GetAsync(path);
            if (page.QuerySelector("#ahead") is null)
                return page;
            await Task.Delay(250);
        }

        throw new TimeoutException($"{path} was not played out.");
    }

    [Fact]
    public async Task An_estimate_is_given_waited_for_and_answered_line_by_line_and_the_bill_follows_it()
    {
        await using var shop = await NamedAsync();
        const string Path = "/jobs/1008/estimate";
        var page = await PlayedAsync(shop, Path);
        var lines = page.QuerySelector("table.sheet tbody")!.TextContent.Replace("VAT 20 %", "", StringComparison.Ordinal);
        Assert.DoesNotContain("%", lines, StringComparison.Ordinal);
        var (_, wrong) = await shop.SendAsync(page, "#give", [("deposit", "99999")], action: Path);
        Assert.Contains("A deposit is 0 to", Alert(wrong), StringComparison.Ordinal);
        var (_, late) = await shop.SendAsync(page, "#give", [("until", "2020-01-01")], action: Path);
        Assert.Contains("until which day", Alert(late), StringComparison.Ordinal);
        var (given, refused) = await shop.SendAsync(
            page,
            "#give",
            [("extras", "cleaning"), ("prices[cleaning]", "33"), ("deposit", "20")],
            action: Path
        );
        Assert.True(given.StatusCode == HttpStatusCode.Redirect, Alert(refused));
        var waiting = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!;
        Assert.Equal((JobWait.Customer, "the answer to the estimate"), (waiting.Row.Wait, waiting.Row.WaitsFor));
        var paper = await shop.GetAsync(Path);
        Assert.Contains("If you like: Cleaning inside", Said(paper), StringComparison.Ordinal);
        var message = Said(await shop.GetAsync("/jobs/1008/papers"));
        Assert.Contains("may be left out: Cleaning inside", message, StringComparison.Ordinal);
        Assert.Contains("20.00 EUR beforehand", message, StringComparison.Ordinal);

        // Nothing ticked is no answer; then everything but what is at the end.
        var (_, none) = await shop.SendAsync(paper, "#answer", [("accepted", "77"), ("who", "Odo")], action: Path + "?handler=Answer");
        Assert.Contains("not in this estimate", Alert(none), StringComparison.Ordinal);
        var boxes = paper.QuerySelectorAll("#answer input[name=accepted]").Length;
        foreach (var _ in new[] { 1, 2 })
            await shop.SendAsync(
                paper,
                "#answer",
                [.. Enumerable.Range(0, boxes).Select(i => ("accepted", $"{i}")), ("who", "Odo Lamprecht"), ("how", "ByPhone")],
                action: Path + "?handler=Answer"
            );
        var after = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!;
        var line = Assert.Single(after.Bench.Entries, e => e.Note.StartsWith("Leave by the owner, by phone:", StringComparison.Ordinal));
        Assert.DoesNotContain("Odo", line.Note, StringComparison.Ordinal);
        Assert.Equal(JobWait.None, after.Row.Wait);
        var offer = (await WithAsync<Offers, IReadOnlyList<OfferRow>>(shop, (o, _) => o.OfAsync(1008))).Single();
        Assert.Equal(offer.Read().Most.Total, DropOff.Of(after.Row).Limit);
        Assert.Contains("Odo Lamprecht, by phone", Said(await shop.GetAsync(Path)), StringComparison.Ordinal);
        // What was agreed to is charged, by the price that was given.
        var invoice = await shop.GetAsync("/jobs/1008/invoice");
        Assert.Contains(
            invoice.QuerySelectorAll("tbody tr"),
            r =>
                r.TextContent.Contains("Cleaning inside", StringComparison.Ordinal)
                && r.TextContent.Contains("33.00", StringComparison.Ordinal)
        );
        // What was given does not change with the shop's prices.
        await shop.SendAsync(await shop.GetAsync("/shop"), "#ways", [("hourlyRate", "999")]);
        Assert.Equal(
            paper.QuerySelector(".total .num")!.TextContent,
            (await shop.GetAsync(Path)).QuerySelector(".total .num")!.TextContent
        );
    }

    [Fact]
    public async Task Leave_is_given_once_in_time_and_while_the_job_is_open()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await DeadAsync(shop);
        Task<OfferRow> GiveAsync(Offer offer, string by = "Ada") =>
            WithAsync<Offers, OfferRow>(shop, (o, _) => o.GiveAsync(number, offer, by));
        Task<Leave> AnswerAsync(int id, params int[] lines) =>
            WithAsync<Offers, Leave>(shop, (o, r) => o.AnswerAsync(number, id, lines, "Odo", LeaveHow.ByPhone, r));
        await Assert.ThrowsAsync<EntryRefusedException>(() => GiveAsync(Given(), ""));
        var stale = await GiveAsync(Given(days: -2));
        Assert.Contains(
            "It held until",
            (await Assert.ThrowsAsync<EntryRefusedException>(() => AnswerAsync(stale.Id, 0))).Message,
            StringComparison.Ordinal
        );
        var first = await GiveAsync(Given());
        Assert.False((await AnswerAsync(first.Id)).GoesOn);
        // The first answer stands, and the limit of a no is none.
        Assert.False((await AnswerAsync(first.Id, 0, 1)).GoesOn);
        Assert.Null(DropOff.Of((await shop.WithStoreAsync(s => s.FindAsync(number)))!.Row).Limit);
        await Assert.ThrowsAsync<EntryRefusedException>(() => AnswerAsync(999, 0));
        var second = await GiveAsync(Given());
        Assert.True((await AnswerAsync(second.Id, 0, 1)).GoesOn);
        Assert.Equal(130, DropOff.Of((await shop.WithStoreAsync(s => s.FindAsync(number)))!.Row).Limit);
        Assert.Equal(2, (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench.Entries.OfType<NoteEntry>().Count());
        await shop.WithDeskAsync((d, r) => d.CloseAsync(number, new Closing("Given back.", [], [], "{}"), r));
        await Assert.ThrowsAsync<EntryRefusedException>(() => GiveAsync(Given()));
        // Of a closed job nothing is asked: what was given is still there to be read.
        var closed = $"/jobs/{number}/estimate";
        Assert.Contains("nothing is asked for any more", Said(await shop.GetAsync($"{closed}?anew=true")), StringComparison.Ordinal);
        Assert.Contains("Odo, by phone", Said(await shop.GetAsync(closed)), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Money_is_taken_with_a_receipt_numbered_without_a_gap_and_the_invoice_says_what_is_still_to_pay()
    {
        await using var shop = await NamedAsync();
        const string Path = "/jobs/1009/invoice";
        async Task<(HttpResponseMessage Response, IHtmlDocument Page)> PayAsync(string amount, string kind) =>
            await shop.SendAsync(
                await shop.GetAsync(Path),
                "#pay",
                [("amount", amount), ("kind", kind), ("how", "cash")],
                action: Path + "?handler=Pay"
            );
        var (none, told) = await PayAsync("0", "Deposit");
        Assert.Equal(HttpStatusCode.OK, none.StatusCode);
        Assert.Contains("above 0", Alert(told), StringComparison.Ordinal);
        var (taken, why) = await PayAsync("10", "Deposit");
        Assert.True(taken.StatusCode == HttpStatusCode.Redirect, Alert(why));
        Assert.Contains("Receipt Q-00003", Said(await shop.GetAsync(taken.Headers.Location!.ToString())), StringComparison.Ordinal);
        var (_, much) = await PayAsync("10.01", "PaidBack");
        Assert.Contains("More cannot be paid back", Alert(much), StringComparison.Ordinal);
        var open = await shop.GetAsync(Path);
        var totals = open.QuerySelectorAll(".total .num")
            .Select(t => decimal.Parse(t.TextContent.Trim().Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture))
            .ToArray();
        Assert.Equal(totals[0] - 10, totals[1]);

        await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(bench =>
                    WithAsync<Payments, PaymentRow>(
                        shop,
                        (p, _) =>
                            p.TakeAsync(3000 + bench, new Payment(PaymentKind.Payment, 1, "cash"), BillingTerms.Usual, $"Bench {bench}")
                    )
                )
        );
        var all = await WithAsync<Payments, IReadOnlyList<PaymentRow>>(shop, (p, _) => p.SinceAsync(DateTime.MinValue));
        Assert.Equal(Enumerable.Range(1, 23), all.Select(p => p.Number));
    }

    [Fact]
    public async Task A_part_that_is_sent_out_keeps_the_job_waiting_comes_back_mended_and_is_charged_what_it_came_to()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await DeadAsync(shop);
        var path = $"/jobs/{number}/part?of=Motherboard";
        // What is in the machine is not sent out, but a board: by no page, and by no request that is made by hand.
        Assert.Null((await shop.GetAsync($"/jobs/{number}/part?of=Cpu")).QuerySelector("#specialist"));
        var job = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;
        var board = job.Now.Board!;
        var cpu = job.Intake.Parts.All.First(u => u.Kind == UnitKind.Cpu);
        // Nothing else holds it back.
        var goesAhead = new GoAheadEntry(Guid.NewGuid(), cpu.Id, "It is burnt.");
        await shop.WithDeskAsync((d, r) => d.RecordWordsAsync(number, goesAhead, null, Attachments.None, r));
        var mended = JobFormat.ReadUnit(JobFormat.Write(cpu, new UnitId("extra-cpu-9"), Origin.New));
        var wanted = new Wanted(mended, number, "Reed Boards", 80, 1, null, "", "") { Repairs = cpu.Id };
        var early = await Assert.ThrowsAsync<EntryRefusedException>(() => WithAsync<Orders, int>(shop, (o, r) => o.AddAsync(wanted, r)));
        Assert.Contains("Take it out", early.Message, StringComparison.Ordinal);
        var page = await shop.GetAsync(path);
        var (_, nobody) = await shop.SendAsync(
            page,
            "#specialist form",
            [("supplier", ""), ("price", "80"), ("why", "It is burnt.")],
            action: $"/jobs/{number}/part?handler=Send"
        );
        Assert.Contains("to whom", Alert(nobody), StringComparison.Ordinal);
        var (sent, refusal) = await shop.SendAsync(
            await shop.GetAsync(path),
            "#specialist form",
            [("supplier", "Reed Boards"), ("price", "80"), ("why", "It is burnt.")],
            action: $"/jobs/{number}/part?handler=Send"
        );
        Assert.True(sent.StatusCode == HttpStatusCode.Redirect, Alert(refusal));
        Assert.Equal($"/jobs/{number}/part", sent.Headers.Location!.ToString());
        var away = (await shop.WithStoreAsync(s => s.FindAsync(number)))!;
        Assert.Equal((JobWait.Part, "Reed Boards"), (away.Row.Wait, away.Row.WaitsFrom));
        Assert.Contains(away.Bench.Entries, e => e.Note.Contains("sent out to be mended", StringComparison.Ordinal));
        // No seller is asked for it.
        Assert.DoesNotContain("Please send us", Said(await shop.GetAsync("/orders")), StringComparison.Ordinal);
        var orders = await WithAsync<Orders, IReadOnlyList<(OrderRow Row, Unit Unit)>>(shop, (o, _) => o.OfJobAsync(number));
        var id = orders.Single().Row.Id;
        foreach (var _ in new[] { 1, 2 })
            await WithAsync<Orders, OrderRow>(shop, (o, r) => o.StepAsync(id, OrderState.Arrived, "", 64.50m, r));
        var here = (await shop.WithStoreAsync(s => s.FindAsync(number)))!;
        Assert.Equal(JobWait.None, here.Row.Wait);
        var part = Assert.Single(here.Bench.Now.Parts.All, u => u.Name.EndsWith("(mended)", StringComparison.Ordinal));
        Assert.Equal((Origin.New, UnitKind.Motherboard), (part.Origin, part.Kind));
        // Swapped in, the old one is settled by that, and the new one is sold for what it came to.
        await shop.WithDeskAsync((d, r) => d.TakePowerOffAsync(number, r));
        var swap = new WorkEntry(Guid.NewGuid(), [new Change.Swap(board.Id, part.Id)]);
        var swapped = await shop.WithDeskAsync(
            (d, r) => d.RecordWorkAsync(number, swap, null, Attachments.None, r with { Drain = TimeSpan.Zero })
        );
        Assert.Null(swapped.Refused);
        var close = await shop.GetAsync($"/jobs/{number}/close");
        Assert.NotEmpty(close.QuerySelectorAll("select[name^=becomes]"));
        SettledEntry[] said =
        [
            new(Guid.NewGuid(), part.Id, Fate.Sold, 64.50m, ""),
            new(Guid.NewGuid(), board.Id, Fate.MendedElsewhere, null, ""),
        ];
        await shop.WithDeskAsync((d, r) => d.CloseAsync(number, new Closing("Mended.", [], [], "{}") { Fates = said }, r));
        Assert.Contains("64.50", Said(await shop.GetAsync($"/jobs/{number}/invoice")), StringComparison.Ordinal);
        Assert.Contains("mended by a specialist", Said(await shop.GetAsync($"/jobs/{number}/customer")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_part_that_comes_back_unmended_says_why_and_what_that_came_to_is_charged()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await DeadAsync(shop);
        await shop.SendAsync(
            await shop.GetAsync($"/jobs/{number}/part?of=Motherboard"),
            "#specialist form",
            [("supplier", "Reed Boards"), ("price", "80"), ("why", "It is burnt.")],
            action: $"/jobs/{number}/part?handler=Send"
        );
        var id = (await WithAsync<Orders, IReadOnlyList<(OrderRow Row, Unit Unit)>>(shop, (o, _) => o.OfJobAsync(number))).Single().Row.Id;
        var silent = await Assert.ThrowsAsync<EntryRefusedException>(() =>
            WithAsync<Orders, OrderRow>(shop, (o, r) => o.StepAsync(id, OrderState.Returned, "", 15, r))
        );
        Assert.Contains("Say what is wrong", silent.Message, StringComparison.Ordinal);
        await WithAsync<Orders, OrderRow>(shop, (o, r) => o.StepAsync(id, OrderState.Returned, "layers are burnt through", 15, r));
        var job = (await shop.WithStoreAsync(s => s.FindAsync(number)))!;
        Assert.Equal(JobWait.None, job.Row.Wait);
        Assert.Contains(job.Bench.Entries, e => e.Note.Contains("not mended", StringComparison.Ordinal));
        var bill = Said(await shop.GetAsync($"/jobs/{number}/invoice"));
        Assert.Contains("looked at by Reed Boards, not mended", bill, StringComparison.Ordinal);
        Assert.Contains("15.00", bill, StringComparison.Ordinal);
        // It lies nowhere on the shelf: it is the owner's.
        await using var scope = shop.Services.CreateAsyncScope();
        Assert.Empty(scope.ServiceProvider.GetRequiredService<KelvetDb>().Shelf);
    }

    [Fact]
    public async Task A_machine_of_the_shops_own_is_told_what_it_brings_and_its_parts_lie_on_the_shelf_with_their_history()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await DeadAsync(shop);
        var path = $"/jobs/{number}/own";
        Task<DeskAnswer> OutAsync(params string[] ids) =>
            shop.WithDeskAsync((d, r) => d.PartOutAsync(number, [.. ids.Select(i => new UnitId(i))], r));
        var job = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;
        var stick = job.Intake.Parts.All.First(u => u.Kind == UnitKind.MemoryStick).Id;
        var supply = job.Intake.Parts.All.First(u => u.Kind == UnitKind.Supply).Id;
        Assert.Contains(
            "a customer's",
            (await Assert.ThrowsAsync<EntryRefusedException>(() => OutAsync(stick.Value))).Message,
            StringComparison.Ordinal
        );
        var (_, dear) = await shop.SendAsync(await shop.GetAsync(path), "main form", [("bought", "100001")], action: path);
        Assert.Contains("0 to 100,000", Alert(dear), StringComparison.Ordinal);
        await shop.SendAsync(await shop.GetAsync(path), "main form", [("bought", "40"), ("asking", "180")], action: path);
        Assert.Contains("Sold whole for 180.00 EUR", Said(await shop.GetAsync(path)), StringComparison.Ordinal);
        Assert.Contains("180.00", Said(await shop.GetAsync($"/jobs/{number}/invoice")), StringComparison.Ordinal);
        Assert.Contains("on the bench", Said(await shop.GetAsync("/own")), StringComparison.Ordinal);
        Assert.Contains(
            "Close the job first",
            (await Assert.ThrowsAsync<EntryRefusedException>(() => OutAsync(stick.Value))).Message,
            StringComparison.Ordinal
        );
        await shop.WithDeskAsync((d, r) => d.CloseAsync(number, new Closing("Parted out.", [supply], [], "{}"), r));
        Assert.Contains(
            "at fault",
            (await Assert.ThrowsAsync<EntryRefusedException>(() => OutAsync(supply.Value))).Message,
            StringComparison.Ordinal
        );
        await Assert.ThrowsAsync<EntryRefusedException>(() => OutAsync("nothing"));
        foreach (var _ in new[] { 1, 2 })
            await OutAsync(stick.Value);
        await using (var scope = shop.Services.CreateAsyncScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
            var row = Assert.Single(db.Shelf);
            // Nothing passed with it: it is no spare before somebody has tried it.
            Assert.Equal((1, ShelfCondition.Doubtful), (row.Quantity, row.Condition));
            Assert.Equal((MoveKind.FromOwn, number), (Assert.Single(db.PartMoves).Kind, Assert.Single(db.PartMoves).JobNumber));
            await Ledger.JudgeAsync(db);
        }

        Assert.Contains("parted out: 1", Said(await shop.GetAsync("/own")), StringComparison.Ordinal);
        // Whose parts lie on the shelf is not opened again as it was.
        await Assert.ThrowsAsync<EntryRefusedException>(() => shop.WithDeskAsync((d, _) => d.ReopenAsync(number)));
    }

    [Fact]
    public async Task What_an_owner_sees_by_the_code_is_one_sentence_and_nothing_until_it_is_switched_on()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var number = await DeadAsync(shop);
        var code = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Row.StateCode;
        Assert.True(StateCodes.IsOne(code));
        await shop.GetAsync($"/state/{code}", HttpStatusCode.NotFound);
        Assert.DoesNotContain("/state/", Said(await shop.GetAsync($"/jobs/{number}/ticket")), StringComparison.Ordinal);
        await shop.SendAsync(await shop.GetAsync("/shop"), "form[action*=State]", [], action: "/shop?handler=State");
        Assert.Contains($"/state/{code}", Said(await shop.GetAsync($"/jobs/{number}/ticket")), StringComparison.Ordinal);
        await shop.GetAsync($"/state/{code[..^1]}", HttpStatusCode.NotFound);
        await shop.GetAsync("/state/aaaaaaaaaaaa", HttpStatusCode.NotFound);
        // A job of a customer who is named: the whole page is what is expected of it, and no word more.
        await shop.GetAsync("/jobs/1002/ticket");
        var named = (await shop.WithStoreAsync(s => s.FindAsync(1002)))!.Row;
        var page = await shop.GetAsync($"/state/{named.StateCode}");
        var words = string.Join(' ', Said(page).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        Assert.Matches(@"^.{1,80} Job 1002 It (can be fetched|was handed over)\.", words);
        Assert.DoesNotContain(named.Customer, page.DocumentElement.OuterHtml, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain(named.Title, page.DocumentElement.OuterHtml, StringComparison.OrdinalIgnoreCase);
        await shop.WithDeskAsync((d, _) => d.WaitAsync(number, JobWait.Part, "Velm 450 W", "Reed", null));
        var waits = await shop.GetAsync($"/state/{code}");
        Assert.Contains("It waits for a part.", Said(waits), StringComparison.Ordinal);
        Assert.DoesNotContain("Velm", waits.DocumentElement.OuterHtml, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_fails_again_and_again_is_learnt_by_model_told_at_the_counter_and_forgotten_on_request()
    {
        await using var shop = await Workshop.OpenAsync();
        var numbers = new List<int>();
        for (var n = 0; n < 10; n++)
        {
            var number = await DeadAsync(shop, n < 5 ? "Velm 450 W" : "Ondel P5");
            numbers.Add(number);
            var supply = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench.Intake.Parts.All.First(u =>
                u.Kind == UnitKind.Supply
            );
            var closing = new Closing("Supply replaced.", [supply.Id], ["supply-dead"], "{}") { Broken = n < 4 ? [supply.Id] : [] };
            await shop.WithDeskAsync((d, r) => d.CloseAsync(number, closing, r with { Preferences = r.Preferences }));
        }

        shop.Services.GetRequiredService<Hosting.HouseRules>().Learnt();
        var rules = await shop.Services.GetRequiredService<Hosting.HouseRules>().CurrentAsync();
        var model = new UnitModel(UnitKind.Supply, "VELM 450 W");
        Assert.Equal(new Core.Learning.ModelTally(4, 5), rules.Models.Single(m => m.Model == model).Tally);
        Assert.True(rules.Atlas.Models[model] > 1);
        Assert.Contains(rules.Set.Odds.Keys, k => k == model.ToString());
        var next = await DeadAsync(shop);
        Assert.Contains("4 of 5 of this model", Said(await shop.GetAsync($"/jobs/{next}/card")), StringComparison.Ordinal);
        Assert.Contains("VELM 450 W", Said(await shop.GetAsync("/shop")), StringComparison.Ordinal);
        // A job that is opened again takes off what it taught.
        await shop.WithDeskAsync((d, _) => d.ReopenAsync(numbers[0]));
        shop.Services.GetRequiredService<Hosting.HouseRules>().Learnt();
        rules = await shop.Services.GetRequiredService<Hosting.HouseRules>().CurrentAsync();
        Assert.Equal(new Core.Learning.ModelTally(3, 4), rules.Models.Single(m => m.Model == model).Tally);
        await shop.SendAsync(await shop.GetAsync("/shop"), "form[action*=Forget]", [], action: "/shop?handler=Forget");
        rules = await shop.Services.GetRequiredService<Hosting.HouseRules>().CurrentAsync();
        Assert.Empty(rules.Models);
        Assert.Empty(rules.Atlas.Models);
    }

    [Fact]
    public async Task A_picture_stands_at_the_head_of_papers_and_in_their_files_and_is_no_picture_that_is_none()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/shop");
        var (_, broken) = await shop.SendAsync(
            page,
            "form[action*=Logo]",
            [],
            action: "/shop?handler=Logo",
            file: ("logo", "x.png", [1, 2, 3])
        );
        Assert.Contains("not a PNG", Alert(broken), StringComparison.Ordinal);
        await shop.SendAsync(page, "form[action*=Logo]", [], action: "/shop?handler=Logo", file: ("logo", "x.png", Png(900, 300)));
        Assert.NotNull((await shop.GetAsync("/jobs/1002/customer")).QuerySelector(".letterhead img[src='/logo']"));
        var jpeg = await shop.Client.GetByteArrayAsync("/logo");
        Assert.InRange(jpeg.Length, 100, 60_000);
        await shop.SendAsync(await shop.GetAsync("/shop"), "form[action*=Logo]", [], action: "/shop?handler=Logo");
        Assert.Null((await shop.GetAsync("/jobs/1002/customer")).QuerySelector(".letterhead img"));
    }

    [Fact]
    public async Task No_part_is_asked_for_where_the_bench_proposes_to_put_something_right()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Assert.Contains("Flash the firmware", Said(await shop.GetAsync("/jobs/1007")), StringComparison.Ordinal);
        var given = Said(await shop.GetAsync("/jobs/1007/estimate"));
        Assert.Contains("without a new part", given, StringComparison.Ordinal);
        Assert.DoesNotContain("Processor, new", given, StringComparison.Ordinal);
        Assert.DoesNotContain("We replace", given, StringComparison.Ordinal);
    }
}
