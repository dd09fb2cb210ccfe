using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What restores cheaply is done before a part is bought, swapped at a price or condemned. Common practice.</summary>
[Trait("suite", "rules")]
public class GateBeforeBuyingTests
{
    private static OpenChecks Open(BenchJob job, string unit) => OpenChecks.Of(job, new(unit), Atlas.Standard, Preferences.Usual);

    private static Bench WithSpares() =>
        Office(extension: false)
            .Shelf(
                Bench.Board("s-board", Origin.Shelf),
                new Cpu(new UnitId("s-cpu"), "Tarn C5", Origin.Shelf, true) { Socket = "T1" },
                Stick("s-stick", Origin.Shelf),
                Plain("s-supply", UnitKind.Supply, Origin.Shelf)
            );

    [Theory]
    [InlineData("0", false)]
    [InlineData("2", false)]
    [InlineData("3", true)]
    [InlineData("4", true)]
    public void Settings_are_open_where_they_may_be_why(string seen, bool open)
    {
        var job = Office().Trial(seen).Job;
        foreach (var unit in new[] { "board", "cpu", "stick-1", "drive" })
            Assert.Equal(open, Open(job, unit).Settings);
        // Nothing that firmware sets up hangs on these.
        foreach (var unit in new[] { "supply", "cable", "monitor", "switch", "keyboard", "cooler" })
            Assert.False(Open(job, unit).Settings);
        Assert.False(Open(Office().Trial(seen, Clear).Job, "board").Settings);
        Assert.False(Open(WithSpares().Trial(seen).Trial(seen, Swap("board", "s-board")).Job, "cpu").Settings);
    }

    [Fact]
    public void Seat_and_contacts_are_open_until_they_were_seen_to()
    {
        var job = Office().Trial("4").Job;
        Assert.True(Open(job, "supply") is { Seat: true, Contacts: false });
        Assert.True(Open(job, "stick-1") is { Seat: true, Contacts: true });
        Assert.False(Open(job, "monitor").Seat && !UnitFacts.Of(UnitKind.Monitor).Seats);
        Assert.False(Open(Office().Trial("4", Reseat("stick-1")).Job, "stick-1").Seat);
        Assert.False(Open(Office().Trial("4", new Change.Mend(Remedy.Clean, new("stick-1"))).Job, "stick-1").Contacts);
        // What is never powered again is bought without.
        var smelt = Office()
            .Job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = Alarm.Smell } });
        Assert.False(Open(smelt, "supply").Any);
    }

    [Fact]
    public void What_is_not_open_says_why()
    {
        static CheapState State(BenchJob job, string unit, CheapAct act, Preferences? preferences = null) =>
            OpenChecks.Of(job, new(unit), Atlas.Standard, preferences ?? Preferences.Usual).All.Single(c => c.Act == act).State;
        var failed = Office().Trial("4").Job;
        Assert.Equal(CheapState.Open, State(failed, "cpu", CheapAct.ClearSettings));
        Assert.Equal(CheapState.Done, State(Office().Trial("4", Clear).Job, "cpu", CheapAct.ClearSettings));
        Assert.Equal(CheapState.NotInQuestion, State(Office().Trial("0").Job, "cpu", CheapAct.ClearSettings));
        Assert.Equal(CheapState.Done, State(Office().Trial("4", Reseat("supply")).Job, "supply", CheapAct.Reseat));
        var elsewhere = failed.Append(new ElsewhereEntry(Guid.NewGuid(), new("stick-1"), false));
        Assert.Equal(CheapState.NotInQuestion, State(elsewhere, "stick-1", CheapAct.ClearSettings));
        Assert.Equal(CheapState.NotInQuestion, State(elsewhere, "stick-1", CheapAct.Reseat));
        Assert.Equal(CheapState.Open, State(elsewhere, "stick-2", CheapAct.Reseat));
        var smelt = Office()
            .Job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = Alarm.Smell } });
        Assert.Equal(CheapState.Impossible, State(smelt, "supply", CheapAct.Reseat));
        // Two minutes at 60 an hour are two; the part costs one.
        var cheap = Preferences.Usual with
        {
            HourlyRate = 60,
            PartPrices = Preferences.Usual.PartPrices.SetItem(UnitKind.Supply, 1),
        };
        Assert.Equal(CheapState.TooDear, State(failed, "supply", CheapAct.Reseat, cheap));
        Assert.False(ReplacementGate.Holds(failed, new("supply"), Atlas.Standard, cheap));
        Assert.Equal(
            "Before the stick in A2 is replaced: clear the settings, seat it anew. Or say why not.",
            Open(failed, "stick-1").WhyHeld(failed.Now.The(failed.Now.Parts[new("stick-1")]))
        );
    }

    [Fact]
    public void A_reason_in_the_log_goes_past_the_gate_and_stays_in_it()
    {
        var job = Office().Trial("4").Job;
        Assert.True(ReplacementGate.Holds(job, new("cpu"), Atlas.Standard, Preferences.Usual));
        Assert.Throws<ArgumentException>(() => new GoAheadEntry(Guid.NewGuid(), new("cpu"), " "));
        var line = new GoAheadEntry(Guid.NewGuid(), new("cpu"), "Its owner wants another one anyway.");
        var over = job.Append(line);
        Assert.False(ReplacementGate.Holds(over, new("cpu"), Atlas.Standard, Preferences.Usual));
        Assert.True(ReplacementGate.Holds(over, new("board"), Atlas.Standard, Preferences.Usual));
        Assert.Equal(line.Reason, ((GoAheadEntry)JobFormat.Read(JobFormat.Write(over)).Entries[^1]).Reason);
        Assert.True(
            ReplacementGate.Holds(
                over.Append(new StrikeEntry(Guid.NewGuid(), line.Id, "No.")),
                new("cpu"),
                Atlas.Standard,
                Preferences.Usual
            )
        );
        Assert.Throws<EntryRefusedException>(() => job.Append(new GoAheadEntry(Guid.NewGuid(), new("anvil"), "Why not.")));
    }

    [Fact]
    public void A_new_part_is_held_where_every_part_that_it_could_replace_is()
    {
        var job = Office().Trial("4").Job;
        Unit? Held(BenchJob at, Origin origin, UnitKind kind = UnitKind.MemoryStick) =>
            ReplacementGate.HeldAgainst(
                at,
                kind == UnitKind.MemoryStick ? Stick("another", origin) : Plain("another", kind, origin),
                Atlas.Standard,
                Preferences.Usual
            );
        Assert.Equal("stick-1", Held(job, Origin.New)?.Id.Value);
        // A part that is only lent, or of a kind that the machine has none of.
        Assert.Null(Held(job, Origin.Shelf));
        Assert.Null(Held(job, Origin.New, UnitKind.Riser));
        var seated = Office().Trial("4", Clear, Reseat("stick-2")).Job;
        Assert.Null(Held(seated, Origin.New));
        Assert.NotNull(Held(seated, Origin.New, UnitKind.Supply));
    }

    [Fact]
    public void A_part_that_is_named_as_failed_and_stays_out_is_held_at_closing_and_one_that_was_mended_is_not()
    {
        var job = WithSpares().Trial("4").Trial("6", Swap("stick-1", "s-stick")).Job;
        UnitId[] named = [new("stick-1"), new("stick-2"), new("s-stick")];
        Assert.Equal(["stick-1"], ReplacementGate.HeldAtClosing(job, named, Atlas.Standard, Preferences.Usual).Select(u => u.Id.Value));
        Assert.Empty(ReplacementGate.HeldAtClosing(job, [], Atlas.Standard, Preferences.Usual));
    }

    [Theory]
    [InlineData("cpu", "s-cpu")]
    [InlineData("board", "s-board")]
    public void Settings_are_cleared_and_pins_looked_at_before_a_board_or_CPU_is_swapped(string dear, string spare)
    {
        var job = WithSpares()
            .Trial("4")
            .Trial("4", Swap("supply", "s-supply"))
            .Trial("4", Remove("stick-1"), Swap("stick-2", "s-stick"))
            .Job;
        var (cleared, looked) = (false, false);
        for (var n = 0; n < 25; n++)
        {
            var decision = Planner.Decide(BenchDiagnosis.Of(job, Atlas.Standard), School.Advisor, Preferences.Usual);
            if (decision.Step is null)
                break;
            if (decision.Step.Check is { } check)
            {
                looked |= check.BeforeReplacing == Remedy.Straighten;
                job = job.Append(new FindingEntry(Guid.NewGuid(), check.Id, decision.Step.Checked!.Id, false));
                continue;
            }

            if (decision.Step.Changes.Contains(Swap(dear, spare)))
            {
                Assert.True(cleared);
                Assert.True(looked);
                return;
            }

            cleared |= decision.Step.Changes.Contains(Clear);
            job = job.Append(new TrialEntry(Guid.NewGuid(), decision.Step.Changes, StageRange.At(BootStage.RunsNoPost)));
        }

        Assert.Fail($"{dear} was never swapped");
    }

    [Fact]
    public void A_pin_that_was_found_bent_is_straightened_before_the_board_is_swapped()
    {
        // A list that knows no bent pins.
        var book = Atlas.Standard with
        {
            Modes = [.. Atlas.Standard.Modes.Where(m => m.Cure != Cure.Straighten)],
        };
        var job = WithSpares()
            .Trial("4")
            .Trial("4", Swap("supply", "s-supply"))
            .Trial("4", Remove("stick-1"), Swap("stick-2", "s-stick"))
            .Trial("4", Clear)
            .Trial("4", Remove("drive"), Remove("keyboard"))
            .Trial("4", Swap("cpu", "s-cpu"))
            .Finding("look-socket", "board", true)
            .Job;
        for (var n = 0; n < 15; n++)
        {
            var decision = Planner.Decide(BenchDiagnosis.Of(job, book), School.Advisor, Preferences.Usual);
            if (decision.Kind == AdviceKind.CheapFirst && decision.Step!.Changes is [Change.Mend { Remedy: Remedy.Straighten }])
                return;
            Assert.DoesNotContain(Swap("board", "s-board"), decision.Step!.Changes);
            job = decision.Step.Check is { } check
                ? job.Append(new FindingEntry(Guid.NewGuid(), check.Id, decision.Step.Checked!.Id, false))
                : job.Append(new TrialEntry(Guid.NewGuid(), decision.Step.Changes, StageRange.At(BootStage.RunsNoPost)));
        }

        Assert.Fail("nothing was straightened");
    }

    [Fact]
    public void A_suspect_goes_back_clean_and_with_the_settings_cleared_and_that_is_said()
    {
        var bench = WithSpares().Trial("4").Trial("4").Trial("6", Swap("stick-2", "s-stick")).Trial("6");
        Decision? back = null;
        for (var n = 0; n < 8 && back is null; n++)
        {
            var read = bench.Diagnosis;
            var decision = Planner.Decide(read, School.Advisor, Preferences.Usual);
            if (decision.Step is { Check: { } check } look)
                bench.Finding(check.Id, look.Checked!.Id.Value, false);
            else if (decision.Step!.After.Now.Has(new("stick-2")))
                back = decision;
            else
                bench.Trial("6", [.. decision.Step.Changes]);
        }

        Assert.Contains(new Change.Mend(Remedy.Clean, new("stick-2")), back!.Step!.Changes);
        Assert.Single(back.Step.Changes, Clear);
        Assert.EndsWith(", cleaned, with CMOS cleared.", back.Step.Imperative(bench.Job.Now));
        if (back.Kind == AdviceKind.PutBackToProve)
            Assert.Contains("the settings cleared", PlainAdvice.Of(Planner.Advise(bench.Diagnosis), bench.Diagnosis).Reason);
        // Once is enough.
        bench.Trial("4", [.. back.Step.Changes]);
        Assert.True(Open(bench.Job, "stick-2") is { Settings: false, Contacts: false, Seat: false });
    }

    [Fact]
    public void What_may_not_be_powered_is_put_back_by_no_proof()
    {
        var job = BenchJob.Open(WithSpares().Job.Intake with { Contexts = ["smell"] });
        job = job.Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "s-supply")]));
        job = job.Append(new FindingEntry(Guid.NewGuid(), "look-board", new("board"), true));
        job = job.Append(new WorkEntry(Guid.NewGuid(), [Swap("board", "s-board")]));
        for (var n = 0; n < 8; n++)
        {
            job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture)));
            var decision = Planner.Decide(BenchDiagnosis.Of(job, Atlas.Standard), School.Advisor, Preferences.Usual);
            if (decision.Step is { Check: null } step)
                Assert.False(step.After.Now.Has(new("board")), $"{decision.Kind}");
        }
    }

    [Theory]
    [InlineData(40, WhyProof.ChecksOpen)]
    [InlineData(39, WhyProof.NotWorthIt)]
    public void What_was_never_tried_with_it_in_asks_for_both_ways_where_that_costs_half_of_the_part(double price, WhyProof why)
    {
        var asked = new ProofPrice(Plain("x", UnitKind.Supply), 20, 20, 0.001, 100, true, WhyProof.WorthIt);
        Assert.Equal(why, asked.Weighed(null, certain: true, goesBack: false, open: true, price, dear: 1000).Why);
        Assert.Equal(WhyProof.NotWorthIt, asked.Weighed(null, certain: true, goesBack: false, open: false, price, dear: 1000).Why);
    }

    /// <summary>Ten minutes: bench judgement.</summary>
    [Theory]
    [InlineData(10, WhyProof.Cheap)]
    [InlineData(10.5, WhyProof.NotWorthIt)]
    public void A_proof_of_ten_minutes_is_always_made(double minutes, WhyProof why) =>
        Assert.Equal(
            why,
            new ProofPrice(Plain("x", UnitKind.Supply), minutes, 20, 0.001, 100, true, WhyProof.WorthIt)
                .Weighed(null, certain: true, goesBack: false, open: false, 60, 1000)
                .Why
        );
}
