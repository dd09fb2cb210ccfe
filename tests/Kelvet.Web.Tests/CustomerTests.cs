using System.Net;
using System.Text;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Customers are found and linked, handed out and erased; what was found at their machines stays.</summary>
public sealed class CustomerTests
{
    private static async Task<T> WithAsync<TService, T>(Workshop shop, Func<TService, Task<T>> use)
        where TService : notnull
    {
        await using var scope = shop.Services.CreateAsyncScope();
        return await use(scope.ServiceProvider.GetRequiredService<TService>());
    }

    private static async Task<int> TakeInAsync(Workshop shop, params (string Name, string Value)[] fields)
    {
        var form = await shop.GetAsync("/jobs/new");
        var (response, page) = await shop.SendAsync(form, "#intake", fields, action: "/jobs/new");
        Assert.True(response.StatusCode == HttpStatusCode.Redirect, page.QuerySelector("[role=alert]")?.TextContent);
        return int.Parse(response.Headers.Location!.ToString()["/jobs/".Length..], System.Globalization.CultureInfo.InvariantCulture);
    }

    [Fact]
    public async Task Nothing_of_an_erased_customer_is_left_and_the_record_stays()
    {
        // Long: it puts a customer's name wherever one is kept.
        await using var shop = await Workshop.OpenAsync();
        var number = await TakeInAsync(
            shop,
            ("Form.Customer", "Zebedee Öxenford"),
            ("Form.Phone", "01632 960 777"),
            ("Form.Email", "zeb@oxenford.example"),
            ("Form.Reach", "ask for Öxenford"),
            ("Form.Title", "Öxenford's tower is black"),
            ("Form.Symptom", "Zebedee says it went black; ring 01632-960-777"),
            ("Form.Reported", "4-5"),
            ("Form.MachineName", "Zebedee's tower"),
            ("Form.MachineMark", "OX-1"),
            ("Form.Password", "swordfish-swordfish"),
            ("Form.Accessories", "Öxenford's lead")
        );
        await shop.NoteAsync(number, "Rang zeb@oxenford.example, Zebedee will bring the lead");
        await shop.RecordAsync($"/jobs/{number}", "4");
        var offer = new Offer(
            BillingTerms.Usual,
            "",
            "",
            [new OfferLine("Work", 1, 2, "not known", false)],
            DateOnly.FromDateTime(DateTime.UtcNow).AddDays(9),
            0
        );
        var given = await WithAsync(shop, (Offers o) => o.GiveAsync(number, offer, "Ada"));
        await shop.WithDeskAsync(
            async (_, rules) =>
                await WithAsync(shop, (Offers o) => o.AnswerAsync(number, given.Id, [0], "Zebedee Öxenford", LeaveHow.ByPhone, rules))
        );
        var wanted = new Wanted(
            Unit.Plain(new UnitId("o-1"), UnitKind.Peripheral, "Velm mouse", Origin.New),
            number,
            "",
            null,
            1,
            null,
            "for Zebedee",
            "Öxenford wants it"
        );
        await shop.WithDeskAsync(async (_, rules) => await WithAsync(shop, (Orders o) => o.AddAsync(wanted, rules)));
        Directory.CreateDirectory(Path.Combine(shop.Folder, "logs"));
        var log = Path.Combine(shop.Folder, "logs", "kelvet-20260101.log");
        await File.WriteAllTextAsync(log, "12:00 searched for Zebedee Öxenford, 01632960777\n12:01 something else\n");
        var before = await File.ReadAllTextAsync(log);
        var customer = await WithAsync(shop, (KelvetDb db) => db.Customers.SingleAsync());
        var page = await shop.GetAsync($"/customers/{customer.Id}");

        // Without the word nothing happens.
        await shop.SendAsync(page, "form[action*=Erase]", [("sure", "yes")]);
        Assert.NotNull(await WithAsync(shop, (CustomerStore c) => c.GetAsync(customer.Id)));

        var (response, _) = await shop.SendAsync(page, "form[action*=Erase]", [("sure", "erase"), ("copies", "true")]);
        Assert.Equal("/customers", response.Headers.Location!.ToString());

        string[] mentions = ["Zebedee", "Öxenford", "oxenford", "960 777", "960777", "960-777", "swordfish"];
        var files = Directory.EnumerateFiles(shop.Folder, "*", SearchOption.AllDirectories).Where(f => !f.Contains("/keys/"));
        var copy = Path.Combine(shop.Folder, "later.db");
        Database.CopyTo(Path.Combine(shop.Folder, Database.FileName), copy);
        foreach (var file in files.Append(copy))
        {
            using var stream = new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
            var bytes = new byte[stream.Length];
            await stream.ReadExactlyAsync(bytes);
            var text = Encoding.UTF8.GetString(bytes);
            Assert.All(mentions, m => Assert.False(text.Contains(m, StringComparison.OrdinalIgnoreCase), $"{m} in {file}"));
        }

        Assert.Equal(before.Length, (await File.ReadAllTextAsync(log)).Length, tolerance: 1);
        Assert.Contains("12:01 something else", await File.ReadAllTextAsync(log), StringComparison.Ordinal);

        var job = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;
        Assert.Equal(3, job.Lines.Length);
        Assert.Equal(BootStage.RunsNoPost, job.Trials[0].Seen.Low);
        Assert.Contains("[erased]", job.Intake.Symptom, StringComparison.Ordinal);
        Assert.Equal("", job.Intake.Customer);
        // The log is as it was before: nothing but an erasure changes it.
        await Assert.ThrowsAsync<Microsoft.Data.Sqlite.SqliteException>(() =>
            WithAsync(shop, (KelvetDb db) => db.Database.ExecuteSqlRawAsync("UPDATE Steps SET Body = ''"))
        );
        foreach (var path in new[] { "", "/card", "/log", "/report", "/ticket" })
            Assert.DoesNotContain("Zebedee", (await shop.GetAsync($"/jobs/{number}{path}")).Body!.TextContent, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Everything_that_is_kept_of_a_customer_is_handed_out()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var id = (await WithAsync(shop, (CustomerStore c) => c.FindAsync("boat")))[0].Id;
        var json = await shop.Client.GetStringAsync(new Uri($"/customers/{id}?handler=Export", UriKind.Relative));
        foreach (var told in new[] { "01632 960180", "quay@example.org", "Dead since the storm", "Kiosk cuts out" })
            Assert.Contains(told, json, StringComparison.Ordinal);
        // What was invoiced and paid is theirs as well.
        var paid = (await WithAsync(shop, (CustomerStore c) => c.FindAsync("odo")))[0].Id;
        var money = await shop.Client.GetStringAsync(new Uri($"/customers/{paid}?handler=Export", UriKind.Relative));
        foreach (var told in new[] { "H-00001", "375.60", "card" })
            Assert.Contains(told, money, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await shop.Client.GetAsync(new Uri("/customers/4711", UriKind.Relative))).StatusCode);
    }

    [Fact]
    public async Task Earlier_visits_are_found_by_customer_machine_serial_and_mark()
    {
        await using var shop = await Workshop.OpenAsync();
        var first = await TakeInAsync(
            shop,
            ("Form.Customer", "Ivo Marsh"),
            ("Form.MachineSerial", "SN-7781"),
            ("Form.MachineMark", "MK-3")
        );
        var second = await TakeInAsync(shop, ("Form.Customer", "Greta Stone"), ("Form.MachineSerial", "SN-7781"));
        var card = await shop.GetAsync($"/jobs/{second}/card");
        Assert.Contains($"{first} Not told yet", card.QuerySelector(".visits")!.TextContent);
        Assert.Contains("found by serial or mark SN-7781", card.QuerySelector(".visits")!.TextContent);
        foreach (var word in new[] { "ivo", "sn-7781", "MK-3", "motherboard" })
        {
            var list = await shop.GetAsync($"/?show=all&q={word}");
            Assert.Contains($"{first}", list.QuerySelector(".job-list")!.TextContent);
        }

        Assert.Null((await shop.GetAsync("/?show=all&q=ivo+stone")).QuerySelector(".job-list"));
    }

    [Fact]
    public async Task Parts_that_die_again_at_one_customer_point_at_the_site()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var card = await shop.GetAsync("/jobs/1009/card");
        Assert.Contains("power supply 2 times", card.Body!.TextContent);
        Assert.Contains("licensed electrician", card.Body!.TextContent);
        Assert.DoesNotContain("again and again", (await shop.GetAsync("/jobs/1008/card")).Body!.TextContent);
    }

    [Fact]
    public async Task A_job_waits_is_promised_passed_on_and_handed_over()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(await shop.GetAsync("/who"), "form", [("name", "Ada Fenn")]);
        async Task<AngleSharp.Html.Dom.IHtmlDocument> CardAsync() => await shop.GetAsync("/jobs/1008/card");
        var (refused, told) = await shop.SendAsync(await CardAsync(), "form[action*=Wait]", [("what", "")], ("wait", "Part"));
        Assert.Contains("Say what it waits for", told.QuerySelector("[role=alert]")!.TextContent);
        await shop.SendAsync(
            await CardAsync(),
            "form[action*=Wait]",
            [("what", "a stick from Orrin"), ("due", "2026-12-24")],
            ("wait", "Part")
        );
        Assert.Contains(
            "waiting for a stick from Orrin",
            (await shop.GetAsync("/?show=waiting")).Body!.TextContent,
            StringComparison.OrdinalIgnoreCase
        );
        await shop.SendAsync(await CardAsync(), "form[action*=Wait]", [], ("wait", "None"));
        Assert.DoesNotContain("1008", (await shop.GetAsync("/?show=waiting")).Body!.TextContent, StringComparison.Ordinal);
        await shop.SendAsync(await CardAsync(), "form[action*=Pass]", [("to", "Jorin Pell"), ("note", "slot A2 is open")]);
        Assert.Contains("Jorin Pell", (await shop.GetAsync("/")).Body!.TextContent);
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!;
        Assert.Contains("Passed on to Jorin Pell. slot A2 is open", job.Bench.Entries[^1].Note);
        // A hand-made request hands nothing over that is not closed.
        await Assert.ThrowsAsync<EntryRefusedException>(() => shop.WithDeskAsync((desk, _) => desk.HandOverAsync(1008)));
    }

    [Fact]
    public async Task A_password_is_kept_sealed_shown_on_asking_and_gone_at_hand_over()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await TakeInAsync(shop, ("Form.Customer", "Ivo Marsh"), ("Form.Password", "kettle-lamp-17"));
        var row = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Row;
        Assert.DoesNotContain("kettle", row.DropOffJson, StringComparison.Ordinal);
        var card = await shop.GetAsync($"/jobs/{number}/card");
        Assert.DoesNotContain("kettle", card.Body!.TextContent, StringComparison.Ordinal);
        var (_, shown) = await shop.SendAsync(card, "form[action*=Password]", []);
        Assert.Contains("kettle-lamp-17", shown.Body!.TextContent);
        await shop.WithDeskAsync((desk, rules) => desk.CloseAsync(number, new Closing("done", [], [], ""), rules));
        await shop.WithDeskAsync((desk, _) => desk.HandOverAsync(number));
        Assert.Equal("", DropOff.Of((await shop.WithStoreAsync(s => s.FindAsync(number)))!.Row).Sealed);
    }

    [Fact]
    public async Task Not_reproduced_is_refused_until_it_passed_often_enough_here()
    {
        await using var shop = await Workshop.OpenAsync();
        var number = await TakeInAsync(shop, ("Form.Reported", "4-5"));
        Task<DeskAnswer> CloseAsync() =>
            shop.WithDeskAsync((desk, rules) => desk.CloseUnreproducedAsync(number, "Bring the monitor next time.", rules));
        await Assert.ThrowsAsync<EntryRefusedException>(CloseAsync);
        for (var i = 0; i < Reproduction.LeastPasses; i++)
            await shop.RecordAsync($"/jobs/{number}", "6-8");
        Assert.Contains("It works here", (await shop.GetAsync($"/jobs/{number}/reproduce")).QuerySelector("[role=status]")!.TextContent);
        await CloseAsync();
        var job = (await shop.WithStoreAsync(s => s.FindAsync(number)))!;
        Assert.True(job.Row.NotReproduced);
        Assert.Contains(
            "ready, not reproduced",
            (await shop.GetAsync("/?show=ready")).Body!.TextContent,
            StringComparison.OrdinalIgnoreCase
        );
    }
}
