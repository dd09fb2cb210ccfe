using AngleSharp.Dom;
using Kelvet.Web.Shown;

namespace Kelvet.Web.Tests;

/// <summary>The frame of a job: its places, its keys, where it stands, and finding anything from anywhere.</summary>
public class FrameTests
{
    /// <summary>Pages of a job that are shown for one part or line of it.</summary>
    private static readonly string[] s_further =
    [
        "/unit/stick-2",
        "/return/stick-2",
        "/log/2",
        "/how/flash",
        "/correct",
        "?pick=board",
        "?visit=true",
    ];

    private static IEnumerable<string> Pages(int job) =>
        JobPlace.All.SelectMany(p => p.ToGoTo).Select(p => JobPlace.AddressOf(job, p)).Concat(s_further.Select(f => $"/jobs/{job}{f}"));

    [Fact]
    public async Task Every_page_of_a_job_has_its_places_in_one_order_under_one_key_each()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var wanted = JobPlace.All.Select(p => $"{p.Key} {p.Name} {p.AddressIn(1003)}").ToArray();
        foreach (var address in Pages(1003))
        {
            var page = await shop.GetAsync(address);
            var places = page.QuerySelectorAll("nav.places a").ToArray();
            Assert.Equal(
                wanted,
                places.Select(a => $"{a.GetAttribute("data-key")} {a.ChildNodes[0].TextContent.Trim()} {a.GetAttribute("href")}")
            );
            // One of them is where one is.
            var here = Assert.Single(places, a => a.GetAttribute("aria-current") == "page");
            Assert.Equal(JobPlace.At(address.Split('?')[0]).Place.Key.ToString(), here.GetAttribute("data-key"));
            if (page.QuerySelector(".bench") is not null)
                continue;
            Assert.Equal("Treat as live", page.QuerySelector("#job-line .state")!.TextContent);
            Assert.Equal("Put the rest back. Start it.", page.QuerySelector("#job-line .to-do")!.TextContent);
            Assert.Equal("restart loop to picture", page.QuerySelector("#job-line .complaint")!.TextContent);
        }
    }

    [Fact]
    public async Task A_key_does_what_the_page_of_keys_says_and_a_places_key_nothing_else()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var known = KeyRow.All.SelectMany(g => g.Rows).SelectMany(r => r.Keys).Select(k => k.ToString()).ToHashSet();
        var places = JobPlace.All.ToDictionary(p => p.Key.ToString());
        foreach (var job in (int[])[1001, 1003, 1009, 1010])
        {
            foreach (
                var address in Pages(job)
                    .Where(a =>
                        job == 1003 || !a.Contains("stick-2", StringComparison.Ordinal) && !a.Contains("/log/", StringComparison.Ordinal)
                    )
            )
            {
                var page = await shop.GetAsync(address);
                foreach (var element in page.QuerySelectorAll("[data-key]:not([data-key=''])"))
                {
                    var key = element.GetAttribute("data-key")!;
                    Assert.True(known.Contains(key), $"{address}: no word is said of {key}, {element.TextContent.Trim()}");
                    if (places.TryGetValue(key, out var place))
                        Assert.True(
                            place.AddressIn(job) == element.GetAttribute("href"),
                            $"{address}: {key} is {element.TextContent.Trim()}"
                        );
                }

                // Two of one page under one key would be one too many, unless they do the same.
                var twice = page.QuerySelectorAll("[data-key]:not([data-key='']):not([disabled])")
                    .GroupBy(e => e.GetAttribute("data-key"))
                    .Where(g =>
                        g.Select(e => e.GetAttribute("href") ?? e.GetAttribute("formaction") ?? e.TextContent.Trim()).Distinct().Count() > 1
                    );
                Assert.Empty(twice.Select(g => $"{address}: {string.Join(" and ", g.Select(e => e.TextContent.Trim()))}"));
            }
        }
    }

    [Theory]
    [InlineData("under load", "/jobs/1003/heat")]
    [InlineData("clear cmos", "/jobs/1003?do=clear-cmos")]
    [InlineData("1008", "/jobs/1008")]
    [InlineData("ashgrove", "/customers/")]
    [InlineData("shelf", "/shelf")]
    [InlineData("1-2-2-3", "/codes/phoenix-beeps/1-2-2-3")]
    [InlineData("shelf stick", "/shelf/")]
    public async Task Anything_is_found_from_a_page_of_a_job(string asked, string address)
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var page = await shop.GetAsync($"/find?handler=list&job=1003&q={Uri.EscapeDataString(asked)}");
        Assert.Contains(page.QuerySelectorAll(".found a"), a => a.GetAttribute("href")!.StartsWith(address, StringComparison.Ordinal));
    }

    [Fact]
    public async Task Nothing_found_is_said_and_a_job_that_is_not_there_hides_nothing_else()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var none = await shop.GetAsync("/find?q=qqqq&job=1003");
        Assert.Contains("Nothing found", none.QuerySelector("[role=status]")!.TextContent);
        var gone = await shop.GetAsync("/find?q=copies&job=9999");
        Assert.Equal("/copies", gone.QuerySelector(".found a")!.GetAttribute("href"));
    }

    [Fact]
    public async Task A_first_job_is_told_step_by_step_and_can_be_left_at_any_time()
    {
        await using var shop = await Workshop.OpenAsync(demo: false);
        var (opened, _) = await shop.SendAsync(await shop.GetAsync("/"), "form[action*=First]", []);
        var job = opened.Headers.Location!.ToString();
        async Task<string> ToldAsync() => (await shop.GetAsync(job)).QuerySelector(".guide b")?.TextContent ?? "";
        Assert.Equal("1 of 6", await ToldAsync());
        async Task StartAsync(string seen)
        {
            await shop.SendAsync(await shop.GetAsync(job), "#record", [], action: $"{job}?handler=On");
            await shop.SendAsync(await shop.GetAsync(job), "#record", [], action: $"{job}?handler=Again");
            await shop.SendAsync(await shop.GetAsync(job), "#record", [("seen", seen)]);
        }

        await StartAsync("4-5");
        Assert.Equal("3 of 6", await ToldAsync());
        await shop.SendAsync(await shop.GetAsync(job), "#record", [], action: $"{job}?handler=Off");
        Assert.Equal("4 of 6", await ToldAsync());
        await shop.SendAsync(await shop.GetAsync(job), "form[action*=Guide]", []);
        Assert.Equal("", await ToldAsync());
    }

    [Fact]
    public async Task Each_place_has_its_help_and_every_standing_its_meaning()
    {
        await using var shop = await Workshop.OpenAsync(demo: false);
        foreach (var place in JobPlace.All)
        {
            var page = await shop.GetAsync($"/help/{place.Name.ToLowerInvariant()}");
            Assert.Equal(place.Name, page.QuerySelector(".help section h2")!.ChildNodes[0].TextContent.Trim());
            Assert.True(page.QuerySelectorAll(".help section:first-of-type li").Length > 0);
        }

        Core.Proving.Standing[] judged =
        [
            Core.Proving.Standing.Suspect,
            Core.Proving.Standing.Cleared,
            Core.Proving.Standing.ProofOneWay,
            Core.Proving.Standing.Condemned,
            Core.Proving.Standing.PutRight,
        ];
        Assert.All(judged, s => Assert.NotEqual("", Core.Words.CaseWords.Means(s)));
    }
}
