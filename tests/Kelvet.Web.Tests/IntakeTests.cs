using System.Net;
using System.Text;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>Taking in, the once-over, the catalogue and the shelf, by the requests that a page or a hand makes.</summary>
public sealed class IntakeTests
{
    private static async Task<T> WithAsync<TService, T>(Workshop shop, Func<TService, Task<T>> use)
        where TService : notnull
    {
        await using var scope = shop.Services.CreateAsyncScope();
        return await use(scope.ServiceProvider.GetRequiredService<TService>());
    }

    private static async Task<BenchJob> TakenInAsync(Workshop shop, params (string Name, string Value)[] fields)
    {
        var form = await shop.GetAsync("/jobs/new");
        var (response, page) = await shop.SendAsync(form, "#intake", fields, action: "/jobs/new");
        Assert.True(response.StatusCode == HttpStatusCode.Redirect, page.QuerySelector("[role=alert]")?.TextContent);
        var number = int.Parse(response.Headers.Location!.ToString()["/jobs/".Length..], System.Globalization.CultureInfo.InvariantCulture);
        return (await shop.WithStoreAsync(s => s.FindAsync(number)))!.Bench;
    }

    [Fact]
    public async Task A_name_of_the_catalogue_brings_its_facts_with_it()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = await TakenInAsync(
            shop,
            ("Form.Board", "ondel b20"),
            ("Form.Cpu", "Tarn C5-640F"),
            ("Form.Supply", "Velm 450 W"),
            ("Form.Card", "Brask R90 Studio 16 GB"),
            ("Form.Filled", "A1")
        );
        var board = job.Now.Board!;
        Assert.Equal(("Ondel B20", "T1", BoardForm.Micro), (board.Name, board.Socket, board.Form));
        Assert.Equal(["A1", "B1"], board.Slots.Select(s => s.Name));
        Assert.False(job.Now.Cpu!.HasGraphics);
        Misfit[] misfits = [.. MisfitFound.In(job.Now).Select(m => m.Kind)];
        Assert.Contains(Misfit.SupplyTooSmall, misfits);
        Assert.Contains(Misfit.TooFewPlugs, misfits);
    }

    [Fact]
    public async Task What_the_owner_tried_is_a_claim_and_the_part_is_not_at_hand()
    {
        await using var shop = await Workshop.OpenAsync();
        var job = await TakenInAsync(
            shop,
            ("Form.Reported", "0"),
            ("Form.Tried[0].What", "OtherSupply"),
            ("Form.Tried[0].Sure", "Certain"),
            ("Form.Tried[1].What", "ClearedSettings"),
            ("Form.Tried[1].Seen", "4-5"),
            ("Form.Owner", "memory-stick")
        );
        var claims = job.Testimonies.Select(t => t.Entry).OfType<ClaimEntry>().ToArray();
        Assert.Equal(2, claims.Length);
        Assert.Equal((Sureness.Certain, StageRange.At(BootStage.NoStandby)), (claims[0].Sure, claims[0].Seen));
        Assert.IsType<Change.ClearCmos>(Assert.Single(claims[1].Changes));
        Assert.True(job.Now.Parts[new UnitId("told-supply")].IsAway);
        Assert.All(job.Now.Sticks, s => Assert.True(s.Stick.FittedByOwner));
        Assert.DoesNotContain("that the owner tried", (await shop.GetAsync("/jobs/1001")).QuerySelector(".shelf-strip")!.TextContent);
        Assert.True(BenchDiagnosis.Of(job, Atlas.Standard)[new UnitId("supply")].Probability < 0.5);
    }

    [Fact]
    public async Task Nothing_need_be_known()
    {
        await using var shop = await Workshop.OpenAsync();
        var job = await TakenInAsync(shop, ("Form.Filled", ""), ("Form.Outputs", ""), ("Form.Monitor", ""), ("Form.Drives", "0"));
        Assert.Empty(job.Now.Sticks);
        Assert.Empty(job.Now.Board!.Outputs);
        Assert.Null(job.Now.Now[Place.Monitor]);
        Assert.Equal("Not told yet", job.Intake.Title);
        foreach (var path in new[] { "", "/card", "/once-over", "/reproduce", "/ticket", "/correct", "/report" })
            await shop.GetAsync($"/jobs/1001{path}");
    }

    [Fact]
    public async Task A_correction_keeps_what_it_does_not_touch_and_is_found_by_what_it_says()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var before = (await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench;
        var page = await shop.GetAsync("/jobs/1010/correct");
        var (unsaid, _) = await shop.SendAsync(page, "#intake", [("Reason", "")], action: "/jobs/1010/correct");
        Assert.Equal(HttpStatusCode.OK, unsaid.StatusCode);
        var (response, told) = await shop.SendAsync(
            page,
            "#intake",
            [("Reason", "serial misread"), ("Form.Parts[0].Serial", "V45-NEW-9")],
            action: "/jobs/1010/correct"
        );
        Assert.True(response.StatusCode == HttpStatusCode.Redirect, told.QuerySelector("[role=alert]")?.TextContent);
        var after = (await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench;
        Assert.Equal(before.Lines.Length + 1, after.Lines.Length);
        Assert.Contains(after.Now.Parts.All, u => u.Serial == "V45-NEW-9");
        Assert.Equal(before.Intake.Reported, after.Intake.Reported);
        Assert.Equal(string.Join(' ', before.Intake.Contexts), string.Join(' ', after.Intake.Contexts));
        Assert.Equal(before.Now.Parts.Count, after.Now.Parts.Count);
        Assert.Equal(before.Intake.Received, after.Intake.Received);
        Assert.Contains("1010", (await shop.GetAsync("/?q=V45-NEW-9")).QuerySelector(".job-list")!.TextContent);
        Assert.Contains("Corrected what was taken in: serial misread", (await shop.GetAsync("/jobs/1010/log")).Body!.TextContent);
    }

    [Fact]
    public async Task Parts_are_read_from_what_tools_print_and_what_is_none_is_refused()
    {
        await using var shop = await Workshop.OpenAsync();
        var form = await shop.GetAsync("/jobs/new");
        var (_, refused) = await shop.SendAsync(form, "#intake", [("ListingText", "hello")], action: "/jobs/new?handler=Listing");
        Assert.Contains("No output of dmidecode", refused.QuerySelector("[role=alert]")!.TextContent);
        const string Text =
            "Handle 0x0011, DMI type 17, 84 bytes\nMemory Device\n\tSize: 8 GB\n\tLocator: DIMM_A2\n\tType: DDR4\n"
            + "\tSerial Number: 1A2B\n\tPart Number: KT-0815\n\n01:00.0 VGA compatible controller: Invented G7 (rev a1)\n";
        var (_, read) = await shop.SendAsync(form, "#intake", [("ListingText", Text)], action: "/jobs/new?handler=Listing");
        Assert.Contains("dmidecode, lspci", read.QuerySelector("[role=status]")!.TextContent);
        var (response, _) = await shop.SendAsync(read, "#intake", [("Form.Title", "Read")], action: "/jobs/new");
        Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        var job = (await shop.WithStoreAsync(s => s.FindAsync(1001)))!.Bench;
        Assert.Equal("1A2B", Assert.Single(job.Now.Sticks).Stick.Serial);
        Assert.Equal("Invented G7", job.Now.Cards[0].Card.Name);
        Assert.NotNull(job.Now.Now[Place.Supply]);
        Assert.NotNull(job.Now.Now[Place.Cooler]);
    }

    [Fact]
    public async Task The_once_over_records_nothing_with_hands_in_a_live_machine()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var check = Atlas.Standard.Check("look-plugs")!;
        Task<DeskAnswer> SayAsync(PointAnswer answer, Guid id) =>
            shop.WithDeskAsync(
                (desk, rules) => desk.RecordPointAsync(1010, check, new UnitId("supply"), answer, "cpu-plug", id, Attachments.None, rules)
            );
        Assert.NotNull((await SayAsync(PointAnswer.PutRight, Guid.NewGuid())).Refused);
        Assert.Empty((await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Lines);
        // What could not be seen needs no hands.
        Assert.Null((await SayAsync(PointAnswer.CannotSee, Guid.NewGuid())).Refused);
        await shop.WithDeskAsync((desk, rules) => desk.TakePowerOffAsync(1010, rules));
        shop.Clock.Advance(TimeSpan.FromMinutes(1));
        var id = Guid.NewGuid();
        Assert.Null((await SayAsync(PointAnswer.PutRight, id)).Refused);
        Assert.True((await SayAsync(PointAnswer.PutRight, id)).WasThere);
        Assert.Equal(3, (await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Lines.Length);
    }

    [Fact]
    public async Task A_misfit_is_taken_with_its_fix_at_the_gate_and_both_lines_or_none()
    {
        await using var shop = await Workshop.OpenAsync();
        var job = await TakenInAsync(shop, ("Form.Filled", "A1"), ("Form.Filled", "B1"), ("Form.Reported", "4-5"));
        Assert.Contains(MisfitFound.In(job.Now), m => m.Kind == Misfit.WrongSlots);
        Task<DeskAnswer> TakeAsync() =>
            shop.WithDeskAsync((desk, rules) => desk.TakeMisfitAsync(1001, Misfit.WrongSlots, Guid.NewGuid(), rules));
        Assert.NotNull((await TakeAsync()).Refused);
        Assert.Empty((await shop.WithStoreAsync(s => s.FindAsync(1001)))!.Bench.Lines);
        await shop.WithDeskAsync((desk, rules) => desk.TakePowerOffAsync(1001, rules));
        shop.Clock.Advance(TimeSpan.FromMinutes(1));
        Assert.Null((await TakeAsync()).Refused);
        var after = (await shop.WithStoreAsync(s => s.FindAsync(1001)))!.Bench;
        Assert.Equal(2, after.Lines.Length);
        Assert.Empty(after.OutOfPlace());
        await Assert.ThrowsAsync<EntryRefusedException>(TakeAsync);
    }

    [Fact]
    public async Task The_support_list_tells_at_intake_what_the_CPU_needs_of_its_board()
    {
        await using var shop = await Workshop.OpenAsync();
        await shop
            .Services.GetRequiredService<SupportLists>()
            .KeepAsync(SupportList.Read("board,revision,cpu,firmware\nZed B1,,Zed C9,24\n").List);
        var listed = await TakenInAsync(shop, ("Form.Title", "Dark"), ("Form.Board", "zed b1"), ("Form.Cpu", "Zed C9"));
        Assert.Equal(24, listed.Now.Cpu!.NeedsFirmware);
        Assert.Contains(MisfitFound.In(listed.Now), m => m.Kind == Misfit.FirmwareUnknown);
        var other = await TakenInAsync(shop, ("Form.Title", "Dark"), ("Form.Board", "Zed B2"), ("Form.Cpu", "Zed C9"));
        Assert.Null(other.Now.Cpu!.NeedsFirmware);
    }

    /// <summary>Another CPU in the socket meanwhile: what is corrected is what the machine came in with.</summary>
    [Fact]
    public async Task What_the_CPU_needs_is_kept_of_the_one_that_came_in()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = (await shop.JobsAsync()).Single(j => j.Row.Number == 1007).Job!.Bench;
        var received = job.Intake.Parts[job.Intake.Received[Place.Cpu]!.Value];
        Assert.NotEqual(received.Id, job.Now.Cpu!.Id);
        var page = await shop.GetAsync("/jobs/1007/memory");
        Assert.Contains(received.Name, page.QuerySelector("label[for=needs]")!.TextContent, StringComparison.Ordinal);
        await shop.SendAsync(page, "form[action*=Facts]", [("board.Needs", "77")]);
        var after = (await shop.JobsAsync()).Single(j => j.Row.Number == 1007).Job!.Bench;
        Assert.Equal(77, ((Cpu)after.Intake.Parts[received.Id]).NeedsFirmware);
        Assert.NotEqual(77, after.Now.Cpu!.NeedsFirmware);
    }

    [Fact]
    public async Task A_hand_made_request_flashes_no_board_blindly()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var job = (await shop.JobsAsync()).Single(j => j.Row.Number == 1008).Job!;
        var lines = job.Bench.Lines.Length;
        var answer = await shop.WithDeskAsync(
            (desk, rules) =>
                desk.RecordWorkAsync(
                    1008,
                    new WorkEntry(
                        Guid.NewGuid(),
                        [new Change.Move(new UnitId("shelf-stick"), Place.Memory("A1")), new Change.Mend(Remedy.Flash, new UnitId("board"))]
                    ),
                    null,
                    Attachments.None,
                    rules
                )
        );
        Assert.Equal(PowerBlock.BlindFlash, answer.Refused!.Block);
        Assert.Equal(lines, (await shop.JobsAsync()).Single(j => j.Row.Number == 1008).Job!.Bench.Lines.Length);
    }

    [Fact]
    public async Task A_catalogue_is_kept_whole_or_not_at_all()
    {
        await using var shop = await Workshop.OpenAsync();
        var imports = shop.Services.GetRequiredService<CatalogueImports>();
        async Task<CatalogueImport> BringAsync(string text)
        {
            var import = imports.Begin("parts.csv", Encoding.UTF8.GetBytes(text));
            await imports.RunAsync(import, CatalogueFile.Preview(text, 0).Mapping);
            return import;
        }

        Task<int> CountAsync() => WithAsync(shop, (CatalogueStore c) => c.CountAsync());
        var good = await BringAsync("kind,name,watts\ncpu,Tarn C5,65\nsupply,Velm 450 W,450");
        Assert.Equal((ImportState.Done, (2, 0)), (good.State, good.Kept));
        var bad = await BringAsync("kind,name,watts\ncpu,Tarn C7,95\ncpu,Tarn C9,lots");
        Assert.Equal((ImportState.Refused, 1), (bad.State, bad.Wrong));
        Assert.Equal(2, await CountAsync());
        var again = await BringAsync("kind,name,watts\ncpu,TARN C5,70");
        Assert.Equal((0, 1), again.Kept);
        Assert.Equal(2, await CountAsync());
        var page = await shop.GetAsync($"/catalogue/import/{bad.Id}", HttpStatusCode.NotFound);
        Assert.NotNull(page);
        Assert.Contains("70 W", (await shop.GetAsync("/catalogue?q=tarn")).Body!.TextContent);
    }

    [Fact]
    public async Task The_bench_records_while_twenty_thousand_parts_come_in()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var imports = shop.Services.GetRequiredService<CatalogueImports>();
        var (notes, during, rounds) = (1, 0, 0);
        await shop.NoteAsync(1010, "note 1"); // the first one compiles what the others use
        while (during < 2 && ++rounds <= 10) // a quick machine keeps a file within a note
        {
            var text = new StringBuilder("kind,name,watts\n");
            for (var i = 0; i < 20_000; i++)
                text.Append(System.Globalization.CultureInfo.InvariantCulture, $"supply,Import {i} W,{i % 1000}\n");
            var import = imports.Begin("many.csv", Encoding.UTF8.GetBytes(text.ToString()));
            var work = imports.RunAsync(import, ["kind", "name", "watts"]);
            for (; !work.IsCompleted; during++)
                await shop.NoteAsync(1010, $"note {++notes}");
            await work;
            Assert.Equal((ImportState.Done, 20_000), (import.State, import.Read));
        }

        Assert.True(during >= 2);
        Assert.Equal(notes, (await shop.WithStoreAsync(s => s.FindAsync(1010)))!.Bench.Lines.Length);
        Assert.Equal(20_043, await WithAsync(shop, (CatalogueStore c) => c.CountAsync()));
    }

    [Fact]
    public async Task A_part_in_another_machine_or_for_sale_is_not_offered_and_an_alarm_takes_its_trust()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        Task<IReadOnlyList<Unit>> OfferedAsync() => WithAsync(shop, (Shop s) => s.ShelfAsync());
        var id = new UnitId("shelf-supply");
        Assert.Contains(await OfferedAsync(), u => u.Id == id);
        await shop.StartAsync("/jobs/1010");
        var job = await TakenInAsync(shop, ("Form.Spares", "shelf-supply"), ("Form.Reported", "0"));
        await shop.WithDeskAsync((desk, rules) => desk.TakePowerOffAsync(1013, rules));
        shop.Clock.Advance(TimeSpan.FromMinutes(1));
        var swap = new Change.Swap(new UnitId("supply"), id);
        await shop.WithDeskAsync(
            (desk, rules) => desk.RecordWorkAsync(1013, new WorkEntry(Guid.NewGuid(), [swap]), null, Attachments.None, rules)
        );
        Assert.DoesNotContain(await OfferedAsync(), u => u.Id == id);
        Assert.Contains("in job 1013", (await shop.GetAsync("/shelf")).Body!.TextContent);

        await shop.WithDeskAsync((desk, rules) => desk.PutPowerOnAsync(1013, [], rules));
        var burnt = new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = Alarm.Smell } };
        await shop.WithDeskAsync((desk, rules) => desk.RecordStartAsync(1013, burnt, null, Attachments.None, rules));
        var row = (await WithAsync(shop, (Shop s) => s.WholeShelfAsync())).Parts.Single(p => p.Unit.Id == id).Row;
        Assert.Equal(ShelfCondition.Doubtful, row.Condition);
        Assert.Contains("job 1013", row.Why, StringComparison.Ordinal);

        var shelf = await shop.GetAsync("/shelf");
        await shop.SendAsync(shelf, "#add", [("kind", "Supply"), ("part", "Velm 450 W, boxed"), ("forSale", "true")]);
        Assert.DoesNotContain(await OfferedAsync(), u => u.Name.Contains("boxed", StringComparison.Ordinal));
    }
}
