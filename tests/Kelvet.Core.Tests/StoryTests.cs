using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Xunit.Abstractions;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Bench stories of our own, told to the end. Common practice, no published source.</summary>
public class StoryTests(ITestOutputHelper output)
{
    /// <summary>Cuts out at once whatever is taken away; runs on another supply.</summary>
    internal static Bench CutsOutOnItsSupply() =>
        Office(card: true)
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf))
            .Trial("2")
            .Trial("2", Clear)
            .Trial("2", Remove("stick-2"))
            .Trial("2", Swap("stick-1", "stick-2"))
            .Trial("2", Remove("card"))
            .Trial("2", Remove("drive"))
            .Trial("2", Bypass("extension"))
            .Trial("6", Swap("supply", "spare-supply"))
            .Trial("6", Fit("stick-1", "memory.B2"), Fit("card", "card.1"), Show("card.1/DP 1"), Connect("drive"), Connect("extension"));

    /// <summary>Black in A2 with every stick, picture in B2 with every stick.</summary>
    internal static Bench BlackInOneSlot() =>
        Office(card: true)
            .Shelf(Card("spare-card", Origin.Shelf, needsAux: false), Stick("spare-stick", Origin.Shelf))
            .Trial("4-5")
            .Trial("4-5", Clear)
            .Trial("4-5", Swap("card", "spare-card"))
            .Trial("4-5", Remove("stick-2"))
            .Trial("6", Move("stick-1", "memory.B2"))
            .Trial("6", Swap("stick-1", "stick-2"))
            .Trial("4-5", Remove("stick-2"), Fit("spare-stick", "memory.A2"))
            .Trial("6", Move("spare-stick", "memory.B2"));

    /// <summary>No picture on either digital output, a picture on the analogue one and on a card.</summary>
    internal static Bench NoDigitalPicture() =>
        Office()
            .Shelf(
                Card("spare-card", Origin.Shelf, needsAux: false),
                Plain("dp-cable", UnitKind.VideoCable, Origin.Shelf),
                Plain("vga-cable", UnitKind.VideoCable, Origin.Shelf)
            )
            .Trial("4-5")
            .Trial("4-5", Clear)
            .Trial("4-5", Move("stick-1", "memory.A1"))
            .Trial("4-5", Swap("cable", "dp-cable"), Show("board/DP"))
            .Trial("6", Swap("dp-cable", "vga-cable"), Show("board/VGA"))
            .Trial("6", Fit("spare-card", "card.1"), Swap("vga-cable", "cable"), Show("card.1/HDMI"));

    /// <summary>A first board that cuts out, and a CPU that does not POST on the second.</summary>
    internal static Bench TwoFaults() =>
        Office(card: true)
            .Shelf(
                Plain("spare-supply", UnitKind.Supply, Origin.Shelf),
                Stick("spare-stick", Origin.Shelf),
                Stick("spare-stick-2", Origin.Shelf),
                Board("new-board", Origin.New),
                Card("spare-card", Origin.Shelf, needsAux: false)
            )
            .Trial("2")
            .Trial("2", Swap("supply", "spare-supply"))
            .Trial(
                "2",
                Remove("stick-2"),
                Swap("stick-1", "spare-stick"),
                Remove("card"),
                Remove("drive"),
                Remove("keyboard"),
                Bypass("extension")
            )
            .Trial("4", Swap("board", "new-board"))
            .Trial("4", Swap("spare-stick", "spare-stick-2"))
            .Trial("4", Fit("spare-card", "card.1"), Show("card.1/HDMI"));

    [Fact]
    public void A_machine_that_runs_on_another_supply_accuses_the_supply()
    {
        var d = Tell(CutsOutOnItsSupply());
        LeadsTwoToOne(d, "supply");
        Assert.True(d.P("supply") > BenchDiagnosis.Certain);
        Assert.Equal(Standing.ProofOneWay, d.Of("supply").Standing);
        Assert.Equal(Standing.Cleared, d.Of("extension").Standing);
    }

    [Fact]
    public void Putting_the_supply_back_completes_the_proof_and_condemns_it()
    {
        var d = Tell(CutsOutOnItsSupply().Trial("2", Swap("spare-supply", "supply")));
        Assert.Equal(Standing.Condemned, d.Of("supply").Standing);
        Assert.Equal(BootStage.CutsOut, d.Of("supply").Proof.PutBack!.Fail.Seen.Low);
    }

    [Fact]
    public void A_fault_that_stays_with_a_slot_accuses_the_board_and_leaves_the_CPU_channel_open()
    {
        var d = Tell(BlackInOneSlot());
        LeadsTwoToOne(d, "board");
        Assert.Contains(d.Of("board").Leading.Fault.Mode.Id, new[] { "slot-dead", "channel-dead" });
        Assert.NotEqual(Standing.Condemned, d.Of("board").Standing);
        Assert.True(d.P("cpu") > 0.05);
        var confusion = d.Confusions[0].Faults.Select(f => f.Fault.Key).ToArray();
        Assert.Contains("board/slot-dead/A2", confusion);
        Assert.Contains("board/channel-dead/A", confusion);
        Assert.Contains("cpu/cpu-channel-dead/A", confusion);
        Assert.All(new[] { "stick-1", "stick-2", "spare-stick" }, s => Assert.Equal(Standing.Cleared, d.Of(s).Standing));
    }

    [Fact]
    public void No_digital_picture_accuses_the_shared_cause_and_nothing_else()
    {
        var d = Tell(NoDigitalPicture());
        LeadsTwoToOne(d, "board");
        Assert.Equal("digital-outputs-dead", d.Of("board").Leading.Fault.Mode.Id);
        // All digital outputs at once are rare (one in a thousand), and stand out all the same.
        Assert.True(d.Of("board").Leading.Probability > 0.5);
        Assert.All(d.Of("board").Faults.Skip(1), f => Assert.True(f.Probability < 0.05, f.Fault.Key));
    }

    [Fact]
    public void A_second_fault_behind_the_first_is_seen_and_stays_unproved()
    {
        var d = Tell(TwoFaults());
        Assert.True(d.MoreThanOne > 0.5, $"more than one {d.MoreThanOne:P0}");
        Assert.True(d.P("cpu") > 0.5 && d.P("board") > 0.5);
        Assert.Equal(new HashSet<string> { "cpu", "board" }, d.Suspects.Take(2).Select(s => s.Unit.Id.Value).ToHashSet());
        Assert.All(new[] { "cpu", "board" }, u => Assert.NotEqual(Standing.Condemned, d.Of(u).Standing));
        Assert.False(d.Of("board").Proof.TwoWay);
    }

    private static void LeadsTwoToOne(BenchDiagnosis d, string unit)
    {
        var odds = d.Suspects[0].Probability / Math.Max(d.Suspects[1].Probability, 1e-9);
        Assert.Equal(unit, d.Suspects[0].Unit.Id.Value);
        Assert.True(odds >= 2, $"{unit} leads {d.Suspects[1].Unit.Id} by {odds:0.0} to 1 only");
    }

    private BenchDiagnosis Tell(Bench bench)
    {
        var d = bench.Diagnosis;
        output.WriteLine(
            $"{d.Faults.Length} faults, {d.Posterior.Sets} sets; nothing {d.NothingFound:P1}, more than one {d.MoreThanOne:P1}"
        );
        foreach (var s in d.Suspects)
            output.WriteLine(
                $"{s.Unit.Id, -14} {s.Probability:P2} (prior {s.Prior:P2}) {s.Standing} {s.Leading.Fault.Key} {s.Leading.Probability:P1}"
            );
        foreach (var c in d.Confusions)
            output.WriteLine("confounded: " + string.Join(", ", c.Faults.Select(f => f.Fault.Key)));
        return d;
    }
}
