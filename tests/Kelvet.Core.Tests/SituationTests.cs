using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

[Trait("suite", "rules")]
public class SituationTests
{
    private static Situation Machine(bool cpuGraphics = true, bool card = false) =>
        Office(cpuGraphics, card)
            .Shelf(
                Stick("spare", Origin.Shelf),
                new MemoryStick(new UnitId("ddr5"), "Quillon fast", Origin.Shelf) { MemoryType = "DDR5" },
                new Cpu(new UnitId("other-cpu"), "Velm 9", Origin.Shelf, true) { Socket = "V9" },
                Card("spare-card", Origin.Shelf),
                Plain("spare-supply", UnitKind.Supply, Origin.Shelf)
            )
            .Job.Now;

    [Theory]
    [InlineData("A2", "is taken by Quillon stick-1")]
    [InlineData("C1", "has no memory slot C1; it has A1, A2, B1, B2")]
    public void A_stick_is_refused_where_it_cannot_go(string slot, string reason)
    {
        var refused = Assert.Throws<ChangeRefusedException>(() => Machine().After(Fit("spare", $"memory.{slot}")));
        Assert.Contains(reason, refused.Message);
    }

    public static TheoryData<Change, string> Impossible =>
        new()
        {
            { Fit("nobody", "memory.A1"), "There is no unit nobody" },
            { Fit("ddr5", "memory.A1"), "is DDR5" },
            { Fit("spare", "card.1"), "does not go into expansion slot 1" },
            { Fit("stick-1", "memory.A1"), "is in memory slot A2 already" },
            { Remove("spare"), "is not fitted" },
            { Remove("board"), "Swap the board" },
            { Swap("cpu", "other-cpu"), "is for socket V9" },
            { Swap("cpu", "spare"), "does not go into CPU socket" },
            { Move("spare", "memory.A1"), "is not fitted" },
            { Reseat("spare"), "is not fitted" },
            { Bypass("supply"), "is not an extension" },
            { Show("board/DVI"), "no output DVI there; there is HDMI, DP, VGA" },
            { Show("card.1/HDMI"), "Nothing with a video output" },
            { new Change.StartWith(StartMethod.CaseSwitch), "started that way already" },
            { Connect("spare"), "say which" },
        };

    [Theory]
    [MemberData(nameof(Impossible))]
    public void An_impossible_change_is_refused_with_the_reason(Change change, string reason)
    {
        Assert.False(Machine().TryAfter(change, out var same, out var refusal));
        Assert.Contains(reason, refusal);
        Assert.False(same.Now.Has(new UnitId("spare")));
    }

    [Fact]
    public void A_swap_of_two_fitted_sticks_makes_them_change_places()
    {
        var after = Machine().After(Swap("stick-1", "stick-2"));
        Assert.Equal(new UnitId("stick-2"), after.Now[Place.Memory("A2")]);
        Assert.Equal(new UnitId("stick-1"), after.Now[Place.Memory("B2")]);
        Assert.True(after.Refitted(new UnitId("stick-1")) && after.Refitted(new UnitId("stick-2")));
    }

    [Fact]
    public void Taking_out_the_card_moves_the_monitor_to_the_board()
    {
        var after = Machine(card: true).After(Remove("card"));
        Assert.Equal(Place.Board, after.Now.Display!.Value.Source);
        Assert.Equal(BootStage.Stable, Ceiling.Of(after).Stage);
        var blind = Machine(cpuGraphics: false, card: true).After(Remove("card"));
        // With nothing that can make a picture many boards stop before the end of POST, others complete it.
        Assert.Equal(BootStage.RunsNoPost, Ceiling.Of(blind).Stage);
        Assert.InRange(Ceiling.Of(blind).Reach(BootStage.PostNoPicture), 0.1, 0.9);
        Assert.Equal(0, Ceiling.Of(blind).Reach(BootStage.Picture));
        Assert.Contains(CeilingReason.NothingForAPicture, Ceiling.Of(blind).Reasons);
        Assert.Equal(CeilingReason.CpuWithoutGraphics, Ceiling.Of(blind).Reasons[0]);
    }

    [Fact]
    public void The_ceiling_follows_what_is_connected()
    {
        Assert.Equal(BootStage.Stable, Ceiling.Of(Machine()).Stage);
        Assert.Equal(BootStage.Picture, Ceiling.Of(Machine().After(Remove("drive"))).Stage);
        Assert.Equal(BootStage.RunsNoPost, Ceiling.Of(Machine().After([Remove("stick-1"), Remove("stick-2")])).Stage);
        Assert.Equal(BootStage.NoStandby, Ceiling.Of(Machine().After(Remove("supply"))).Stage);
        // A drive whose listed cable is out is not reached; one without a listed cable is.
        var listed = Office().Add(Plain("data", UnitKind.DataCable), Place.Of(PlaceKind.DataCable, "1")).Job.Now;
        Assert.Equal(BootStage.Stable, Ceiling.Of(listed).Stage);
        Assert.Equal(CeilingReason.NoDrive, Assert.Single(Ceiling.Of(listed.After(Remove("data"))).Reasons));
        var beside = Ceiling.Of(Machine(card: true).After(Show("board/HDMI")));
        Assert.Equal(BootStage.PostNoPicture, beside.Stage);
        Assert.InRange(beside.Reach(BootStage.Picture), 0.01, 0.99);
        Assert.True(beside.CanShowPicture);
    }

    [Fact]
    public void A_CPU_is_never_run_without_a_cooler()
    {
        var bench = Office();
        var refused = Assert.Throws<EntryRefusedException>(() => bench.Trial("4", Remove("cooler")));
        Assert.Contains("without a cooler", refused.Message);
        Assert.Empty(bench.Job.Trials);
    }

    [Fact]
    public void A_board_swap_refits_everything_and_brings_its_own_settings()
    {
        var start = Office().Shelf(Board("board-2", Origin.New)).Job.Now.After(Clear);
        var after = start.After(Swap("board", "board-2"));
        Assert.True(start.CmosCleared(new UnitId("board")));
        Assert.False(after.CmosCleared(new UnitId("board-2")));
        Assert.True(after.Refitted(new UnitId("cpu")) && after.Refitted(new UnitId("stick-2")) && after.Refitted(new UnitId("supply")));
        Assert.Equal("HDMI", after.Now.Display!.Value.Output);
    }

    [Fact]
    public void Without_a_drive_it_starts_from_the_shops_stick_until_a_drive_comes_back()
    {
        var start = Office().Job.Now;
        var stick = new Change.Choose(MachineOption.LiveMedium);
        Assert.False(start.TryAfter(stick, out _, out var why));
        Assert.StartsWith("With a drive in it would start from that.", why, StringComparison.Ordinal);
        var bare = start.After(Remove("drive"));
        Assert.Equal(BootStage.Picture, Ceiling.Of(bare).Stage);
        var live = bare.After(stick);
        Assert.Equal(BootStage.Stable, Ceiling.Of(live).Stage);
        // What the board was told is forgotten with its settings; the stick is not among it.
        Assert.True(live.After(Clear).IsChosen(MachineOption.LiveMedium));
        var back = live.After(new Change.Fit(new("drive"), Place.Storage("1")));
        Assert.False(back.IsChosen(MachineOption.LiveMedium));
        Assert.Equal(start.Now, back.Now);
    }

    [Fact]
    public void A_new_cell_puts_right_a_board_whose_cell_is_flat()
    {
        var start = Office().Job.Now;
        var flat = Fault.AllOf(Atlas.Standard, start, []).First(f => f.Mode.Id == "battery-flat");
        Assert.True(flat.Engaged(start) > 0.5 && !flat.DealtWith(start));
        var renewed = start.After(new Change.Mend(Remedy.NewCell, new("board")));
        Assert.True(flat.Engaged(renewed) < 0.05 && flat.DealtWith(renewed));
    }

    [Theory]
    [InlineData("")]
    [InlineData("9")]
    [InlineData("5-4")]
    [InlineData("4-")]
    [InlineData("44")]
    [InlineData("x")]
    public void Nonsense_is_no_range(string text) => Assert.False(ObservedFormat.TryRead(text, out _));

    [Fact]
    public void Values_that_cannot_be_are_refused_when_made()
    {
        Assert.Throws<ArgumentOutOfRangeException>(() => new Minutes(-1));
        Assert.Throws<ArgumentOutOfRangeException>(() => new Minutes(double.NaN));
        Assert.Throws<ArgumentException>(() => new UnitId("Upper Case"));
        Assert.Throws<ArgumentException>(() => Place.Memory(""));
        Assert.Throws<ArgumentOutOfRangeException>(() => new StageRange(BootStage.Picture, BootStage.CutsOut));
        Assert.Throws<ArgumentException>(() =>
            new Motherboard(new UnitId("b"), "B", Origin.Customer, [new("A1", "A"), new("A1", "B")], [], [])
        );
    }
}

public class TransitionTests
{
    [Fact]
    public void Every_arrangement_of_a_story_can_be_reached_from_every_other()
    {
        foreach (
            var bench in new[]
            {
                StoryTests.CutsOutOnItsSupply(),
                StoryTests.BlackInOneSlot(),
                StoryTests.TwoFaults(),
                StoryTests.NoDigitalPicture(),
            }
        )
        {
            foreach (var from in bench.Job.Trials)
            {
                foreach (var to in bench.Job.Trials)
                {
                    var changes = Transition.Between(
                        bench.Job.Now.Now.Equals(from.Situation.Now) ? bench.Job.Now : from.Situation,
                        to.Situation.Now
                    );
                    Assert.NotNull(changes);
                    Assert.Equal(to.Situation.Now, from.Situation.After(changes.Value).Now);
                }
            }
        }
    }
}
