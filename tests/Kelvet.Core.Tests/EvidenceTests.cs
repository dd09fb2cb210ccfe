using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Evidence beyond trials, mending, harm and firmware, each through a whole diagnosis.</summary>
public class EvidenceTests
{
    private static BenchDiagnosis With(Bench bench, params Entry[] entries) => BenchDiagnosis.Of(bench.Job.With(entries), Atlas.Standard);

    private static FindingEntry Finding(string check, string unit, bool found) => new(Guid.NewGuid(), check, new UnitId(unit), found);

    [Theory]
    [InlineData("look-plugs", "supply", "supply/cpu-power-unplugged")]
    [InlineData("look-stick", "stick-1", "stick-1/stick-unseated")]
    [InlineData("look-front-panel", "switch", "switch/header-miswired")]
    [InlineData("look-socket", "board", "board/socket-pins-bent")]
    [InlineData("look-cooler", "cooler", "cooler/cooler-no-contact")]
    [InlineData("look-card", "card", "card/card-aux-unplugged")]
    [InlineData("look-board", "board", "board/board-power-stage")]
    [InlineData("meter-battery", "board", "board/battery-flat")]
    public void A_finding_accuses_what_it_shows_and_its_absence_speaks_for_it(string check, string unit, string fault)
    {
        var bench = Office(card: true).Trial("2");
        var before = bench.Diagnosis.PFault(fault);
        Assert.True(With(bench, Finding(check, unit, true)).PFault(fault) > 3 * before);
        Assert.True(With(bench, Finding(check, unit, false)).PFault(fault) < before);
    }

    [Fact]
    public void A_good_tester_reading_says_little_about_a_weak_supply_and_a_bad_one_much()
    {
        var bench = Office(card: true).Trial("3");
        var before = bench.Diagnosis.PFault("supply/supply-weak");
        Assert.True(With(bench, Finding("test-supply", "supply", false)).PFault("supply/supply-weak") > 0.7 * before);
        Assert.True(With(bench, Finding("read-rails-loaded", "supply", false)).PFault("supply/supply-weak") < 0.6 * before);
        Assert.True(With(Office().Trial("0"), Finding("test-supply", "supply", true)).P("supply") > 0.95);
    }

    [Fact]
    public void A_tester_at_the_end_of_an_extension_accuses_the_extension_as_well()
    {
        var d = With(Office().Trial("0"), Finding("test-supply-at-extension", "extension", true));
        Assert.True(d.P("extension") > 0.1 && d.P("supply") > 0.3);
        var own = With(
            Office().Trial("0"),
            Finding("test-supply-at-extension", "extension", true),
            Finding("test-supply", "supply", false)
        );
        Assert.True(own.P("extension") > own.P("supply"));
    }

    [Fact]
    public void A_hot_CPU_accuses_the_cooler()
    {
        var d = With(Office().Trial("6"), Finding("read-temperature-setup", "cpu", true));
        Assert.Equal("cooler", d.Suspects[0].Unit.Id.Value);
    }

    [Fact]
    public void The_power_button_test_splits_four_from_five()
    {
        var job = Office().Job;
        TrialEntry Press(ButtonTest? button) =>
            new(Guid.NewGuid(), [], new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture)) { Button = button };
        Assert.Equal(StageRange.At(BootStage.PostNoPicture), job.Append(Press(ButtonTest.Orderly)).Trials[0].Seen);
        Assert.Equal(StageRange.At(BootStage.RunsNoPost), job.Append(Press(ButtonTest.NoResponse)).Trials[0].Seen);
        double Cable(ButtonTest? b) => BenchDiagnosis.Of(job.Append(Press(b)), Atlas.Standard).P("cable");
        Assert.True(Cable(ButtonTest.Orderly) > Cable(null) && Cable(null) > Cable(ButtonTest.NoResponse));
    }

    [Fact]
    public void What_the_customer_tried_counts_for_less_than_the_same_at_the_bench()
    {
        var bench = Office(card: true).Shelf(Stick("spare-stick", Origin.Shelf)).Trial("4");
        var seen = new StageRange(BootStage.Picture, BootStage.Stable);
        var told = With(bench, new ClaimEntry(Guid.NewGuid(), [Remove("stick-2")], seen));
        var tried = With(bench, new TrialEntry(Guid.NewGuid(), [Remove("stick-2")], seen));
        Assert.True(bench.Diagnosis.P("stick-2") < told.P("stick-2") && told.P("stick-2") < tried.P("stick-2"));
        Assert.True(told.Job.Now.Now.Has(new UnitId("stick-2")));
    }

    [Fact]
    public void A_part_that_the_owner_has_fitted_is_likelier_to_be_ill_seated_or_unknown_to_the_firmware()
    {
        static Bench Machine(bool byOwner) =>
            new Bench()
                .Add(Board("board"), Place.Board)
                .Add(Plain("supply", UnitKind.Supply), Place.Supply)
                .Add(Plain("cooler", UnitKind.Cooler), Place.Cooler)
                .Add(new Cpu(new UnitId("cpu"), "Tarn C7", Origin.Customer, true) { FittedByOwner = byOwner }, Place.Cpu)
                .Add(Stick("stick-1"), Place.Memory("A2"));
        Assert.True(
            Machine(true).Trial("4").Diagnosis.PFault("cpu/firmware-too-old")
                > 5 * Machine(false).Trial("4").Diagnosis.PFault("cpu/firmware-too-old")
        );
    }

    [Theory]
    [InlineData(12, 14, 0.9, 1)]
    [InlineData(14, 14, 0, 1e-9)]
    [InlineData(null, 14, 0.001, 0.5)]
    public void Known_versions_settle_whether_the_firmware_is_too_old(int? has, int? needs, double least, double most)
    {
        var d = new Bench()
            .Add(Board("board") with { Firmware = has }, Place.Board)
            .Add(Plain("supply", UnitKind.Supply), Place.Supply)
            .Add(Plain("cooler", UnitKind.Cooler), Place.Cooler)
            .Add(new Cpu(new UnitId("cpu"), "Tarn C7", Origin.Customer, true) { NeedsFirmware = needs }, Place.Cpu)
            .Add(Stick("stick-1"), Place.Memory("A2"))
            .Trial("4")
            .Diagnosis;
        Assert.InRange(
            d.Suspects.SelectMany(s => s.Faults).Where(f => f.Fault.Mode.Id == "firmware-too-old").Sum(f => f.Probability),
            least,
            most
        );
    }

    [Fact]
    public void A_board_that_needs_a_running_CPU_cannot_be_flashed_with_one_it_does_not_know()
    {
        Change flash = new Change.Mend(Remedy.Flash, new UnitId("board"));
        static Situation Machine(bool without) =>
            new Bench()
                .Add(Board("board") with { Firmware = 12, FlashesWithoutCpu = without }, Place.Board)
                .Add(new Cpu(new UnitId("cpu"), "Tarn C7", Origin.Customer, true) { NeedsFirmware = 14 }, Place.Cpu)
                .Job.Now;
        Assert.False(Machine(false).TryAfter(flash, out _, out var why));
        Assert.Contains("Fit an older CPU first", why);
        Assert.True(Machine(true).TryAfter(flash, out _, out _));
    }

    public static TheoryData<string, Change> Mendings =>
        new()
        {
            { "stick-1/stick-unseated", Reseat("stick-1") },
            { "stick-1/stick-dirty", new Change.Mend(Remedy.Clean, new UnitId("stick-1")) },
            { "board/socket-pins-bent", new Change.Mend(Remedy.Straighten, new UnitId("board")) },
            { "cooler/cooler-no-contact", new Change.Mend(Remedy.Repaste, new UnitId("cooler")) },
            { "board/firmware-corrupt", new Change.Mend(Remedy.Flash, new UnitId("board")) },
            { "switch/header-miswired", new Change.Mend(Remedy.Rewire, new UnitId("switch")) },
            { "monitor/monitor-wrong-input", new Change.Mend(Remedy.Set, new UnitId("monitor")) },
            { "board/board-short-to-case", new Change.Mend(Remedy.Isolate, new UnitId("board")) },
            { "board/settings-bad", Clear },
        };

    [Theory]
    [MemberData(nameof(Mendings))]
    public void Mending_takes_a_fault_out_of_play_with_its_chance_and_an_unproved_repair_keeps_its_suspect(string key, Change mend)
    {
        var bench = Office();
        var fault = Fault.AllOf(Atlas.Standard, bench.Job.Now.Parts, []).Single(f => f.Key == key);
        var after = bench.Job.Now.After(mend);
        Assert.True(fault.Engaged(after) < 0.3 * fault.Engaged(bench.Job.Now));
        Assert.True(fault.DealtWith(after) && !fault.DealtWith(bench.Job.Now));
        Assert.Contains(mend, Possible.For(bench.Job.Now, fault.Unit.Id));
        var unproved = BenchDiagnosis.Of(Office().Trial("4").Job.Append(new WorkEntry(Guid.NewGuid(), [mend])), Atlas.Standard);
        Assert.Equal(Office().Trial("4").Diagnosis.PFault(key), unproved.PFault(key) + unproved.PFault($"{key} uncured"), 1e-4);
    }

    [Fact]
    public void A_repair_that_changes_nothing_leaves_the_fault_uncured_and_another_part_as_the_way()
    {
        var bench = Office().Trial("0", new Change.Mend(Remedy.Set, new UnitId("supply")));
        var found = With(bench, new FindingEntry(Guid.NewGuid(), "look-plugs", new UnitId("supply"), true));
        var uncured = found.Faults.Single(f => f.Key == "supply/rear-switch-off uncured");
        Assert.Equal(RepairAct.Replacing(new("supply")), uncured.Act);
        Assert.Equal(1, uncured.Engaged(bench.Job.Now));
        Assert.Equal(0, found.Faults.Single(f => f.Key == "supply/rear-switch-off").Engaged(bench.Job.Now));
        var again = BenchDiagnosis.Of(
            found.Job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.NoStandby))),
            Atlas.Standard
        );
        Assert.True(again.PFault(uncured.Key) > found.PFault(uncured.Key));
        Assert.All(
            again.Hypotheses,
            h =>
                Assert.False(
                    h.Forms.Count(f =>
                        again.Faults[again.Inference.FaultOf[f]].Key.StartsWith("supply/rear-switch-off", StringComparison.Ordinal)
                    ) > 1
                )
        );
    }

    [Fact]
    public void A_fault_mended_in_place_is_proved_by_two_passes()
    {
        // Unlooked at, the main plug beside the sticks may have been pressed home by the same hands.
        var unlooked = Office().Trial("4").Trial("4", Clear).Trial("6", Reseat("stick-1")).Trial("6");
        Assert.False(unlooked.Diagnosis.Of("stick-1").Proof.TwoWay);
        Assert.True(unlooked.Diagnosis.PFault("supply/main-plug-loose cured") > 0.005);
        var bench = Office().Trial("4").Trial("4", Clear).Finding("look-plugs", "supply", false).Trial("6", Reseat("stick-1"));
        Assert.True(bench.Diagnosis.P("stick-1") > 0.5);
        Assert.False(bench.Diagnosis.Of("stick-1").Proof.TwoWay);
        Assert.True(bench.Trial("6").Diagnosis.Of("stick-1").Proof.TwoWay);

        // What was put right in place is found and put right, not condemned.
        for (var i = 0; i < 4; i++)
            bench.Trial("6");
        Assert.NotEqual(Standing.Condemned, bench.Diagnosis.Of("stick-1").Standing);
        Assert.NotEqual(Standing.ProofOneWay, bench.Diagnosis.Of("stick-1").Standing);
    }

    [Fact]
    public void A_part_that_fails_in_another_machine_too_is_proved_and_one_that_works_there_is_trusted()
    {
        var bench = Office()
            .Shelf(Stick("spare-stick", Origin.Shelf))
            .Trial("4", Remove("stick-2"))
            .Trial("6", Swap("stick-1", "spare-stick"));
        ElsewhereEntry Elsewhere(bool worked) => new(Guid.NewGuid(), new UnitId("stick-1"), worked);
        var failed = With(bench, Elsewhere(false));
        Assert.True(failed.Of("stick-1").Proof.TwoWay && failed.P("stick-1") > bench.Diagnosis.P("stick-1"));
        Assert.True(With(bench, Elsewhere(true)).PFault("stick-1/stick-dead") < bench.Diagnosis.PFault("stick-1/stick-dead") / 5);
    }

    [Fact]
    public void A_spare_that_sat_in_a_machine_that_kills_parts_is_trusted_less_and_more_again_once_it_works_elsewhere()
    {
        var fresh = Office(card: true)
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf), Stick("spare-stick", Origin.Shelf))
            .Trial("2")
            .Trial("2", Remove("stick-2"), Swap("stick-1", "spare-stick"))
            .Trial("6", Swap("supply", "spare-supply"), Swap("spare-stick", "stick-1"));
        var sat = fresh.Diagnosis.PFault("spare-stick/stick-dead");
        var never = Office(card: true)
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf), Stick("spare-stick", Origin.Shelf))
            .Trial("2")
            .Trial("2", Remove("stick-2"))
            .Trial("6", Swap("supply", "spare-supply"))
            .Diagnosis.PFault("spare-stick/stick-dead");
        Assert.True(sat > 2 * never, $"{sat} against {never}");
        Assert.True(
            With(fresh, new ElsewhereEntry(Guid.NewGuid(), new UnitId("spare-stick"), true)).PFault("spare-stick/stick-dead") < sat / 2
        );
    }

    [Fact]
    public void The_risk_to_a_spare_is_named_while_the_supply_may_kill_parts()
    {
        var bench = Office(card: true)
            .Shelf(Stick("spare-stick", Origin.Shelf), Plain("spare-supply", UnitKind.Supply, Origin.Shelf))
            .Trial("2");
        var stick = Planner.Foresee(bench.Diagnosis, [Swap("stick-1", "spare-stick")]);
        var after = Planner.Foresee(bench.Trial("6", Swap("supply", "spare-supply")).Diagnosis, [Swap("stick-1", "spare-stick")]);
        Assert.True(stick.Risk > 0 && after.Risk < stick.Risk / 5, $"{stick.Risk}, then {after.Risk}");
    }

    [Fact]
    public void A_fault_of_the_customers_outlet_explains_a_machine_that_runs_at_the_bench()
    {
        Bench Machine(bool outlet)
        {
            var bench = Office(extension: false);
            if (outlet)
                bench.Shelf(Plain("their-outlet", UnitKind.Outlet));
            bench.Reported = StageRange.At(BootStage.NoStandby);
            bench.Contexts = ["repeated-return"];
            return bench.Trial("8").Trial("8").Trial("8");
        }

        var d = Machine(true).Diagnosis;
        Assert.True(d.P("their-outlet") > 5 * d.Of("their-outlet").Prior, $"{d.P("their-outlet"):P2} from {d.Of("their-outlet").Prior:P2}");
    }

    [Fact]
    public void A_code_given_as_likelihoods_moves_the_domains_that_it_speaks_for()
    {
        var job = Office().Job;
        double P(StallSignal? signal, string unit) =>
            BenchDiagnosis
                .Of(job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost), signal)), Atlas.Standard)
                .P(unit);
        var code = new StallSignal([0.02, 0.05, 0.6, 0.02, 0.02, 0.1]);
        Assert.True(P(code, "stick-1") > P(null, "stick-1"));
        Assert.Throws<ArgumentException>(() => new StallSignal([0, 0, 0, 0, 0, 0]));
        Assert.Throws<ArgumentException>(() => new StallSignal([0.5, double.NaN, 0, 0, 0, 0]));
    }

    [Fact]
    public void A_log_that_nothing_explains_says_so_and_points_at_the_line()
    {
        var contradictory = Office().Trial("6").Trial("6").Trial("0").Trial("6").Trial("6").Diagnosis;
        var contradiction = Contradiction.In(contradictory);
        Assert.NotNull(contradiction);
        Assert.Equal(3, Assert.Single(contradiction.Lines));
        Assert.Contains("line 3", contradiction.Words());
        Assert.Null(Contradiction.In(StoryTests.CutsOutOnItsSupply().Diagnosis));
    }

    [Fact]
    public void New_kinds_of_line_survive_writing_and_reading()
    {
        var job = Office()
            .Trial("4")
            .Job.With([
                Finding("look-plugs", "supply", true),
                new ClaimEntry(Guid.NewGuid(), [Remove("stick-2")], StageRange.At(BootStage.CutsOut)),
                new ElsewhereEntry(Guid.NewGuid(), new UnitId("cpu"), true),
                new WorkEntry(Guid.NewGuid(), [new Change.Mend(Remedy.Flash, new UnitId("board"))]),
                new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost), new StallSignal([0.1, 0.2, 0.3, 0, 0, 1]))
                {
                    Button = ButtonTest.NoResponse,
                },
            ]);
        Assert.Equal(JobFormat.Write(job), JobFormat.Write(JobFormat.Read(JobFormat.Write(job))));
    }

    [Fact]
    public void A_failure_proves_only_where_a_picture_could_have_come()
    {
        // The board's HDMI is tried and left again. With graphics in the CPU its darkness speaks against it …
        var driven = Bench.Office().Trial("5").Trial("6", Show("board/DP"));
        Assert.True(driven.Diagnosis.Of("board").Proof.OneWay);

        // … and without, nothing drives it.
        var dark = Bench.Office(cpuGraphics: false, card: true).Trial("6").Trial("5", Show("board/HDMI")).Trial("6", Show("card.1/DP 1"));
        Assert.False(dark.Diagnosis.Of("board").Proof.OneWay);
    }

    [Fact]
    public void Only_a_picture_with_the_fault_fully_at_work_acquits()
    {
        var trials = Bench.Office().Trial("4").Trial("6").Job.Trials;
        Assert.Equal(
            [false],
            Kelvet.Core.Proving.Proof.AtWorkInAPass(
                trials,
                [
                    [1],
                    [0],
                ],
                1
            )
        );
        Assert.Equal(
            [false],
            Kelvet.Core.Proving.Proof.AtWorkInAPass(
                trials,
                [
                    [1],
                    [0.5],
                ],
                1
            )
        );
        Assert.Equal(
            [true],
            Kelvet.Core.Proving.Proof.AtWorkInAPass(
                trials,
                [
                    [0],
                    [1],
                ],
                1
            )
        );
    }
}
