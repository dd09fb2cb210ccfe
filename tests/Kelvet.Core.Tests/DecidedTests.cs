using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Rules of which each has a case here that it alone decides: the rule changed a little, the case comes out otherwise.</summary>
[Trait("suite", "rules")]
public class DecidedTests
{
    private static BenchJob Started(BenchJob job, bool passes, params Change[] changes) =>
        job.Append(
            new TrialEntry(
                Guid.NewGuid(),
                [.. changes],
                passes ? StageRange.AtLeast(BootStage.Picture) : StageRange.At(BootStage.RunsNoPost)
            )
        );

    private static BenchJob WithProfile()
    {
        var office = Office().Job;
        return BenchJob.Open(
            office.Intake with
            {
                Parts = Parts.Of(office.Now.Parts.All.Select(u => u is MemoryStick m ? m with { Speed = 2400, Profile = 3200 } : u)),
            }
        );
    }

    [Fact]
    public void The_ladder_goes_to_the_foot_then_halves_and_each_rung_takes_three_starts()
    {
        var job = Started(WithProfile(), passes: false);
        var tried = new List<int>();
        // Two steps down it holds, and not one.
        while (ProfileLadder.Of(job)!.Next is { } next && tried.Count < 20)
        {
            tried.Add(next.StepsDown);
            job = Started(job, next.StepsDown >= 2, [.. next.Changes]);
        }

        Assert.Equal([4, 4, 4, 2, 2, 2, 1], tried);
        Assert.Equal(2, ProfileLadder.Of(job)!.Fastest!.StepsDown);
    }

    [Fact]
    public void Between_what_failed_and_what_held_the_ladder_takes_the_slower_of_two()
    {
        var job = Started(WithProfile(), passes: false);
        while (ProfileLadder.Of(job)!.Next is { StepsDown: 4 } foot)
            job = Started(job, passes: true, [.. foot.Changes]);
        job = Started(job, passes: false, new Change.Choose(MachineOption.ProfileOneDown));
        Assert.Equal(3, ProfileLadder.Of(job)!.Next!.StepsDown);
    }

    [Fact]
    public void A_line_that_is_refused_is_named_by_the_number_that_it_would_have_had()
    {
        var job = Office().Trial("4").Trial("6").Job;
        var refused = Assert.Throws<EntryRefusedException>(() => job.Append(new StrikeEntry(Guid.NewGuid(), job.Lines[0].Written.Id, "")));
        Assert.Equal(3, refused.Line);
    }

    [Fact]
    public void What_failed_with_a_third_stick_beside_it_does_not_count_against_a_pair()
    {
        var three = Office()
            .Shelf(Stick("third", Origin.Shelf))
            .Trial("4", Fit("third", "memory.A1"))
            .Trial("6", Remove("third"), Remove("stick-2"))
            .Trial("6", Remove("stick-1"), Fit("stick-2", "memory.B2"));
        var pair = MemoryPairs
            .Of(three.Diagnosis)!
            .Cells.First(c => c.Channel.Length == 0 && (c.One.Id.Value, c.Other.Id.Value) == ("stick-1", "stick-2"));
        Assert.Equal((0, 1, false), (pair.Failed, pair.FailedBeside, pair.FailsOnlyTogether));
    }

    [Fact]
    public void A_pair_on_one_channel_is_counted_where_both_are_on_it_and_no_pair_across()
    {
        var two = Office()
            .Trial("4")
            .Trial("6", Move("stick-2", "memory.A1"))
            .Trial("4", Move("stick-1", "memory.B1"), Move("stick-2", "memory.B2"));
        var cells = MemoryPairs.Of(two.Diagnosis)!.Cells.ToDictionary(c => c.Channel, c => (c.Passed, c.Failed));
        Assert.Equal((1, 0), cells["A"]);
        Assert.Equal((0, 1), cells["B"]);
        Assert.Equal((0, 1), cells[""]);
    }

    [Theory]
    [InlineData(Alarm.Smell, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.Burnt, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.TrippedBreaker, PowerBlock.SupplyTripped)]
    public void A_supply_that_gave_an_alarm_is_never_again_started_fitted_or_plugged_in(Alarm alarm, PowerBlock block)
    {
        var job = Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Job;
        job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = alarm } });
        Assert.Equal(block, Safety.WhyNeverAgain(job, new("supply")));
        Assert.Null(Safety.WhyNeverAgain(job, new("spare")));
        Assert.Equal(block, Safety.WhyNotPowered(job, job.Now));
        job = job.Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "spare")]));
        foreach (var back in new[] { Swap("spare", "supply"), Connect("supply") })
            Assert.Equal(block, Safety.WhyNotRecorded(job, new WorkEntry(Guid.NewGuid(), [back])));
        Assert.Equal(
            block,
            Safety.WhyNotRecorded(job, new TrialEntry(Guid.NewGuid(), [Swap("spare", "supply")], StageRange.At(BootStage.Stable)))
        );

        // However often another one has passed since.
        job = Started(Started(job, passes: true), passes: true);
        Assert.Equal(block, Safety.WhyNeverAgain(job, new("supply")));
    }

    [Theory]
    [InlineData(false, true)]
    [InlineData(true, false)]
    public void A_part_that_is_away_stands_in_for_nothing(bool away, bool offered)
    {
        var spare = Stick("spare", Origin.Shelf) with { IsAway = away };
        var bench = Office().Shelf(spare).Trial("4").Trial("4");
        var acts = Candidates.From(bench.Diagnosis).Where(c => c.Missing is null).SelectMany(c => c.Changes);
        Assert.Equal(offered, acts.Any(c => c is Change.Swap s && s.In == spare.Id || c is Change.Fit f && f.Unit == spare.Id));
    }

    [Fact]
    public void Only_what_is_below_two_in_a_hundred_and_passed_is_cleared()
    {
        var between = 0;
        foreach (
            var bench in new[]
            {
                Office().Trial("4").Trial("6", Remove("stick-2")),
                Office(card: true).Trial("5").Trial("5").Trial("6", Show("board/HDMI"), Remove("card")),
                Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Trial("2").Trial("6", Swap("supply", "spare")),
            }
        )
        {
            foreach (var suspect in bench.Diagnosis.Suspects)
            {
                if (suspect.Standing == Standing.Cleared)
                    Assert.True(suspect.Probability < 0.02, $"{suspect.Unit.Id} {suspect.Probability}");
                if (suspect.Standing == Standing.Open && suspect.Probability is > 0.02 and < 0.06)
                    between++;
            }
        }

        // Some lie between that limit and three times it, so that a laxer one would show.
        Assert.True(between > 0);
    }

    [Fact]
    public void Put_right_is_what_passed_last()
    {
        // The card's plug was found out and put in; since then it passes.
        var job = Started(Started(Office(card: true).Job, passes: false), passes: false);
        var look = Atlas.Standard.Check("look-card")!;
        job = job.With(OnceOver.Lines(job, Atlas.Standard, look, new("card"), PointAnswer.PutRight, "plug-out", Guid.NewGuid())!.Value);
        for (var n = 0; n < 4; n++)
            job = Started(job, passes: true);
        var right = BenchDiagnosis.Of(job, Atlas.Standard);
        Assert.True(right.Of("card").Standing == Standing.PutRight, $"{right.Of("card").Standing} {right.P("card")}");
        // A machine that then fails for another reason is not put right yet, however sure the plug was.
        job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)));
        Assert.NotEqual(Standing.PutRight, BenchDiagnosis.Of(job, Atlas.Standard).Of("card").Standing);
    }

    [Fact]
    public void A_rung_that_was_begun_is_finished_and_the_profile_itself_is_none()
    {
        var failed = Started(WithProfile(), passes: false);
        var begun = Started(failed, passes: true, new Change.Choose(MachineOption.ProfileOneDown));
        Assert.Equal(1, ProfileLadder.Of(begun)!.Next!.StepsDown);
        // It ran at its profile once, and failed lower down: it is not the profile's first rung that is gone on with.
        var odd = Started(WithProfile(), passes: true);
        odd = Started(odd, passes: false, new Change.Choose(MachineOption.ProfileOneDown));
        Assert.Equal(4, ProfileLadder.Of(odd)!.Next!.StepsDown);
    }

    [Fact]
    public void Firmware_that_was_written_anew_is_as_new_as_it_gets_and_without_a_CPU_nothing_is_asked()
    {
        var work = Atlas.Standard.Work;
        var job = Office().Trial("4").Job;
        Assert.Equal(FirmwareState.BothUnknown, FirmwareQuestion.Of(job, Listings.SupportList.Empty, work)!.State);
        var flashed = Started(job, passes: false, new Change.Mend(Remedy.Flash, new("board")));
        Assert.Equal(FirmwareState.KnowsIt, FirmwareQuestion.Of(flashed, Listings.SupportList.Empty, work)!.State);
        Assert.Null(FirmwareQuestion.Of(Started(job, passes: false, Remove("cooler"), Remove("cpu")), Listings.SupportList.Empty, work));
    }

    [Fact]
    public void What_ran_on_another_board_says_nothing_of_what_this_boards_firmware_knows()
    {
        var bench = Office().Shelf(Board("board-2", Origin.Shelf) with { Firmware = 10 });
        var job = BenchJob.Open(
            bench.Job.Intake with
            {
                Parts = Parts.Of(bench.Job.Now.Parts.All.Select(u => u is Cpu c ? c with { NeedsFirmware = 20 } : u)),
            }
        );
        job = Started(job, passes: true);
        Assert.Equal(FirmwareState.KnowsIt, FirmwareQuestion.Of(job, Listings.SupportList.Empty, Atlas.Standard.Work)!.State);
        job = Started(job, passes: false, Swap("board", "board-2"));
        Assert.Equal(FirmwareState.TooOld, FirmwareQuestion.Of(job, Listings.SupportList.Empty, Atlas.Standard.Work)!.State);
    }

    [Theory]
    [InlineData("card", true)]
    [InlineData("spare-card", false)]
    public void Hands_go_in_for_a_look_at_what_is_fitted_and_not_for_what_lies_beside(string unit, bool gated)
    {
        var job = Office(card: true).Shelf(Card("spare-card", Origin.Shelf)).Trial("4").Job;
        var look = Atlas.Standard.Check("look-card")!;
        var on = new BenchPower(Power.On, TimeSpan.Zero, TimeSpan.FromSeconds(20));
        Assert.Equal(gated, PowerGate.HandsIn(look, new(unit), job.Now));
        var refused = PowerGate.WhyNot(job, new FindingEntry(Guid.NewGuid(), look.Id, new(unit), false), look.HandsIn, on);
        Assert.Equal(gated ? GateRefusal.TakePowerOffFirst : (GateRefusal?)null, refused?.Why);
        // A test that runs on the machine needs no hands in it, wherever the part is.
        Assert.Null(PowerGate.WhyNot(job, new FindingEntry(Guid.NewGuid(), look.Id, new(unit), false), handsIn: false, on));
    }

    [Fact]
    public void A_flash_put_in_later_is_judged_by_the_start_before_it_and_not_by_the_one_that_it_stands_in_front_of()
    {
        var job = Started(Started(Office().Job, passes: false), passes: true, Remove("stick-2"));
        var late = (Guid before) =>
            Safety.WhyNotRecorded(
                job,
                new InsertEntry(
                    Guid.NewGuid(),
                    before,
                    new WorkEntry(Guid.NewGuid(), [new Change.Mend(Remedy.Flash, new("board"))]),
                    "late"
                )
            );
        Assert.Equal(PowerBlock.BlindFlash, late(job.Entries[0].Id));
        Assert.Equal(PowerBlock.BlindFlash, late(job.Entries[1].Id));
        job = Started(job, passes: true);
        Assert.Null(late(job.Entries[2].Id));
    }

    [Fact]
    public void What_is_too_far_fetched_holds_up_no_proof()
    {
        var seen = 0;
        foreach (
            var bench in new[]
            {
                Office().Trial("4").Trial("6", Remove("stick-2")).Trial("4", Fit("stick-2", "memory.B2")),
                Office(card: true).Trial("5").Trial("6", Show("board/HDMI"), Remove("card")),
                Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Trial("2").Trial("6", Swap("supply", "spare")),
            }
        )
        {
            var diagnosis = bench.Diagnosis;
            var rivals = diagnosis.RivalsOf(diagnosis.Suspects[0].Unit.Id);
            Assert.All(rivals, r => Assert.True(diagnosis.Inference.Marginals[r.Index] >= 0.0005, r.Fault.Key));
            seen += rivals.Length;
        }

        Assert.True(seen > 0);
    }

    [Fact]
    public void Luck_holds_up_a_proof_of_one_round_more_than_one_of_three()
    {
        var bench = Office();
        int[] lucky = [Again(), Again(), Again()];
        Assert.True(lucky[0] > 0);
        Assert.True(lucky[2] < lucky[0]);

        int Again()
        {
            bench.Trial("4").Trial("6", Remove("stick-2")).Trial("4", Fit("stick-2", "memory.B2"));
            return bench.Diagnosis.RivalsOf(new("stick-2")).Count(r => r.ByChance);
        }
    }

    [Theory]
    [InlineData(Ending.Restarted, 6.0, RunFor.SupplyRails, 20)]
    [InlineData(Ending.Off, 45.0, RunFor.SupplyRails, 90)]
    [InlineData(Ending.Froze, 3.0, RunFor.Endurance, 120)]
    [InlineData(null, null, RunFor.Cooler, 10)]
    [InlineData(Ending.Froze, 1440.0, RunFor.Endurance, 1440)]
    public void A_run_is_planned_for_what_is_complained_of_and_twice_as_long_as_it_took(
        Ending? then,
        double? after,
        RunFor @for,
        int minutes
    )
    {
        var plan = RunPlan.Of(new Complaint { Then = then, Minutes = after });
        Assert.Equal((@for, minutes), (plan.For, plan.Minutes));
        // Chosen otherwise, it is no shorter than what is complained of takes.
        Assert.Equal(
            Math.Max(10, Math.Min(1440, 2 * (after ?? 0))),
            RunPlan.Of(new Complaint { Then = then, Minutes = after }, RunFor.Cooler).Minutes
        );
    }

    [Fact]
    public void What_stays_empty_as_it_goes_out_is_said_and_never_called_in_place()
    {
        var bad = new UnitId("stick-2");
        var asked = new List<string>();
        var job = Office().Job;
        var decision = new Decision(Phase.Reproduce, AdviceKind.LookThenStart);
        for (var n = 0; n < 40 && decision.Kind != AdviceKind.Done; n++)
        {
            // No other is got: it is left out.
            if (decision is { Step: null, Missing: not null })
                decision = decision with
                {
                    Step = Candidates.Of([Remove("stick-2")], job.Now, job.Now.After(Remove("stick-2")), Faults.Atlas.Standard),
                };
            var after = decision.Step?.After ?? job.Now;
            Entry line = decision.Step switch
            {
                { Check: { } look } => new FindingEntry(Guid.NewGuid(), look.Id, decision.Step.Checked!.Id, false),
                var step => new TrialEntry(
                    Guid.NewGuid(),
                    step?.Changes ?? [],
                    after.Now.Has(bad) ? StageRange.At(BootStage.RunsNoPost) : StageRange.AtLeast(BootStage.Picture)
                ),
            };
            job = job.Append(line);
            var read = BenchDiagnosis.Of(job, Faults.Atlas.Standard);
            var told = Planner.Advise(read);
            decision = told.Decision;
            // A part is told from itself by nobody: the question is what of it is wrong.
            if (decision is { Kind: AdviceKind.Control, Fault: { } rival } && rival.Unit.Id == decision.About!.Id)
                asked.Add(PlainAdvice.Of(told, read).Reason);
        }

        Assert.NotEmpty(asked);
        Assert.All(asked, a => Assert.StartsWith("Is the stick ", a));
        Assert.Equal((AdviceKind.Done, "memory.B2"), (decision.Kind, Assert.Single(decision.Empty).ToString()));
        var diagnosis = BenchDiagnosis.Of(job, Faults.Atlas.Standard);
        var advice = Planner.Advise(diagnosis);
        Assert.Equal(
            "It runs, and B2 stays empty: the owner is to know, or another part is got.",
            PlainAdvice.Of(advice, diagnosis).Reason
        );
        Assert.DoesNotContain("in its place", advice.Words());
    }

    [Theory]
    [InlineData("supply", UnitKind.Supply, "2")]
    [InlineData("board", UnitKind.Motherboard, "1")]
    public void A_repaired_machine_goes_out_after_three_clean_starts_and_not_before(string unit, UnitKind kind, string fails)
    {
        var bench = Office()
            .Shelf(kind == UnitKind.Supply ? Plain("spare", kind, Origin.Shelf) : Board("spare", Origin.Shelf))
            .Trial(fails)
            .Trial("6", Swap(unit, "spare"))
            .Trial(fails, Swap("spare", unit))
            .Trial("6", Swap(unit, "spare"));
        for (var clean = 1; clean < 3; clean++, bench.Trial("6"))
            Assert.NotEqual(AdviceKind.Done, Planner.Advise(bench.Diagnosis).Decision.Kind);
        Assert.Equal(AdviceKind.Done, Planner.Advise(bench.Diagnosis).Decision.Kind);
    }

    [Fact]
    public void After_one_stick_alone_the_other_may_be_tried_alone_in_its_own_slot()
    {
        Change[] other = [Remove("stick-2"), Fit("stick-1", "memory.A2")];
        var bench = Office().Trial("4");
        Assert.DoesNotContain(Candidates.From(bench.Diagnosis), c => c.Changes.SequenceEqual(other));
        bench.Trial("4", Remove("stick-1"));
        Assert.Contains(Candidates.From(bench.Diagnosis), c => c.Changes.SequenceEqual(other));
        // Not where the slot is taken.
        bench.Trial("4", Fit("stick-1", "memory.A2"), Move("stick-2", "memory.B1"));
        Assert.DoesNotContain(Candidates.From(bench.Diagnosis), c => c.Changes.SequenceEqual(other));
    }

    [Fact]
    public void Luck_is_ruled_out_by_the_start_that_tells_of_it()
    {
        // What mostly acts is told by a clean start without the part; what seldom does by a failure with it.
        var bench = Office().Shelf(Plain("spare", UnitKind.VideoCable, Origin.Shelf)).Trial("5").Trial("5");
        var (without, with) = (0, 0);
        for (var n = 0; n < 8; n++)
        {
            var read = bench.Diagnosis;
            var decision = Planner.Advise(read).Decision;
            var fitted = read.Job.Now.Now.Has(new UnitId("cable"));
            if (decision is { Kind: AdviceKind.Control, Step: { Check: null, Changes: [] }, About: { } about } && about.Id.Value == "cable")
            {
                var rate = read.RivalsOf(about.Id).First(r => r.Rate is not null && r.Fault == decision.Fault).Rate;
                Assert.True(fitted ? rate < 0.5 : rate >= 0.5, $"{rate}");
                (without, with) = fitted ? (without, with + 1) : (without + 1, with);
            }

            bench.Trial(
                n is 1 or 2 or 3 or 6 or 7 ? "6" : "5",
                n == 1 ? [Swap("cable", "spare")]
                    : n == 4 ? [Swap("spare", "cable")]
                    : n == 6 ? [Swap("cable", "spare")]
                    : []
            );
        }

        Assert.True(without > 0 && without + with < 4, $"{without} {with}");
    }

    [Fact]
    public void A_rival_takes_the_suspects_place_beside_what_else_is_known_to_be_wrong()
    {
        var bench = Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Trial("2").Trial("4", Swap("supply", "spare"));
        bench.Trial("6", Remove("stick-2")).Trial("4", Fit("stick-2", "memory.B2"));
        var read = bench.Trial("2", Swap("spare", "supply")).Trial("4", Swap("supply", "spare")).Diagnosis;
        Assert.NotEmpty(read.RivalsOf(new("stick-2")));
        // With the supply left aside the stick explains half of it, and so would anything.
        Assert.DoesNotContain(read.RivalsOf(new("stick-2")), r => r.Fault.Unit.Kind is UnitKind.Supply or UnitKind.Storage);
    }

    [Theory]
    [InlineData("cooler", UnitKind.Cooler, false)]
    [InlineData("supply", UnitKind.Supply, true)]
    public void What_cools_the_CPU_is_not_put_back_to_see_it_fail(string accused, UnitKind kind, bool back)
    {
        var bench = Office().Shelf(Plain("spare", kind, Origin.Shelf)).Trial("2");
        if (kind == UnitKind.Cooler)
            bench.Finding("look-fans", accused, found: true);
        bench.Trial("2").Trial("6", Swap(accused, "spare"));
        Assert.True(bench.Diagnosis.P(accused) >= 0.25);
        Assert.Equal(back, Candidates.From(bench.Diagnosis).Any(c => c.After.Now.Has(new UnitId(accused))));
    }
}
