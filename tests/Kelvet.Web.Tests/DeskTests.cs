using System.Data.Common;
using System.Diagnostics.Metrics;
using System.Net;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Tests that count what the whole process does: nothing else runs beside them.</summary>
[CollectionDefinition(nameof(Alone), DisableParallelization = true)]
[System.Diagnostics.CodeAnalysis.SuppressMessage("Naming", "CA1711", Justification = "xUnit finds it by its attribute.")]
public sealed class Alone;

/// <summary>One command, one transaction, one replay; the gate from whatever request; second presses and sendings.</summary>
[Collection(nameof(Alone))]
public class DeskTests
{
    private static TrialEntry Start(params Change[] changes) => new(Guid.NewGuid(), [.. changes], StageRange.At(BootStage.RunsNoPost));

    private static async Task<BenchJob> JobAsync(Workshop shop, int number) => (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;

    private static readonly byte[] Jpeg = [0xff, 0xd8, 0xff, 0xd9];

    private static Attachments Photo => new(Jpeg, [("reader", "# kelvet-codes 1\n0.1 55\n")]);

    /// <summary>Counts commits, and lets one fail.</summary>
    private sealed class Commits : DbTransactionInterceptor
    {
        public int Count { get; set; }

        public bool Fails { get; set; }

        public override ValueTask<InterceptionResult> TransactionCommittingAsync(
            DbTransaction transaction,
            TransactionEventData eventData,
            InterceptionResult result,
            CancellationToken cancellationToken = default
        )
        {
            Count++;
            return Fails ? throw new IOException("The power went.") : ValueTask.FromResult(result);
        }
    }

    private static async Task<(Workshop Shop, Commits Commits)> OpenAsync()
    {
        var commits = new Commits();
        var shop = await Workshop.OpenAsync(demo: true, also: s => s.ConfigureDbContext<KelvetDb>(o => o.AddInterceptors(commits)));
        return (shop, commits);
    }

    [Fact]
    public async Task A_stage_key_is_one_command_one_transaction_and_one_replay()
    {
        var (shop, commits) = await OpenAsync();
        await using var _ = shop;
        await shop.StartAsync("/jobs/1010");
        var page = await shop.GetAsync("/jobs/1010");
        long replays = 0;
        using var listener = new MeterListener
        {
            InstrumentPublished = (i, l) =>
            {
                if (i.Name == "kelvet.log.replays")
                    l.EnableMeasurementEvents(i);
            },
        };
        listener.SetMeasurementEventCallback<long>((_, n, _, _) => Interlocked.Add(ref replays, n));
        listener.Start();
        shop.Services.GetRequiredService<JobCache>().Forget();
        (commits.Count, replays) = (0, 0);
        var (response, _) = await shop.SendAsync(page, "#record", [], ("seen", "4-5"));
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        Assert.Equal(1, commits.Count);
        Assert.Equal(1, replays);
        Assert.Contains(shop.Logged.Lines, l => l.Contains("Command record start on job 1010: done, line 1,", StringComparison.Ordinal));
    }

    [Fact]
    public async Task What_belongs_to_a_line_is_stored_with_it_or_not_at_all_and_a_retry_finds_or_makes_all_of_it()
    {
        var (shop, commits) = await OpenAsync();
        await using var _ = shop;
        await shop.StartAsync("/jobs/1010");
        var start = Start();
        Task<DeskAnswer> RecordAsync() => shop.WithDeskAsync((desk, rules) => desk.RecordStartAsync(1010, start, null, Photo, rules));
        commits.Fails = true;
        await Assert.ThrowsAsync<IOException>(RecordAsync);
        commits.Fails = false;
        Assert.Equal((0, 0, 0, Power.StartedAgain), await StoredAsync());
        Assert.False((await RecordAsync()).WasThere);
        Assert.Equal((1, 1, 1, Power.On), await StoredAsync());
        Assert.True((await RecordAsync()).WasThere);
        Assert.Equal((1, 1, 1, Power.On), await StoredAsync());

        async Task<(int Lines, int Photos, int Captures, Power Power)> StoredAsync()
        {
            await using var scope = shop.Services.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
            var job = await db.Jobs.AsNoTracking().SingleAsync(j => j.Number == 1010);
            return (
                await db.Steps.CountAsync(s => s.JobId == job.Id),
                await db.Photos.CountAsync(),
                await db.Captures.CountAsync(c => c.JobId == job.Id),
                job.Power
            );
        }
    }

    [Fact]
    public async Task Nothing_comes_between_the_look_and_the_writing()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1010");
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async _ =>
                {
                    try
                    {
                        return (
                            await shop.WithDeskAsync((desk, rules) => desk.RecordStartAsync(1010, Start(), 0, Attachments.None, rules))
                        ).Refused
                            is null;
                    }
                    catch (EntryRefusedException)
                    {
                        return false;
                    }
                })
        );
        Assert.Single(answers, a => a);
        Assert.Single((await JobAsync(shop, 1010)).Lines);
    }

    [Theory]
    [InlineData("seen", "6-8", "", "Hands go in first")]
    [InlineData("", "", "Work", "Hands go in first")]
    public async Task Hands_in_a_live_machine_are_refused_to_a_hand_made_request_and_recorded_with_a_reason(
        string field,
        string value,
        string handler,
        string words
    )
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var action = handler.Length > 0 ? $"/jobs/1007?handler={handler}" : "/jobs/1007";
        await shop.StartAsync("/jobs/1007");
        var lines = (await JobAsync(shop, 1007)).Lines.Length;
        Task<(HttpResponseMessage Response, AngleSharp.Html.Dom.IHtmlDocument Page)> SendAsync(string reason) =>
            SendOnceAsync(
                shop,
                action,
                [("do", "remove stick-1"), ("liveReason", reason), .. field.Length > 0 ? [(field, value)] : Array.Empty<(string, string)>()]
            );
        var (_, page) = await SendAsync("");
        Assert.Contains(words, page.QuerySelector("[role=alert]")!.TextContent);
        Assert.NotNull(page.QuerySelector("details.live[open] [data-live-reason]"));
        Assert.Equal(lines, (await JobAsync(shop, 1007)).Lines.Length);
        Assert.Equal(HttpStatusCode.Redirect, (await SendAsync("the switch was forgotten")).Response.StatusCode);
        Assert.Contains("Done live: the switch was forgotten", (await shop.GetAsync("/jobs/1007/log")).Body!.TextContent);
    }

    [Fact]
    public async Task A_look_with_hands_in_is_refused_to_a_hand_made_request_while_it_is_live()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.StartAsync("/jobs/1007");
        var look = "/jobs/1007?handler=Finding";
        var (_, page) = await SendOnceAsync(shop, look, [("check", "look-plugs"), ("checked", "supply"), ("found", "true")]);
        Assert.Contains("Hands go in first", page.QuerySelector("[role=alert]")!.TextContent);
        var (recorded, _) = await SendOnceAsync(
            shop,
            look,
            [("check", "look-plugs"), ("checked", "supply"), ("found", "true"), ("liveReason", "seen through the side")]
        );
        Assert.Equal(HttpStatusCode.Redirect, recorded.StatusCode);
    }

    private static async Task<(HttpResponseMessage Response, AngleSharp.Html.Dom.IHtmlDocument Page)> SendOnceAsync(
        Workshop shop,
        string action,
        (string, string)[] fields
    ) => await shop.SendAsync(await shop.GetAsync("/shop"), "form[action*=Theme]", fields, action: action);

    [Fact]
    public async Task A_second_press_is_no_second_start_until_a_start_is_told()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010", "6-8");
        var locked = await shop.GetAsync("/jobs/1010");
        Assert.Empty(locked.QuerySelectorAll(".stage"));
        Assert.NotNull(locked.QuerySelector(".undo"));
        for (var i = 0; i < 5; i++)
        {
            var (_, page) = await SendOnceAsync(shop, "/jobs/1010", [("seen", "6-8")]);
            Assert.Contains("recorded already. Start it again first", page.QuerySelector("[role=alert]")!.TextContent);
        }

        Assert.Single((await JobAsync(shop, 1010)).Trials);
        await shop.SendAsync(locked, "#record", [], action: "/jobs/1010?handler=Again");
        Assert.Equal(10, (await shop.GetAsync("/jobs/1010")).QuerySelectorAll(".stage").Length);
        await SendOnceAsync(shop, "/jobs/1010", [("seen", "6-8")]);
        Assert.Equal(2, (await JobAsync(shop, 1010)).Trials.Length);
    }

    [Fact]
    public async Task Undo_takes_the_last_line_back_as_a_strike_and_its_start_waits_to_be_told_again()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await shop.RecordAsync("/jobs/1010?do=clear-cmos", "6-8");
        var page = await shop.GetAsync("/jobs/1010");
        var undo = page.QuerySelector(".undo")!;
        var (response, _) = await shop.SendAsync(page, "#record", [], ("line", undo.GetAttribute("value")!), "/jobs/1010?handler=Undo");
        Assert.Equal("/jobs/1010?do=clear-cmos", response.Headers.Location!.ToString());
        var job = await JobAsync(shop, 1010);
        Assert.Empty(job.Trials);
        Assert.Equal(2, job.Lines.Length);
        Assert.Equal("Taken back at once.", job.Lines[0].StruckBy!.Reason);
        Assert.Equal(10, (await shop.GetAsync("/jobs/1010?do=clear-cmos")).QuerySelectorAll(".stage").Length);

        // Only the last line: when another came since, it is struck in the log.
        await SendOnceAsync(shop, "/jobs/1010", [("seen", "4"), ("do", "clear-cmos")]);
        var first = (await JobAsync(shop, 1010)).Entries[^1].Id;
        await shop.NoteAsync(1010, "meanwhile");
        var (_, late) = await SendOnceAsync(shop, "/jobs/1010?handler=Undo", [("line", first.ToString())]);
        Assert.Contains("Another line has been recorded since", late.QuerySelector("[role=alert]")!.TextContent);
    }

    [Fact]
    public async Task A_clock_that_is_set_back_while_it_drains_makes_nobody_wait()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        await SendOnceAsync(shop, "/jobs/1007?handler=Off", []);
        shop.Clock.Set(TimeSpan.FromHours(-1));
        var draining = await shop.GetAsync("/jobs/1007?do=clear-cmos");
        Assert.Contains("Draining", draining.QuerySelector(".safety .state")!.TextContent);
        shop.Clock.Advance(TimeSpan.FromSeconds(21));
        Assert.Contains("safe to touch", (await shop.GetAsync("/jobs/1007")).QuerySelector(".safety .state")!.TextContent);
        var (response, _) = await SendOnceAsync(shop, "/jobs/1007?handler=On", [("do", "clear-cmos")]);
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        Assert.Equal(Power.OnAgain, (await shop.WithStoreAsync(s => s.FindAsync(1007)))!.Row.Power);
    }

    [Fact]
    public async Task A_forgotten_line_is_put_in_and_a_whole_tail_is_struck_after_a_look_at_what_becomes_of_the_rest()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var before = await JobAsync(shop, 1008);
        var form = await shop.GetAsync("/jobs/1008/log/5");
        (string, string)[] forgotten =
        [
            ("Form.Reason", "not written down"),
            ("Form.Kind", "Start"),
            ("Form.Add", "remove drive"),
            ("Form.Low", "4"),
            ("Form.High", "5"),
            ("Form.Yes", ""),
            ("Form.Checked", ""),
        ];
        var (_, preview) = await shop.SendAsync(
            form,
            "#insert",
            [.. forgotten, ("Form.Preview", "true")],
            ("Form.What", "Insert"),
            "/jobs/1008/log/5"
        );
        Assert.Matches(@"Start \d+: stays, but what was started was another machine", preview.QuerySelector("#preview")!.TextContent);
        Assert.Equal(before.Lines.Length, (await JobAsync(shop, 1008)).Lines.Length);
        var (done, _) = await shop.SendAsync(
            form,
            "#insert",
            [.. forgotten, ("Form.Preview", "false")],
            ("Form.What", "Insert"),
            "/jobs/1008/log/5"
        );
        Assert.Equal(HttpStatusCode.Redirect, done.StatusCode);
        var job = await JobAsync(shop, 1008);
        Assert.Equal((5, before.Lines.Length + 1), (job.Lines[^1].Position, job.Lines.Length));
        Assert.False(job.Trials[5].Situation.Now.Has(new("drive")));

        var tail = await shop.GetAsync("/jobs/1008/log/4");
        await shop.SendAsync(
            tail,
            "#correct",
            [("Form.Reason", "the wrong machine"), ("Form.Preview", "false")],
            ("Form.What", "StrikeOn"),
            "/jobs/1008/log/4"
        );
        Assert.Equal(3, (await JobAsync(shop, 1008)).Trials.Length);
        Assert.Equal(before.Entries, (await JobAsync(shop, 1008)).Entries.Take(before.Entries.Length), (a, b) => a.Id == b.Id);
    }

    [Fact]
    public async Task An_act_is_changed_and_lines_that_would_be_impossible_are_struck_with_it_when_that_is_meant()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var form = await shop.GetAsync("/jobs/1008/log/4");
        (string, string)[] never = [("Form.Reason", "the stick stayed in"), ("Form.Keep", ""), ("Form.Low", "4"), ("Form.High", "5")];
        var (_, preview) = await shop.SendAsync(
            form,
            "#correct",
            [.. never, ("Form.Preview", "true")],
            ("Form.What", "Correct"),
            "/jobs/1008/log/4"
        );
        Assert.Contains("would not be possible any more", preview.QuerySelector("#preview")!.TextContent);
        Assert.NotEmpty(preview.QuerySelectorAll("#correct [name='Form.Also']"));
        var (done, _) = await shop.SendAsync(
            preview,
            "#correct",
            [("Form.Preview", "false"), ("Form.Keep", "")],
            ("Form.What", "Correct"),
            "/jobs/1008/log/4"
        );
        Assert.Equal(HttpStatusCode.Redirect, done.StatusCode);
        var job = await JobAsync(shop, 1008);
        Assert.Empty(((TrialEntry)job.Lines[3].Stands!).Changes);
        Assert.Contains(job.Lines, l => l.StruckBy is not null && l.Stands is null);

        // What was corrected is filled in as it now reads, and is corrected again.
        var again = await shop.GetAsync("/jobs/1008/log/4");
        Assert.Empty(again.QuerySelectorAll("#correct input[name='Form.Keep'][checked]"));
        (done, _) = await shop.SendAsync(
            again,
            "#correct",
            [("Form.Reason", "and it was 2"), ("Form.Keep", ""), ("Form.Low", "2"), ("Form.High", "2"), ("Form.Preview", "false")],
            ("Form.What", "Correct"),
            "/jobs/1008/log/4"
        );
        Assert.Equal(HttpStatusCode.Redirect, done.StatusCode);
        Assert.Equal(StageRange.At(BootStage.CutsOut), ((TrialEntry)(await JobAsync(shop, 1008)).Lines[3].Stands!).Seen);
    }
}
