using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;

namespace Kelvet.Core.Tests;

/// <summary>Parts and steps as they are said at arm's length, and how a start usually goes.</summary>
public sealed class SayingTests
{
    private static Situation Office()
    {
        Unit[] units =
        [
            Unit.Plain(new UnitId("supply"), UnitKind.Supply, "Velm 450 W", Origin.Customer),
            Unit.Plain(new UnitId("spare-supply"), UnitKind.Supply, "Brask 550 W", Origin.Shelf),
            new Motherboard(
                new UnitId("board"),
                "Ondel B40-M",
                Origin.Customer,
                [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")],
                [new("HDMI", VideoSignal.Digital)],
                ["1", "2"]
            ),
            new Cpu(new UnitId("cpu"), "Tarn C5", Origin.Customer, true),
            Unit.Plain(new UnitId("cooler"), UnitKind.Cooler, "Tarn box", Origin.Customer),
            new MemoryStick(new UnitId("one"), "Orrin 8 GB", Origin.Customer) { Serial = "OR-1" },
            new MemoryStick(new UnitId("two"), "Orrin 8 GB", Origin.Customer) { Serial = "OR-2" },
            new MemoryStick(new UnitId("spare-1"), "Quillon 8 GB", Origin.Shelf),
            new MemoryStick(new UnitId("spare-2"), "Quillon 8 GB", Origin.Shelf),
            new GraphicsCard(new UnitId("card"), "Brask R60", Origin.Shelf, [new("DP 1", VideoSignal.Digital)], false),
        ];
        var at = new Dictionary<Place, UnitId>
        {
            [Place.Supply] = new("supply"),
            [Place.Board] = new("board"),
            [Place.Cpu] = new("cpu"),
            [Place.Cooler] = new("cooler"),
            [Place.Memory("A2")] = new("one"),
            [Place.Memory("B2")] = new("two"),
        };
        return Situation.AtIntake(
            Parts.Of(units),
            new Configuration(System.Collections.Immutable.ImmutableSortedDictionary.CreateRange(at), StartMethod.HeaderPins, null)
        );
    }

    private static string Say(params string[] changes)
    {
        var now = Office();
        return ((System.Collections.Immutable.ImmutableArray<Change>)[.. changes.Select(Read)]).Imperative(now);
    }

    private static Change Read(string text) =>
        MachineFormat.TryRead(text, out var change, out var expected) ? change : throw new ArgumentException(expected);

    [Theory]
    [InlineData("Take out the stick in B2.", "remove two")]
    [InlineData("Swap the supply for the spare.", "swap supply spare-supply")]
    [InlineData("Put a spare stick in A1.", "fit spare-1 memory.A1")]
    [InlineData("Swap the stick in A2 for a spare stick.", "swap one spare-1")]
    [InlineData("Swap A2 and B2.", "swap one two")]
    [InlineData("Move the stick in B2 to A1.", "move two memory.A1")]
    [InlineData("Put the spare card in slot 1, the monitor on it.", "fit card card.1", "display-at card.1/DP 1")]
    [InlineData("Take out the stick in B2, then put the stick back in B2.", "remove two", "fit two memory.B2")]
    [InlineData("Strip it: 3 things out or off.", "remove one", "remove two", "start-with header-pins")]
    [InlineData("Take out the stick in B2, clear CMOS and 1 more.", "remove two", "clear-cmos", "reseat cooler")]
    [InlineData(
        "Swap the supply for the spare, then put the customer's supply back.",
        "swap supply spare-supply",
        "swap spare-supply supply"
    )]
    [InlineData("Swap the stick in A2 for a spare stick, then put A2's own stick back.", "swap one spare-1", "swap spare-1 one")]
    [InlineData("Flash the firmware of the board.", "flash board")]
    [InlineData("Straighten the socket pins of the board.", "straighten board")]
    public void A_step_is_one_imperative_by_places(string said, params string[] changes) => Assert.Equal(said, Say(changes));

    [Fact]
    public void What_is_out_is_named_by_where_it_was_and_two_of_a_name_by_what_tells_them_apart()
    {
        var out2 = Office().After(new Change.Remove(new UnitId("two")));
        Assert.Equal("the stick from B2", out2.The(out2.Parts[new UnitId("two")]));
        Assert.Equal("the stick in A2", out2.The(out2.Parts[new UnitId("one")]));
        Assert.Equal("Orrin 8 GB, serial OR-2", out2.Parts.NameOf(out2.Parts[new UnitId("two")]));
        Assert.Equal("Quillon 8 GB, spare-1", out2.Parts.NameOf(out2.Parts[new UnitId("spare-1")]));
        Assert.Equal("Velm 450 W", out2.Parts.NameOf(out2.Parts[new UnitId("supply")]));
        var all = out2.Parts.All.Select(out2.The).ToArray();
        Assert.Equal(all.Length, all.Distinct().Count());
        Assert.Contains("serial OR-1", new Change.Remove(new UnitId("one")).Words(out2.Parts));
    }

    [Fact]
    public void No_advice_of_any_phase_has_figures_in_what_is_read_from_afar()
    {
        var bench = Bench.Office(card: true);
        foreach (var seen in new[] { "4-5", "4", "2", "6-8", "6-8", "6-8" })
        {
            var diagnosis = bench.Diagnosis;
            var plain = PlainAdvice.Of(Planner.Advise(diagnosis), diagnosis);
            Assert.InRange(plain.Imperative.Length, 5, 80);
            Assert.DoesNotMatch(@"\d\s?%|bits", $"{plain.Imperative} {plain.Reason}");
            Assert.EndsWith(".", plain.Imperative, StringComparison.Ordinal);
            bench = bench.Trial(seen);
        }
    }

    [Fact]
    public void A_start_after_memory_settings_or_a_flash_was_changed_is_waited_for_longer()
    {
        var job = Bench.Office().Trial("4-5").Job;
        Assert.Equal((60, ""), (StartCourse.Of(job, []).Wait, StartCourse.Of(job, []).Why));
        Assert.Equal(180, StartCourse.Of(job, [new Change.ClearCmos()]).Wait);
        Assert.Equal(300, StartCourse.Of(job, [new Change.Mend(Remedy.Flash, job.Now.Board!.Id)]).Wait);
        Assert.Contains("up to three times", StartCourse.Of(job, [new Change.Mend(Remedy.Flash, job.Now.Board!.Id)]).Why);
        // What was changed before an earlier start that has shown no picture since still counts; a picture ends it.
        var cleared = Bench.Office().Trial("4", Bench.Clear);
        Assert.Equal(180, StartCourse.Of(cleared.Job, []).Wait);
        Assert.Equal(60, StartCourse.Of(cleared.Trial("6-8").Job, []).Wait);
        Assert.All(
            StartCourse.Of(job, []).Marks.Zip(StartCourse.Of(job, []).Marks.Skip(1)),
            p => Assert.True(p.First.Seconds < p.Second.Seconds)
        );
    }
}
