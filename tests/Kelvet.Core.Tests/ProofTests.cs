using System.Text.RegularExpressions;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;
using MathNet.Numerics.Distributions;
using static Kelvet.Core.Tests.Bench;
using SpecialFunctions = MathNet.Numerics.SpecialFunctions;

namespace Kelvet.Core.Tests;

/// <summary>How far clean starts prove a repair, and what its owner is told.</summary>
[Trait("suite", "rules")]
public partial class ProofTests
{
    /// <summary>Against MathNet's Beta function and the Beta distribution's own moments.</summary>
    [Theory]
    [InlineData(1, 1, 3)]
    [InlineData(3, 7, 12)]
    [InlineData(2, 40, 60)]
    [InlineData(9, 10, 5)]
    public void Clean_starts_agree_with_MathNet(int failed, int starts, int clean)
    {
        double a = failed + 1,
            b = starts - failed + 1;
        var expected = Math.Exp(SpecialFunctions.BetaLn(a, b + clean) - SpecialFunctions.BetaLn(a, b));
        Assert.Equal(expected, CleanStarts.ChanceUnrepaired(failed, starts, clean), 1e-9);
        var line = new StartsOfKind(null, failed, starts, clean);
        Assert.Equal(1 / (1 + expected), line.Belief(clean)!.Value, 1e-9);
        // One clean start: the mean of what is not failing.
        Assert.Equal(1 - new Beta(a, b).Mean, CleanStarts.ChanceUnrepaired(failed, starts, 1), 1e-9);
    }

    /// <summary>
    /// The rule of three (Hanley and Lippman-Hand, JAMA 249 (1983) 1743, from memory): 0 of 14 leaves open 3/14 = 21 % by the rule,
    /// 19.3 % exactly.
    /// </summary>
    [Fact]
    public void None_of_fourteen_leaves_nineteen_percent_open()
    {
        var open = new StartsOfKind(null, 0, 0, 14).RateLeftOpen;
        Assert.Equal(0.193, open, 3);
        Assert.Equal(3.0 / 14, open, 0.03);
        Assert.Equal(1, new StartsOfKind(null, 0, 0, 0).RateLeftOpen);
        // At this rate all fourteen pass with 5 %: the binomial distribution says the same.
        Assert.Equal(0.05, new Binomial(open, 14).Probability(0), 1e-9);
    }

    [Fact]
    public void Kinds_of_start_are_counted_apart_and_a_failure_begins_the_count_anew()
    {
        var bench = Office();
        foreach (var (seen, kind) in new[] { ("4", StartKind.Cold), ("6", StartKind.Warm), ("6", StartKind.Warm), ("4", StartKind.Cold) })
            bench.Trial(seen, null, kind);
        bench.Trial("6", null, StartKind.Warm, Reseat("stick-1"));
        bench.Trial("6", null, StartKind.Cold).Trial("6", null, StartKind.Cold);
        var proof = ProofByStarts.Of(bench.Job);
        Assert.Equal((2, 4, 3), (proof.All.Failed, proof.All.Starts, proof.All.Clean));
        var cold = proof.Kinds.Single(k => k.Kind == StartKind.Cold);
        Assert.Equal((2, 2, 2), (cold.Failed, cold.Starts, cold.Clean));
        var warm = proof.Kinds.Single(k => k.Kind == StartKind.Warm);
        Assert.Equal((0, 2, 1), (warm.Failed, warm.Starts, warm.Clean));
        Assert.Equal("Never failed so; 1 clean in a row since: it fails in at most 95 % of such starts (95 % sure).", warm.Words(0.95));
        Assert.StartsWith("Failed 2 of 2 before; 2 clean in a row since: ", cold.Words(0.95), StringComparison.Ordinal);
        bench.Trial("4", null, StartKind.Cold);
        Assert.Equal(0, ProofByStarts.Of(bench.Job).All.Clean);
    }

    [Fact]
    public void Of_two_set_ups_that_failed_the_one_that_was_started_more_often_counts()
    {
        var bench = Office().Trial("4", Remove("keyboard"));
        bench.Trial("4", Fit("keyboard", "peripheral.1")).Trial("6").Trial("6").Trial("4").Trial("6", Remove("stick-2"));
        var all = ProofByStarts.Of(bench.Job).All;
        Assert.Equal((2, 4, 1), (all.Failed, all.Starts, all.Clean));
    }

    [Fact]
    public void What_was_told_counts_where_the_bench_never_saw_it()
    {
        var job = BenchJob.Open(
            Office().Job.Intake with
            {
                Reported = StageRange.At(BootStage.RunsNoPost),
                ReportedTimes = new Times(2, 5),
            }
        );
        var told = ProofByStarts.Of(job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture))));
        Assert.Equal((2, 5, 1), (told.All.Failed, told.All.Starts, told.All.Clean));
        // Of cold starts it was told: of those and of all together, and of no other kind.
        var cold = BenchJob.Open(job.Intake with { Complaint = new Complaint { When = StartKind.Cold } });
        told = ProofByStarts.Of(cold.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture))));
        Assert.Equal((2, 5), (told.All.Failed, told.All.Starts));
        Assert.Equal(
            [(StartKind.Cold, 2, 5), (StartKind.Warm, 0, 0)],
            told.Kinds.Select(k => (k.Kind!.Value, k.Failed, k.Starts)).OrderByDescending(k => k.Failed)
        );
    }

    [Fact]
    public void An_owner_is_told_what_was_wrong_and_how_it_is_known()
    {
        var bench = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        bench.Trial("1").Trial("6", Swap("supply", "spare-supply")).Trial("1", Swap("spare-supply", "supply"));
        bench.Trial("6", Swap("supply", "spare-supply")).Trial("6");
        var plain = PlainReport.Of(bench.Diagnosis, [new UnitId("supply")]);
        Assert.Equal("The power supply (the supply) is broken.", Assert.Single(plain.Wrong));
        Assert.StartsWith(
            "Without this power supply the machine worked; with it back in, it failed again",
            Assert.Single(plain.Known),
            StringComparison.Ordinal
        );
        Assert.Equal("The power supply was replaced by the spare-supply.", Assert.Single(plain.Done));
        Assert.Contains(plain.Watch, w => w.Contains("started twice without a fault", StringComparison.Ordinal));
        Assert.Equal("It has not been tried yet.", Assert.Single(PlainReport.Of(Office().Diagnosis, []).Wrong));
    }

    [Fact]
    public void What_an_owner_reads_is_true_of_how_the_job_ended()
    {
        static PlainReport Ended(Bench bench, params string[] found) =>
            PlainReport.Of(bench.Diagnosis, [.. found.Select(f => new UnitId(f))], closed: true);
        static string All(PlainReport plain) => string.Join(' ', [.. plain.Wrong, .. plain.Known, .. plain.Done, .. plain.Watch]);

        var worked = Ended(Office().Trial("6").Trial("6").Trial("6"));
        Assert.StartsWith("It worked here: it was started 3 times", Assert.Single(worked.Wrong), StringComparison.Ordinal);
        Assert.Equal("Nothing was repaired.", Assert.Single(worked.Done));
        Assert.Contains(worked.Watch, w => w.StartsWith("At home", StringComparison.Ordinal));
        Assert.DoesNotContain("repair it", All(worked), StringComparison.Ordinal);

        var given = Ended(Office().Trial("4").Trial("4", Clear), "board");
        Assert.Contains("It was not repaired, and goes back as it is.", given.Done);
        Assert.DoesNotContain("Since the repair", All(given), StringComparison.Ordinal);
        Assert.DoesNotContain("At home", All(given), StringComparison.Ordinal);
        Assert.Contains("It was not repaired, and goes back as it is.", Ended(Office().Trial("4").Trial("4", Clear)).Done);

        var around = Ended(Office().Trial("4").Trial("6", Move("stick-1", "memory.A1")).Trial("6"), "board");
        Assert.Contains("Nothing was replaced. As it is put together now, it works.", around.Done);
        Assert.DoesNotContain("Since the repair", All(around), StringComparison.Ordinal);

        // Now and then, and not caught: nobody says that it was repaired.
        var seldom = Ended(Office().Trial("4").Trial("6").Trial("4").Trial("6").Trial("6"));
        Assert.DoesNotContain("repair it", All(seldom), StringComparison.Ordinal);
        Assert.DoesNotContain("Since the repair", All(seldom), StringComparison.Ordinal);
        Assert.Contains("what caused it may still be there", All(seldom), StringComparison.Ordinal);

        var repaired = Ended(
            Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Trial("1").Trial("6", Swap("supply", "spare")),
            "supply"
        );
        Assert.Contains("Since the repair", All(repaired), StringComparison.Ordinal);
        Assert.DoesNotContain("not repaired", All(repaired), StringComparison.Ordinal);
        // An open job says nothing of going back.
        Assert.DoesNotContain("goes back", All(PlainReport.Of(Office().Trial("4").Diagnosis, [])), StringComparison.Ordinal);
    }

    [Fact]
    public void What_is_written_to_an_owner_goes_by_how_the_job_stands()
    {
        var open = new OwnerMessage.Facts("Fen Lane", 1009, "Odo", PlainReport.Of(Office().Trial("4").Diagnosis, [new UnitId("board")]));
        Assert.Equal([MessageKind.Leave], OwnerMessage.Of(open).Select(m => m.Kind));
        var waiting = OwnerMessage.Of(open with { WaitsFor = "a board", Due = new DateOnly(2026, 12, 3) });
        Assert.Equal([MessageKind.PartLate, MessageKind.Leave], waiting.Select(m => m.Kind));
        Assert.Contains("a board. \n".Trim(), waiting[0].Text, StringComparison.Ordinal);
        Assert.Contains("expected on 2026-12-03", waiting[0].Text, StringComparison.Ordinal);
        var ready = Assert.Single(OwnerMessage.Of(open with { IsClosed = true, WaitsFor = "a board", Total = "145.00 EUR" }));
        Assert.Equal((MessageKind.Ready, "Your computer can be fetched (job 1009)"), (ready.Kind, ready.Subject));
        Assert.StartsWith("Dear Odo,\n\n", ready.Text, StringComparison.Ordinal);
        Assert.Contains("It comes to 145.00 EUR.", ready.Text, StringComparison.Ordinal);
        Assert.EndsWith("\n\nFen Lane", ready.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("It comes to", OwnerMessage.Of(open with { IsClosed = true })[0].Text, StringComparison.Ordinal);
        Assert.StartsWith("Hello,", OwnerMessage.Of(open with { Owner = "" })[0].Text, StringComparison.Ordinal);
        Assert.All(OwnerMessage.Of(open), m => Assert.DoesNotContain('%', m.Text));
    }

    /// <summary>Every cure and every part, as its owner reads it: no word of the trade, and no figure of the reckoning.</summary>
    [Fact]
    public void No_jargon_reaches_an_owner()
    {
        var words = new List<string>();
        foreach (var kind in Enum.GetValues<UnitKind>())
            words.Add(PlainReport.Plainly(kind));
        Change[] acts = [Reseat("stick-1"), Clear, new Change.Mend(Remedy.Clean, new UnitId("stick-1")), Swap("supply", "spare-supply")];
        foreach (var act in acts)
        {
            var bench = Office(card: true).Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
            bench.Contexts = ["power-event", "heat"];
            bench.Trial("4").Trial("6").Trial("4").Trial("6", act).Trial("6").Trial("6");
            foreach (var unit in bench.Job.Now.Parts.All)
            {
                foreach (var closed in new[] { false, true })
                {
                    var plain = PlainReport.Of(bench.Diagnosis, closed ? [unit.Id] : [], null, closed);
                    words.AddRange([.. plain.Wrong, .. plain.Known, .. plain.Done, .. plain.Watch, .. plain.Besides]);
                }
            }
        }

        Assert.True(words.Distinct().Count() > 30);
        foreach (var said in words.Select(w => Names().Replace(w, "")))
            Assert.DoesNotContain(
                PlainReport.Jargon,
                j => Regex.IsMatch(said, j == "%" ? "%" : $@"\b{Regex.Escape(j)}s?\b", RegexOptions.IgnoreCase)
            );
    }

    [Fact]
    public void The_hand_over_sheet_asks_for_what_this_machine_has()
    {
        var bench = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf)).Trial("4");
        bench.Trial("6", Swap("supply", "spare-supply"));
        var kinds = HandOverSheet.Of(bench.Diagnosis);
        Assert.Equal("16 GB: A2 8 GB, B2 8 GB", kinds.Single(p => p.Kind == HandOverKind.Memory).Detail);
        Assert.Equal(["at the front", "at the back"], kinds.Where(p => p.Kind == HandOverKind.Ports).Select(p => p.Detail));
        Assert.Equal(["HDMI", "DP", "VGA"], kinds.Where(p => p.Kind == HandOverKind.Output).Select(p => p.Detail));
        Assert.Equal("supply", kinds.Single(p => p.Kind == HandOverKind.PartOut).Unit!.Id.Value);
        Assert.Equal("spare-supply", kinds.Single(p => p.Kind == HandOverKind.PartLent).Unit!.Id.Value);
        Assert.Equal(HandOverKind.Case, kinds[^1].Kind);
        Assert.All(kinds, p => Assert.NotEmpty(p.Words()));
        // What a look found is put right or told; what the last look did not find any more is neither.
        bench.Finding("look-board", "board", true).Finding("look-cooler", "cooler", true).Finding("look-cooler", "cooler", false);
        var found = HandOverSheet.Of(bench.Diagnosis).Where(p => p.Kind == HandOverKind.Finding).ToArray();
        Assert.Equal(["board"], found.Select(p => p.Unit!.Id.Value));
        Assert.EndsWith(": put right, or told", found[0].Words(), StringComparison.Ordinal);
        // Behind a card the board's own outputs are not asked for, nor those of a board whose CPU makes no picture.
        var card = HandOverSheet.Of(Office(card: true).Diagnosis);
        Assert.Equal(["DP 1", "HDMI"], card.Where(p => p.Kind == HandOverKind.Output).Select(p => p.Detail));
        Assert.DoesNotContain(HandOverSheet.Of(Office(cpuGraphics: false).Diagnosis), p => p.Kind == HandOverKind.Output);
    }

    [Fact]
    public void Windows_of_a_part_are_counted_down()
    {
        var unit = Plain("supply", UnitKind.Supply) with { Bought = new DateOnly(2026, 1, 31), ReturnDays = 30, WarrantyMonths = 13 };
        var windows = PartWindow.Of(unit);
        Assert.Equal(
            [(Window.DeadOnArrival, "2026-02-14"), (Window.Return, "2026-03-02"), (Window.Warranty, "2027-02-28")],
            windows.Select(w => (w.Kind, w.Last.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture)))
        );
        string On(string day) => windows[1].Words(DateOnly.Parse(day, System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal("return to the seller until 2026-03-02, 3 days left", On("2026-02-27"));
        Assert.Equal("return to the seller ends tomorrow", On("2026-03-01"));
        Assert.Equal("return to the seller ends today", On("2026-03-02"));
        Assert.Equal("return to the seller ended 2026-03-02", On("2026-03-03"));
        Assert.Empty(PartWindow.Of(Plain("x", UnitKind.Supply)));
        Assert.Equal(unit, JobFormat.ReadUnit(JobFormat.Write(unit)) with { Fits = unit.Fits });
        Assert.Throws<ArgumentOutOfRangeException>(() => unit with { WarrantyMonths = 241 });
    }

    [Fact]
    public void What_each_way_out_costs_adds_up()
    {
        var bench = Office().Trial("4").Trial("4", Clear);
        var preferences = Preferences.Usual with { HourlyRate = 60 };
        var worth = Worth.Of(bench.Diagnosis, 45, null, preferences);
        Assert.Equal(Effort.Minutes(bench.Job, Atlas.Standard), worth.Spent, 1e-9);
        Assert.Equal(WayOut.GiveBack, worth.Ways[^1].Way);
        Assert.Equal(worth.Ways[..^1].Select(w => w.Cost.New), worth.Ways[..^1].Select(w => w.Cost.New).Order());
        // An hour costs 60: a minute is one.
        foreach (var way in worth.Ways.Where(w => w.Way is WayOut.SearchOn or WayOut.ReplaceCore))
        {
            Assert.Equal(way.Minutes + way.Parts.New, way.Cost.New, 1e-9);
            Assert.Equal(way.Minutes + way.Parts.Used, way.Cost.Used, 1e-9);
        }

        var core = worth.Ways.Single(w => w.Way == WayOut.ReplaceCore);
        Assert.Equal(110 + 160 + 35 + 35, core.Parts.New, 1e-9);
        // Nothing tells anything: no searching on.
        Assert.DoesNotContain(Worth.Of(bench.Diagnosis, null, null, preferences).Ways, w => w.Way == WayOut.SearchOn);
    }

    /// <summary>Names of parts are the maker's own.</summary>
    [GeneratedRegex(@"\([^)]*\)|replaced by .*")]
    private static partial Regex Names();
}
