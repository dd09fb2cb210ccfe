using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Xunit.Abstractions;

namespace Kelvet.Core.Tests;

/// <summary>
/// Hard bench cases, each with what an experienced technician would say at its last line. What they say is common practice
/// without a source.
/// </summary>
public class CaseTests(ITestOutputHelper output)
{
    private static BenchJob Read(string name) =>
        JobFormat.Read(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "cases", $"{name}.json")));

    private (BenchDiagnosis Diagnosis, Advice Advice) Open(string name, int? lines = null)
    {
        var job = Read(name);
        var d = BenchDiagnosis.Of(lines is { } n ? job.AfterLines(n) : job, Atlas.Standard);
        var advice = Planner.Advise(d);
        foreach (var s in d.Suspects.Take(4))
            output.WriteLine($"{s.Unit.Id} {s.Probability:P1} {s.Standing} {s.Leading.Fault.Key}");
        output.WriteLine($"{advice.Decision.Kind} {advice.Next?.Candidate.Key} nothing {d.NothingFound:P1} more {d.MoreThanOne:P1}");
        return (d, advice);
    }

    private static bool Changes(Advice advice, Func<Change, bool> which) => advice.Next?.Candidate.Changes.Any(which) == true;

    [Theory]
    [InlineData("monitor-on-board")]
    [InlineData("monitor-on-board-unlit")]
    public void A_monitor_on_the_wrong_output_is_nothing_broken_and_is_not_put_back(string name)
    {
        var (d, advice) = Open(name);
        Assert.All(d.Suspects, s => Assert.True(s.Probability < 0.1));
        Assert.True(d.NothingFound > 0.8);
        Assert.Equal(d.Job.Now.Now.Display, Planner.Repaired(d).Display);
        Assert.False(Changes(advice, c => c is Change.DisplayAt { Output.Source.Kind: PlaceKind.Board }));
    }

    [Fact]
    public void A_CPU_without_graphics_needs_a_card_and_nothing_is_accused()
    {
        var (d, advice) = Open("no-graphics");
        Assert.All(d.Suspects, s => Assert.True(s.Probability < 0.1));
        Assert.Contains(advice.WithAPart, a => a.Candidate.Missing is GraphicsCard);
        var (after, next) = Open("no-graphics-card-at-hand");
        Assert.All(after.Suspects, s => Assert.True(s.Probability < 0.05));
        Assert.False(Changes(next, c => c is Change.Remove { Unit.Value: "shelf-card" }));
    }

    [Fact]
    public void A_start_that_was_not_waited_for_accuses_nobody()
    {
        var (d, _) = Open("still-training");
        Assert.All(d.Suspects, s => Assert.True(s.Probability < 0.25));
        var (cut, _) = Open("training-cut-short");
        Assert.All(cut.Suspects, s => Assert.True(s.Standing is not (Standing.Condemned or Standing.ProofOneWay) && s.Probability < 0.6));
    }

    [Theory]
    [InlineData("drive-holds-post", "drive-2", 0.945)]
    [InlineData("drive-shorted", "drive", 0.95)]
    [InlineData("reset-stuck", "switch", 0.95)]
    [InlineData("half-of-the-starts", "stick-2", 0.95)]
    [InlineData("restart-under-load", "supply", 0.95)]
    [InlineData("card-shorted", "card", 0.7)]
    [InlineData("artefacts", "card", 0.9)]
    [InlineData("weak-when-cold", "board", 0.95)]
    public void The_part_is_found(string name, string unit, double least)
    {
        var (d, _) = Open(name);
        Assert.Equal(unit, d.Suspects[0].Unit.Id.Value);
        Assert.True(d.Suspects[0].Probability >= least, $"{d.Suspects[0].Probability}");
    }

    [Fact]
    public void A_picture_is_no_pass_for_a_complaint_of_restarts_under_load()
    {
        var job = Read("restart-under-load");
        Assert.Equal(BootStage.Stable, job.Goal);
        Assert.Equal([false, false, true, false, true], job.Trials.Select(t => t.Passed));
        var goesOn = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture)));
        Assert.False(goesOn.Trials[^1].Passed || goesOn.Trials[^1].Failed);
    }

    [Fact]
    public void A_card_that_loses_contact_leads_and_is_not_condemned()
    {
        var (d, _) = Open("card-loses-contact");
        Assert.Equal(("card", "card-contact"), (d.Suspects[0].Unit.Id.Value, d.Suspects[0].Leading.Fault.Mode.Id));
        Assert.NotEqual(Standing.Condemned, d.Suspects[0].Standing);
        var (riser, _) = Open("riser");
        Assert.DoesNotContain(riser.Suspects, s => s.Standing == Standing.Condemned);
    }

    [Fact]
    public void The_shorted_card_is_tried_on_a_known_good_supply_and_the_board_is_out_of_it()
    {
        var (d, advice) = Open("card-shorted");
        Assert.Equal(Standing.Cleared, d.Of("board").Standing);
        Assert.Contains(
            advice.Alternatives.Prepend(advice.Next!),
            a => a.Candidate.Changes.Any(c => c is Change.Swap { Out.Value: "supply", In.Value: "shelf-supply" })
        );
    }

    [Fact]
    public void Wires_come_off_before_memory_or_CPU_where_no_code_shows()
    {
        // After settings were cleared without effect; wires off is starting at the pins.
        var (_, advice) = Open("reset-stuck", 2);
        var steps = advice.Alternatives.Prepend(advice.Next!).Where(a => a.Candidate.Check is null).ToArray();
        var wires = Array.FindIndex(steps, a => a.Candidate.Changes.Any(c => c is Change.StartWith));
        Assert.InRange(wires, 0, 5);
    }

    [Fact]
    public void A_burnt_supply_that_took_both_sticks_never_goes_back_and_the_kit_suited_before()
    {
        var (d, _) = Open("supply-took-two-sticks");
        Assert.Equal(Standing.Condemned, d.Of("supply").Standing);
        Assert.True(d.P("stick-1") > 0.5 && d.P("stick-2") > 0.4);
        Assert.True(d.PFault("stick-1/kit-incompatible/kit") < 0.05);
        Assert.NotEqual(new UnitId("supply"), Planner.Repaired(d)[Place.Supply]);
    }

    [Fact]
    public void Half_the_memory_with_a_picture_is_no_pass_and_points_at_what_can_hide_it()
    {
        var job = Read("half-the-memory");
        Assert.Equal(Symptom.MissingMemory, job.Trials[0].Defect);
        Assert.True(job.Trials[0] is { Passed: false, Failed: true });
        Assert.True(job.Trials[^1].Passed);
        var (d, _) = Open("half-the-memory", 4);
        Assert.Equal(("board", "socket-pins-bent"), (d.Suspects[0].Unit.Id.Value, d.Suspects[0].Leading.Fault.Mode.Id));
        var (first, advice) = Open("half-the-memory", 1);
        Assert.True(first.NothingFound < 0.1);
        Assert.NotEqual(Phase.Done, advice.Phase);
    }

    [Theory]
    [InlineData("wrong-slots")]
    [InlineData("wrong-slots-and-back")]
    public void Sticks_in_the_wrong_slots_are_nothing_broken(string name)
    {
        var (d, advice) = Open(name);
        Assert.Equal("wrong-slots", d.Suspects[0].Leading.Fault.Mode.Id);
        Assert.NotEqual(Standing.Condemned, d.Suspects[0].Standing);
        Assert.NotEqual(Phase.Order, advice.Phase);
        Assert.True(Planner.Repaired(d)[Place.Memory("A2")] is not null && Planner.Repaired(d)[Place.Memory("A1")] is null);
    }

    [Fact]
    public void A_second_spare_is_tried_before_a_board()
    {
        var (_, advice) = Open("bad-spare", 5);
        Assert.False(Changes(advice, c => c is Change.Swap { Out.Value: "board" }));
        Assert.NotEqual(Phase.Order, advice.Phase);
    }

    [Fact]
    public void A_spare_that_needs_no_plug_acquits_no_cable()
    {
        var (d, advice) = Open("card-cable");
        Assert.NotEqual(Standing.Condemned, d.Of("card").Standing);
        Assert.Equal(AdviceKind.Control, advice.Decision.Kind);
        Assert.Equal("look-plugs", advice.Next!.Candidate.Check!.Id);
        var looked = d.After(new FindingEntry(Guid.NewGuid(), "look-plugs", new("supply"), false));
        var then = Planner.Advise(looked);
        Assert.Equal(AdviceKind.Control, then.Decision.Kind);
        Assert.True(Changes(then, c => c is Change.Swap { Out.Value: "supply" }));
    }

    [Fact]
    public void What_hands_disturbed_beside_a_swap_is_looked_at_first()
    {
        var (d, advice) = Open("plug-nudged");
        Assert.NotEqual(Standing.Condemned, d.Of("stick-1").Standing);
        Assert.Equal("look-plugs", advice.Next!.Candidate.Check!.Id);
    }

    [Fact]
    public void What_does_not_fail_here_is_not_repaired()
    {
        var (d, advice) = Open("no-fault");
        Assert.DoesNotContain(d.Suspects, s => s.Standing is Standing.Condemned or Standing.ProofOneWay);
        Assert.NotEqual(AdviceKind.Done, advice.Decision.Kind);
        var (_, sleeping) = Open("black-after-sleep");
        Assert.NotEqual(Phase.Done, sleeping.Phase);
    }

    [Fact]
    public void A_supply_that_tripped_the_breaker_is_condemned_without_being_put_back()
    {
        var (d, advice) = Open("tripped-breaker");
        Assert.Equal(Standing.Condemned, d.Of("supply").Standing);
        Assert.False(Changes(advice, c => c is Change.Swap { In.Value: "supply" } or Change.Fit { Unit.Value: "supply" }));
    }

    [Fact]
    public void The_same_start_again_tells_next_to_nothing()
    {
        var (once, _) = Open("loop-1");
        var (eight, advice) = Open("loop-8");
        foreach (var unit in new[] { "supply", "board", "stick-1", "stick-2", "cpu" })
            Assert.Equal(once.P(unit), eight.P(unit), 0.05);
        Assert.Equal(once.MoreThanOne, eight.MoreThanOne, 0.03);
        Assert.NotEmpty(advice.Next!.Candidate.Changes.Cast<object>().Concat(advice.Next.Candidate.Check is { } c ? [c] : []));
        var (one, _) = Open("same-light-four-times", 1);
        var (four, _) = Open("same-light-four-times");
        foreach (var unit in new[] { "card", "board", "stick-1", "supply" })
            Assert.Equal(one.P(unit), four.P(unit), 0.03);
    }

    [Fact]
    public void Luck_is_no_proof_where_it_is_known_to_come_and_go()
    {
        // One pass out and one failure back in.
        var (five, _) = Open("luck", 5);
        Assert.DoesNotContain(five.Suspects, s => s.Standing == Standing.Condemned);
        var (long_, _) = Open("half-of-the-starts");
        Assert.DoesNotContain(long_.RivalsOf(new("stick-2")), r => r.ByChance);
    }

    [Fact]
    public void No_step_starts_a_CPU_without_a_cooler()
    {
        for (var lines = 1; lines <= Read("cooler").Lines.Length; lines++)
        {
            var (_, advice) = Open("cooler", lines);
            Assert.All(
                advice.Alternatives.Concat(advice.WithAPart).Concat(advice.Pointless).Append(advice.Next!).OfType<Assessment>(),
                a => Assert.True(a.Candidate.Check is not null || a.Candidate.After.Now[Place.Cooler] is not null)
            );
        }
    }
}
