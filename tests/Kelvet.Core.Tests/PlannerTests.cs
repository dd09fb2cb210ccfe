using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

public class PlannerTests
{
    private static Assessment Foresee(Bench bench, params Change[] changes) => Planner.Foresee(bench.Diagnosis, changes);

    [Fact]
    public void First_the_complaint_is_reproduced()
    {
        var advice = Planner.Advise(Office().Diagnosis);
        Assert.Equal(Phase.Reproduce, advice.Phase);
        Assert.Null(advice.Next);
    }

    [Fact]
    public void A_step_that_cannot_give_a_picture_is_named_pointless_with_the_reason()
    {
        var bench = Office(cpuGraphics: false, card: true).Trial("4-5").Trial("4-5", Clear);
        var advice = Planner.Advise(bench.Diagnosis);
        var outputs = advice
            .Pointless.Where(a => a.Candidate.Changes.FirstOrDefault() is Change.DisplayAt { Output.Source.Kind: PlaceKind.Board })
            .ToArray();
        Assert.Equal(3, outputs.Length);
        Assert.All(outputs, a => Assert.Contains("no graphics", a.WhyNotWords()));
        Assert.DoesNotContain(advice.Alternatives.Prepend(advice.Next!), a => a.Ceiling.Stage < BootStage.Picture && a.Gain < 0.01);
    }

    [Fact]
    public void Outcomes_are_probabilities_and_the_gain_is_never_negative()
    {
        var bench = Office(card: true, tellsPost: true).Shelf(Card("spare-card", Origin.Shelf, needsAux: false)).Trial("4");
        var advice = Planner.Advise(bench.Diagnosis);
        Assert.All(
            advice.Alternatives.Prepend(advice.Next!).Concat(advice.Pointless),
            a =>
            {
                Assert.InRange(a.Outcomes.Sum(o => o.Probability), 0.9, 1 + 1e-9);
                Assert.True(a.Gain >= 0 && a.Candidate.Minutes.Value > 0);
            }
        );
        Assert.Contains(advice.Next!.Outcomes, o => o.Meaning.Length > 0);
    }

    [Fact]
    public void Where_nothing_tells_POST_four_and_five_are_one_outcome()
    {
        var untold = Foresee(Office().Trial("4-5"), Reseat("stick-1"));
        Assert.Contains(untold.Outcomes, o => o.Seen == new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture));
        var told = Foresee(Office(tellsPost: true).Trial("4-5"), Reseat("stick-1"));
        Assert.Contains(told.Outcomes, o => o.Seen == StageRange.At(BootStage.RunsNoPost));
    }

    [Fact]
    public void The_proof_is_completed_by_putting_the_suspect_back()
    {
        var advice = Planner.Advise(StoryTests.CutsOutOnItsSupply().Diagnosis);
        Assert.Equal(Phase.Prove, advice.Phase);
        Assert.Equal(Swap("spare-supply", "supply"), Assert.Single(advice.Next!.Candidate.Changes));
        Assert.Equal("supply", advice.Next.Proves!.Id.Value);
        var done = Planner.Advise(StoryTests.CutsOutOnItsSupply().Trial("2", Swap("spare-supply", "supply")).Diagnosis);
        Assert.Equal(Phase.Repair, done.Phase);
        Assert.Contains("the supply", done.Words());
    }

    [Fact]
    public void A_slot_and_a_CPU_channel_that_look_alike_are_separated_by_another_CPU()
    {
        var advice = Planner.Advise(StoryTests.BlackInOneSlot().Diagnosis);
        Assert.Contains(advice.WithAPart, a => a.Candidate.Changes.Any(c => c is Change.Swap { Out.Value: "cpu" }) && a.Gain > 0.1);
        var separation = Assert.Single(advice.Separations);
        Assert.Contains(separation.Step.Candidate.Changes, c => c is Change.Swap { Out.Value: "cpu" });

        var bench = Office(card: true)
            .Shelf(
                Card("spare-card", Origin.Shelf, needsAux: false),
                Stick("spare-stick", Origin.Shelf),
                new Cpu(new UnitId("spare-cpu"), "Tarn C3", Origin.Shelf, true) { Socket = "T1" }
            )
            .Trial("4-5", Remove("stick-2"), Clear)
            .Trial("6", Move("stick-1", "memory.B2"))
            .Trial("6", Swap("stick-1", "spare-stick"))
            .Trial("4-5", Move("spare-stick", "memory.A2"));
        var swap = Foresee(bench, Swap("cpu", "spare-cpu"));
        Assert.Contains(
            Planner.Advise(bench.Diagnosis).Alternatives.Prepend(Planner.Advise(bench.Diagnosis).Next),
            a => a?.Candidate.Changes.Contains(Swap("cpu", "spare-cpu")) == true
        );
        Assert.Equal(WhyNot.WorthIt, swap.WhyNot);
        var picture = swap.Outcomes.Single(o => o.Seen!.Value.ShowsPicture);
        Assert.Equal("cpu", picture.Meaning[0].Unit.Id.Value);
    }

    [Fact]
    public void After_two_faults_the_next_step_tests_one_of_the_two()
    {
        var advice = Planner.Advise(StoryTests.TwoFaults().Diagnosis);
        var named = advice.WithAPart.Take(1).Concat(advice.Next is { } n ? [n] : []);
        Assert.Contains(named, a => a.Candidate.Changes.Any(c => c is Change.Swap { Out.Value: "cpu" or "new-board" }));
    }

    [Fact]
    public void The_advisor_follows_a_fault_to_the_part()
    {
        // A dead stick in A2 answers every step as such a machine would, mid-range outcomes and all.
        var bench = Office(tellsPost: true)
            .Shelf(Stick("spare-stick", Origin.Shelf), Plain("spare-supply", UnitKind.Supply, Origin.Shelf))
            .Trial("4");
        for (var step = 0; step < 12 && bench.Diagnosis.Suspects[0].Standing != Standing.Condemned; step++)
        {
            var next = Planner.Advise(bench.Diagnosis).Next;
            if (next is null)
                break;
            if (next.Candidate.Check is { } check)
                bench.Finding(check.Id, next.Candidate.Checked!.Id.Value, found: false);
            else
                bench.Trial(next.Candidate.After.Now.Has(new UnitId("stick-1")) ? "4" : "6", [.. next.Candidate.Changes]);
        }

        var d = bench.Diagnosis;
        Assert.Equal("stick-1", d.Suspects[0].Unit.Id.Value);
        Assert.Equal(Standing.Condemned, d.Suspects[0].Standing);
    }

    [Fact]
    public void Costs_count_the_power_down_only_when_hands_go_in()
    {
        var job = Office().Job;
        var work = Atlas.Standard.Work;
        Assert.Equal(work.Wait + work.Display, Candidates.Cost([Show("board/VGA")], job.Now, work));
        Assert.Equal(work.Wait + work.Power + work.ClearCmos, Candidates.Cost([Clear], job.Now, work));
        Assert.False(Show("board/VGA").HandsIn(Parts.None));
    }
}
