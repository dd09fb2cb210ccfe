using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

[Trait("suite", "rules")]
public class JobTests
{
    [Fact]
    public void A_struck_trial_no_longer_counts_and_stays_readable()
    {
        var job = Office().Trial("4-5").Trial("6", Remove("stick-2")).Job;
        var wrong = job.Entries[1];
        var corrected = job.Append(
            new StrikeEntry(
                Guid.NewGuid(),
                wrong.Id,
                "looked at the other monitor",
                new TrialEntry(Guid.NewGuid(), ((TrialEntry)wrong).Changes, new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture))
            )
        );
        Assert.Equal(3, corrected.Lines.Length);
        Assert.Equal("looked at the other monitor", corrected.Lines[1].StruckBy!.Reason);
        Assert.Same(wrong, corrected.Lines[1].Written);
        Assert.All(corrected.Trials, t => Assert.False(t.Seen.ShowsPicture));
        Assert.False(corrected.Now.Now.Has(new UnitId("stick-2")));
    }

    [Fact]
    public void A_strike_that_makes_a_later_line_impossible_is_refused_and_names_the_line()
    {
        var job = Office().Trial("4", Remove("stick-2")).Trial("4", Fit("stick-2", "memory.B1")).Job;
        var refused = Assert.Throws<EntryRefusedException>(() =>
            job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[0].Id, "never done"))
        );
        Assert.Contains("Line 2 would no longer be possible", refused.Message);
    }

    [Fact]
    public void A_line_sent_twice_is_kept_once()
    {
        var job = Office().Job;
        var entry = new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut));
        Assert.Same(job.Append(entry).Append(entry).Entries[0], entry);
        Assert.Single(job.Append(entry).Append(entry).Entries);
    }

    [Fact]
    public void Changes_without_a_start_count_for_the_next_trial()
    {
        var job = Office()
            .Job.Append(new WorkEntry(Guid.NewGuid(), [Remove("drive")]))
            .Append(new TrialEntry(Guid.NewGuid(), [Clear], StageRange.At(BootStage.RunsNoPost)));
        Assert.Equal(2, job.Trials[0].Changes.Length);
        Assert.Equal(["drive"], job.OutOfPlace().Select(o => o.Unit.Id.Value));
    }

    [Fact]
    public void A_job_written_and_read_again_is_the_same_and_reasons_the_same()
    {
        var bench = StoryTests.TwoFaults();
        bench.Trial("4", StallDomain.Cpu);
        var job = bench
            .Job.Append(
                new ArrivalEntry(Guid.NewGuid(), Stick("late", Origin.New))
                {
                    By = "Ada Fenn",
                    At = new DateTimeOffset(2026, 3, 1, 9, 30, 0, TimeSpan.Zero),
                }
            )
            .Append(new NoteEntry(Guid.NewGuid()) { Note = "Ümlaut — \"quoted\" \u2713" });
        job = job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[^1].Id, "wrong job"));
        var text = JobFormat.Write(job);
        var again = JobFormat.Read(text);
        Assert.Equal(text, JobFormat.Write(again));
        var a = BenchDiagnosis.Of(job, Atlas.Standard);
        var b = BenchDiagnosis.Of(again, Atlas.Standard);
        Assert.Equal(a.Suspects.Select(s => (s.Unit.Id, s.Probability)), b.Suspects.Select(s => (s.Unit.Id, s.Probability)));
    }

    [Theory]
    [InlineData("\"version\": 4", "\"version\": 7", "$.version: this program reads versions 1 to 4")]
    [InlineData("\"kelvet-job\"", "\"other\"", "$.format: expected \"kelvet-job\"")]
    [InlineData("\"supply\": \"supply\"", "\"supply\": \"ghost\"", "$.fitted: There is no unit ghost to be in supply")]
    [InlineData("\"memory.A2\"", "\"memory.Z9\"", "has no memory slot Z9")]
    [InlineData("\"seen\": \"2\"", "\"seen\": \"12\"", "$.steps[0].seen: \"12\" is not a stage")]
    [InlineData("\"kind\": \"supply\"", "\"kind\": \"toaster\"", "\"toaster\" is none of outlet, mains-lead")]
    [InlineData("\"clear-cmos\"", "\"hit-it\"", "$.steps[1].changes[0]: \"hit-it\" is not a change: expected fit, remove")]
    [InlineData(
        "\"clear-cmos\"",
        "\"swap supply\"",
        "$.steps[1].changes[0]: \"swap supply\" is not a change: expected \"swap UNIT-OUT UNIT-IN\""
    )]
    [InlineData("\"remove stick-2\"", "\"reseat stick-2\"", "$.steps[8]: Quillon stick-1 is in memory slot")]
    [InlineData("{", "", "line ")]
    public void A_broken_file_is_refused_and_the_place_is_named(string good, string bad, string complaint)
    {
        var text = JobFormat.Write(StoryTests.CutsOutOnItsSupply().Job);
        var at = text.IndexOf(good, StringComparison.Ordinal);
        Assert.True(at >= 0, good);
        var broken = text[..at] + bad + text[(at + good.Length)..];
        var refused = Assert.Throws<DataFileException>(() => JobFormat.Read(broken));
        Assert.Contains(complaint, refused.Message);
    }

    [Fact]
    public void A_hand_written_file_needs_no_ids_and_strikes_by_number()
    {
        const string text = """
            {
              "format": "kelvet-job", "version": 1, "title": "By hand", // a comment is fine
              "units": [
                { "id": "supply", "kind": "supply", "name": "Brask 450" },
                { "id": "board", "kind": "motherboard", "name": "Ondel", "slots": [ { "name": "1", "channel": "A" } ],
                  "outputs": [ { "name": "VGA", "signal": "analogue" } ] }
              ],
              "fitted": { "supply": "supply", "board": "board" },
              "steps": [
                { "kind": "trial", "seen": "0" },
                { "kind": "trial", "seen": "1" },
                { "kind": "strike", "struck": 1, "reason": "the lead was out" }
              ]
            }
            """;
        var job = JobFormat.Read(text);
        Assert.Single(job.Trials);
        Assert.Equal(BootStage.StandbyOnly, job.Trials[0].Seen.Low);
    }

    [Fact]
    public void Signs_of_a_start_survive_the_file_and_are_held_to_their_ranges()
    {
        var signs = new Signs
        {
            Code = "4F",
            Beeps = "1 long 3 short",
            Fans = FanBehaviour.RunThenStop,
            CardFans = FanBehaviour.Twitch,
            Waited = 90,
            Temperature = 41.5,
        };
        var entry = new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)) { Signs = signs };
        var read = Assert.IsType<TrialEntry>(JobFormat.ReadEntry(JobFormat.Write(entry)));
        Assert.Equal(signs, read.Signs);
        foreach (
            var bad in new[]
            {
                "\"waited\": -1",
                "\"waited\": 1.5",
                "\"temperature\": 900",
                "\"fans\": \"sing\"",
                "\"code\": \"123456789\"",
                "\"smell\": true",
            }
        )
        {
            var error = Assert.Throws<DataFileException>(() =>
                JobFormat.ReadEntry($$"""{"kind": "trial", "seen": "4", "signs": { {{bad}} } }""")
            );
            Assert.Contains("signs", error.Message);
        }
    }

    [Fact]
    public void Two_trials_are_compared_by_what_differed_and_whom_they_moved()
    {
        var d = StoryTests.BlackInOneSlot().Diagnosis;
        var pair = Comparison.Of(d, 5, 4)!;
        Assert.Equal((4, 5), (pair.First.Number, pair.Second.Number));
        Assert.Equal(
            ["memory slot A2: Quillon stick-1 → empty", "memory slot B2: empty → Quillon stick-1"],
            pair.Differences.Select(x => $"{x.Where}: {x.First} → {x.Second}")
        );
        Assert.NotEmpty(pair.Moved);
        Assert.Null(Comparison.Of(d, 4, 4));
        Assert.Null(Comparison.Of(d, 4, 99));
        var swap = Comparison.Of(StoryTests.CutsOutOnItsSupply().Diagnosis, 7, 8)!;
        Assert.True(swap.Tells);
        Assert.Equal("supply", Assert.Single(swap.Differences).Where);
    }
}
