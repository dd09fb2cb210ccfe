using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using Kelvet.Core.Observed;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Kelvet.Web.Tests;

/// <summary>
/// Mutated imports and absurd forms, from a seed: no failure of the program, and no half record. A few in every test run;
/// <c>./kelvet fuzz</c> sends thousands (KELVET_FUZZ_IMPORTS, KELVET_FUZZ_FORMS, KELVET_FUZZ_SEED).
/// </summary>
public class FuzzTests(ITestOutputHelper output)
{
    private static int Setting(string name, int otherwise) =>
        int.TryParse(Environment.GetEnvironmentVariable(name), NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : otherwise;

    private static int Seed => Setting("KELVET_FUZZ_SEED", 20261126);

    private static readonly string[] Absurd =
    [
        "",
        " ",
        "0",
        "-1",
        "4",
        "4-5",
        "6-8",
        "77",
        "NaN",
        "Infinity",
        "1e999",
        "9999999999999999999",
        "true",
        "false",
        "banana",
        "null",
        "[]",
        "{}",
        "\0",
        "\ud83d\ude00",
        "ÿ",
        "=1+1",
        "'; DROP TABLE Jobs;--",
        "<script>",
        "../../etc/passwd",
        "stick-1",
        "board",
        "supply",
        "memory.A2",
        "swap supply shelf-supply",
        "remove cooler",
        "remove stick-1",
        "clear-cmos",
        "display-at board/HDMI",
        "look-plugs",
        "test-supply",
        "11111111-1111-1111-1111-111111111111",
        "Off",
        "On",
        "Correct",
        "StrikeOn",
        "Insert",
        "Start",
        "Orderly",
        "cpu memory~",
        "5 short",
        "0x55",
        new('x', 3000),
        "a\nb",
        "%00",
        "2026-13-45T99:99:99Z",
        // Digits of other scripts, full-width text, marks of direction.
        "３",
        "٣",
        "३ short",
        "１ long ２ short",
        "cpu:٣",
        "ｃｐｕ　ｍｅｍｏｒｙ～",
        "０ｘ５５",
        "²",
        "Ⅷ",
        "\u202e55",
        "\u2066memory\u2069",
        "\u200f\u200e",
        "memory+",
        "restore",
        "erase",
        "prove|-|-|swap supply shelf-supply",
        "/nowhere",
    ];

    /// <summary>Every page of a job, and every page beside.</summary>
    private static readonly string[] PagesOfAJob =

        [
            "",
            "/log",
            "/lines",
            "/steps",
            "/card",
            "/report",
            "/customer",
            "/close",
            "/proof",
            "/heat",
            "/worth",
            "/papers",
            "/once-over",
            "/reproduce",
            "/memory",
            "/hand-over",
            "/ticket",
            "/export",
            "/part",
            "/intake",
        ],
        OtherPages =

        [
            "/",
            "/?show=all",
            "/jobs/new",
            "/shelf",
            "/customers",
            "/catalogue",
            "/codes",
            "/codes/own",
            "/shop",
            "/copies",
            "/listen",
            "/keys",
        ];

    /// <summary>Nothing answers as if the program had failed, and what was there before is there.</summary>
    private static async Task EveryPageStandsAsync(Workshop shop, IEnumerable<int> jobs, string told)
    {
        foreach (var path in OtherPages.Concat(jobs.SelectMany(n => PagesOfAJob.Select(p => $"/jobs/{n}{p}"))))
        {
            using var page = await shop.Client.GetAsync(new Uri(path, UriKind.Relative));
            Assert.True(
                (int)page.StatusCode < 500,
                $"{told}: {path} {page.StatusCode} {shop.Logged.Lines.LastOrDefault(l => l.StartsWith("Error", StringComparison.Ordinal))}"
            );
        }
    }

    [Fact]
    public async Task Mutated_imports_are_taken_whole_or_refused_whole()
    {
        var random = new Random(Seed);
        await using var shop = await Workshop.OpenAsync(demo: true);
        var sound = new List<string>();
        for (var job = 1001; job <= 1010; job++)
            sound.Add(await shop.Client.GetStringAsync(new Uri($"/jobs/{job}/export", UriKind.Relative)));
        var token = (await shop.GetAsync("/jobs/import"))
            .QuerySelector("form[enctype] input[name=__RequestVerificationToken]")!
            .GetAttribute("value")!;
        var (taken, refused, jobs) = (0, 0, 12);
        for (var n = 0; n < Setting("KELVET_FUZZ_IMPORTS", 60); n++)
        {
            var text = Mutated(sound[random.Next(sound.Count)], random);
            using var content = new MultipartFormDataContent
            {
                { new StringContent(token), "__RequestVerificationToken" },
                { new ByteArrayContent(text), "file", "job.json" },
            };
            using var response = await shop.Client.PostAsync(new Uri("/jobs/import", UriKind.Relative), content);
            var told = $"import {n} of seed {Seed}: {response.StatusCode}";
            Assert.True((int)response.StatusCode < 500, told);
            if (response.StatusCode == HttpStatusCode.Redirect)
            {
                taken++;
                jobs++;
                if (taken % 5 != 0)
                    continue;
                using var bench = await shop.Client.GetAsync(new Uri(response.Headers.Location!.ToString(), UriKind.Relative));
                Assert.True(bench.StatusCode == HttpStatusCode.OK, told);
            }
            else
            {
                refused++;
                Assert.Contains("role=\"alert\"", await response.Content.ReadAsStringAsync());
            }
        }

        shop.Services.GetRequiredService<JobCache>().Forget();
        shop.Services.GetRequiredService<DiagnosisCache>().Forget();
        await EveryPageStandsAsync(
            shop,
            [1001, 1010, .. Enumerable.Range(0, 6).Select(_ => 1013 + random.Next(Math.Max(1, taken)))],
            $"imports of seed {Seed}"
        );
        await using var scope = shop.Services.CreateAsyncScope();
        Assert.Equal(jobs, await scope.ServiceProvider.GetRequiredService<KelvetDb>().Jobs.CountAsync());
        output.WriteLine($"{taken} taken, {refused} refused");
        Assert.True(taken > 0 && refused > 0);
    }

    private static byte[] Mutated(string text, Random random)
    {
        if (random.Next(3) == 0)
        {
            var bytes = Encoding.UTF8.GetBytes(text);
            for (var i = random.Next(1, 6); i > 0; i--)
            {
                var at = random.Next(bytes.Length);
                if (random.Next(4) == 0)
                    bytes = [.. bytes[..at], .. bytes[Math.Min(bytes.Length, at + random.Next(40))..]];
                else
                    bytes[at] = (byte)random.Next(256);
                if (bytes.Length == 0)
                    return bytes;
            }

            return bytes;
        }

        var root = JsonNode.Parse(text)!;
        for (var i = random.Next(1, 4); i > 0; i--)
            Mutate(root, random);
        return Encoding.UTF8.GetBytes(root.ToJsonString());
    }

    private static void Mutate(JsonNode root, Random random)
    {
        var node = root;
        while (true)
        {
            JsonNode? inside = node switch
            {
                JsonObject { Count: > 0 } o => o.ElementAt(random.Next(o.Count)).Value,
                JsonArray { Count: > 0 } a => a[random.Next(a.Count)],
                _ => null,
            };
            if (inside is null || (inside is JsonValue or null) || random.Next(4) == 0)
                break;
            node = inside;
        }

        switch (node)
        {
            case JsonObject { Count: > 0 } o:
                var key = o.ElementAt(random.Next(o.Count)).Key;
                switch (random.Next(4))
                {
                    case 0:
                        o.Remove(key);
                        break;
                    case 1:
                        o[Absurd[random.Next(Absurd.Length)]] = o[key]?.DeepClone();
                        break;
                    default:
                        o[key] = Value(random);
                        break;
                }

                break;
            case JsonArray { Count: > 0 } a:
                if (random.Next(2) == 0)
                    a.RemoveAt(random.Next(a.Count));
                else
                    a.Add(random.Next(2) == 0 ? a[random.Next(a.Count)]?.DeepClone() : Value(random));
                break;
            default:
                break;
        }
    }

    private static JsonNode? Value(Random random) =>
        random.Next(6) switch
        {
            0 => null,
            1 => random.Next(-5, 5000),
            2 => random.NextDouble() * 1e6,
            3 => random.Next(2) == 0,
            4 => new JsonArray(1, "x", null),
            _ => Absurd[random.Next(Absurd.Length)].Replace("\ud83d\ude00", "\ud83d", StringComparison.Ordinal),
        };

    private static readonly (string Address, string[] Fields)[] Handlers =
    [
        (
            "/jobs/1007",
            ["seen", "stall", "button", "note", "liveReason", "stepId", "lines", "do", .. SignKinds.All.Select(k => $"signs.{k.Field}")]
        ),
        ("/jobs/1007?handler=Finding", ["check", "checked", "found", "note", "liveReason", "stepId", "lines"]),
        ("/jobs/1007?handler=Work", ["note", "liveReason", "stepId", "lines", "do"]),
        ("/jobs/1007?handler=Button", ["button", "line", "stepId"]),
        ("/jobs/1007?handler=Undo", ["line", "stepId"]),
        ("/jobs/1007?handler=Off", ["do"]),
        ("/jobs/1007?handler=On", ["do"]),
        ("/jobs/1007?handler=Again", ["do"]),
        ("/jobs/1007?handler=Timer", ["name", "seconds"]),
        ("/jobs/1007?handler=Reader", ["reader", "out"]),
        ("/jobs/1007/part", ["kind", "name", "serial", "origin", "stepId"]),
        ("/jobs/1007/part?handler=Shelf", ["unit", "stepId"]),
        ("/jobs/1007/part?handler=Order", ["of", "name", "supplier", "price", "expected", "needs", "why", "ordered"]),
        ("/jobs/1007/part?handler=Step", ["order", "to", "wrong"]),
        ("/orders", ["kind", "name", "supplier", "price", "pieces", "expected", "shelf"]),
        ("/orders?handler=Step", ["order", "to", "wrong"]),
        ("/orders?handler=Seller", ["seller", "email", "phone", "returnDays"]),
        (
            "/jobs/1007/log/2",
            [
                "Form.Reason",
                "Form.What",
                "Form.Kind",
                "Form.Low",
                "Form.High",
                "Form.Stall",
                "Form.Signs.code",
                "Form.Signs.alarm",
                "Form.Keep",
                "Form.Add",
                "Form.Checked",
                "Form.Yes",
                "Form.Note",
                "Form.Also",
                "Form.Preview",
                "stepId",
            ]
        ),
        ("/jobs/1006/close", ["found", "words", "by"]),
        ("/jobs/1006/close?handler=Reopen", []),
        (
            "/jobs/new",
            [
                "Form.Title",
                "Form.Customer",
                "Form.Symptom",
                "Form.Reported",
                "Form.Contexts",
                "Form.Board",
                "Form.Slots",
                "Form.Outputs",
                "Form.CardSlots",
                "Form.Cpu",
                "Form.CpuGraphics",
                "Form.Stick",
                "Form.StickGb",
                "Form.Filled",
                "Form.Card",
                "Form.Drives",
                "Form.Monitor",
                "Form.Supply",
                "Form.Spares",
                "Form.Tables",
                "Form.Wrong[Title]",
            ]
        ),
        ("/jobs/import", ["file"]),
        ("/who", ["name", "back"]),
        ("/who?handler=Theme", ["theme", "back"]),
        ("/shop", ["name", "zone"]),
        (
            "/shop?handler=Ways",
            ["school", "drainSeconds", "hourlyRate", "cmos", "swap", "tester", "cpu", "drain", "pin", "card", "place", "memory"]
        ),
        ("/shop?handler=School", ["school", "job"]),
        ("/shelf?handler=Part", ["kind", "part", "serial", "fits", "quantity"]),
        ("/shelf/1", ["name", "serial", "quantity", "condition"]),
        ("/shelf/1?handler=Retire", []),
        ("/jobs/1007/capture", ["note", "stepId"]),
        ("/who?handler=View", ["view", "back"]),
        ("/shop?handler=Forget", []),
        ("/shop?handler=Reader", ["name", "kind", "address", "baud"]),
        ("/shop?handler=RemoveReader", ["id"]),
        ("/codes/own?handler=Maker", ["maker", "tables"]),
        ("/codes/own?handler=Drop", ["table"]),
        ("/listen", ["beeps", "lights", "code", "job"]),
        ("/?handler=Example", []),
        ("/copies", ["second", "days", "weeks", "passphrase", "open", "sent"]),
        ("/copies?handler=Restore", ["copy", "passphrase", "sent"]),
        ("/jobs/1007/lines", ["line", "reason", "sent"]),
        ("/jobs/1007/card?handler=Pass", ["to", "note", "sent"]),
        ("/jobs/1007/card?handler=Wait", ["wait", "what", "from", "due", "sent"]),
        ("/customers/2", ["name", "phone", "email", "reach", "shown", "sent"]),
        ("/jobs/1007/worth", ["machine", "sent"]),
        ("/jobs/1007/estimate", ["extras", "prices[cleaning]", "until", "deposit", "way", "used", "anew", "sent"]),
        ("/jobs/1007/estimate?handler=Answer", ["offer", "accepted", "who", "how", "no", "sent"]),
        ("/jobs/1001/invoice", ["sent"]),
        ("/jobs/1001/invoice?handler=Pay", ["amount", "how", "kind", "sent"]),
        ("/jobs/1001/invoice?handler=Credit", ["invoice", "sent"]),
        ("/jobs/1006/own", ["bought", "asking", "sent"]),
        ("/jobs/1006/own?handler=Part", ["units", "sent"]),
        ("/jobs/1007/part?handler=Send", ["unit", "supplier", "price", "expected", "needs", "why", "of"]),
        ("/jobs/1007/part?handler=Order", ["of", "name", "supplier", "price", "expected", "needs", "why", "ordered"]),
        ("/jobs/1007/part?handler=Step", ["order", "to", "wrong", "charged"]),
        ("/orders", ["kind", "name", "supplier", "price", "pieces", "expected", "shelf"]),
        ("/orders?handler=Step", ["order", "to", "wrong", "charged"]),
        ("/orders?handler=Seller", ["seller", "email", "phone", "returnDays"]),
        (
            "/shop?handler=Billing",
            ["currency", "tax", "taxName", "withTax", "labour", "flat", "fee", "prefix", "country", "offerDays", "extras[cleaning]"]
        ),
        ("/shop?handler=State", ["on"]),
        ("/jobs/1007/power", ["volts[V12]", "volts[V5]", "load", "by", "at", "guide", "stepId"]),
        ("/jobs/1007/power?handler=Label", ["label", "watts", "sent"]),
        ("/jobs/1007/power?handler=Trace", ["file", "keep", "sent"]),
        ("/shop?handler=Logo", ["logo"]),
        ("/jobs/1007", ["seen", "stepId", "proposed", "kind", .. SignKinds.All.Select(k => $"signs.{k.Field}")]),
        ("/jobs/new?handler=Machine", ["machine", "Form.Title", "Form.Customer", "Form.Base"]),
    ];

    [Fact]
    public async Task Absurd_forms_are_answered_and_leave_every_job_readable()
    {
        var random = new Random(Seed);
        await using var shop = await Workshop.OpenAsync(demo: true);
        var token = (await shop.GetAsync("/shop"))
            .QuerySelector("form[action*=Theme] input[name=__RequestVerificationToken]")!
            .GetAttribute("value")!;
        var said = new SortedDictionary<int, int>();
        for (var n = 0; n < Setting("KELVET_FUZZ_FORMS", 120); n++)
        {
            var (address, names) = Handlers[random.Next(Handlers.Length)];
            var fields = names
                .SelectMany(name =>
                    Enumerable.Repeat(
                        name,
                        random.Next(4) switch
                        {
                            0 => 0,
                            3 => 2,
                            _ => 1,
                        }
                    )
                )
                .Select(name => KeyValuePair.Create(name, Absurd[random.Next(Absurd.Length)]))
                .ToList();
            fields.Add(KeyValuePair.Create("__RequestVerificationToken", token));
            using var content = new FormUrlEncodedContent(fields);
            using var response = await shop.Client.PostAsync(new Uri(address, UriKind.Relative), content);
            said[(int)response.StatusCode] = said.GetValueOrDefault((int)response.StatusCode) + 1;
            Assert.True(
                (int)response.StatusCode < 500,
                $"form {n} of seed {Seed} to {address}: {response.StatusCode}; "
                    + string.Join('&', fields.SkipLast(1).Select(f => $"{f.Key}={f.Value[..Math.Min(30, f.Value.Length)]}"))
                    + $"; {shop.Logged.Lines.LastOrDefault(l => l.StartsWith("Error", StringComparison.Ordinal))}"
            );
        }

        output.WriteLine(string.Join(", ", said.Select(s => $"{s.Key}: {s.Value}")));
        shop.Services.GetRequiredService<JobCache>().Forget();
        var jobs = await shop.JobsAsync();
        Assert.All(jobs, j => Assert.Equal("", j.Unreadable));
        shop.Services.GetRequiredService<DiagnosisCache>().Forget();
        await EveryPageStandsAsync(shop, [1007, .. jobs.Take(1).Select(j => j.Row.Number)], $"forms of seed {Seed}");
    }

    /// <summary>
    /// Kills the server in the middle of what it does, again and again: starts with photo and capture, what is taken back, imports,
    /// closing and reopening, copies, and a copy put back. Nothing that was acknowledged is lost, and nothing is there by halves.
    /// </summary>
    [Fact]
    public async Task Kills_lose_nothing_that_was_acknowledged_and_leave_nothing_by_halves()
    {
        var random = new Random(Seed);
        var shop = new KilledShop(random);
        var kills = Setting("KELVET_KILLS", 6);
        for (var round = 0; round < kills; round++)
            await shop.RoundAsync(round);
        await shop.JudgeAsync();
        output.WriteLine($"{kills} kills: {shop.Told}");
    }

    /// <summary>The same at instants at which the server is frozen, with everything under way at once.</summary>
    [Fact]
    public async Task Stopped_at_any_instant_a_shop_has_what_was_acknowledged()
    {
        const int inOneShop = 120;
        var stops = Setting("KELVET_STOPS", 10);
        for (var done = 0; done < stops; )
        {
            var shop = new KilledShop(new Random(Seed + done));
            done += await shop.StopsAsync(Math.Min(inOneShop, stops - done));
            output.WriteLine($"{done} stops: {shop.Told}");
        }
    }
}
