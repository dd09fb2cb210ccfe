using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What is known of a machine, what is only guessed, and what settles it.</summary>
public class KnowledgeTests
{
    /// <summary>An office machine of which nobody has told memory, outputs, or the CPU's graphics.</summary>
    private static BenchJob Guessed(params Entry[] lines)
    {
        var intake = Bench.Office().Job.AsTakenIn;
        var units = intake.Parts.All.Select(u =>
            u switch
            {
                MemoryStick stick => stick with { Guessed = [PartFact.Presence], SizeGb = 0 },
                Motherboard board => board with { Guessed = [PartFact.Outputs, PartFact.Slots, PartFact.CardSlots] },
                Cpu cpu => cpu with { Guessed = [PartFact.Graphics] },
                _ => u,
            }
        );
        return BenchJob.Open(intake with { Parts = Parts.Of(units) }).With(lines);
    }

    private static TrialEntry Start(string seen, params Change[] changes) =>
        new(Guid.NewGuid(), [.. changes], ObservedFormat.TryRead(seen, out var range) ? range : throw new ArgumentException(seen));

    private static string[] Open(BenchJob job) => [.. Knowledge.Of(job).Open.Select(g => $"{g.Unit} {g.Fact}")];

    [Fact]
    public void A_part_that_was_handled_is_there_and_a_slot_that_was_used_is_on_the_board()
    {
        var bare = Guessed();
        Assert.Equal(
            ["board Slots", "board CardSlots", "board Outputs", "cpu Graphics", "stick-1 Presence", "stick-2 Presence"],
            Open(bare)
        );
        Assert.Equal(
            [Knowing.NotKnown, Knowing.Assumed, Knowing.Known],
            new[] { "stick-1", "board", "supply" }.Select(u => Knowledge.Of(bare).KnowingOf(new UnitId(u)))
        );
        var pulled = bare.Append(Start("4", Remove("stick-1")));
        Assert.DoesNotContain("stick-1 Presence", Open(pulled));
        Assert.Contains("stick-2 Presence", Open(pulled));
        Assert.Contains("board Slots", Open(pulled));
        var moved = pulled.Append(Start("4", Move("stick-2", "memory.A1")));
        Assert.DoesNotContain(Open(moved), o => o is "stick-2 Presence" or "board Slots");
        Assert.Equal([1, 2, 2], Knowledge.Of(moved).Learnt.Select(l => l.Line).Order());
        // What the owner says was tried settles nothing: nobody here has looked.
        ObservedFormat.TryRead("4", out var seen);
        Assert.Equal(Open(bare), Open(bare.Append(new ClaimEntry(Guid.NewGuid(), [Remove("stick-1")], seen))));
        // A line that is struck out has settled nothing.
        Assert.Equal(Open(bare), Open(pulled.Append(new StrikeEntry(Guid.NewGuid(), pulled.Entries[^1].Id, "not done"))));
    }

    [Fact]
    public void A_picture_without_a_card_settles_the_graphics_that_made_it_and_a_moved_monitor_the_outputs()
    {
        Assert.Equal(Open(Guessed()), Open(Guessed(Start("4-5"))));
        Assert.DoesNotContain("cpu Graphics", Open(Guessed(Start("6"))));
        Assert.Contains("board Outputs", Open(Guessed(Start("6"))));
        Assert.DoesNotContain("board Outputs", Open(Guessed(Start("6"), Start("6", Show("board/VGA")))));
    }

    [Fact]
    public void A_step_says_what_it_rests_on_and_one_that_rests_on_nothing_says_nothing()
    {
        var known = Knowledge.Of(Guessed());
        Assert.Empty(known.Under([Reseat("supply"), Clear]));
        Assert.Equal([PartFact.Presence], known.Under([Remove("stick-2")]).Select(g => g.Fact));
        Assert.Equal([PartFact.Outputs, PartFact.Graphics], known.Under([Show("board/VGA")]).Select(g => g.Fact).Order());
        Assert.Equal([PartFact.Presence, PartFact.Slots], known.Under([Move("stick-2", "memory.A1")]).Select(g => g.Fact).Order());
        // Where a stick was taken out of there is a slot, whatever else is not known of the board.
        var pulled = Guessed(Start("4", Remove("stick-1")));
        var seat = $"{pulled.Intake.Received.PlaceOf(new UnitId("stick-1"))}";
        Assert.Empty(Knowledge.Of(pulled).Under([Fit("stick-1", seat)]));
        Assert.Equal([PartFact.Slots], Knowledge.Of(pulled).Under([Fit("stick-1", "memory.A1")]).Select(g => g.Fact));
        var words = known.Under([Remove("stick-2")]).Words(Guessed().Now);
        Assert.Matches("^Nobody has said whether the stick in .+ is there\\. Look whether it is there, and where\\.$", words);
    }

    [Fact]
    public void A_hand_over_sheet_says_what_the_machine_told_and_nothing_that_was_guessed()
    {
        static string Memory(BenchJob job) =>
            HandOverSheet.Of(BenchDiagnosis.Of(job, Faults.Atlas.Standard)).Single(i => i.Kind == HandOverKind.Memory).Words();
        var bare = Guessed(Start("6"));
        Assert.Equal("Memory: it sees as much as is in it", Memory(bare));
        var told = Guessed(Start("6") with { Signs = Signs.None with { MemorySeen = 16 } });
        Assert.Equal("Memory: it sees 16 GB", Memory(told));
        // Told before a stick was moved, it is told of another arrangement.
        Assert.DoesNotContain("16", Memory(told.Append(Start("6", Move("stick-2", "memory.A1")))), StringComparison.Ordinal);
        var outputs = HandOverSheet.Of(BenchDiagnosis.Of(Guessed(), Faults.Atlas.Standard)).Where(i => i.Kind == HandOverKind.Output);
        Assert.Equal(["Picture at each output of the motherboard"], outputs.Select(o => o.Words()));
    }

    [Fact]
    public void Guesses_are_kept_with_a_part_and_only_of_what_it_has()
    {
        Assert.Throws<ArgumentException>(() => Stick("s") with { Guessed = [PartFact.Graphics] });
        Assert.Throws<ArgumentException>(() => Plain("p", UnitKind.Supply) with { Guessed = [PartFact.Slots] });
        var board = Board("b") with { Guessed = [PartFact.Outputs, PartFact.Name, PartFact.Name], KnownFrom = FactSource.Listed };
        Assert.Equal([PartFact.Name, PartFact.Outputs], board.Guessed.AsEnumerable());
        var back = JobFormat.ReadUnit(JobFormat.Write(board));
        Assert.Equal((FactSource.Listed, 2), (back.KnownFrom, back.Guessed.Length));
        Assert.Equal(board.Guessed.AsEnumerable(), back.Guessed);
        // A file of before has no guesses in it: all that it says was told.
        Assert.Empty(JobFormat.ReadUnit(JobFormat.Write(Board("b"))).Guessed);
        Assert.DoesNotContain("guessed", JobFormat.Write(Board("b")), StringComparison.Ordinal);
    }

    [Fact]
    public void Every_fact_has_its_row_and_a_question()
    {
        Assert.Equal(Enum.GetValues<PartFact>(), PartFactRow.All.Select(r => r.Fact));
        Assert.All(PartFactRow.All, r => Assert.DoesNotContain('#', r.Words("it")));
        Assert.All(PartFactRow.All, r => Assert.Contains(" it", r.Words("it"), StringComparison.Ordinal));
    }
}
