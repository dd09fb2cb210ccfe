using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;

namespace Kelvet.Core.Tests;

/// <summary>The grid of sticks and slots is filled from the log alone, and shows the pairing that tells most.</summary>
public sealed class MemoryGridTests
{
    private static MemoryGrid Of(Bench bench) => MemoryGrid.Of(bench.Diagnosis)!;

    private static GridCell Cell(MemoryGrid grid, string stick, string slot) =>
        grid.Cells.Single(c => c.Stick.Id.Value == stick && c.Slot.Name == slot);

    [Fact]
    public void Every_pairing_has_a_cell_and_none_is_tried_before_the_first_start()
    {
        var grid = Of(Bench.Office());
        Assert.Equal(8, grid.Cells.Length);
        Assert.All(grid.Cells, c => Assert.True(c.IsUntried));
        Assert.True(Cell(grid, "stick-1", "A2").IsNow);
        Assert.False(Cell(grid, "stick-1", "A1").IsNow);
    }

    [Fact]
    public void A_failure_of_two_is_shared_and_a_pass_of_two_speaks_for_both_in_full()
    {
        var failed = Of(Bench.Office().Trial("4"));
        Assert.Equal((1, 2), (Cell(failed, "stick-1", "A2").FailedBeside, Cell(failed, "stick-1", "A2").SharedBy));
        Assert.Contains("one of 2 sticks", Cell(failed, "stick-2", "B2").Weight(), StringComparison.Ordinal);
        var passed = Of(Bench.Office().Trial("6"));
        Assert.Equal(1, Cell(passed, "stick-2", "B2").PassedBeside);
        Assert.Contains("in full", Cell(passed, "stick-2", "B2").Weight(), StringComparison.Ordinal);
    }

    [Fact]
    public void One_stick_alone_fills_its_own_cell()
    {
        var grid = Of(Bench.Office().Trial("4").Trial("4", Bench.Remove("stick-2")).Trial("6", Bench.Move("stick-1", "memory.B2")));
        Assert.Equal((1, 0), (Cell(grid, "stick-1", "A2").FailedAlone, Cell(grid, "stick-1", "A2").PassedAlone));
        Assert.Equal(1, Cell(grid, "stick-1", "B2").PassedAlone);
        Assert.Equal("passed 1 alone", Cell(grid, "stick-1", "B2").Words());
        Assert.Equal(CellBar.AsItStands, Cell(grid, "stick-1", "B2").Bar);
    }

    [Fact]
    public void The_best_cell_can_be_taken_and_tells_at_least_as_much_as_any_other()
    {
        var bench = Bench.Office().Trial("4", StallDomain.Memory);
        var grid = Of(bench);
        var best = grid.Best!;
        Assert.All(grid.Cells, c => Assert.True(c.Rate <= best.Rate));
        var after = bench.Job.Now.After(best.Changes);
        Assert.Equal(best.Stick.Id, Assert.Single(after.Sticks).Stick.Id);
        Assert.Equal(best.Slot.Name, after.Sticks[0].Place.Part);
        // The same figure as the bench's own foresight.
        Assert.Equal(Planner.Foresee(bench.Diagnosis, best.Changes).Rate, best.Rate, 12);
    }

    [Fact]
    public void What_does_not_go_in_is_not_at_hand_or_may_not_be_powered_says_so()
    {
        var other = new MemoryStick(new UnitId("stick-5"), "Hollin 16 GB", Origin.Shelf) { MemoryType = "DDR5" };
        var told = Bench.Stick("told", Origin.New) with { IsAway = true };
        var bench = Bench.Office().Shelf(other, told);
        bench.Contexts = ["tripped-breaker"];
        var grid = Of(bench.Add(Bench.Stick("stick-3")));
        Assert.Equal(CellBar.OtherGeneration, Cell(grid, "stick-5", "A1").Bar);
        Assert.Equal(CellBar.NotAtHand, Cell(grid, "told", "A1").Bar);
        Assert.Equal(CellBar.MayNotBePowered, Cell(grid, "stick-3", "A1").Bar);
        Assert.Null(grid.Best);
    }

    [Fact]
    public void A_slot_its_channel_and_the_controller_are_told_as_alike()
    {
        var bench = Bench
            .Office()
            .Trial("4", StallDomain.Memory)
            .Trial("6", Bench.Remove("stick-1"))
            .Trial("4", Bench.Move("stick-2", "memory.A2"));
        var alike = Of(bench).Alike;
        Assert.Contains(alike, a => a.Faults.Select(f => f.Fault.Mode.On).Distinct().Count() > 1);
        Assert.All(alike, a => Assert.Contains(a.Faults, f => MemoryGrid.IsOfMemory(f.Fault)));
    }
}
