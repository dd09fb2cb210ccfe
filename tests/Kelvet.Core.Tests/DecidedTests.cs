using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Rules of which each has a case here that it alone decides: the rule changed a little, the case comes out otherwise.</summary>
[Trait("suite", "rules")]
public class DecidedTests
{
    private static BenchJob Started(BenchJob job, bool passes, params Change[] changes) =>
        job.Append(
            new TrialEntry(
                Guid.NewGuid(),
                [.. changes],
                passes ? StageRange.AtLeast(BootStage.Picture) : StageRange.At(BootStage.RunsNoPost)
            )
        );

    [Fact]
    public void The_ladder_goes_to_the_foot_then_halves_and_each_rung_takes_three_starts()
    {
        var office = Office().Job;
        var job = BenchJob.Open(
            office.Intake with
            {
                Parts = Parts.Of(office.Now.Parts.All.Select(u => u is MemoryStick m ? m with { Speed = 2400, Profile = 3200 } : u)),
            }
        );
        job = Started(job, passes: false);
        var tried = new List<int>();
        // Two steps down it holds, and not one.
        while (ProfileLadder.Of(job)!.Next is { } next && tried.Count < 20)
        {
            tried.Add(next.StepsDown);
            job = Started(job, next.StepsDown >= 2, [.. next.Changes]);
        }

        Assert.Equal([4, 4, 4, 2, 2, 2, 1], tried);
        Assert.Equal(2, ProfileLadder.Of(job)!.Fastest!.StepsDown);
    }

    [Fact]
    public void What_failed_with_a_third_stick_beside_it_does_not_count_against_a_pair()
    {
        var three = Office()
            .Shelf(Stick("third", Origin.Shelf))
            .Trial("4", Fit("third", "memory.A1"))
            .Trial("6", Remove("third"), Remove("stick-2"))
            .Trial("6", Remove("stick-1"), Fit("stick-2", "memory.B2"));
        var pair = MemoryPairs
            .Of(three.Diagnosis)!
            .Cells.First(c => c.Channel.Length == 0 && (c.One.Id.Value, c.Other.Id.Value) == ("stick-1", "stick-2"));
        Assert.Equal((0, 1, false), (pair.Failed, pair.FailedBeside, pair.FailsOnlyTogether));
    }

    [Theory]
    [InlineData(Alarm.Smell, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.Burnt, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.TrippedBreaker, PowerBlock.SupplyTripped)]
    public void A_supply_that_gave_an_alarm_is_never_again_started_fitted_or_plugged_in(Alarm alarm, PowerBlock block)
    {
        var job = Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Job;
        job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = alarm } });
        Assert.Equal(block, Safety.WhyNeverAgain(job, new("supply")));
        Assert.Null(Safety.WhyNeverAgain(job, new("spare")));
        Assert.Equal(block, Safety.WhyNotPowered(job, job.Now));
        job = job.Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "spare")]));
        foreach (var back in new[] { Swap("spare", "supply"), Connect("supply") })
        {
            if (!job.Now.TryAfter(back, out _, out _))
                continue;
            Assert.Equal(block, Safety.WhyNotRecorded(job, new WorkEntry(Guid.NewGuid(), [back])));
            Assert.Equal(block, Safety.WhyNotRecorded(job, new TrialEntry(Guid.NewGuid(), [back], StageRange.At(BootStage.Stable))));
        }

        // However often another one has passed since.
        job = Started(Started(job, passes: true), passes: true);
        Assert.Equal(block, Safety.WhyNeverAgain(job, new("supply")));
    }

    [Theory]
    [InlineData(false, true)]
    [InlineData(true, false)]
    public void A_part_that_is_away_stands_in_for_nothing(bool away, bool offered)
    {
        var spare = Stick("spare", Origin.Shelf) with { IsAway = away };
        var bench = Office().Shelf(spare).Trial("4").Trial("4");
        var acts = Candidates.From(bench.Diagnosis).Where(c => c.Missing is null).SelectMany(c => c.Changes);
        Assert.Equal(offered, acts.Any(c => c is Change.Swap s && s.In == spare.Id || c is Change.Fit f && f.Unit == spare.Id));
    }

    [Fact]
    public void Only_what_is_below_two_in_a_hundred_and_passed_is_cleared()
    {
        var between = 0;
        foreach (
            var bench in new[]
            {
                Office().Trial("4").Trial("6", Remove("stick-2")),
                Office(card: true).Trial("5").Trial("5").Trial("6", Show("board/HDMI"), Remove("card")),
                Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Trial("2").Trial("6", Swap("supply", "spare")),
            }
        )
        {
            foreach (var suspect in bench.Diagnosis.Suspects)
            {
                if (suspect.Standing == Standing.Cleared)
                    Assert.True(suspect.Probability < 0.02, $"{suspect.Unit.Id} {suspect.Probability}");
                if (suspect.Standing == Standing.Open && suspect.Probability is > 0.02 and < 0.06)
                    between++;
            }
        }

        // Some lie between that limit and three times it, so that a laxer one would show.
        Assert.True(between > 0);
    }

    [Fact]
    public void Put_right_is_what_passed_last()
    {
        // The card's plug was found out and put in; since then it passes.
        var job = Started(Started(Office(card: true).Job, passes: false), passes: false);
        var look = Atlas.Standard.Check("look-card")!;
        job = job.With(OnceOver.Lines(job, Atlas.Standard, look, new("card"), PointAnswer.PutRight, "plug-out", Guid.NewGuid())!.Value);
        for (var n = 0; n < 4; n++)
            job = Started(job, passes: true);
        var right = BenchDiagnosis.Of(job, Atlas.Standard);
        Assert.True(right.Of("card").Standing == Standing.PutRight, $"{right.Of("card").Standing} {right.P("card")}");
        // A machine that then fails for another reason is not put right yet, however sure the plug was.
        job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)));
        Assert.NotEqual(Standing.PutRight, BenchDiagnosis.Of(job, Atlas.Standard).Of("card").Standing);
    }
}
