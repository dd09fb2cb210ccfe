using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Moves of parts, what has to match, orders.</summary>
public class StockTests
{
    private static PartMove Move(MoveKind kind, int pieces = 1, int? job = null) => new(kind, pieces, job, "Ada", default);

    [Fact]
    public void A_life_is_what_its_moves_make()
    {
        var life = PartLife.Of([
            Move(MoveKind.Added, 3),
            Move(MoveKind.IntoJob, job: 1001),
            Move(MoveKind.Passed, job: 1001),
            Move(MoveKind.IntoJob, job: 1002),
            Move(MoveKind.Doubted, job: 1002),
            Move(MoveKind.Sold, job: 1001),
            Move(MoveKind.OutOfJob, job: 1001),
            Move(MoveKind.Counted, -1),
        ]);
        Assert.Equal((1, 0), (life.Owned, life.Here));
        Assert.Equal([1002], life.InJobs.AsEnumerable());
        Assert.Equal([1001], life.Passed.AsEnumerable());
        Assert.Equal([1002], life.Doubted.AsEnumerable());
    }

    [Fact]
    public void More_machines_than_pieces_is_said_and_nothing_is_less_than_none()
    {
        PartMove[] moves = [Move(MoveKind.Added), Move(MoveKind.IntoJob, job: 1001), Move(MoveKind.IntoJob, job: 1002)];
        Assert.Equal((0, true), (PartLife.Of(moves).Here, PartLife.Of(moves).IsShort));
        Assert.False(PartLife.Of(moves[..2]).IsShort);
    }

    [Fact]
    public void What_was_not_there_does_not_go()
    {
        Assert.Throws<ArgumentException>(() => PartLife.Of([Move(MoveKind.Added), Move(MoveKind.Sold), Move(MoveKind.Sold)]));
        Assert.Throws<ArgumentException>(() => PartLife.Of([Move(MoveKind.Added), Move(MoveKind.OutOfJob, job: 1001)]));
        Assert.Throws<ArgumentException>(() => PartLife.Of([Move(MoveKind.Added), Move(MoveKind.IntoJob)]));
        Assert.Throws<ArgumentOutOfRangeException>(() => Move(MoveKind.Added, 0));
        Assert.Throws<ArgumentOutOfRangeException>(() => Move(MoveKind.Added, -1));
        Assert.Throws<ArgumentOutOfRangeException>(() => Move(MoveKind.Counted, 0));
        Assert.Throws<ArgumentOutOfRangeException>(() => Move(MoveKind.Added, 1000));
        Assert.Equal(-2, Move(MoveKind.Counted, -2).Pieces);
    }

    [Fact]
    public void Every_move_has_its_row_and_what_closing_does_is_taken_back_by_what_reopening_does()
    {
        Assert.Equal(Enum.GetValues<MoveKind>(), MoveFacts.All.Select(m => m.Kind));
        foreach (
            var (one, other) in new[]
            {
                (MoveKind.Sold, MoveKind.Unsold),
                (MoveKind.Kept, MoveKind.Unkept),
                (MoveKind.IntoJob, MoveKind.OutOfJob),
            }
        )
        {
            Assert.Equal(0, MoveFacts.Of(one).Owned + MoveFacts.Of(other).Owned);
            Assert.Equal(0, MoveFacts.Of(one).Out + MoveFacts.Of(other).Out);
        }
    }

    [Fact]
    public void What_has_to_match_is_said_of_each_kind_and_what_nobody_knows_is_to_be_read_off()
    {
        static string[] Needed(BenchJob job, UnitKind kind, bool known) =>
            [.. Needs.Of(job, kind).Where(n => n.IsKnown == known).Select(n => n.Words)];
        var bench = Office(card: true);
        var job = bench.Job;
        Assert.Contains("1 power plug for the card", Needed(job, UnitKind.Supply, true));
        Assert.Contains("watts: add up what CPU and card draw", Needed(job, UnitKind.Supply, false));
        Assert.Contains("2 memory slots or more", Needed(job, UnitKind.Motherboard, true));
        Assert.Contains("height: measure the case", Needed(job, UnitKind.Cooler, false));
        Assert.Equal(["CR2032, 3 V"], Needed(job, UnitKind.CoinCell, true));
        var told = job.AsTakenIn;
        var parts = told.Parts.All.Select(u =>
            u switch
            {
                Cpu c => c with { Watts = 100 },
                GraphicsCard g => g with { Watts = 180, Plugs = 2 },
                MemoryStick m => m with { MemoryType = "DDR4", SizeGb = 16, Guessed = [PartFact.Presence] },
                _ => u,
            }
        );
        var known = BenchJob.Open(told with { Parts = Parts.Of(parts) });
        var watts = PowerEstimate.Of(known.Now)!.Wanted;
        Assert.Equal([$"at least {watts} W", "2 power plugs for the card"], Needed(known, UnitKind.Supply, true));
        Assert.Equal(["DDR4", "16 GB, as the others"], Needed(known, UnitKind.MemoryStick, true));
        Assert.Contains("socket T1", Needed(known, UnitKind.Cooler, true));
        Assert.Contains("for at least 100 W", Needed(known, UnitKind.Cooler, true));
        // How many sticks there are is only guessed: no number of slots is asked for.
        Assert.DoesNotContain(Needed(known, UnitKind.Motherboard, true), n => n.Contains("slot", StringComparison.Ordinal));
    }

    [Fact]
    public void A_spare_that_does_not_fit_says_why_and_one_that_does_says_nothing()
    {
        var now = Office().Job.Now;
        var board = (Motherboard)now.Parts[new UnitId("board")];
        var typed = now.Parts.All.Select(u => u == board ? board with { MemoryType = "DDR4" } : u);
        var machine = BenchJob.Open(Office().Job.AsTakenIn with { Parts = Parts.Of(typed) }).Now;
        // What cannot go in at all is one thing, what goes in and does not fit another.
        Assert.Contains(
            "DDR5",
            Needs.Against(machine, Stick("s", Origin.Shelf) with { MemoryType = "DDR5" }).Refused,
            StringComparison.Ordinal
        );
        Assert.True(Needs.Against(machine, Stick("s", Origin.Shelf) with { MemoryType = "DDR4" }).IsNone);
        var cpu = new Cpu(new UnitId("c"), "C", Origin.Shelf, true) { Socket = "Z1" };
        Assert.Contains("Z1", Needs.Against(machine, cpu).Refused, StringComparison.Ordinal);
        Assert.True(Needs.Against(machine, Card("g", Origin.Shelf)).IsNone);
        var weak = Plain("w", UnitKind.Supply, Origin.Shelf) with { Watts = 80 };
        var hungry = machine.Parts.All.Select(u => u is Cpu c ? c with { Watts = 95 } : u);
        var loaded = BenchJob.Open(Office().Job.AsTakenIn with { Parts = Parts.Of(hungry) }).Now;
        Assert.Equal([Misfit.SupplyTooSmall], Needs.Against(loaded, weak).Misfits.AsEnumerable());
        Assert.False(Needs.Against(loaded, weak).IsNone);
    }

    [Fact]
    public void An_order_goes_forward_and_what_is_done_with_goes_nowhere()
    {
        Assert.All(OrderStep.All, s => Assert.NotEqual(s.From, s.To));
        Assert.Empty(OrderStep.After(OrderState.Returned));
        Assert.Empty(OrderStep.After(OrderState.Dropped));
        Assert.Null(OrderStep.Find(OrderState.Dropped, OrderState.Arrived));
        Assert.True(OrderStep.Find(OrderState.Arrived, OrderState.ToReturn)!.Why);
        // Nothing comes back to where it was.
        var seen = new HashSet<OrderState>();
        void Walk(OrderState at, ImmutableHashSet<OrderState> before)
        {
            Assert.DoesNotContain(at, before);
            seen.Add(at);
            foreach (var step in OrderStep.After(at))
                Walk(step.To, before.Add(at));
        }

        Walk(OrderState.ToSend, []);
        Assert.Equal(Enum.GetValues<OrderState>(), seen.Order());
    }

    [Fact]
    public void A_file_of_orders_has_no_cell_that_a_spreadsheet_runs()
    {
        var csv = OrderText.Csv([new OrderLine(1, UnitKind.Supply, "=cmd()", 2, "a, \"b\"", 4.5m)]);
        Assert.Equal("order,kind,part,pieces,has to match,price\n1,power supply,\"'=cmd()\",2,\"a, \"\"b\"\"\",4.50\n", csv);
    }
}
