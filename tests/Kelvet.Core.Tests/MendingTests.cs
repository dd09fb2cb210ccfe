using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>A wrong or forgotten act is mended, append-only underneath, and what later lines become is known before.</summary>
[Trait("suite", "rules")]
public class MendingTests
{
    private static TrialEntry Start(string seen, params Change[] changes)
    {
        Assert.True(ObservedFormat.TryRead(seen, out var range));
        return new TrialEntry(Guid.NewGuid(), [.. changes], range);
    }

    private static BenchJob Log(params Entry[] lines) => Office().Job.With(lines);

    [Fact]
    public void An_act_is_changed_and_later_lines_are_read_with_it()
    {
        var job = Log(Start("4-5"), Start("4-5", Remove("stick-1")), Start("6-8"));
        var mended = job.Append(
            new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "it was the other stick", Start("4-5", Remove("stick-2")))
        );
        Assert.Equal(4, mended.Lines.Length);
        Assert.Equal(job.Entries, mended.Entries.Take(3));
        Assert.True(mended.Now.Now.Has(new("stick-1")));
        Assert.False(mended.Trials[2].Situation.Now.Has(new("stick-2")));
        Assert.Equal([1, 2, 3], mended.Trials.Select(t => t.Number));
    }

    [Fact]
    public void A_forgotten_line_counts_where_it_belongs_and_keeps_the_number_of_its_writing()
    {
        var job = Log(Start("4-5"), Start("6-8"));
        var forgotten = Start("4-5", Remove("stick-2"));
        var mended = job.Append(new InsertEntry(forgotten.Id, job.Entries[1].Id, forgotten, "not written down at once"));
        Assert.Equal([1, 3, 2], mended.Trials.Select(t => t.Number));
        Assert.Equal([1, 2, 3], mended.Trials.Select(t => t.Position));
        Assert.Equal([1, 2, 3], mended.Trials.Select(t => t.Ordinal));
        Assert.Equal([1, 3, 2], mended.InOrder.Select(l => l.Number));
        Assert.False(mended.Trials[2].Situation.Now.Has(new("stick-2")));
        Assert.Equal(Kelvet.Core.Jobs.JobFormat.Write(mended), JobFormat.Write(JobFormat.Read(JobFormat.Write(mended))));

        // Two before the same line stand in the order of writing; one may stand before a line that was put in itself.
        var (second, third) = (new NoteEntry(Guid.NewGuid()) { Note = "second" }, new NoteEntry(Guid.NewGuid()) { Note = "third" });
        var more = mended
            .Append(new InsertEntry(second.Id, job.Entries[1].Id, second, "late"))
            .Append(new InsertEntry(third.Id, forgotten.Id, third, "later"));
        Assert.Equal([1, 5, 3, 4, 2], more.InOrder.Select(l => l.Number));
        Assert.Equal("third", Assert.IsType<NoteEntry>(more.InOrder.ElementAt(1).Stands).Note);
    }

    [Fact]
    public void What_was_corrected_can_be_corrected_again_and_then_struck()
    {
        var job = Log(Start("4-5"), Start("4-5", Remove("stick-1")), Start("6-8"));
        var line = job.Entries[1].Id;
        var once = job.Append(new StrikeEntry(Guid.NewGuid(), line, "the other stick", Start("4-5", Remove("stick-2"))));
        var twice = once.Append(new StrikeEntry(Guid.NewGuid(), line, "and it was 2", Start("2", Remove("stick-2"))));
        Assert.Equal(BootStage.CutsOut, twice.Trials[1].Seen.Low);
        Assert.Equal(2, twice.Trials[1].Number);
        Assert.False(twice.Now.Now.Has(new("stick-2")));
        Assert.True(twice.Lines[1].CanBeMended);
        Assert.Equal(JobFormat.Write(twice), JobFormat.Write(JobFormat.Read(JobFormat.Write(twice))));
        Assert.True(twice.MachineBefore(twice.Lines[2]).Now.Has(new("stick-1")));

        var struck = twice.Append(new StrikeEntry(Guid.NewGuid(), line, "never done"));
        Assert.Equal(2, struck.Trials.Length);
        Assert.False(struck.Lines[1].CanBeMended);
        Assert.Throws<EntryRefusedException>(() => struck.Append(new StrikeEntry(Guid.NewGuid(), line, "again", Start("4"))));
    }

    [Fact]
    public void A_line_that_was_put_in_can_be_struck_again_and_corrected()
    {
        var job = Log(Start("4-5"), Start("6-8"));
        var forgotten = Start("4-5", Remove("stick-2"));
        var mended = job.Append(new InsertEntry(forgotten.Id, job.Entries[1].Id, forgotten, "late"));
        var corrected = mended.Append(new StrikeEntry(Guid.NewGuid(), forgotten.Id, "it was 2", Start("2", Remove("stick-2"))));
        Assert.Equal(BootStage.CutsOut, corrected.Trials[1].Seen.Low);
        var struck = mended.Append(new StrikeEntry(Guid.NewGuid(), forgotten.Id, "never done"));
        Assert.Equal(2, struck.Trials.Length);
        Assert.True(struck.Now.Now.Has(new("stick-2")));
    }

    [Fact]
    public void From_a_line_on_everything_is_struck_at_once()
    {
        var job = Log(Start("4-5"), Start("4-5", Remove("stick-2")), Start("6-8", Fit("stick-2", "memory.B1")), Start("6-8"), Start("6-8"));
        var mended = job.Append(
            new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "the wrong machine")
            {
                Also = [job.Entries[2].Id, job.Entries[3].Id, job.Entries[4].Id],
            }
        );
        Assert.Single(mended.Trials);
        Assert.Equal(6, mended.Entries.Length);
        Assert.All(mended.Lines.Skip(1).Take(4), l => Assert.Null(l.Stands));
        Assert.True(mended.Now.Now.Has(new("stick-2")));
        Assert.Equal(mended.Trials.Length, JobFormat.Read(JobFormat.Write(mended)).Trials.Length);
    }

    [Fact]
    public void What_later_lines_become_is_shown_without_mending_anything()
    {
        var job = Log(
            Start("4-5"),
            Start("4-5", Remove("stick-2")),
            new NoteEntry(Guid.NewGuid()) { Note = "words" },
            Start("6-8"),
            Start("6-8", Fit("stick-2", "memory.B1"))
        );
        var preview = job.Preview(new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "never done"));
        Assert.Equal(
            [(2, FateOfLine.Struck), (4, FateOfLine.OtherMachine), (5, FateOfLine.Impossible)],
            preview.Lines.Select(l => (l.Line.Number, l.Fate))
        );
        Assert.Contains("is in memory slot B2 already", preview.Lines[2].Why);
        Assert.Equal([5], preview.Impossible.Select(l => l.Number));
        Assert.Equal(5, job.Lines.Length);

        // With what would be impossible struck along, it goes through.
        Assert.Throws<EntryRefusedException>(() => job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "never done")));
        var mended = job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "never done") { Also = [job.Entries[4].Id] });
        Assert.Equal(2, mended.Trials.Length);
        Assert.Empty(
            job.Preview(
                new InsertEntry(
                    Guid.Parse("11111111-1111-1111-1111-111111111111"),
                    job.Entries[0].Id,
                    new NoteEntry(Guid.Parse("11111111-1111-1111-1111-111111111111")) { Note = "x" },
                    "late"
                )
            ).Lines
        );
        Assert.Equal(
            FateOfLine.Corrected,
            job.Preview(new StrikeEntry(Guid.NewGuid(), job.Entries[0].Id, "it was 2", Start("2"))).Lines[0].Fate
        );
    }

    [Theory]
    [InlineData("strike a correction")]
    [InlineData("strike twice")]
    [InlineData("strike along twice")]
    [InlineData("strike along the same twice")]
    [InlineData("no reason")]
    [InlineData("other sort")]
    [InlineData("before nothing")]
    [InlineData("before a correction")]
    [InlineData("correction put in")]
    public void A_mending_that_makes_no_sense_is_refused(string what)
    {
        var job = Log(Start("4-5"), Start("6-8"), Start("6-8"));
        var struck = job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[0].Id, "wrong"));
        var note = new NoteEntry(Guid.NewGuid()) { Note = "late" };
        Entry entry = what switch
        {
            "strike a correction" => new StrikeEntry(Guid.NewGuid(), struck.Entries[3].Id, "again"),
            "strike twice" => new StrikeEntry(Guid.NewGuid(), job.Entries[0].Id, "again"),
            "strike along twice" => new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "again") { Also = [job.Entries[1].Id] },
            "strike along the same twice" => new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "again")
            {
                Also = [job.Entries[2].Id, job.Entries[2].Id],
            },
            "no reason" => new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, " "),
            "other sort" => new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "it was a note", note),
            "before nothing" => new InsertEntry(note.Id, Guid.NewGuid(), note, "late"),
            "before a correction" => new InsertEntry(note.Id, struck.Entries[3].Id, note, "late"),
            _ => Correction(struck),
        };
        Assert.Throws<EntryRefusedException>(() => struck.Append(entry));

        static InsertEntry Correction(BenchJob job)
        {
            var strike = new StrikeEntry(Guid.NewGuid(), job.Entries[1].Id, "wrong");
            return new InsertEntry(strike.Id, job.Entries[1].Id, strike, "late");
        }
    }

    [Fact]
    public void The_order_of_events_decides_what_a_look_between_two_starts_was()
    {
        var look = new FindingEntry(Guid.NewGuid(), "look-plugs", new("supply"), false);
        var job = Log(Start("4-5"), Start("4-5"));
        var mended = job.Append(new InsertEntry(look.Id, job.Entries[1].Id, look, "late"));
        var testimony = Assert.Single(mended.Testimonies);
        Assert.Equal((3, 2), (testimony.Number, testimony.Position));
        Assert.Equal([0, 1, 3, 2], Diagnosis.Inference.Of(Reported(mended), Faults.Atlas.Standard).Evidence.Select(e => e.Line));

        static BenchJob Reported(BenchJob job) =>
            BenchJob.Open(job.Intake with { Reported = StageRange.At(BootStage.RunsNoPost) }).With(job.Entries);
    }
}
