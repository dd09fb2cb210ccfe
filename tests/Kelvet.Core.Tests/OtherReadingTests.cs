using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What a line may have been instead of what was recorded.</summary>
public class OtherReadingTests
{
    private static Bench Moved() =>
        Office(card: true)
            .Shelf(Plain("s-supply", UnitKind.Supply, Origin.Shelf))
            .Trial("4-5")
            .Trial("4-5", Remove("stick-1"))
            .Trial("6-8", Move("stick-2", "memory.A1"))
            .Trial("6-8", Swap("supply", "s-supply"));

    [Fact]
    public void Every_other_reading_of_a_change_fits_and_is_the_same_act_on_the_same_part()
    {
        var job = Moved().Job;
        foreach (var line in job.Lines)
        {
            foreach (var other in OtherReading.ChangesOf(job, line))
            {
                var mending = other.Mending(job, line, Guid.NewGuid(), Guid.NewGuid(), "misread");
                var mended = job.Append(mending);
                var done = mended.Lines[line.Number - 1].Stands!.Done[other.Nth!.Value];
                Assert.Equal(other.Instead, done);
                Assert.Equal(line.Stands!.Done[other.Nth!.Value].Act, done.Act);
                Assert.Equal(line.Stands!.Done[other.Nth!.Value].Subject, done.Subject);
                Assert.NotEqual(line.Stands!.Done[other.Nth!.Value], done);
            }
        }

        var slots = OtherReading.ChangesOf(job, job.Lines[2]).Select(o => ((Change.Move)o.Instead!).Place.Part);
        Assert.Equal(["A2", "B1"], slots.Order());
        Assert.Empty(OtherReading.ChangesOf(job, job.Lines[0]));
    }

    [Fact]
    public void What_is_not_possible_any_more_is_struck_with_it_and_whoever_recorded_it_stays()
    {
        var job = Moved().Job;
        // The stick in B2 was never moved, another was taken out: then it cannot have been moved from there.
        var other = new OtherReading(0, new Change.Remove(new UnitId("stick-2")), null);
        var mending = other.Mending(job, job.Lines[1], Guid.NewGuid(), Guid.NewGuid(), "the other one");
        Assert.Equal(job.Lines[2].Written.Id, Assert.Single(mending.Also));
        var mended = job.Append(mending);
        Assert.Equal(3, mended.Trials.Length);
        Assert.Equal(job.Lines[1].Written.At, mending.Replacement!.At);
    }

    [Fact]
    public void Another_stage_moves_the_suspects_and_a_line_without_such_a_change_is_refused()
    {
        var job = Moved().Job;
        Assert.True(ObservedFormat.TryRead("4-5", out var dark));
        var mended = job.Append(
            new OtherReading(null, null, dark).Mending(job, job.Lines[2], Guid.NewGuid(), Guid.NewGuid(), "seen wrongly")
        );
        Assert.Equal(dark, mended.Trials[2].Seen);
        Assert.NotEqual(
            BenchDiagnosis.Of(job, Atlas.Standard).Suspects[0].Probability,
            BenchDiagnosis.Of(mended, Atlas.Standard).Suspects[0].Probability
        );
        Assert.Throws<EntryRefusedException>(object? () =>
            new OtherReading(1, new Change.ClearCmos(), null).Mending(job, job.Lines[2], Guid.NewGuid(), Guid.NewGuid(), "")
        );
        var noted = job.Append(new NoteEntry(Guid.NewGuid()) { Note = "rain" });
        Assert.Throws<EntryRefusedException>(object? () =>
            new OtherReading(null, null, dark).Mending(noted, noted.Lines[^1], Guid.NewGuid(), Guid.NewGuid(), "")
        );
    }
}
