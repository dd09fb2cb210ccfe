using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Training;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Which spare would have saved most, by jobs that are closed.</summary>
public class SpareWorthTests
{
    private static SolvedJob Dead(UnitKind kind, string mode)
    {
        var job = BenchJob.Open(Office().Job.Intake);
        return new SolvedJob(job, [(job.Intake.Parts.All.First(u => u.Kind == kind && u.Origin == Origin.Customer).Id, mode)]);
    }

    [Fact]
    public void A_spare_of_what_failed_saves_most_and_the_same_job_gives_the_same_figure()
    {
        var solved = Dead(UnitKind.Supply, "supply-no-main-rails");
        var saved = SpareWorth.Of(solved, [], Atlas.Standard, School.Advisor, Preferences.Usual, 7);
        Assert.Equal(UnitKind.Supply, saved.MaxBy(s => s.Value).Key);
        Assert.True(saved[UnitKind.Supply] > 1, $"{saved[UnitKind.Supply]:0.0} min");
        var again = SpareWorth.Of(solved, [], Atlas.Standard, School.Advisor, Preferences.Usual, 7);
        Assert.Equal(saved.OrderBy(s => s.Key), again.OrderBy(s => s.Key));
        // One that lies there already is judged by what it saved: it is the same.
        var spare = Unit.Plain(new UnitId("sh"), UnitKind.Supply, "Brask 550 W", Origin.Shelf);
        var played = SpareWorth.Of(solved, [spare], Atlas.Standard, School.Advisor, Preferences.Usual, 7);
        var there = SpareWorth.Together([played], [spare]);
        Assert.True(there.Single(s => s.Kind == UnitKind.Supply) is { IsThere: true, Jobs: 1, Helped: 1, Minutes: > 1 });
        Assert.Equal(there.Select(s => s.Minutes).OrderDescending(), there.Select(s => s.Minutes));
    }

    [Fact]
    public void What_the_machine_cannot_have_is_not_played()
    {
        Assert.Empty(SpareWorth.Of(Dead(UnitKind.Supply, "stick-dead"), [], Atlas.Standard, School.Advisor, Preferences.Usual, 7));
        Assert.Empty(SpareWorth.Together([], []));
    }

    [Fact]
    public void It_is_given_up_between_two_machines()
    {
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        var solved = Dead(UnitKind.Supply, "supply-no-main-rails");
        Assert.Throws<OperationCanceledException>(() =>
            SpareWorth.Of(solved, [], Atlas.Standard, School.Advisor, Preferences.Usual, 7, stop.Token)
        );
    }
}
