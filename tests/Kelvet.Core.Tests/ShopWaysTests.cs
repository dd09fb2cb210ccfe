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

/// <summary>A shop's switches, its money, and what nobody powers.</summary>
[Trait("suite", "rules")]
public class ShopWaysTests
{
    private static readonly Cpu SpareCpu = new(new UnitId("spare-cpu"), "Tarn C3", Origin.Shelf, true) { Socket = "T1" };

    private static Bench WithSpares() => Office(card: true).Shelf(SpareCpu, Board("spare-board", Origin.Shelf)).Trial("4-5");

    private static Candidate[] Considered(Bench bench, Preferences preferences)
    {
        var advice = Planner.Advise(bench.Diagnosis, null, preferences);
        return [.. advice.Alternatives.Concat(advice.Pointless).Concat(advice.Next is { } n ? [n] : []).Select(a => a.Candidate)];
    }

    private static bool Swaps(Candidate[] steps, string unit) =>
        steps.Any(c => c.Changes.Any(x => x is Change.Swap s && s.Out.Value == unit));

    private static bool Mends(Candidate[] steps, Remedy remedy, string unit) =>
        steps.Any(c => c.Changes.Any(x => x is Change.Mend m && m.Remedy == remedy && m.Unit.Value == unit));

    [Fact]
    public void Board_first_leaves_the_CPU_alone_until_the_board_was_swapped()
    {
        var first = Preferences.Usual with { CpuOrBoard = CpuOrBoard.BoardFirst };
        Assert.True(Swaps(Considered(WithSpares(), Preferences.Usual), "cpu"));
        Assert.False(Swaps(Considered(WithSpares(), first), "cpu"));
        Assert.True(Swaps(Considered(WithSpares().Trial("4-5", Swap("board", "spare-board")), first), "cpu"));
    }

    [Fact]
    public void Cheaper_first_goes_by_the_shops_prices()
    {
        var cheaper = Preferences.Usual with { CpuOrBoard = CpuOrBoard.CheaperFirst };
        Assert.False(Swaps(Considered(WithSpares(), cheaper), "cpu"));
        var cheapCpu = cheaper with { PartPrices = cheaper.PartPrices.SetItem(UnitKind.Cpu, 20) };
        Assert.True(Swaps(Considered(WithSpares(), cheapCpu), "cpu"));
        Assert.False(Swaps(Considered(WithSpares(), cheapCpu), "board"));
    }

    [Fact]
    public void A_bent_pin_is_straightened_and_suspected_straightened_or_not_touched()
    {
        Assert.True(Mends(Considered(WithSpares(), Preferences.Usual), Remedy.Straighten, "board"));
        Assert.False(Mends(Considered(WithSpares(), Preferences.Usual with { BentPin = BentPin.Replace }), Remedy.Straighten, "board"));
        double Left(Preferences p) => p.ApplyTo(Atlas.Standard)["socket-pins-bent"].LeftByCure;
        Assert.True(Left(Preferences.Usual) > 3 * Left(Preferences.Usual with { BentPin = BentPin.Straighten }));
    }

    [Fact]
    public void A_dead_card_is_repasted_only_where_the_shop_does_so()
    {
        Assert.False(Mends(Considered(WithSpares(), Preferences.Usual), Remedy.Repaste, "card"));
        Assert.True(
            Mends(Considered(WithSpares(), Preferences.Usual with { DeadCard = DeadCard.CleanAndRepasteOnce }), Remedy.Repaste, "card")
        );
    }

    [Fact]
    public void A_memory_program_isolates_only_where_the_shop_uses_it_so()
    {
        var runs = Office().Trial("6-8");
        Assert.DoesNotContain(Considered(runs, Preferences.Usual), c => c.Check?.Id == "test-memory");
        Assert.Contains(
            Considered(runs, Preferences.Usual with { MemoryTest = MemoryTest.ForIsolatingToo }),
            c => c.Check?.Id == "test-memory"
        );
    }

    [Fact]
    public void A_trusted_tester_says_more_for_a_supply()
    {
        var trusted = (Preferences.Usual with { SupplyTester = SupplyTester.Trusted }).ApplyTo(Atlas.Standard);
        var log = Office().Trial("2").Job.Append(new FindingEntry(Guid.NewGuid(), "test-supply", new UnitId("supply"), false));
        Assert.True(
            BenchDiagnosis.Of(log, trusted).PFault("supply/supply-trips")
                < BenchDiagnosis.Of(log, Atlas.Standard).PFault("supply/supply-trips")
        );
    }

    [Fact]
    public void Always_draining_makes_every_other_step_dearer()
    {
        var always = (Preferences.Usual with { Drain = Drain.Always }).ApplyTo(Atlas.Standard).Work;
        Assert.True(always.Power > Atlas.Standard.Work.Power && always.Display > Atlas.Standard.Work.Display);
    }

    [Fact]
    public void The_search_is_weighed_against_the_part_by_the_hourly_rate()
    {
        var d = Office(card: true).Trial("4-5").Trial("4-5", Clear).Diagnosis;
        Economy At(double rate) => Planner.Advise(d, null, Preferences.Usual with { HourlyRate = rate }).Economy!;
        Assert.False(At(0).ReplaceInstead);
        Assert.Equal(0, At(0).SearchCost);
        Assert.Equal(At(60).SearchCost * 2, At(120).SearchCost, 1e-9);
        Assert.Equal(60 * At(60).Expected!.Value.Value / 60, At(60).SearchCost, 1e-9);
        Assert.True(At(6000).SearchCost > 1000);
    }

    private static string? Why(BenchJob job, Situation machine) => Safety.WhyNotPowered(job, machine)?.Words();

    [Fact]
    public void A_supply_that_tripped_a_breaker_is_not_powered_again()
    {
        var bench = Office();
        bench.Contexts = [Safety.TrippedBreaker];
        bench.Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        Assert.Contains("not powered again", Why(bench.Job, bench.Job.Now));
        Assert.Null(Why(bench.Job, bench.Job.Now.After(Swap("supply", "spare-supply"))));
        Assert.Null(Why(Office().Job, Office().Job.Now));
    }

    [Fact]
    public void What_smelled_is_looked_over_before_it_is_powered()
    {
        var bench = Office();
        bench.Contexts = [Safety.Smell];
        bench.Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        var swapped = bench.Job.Now.After(Swap("supply", "spare-supply"));
        Assert.Contains("look the board over", Why(bench.Job, swapped));
        Assert.Null(Why(bench.Job.Append(new FindingEntry(Guid.NewGuid(), Safety.LookOverBoard, new UnitId("board"), false)), swapped));
    }

    [Fact]
    public void What_got_wet_is_dried_and_looked_over_before_it_is_powered()
    {
        var bench = Office();
        bench.Contexts = [Safety.Wet];
        FindingEntry Damp(bool found) => new(Guid.NewGuid(), Safety.LookForDamp, new UnitId("board"), found);
        Assert.Contains("dry it", Why(bench.Job, bench.Job.Now));
        var damp = bench.Job.Append(Damp(true));
        Assert.Contains("still damp", Why(damp, damp.Now));
        var dry = damp.Append(Damp(false));
        Assert.Null(Why(dry, dry.Now));
        Assert.Contains(Considered(bench.Trial("4-5"), Preferences.Usual), c => c.Check?.Id == Safety.LookForDamp);
        Assert.DoesNotContain(Considered(Office().Trial("4-5"), Preferences.Usual), c => c.Check?.Id == Safety.LookForDamp);
    }
}
