using System.Net;
using System.Net.Http.Json;
using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Kelvet.Core.Jobs;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>The reference, the shop's own tables, decoding for the page, and codes that go with a start by themselves.</summary>
public sealed class SignalTests
{
    private const string Own = """
        # kelvet-signals 1
        # id: ondel-b20
        # name: Ondel B20 board codes
        # kind: post
        # version: 1
        # uncertainty: 0.05
        signal,meaning,power,cpu,memory,video,boot,none,causes,checks,term,source,confidence
        55,the fan header is watched,0.1,0.1,0.1,0.1,0.1,1,a slow fan,look at the fan,,board manual,published
        """;

    /// <summary>Sends a form of several parts, a file among them.</summary>
    private static async Task<(HttpStatusCode Status, IDocument Page)> UploadAsync(
        Workshop shop,
        string page,
        string address,
        string field,
        string name,
        byte[] file,
        params (string Name, string Value)[] fields
    )
    {
        var form = await shop.GetAsync(page);
        using var content = new MultipartFormDataContent
        {
            {
                new StringContent(form.QuerySelector("input[name=__RequestVerificationToken]")!.GetAttribute("value")!),
                "__RequestVerificationToken"
            },
        };
        foreach (var (key, value) in fields)
            content.Add(new StringContent(value), key);
        content.Add(new ByteArrayContent(file), field, name);
        using var response = await shop.Client.PostAsync(new Uri(address, UriKind.Relative), content);
        return (response.StatusCode, await new HtmlParser().ParseDocumentAsync(await response.Content.ReadAsStringAsync()));
    }

    [Theory]
    [InlineData("55", "/codes/aptio/55")]
    [InlineData("1 long 2 short", "/codes/pc-beeps/1%20long%202%20short")]
    [InlineData("1-2-2-3", "/codes/phoenix-beeps/1-2-2-3")]
    [InlineData("none found", "/codes/aptio/55")]
    public async Task A_search_leads_to_a_row_and_the_row_has_an_address(string query, string address)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Assert.Contains(
            (await shop.GetAsync($"/codes?q={Uri.EscapeDataString(query)}")).QuerySelectorAll("td a"),
            a => a.GetAttribute("href") == address
        );
        Assert.Contains("never a verdict", (await shop.GetAsync(address)).Body!.TextContent);
        await shop.GetAsync("/codes/aptio/ZZ", HttpStatusCode.NotFound);
        await shop.GetAsync("/codes/nobody", HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_code_leads_to_the_jobs_in_which_it_stood_and_to_what_was_wrong_in_the_end()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var text = (await shop.GetAsync("/codes/aptio/97")).Body!.TextContent;
        Assert.Contains("1001", text);
        Assert.Contains("Brask R80", text);
        Assert.Contains("still open", (await shop.GetAsync("/codes/aptio/2E")).Body!.TextContent);
        Assert.Contains("not been met here", (await shop.GetAsync("/codes/aptio/E8")).Body!.TextContent);
    }

    [Fact]
    public async Task A_table_goes_out_and_comes_in_and_a_broken_one_changes_nothing()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var exported = await shop.Client.GetStringAsync(new Uri("/codes/aptio.csv", UriKind.Relative));
        Assert.Equal(146, SignalTableFile.Read(exported, "aptio.csv").Rows.Length);
        var (_, broken) = await UploadAsync(
            shop,
            "/codes/own",
            "/codes/own",
            "file",
            "own.csv",
            Encoding.UTF8.GetBytes(Own.Replace("0.1,0.1,0.1,0.1,0.1,1", "0.1,0.1,0.1,0.1,0.1,9"))
        );
        Assert.Contains("own.csv, line 8", broken.QuerySelector("[role=alert]")!.TextContent);
        await shop.GetAsync("/codes/ondel-b20", HttpStatusCode.NotFound);
        var (_, done) = await UploadAsync(shop, "/codes/own", "/codes/own", "file", "own.csv", Encoding.UTF8.GetBytes(Own));
        Assert.Contains("is in", done.QuerySelector("[role=status]")!.TextContent);
        await shop.GetAsync("/codes/ondel-b20");

        // A maker's boards go by it, and a job on such a board is read by it.
        var (kept, _) = await shop.SendAsync(
            await shop.GetAsync("/codes/own"),
            "form[action*=Maker]",
            [("maker", "Ondel B20"), ("tables", "ondel-b20")]
        );
        Assert.Equal(HttpStatusCode.Redirect, kept.StatusCode);
        var told = await (
            await shop.Client.GetAsync(new Uri("/listen/written?kind=Post&text=55&job=1010", UriKind.Relative))
        ).Content.ReadFromJsonAsync<Told>();
        Assert.Contains("the fan header is watched", told!.Says);
        var other = await (
            await shop.Client.GetAsync(new Uri("/listen/written?kind=Post&text=55&job=1001", UriKind.Relative))
        ).Content.ReadFromJsonAsync<Told>();
        Assert.Contains("none found", other!.Says);
    }

    [Fact]
    public async Task Taps_lights_and_recordings_are_decoded_for_the_job_and_nonsense_is_refused_in_words()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var taps = new Taps(
            [
                [0.5, 1.4],
                [1.6, 1.8],
                [2, 2.2],
                [4.5, 5.4],
                [5.6, 5.8],
                [6, 6.2],
            ],
            8
        );
        var heard = await (await shop.Client.PostAsJsonAsync("/listen/taps?job=1001", taps)).Content.ReadFromJsonAsync<Told>();
        Assert.Equal(("1 long 2 short", true), (heard!.Signal, heard.Sure));
        Assert.Contains("Aptio V beeps", heard.Says);
        var anywhere = await (await shop.Client.PostAsJsonAsync("/listen/taps", taps)).Content.ReadFromJsonAsync<Told>();
        Assert.True(anywhere!.Answers.Count >= 4);
        var lights = await (
            await shop.Client.PostAsJsonAsync("/listen/lights?job=1001", new LightTaps([new("cpu", 0, 1), new("memory", 1, null)], 40))
        ).Content.ReadFromJsonAsync<Told>();
        Assert.Contains("memory is stuck", lights!.Words);
        Assert.Contains("Still in play", lights.DoesNotSay);
        foreach (
            var (address, body) in new (string, object)[]
            {
                (
                    "taps",
                    new Taps(
                        [
                            [2, 1],
                        ],
                        3
                    )
                ),
                ("lights", new LightTaps([new("moon", 0, 1)], 3)),
                ("lights", new LightTaps(null, 3)),
            }
        )
        {
            using var refused = await shop.Client.PostAsJsonAsync($"/listen/{address}", body);
            Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
            Assert.Contains("problem", await refused.Content.ReadAsStringAsync());
        }

        using var noise = new ByteArrayContent("no sound at all"u8.ToArray());
        using var response = await shop.Client.PostAsync(new Uri("/listen/sound", UriKind.Relative), noise);
        Assert.Contains("not a WAV", await response.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Without_a_script_signals_are_written_in_a_form()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var (_, page) = await shop.SendAsync(
            await shop.GetAsync("/listen?job=1001"),
            "form.signals",
            [("beeps", "5 short"), ("code", "0x55"), ("lights", "cpu memory"), ("sound", "")]
        );
        Assert.Equal(3, page.QuerySelectorAll("section[role=status]").Length);
        var (_, wrong) = await shop.SendAsync(await shop.GetAsync("/listen"), "form.signals", [("beeps", "a sad song"), ("sound", "")]);
        Assert.Contains("expected a beep pattern", wrong.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task The_last_code_of_a_start_goes_with_it_by_itself_and_its_capture_is_kept()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var bench = await shop.GetAsync("/jobs/1010");
        await shop.SendAsync(bench, "#record", [], action: "/jobs/1010?handler=On");
        var readers = shop.Services.GetRequiredService<Readers>();
        for (var i = 0; i < 400 && readers.Shown(1010, SignalLibrary.Standard, ["aptio"]) is not [{ Code: "55" }]; i++)
            await Task.Delay(25);
        Assert.Equal("memory error: none found", Assert.Single(readers.Shown(1010, SignalLibrary.Standard, ["aptio"])).Meaning);

        // A start that is refused keeps its codes for the next try.
        (string, string)[] start = [("seen", "4"), ("stepId", Guid.NewGuid().ToString()), ("lines", "0")];
        var (_, refused) = await UploadAsync(shop, "/jobs/1010", "/jobs/1010", "photo", "board.jpg", "no picture"u8.ToArray(), start);
        Assert.Contains("not recorded", refused.QuerySelector("[role=alert]")!.TextContent);
        await shop.RecordAsync("/jobs/1010", "4");

        var trial = (TrialEntry)(await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Entries[^1];
        Assert.Equal("55", trial.Signs.Code);
        Assert.Equal("02 06 0B 10 15 19 2B 55", trial.Signs.Codes);
        Assert.Contains("Still in play", (await shop.GetAsync("/jobs/1010")).QuerySelector(".says")!.TextContent);
        var link = (await shop.GetAsync("/jobs/1010/log")).QuerySelector("a[href*=captures]")!.GetAttribute("href")!;
        var capture = await shop.Client.GetStringAsync(new Uri(link, UriKind.Relative));
        Assert.Equal("55", CodeLog.Read(capture, "capture").Current!.Code);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await shop.Client.GetAsync(new Uri(link.Replace("1010", "1001"), UriKind.Relative))).StatusCode
        );

        // It goes on standing after the start is recorded, since when it did, and no longer than the power is on.
        shop.Clock.Advance(TimeSpan.FromSeconds(3.2));
        var after = Assert.Single(readers.Shown(1010, SignalLibrary.Standard, ["aptio"]));
        Assert.Equal(("55", "Stuck"), (after.Code, after.Motion));
        Assert.True(after.Stands >= 3200);
        await shop.SendAsync(await shop.GetAsync("/jobs/1010"), "#record", [], action: "/jobs/1010?handler=Off");
        await Task.Delay(300);
        Assert.Equal("", Assert.Single(readers.Shown(1010, SignalLibrary.Standard, ["aptio"])).Code);
    }

    [Fact]
    public async Task A_capture_from_a_file_goes_with_a_start_and_a_broken_one_leaves_it_unrecorded()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1007");
        (string, string)[] start = [("seen", "4"), ("stepId", Guid.NewGuid().ToString()), ("lines", "3")];
        var (_, refused) = await UploadAsync(shop, "/jobs/1007", "/jobs/1007", "capture", "codes.txt", "55\n"u8.ToArray(), start);
        Assert.Contains("codes.txt, line 1", refused.QuerySelector("[role=alert]")!.TextContent);
        var (status, _) = await UploadAsync(
            shop,
            "/jobs/1007",
            "/jobs/1007",
            "capture",
            "codes.txt",
            "# kelvet-codes 1\n0.1 02\n0.9 56\n"u8.ToArray(),
            start
        );
        Assert.Equal(HttpStatusCode.Redirect, status);
        Assert.Equal("56", ((TrialEntry)(await shop.WithStoreAsync(s => s.FindAsync(1007)))!.Bench.Entries[^1]).Signs.Code);
    }

    [Theory]
    [InlineData("", "56", "02 56")]
    [InlineData("D6", "D6", "02 56")]
    public async Task A_capture_is_brought_in_later_when_its_line_is_corrected(string corrected, string code, string codes)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var line = await shop.WithStoreAsync(async s =>
            (await s.FindAsync(1007))!.Bench.Lines.Last(l => l.Written is TrialEntry { Signs.Code: "" }).Number
        );
        var page = $"/jobs/1007/log/{line}";
        (string, string)[] form =
        [
            ("Form.Reason", "the reader's card was read"),
            ("Form.Low", "4"),
            ("Form.High", "5"),
            ("Form.Signs.code", corrected),
            ("Form.Signs.beeps", "3 short"),
            ("stepId", Guid.NewGuid().ToString()),
            ("Form.What", "Correct"),
        ];

        var (_, refused) = await UploadAsync(shop, page, page, "capture", "card.txt", "55\n"u8.ToArray(), form);
        Assert.Contains("card.txt, line 1", refused.QuerySelector("[role=alert]")!.TextContent);
        Assert.Equal(
            ("3 short", "the reader's card was read"),
            (refused.QuerySelector("#beeps-correct")!.GetAttribute("value"), refused.QuerySelector("#reason")!.GetAttribute("value"))
        );
        Assert.Equal("4", refused.QuerySelector("#low-correct option[selected]")!.GetAttribute("value"));

        var (status, _) = await UploadAsync(
            shop,
            page,
            page,
            "capture",
            "card.txt",
            "# kelvet-codes 1\n0.1 02\n0.9 56\n"u8.ToArray(),
            form
        );
        Assert.Equal(HttpStatusCode.Redirect, status);
        var signs = ((TrialEntry)(await shop.WithStoreAsync(s => s.FindAsync(1007)))!.Bench.Lines[line - 1].StruckBy!.Replacement!).Signs;
        Assert.Equal((code, codes), (signs.Code, signs.Codes));
        Assert.Contains("card.txt", (await shop.GetAsync("/jobs/1007/log")).QuerySelector($"#line-{line}")!.TextContent);
    }

    [Theory]
    [InlineData("Serial", "ttyUSB0", "begins with /dev/")]
    [InlineData("Network", "bench", "host:port")]
    [InlineData("Simulated", "sunny", "There is no scenario")]
    [InlineData("Serial", "", "Say where")]
    public async Task A_reader_that_makes_no_sense_is_refused_in_words(string kind, string address, string message)
    {
        await using var shop = await Workshop.OpenAsync();
        var (_, page) = await shop.SendAsync(
            await shop.GetAsync("/shop"),
            "#readers form.panel",
            [("name", "Reader"), ("kind", kind), ("address", address), ("baud", "115200")]
        );
        Assert.Contains(message, page.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task Readers_are_added_plugged_swapped_and_removed_and_nothing_that_came_is_lost()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.SendAsync(
            await shop.GetAsync("/shop"),
            "#readers form.panel",
            [("name", "Second"), ("kind", "Simulated"), ("address", "no-video"), ("baud", "115200")]
        );
        await using var scope = shop.Services.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<SignalStore>();
        var readers = shop.Services.GetRequiredService<Readers>();
        var all = await store.ReadersAsync();
        Assert.Equal(["Bench reader", "Second"], all.Select(r => r.Name));
        await shop.SendAsync(await shop.GetAsync("/jobs/1010"), "#record", [], action: "/jobs/1010?handler=On");
        for (var i = 0; i < 400 && readers.Shown(1010, SignalLibrary.Standard, []) is not [{ Code: "2B" or "55" }]; i++)
            await Task.Delay(25);

        // The first is taken out in the middle of the start, the second goes on in its place.
        await store.PlugAsync(all[0].Id, null);
        await store.PlugAsync(all[1].Id, 1010);
        await readers.ReloadAsync();
        for (var i = 0; i < 400 && readers.Shown(1010, SignalLibrary.Standard, []) is not [{ Name: "Second", Total: > 3 }]; i++)
            await Task.Delay(25);
        await shop.RecordAsync("/jobs/1010", "4");
        var log = await shop.GetAsync("/jobs/1010/log");
        Assert.Equal(2, log.QuerySelectorAll("a[href*=captures]").Length);
        var first = await shop.Client.GetStringAsync(
            new Uri(log.QuerySelector("a[href*=captures]")!.GetAttribute("href")!, UriKind.Relative)
        );
        Assert.Contains("taken out of this machine", first);

        // Both at once: both are shown and both are kept.
        await store.PlugAsync(all[0].Id, 1010);
        await readers.ReloadAsync();
        await shop.StartAsync("/jobs/1010");
        for (var i = 0; i < 400 && readers.Shown(1010, SignalLibrary.Standard, []) is not [{ Total: > 2 }, { Total: > 2 }]; i++)
            await Task.Delay(25);
        Assert.Equal(2, (await shop.GetAsync("/jobs/1010")).QuerySelectorAll(".reader").Length);
        await shop.RecordAsync("/jobs/1010", "4");
        Assert.Equal(4, (await shop.GetAsync("/jobs/1010/log")).QuerySelectorAll("a[href*=captures]").Length);
        await shop.SendAsync(await shop.GetAsync("/shop"), "#readers table form", []);
        Assert.Single(await store.ReadersAsync());
    }
}
