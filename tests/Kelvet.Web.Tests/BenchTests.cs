using System.Net;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.Extensions.DependencyInjection;
using SkiaSharp;

namespace Kelvet.Web.Tests;

/// <summary>The gate, the timers and photos, without a browser.</summary>
public class BenchTests
{
    private static async Task<(HttpStatusCode Status, string Text)> PostAsync(
        Workshop shop,
        string path,
        string handler,
        params (string Name, string Value)[] fields
    )
    {
        var (response, page) = await shop.SendAsync(
            await shop.GetAsync(path),
            "#record",
            fields,
            action: $"{path.Split('?')[0]}?handler={handler}"
        );
        return (response.StatusCode, page.QuerySelector("[role=alert]")?.TextContent ?? "");
    }

    private static async Task<Power> PowerAsync(Workshop shop, int job) => (await shop.WithStoreAsync(s => s.FindAsync(job)))!.Row.Power;

    [Fact]
    public async Task Hands_go_in_only_through_the_gate_and_power_on_only_after_the_drain()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        const string Pending = "/jobs/1008?do=clear-cmos";
        Assert.NotNull((await shop.GetAsync(Pending)).QuerySelector(".gate"));
        Assert.Null((await shop.GetAsync(Pending)).QuerySelector(".stages"));
        Assert.Contains("Hands go in first", (await PostAsync(shop, Pending, "On")).Text);
        Assert.Equal(HttpStatusCode.Redirect, (await PostAsync(shop, Pending, "Off")).Status);
        Assert.Equal(Power.Off, await PowerAsync(shop, 1008));
        Assert.Contains("still draining", (await PostAsync(shop, Pending, "On")).Text);
        Assert.Contains("Draining", (await shop.GetAsync(Pending)).QuerySelector(".safety .state")!.TextContent);
    }

    [Fact]
    public async Task Recording_a_start_leaves_the_machine_live_and_the_wait_stopped()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await PostAsync(shop, "/jobs/1006", "On");
        Assert.Equal(Power.StartedAgain, await PowerAsync(shop, 1006));
        Assert.NotNull((await shop.GetAsync("/jobs/1006")).QuerySelector(".timer[data-name=wait]"));
        await shop.RecordAsync("/jobs/1006", "3");
        Assert.Equal(Power.On, await PowerAsync(shop, 1006));
        Assert.Null((await shop.GetAsync("/jobs/1006")).QuerySelector(".timer[data-name=wait]"));
    }

    [Fact]
    public async Task A_machine_that_nobody_powers_takes_no_start_however_it_is_sent()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1002)))!.Bench;
        var number = await shop.OpenJobAsync(BenchJob.Open(job.Intake with { Contexts = [Safety.TrippedBreaker] }));
        var (_, page) = await shop.SendAsync(await shop.GetAsync($"/jobs/{number}"), "#record", [], ("seen", "4"));
        Assert.Contains("not powered again", page.QuerySelector("[role=alert]")!.TextContent);
        Assert.Empty((await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench.Trials);
        Assert.Contains("not powered again", (await PostAsync(shop, $"/jobs/{number}", "On")).Text);
    }

    [Fact]
    public async Task Hands_go_in_for_a_look_only_when_it_is_off_and_a_reading_with_the_power_on_asks_for_no_gate()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        const string look = "/jobs/1007?check=look-stick&checked=stick-1";
        await PostAsync(shop, "/jobs/1007", "On");
        var live = await shop.GetAsync(look);
        Assert.NotNull(live.QuerySelector("#record .gate [formaction*=Off]"));
        Assert.Null(live.QuerySelector("#record .stage[name=found]"));
        Assert.EndsWith(
            look,
            (await shop.SendAsync(live, "#record", [], action: "/jobs/1007?handler=Off")).Response.Headers.Location!.ToString()
        );
        var draining = await shop.GetAsync(look);
        Assert.All(draining.QuerySelectorAll("#record .stage[name=found]"), b => Assert.NotEqual("", b.GetAttribute("data-waits")));
        Assert.Equal("Hold start. Hands off.", draining.QuerySelector("#h-next")!.TextContent.Trim());
        foreach (var outside in new[] { "check=look-monitor&checked=monitor", "check=read-rails-loaded&checked=supply" })
        {
            var page = await shop.GetAsync($"/jobs/1008?{outside}");
            Assert.Null(page.QuerySelector("#record .gate"));
            Assert.Equal(2, page.QuerySelectorAll("#record [name=found][data-waits=\"\"]").Length);
        }
    }

    [Fact]
    public async Task A_step_is_not_taken_for_a_case_that_stands_the_same_either_way()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        foreach (var change in new[] { "swap supply shelf-supply", "remove stick-1" })
            await shop.RecordAsync($"/jobs/1009?do={Uri.EscapeDataString(change)}", "4");
        var page = await shop.GetAsync("/jobs/1009");
        var next = page.QuerySelector("#next-panel")!.TextContent;
        Assert.Contains("look at the stick's latches", next, StringComparison.OrdinalIgnoreCase);
        Assert.Matches(@"It (tells|strengthens)", next);
        Assert.DoesNotMatch(@"case against .*: (.+) or \1\.", next);
    }

    [Fact]
    public async Task Timers_are_started_stopped_and_bounded()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Assert.Equal(HttpStatusCode.Redirect, (await PostAsync(shop, "/jobs/1007", "Timer", ("name", "flash"), ("seconds", "600"))).Status);
        Assert.NotNull((await shop.GetAsync("/jobs/1007")).QuerySelector(".timer[data-name=flash]"));
        Assert.Contains("no timer", (await PostAsync(shop, "/jobs/1007", "Timer", ("name", "eggs"), ("seconds", "240"))).Text);
        await PostAsync(shop, "/jobs/1007", "Timer", ("name", "flash"), ("seconds", "0"));
        Assert.Null((await shop.GetAsync("/jobs/1007")).QuerySelector(".timer"));
    }

    [Theory]
    [InlineData("?do=remove%20drive")]
    [InlineData("?check=look-contacts&checked=stick-1")]
    public async Task What_is_begun_stays_open_over_a_timer(string begun)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await PostAsync(shop, "/jobs/1007", "Timer", ("name", "flash"), ("seconds", "600"));
        var page = await shop.GetAsync($"/jobs/1007{begun}");
        foreach (var form in new[] { ".menu form[action*=Timer]", ".timer[data-name=flash]" })
            Assert.EndsWith(
                begun,
                Uri.UnescapeDataString((await shop.SendAsync(page, form, [])).Response.Headers.Location!.ToString()).Replace(" ", "%20")
            );
    }

    [Fact]
    public async Task The_put_back_list_checks_itself_off()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        async Task<string> ListAsync() =>
            string.Join(
                ' ',
                (await shop.GetAsync("/jobs/1010"))
                    .QuerySelector(".put-back ul")!
                    .TextContent.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
            );
        async Task StartAsync(string change) => await shop.RecordAsync($"/jobs/1010?do={Uri.EscapeDataString(change)}", "4");
        await StartAsync("remove drive");
        Assert.Matches("☐ Storage port 1: received .*, now empty", await ListAsync());
        await StartAsync("connect drive");
        Assert.Matches("☑ Storage port 1: received .*, back", await ListAsync());
    }

    [Theory]
    [InlineData(SKEncodedImageFormat.Png)]
    [InlineData(SKEncodedImageFormat.Jpeg)]
    [InlineData(SKEncodedImageFormat.Webp)]
    public void A_photo_comes_out_as_a_JPEG_no_larger_than_needed(SKEncodedImageFormat format)
    {
        using var bitmap = new SKBitmap(3000, 1000);
        bitmap.Erase(SKColors.Teal);
        using var data = bitmap.Encode(format, 80);
        var (jpeg, why) = Photos.Clean(data.ToArray());
        Assert.Null(why);
        using var codec = SKCodec.Create(SKData.CreateCopy(jpeg));
        Assert.Equal((SKEncodedImageFormat.Jpeg, 2000, 666), (codec.EncodedFormat, codec.Info.Width, codec.Info.Height));
    }

    [Fact]
    public void What_is_no_photo_or_too_large_is_refused_in_words()
    {
        Assert.Contains("not a PNG, JPEG or WebP", Photos.Clean("GIF89a....."u8.ToArray()).Why);
        Assert.Contains("not a PNG, JPEG or WebP", Photos.Clean([]).Why);
        Assert.Contains("10 MB", Photos.Clean(new byte[Photos.MostBytes + 1]).Why);
    }

    [Fact]
    public async Task A_photo_of_another_job_is_not_served()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await using var scope = shop.Services.CreateAsyncScope();
        var bench = scope.ServiceProvider.GetRequiredService<BenchState>();
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1003)))!;
        var desk = scope.ServiceProvider.GetRequiredService<Desk>();
        var rules = await scope.ServiceProvider.GetRequiredService<HouseRules>().CurrentAsync();
        await desk.RecordWordsAsync(
            1003,
            new NoteEntry(Guid.NewGuid()) { Note = "a photo" },
            null,
            new Attachments([0xff, 0xd8], []),
            new DeskRules("Ada", rules.Set, rules.Drain)
        );
        var id = (await bench.PhotosAsync(job.Row.Id)).SelectMany(p => p).Single();
        Assert.Equal(HttpStatusCode.OK, (await shop.Client.GetAsync(new Uri($"/jobs/1003/photos/{id}", UriKind.Relative))).StatusCode);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await shop.Client.GetAsync(new Uri($"/jobs/1002/photos/{id}", UriKind.Relative))).StatusCode
        );
    }

    [Fact]
    public async Task Listeners_hear_of_their_job_alone()
    {
        var live = new LiveJobs();
        using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        await using var heard = live.ListenAsync(7, () => "codes", stop.Token).GetAsyncEnumerator(stop.Token);
        Assert.True(await heard.MoveNextAsync());
        Assert.True(await heard.MoveNextAsync());
        Assert.Equal("codes", heard.Current.EventType);
        live.Tell(8, "line x");
        live.Tell(7, "line y");
        Assert.True(await heard.MoveNextAsync());
        Assert.Equal("line y", heard.Current.Data);
        for (var i = 0; i < 100; i++)
            live.TellCodes(7);
        for (var i = 0; i < 100; i++)
            live.Tell(7, $"line {i}");
        Assert.True(await heard.MoveNextAsync());
        Assert.Equal("line 96", heard.Current.Data);
        for (var i = 0; i < 3; i++)
            Assert.True(await heard.MoveNextAsync());
        Assert.True(await heard.MoveNextAsync());
        Assert.Equal(("codes", "codes"), (heard.Current.EventType, heard.Current.Data));
    }
}
