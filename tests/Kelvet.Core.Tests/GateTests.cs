using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>The rule between hands in the machine and power on it, and what is never powered: held by the core, whatever page
/// asks.</summary>
[Trait("suite", "rules")]
public class GateTests
{
    private static readonly TimeSpan Drain = TimeSpan.FromSeconds(20);

    private static BenchPower On(Power state, double since = 1000) => new(state, TimeSpan.FromSeconds(since), Drain);

    private static TrialEntry Start(params Change[] changes) => new(Guid.NewGuid(), [.. changes], StageRange.At(BootStage.RunsNoPost));

    private static GateRefusal? Why(Entry entry, BenchPower power, bool handsIn = false, BenchJob? job = null) =>
        PowerGate
            .WhyNot(job ?? Office().Job, entry, handsIn || (entry as TrialEntry)?.Changes.Any(c => c.HandsIn(Parts.None)) == true, power)
            ?.Why;

    [Theory]
    [InlineData(Power.NotRecorded, false, GateRefusal.PowerNotRecorded)]
    [InlineData(Power.NotRecorded, true, GateRefusal.TakePowerOffFirst)]
    [InlineData(Power.Off, false, GateRefusal.PowerIsOff)]
    [InlineData(Power.Off, true, GateRefusal.PowerIsOff)]
    [InlineData(Power.On, false, GateRefusal.AlreadyRecorded)]
    [InlineData(Power.On, true, GateRefusal.TakePowerOffFirst)]
    [InlineData(Power.OnAgain, false, null)]
    [InlineData(Power.OnAgain, true, null)]
    [InlineData(Power.StartedAgain, false, null)]
    [InlineData(Power.StartedAgain, true, GateRefusal.TakePowerOffFirst)]
    public void A_start_is_recorded_once_for_each_time_that_the_machine_was_started(Power power, bool handsIn, GateRefusal? refused) =>
        Assert.Equal(refused, Why(handsIn ? Start(Remove("stick-2")) : Start(), On(power)));

    [Theory]
    [InlineData(Power.NotRecorded, 1000, GateRefusal.TakePowerOffFirst)]
    [InlineData(Power.On, 1000, GateRefusal.TakePowerOffFirst)]
    [InlineData(Power.OnAgain, 1000, GateRefusal.TakePowerOffFirst)]
    [InlineData(Power.StartedAgain, 1000, GateRefusal.TakePowerOffFirst)]
    [InlineData(Power.Off, 19.9, GateRefusal.StillDraining)]
    [InlineData(Power.Off, 20, null)]
    public void Hands_go_in_only_when_it_is_off_and_drained(Power power, double since, GateRefusal? refused)
    {
        Assert.Equal(refused, Why(new FindingEntry(Guid.NewGuid(), "look-plugs", new("supply"), true), On(power, since), handsIn: true));
        Assert.Equal(refused, Why(new WorkEntry(Guid.NewGuid(), [Remove("stick-2")]), On(power, since), handsIn: true));
        // One act of several is enough.
        Assert.Equal(refused, Why(new WorkEntry(Guid.NewGuid(), [Remove("keyboard"), Remove("stick-2")]), On(power, since)));
        Assert.Null(Why(new FindingEntry(Guid.NewGuid(), "read-rails-loaded", new("supply"), true), On(power, since)));
        Assert.Null(Why(new NoteEntry(Guid.NewGuid()) { Note = "words" }, On(power, since)));
    }

    [Theory]
    [InlineData(Power.On)]
    [InlineData(Power.NotRecorded)]
    [InlineData(Power.StartedAgain)]
    public void What_was_done_live_all_the_same_is_recorded_with_the_reason_and_only_with_one(Power power)
    {
        Assert.NotNull(Why(Start(Remove("stick-2")), On(power)));
        Assert.NotNull(Why(Start(Remove("stick-2")) with { Live = "  " }, On(power)));
        Assert.Null(Why(Start(Remove("stick-2")) with { Live = "the switch was forgotten" }, On(power)));
        Assert.True(PowerGate.WhyNot(Office().Job, Start(Remove("stick-2")), true, On(power))!.MayHaveHappened);
    }

    [Fact]
    public void Power_goes_on_after_the_drain_and_says_whether_hands_could_be_in_before()
    {
        var job = Office().Job;
        Assert.Equal(GateRefusal.StillDraining, PowerGate.WhyNot(job, PowerAct.PutOn, job.Now, true, On(Power.Off, 5))!.Why);
        Assert.Equal(GateRefusal.TakePowerOffFirst, PowerGate.WhyNot(job, PowerAct.PutOn, job.Now, true, On(Power.On))!.Why);
        Assert.Equal(GateRefusal.NothingToStartAgain, PowerGate.WhyNot(job, PowerAct.StartAgain, job.Now, false, On(Power.Off))!.Why);
        Assert.Null(PowerGate.WhyNot(job, PowerAct.StartAgain, job.Now, false, On(Power.On)));
        Assert.Null(PowerGate.WhyNot(job, PowerAct.TakeOff, job.Now, true, On(Power.On)));
        Assert.Equal(Power.OnAgain, PowerGate.After(PowerAct.PutOn, On(Power.Off)));
        Assert.Equal(Power.StartedAgain, PowerGate.After(PowerAct.PutOn, On(Power.NotRecorded)));
        Assert.Equal(Power.StartedAgain, PowerGate.After(PowerAct.StartAgain, On(Power.On)));
        Assert.Equal(Power.OnAgain, PowerGate.After(PowerAct.StartAgain, On(Power.OnAgain)));
        Assert.Equal(Power.On, PowerGate.After(Start(), Power.OnAgain));
        Assert.Equal(Power.Off, PowerGate.After(new NoteEntry(Guid.NewGuid()), Power.Off));
        Assert.Equal(Power.OnAgain, PowerGate.WhenTakenBack(Start(Remove("stick-2")), Power.On, Parts.None));
        Assert.Equal(Power.StartedAgain, PowerGate.WhenTakenBack(Start(), Power.On, Parts.None));
        Assert.Equal(Power.Off, PowerGate.WhenTakenBack(Start(), Power.Off, Parts.None));
    }

    public static TheoryData<string> Dangers { get; } = ["tripped breaker", "smell", "shelf supply burnt", "no cooler"];

    /// <summary>A machine with a supply that must stay out, and that supply.</summary>
    private static (BenchJob Job, string Supply) Dangerous(string danger)
    {
        var bench = Office()
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf), Plain("third-supply", UnitKind.Supply, Origin.Shelf));
        if (danger == "tripped breaker")
            bench.Contexts = [Safety.TrippedBreaker];
        if (danger == "smell")
            bench.Contexts = [Safety.Smell];
        if (danger != "shelf supply burnt")
            return (bench.Job, "supply");
        bench.Trial("2", Swap("supply", "spare-supply"));
        return (bench.Job.Append(Start() with { Signs = new Signs { Alarm = Alarm.Burnt } }), "spare-supply");
    }

    [Theory]
    [MemberData(nameof(Dangers))]
    public void What_is_dangerous_is_powered_or_put_back_through_no_path_not_even_as_done_live(string danger)
    {
        var (job, supply) = Dangerous(danger);
        var change = danger == "no cooler" ? Remove("cooler") : null;
        Change[] changes = change is null ? [] : [change];
        var power = On(Power.OnAgain);
        Assert.Equal(GateRefusal.Blocked, Why(Start(changes), power, job: job));
        Assert.Equal(GateRefusal.Blocked, Why(Start(changes) with { Live = "it was tried all the same" }, power, job: job));
        Assert.False(PowerGate.WhyNot(job, Start(changes), false, power)!.MayHaveHappened);
        foreach (var act in new[] { PowerAct.PutOn, PowerAct.StartAgain })
            Assert.Equal(GateRefusal.Blocked, PowerGate.WhyNot(job, act, job.Now.After(changes), false, On(Power.Off))!.Why);
        if (danger == "no cooler")
            return;

        // Once it is out, nothing brings it back: not a start, not work without one, not a line put in, not a correction.
        var away = job.Append(new WorkEntry(Guid.NewGuid(), [Swap(supply, "third-supply")]));
        if (danger is "smell" or "shelf supply burnt")
            away = away.Append(new FindingEntry(Guid.NewGuid(), Safety.LookOverBoard, new("board"), false));
        Assert.Null(Why(Start(), power, job: away));
        var back = Swap("third-supply", supply);
        var last = away.Append(Start());
        Entry[] paths =
        [
            Start(back),
            new WorkEntry(Guid.NewGuid(), [back]),
            Inserted(last, Start(back)),
            Inserted(last, new WorkEntry(Guid.NewGuid(), [back])),
            new StrikeEntry(Guid.NewGuid(), last.Entries[^1].Id, "rewritten", Start(back)),
        ];
        Assert.All(paths, p => Assert.Equal(GateRefusal.Blocked, Why(p with { Live = "rewritten" }, On(Power.OnAgain), true, last)));
        Assert.Null(Why(new StrikeEntry(Guid.NewGuid(), last.Entries[^1].Id, "it was 5", Start()), power, job: last));
    }

    private static InsertEntry Inserted(BenchJob job, Entry line) => new(line.Id, job.Entries[^1].Id, line, "forgotten");

    [Theory]
    [InlineData(Alarm.Smell, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.Burnt, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.TrippedBreaker, PowerBlock.SupplyTripped)]
    public void A_supply_that_alarms_at_a_start_is_out_from_then_on_and_only_that_one(Alarm alarm, PowerBlock block)
    {
        var job = Office()
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf))
            .Job.Append(Start() with { Signs = new Signs { Alarm = alarm } });
        Assert.Equal(block, Safety.WhyNeverAgain(job, new("supply")));
        Assert.Null(Safety.WhyNeverAgain(job, new("spare-supply")));
        Assert.Null(Safety.WhyNeverAgain(job, new("stick-1")));
    }

    [Fact]
    public void A_drain_counts_down_to_its_end_and_is_told_until_then()
    {
        Assert.Equal(TimeSpan.FromSeconds(15), On(Power.Off, 5).Left);
        Assert.Null(On(Power.Off, 20).Left);
        Assert.Null(On(Power.On, 5).Left);
        Assert.True(On(Power.Off, 20).IsSafe);
        Assert.Equal(GateRefusal.StillDraining, Why(Start(), On(Power.Off, 5)));
        Power[] started = [.. Enum.GetValues<Power>().Where(p => On(p).IsStarted)];
        Assert.Equal([Power.OnAgain, Power.StartedAgain], started);
    }
}
