using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Every part that is not where it came in is settled before a job is closed; what the bench shows and closing asks is one
/// reading.</summary>
public class SettlingTests
{
    private static Bench Shop() =>
        Office(extension: false)
            .Shelf(
                Plain("s-supply", UnitKind.Supply, Origin.Shelf),
                Stick("s-stick", Origin.Shelf),
                Plain("s-monitor", UnitKind.Monitor, Origin.Shelf),
                Stick("new-stick", Origin.New),
                Plain("told", UnitKind.Supply, Origin.New) with
                {
                    IsAway = true,
                }
            );

    private static SettledEntry Fated(string unit, Fate fate, decimal? price = null, string agreed = "") =>
        new(Guid.NewGuid(), new UnitId(unit), fate, price, agreed);

    private static IEnumerable<(string, Stray)> Strays(BenchJob job) => Settling.Of(job).Select(s => (s.Unit.Id.Value, s.Stray));

    [Fact]
    public void What_is_where_it_came_in_is_not_asked_for_but_what_was_bought_and_not_used_is() =>
        Assert.Equal([("new-stick", Stray.BoughtOut)], Strays(Shop().Trial("4").Job));

    [Fact]
    public void A_swap_leaves_two_parts_to_settle_and_the_benchs_own_monitor_none()
    {
        var job = Shop().Trial("4").Trial("6", Swap("supply", "s-supply")).Trial("6", Swap("monitor", "s-monitor")).Job;
        Assert.Equal([("supply", Stray.TheirsOut), ("s-supply", Stray.OursIn), ("new-stick", Stray.BoughtOut)], Strays(job));
        // Back as it was: nothing is asked for.
        Assert.Equal([("new-stick", Stray.BoughtOut)], Strays(job.Append(new WorkEntry(Guid.NewGuid(), [Swap("s-supply", "supply")]))));
    }

    [Fact]
    public void What_was_bought_and_stays_in_is_sold() =>
        Assert.Contains(("new-stick", Stray.BoughtIn), Strays(Shop().Trial("4").Trial("6", Swap("stick-1", "new-stick")).Job));

    [Fact]
    public void What_was_said_of_a_part_holds_until_it_is_moved_and_only_for_where_it_is()
    {
        var job = Shop().Trial("4").Trial("6", Swap("supply", "s-supply")).Job;
        bool Said(BenchJob of, string unit) => Settling.Of(of).Single(s => s.Unit.Id.Value == unit).Said is not null;
        var settled = job.Append(Fated("supply", Fate.GivenBack)).Append(Fated("s-supply", Fate.Sold, 49.90m));
        Assert.True(Said(settled, "supply") && Said(settled, "s-supply"));
        Assert.Equal(["new-stick"], Settling.Open(settled).Select(s => s.Unit.Id.Value));
        // In and out again: it has to be said anew.
        var moved = settled
            .Append(new WorkEntry(Guid.NewGuid(), [Swap("s-supply", "supply")]))
            .Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "s-supply")]));
        Assert.False(Said(moved, "supply") || Said(moved, "s-supply"));
        // Reseating it is no move.
        Assert.True(Said(settled.Append(new WorkEntry(Guid.NewGuid(), [Reseat("s-supply")])), "s-supply"));
        // A part of the customer's is not sold, nor is a spare in the machine given back.
        Assert.False(Said(job.Append(Fated("supply", Fate.Sold, 10)), "supply"));
        Assert.False(Said(job.Append(Fated("s-supply", Fate.GivenBack)), "s-supply"));
        // The last that was said counts.
        Assert.Equal(
            Fate.Lent,
            Settling.Of(settled.Append(Fated("s-supply", Fate.Lent))).Single(s => s.Unit.Id.Value == "s-supply").Said!.Fate
        );
    }

    [Fact]
    public void A_price_is_said_of_what_is_sold_and_leave_of_what_is_kept_or_thrown_away()
    {
        foreach (var row in FateRow.All)
        {
            Assert.Equal(row.Priced, Record.Exception(() => Fated("x", row.Fate, agreed: "the owner")) is ArgumentException);
            Assert.Equal(!row.Priced, Record.Exception(() => Fated("x", row.Fate, 5, "the owner")) is ArgumentException);
            Assert.Equal(row.Agreed, Record.Exception(() => Fated("x", row.Fate, row.Priced ? 5 : null, " ")) is ArgumentException);
        }

        Assert.Throws<ArgumentException>(() => Fated("x", Fate.Sold, -0.01m));
        Assert.Throws<ArgumentException>(() => Fated("x", Fate.Sold, SettledEntry.MostPrice + 0.01m));
        Assert.Equal(0, Fated("x", Fate.Sold, 0).Price);
        Assert.Throws<ArgumentException>(() => Fated("x", Fate.Kept, null, new string('x', SettledEntry.LongestAgreed + 1)));
        Assert.Equal("", Fated("x", Fate.GivenBack, null, "the owner").Agreed);
    }

    [Fact]
    public void Every_stray_part_has_a_usual_fate_that_can_be_said_without_asking()
    {
        foreach (var stray in Enum.GetValues<Stray>())
            Assert.False(FateRow.For(stray).First().Agreed);
        Assert.Equal(Enum.GetValues<Fate>().Order(), FateRow.All.Select(r => r.Fate).Order());
    }

    [Fact]
    public void It_is_read_back_as_it_was_written()
    {
        foreach (var entry in new[] { Fated("supply", Fate.Kept, null, "the owner, 3 May"), Fated("s-stick", Fate.Sold, 12.35m) })
            Assert.Equal(entry, JobFormat.ReadEntry(JobFormat.Write(entry)));
    }

    [Fact]
    public void Whatever_was_moved_a_job_is_settled_by_what_usually_becomes_of_its_parts()
    {
        for (var seed = 0; seed < 300; seed++)
        {
            var random = new Random(seed);
            var job = Shop().Trial("4").Job;
            UnitId[] all = [.. job.Now.Parts.All.Select(u => u.Id)];
            for (var i = 0; i < 12; i++)
            {
                var ids = job.Now.Parts.All.Select(u => u.Id.Value).ToArray();
                string Any() => ids[random.Next(ids.Length)];
                Change change = random.Next(3) == 0 ? new Change.Remove(new UnitId(Any())) : Swap(Any(), Any());
                if (job.Now.TryAfter(change, out _, out _))
                    job = job.Append(new WorkEntry(Guid.NewGuid(), [change]));
                if (random.Next(4) == 0 && Settling.Usual(job, all, Guid.NewGuid, _ => 9.99m) is [var first, ..])
                    job = job.Append(first);
            }

            foreach (var fate in Settling.Usual(job, all, Guid.NewGuid, _ => 9.99m))
                job = job.Append(fate);
            // What has no usual fate is said by hand: the first that it can have.
            foreach (var row in Settling.Open(job).Select(p => (p.Unit, Fate: FateRow.For(p.Stray).First())))
                job = job.Append(Fated(row.Unit.Id.Value, row.Fate.Fate, row.Fate.Priced ? 9.99m : null));
            Assert.Empty(Settling.Open(job));
            // Each part is in the machine as it came, or something is said of it.
            foreach (var unit in job.Now.Parts.All.Where(u => !u.IsAway && !Settling.StaysAtBench(u)))
            {
                var isIn = job.Now.Now.Has(unit.Id);
                var settled = Settling.Of(job).Any(s => s.Unit.Id == unit.Id && s.Said is not null);
                Assert.True(
                    settled || isIn == (unit.Origin == Origin.Customer) || (unit.Origin == Origin.Shelf && !isIn),
                    $"seed {seed}: {unit.Id}"
                );
            }
        }
    }

    [Fact]
    public void What_was_swapped_only_to_try_has_no_usual_fate()
    {
        var job = Shop().Trial("4").Trial("6", Swap("supply", "s-supply")).Trial("6", Swap("stick-1", "s-stick")).Job;
        (string, Fate)[] Usual(params string[] found) =>
            [.. Settling.Usual(job, [.. found.Select(f => new UnitId(f))], Guid.NewGuid, _ => 9).Select(f => (f.Unit.Value, f.Fate))];
        Assert.Equal([("new-stick", Fate.ToShelf)], Usual());
        // The supply is at fault: it goes back, and the spare stays. The borrowed stick and the customer's own are asked for.
        Assert.Equal([("supply", Fate.GivenBack), ("s-supply", Fate.Sold), ("new-stick", Fate.ToShelf)], Usual("supply"));
        Assert.Equal([("new-stick", Fate.ToShelf)], Usual("board"));
        // A part that is at fault and still in the machine has nothing standing in for it.
        var back = job.Append(new WorkEntry(Guid.NewGuid(), [Swap("s-supply", "supply")]));
        Assert.DoesNotContain(Settling.Usual(back, [new UnitId("supply")], Guid.NewGuid, _ => 9), f => f.Fate is Fate.Sold);
    }

    [Fact]
    public void The_owner_reads_what_became_of_their_own_part()
    {
        var job = Shop().Trial("4").Trial("6", Swap("supply", "s-supply")).Trial("4", Swap("s-supply", "supply")).Job;
        job = job.Append(new TrialEntry(Guid.NewGuid(), [Swap("supply", "s-supply")], Observed.StageRange.At(BootStage.Picture)));
        job = job.Append(Fated("supply", Fate.Kept, null, "Mrs Oxlip, by phone"));
        var done = PlainReport.Of(Proving.BenchDiagnosis.Of(job, Faults.Atlas.Standard), [new UnitId("supply")]).Done;
        Assert.Contains("Your old power supply stays with us, as agreed (Mrs Oxlip, by phone).", done);
    }
}
