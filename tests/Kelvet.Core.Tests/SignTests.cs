using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Everything that can be noted of a start weighs, and what is done weighs as what it was.</summary>
public class SignTests
{
    private static BenchDiagnosis With(Bench bench, string seen, Signs signs, StartKind? kind = null, params Change[] changes)
    {
        Assert.True(ObservedFormat.TryRead(seen, out var range));
        var entry = new TrialEntry(Guid.NewGuid(), [.. changes], range) { Signs = signs, Kind = kind };
        return BenchDiagnosis.Of(bench.Job.Append(entry), Atlas.Standard);
    }

    private static Bench Goal(BootStage goal)
    {
        var bench = Office(card: true);
        bench.Goal = goal;
        return bench;
    }

    [Fact]
    public void Every_sign_that_can_be_noted_has_a_meaning_and_moves_somebody()
    {
        Assert.Equal(SignNames.All.Order(), Atlas.Standard.Signs.Keys.Order());
        // One start for each name, found by trying what each row may be.
        Signs[] all =
        [
            .. SignKinds.All.SelectMany(kind =>
                Examples(kind)
                    .Select(typed => kind.Read(Signs.None, typed))
                    .Where(signs => kind.NameOf(signs, channels: 2) is not null)
                    .GroupBy(signs => kind.NameOf(signs, channels: 2))
                    .Select(g => g.First())
            ),
        ];
        Assert.Equal(SignNames.All.Length, all.Length);
        Assert.All(
            all,
            s => Assert.True(new[] { "0", "2", "4", "5", "6", "7" }.Max(stage => Moves(s, stage)) > 0.002, $"{s} weighs nothing")
        );

        static IEnumerable<string> Examples(SignKind kind) =>
            kind.Range is { } r
                ? Enumerable
                    .Range(0, 2001)
                    .Select(i => Math.Round(r.Least + i * (r.Most - r.Least) / 2000, r.Step < 1 ? 2 : 0))
                    .Select(n => n.ToString(System.Globalization.CultureInfo.InvariantCulture))
                : kind.Answers.Select(a => a.Value);

        static double Moves(Signs signs, string stage)
        {
            var bench = Goal(BootStage.Stable).Add(Plain("adapter", UnitKind.DisplayAdapter), Place.Of(PlaceKind.Adapter));
            var without = With(bench, stage, Signs.None);
            var with = With(bench, stage, signs);
            return without.Suspects.Max(s => Math.Abs(s.Probability - with[s.Unit.Id].Probability));
        }
    }

    [Theory]
    [InlineData("off", "supply", "stick-1")]
    [InlineData("stop-error", "stick-1", "supply")]
    [InlineData("dark-screen", "card", "stick-1")]
    public void What_it_did_when_it_ended_points_the_way_a_technician_would(string ended, string up, string down)
    {
        Assert.True(Dashed.TryRead<Ending>(ended, out var ending));
        var bench = Goal(BootStage.Stable);
        var (without, with) = (With(bench, "7", Signs.None), With(bench, "7", new Signs { Ended = ending }));
        Assert.True(with.P(up) > without.P(up) && with.P(down) < without.P(down));
    }

    [Fact]
    public void A_hot_CPU_within_a_minute_is_the_coolers_contact()
    {
        var bench = Goal(BootStage.Stable);
        var d = With(
            bench,
            "7",
            new Signs
            {
                Temperature = 99,
                Minutes = 1,
                Ended = Ending.Off,
            }
        );
        Assert.Equal("cooler", d.Suspects[0].Unit.Id.Value);
        Assert.Equal("cooler-no-contact", d.Suspects[0].Leading.Fault.Mode.Id);
        var cool = With(bench, "7", new Signs { Temperature = 41 });
        Assert.True(cool.P("cooler") < With(bench, "7", Signs.None).P("cooler"));
    }

    [Fact]
    public void A_sign_that_stands_as_it_stood_counts_once()
    {
        var signs = new Signs { Ended = Ending.Off };
        Assert.True(ObservedFormat.TryRead("7", out var range));
        TrialEntry Start(Signs s) => new(Guid.NewGuid(), [], range) { Signs = s };
        var job = Goal(BootStage.Stable).Job.Append(Start(signs));
        var noted = BenchDiagnosis.Of(job.Append(Start(signs)), Atlas.Standard);
        var not = BenchDiagnosis.Of(job.Append(Start(Signs.None)), Atlas.Standard);
        Assert.Equal(not.P("supply"), noted.P("supply"), 1e-9);
    }

    [Fact]
    public void A_board_that_fails_cold_is_told_by_a_cold_start()
    {
        Bench Log(StartKind later) =>
            Office()
                .Trial("4", null, StartKind.Cold)
                .Trial("6", null, StartKind.Warm)
                .Trial("4", null, StartKind.Cold)
                .Trial("6", null, later);
        var cold = Log(StartKind.Warm).Diagnosis.PFault("board/board-marginal");
        Assert.True(cold > 2 * Log(StartKind.Cold).Diagnosis.PFault("board/board-marginal"));
    }

    [Fact]
    public void What_does_not_come_back_from_sleep_fails_on_waking_alone()
    {
        var d = Office()
            .Trial("6", null, StartKind.Cold)
            .Trial("5", null, StartKind.Wake)
            .Trial("6", null, StartKind.Cold)
            .Trial("5", null, StartKind.Wake);
        Assert.Equal("sleep-fails", d.Diagnosis.Of("board").Leading.Fault.Mode.Id);
        Assert.True(d.Diagnosis.P("board") > 0.5);
        Assert.Contains(Steps(d.Diagnosis), c => c.Changes.Contains(Clear));
    }

    private static IEnumerable<Candidate> Steps(BenchDiagnosis d)
    {
        var advice = Planner.Advise(d);
        return advice.Alternatives.Concat(advice.Pointless).Select(a => a.Candidate).Append(advice.Next?.Candidate).OfType<Candidate>();
    }

    [Fact]
    public void A_finding_speaks_for_what_was_found_alone()
    {
        FindingEntry Look(string what) => new(Guid.NewGuid(), "look-fans", new UnitId("cooler"), true) { What = what };
        var job = Office().Trial("6").Job;
        double P(string what, string mode) => BenchDiagnosis.Of(job.Append(Look(what)), Atlas.Standard).PFault($"cooler/{mode}");
        Assert.True(P("stands-still", "cooler-stopped") > 10 * P("wrong-way", "cooler-stopped"));
        Assert.True(P("wrong-way", "cooler-fan-reversed") > 10 * P("stands-still", "cooler-fan-reversed"));
        Assert.True(P("", "cooler-stopped") > P("wrong-way", "cooler-stopped"));
    }

    [Fact]
    public void A_cure_that_did_not_help_can_be_done_again_and_then_help()
    {
        var repaste = new Change.Mend(Remedy.Repaste, new UnitId("cooler"));
        var (off, holds) = (StageRange.At(BootStage.OsLoads), StageRange.At(BootStage.Stable));
        var hot = new Signs
        {
            Temperature = 99,
            Minutes = 1,
            Ended = Ending.Off,
        };
        var job = Goal(BootStage.Stable)
            .Job.Append(new TrialEntry(Guid.NewGuid(), [], off) { Signs = hot })
            .Append(new TrialEntry(Guid.NewGuid(), [repaste], off) { Signs = hot });
        var once = BenchDiagnosis.Of(job, Atlas.Standard);
        Assert.Contains(once.Faults, f => f.Key == "cooler/cooler-no-contact uncured");
        // It is done once more before anything is bought.
        Fault Uncured(BenchDiagnosis d) => d.Faults.Single(f => f.Key == "cooler/cooler-no-contact uncured");
        Assert.Equal(repaste, Cures.Mending(Uncured(once), once.Job.Now));
        var again = BenchDiagnosis.Of(job.Append(new TrialEntry(Guid.NewGuid(), [repaste], off) { Signs = hot }), Atlas.Standard);
        Assert.Equal(Cure.Replace, Uncured(again).Act.Cure);
        job = job.Append(new TrialEntry(Guid.NewGuid(), [repaste], holds)).Append(new TrialEntry(Guid.NewGuid(), [], holds));
        var twice = BenchDiagnosis.Of(job, Atlas.Standard);
        Assert.Contains(twice.Faults, f => f.Key == "cooler/cooler-no-contact cured-2");
        Assert.True(twice.PFault("cooler/cooler-no-contact cured-2") > 2 * twice.PFault("cooler/cooler-no-contact uncured"));
        Assert.Equal(1, twice.Faults.Count(f => f.Key.StartsWith("cooler/cooler-no-contact uncured", StringComparison.Ordinal)));
    }

    [Fact]
    public void Sometimes_is_evidence_of_what_comes_and_goes()
    {
        BenchDiagnosis Told(Times? times) =>
            BenchDiagnosis.Of(
                BenchJob.Open(Office().Job.Intake with { Reported = StageRange.At(BootStage.RunsNoPost), ReportedTimes = times }),
                Atlas.Standard
            );
        Assert.True(Told(new Times(1, 2)).PFault("stick-1/stick-marginal") > 1.3 * Told(null).PFault("stick-1/stick-marginal"));
        Assert.True(Told(new Times(1, 2)).PFault("stick-1/stick-dead") < Told(null).PFault("stick-1/stick-dead"));
        Assert.False(new Times(3, 2).Makes || new Times(0, 2).Makes);
    }

    [Fact]
    public void One_surge_kills_both_sticks_likelier_than_two_surges_would()
    {
        BenchDiagnosis After(params string[] contexts)
        {
            var bench = Office().Shelf(Stick("spare-stick", Origin.Shelf));
            bench.Contexts = contexts;
            return bench
                .Trial("4")
                .Trial("4", Remove("stick-2"))
                .Trial("6", Swap("stick-1", "spare-stick"))
                .Trial("4", Swap("spare-stick", "stick-2"))
                .Diagnosis;
        }

        Assert.True(After("power-event").P("stick-2") > After("died-in-use").P("stick-2"));
    }

    [Theory]
    [InlineData("choose profile-off")]
    [InlineData("undo link-held-back")]
    [InlineData("lay on-its-side")]
    [InlineData("into-case board")]
    public void New_acts_are_written_as_they_are_read(string text)
    {
        Assert.True(MachineFormat.TryRead(text, out var change, out _));
        Assert.Equal(text, change.ToString());
    }

    [Fact]
    public void A_setting_is_changed_once_put_back_once_and_forgotten_with_the_rest()
    {
        var now = Office().Job.Now;
        var off = now.After(new Change.Choose(MachineOption.ProfileOff)).After(new Change.Choose(MachineOption.FastStartOff));
        Assert.False(off.TryAfter(new Change.Choose(MachineOption.ProfileOff), out _, out var why));
        Assert.Contains("already", why);
        Assert.False(now.TryAfter(new Change.Undo(MachineOption.ProfileOff), out _, out _));
        Assert.True(off.After(new Change.Undo(MachineOption.ProfileOff)) is var undone && !undone.IsChosen(MachineOption.ProfileOff));
        var cleared = off.After(Clear);
        Assert.True(!cleared.IsChosen(MachineOption.ProfileOff) && cleared.IsChosen(MachineOption.FastStartOff));
        var board = new UnitId("board");
        var out_ = now.After(new Change.Mend(Remedy.Isolate, board));
        Assert.False(out_.After(new Change.IntoCase(board)).Mended(board, Remedy.Isolate));
        Assert.False(now.TryAfter(new Change.IntoCase(board), out _, out _));
    }

    [Fact]
    public void What_hangs_outside_needs_no_drain_and_what_carries_mains_does()
    {
        var parts = Office().Add(Plain("lead", UnitKind.MainsLead), Place.Lead).Job.Now.Parts;
        Assert.False(Remove("keyboard").HandsIn(parts));
        Assert.False(Remove("monitor").HandsIn(parts));
        Assert.True(Remove("lead").HandsIn(parts));
        Assert.True(Remove("stick-1").HandsIn(parts));
        Assert.True(Remove("nobody-knows").HandsIn(parts));
        Assert.False(new Change.Choose(MachineOption.ProfileOff).HandsIn(parts));
    }

    [Fact]
    public void A_listed_cable_is_at_fault_itself_and_nothing_runs_without_the_main_one()
    {
        var bench = Office(card: true)
            .Add(Plain("card-cable", UnitKind.CardCable), Place.Of(PlaceKind.CardCable))
            .Add(Plain("main-cable", UnitKind.MainCable), Place.Of(PlaceKind.MainCable));
        var d = bench.Trial("4-5").Diagnosis;
        Assert.DoesNotContain(d.Faults, f => f.Mode.Id == "card-cable-dead");
        Assert.True(d.PFault("card-cable/card-cable-open") > 0);
        Assert.Equal(BootStage.NoStandby, Ceiling.Of(bench.Job.Now.After(Remove("main-cable"))).Stage);
        Assert.False(Ceiling.Of(bench.Job.Now.After(Remove("card-cable"))).CanShowPicture);
        Assert.True(Ceiling.Of(Office(card: true).Job.Now).CanShowPicture);
    }

    [Fact]
    public void A_memory_test_speaks_for_every_stick_that_is_fitted()
    {
        var d = Goal(BootStage.Stable).Trial("7").Finding("test-memory", "stick-1", true).Diagnosis;
        // Alike as far as what is left out of the sum allows.
        Assert.Equal(d.PFault("stick-1/stick-marginal"), d.PFault("stick-2/stick-marginal"), 1e-4);
        var before = Goal(BootStage.Stable).Trial("7").Diagnosis;
        Assert.True(d.PFault("stick-2/stick-marginal") > 2 * before.PFault("stick-2/stick-marginal"));
    }

    [Fact]
    public void A_part_is_not_condemned_for_what_is_mended_in_place()
    {
        // Cleared settings let it run, and a slip afterwards does not turn a stick that suits no profile into a bad one.
        var bench = Office()
            .Shelf(Stick("spare-stick", Origin.Shelf))
            .Trial("4", Remove("stick-2"))
            .Trial("6", Swap("stick-1", "spare-stick"));
        bench.Trial("4", Swap("spare-stick", "stick-1")).Trial("6", Clear).Trial("6").Trial("6").Trial("6").Trial("2");
        Assert.NotEqual(Standing.Condemned, bench.Diagnosis.Of("stick-1").Standing);
    }

    [Fact]
    public void What_was_moved_between_slots_proves_a_slot_and_not_the_board()
    {
        var bench = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf), Stick("spare-stick", Origin.Shelf));
        foreach (var seen in new[] { "3", "6", "3", "6", "6", "3" })
            bench.Trial(seen);
        bench.Trial("3", Remove("stick-2")).Trial("3", Move("stick-1", "memory.B2")).Trial("6", Swap("stick-1", "spare-stick")).Trial("3");
        var d = bench.Diagnosis;
        if (d.Of("board").Leading.Fault.Mode.On == FaultSite.Motherboard)
            Assert.False(d.Of("board").Proof.TwoWay);
        Assert.NotEqual(Standing.Condemned, d.Of("board").Standing);
    }

    [Fact]
    public void What_cannot_be_names_its_cause()
    {
        // Nothing boots from a drive that is out.
        var bench = Office().Trial("7", Remove("drive"));
        var contradiction = Contradiction.In(bench.Diagnosis);
        Assert.Equal(
            "Line 1 says system loads, and no drive is connected",
            contradiction!.Words().Split(':')[0].Replace(", not stable", "")
        );
        Assert.Null(Contradiction.In(Office().Trial("4").Diagnosis));
    }

    [Fact]
    public void A_cleared_unit_is_in_no_smallest_explanation()
    {
        var bench = Office()
            .Shelf(Stick("spare-stick", Origin.Shelf))
            .Trial("4")
            .Trial("4", Remove("stick-2"))
            .Trial("6", Swap("stick-1", "spare-stick"));
        var d = bench.Trial("4", Swap("spare-stick", "stick-1")).Trial("6", Swap("stick-1", "spare-stick")).Trial("6").Diagnosis;
        var cleared = d.Suspects.Where(s => s.Standing == Standing.Cleared).Select(s => s.Unit.Id).ToHashSet();
        Assert.NotEmpty(cleared);
        Assert.All(MinimalDiagnoses.Of(d), m => Assert.DoesNotContain(m, cleared.Contains));
    }

    [Fact]
    public void It_is_said_how_many_clean_starts_are_still_needed_and_so_many_are()
    {
        var bench = Office().Trial("4").Finding("look-plugs", "supply", false).Trial("6", Clear);
        for (var i = 0; i < 12; i++)
        {
            var advice = Planner.Advise(bench.Diagnosis);
            if (advice.Decision.Kind != AdviceKind.StartOnceMore)
            {
                bench.Trial("6");
                continue;
            }

            Assert.Contains("clean start", advice.Why());
            var more = advice.Decision.More;
            Assert.InRange(more, 1, 20);
            for (var n = 0; n < more; n++)
                bench.Trial("6");
            Assert.NotEqual(AdviceKind.StartOnceMore, Planner.Advise(bench.Diagnosis).Decision.Kind);
            return;
        }

        Assert.Fail("No clean start was ever asked for.");
    }

    [Fact]
    public void No_reason_reads_ten_or_eleven_per_cent()
    {
        var bench = Office(card: true).Shelf(Stick("spare-stick", Origin.Shelf), Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        foreach (var seen in new[] { "4", "4", "6", "4" })
        {
            bench.Trial(seen);
            var numbers = System.Text.RegularExpressions.Regex.Matches(Planner.Advise(bench.Diagnosis).Why(), @"(\d+)\s%");
            if (numbers.Count == 2)
                Assert.True(Math.Abs(int.Parse(numbers[0].Groups[1].Value) - int.Parse(numbers[1].Groups[1].Value)) >= 4);
        }
    }

    [Fact]
    public void What_tells_of_a_likely_fault_alone_is_proposed_and_not_otherwise()
    {
        Bench Passing(params string[] contexts)
        {
            var bench = Office(card: true);
            bench.Contexts = contexts;
            return bench.Trial("5").Trial("6").Trial("5").Trial("6");
        }

        // A card that comes and goes after transport: laid on its side it hangs no more.
        var lay = new Change.Lay(Posture.OnItsSide);
        Assert.Contains(Steps(Passing("after-transport").Diagnosis), c => c.Changes.Contains(lay));
        Assert.DoesNotContain(Steps(Office(card: true).Trial("0").Diagnosis), c => c.Changes.Contains(lay));

        // A profile that is too fast: off, where there is a picture to set it by.
        var off = new Change.Choose(MachineOption.ProfileOff);
        var upgraded = Office();
        upgraded.Contexts = ["after-upgrade", "new-build"];
        upgraded.Trial("4", StallDomain.Memory);
        Assert.DoesNotContain(Steps(upgraded.Diagnosis), c => c.Changes.Contains(off));
        upgraded.Finding("look-stick", "stick-1", false).Finding("look-stick", "stick-2", false).Trial("6");
        Assert.Contains(Steps(upgraded.Diagnosis), c => c.Changes.Contains(off));

        // Cold, warm, from sleep: where something hangs on it.
        var sleepy = Office().Trial("6", null, StartKind.Cold).Trial("5", null, StartKind.Wake).Trial("6", null, StartKind.Cold);
        Assert.Contains(Steps(sleepy.Diagnosis), c => c.Kind == StartKind.Wake);
        Assert.DoesNotContain(Steps(Office().Trial("0").Diagnosis), c => c.Kind is not null);
    }

    [Fact]
    public void Nothing_is_proposed_that_starts_a_CPU_without_a_cooler()
    {
        // Their cooler and the spare both fail hot: whatever is given up on, it does not go together without one.
        var hot = new Signs
        {
            Temperature = 99,
            Minutes = 1,
            Ended = Ending.Off,
        };
        var job = Office().Shelf(Plain("spare-cooler", UnitKind.Cooler, Origin.Shelf)).Job;
        job = BenchJob.Open(job.Intake with { Goal = BootStage.Stable });
        void Start(string seen, params Change[] changes)
        {
            Assert.True(ObservedFormat.TryRead(seen, out var range));
            job = job.Append(new TrialEntry(Guid.NewGuid(), [.. changes], range) { Signs = seen == "7" ? hot : Signs.None });
        }

        Start("7");
        Start("8", Swap("cooler", "spare-cooler"));
        Start("7", Swap("spare-cooler", "cooler"));
        Start("8", Swap("cooler", "spare-cooler"));
        var without = 0;
        foreach (var seen in new[] { "7", "8", "8", "7", "8", "8", "8", "8", "8", "8" })
        {
            Start(seen);
            var d = BenchDiagnosis.Of(job, Atlas.Standard);
            without += Planner.Repaired(d)[Place.Cooler] is null ? 1 : 0;
            Assert.True(Planner.Advise(d).Decision.Step?.After.WhyNotPowered() is null);
        }

        Assert.True(without > 0, "In none of these logs both coolers stand accused.");
    }
}
