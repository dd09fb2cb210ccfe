using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What the machine says of its memory, what fails together, the profile's ladder, test programs and firmware.</summary>
public class MemoryTests
{
    private static readonly Change Flash = new Change.Mend(Remedy.Flash, new UnitId("board"));

    private static MemoryStick Fast(string id, int? profile = 3200, int? plain = 2400, string kit = "") =>
        Stick(id) with
        {
            Speed = plain,
            Profile = profile,
            Kit = kit,
        };

    /// <summary>The office machine with other sticks in A2 and B2.</summary>
    private static Situation With(MemoryStick one, MemoryStick other, SlotLayout? layout = null)
    {
        var board = Board("board") with { Layout = layout };
        var fitted = Configuration
            .Empty.WithUnit(Place.Board, board.Id)
            .WithUnit(Place.Memory("A2"), one.Id)
            .WithUnit(Place.Memory("B2"), other.Id);
        return Situation.AtIntake(Parts.Of([board, one, other]), fitted);
    }

    private static BenchDiagnosis Seen(Signs signs) =>
        BenchDiagnosis.Of(
            Office().Job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture)) { Signs = signs }),
            Atlas.Standard
        );

    [Fact]
    public void Half_of_the_memory_with_a_picture_is_no_pass_and_points_at_the_side_that_is_not_seen()
    {
        var half = Seen(new Signs { MemorySeen = 8 });
        Assert.True(half.Job.Trials[0].Failed);
        Assert.Equal(8, half.Job.Trials[0].MissingGb);
        var named = Seen(new Signs { SlotsSeen = "A2" });
        Assert.True(named.Job.Trials[0].Failed);
        Assert.Equal("B2", Assert.Single(named.Job.Trials[0].SlotsUnseen));
        // Told by slot, it is that stick, slot or channel; by size alone, either.
        Assert.Equal(half.PFault("stick-1/stick-dead"), half.PFault("stick-2/stick-dead"), 1e-3);
        Assert.True(named.PFault("stick-2/stick-dead") > 10 * named.PFault("stick-1/stick-dead"));
        Assert.True(named.PFault("board/slot-dead/B2") > 10 * named.PFault("board/slot-dead/A2"));
        Assert.True(Seen(new Signs { MemorySeen = 16, SlotsSeen = "a2, b2" }).Job.Trials[0].Passed);
    }

    [Fact]
    public void A_loss_that_is_no_stick_s_size_points_away_from_single_sticks()
    {
        // Four sticks of 8 GB, two of them gone: a channel rather than a stick.
        var job = Office()
            .Add(Stick("third"), Place.Memory("A1"))
            .Add(Stick("fourth"), Place.Memory("B1"))
            .Job.Append(
                new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture)) { Signs = new Signs { MemorySeen = 16 } }
            );
        var trial = job.Trials[0];
        var faults = Fault.AllOf(Atlas.Standard, job.Now, []);
        Assert.Equal(1, MissingMemory.Fits(faults.First(f => f.Mode.Id == "channel-dead"), trial));
        Assert.True(MissingMemory.Fits(faults.First(f => f.Mode.Id == "stick-dead"), trial) < 0.5);
        var half = MissingMemory.Fits(faults.First(f => f.Mode.Id == "socket-pins-bent"), trial);
        Assert.InRange(half, 0.3, 0.8);
    }

    [Fact]
    public void How_memory_runs_follows_from_sticks_slots_and_settings()
    {
        var alike = MemoryRun.Of(With(Fast("a"), Fast("b")))!;
        Assert.Equal((16, 3200, null), (alike.TotalGb, alike.Speed, alike.Slowest));
        Assert.Empty(alike.Limits);
        var mixed = MemoryRun.Of(With(Fast("a"), Fast("b", profile: 3000)))!;
        Assert.Equal((3000, "b"), (mixed.Speed, mixed.Slowest!.Id.Value));
        Assert.Contains(MemoryLimit.SlowestStick, mixed.Limits);
        var off = MemoryRun.Of(With(Fast("a"), Fast("b")).After(new Change.Choose(MachineOption.ProfileOff)))!;
        Assert.Equal(2400, off.Speed);
        Assert.Contains(MemoryLimit.ProfileHeldBack, off.Limits);
        var one = MemoryRun.Of(With(Fast("a"), Fast("b")).After(new Change.Move(new UnitId("b"), Place.Memory("A1"))))!;
        Assert.Contains(MemoryLimit.OneChannel, one.Limits);
        Assert.Null(MemoryRun.Of(With(Stick("a"), Fast("b")))!.Speed);
        // Never below the plain speed, and 200 MT/s a step.
        Assert.Equal([3200, 3000, 2800, 2600, 2400], Enumerable.Range(0, 5).Select(s => MemoryRun.SpeedOf(Fast("a"), s) ?? 0));
        Assert.Equal(2400, MemoryRun.SpeedOf(Fast("a", profile: 2666), 3));
    }

    [Fact]
    public void Kits_are_told_apart_and_the_order_of_slots_goes_by_the_layout()
    {
        Assert.True(MemoryRun.AreOfDifferentKits(Fast("a", kit: "K1"), Fast("b", kit: "K2")));
        Assert.False(MemoryRun.AreOfDifferentKits(Fast("a", kit: "K1"), Fast("b", kit: "k1")));
        Assert.True(MemoryRun.AreOfDifferentKits(Stick("a") with { PartNumber = "X" }, Stick("b") with { PartNumber = "Y" }));
        Assert.Contains(MisfitFound.In(With(Fast("a", kit: "K1"), Fast("b", kit: "K2"))), m => m.Kind == Misfit.MixedSticks);
        Assert.DoesNotContain(MisfitFound.In(With(Stick("a"), Stick("b"))), m => m.Kind == Misfit.MixedSticks);
        // First slots of both channels: wrong on a chain, as good on a fork.
        foreach (var (layout, right) in new[] { (SlotLayout.DaisyChain, false), (SlotLayout.Forked, true) })
        {
            var board = Board("board") with { Layout = layout };
            Assert.Equal(right, board.HasUsualOrder(["A1", "B1"]));
            Assert.True(board.HasUsualOrder(["A2", "B2"]));
            Assert.False(board.HasUsualOrder(["A1", "A2"]));
        }
    }

    [Fact]
    public void A_profile_is_held_back_one_step_at_a_time_and_comes_back_after_a_clear()
    {
        var machine = With(Fast("a"), Fast("b"));
        var less = machine.After(new Change.Choose(MachineOption.ProfileOneDown));
        Assert.Equal(1, less.ProfileStepsDown);
        var off = less.After(new Change.Choose(MachineOption.ProfileOff));
        Assert.Equal((4, false), (off.ProfileStepsDown, off.IsChosen(MachineOption.ProfileOneDown)));
        var cleared = machine.After(new Change.ClearCmos());
        Assert.Equal(4, cleared.ProfileStepsDown);
        Assert.Equal(0, cleared.After(new Change.Choose(MachineOption.ProfileOn)).ProfileStepsDown);
        Assert.False(machine.TryAfter(new Change.Choose(MachineOption.ProfileOn), out _, out _));
    }

    [Fact]
    public void A_profile_that_is_too_fast_by_little_acts_no_more_a_step_down()
    {
        var machine = Office().Job.Now;
        var faults = Fault.AllOf(Atlas.Standard, machine.Parts, []);
        double At(string mode, MachineOption option) =>
            faults.First(f => f.Mode.Id == mode).Engaged(machine.After(new Change.Choose(option)));
        Assert.True(At("profile-200-too-fast", MachineOption.ProfileOneDown) < 0.1);
        Assert.True(At("profile-400-too-fast", MachineOption.ProfileOneDown) > 0.5);
        Assert.True(At("profile-400-too-fast", MachineOption.ProfileTwoDown) < 0.1);
        Assert.True(At("profile-600-too-fast", MachineOption.ProfileThreeDown) < 0.1);
        Assert.True(At("profile-too-fast", MachineOption.ProfileThreeDown) > 0.5);
        // What is done about all of them is the same.
        Assert.Single(faults.Where(f => f.Mode.Id.StartsWith("profile-", StringComparison.Ordinal)).Select(f => f.Act).Distinct());
    }

    [Fact]
    public void The_ladder_halves_what_is_left_and_ends_at_the_fastest_rung_that_holds()
    {
        // It holds 400 below and not 200 below.
        var job = BenchJob.Open(
            Office().Job.Intake with
            {
                Parts = Parts.Of(Office().Job.Now.Parts.All.Select(u => u is MemoryStick m ? Fast(m.Id.Value) : u)),
            }
        );
        Assert.Null(ProfileLadder.Of(job));
        job = Start(job, false);
        // Without a picture nothing is set: the settings are cleared, which turns the profile off.
        var dark = ProfileLadder.Of(job)!;
        Assert.Equal(new Change.ClearCmos(), Assert.Single(dark.Next!.Changes));
        Assert.False(dark.Next.ClearsFirst);
        Assert.True(dark.Rungs[1] is { ClearsFirst: true, Changes: [Change.ClearCmos] });
        for (var starts = 0; starts < 20; starts++)
        {
            var ladder = ProfileLadder.Of(job)!;
            if (ladder.Next is not { } next)
            {
                Assert.Equal((2, 2800), (ladder.Fastest!.StepsDown, ladder.Fastest.Speed));
                Assert.True(starts <= 3 * ProfileLadder.StartsOfARung, $"{starts}");
                return;
            }

            job = Start(job, next.StepsDown >= 2, [.. next.Changes]);
        }

        Assert.Fail("The ladder does not end.");

        static BenchJob Start(BenchJob job, bool holds, params Change[] changes) =>
            job.Append(
                new TrialEntry(
                    Guid.NewGuid(),
                    [.. changes],
                    holds ? StageRange.AtLeast(BootStage.Picture) : StageRange.At(BootStage.RunsNoPost)
                )
            );
    }

    [Fact]
    public void What_fails_only_together_is_told_from_what_fails_in_its_slot()
    {
        var together = Office().Trial("4").Trial("6", Remove("stick-2")).Trial("6", Remove("stick-1"), Fit("stick-2", "memory.B2"));
        var pairs = MemoryPairs.Of(together.Diagnosis)!;
        Assert.Equal("A B ", string.Join(' ', pairs.Columns));
        var across = pairs.Cells.First(c => c.Channel.Length == 0);
        Assert.True(across is { Failed: 1, Passed: 0, FailsOnlyTogether: true });
        Assert.NotNull(pairs.Best);
        // One of them never passed where it was: it may be that slot.
        var slot = Office().Trial("4").Trial("6", Remove("stick-2")).Trial("6", Swap("stick-1", "stick-2"));
        Assert.False(MemoryPairs.Of(slot.Diagnosis)!.Cells.First(c => c.Channel.Length == 0).FailsOnlyTogether);
        // What is proposed leads there.
        var there = slot.Job.Now.After(MemoryPairs.Of(slot.Diagnosis)!.Cells.First(c => c is { Bar: CellBar.None, Channel: "A" }).Changes);
        Assert.Equal(["A1", "A2"], there.Sticks.Select(s => s.Place.Part).Order());
    }

    [Theory]
    [InlineData(0.5, 1, 0.5)]
    [InlineData(0.2, 4, 0.4096)]
    [InlineData(1, 3, 0)]
    public void What_a_test_misses_is_what_arithmetic_says(double rate, int passes, double missed) =>
        Assert.Equal(missed, TestProgram.Missed(rate, passes), 1e-9);

    [Fact]
    public void Clean_passes_that_are_enough_by_Bayes_rule()
    {
        // Odds of one halved by each pass: 2^-n to 5 in 95 takes five.
        Assert.Equal(5, TestProgram.PassesFor(0.5, 0.05));
        Assert.Equal(1, TestProgram.PassesFor(1, 0.05));
        Assert.Throws<ArgumentOutOfRangeException>(() => TestProgram.PassesFor(0, 0.05));
        Assert.Throws<ArgumentOutOfRangeException>(() => TestProgram.PassesFor(0.5, 0.6));
        var d = (int passes) =>
            BenchDiagnosis
                .Of(
                    Office()
                        .Trial("7")
                        .Job.Append(
                            new FindingEntry(Guid.NewGuid(), "test-memory", new UnitId("stick-1"), false) { Passes = passes, Errors = 0 }
                        ),
                    Atlas.Standard
                )
                .PFault("stick-1/stick-marginal");
        Assert.True(d(8) < 0.3 * d(1), $"{d(8)} of {d(1)}");
    }

    [Fact]
    public void An_address_names_a_stick_only_where_one_channel_is_filled()
    {
        var machine = Office().Job.Now;
        Assert.Equal(NoStick.Interleaved, TestProgram.StickAt(machine, "0x1a2b3c000").Why);
        var one = machine.After(new Change.Move(new UnitId("stick-2"), Place.Memory("A1")));
        Assert.Equal("stick-2", TestProgram.StickAt(one, "40000000").Stick!.Id.Value);
        Assert.Equal("stick-1", TestProgram.StickAt(one, "0x380000000").Stick!.Id.Value);
        Assert.Equal(NoStick.TooNearTheEdge, TestProgram.StickAt(one, "0x200000000").Why);
        Assert.Equal(NoStick.NotAnAddress, TestProgram.StickAt(one, "many").Why);
        Assert.Equal("stick-1", TestProgram.StickAt(machine.After(Remove("stick-2")), "ffff").Stick!.Id.Value);
    }

    [Fact]
    public void No_board_is_flashed_blindly()
    {
        var dark = Office().Trial("4").Job;
        Assert.Equal(PowerBlock.BlindFlash, Safety.WhyNotRecorded(dark, new WorkEntry(Guid.NewGuid(), [Flash])));
        Assert.Equal(
            PowerBlock.BlindFlash,
            Safety.WhyNotRecorded(dark, new TrialEntry(Guid.NewGuid(), [Flash], StageRange.At(BootStage.RunsNoPost)))
        );
        var shows = Office().Trial("6").Job;
        Assert.Null(Safety.WhyNotRecorded(shows, new WorkEntry(Guid.NewGuid(), [Flash])));
        // With another stick in, it was not seen as it then stands.
        Assert.Equal(PowerBlock.BlindFlash, Safety.WhyNotRecorded(shows, new WorkEntry(Guid.NewGuid(), [Remove("stick-2"), Flash])));
        // Nor is it slipped in later, in front of what showed a picture or in the place of another line.
        Assert.Equal(
            PowerBlock.BlindFlash,
            Safety.WhyNotRecorded(dark, new InsertEntry(Guid.NewGuid(), dark.Entries[0].Id, new WorkEntry(Guid.NewGuid(), [Flash]), "late"))
        );
        Assert.Equal(
            PowerBlock.BlindFlash,
            Safety.WhyNotRecorded(dark, new StrikeEntry(Guid.NewGuid(), dark.Entries[0].Id, "x", new WorkEntry(Guid.NewGuid(), [Flash])))
        );
        // Nothing proposes it.
        Assert.DoesNotContain(Candidates.From(BenchDiagnosis.Of(dark, Atlas.Standard)), c => c.Changes.Contains(Flash));
        Assert.Contains(Candidates.From(BenchDiagnosis.Of(shows, Atlas.Standard)), c => c.Changes.Contains(Flash));
        // A board that flashes by itself may be.
        var own = BenchJob.Open(
            dark.Intake with
            {
                Parts = Parts.Of(dark.Now.Parts.All.Select(u => u is Motherboard b ? b with { FlashesWithoutCpu = true } : u)),
            }
        );
        Assert.Null(Safety.WhyNotRecorded(own, new WorkEntry(Guid.NewGuid(), [Flash])));
        Assert.Contains(
            "never",
            PowerBlock.BlindFlash.Words().Replace("only while", "never", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_support_list_is_read_with_its_mistakes_told_by_line_and_comes_back_as_it_went_out()
    {
        var (list, mistakes) = SupportList.Read(
            "board;revision;cpu;firmware\nOndel B40-M;;Tarn C5-840;24\nOndel B40-M;2.0;Tarn C5-840;9\n;;x;3\nB;;C;new\n"
        );
        Assert.Equal(2, list.Lines.Length);
        Assert.Equal(
            [(4, "board: it is empty"), (5, "firmware: \"new\" is not a whole number from 0 to 1000000")],
            mistakes.Select(m => (m.Line, m.Words))
        );
        // Names by letters and digits, the board's own revision before any.
        Assert.Equal(24, list.LeastFor("ONDEL B40 M", "1.0", "Tarn C5 840"));
        Assert.Equal(9, list.LeastFor("Ondel B40-M", "2.0", "Tarn C5-840"));
        Assert.Null(list.LeastFor("Ondel B40-M", "", "Tarn C9"));
        Assert.Equal(list.Lines.AsEnumerable(), SupportList.Read(list.Write()).List.Lines);
        Assert.Contains(
            "firmware",
            Assert.Throws<DataFileException>(() => SupportList.Read("board,cpu\na,b\n")).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "formula",
            SupportList.Read("board,revision,cpu,firmware\n=1+1,,c,1\n").Mistakes[0].Words,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Whether_a_board_knows_its_CPU_and_what_settles_it_cheapest()
    {
        var list = SupportList.Read("board,revision,cpu,firmware\nOndel B40,,Tarn C5,24\nOndel B40,,old CPU,0\n").List;
        var dark = Office().Shelf(new Cpu(new UnitId("old"), "old CPU", Origin.Shelf, true) { Socket = "T1" }).Trial("4").Job;
        var unknown = FirmwareQuestion.Of(dark, list, Atlas.Standard.Work)!;
        Assert.Equal((FirmwareState.VersionUnknown, 24, true), (unknown.State, unknown.Least, unknown.IsFromList));
        Assert.Equal(FirmwareWay.ReadSticker, unknown.Options[0].Way);
        Assert.Equal("old", unknown.Options.First(o => o.Mends).Cpu!.Id.Value);
        // A picture with it says that it knows it.
        Assert.Equal(FirmwareState.KnowsIt, FirmwareQuestion.Of(Office().Trial("6").Job, list, Atlas.Standard.Work)!.State);
        Assert.Equal(FirmwareState.BothUnknown, FirmwareQuestion.Of(dark, SupportList.Empty, Atlas.Standard.Work)!.State);
        var told = BenchJob.Open(
            dark.Intake with
            {
                Parts = Parts.Of(
                    dark.Now.Parts.All.Select(u => u is Motherboard b ? b with { Firmware = 12, FlashesWithoutCpu = true } : u)
                ),
            }
        );
        var old = FirmwareQuestion.Of(told, list, Atlas.Standard.Work)!;
        Assert.Equal((FirmwareState.TooOld, FirmwareWay.FlashWithoutCpu), (old.State, old.Options.First(o => o.Mends).Way));
        Assert.Equal(["old CPU"], list.KnownTo(Board("board"), 12));
        // One of the shelf that is not in the job is thought of, and is fetched before it is fitted.
        var bare = Office().Trial("4").Job;
        var lent = new Cpu(new UnitId("shelf-cpu"), "old CPU", Origin.Shelf, true) { Socket = "T1" };
        var fetched = FirmwareQuestion.Of(bare, list, Atlas.Standard.Work, [lent])!.Options.Single(o => o.Mends);
        Assert.True(fetched is { Way: FirmwareWay.OlderCpu, Cpu.Id.Value: "shelf-cpu", Changes.Length: 0 });
    }

    [Theory]
    [InlineData("", "T1", null, Origin.Shelf, true)]
    [InlineData("T1", "", null, Origin.Shelf, true)]
    [InlineData("t1", "T1", null, Origin.Shelf, true)]
    [InlineData("T2", "T1", null, Origin.Shelf, false)]
    [InlineData("T1", "T1", null, Origin.Customer, false)]
    [InlineData("T1", "T1", 12, Origin.Customer, true)]
    [InlineData("T1", "T1", 13, Origin.Shelf, false)]
    public void A_board_knows_a_CPU_by_what_it_needs_or_by_its_being_lent(string socket, string sits, int? needs, Origin origin, bool known)
    {
        var cpu = new Cpu(new UnitId("c"), "nobody's", origin, true) { Socket = socket, NeedsFirmware = needs };
        Assert.Equal(known, FirmwareQuestion.IsNative(Board("board") with { Socket = sits, Firmware = 12 }, cpu, SupportList.Empty));
        Assert.Equal(
            known && needs is null,
            FirmwareQuestion.IsNative(Board("board") with { Socket = sits, Firmware = null }, cpu, SupportList.Empty)
        );
    }

    /// <summary>Minutes: bench judgement, beside the atlas's times of work.</summary>
    [Fact]
    public void What_settles_the_firmware_takes_its_minutes_and_the_quickest_is_first()
    {
        var work = Atlas.Standard.Work;
        var older = new Cpu(new UnitId("old"), "older", Origin.Shelf, true) { Socket = "T1" };
        var ways = FirmwareQuestion.Of(Office().Trial("4").Job, SupportList.Empty, work, [older])!.Options;
        Assert.Equal(
            [
                (FirmwareWay.ReadSticker, 1 + work.Power.Value, false),
                (FirmwareWay.LookUpList, 3, false),
                (FirmwareWay.AskSeller, 8, false),
                (FirmwareWay.OlderCpu, (2 * work.Swap[UnitKind.Cpu].Value) + work.Mend[Remedy.Flash].Value, true),
            ],
            ways.Select(w => (w.Way, w.Minutes, w.Mends))
        );
    }

    [Fact]
    public void What_a_list_says_of_the_CPU_weighs_from_the_intake_on()
    {
        var bare = Office().Job;
        Parts By(string csv) =>
            Parts.Of(
                SupportList.Read($"board,revision,cpu,firmware\n{csv}\n").List.AppliedTo([.. bare.Now.Parts.All], bare.Intake.Received)
            );
        double Old(Parts parts) =>
            Fault.AllOf(Atlas.Standard, parts, []).Where(f => f.Mode.Id == FaultMode.FirmwareTooOld).Sum(f => f.Odds);
        var listed = By("Ondel B40,,Tarn C5,24");
        Assert.Equal(24, listed.All.OfType<Cpu>().Single().NeedsFirmware);
        Assert.Contains(MisfitFound.In(Situation.AtIntake(listed, bare.Intake.Received)), m => m.Kind == Misfit.FirmwareUnknown);
        // Every version knows it: out of the question, and nothing to be asked.
        var every = By("Ondel B40,,Tarn C5,0");
        Assert.Equal(0, Old(every));
        Assert.True(Old(By("Ondel B40,,another,24")) > 0);
        Assert.DoesNotContain(MisfitFound.In(Situation.AtIntake(every, bare.Intake.Received)), m => m.Kind == Misfit.FirmwareUnknown);
    }

    [Fact]
    public void Measured_minutes_are_counted_once_there_are_enough_of_them()
    {
        Assert.Null(Procedures.Median([3, 4]));
        Assert.Equal(4, Procedures.Median([3, 90, 4]));
        Assert.Equal(3.5, Procedures.Median([3, 90, 4, 2]));
        var own = new Preferences { OwnMinutes = Preferences.Usual.OwnMinutes.Add("swap-supply", 30) }.ApplyTo(Atlas.Standard);
        var work = Atlas.Standard.Work;
        Assert.Equal(30, own.Work.Swap[UnitKind.Supply].Value + work.Power.Value + work.Wait.Value, 1e-9);
        Assert.Equal(work.Swap[UnitKind.Cpu], own.Work.Swap[UnitKind.Cpu]);
    }

    [Fact]
    public void What_is_known_of_sticks_comes_back_from_a_file_and_absurd_figures_are_refused()
    {
        var stick = Fast("a", kit: "K1") with { PartNumber = "OR-3200", Ranks = 2, Timings = "16-18-18-38" };
        Assert.Equal(stick, JobFormat.ReadUnit(JobFormat.Write(stick)));
        var board = Board("b") with { FirmwareDate = new DateOnly(2024, 3, 1), Revision = "1.2", Layout = SlotLayout.Forked };
        var back = (Motherboard)JobFormat.ReadUnit(JobFormat.Write(board));
        Assert.Equal((board.FirmwareDate, board.Revision, board.Layout), (back.FirmwareDate, back.Revision, back.Layout));
        Assert.Throws<ArgumentOutOfRangeException>(() => Stick("a") with { Ranks = 9 });
        Assert.Throws<ArgumentOutOfRangeException>(() => Stick("a") with { Speed = 50 });
        Assert.Throws<ArgumentException>(() => Stick("a") with { Kit = new string('x', 21) });
        Assert.Throws<DataFileException>(() =>
            JobFormat.ReadUnit(JobFormat.Write(board).Replace("2024-03-01", "1 March", StringComparison.Ordinal))
        );
        Assert.Equal("8 GB DDR4, 2400 MT/s, profile 3200 MT/s 16-18-18-38, 2 ranks, OR-3200, kit K1", stick.Figures());
    }
}
