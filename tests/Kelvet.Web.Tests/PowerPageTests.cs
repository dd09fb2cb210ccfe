using System.Net;
using AngleSharp.Html.Dom;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Data;

namespace Kelvet.Web.Tests;

/// <summary>Rails that are read, the supply's label, and what goes to a card, as somebody at the bench enters it.</summary>
public class PowerPageTests
{
    private const string Path = "/jobs/1008/power";

    private static string Said(IHtmlDocument page) => page.QuerySelector("main")!.TextContent;

    private static string Alert(IHtmlDocument page) => page.QuerySelector("[role=alert]")?.TextContent ?? "";

    [Fact]
    public async Task Rails_go_into_the_log_as_numbers_are_judged_and_two_of_them_are_compared()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        // A machine of which it is told what its processor draws: without that nobody knows the current.
        var like = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!.Bench.Intake;
        var parts = Parts.Of(like.Parts.All.Select(u => u.Kind is UnitKind.Cpu or UnitKind.GraphicsCard ? u with { Watts = 180 } : u));
        var number = await shop.OpenJobAsync(BenchJob.Open(like with { Parts = parts }));
        var path = $"/jobs/{number}/power";
        var (_, empty) = await shop.SendAsync(await shop.GetAsync(path), "#read", [], action: path);
        Assert.Contains("volts of a rail", Alert(empty), StringComparison.Ordinal);
        var (_, much) = await shop.SendAsync(await shop.GetAsync(path), "#read", [("volts[V12]", "99")], action: path);
        Assert.Contains("-30 to 30", Alert(much), StringComparison.Ordinal);
        Assert.Equal("99", much.QuerySelector("#rail-V12")!.GetAttribute("value"));
        var page = await shop.GetAsync(path);
        foreach (var _ in new[] { 1, 2 })
        {
            var (kept, why) = await shop.SendAsync(
                page,
                "#read",
                [("volts[V12]", "12.05"), ("volts[V5]", "5.02"), ("load", "Idle"), ("at", "AtBoard"), ("by", "Meter")],
                action: path
            );
            Assert.True(kept.StatusCode == HttpStatusCode.Redirect, Alert(why));
        }

        await shop.SendAsync(
            await shop.GetAsync(path),
            "#read",
            [("volts[V12]", "10.9"), ("load", "Full"), ("at", "AtBoard"), ("by", "Meter")],
            action: path
        );
        var said = Said(await shop.GetAsync(path));
        Assert.Contains("outside of its limits", said, StringComparison.Ordinal);
        Assert.Contains("The supply itself sags more than a sound one may", said, StringComparison.Ordinal);
        var job = (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;
        var read = job.Entries.OfType<FindingEntry>().Where(f => f.Rails is not null).ToArray();
        Assert.Equal([("read-rails-loaded", false), ("read-rails-loaded", true)], read.Select(f => (f.Check, f.Found)));
        Assert.Contains(
            "+12 V 10.90 V, under load, at the board, with a meter",
            Said(await shop.GetAsync($"/jobs/{number}/log")),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task What_is_printed_on_the_supply_is_kept_judged_and_refused_where_it_cannot_be_read()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Task<(HttpResponseMessage Response, IHtmlDocument Page)> KeepAsync(IHtmlDocument page, string label, string watts) =>
            shop.SendAsync(page, "form[action*=Label]", [("label", label), ("watts", watts)], action: Path + "?handler=Label");
        var (_, wrong) = await KeepAsync(await shop.GetAsync(Path), "lots of power", "450");
        Assert.Contains("lots of power", Alert(wrong), StringComparison.Ordinal);
        var (kept, why) = await KeepAsync(await shop.GetAsync(Path), "+12V 15A, +5V 40A, +3.3V 30A, 3.3+5V 220W, total 400W", "400");
        Assert.True(kept.StatusCode == HttpStatusCode.Redirect, Alert(why));
        var said = Said(await shop.GetAsync(Path));
        Assert.Contains("180 W on 12 V, by its label", said, StringComparison.Ordinal);
        Assert.Contains("Only 180 W of its 400 W are on 12 V", said, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_burns_is_refused_and_what_is_not_enough_is_told()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync("/jobs/1001/power?plugs=8-pin&adapter=true");
        Assert.Contains("it burns before an 8-pin", Said(page), StringComparison.Ordinal);
        await shop.GetAsync("/jobs/1001/power?plugs=nonsense");
        Assert.Contains("There is no plug", Alert(await shop.GetAsync("/jobs/1001/power?plugs=nonsense")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_closed_job_takes_no_reading_by_a_request_that_is_made_by_hand()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var token = (await shop.GetAsync(Path)).QuerySelector("#read input[name=__RequestVerificationToken]")!.GetAttribute("value")!;
        using var content = new FormUrlEncodedContent([
            new("__RequestVerificationToken", token),
            new("volts[V12]", "11"),
            new("load", "None"),
            new("at", "OwnPlug"),
            new("by", "Tester"),
        ]);
        var before = (await shop.WithStoreAsync(s => s.FindAsync(1001)))!.Bench.Entries.Length;
        using var answer = await shop.Client.PostAsync(new Uri("/jobs/1001/power", UriKind.Relative), content);
        Assert.Contains("closed", await answer.Content.ReadAsStringAsync(), StringComparison.OrdinalIgnoreCase);
        Assert.Equal(before, (await shop.WithStoreAsync(s => s.FindAsync(1001)))!.Bench.Entries.Length);
    }

    [Fact]
    public async Task A_trace_of_the_draw_is_read_drawn_kept_and_refused_by_its_line()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Task<(HttpResponseMessage Response, IHtmlDocument Page)> SendAsync(IHtmlDocument page, string csv, bool keep) =>
            shop.SendAsync(
                page,
                "form[action*=Trace]",
                keep ? [("keep", "true")] : [],
                action: Path + "?handler=Trace",
                file: ("file", "draw.csv", System.Text.Encoding.UTF8.GetBytes(csv))
            );
        var rows = Enumerable.Range(0, 300).Select(n => $"{n / 10.0:0.0},{(n is >= 50 and < 57 ? 61.5 : 1.2):0.0}");
        var csv = "seconds,watts\n" + string.Join('\n', rows);
        var (_, read) = await SendAsync(await shop.GetAsync(Path), csv, keep: false);
        Assert.Contains("It cuts out after 0.7 s.", Said(read), StringComparison.Ordinal);
        Assert.NotNull(read.QuerySelector("svg.draw-chart path.draw"));
        var before = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!.Bench.Entries.Length;
        await SendAsync(await shop.GetAsync(Path), csv, keep: true);
        var kept = (await shop.WithStoreAsync(s => s.FindAsync(1008)))!.Bench.Entries;
        Assert.Equal(before + 1, kept.Length);
        Assert.Equal("Draw at the wall: It cuts out after 0.7 s.", kept[^1].Note);
        var (_, broken) = await SendAsync(await shop.GetAsync(Path), "seconds,watts\n1,2\n2,blue", keep: true);
        Assert.Contains("Line 3", Alert(broken), StringComparison.OrdinalIgnoreCase);
        var (_, none) = await SendAsync(await shop.GetAsync(Path), "", keep: true);
        Assert.Contains("Choose the file", Alert(none), StringComparison.Ordinal);
    }
}
