using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Learning;
using Kelvet.Core.Proving;
using MathNet.Numerics.Distributions;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

public class ExperienceTests
{
    private static readonly Atlas Shipped = Atlas.Standard;

    private static ProvedJob Job(params string[] modes) => new(Office().Job.Now.Parts, [], [.. modes]);

    private static ImmutableArray<LearntOdds> Learn(params IEnumerable<ProvedJob>[] jobs) =>
        Experience.Of(Shipped, jobs.SelectMany(j => j));

    private static Dictionary<string, double> OddsOf(ImmutableArray<LearntOdds> learnt) => learnt.ToDictionary(l => l.Mode.Id, l => l.Odds);

    private static double Factor(ImmutableArray<LearntOdds> learnt, string mode) => learnt.Single(l => l.Mode.Id == mode).Factor;

    [Fact]
    public void Without_jobs_nothing_is_learnt()
    {
        Assert.All(Learn(), l => Assert.Equal(1, l.Factor, 1e-12));
        var same = Experience.ApplyTo(Shipped, OddsOf(Learn()));
        var job = StoryTests.CutsOutOnItsSupply().Job;
        Assert.Equal(
            BenchDiagnosis.Of(job, Shipped)[new("supply")].Probability,
            BenchDiagnosis.Of(job, same)[new("supply")].Probability,
            1e-12
        );
    }

    [Fact]
    public void One_strange_job_moves_no_odds_by_more_than_a_quarter()
    {
        foreach (var mode in Shipped.Modes)
        {
            var learnt = Learn([Job(mode.Id)]);
            Assert.All(learnt, l => Assert.InRange(l.Factor, 0.75, 1.25 + 1e-9));
            Assert.True(Factor(learnt, mode.Id) > 1);
        }
    }

    [Fact]
    public void What_a_shop_sees_again_and_again_wins_over_the_atlas()
    {
        var learnt = Learn(Enumerable.Repeat(Job("battery-flat"), 60), Enumerable.Repeat(Job("stick-dead"), 240));
        Assert.InRange(Factor(learnt, "battery-flat"), 5, 20);
        Assert.True(Factor(learnt, "supply-weak") < 0.5);
        var job = Office().Trial("4-5").Job;
        Assert.True(
            BenchDiagnosis.Of(job, Experience.ApplyTo(Shipped, OddsOf(learnt))).PFault("board/battery-flat")
                > BenchDiagnosis.Of(job, Shipped).PFault("board/battery-flat")
        );
    }

    [Fact]
    public void Learnt_odds_are_the_mean_of_a_beta_distribution()
    {
        // Checked against MathNet.Numerics' Beta.
        var learnt = Learn(Enumerable.Repeat(Job("supply-weak"), 3), Enumerable.Repeat(Job(), 20)).Single(l => l.Mode.Id == "supply-weak");
        var (a, b) = Experience.Worth(learnt.Mode.Odds);
        Assert.Equal(learnt.Mode.Odds / (1 + learnt.Mode.Odds), new Beta(a, b).Mean, 1e-12);
        Assert.Equal(23, learnt.Tally.Exposure, 1e-9);
        Assert.Equal(learnt.Odds / (1 + learnt.Odds), new Beta(a + 3, b + 20).Mean, 1e-12);
    }

    [Fact]
    public void A_case_in_a_context_that_explains_it_teaches_less()
    {
        var parts = Office().Job.Now.Parts;
        var storm = Experience
            .Of(Shipped, [new ProvedJob(parts, ["power-event"], ["supply-dead"])])
            .Single(l => l.Mode.Id == "supply-dead");
        var calm = Experience.Of(Shipped, [new ProvedJob(parts, [], ["supply-dead"])]).Single(l => l.Mode.Id == "supply-dead");
        Assert.True(storm.Tally.Exposure > calm.Tally.Exposure && storm.Odds < calm.Odds);
    }
}
