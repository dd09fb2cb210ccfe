using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Tests;

/// <summary>Steps that are set side by side.</summary>
public class ApartTests
{
    private static Advice Told(params string[] seen)
    {
        var bench = Bench.Office(card: true).Shelf(Bench.Plain("s-supply", UnitKind.Supply, Origin.Shelf));
        foreach (var stage in seen)
            bench.Trial(stage);
        return Planner.Advise(BenchDiagnosis.Of(bench.Job, Atlas.Standard));
    }

    [Fact]
    public void The_proposed_step_is_first_and_no_two_do_the_same_to_the_same_sort_of_part()
    {
        var advice = Told("4-5");
        var apart = Apart.Of(advice);
        Assert.InRange(apart.Length, 3, Apart.Most);
        Assert.Same(advice.Next, apart[0]);
        var sorts = apart.Select(a =>
            (a.Candidate.Check is null, a.Candidate.Changes.FirstOrDefault()?.Act, a.Candidate.Checked?.Kind, Touched(a, advice))
        );
        Assert.Equal(apart.Length, sorts.Distinct().Count());
        // There was more than one to choose from of some sort, and the best of it was taken.
        Assert.True(advice.Alternatives.Length > apart.Length);
        Assert.Equal(apart.Skip(1).OrderBy(a => advice.Alternatives.IndexOf(a)), apart.Skip(1));
    }

    private static UnitKind? Touched(Assessment step, Advice advice) =>
        step.Candidate.Changes.FirstOrDefault()?.Subject is { } id ? advice.Parts.Find(id)?.Kind : null;

    [Fact]
    public void Without_a_step_to_propose_the_others_stand_by_themselves()
    {
        var advice = Told("4-5");
        var without = advice with { Next = null };
        Assert.All(Apart.Of(without), a => Assert.Contains(a, advice.Alternatives));
    }

    [Fact]
    public void How_much_a_step_tells_against_another_is_said_in_words()
    {
        var first = Told("4-5").Next!;
        string Against(double share) => (first with { Gain = first.Gain * share }).TellsAgainst(first);
        Assert.Equal(
            ["more", "as much", "two thirds as much", "half as much", "a third as much", "little"],
            new[] { 1.3, 1, 0.66, 0.5, 0.3, 0.1 }.Select(Against)
        );
    }
}
