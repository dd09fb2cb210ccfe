using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Rules at their edges: each case stands where one comparison or one clause decides.</summary>
[Trait("suite", "rules")]
public class RuleTests
{
    private static readonly ImmutableArray<Fault> ThreeFaults =
    [
        FaultOf(Office().Job, "stick-1", "stick-dead"),
        FaultOf(Office().Job, "stick-1", "stick-marginal"),
        FaultOf(Office().Job, "cpu", "cpu-dead"),
    ];

    private static Fault FaultOf(BenchJob job, string unit, string mode, string part = "") =>
        Fault.AllOf(Atlas.Standard, job.Now.Parts, []).Single(f => f.Unit.Id.Value == unit && f.Mode.Id == mode && f.Part == part);

    // ---- Proof --------------------------------------------------------------------------------------

    [Theory]
    // Only the stick's fault comes into play.
    [InlineData(new[] { 0.0, 0, 1 }, new[] { 1.0, 0, 1 }, new[] { false, false, false }, true)]
    // Two faults of the same stick do.
    [InlineData(new[] { 0.0, 0, 1 }, new[] { 1.0, 0.5, 1 }, new[] { false, false, false }, true)]
    // The CPU's comes with it.
    [InlineData(new[] { 0.0, 0, 0 }, new[] { 1.0, 0, 1 }, new[] { false, false, false }, false)]
    // The CPU's comes with it, but was at work in a pass.
    [InlineData(new[] { 0.0, 0, 0 }, new[] { 1.0, 0, 1 }, new[] { false, false, true }, true)]
    // Half at work is enough to have failed; less is not.
    [InlineData(new[] { 0.0, 0, 1 }, new[] { 0.5, 0, 1 }, new[] { false, false, false }, true)]
    [InlineData(new[] { 0.0, 0, 1 }, new[] { 0.49, 0, 1 }, new[] { false, false, false }, false)]
    // A tenth more is not "came into play"; a little more than a tenth of the CPU's is, and spoils it.
    [InlineData(new[] { 0.0, 0, 0.4 }, new[] { 1.0, 0, 0.5 }, new[] { false, false, false }, true)]
    [InlineData(new[] { 0.0, 0, 0.4 }, new[] { 1.0, 0, 0.52 }, new[] { false, false, false }, false)]
    // Going out of play is not coming into it.
    [InlineData(new[] { 1.0, 0, 1 }, new[] { 0.0, 0, 1 }, new[] { false, false, false }, false)]
    // All that came into play had passed elsewhere: each of them alone.
    [InlineData(new[] { 0.0, 0, 0 }, new[] { 1.0, 0, 1 }, new[] { true, true, true }, true)]
    public void Only_what_alone_came_into_play_is_said_to_have_failed(double[] pass, double[] fail, bool[] passed, bool alone) =>
        Assert.Equal(alone, Proof.OnlyThisUnit(pass, fail, passed, ThreeFaults, new("stick-1")));

    [Fact]
    public void A_fault_of_the_unit_that_was_weakly_at_work_does_not_hide_one_of_another()
    {
        // The CPU is not cleared and could barely act: nothing is said, neither of it nor of the stick that was cleared.
        bool[] passed = [true, true, false];
        Assert.False(Proof.OnlyThisUnit([0, 0, 0], [1, 0, 0.3], passed, ThreeFaults, new("stick-1")));
        Assert.False(Proof.OnlyThisUnit([0, 0, 0], [1, 0, 0.3], passed, ThreeFaults, new("cpu")));
    }

    private static Proof ProofOf(Bench bench, params double[][] engaged)
    {
        var passed = Proof.AtWorkInAPass(bench.Job.Trials, engaged, ThreeFaults.Length);
        return Proof.All(bench.Job, ThreeFaults, engaged, passed).GetValueOrDefault(new UnitId("stick-1"), Proof.None);
    }

    [Theory]
    [InlineData("4", true)]
    [InlineData("4-5", true)]
    // It may have shown a picture: not a failure.
    [InlineData("4-6", false)]
    public void What_may_have_shown_a_picture_is_no_failure(string seen, bool proves)
    {
        double[] with = [1, 0, 1],
            without = [0, 0, 1];
        var proof = ProofOf(Office().Trial(seen).Trial("6", Remove("stick-1")), with, without);
        Assert.Equal(proves, proof.OneWay);
        Assert.Equal(proves, proof.TakenOut is not null);
        Assert.Null(proof.PutBack);
    }

    [Fact]
    public void A_machine_that_can_do_no_more_than_a_picture_fails_when_it_shows_none()
    {
        var bench = Office().Trial("4", Remove("drive"));
        Assert.Equal(BootStage.Picture, bench.Job.Trials[0].Ceiling.Stage);
        Assert.True(ProofOf(bench.Trial("6", Remove("stick-1")), [1, 0, 1], [0, 0, 1]).OneWay);
        var blind = Office(cpuGraphics: false, card: true).Trial("5", Show("board/HDMI")).Trial("6", Show("card.1/HDMI"));
        Assert.False(ProofOf(blind, [1, 0, 1], [0, 0, 1]).OneWay);
    }

    [Fact]
    public void Which_side_of_the_proof_stands_goes_by_what_came_first()
    {
        double[] with = [1, 0, 1],
            without = [0, 0, 1];
        var back = ProofOf(Office().Trial("6", Remove("stick-1")).Trial("4", Fit("stick-1", "memory.A2")), without, with);
        Assert.True(back is { TakenOut: null, PutBack: not null, TwoWay: true, OneWay: true });
        var @out = ProofOf(Office().Trial("4").Trial("6", Remove("stick-1")), with, without);
        Assert.True(@out is { TakenOut: not null, PutBack: null, TwoWay: false, OneWay: true });
        // The nearest failure is paired with a pass, not the first one.
        var third = ProofOf(Office().Trial("4").Trial("4").Trial("6", Remove("stick-1")), with, with, without);
        Assert.Equal(2, third.TakenOut!.Fail.Number);
        Assert.Equal([(2, true), (3, false)], third.Events.Select(e => (e.Trial.Number, e.With)));
    }

    [Fact]
    public void The_last_try_in_another_machine_counts_and_only_a_failed_one()
    {
        double[] with = [1, 0, 1],
            without = [0, 0, 1];
        Proof After(params bool[] worked)
        {
            var job = Office().Trial("4").Trial("6", Remove("stick-1")).Job;
            foreach (var w in worked)
                job = job.Append(new ElsewhereEntry(Guid.NewGuid(), new("stick-1"), w));
            return Proof.All(job, ThreeFaults, [with, without], [false, false, false])[new UnitId("stick-1")];
        }

        Assert.Equal(3, After(false).Elsewhere);
        Assert.True(After(false).TwoWay);
        Assert.Equal(4, After(true, false).Elsewhere);
        Assert.Equal(0, After(false, true).Elsewhere);
        Assert.False(After(false, true).TwoWay);
        Assert.True(After(true).OneWay);
        // Elsewhere alone is one side.
        var job = Office().Trial("4").Job.Append(new ElsewhereEntry(Guid.NewGuid(), new("stick-1"), false));
        var alone = Proof.All(job, ThreeFaults, [with], [false, false, false])[new UnitId("stick-1")];
        Assert.True(alone is { OneWay: true, TwoWay: false, TakenOut: null });
    }

    public static TheoryData<Change, string, bool> InPlace =>
        new()
        {
            { Reseat("stick-1"), "stick-1", true },
            { Reseat("stick-2"), "stick-1", false },
            { new Change.Mend(Remedy.Clean, new("stick-1")), "stick-1", true },
            { new Change.Mend(Remedy.Clean, new("stick-2")), "stick-1", false },
            { Clear, "stick-1", false },
            { Clear, "board", true },
        };

    [Theory]
    [MemberData(nameof(InPlace))]
    public void What_was_mended_in_place_is_proved_by_two_passes_since(Change mend, string unit, bool mended)
    {
        ImmutableArray<Fault> faults =
        [
            unit == "board" ? FaultOf(Office().Job, "board", "settings-bad") : FaultOf(Office().Job, "stick-1", "stick-dirty"),
        ];
        Proof Of(params string[] after)
        {
            var bench = Office().Trial("4").Trial("6", mend);
            foreach (var seen in after)
                bench.Trial(seen);
            double[][] engaged = [.. bench.Job.Trials.Select((_, i) => new[] { i == 0 ? 1.0 : 0 })];
            return Proof.All(bench.Job, faults, engaged, [false])[new UnitId(unit)];
        }

        Assert.Equal(mended ? 1 : null, Of().Repaired?.Passes);
        Assert.False(Of().TwoWay);
        Assert.Equal(mended ? 2 : null, Of("6").Repaired?.Passes);
        Assert.Equal(mended, Of("6").TwoWay);
        // A failure since ends the count.
        Assert.Equal(mended ? 1 : null, Of("4", "6", "6").Repaired?.Passes);
    }

    [Fact]
    public void What_was_taken_out_is_not_mended_in_place()
    {
        var bench = Office().Trial("4").Trial("6", Reseat("stick-2"), Remove("stick-1"));
        Assert.Null(ProofOf(bench, [1, 0, 1], [0, 0, 1]).Repaired);
    }

    [Theory]
    [InlineData(0.95, true)]
    [InlineData(0.94, false)]
    public void Only_what_was_fully_at_work_is_acquitted_by_a_pass(double engaged, bool acquitted)
    {
        var trials = Office().Trial("4").Trial("6").Job.Trials;
        Assert.Equal(
            [acquitted],
            Proof.AtWorkInAPass(
                trials,
                [
                    [1],
                    [engaged],
                ],
                1
            )
        );
        Assert.Equal(
            [false],
            Proof.AtWorkInAPass(
                trials,
                [
                    [1],
                    [0.2],
                ],
                1
            )
        );
    }

    // ---- Conditions ---------------------------------------------------------------------------------

    private static bool Holds(string condition, Bench bench, Fault fault, bool negated = false)
    {
        Assert.NotEqual(
            Condition.Named(condition, false)!.Holds(bench.Job.Now, fault),
            Condition.Named(condition, true)!.Holds(bench.Job.Now, fault)
        );
        return Condition.Named(condition, negated)!.Holds(bench.Job.Now, fault);
    }

    [Fact]
    public void Conditions_ask_about_the_machine_as_it_stands()
    {
        var office = Office();
        var supply = FaultOf(office.Job, "supply", "supply-weak");
        Assert.False(Holds("card-draws", office, supply));
        Assert.True(Holds("card-draws", Office(card: true), supply));
        var two = Office().Shelf(Card("spare", needsAux: false)).Add(Card("second", needsAux: false), Place.Card("2"));
        Assert.False(Holds("card-draws", two, supply));
        Assert.True(Holds("card-draws", Office(card: true).Add(Card("second", needsAux: false), Place.Card("2")), supply));

        var stick = FaultOf(office.Job, "stick-1", "stick-dead");
        Assert.True(Holds("kit-fitted", Office(), stick));
        Assert.False(Holds("kit-fitted", Office().Trial("4", Remove("stick-2")), stick));
        Assert.True(Holds("any-of-kit-fitted", Office().Trial("4", Remove("stick-2")), stick));
        var spares = Office().Shelf(Stick("s1", Origin.Shelf), Stick("s2", Origin.Shelf));
        Assert.True(Holds("any-of-kit-fitted", spares.Trial("4", Swap("stick-1", "s1")), stick));
        Assert.False(Holds("any-of-kit-fitted", spares.Trial("4", Swap("stick-2", "s2")), stick));
        Assert.False(Holds("kit-fitted", spares, stick));

        Assert.True(Holds("customer-board", Office(), stick));
        var other = Office().Shelf(Board("spare-board", Origin.Shelf));
        Assert.False(Holds("customer-board", other.Trial("4", Swap("board", "spare-board")), stick));
        Assert.True(Holds("started-by-switch", Office(), stick));
        Assert.False(Holds("started-by-switch", Office().Trial("4", new Change.StartWith(StartMethod.HeaderPins)), stick));
        Assert.Null(Condition.Named("no-such-thing", false));
        Assert.Equal(Condition.Names.Distinct(), Condition.Names);
        Assert.All(Condition.Names, n => Assert.NotNull(Condition.Named(n, false)));
        Assert.Contains("fitted", Condition.Names);
        Assert.Contains("reseated", Condition.Names);
    }

    [Fact]
    public void An_output_acts_where_the_monitor_is()
    {
        var office = Office(card: true);
        var hdmi = FaultOf(office.Job, "board", "output-dead", "HDMI");
        var vga = FaultOf(office.Job, "board", "output-dead", "VGA");
        var digital = FaultOf(office.Job, "board", "digital-outputs-dead", "digital");
        var graphics = FaultOf(office.Job, "cpu", "cpu-graphics-dead");
        var slot = FaultOf(office.Job, "board", "expansion-slot-dead", "1");
        var second = FaultOf(office.Job, "board", "expansion-slot-dead", "2");
        var cardDead = FaultOf(office.Job, "card", "card-dead");
        (string Output, bool Hdmi, bool Vga, bool Digital, bool Board, bool Slot)[] cases =
        [
            ("board/HDMI", true, false, true, true, false),
            ("board/DP", false, false, true, true, false),
            ("board/VGA", false, true, false, true, false),
            ("card.1/HDMI", false, false, false, false, true),
            ("card.1/DP 1", false, false, false, false, true),
        ];
        foreach (var c in cases)
        {
            var bench = c.Output == "card.1/DP 1" ? Office(card: true) : Office(card: true).Trial("4", Show(c.Output));
            Assert.Equal(
                (c.Hdmi, c.Vga, c.Digital, c.Board, c.Slot, false, c.Slot),
                (
                    Holds("displayed-here", bench, hdmi),
                    Holds("displayed-here", bench, vga),
                    Holds("displayed-here", bench, digital),
                    Holds("displayed-board", bench, graphics),
                    Holds("displayed-here", bench, slot),
                    Holds("displayed-here", bench, second),
                    Holds("displayed-on-card", bench, cardDead)
                )
            );
        }

        // A fault goes with its unit: another board's output, another CPU's graphics are not these.
        var swapped = Office(card: true)
            .Shelf(Board("spare-board", Origin.Shelf), new Cpu(new UnitId("spare-cpu"), "Tarn C3", Origin.Shelf, true) { Socket = "T1" })
            .Trial("4", Show("board/HDMI"))
            .Trial("4", Swap("board", "spare-board"), Swap("cpu", "spare-cpu"));
        Assert.False(Holds("displayed-here", swapped, hdmi));
        Assert.False(Holds("displayed-here", swapped, digital));
        Assert.False(Holds("displayed-here", swapped.Trial("4", Show("card.1/HDMI")), slot));
        Assert.False(Holds("displayed-board", swapped, graphics));
    }

    [Fact]
    public void A_slot_or_channel_acts_when_something_is_in_it()
    {
        var office = Office(card: true);
        var a1 = FaultOf(office.Job, "board", "slot-dead", "A1");
        var a2 = FaultOf(office.Job, "board", "slot-dead", "A2");
        var channelB = FaultOf(office.Job, "board", "channel-dead", "B");
        var controllerB = FaultOf(office.Job, "cpu", "cpu-channel-dead", "B");
        var card1 = FaultOf(office.Job, "board", "expansion-slot-dead", "1");
        var card2 = FaultOf(office.Job, "board", "expansion-slot-dead", "2");
        bool[] All(Bench bench) => [.. new[] { a1, a2, channelB, controllerB, card1, card2 }.Select(f => Holds("occupied", bench, f))];
        Assert.Equal([false, true, true, true, true, false], All(office));
        Assert.Equal([true, true, false, false, true, false], All(Office(card: true).Trial("4", Move("stick-2", "memory.A1"))));
        Assert.Equal([false, true, true, true, false, true], All(Office(card: true).Trial("4", Move("card", "card.2"))));
        var swapped = Office(card: true).Shelf(Board("spare-board", Origin.Shelf)).Trial("4", Swap("board", "spare-board"));
        Assert.Equal([false, false, false, true, false, false], All(swapped));
    }

    [Fact]
    public void A_cure_that_did_not_cure_counts_as_never_done_for_its_own_fault_alone()
    {
        var bench = Office().Trial("4", Reseat("stick-1"));
        var split = Fault.AllOf(Atlas.Standard, bench.Job.Now, []).Where(f => f.Unit.Id.Value == "stick-1").ToArray();
        var failed = split.Single(f => f.Mode.Id == "stick-unseated" && f.After == CureOutcome.Failed);
        var worked = split.Single(f => f.Mode.Id == "stick-unseated" && f.After == CureOutcome.Worked);
        Assert.False(Holds("reseated", bench, failed));
        Assert.True(Holds("reseated", bench, failed, negated: true));
        Assert.True(Holds("reseated", bench, worked));
        Assert.True(Holds("reseated", bench, split.First(f => f.Mode.Id == "stick-dead")));
        // Reseating is not what its own cure, cleaning, asks for.
        Assert.False(Holds("cleaned", bench, failed));
    }

    // ---- Safety -------------------------------------------------------------------------------------

    [Fact]
    public void A_correction_of_what_was_seen_is_taken_even_where_the_supply_has_tripped_since()
    {
        var tripped = new Signs { Alarm = Alarm.TrippedBreaker };
        var spare = Plain("spare-supply", UnitKind.Supply, Origin.Shelf);
        var job = Office().Shelf(spare).Trial("4", Swap("supply", "spare-supply")).Trial("4", Swap("spare-supply", "supply")).Job;
        job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = tripped });
        var put = (TrialEntry)job.Entries[1];
        StrikeEntry Correct(TrialEntry to, Guid struck) => new(Guid.NewGuid(), struck, "mis-seen", to);
        // The same changes with another outcome: taken. Other changes that put it in: refused.
        Assert.Null(Safety.WhyNotRecorded(job, Correct(put with { Seen = StageRange.At(BootStage.CutsOut) }, put.Id)));
        Assert.Equal(
            PowerBlock.SupplyTripped,
            Safety.WhyNotRecorded(job, Correct(put with { Changes = [Swap("spare-supply", "supply"), Clear] }, put.Id))
        );
        // A correction of a line that puts nothing in, by one that does: refused.
        Assert.Equal(PowerBlock.SupplyTripped, Safety.WhyNotRecorded(job, Correct(put, job.Entries[0].Id)));
        Assert.Null(Safety.WhyNotRecorded(job, Correct(put with { Changes = [] }, put.Id)));
        // What is not a supply is put in as one likes.
        Assert.Null(Safety.WhyNotRecorded(job, Correct(put with { Changes = [Remove("stick-1"), Fit("stick-1", "memory.A1")] }, put.Id)));
        // Fitted, swapped in or connected: no path.
        foreach (var back in new[] { Fit("supply", "supply"), Swap("spare-supply", "supply"), Connect("supply") })
        {
            Assert.Equal(PowerBlock.SupplyTripped, Safety.WhyNotRecorded(job, new WorkEntry(Guid.NewGuid(), [Clear, back])));
            Assert.Equal(
                PowerBlock.SupplyTripped,
                Safety.WhyNotRecorded(job, new InsertEntry(Guid.NewGuid(), put.Id, put with { Changes = [back] }, "late"))
            );
            Assert.Equal(
                PowerBlock.SupplyTripped,
                Safety.WhyNotRecorded(job, new InsertEntry(Guid.NewGuid(), put.Id, new WorkEntry(Guid.NewGuid(), [back]), "late"))
            );
            Assert.Equal(
                PowerBlock.SupplyTripped,
                Safety.WhyNotRecorded(job, new StrikeEntry(Guid.NewGuid(), put.Id, "x", new WorkEntry(Guid.NewGuid(), [back])))
            );
        }

        Assert.Null(Safety.WhyNotRecorded(job, new NoteEntry(Guid.NewGuid())));
    }

    [Theory]
    [InlineData(Alarm.Smell, PowerBlock.SupplyBurnt)]
    [InlineData(Alarm.TrippedBreaker, PowerBlock.SupplyTripped)]
    public void An_alarm_speaks_of_the_supply_that_was_in(Alarm alarm, PowerBlock block)
    {
        var spare = Plain("spare-supply", UnitKind.Supply, Origin.Shelf);
        var job = Office().Shelf(spare).Trial("4").Job;
        job = job.Append(
            new TrialEntry(Guid.NewGuid(), [Swap("supply", "spare-supply")], StageRange.At(BootStage.CutsOut))
            {
                Signs = new Signs { Alarm = alarm },
            }
        );
        Assert.Equal(block, Safety.WhyNeverAgain(job, new("spare-supply")));
        Assert.Null(Safety.WhyNeverAgain(job, new("supply")));
        Assert.Null(Safety.WhyNeverAgain(job, new("board")));
        Assert.Null(Safety.WhyNeverAgain(job, new("nobody")));
    }

    // ---- The order in which it is asked what to do --------------------------------------------------

    [Fact]
    public void What_makes_it_safe_takes_the_shelf_first_and_never_what_is_barred()
    {
        Decision Of(params Unit[] spares)
        {
            var bench = Office();
            bench.Contexts = [Safety.TrippedBreaker];
            return Planner.Decide(bench.Shelf(spares).Diagnosis, School.Advisor, Preferences.Usual);
        }

        var shelf = Plain("s", UnitKind.Supply, Origin.Shelf);
        var fresh = Plain("n", UnitKind.Supply, Origin.New);
        Assert.Equal((new UnitId("s"), new UnitId("supply")), (Of(fresh, shelf).StandIn!.Id, Of(fresh, shelf).About!.Id));
        Assert.Equal(new UnitId("s"), Of(shelf, fresh).StandIn!.Id);
        Assert.Equal(new UnitId("n"), Of(fresh).StandIn!.Id);
        // A second supply of the customer's came with the machine that tripped it: not taken either.
        var none = Of(Plain("c", UnitKind.Supply), Stick("stick", Origin.Shelf));
        Assert.Null(none.StandIn);
        Assert.Equal((UnitKind.Supply, "supply"), (none.Missing!.Kind, none.About!.Id.Value));
    }

    [Fact]
    public void A_missing_cooler_is_fitted_before_anything_else()
    {
        var bench = Office().Shelf(Plain("spare-cooler", UnitKind.Cooler, Origin.Shelf));
        var job = bench.Trial("4").Job.Append(new WorkEntry(Guid.NewGuid(), [Remove("cooler")]));
        var decision = Planner.Decide(BenchDiagnosis.Of(job, Atlas.Standard), School.Advisor, Preferences.Usual);
        Assert.Equal((Phase.MakeSafe, PowerBlock.NoCooler), (decision.Phase, decision.Block));
        Assert.Null(decision.About);
        var fit = Assert.IsType<Change.Fit>(Assert.Single(decision.Step!.Changes));
        Assert.Equal((new UnitId("spare-cooler"), Place.Cooler), (fit.Unit, fit.Place));
    }

    [Fact]
    public void A_school_takes_its_own_first_step_that_tells_something()
    {
        foreach (var school in School.Standard.Where(s => !s.WeighsEverything))
        {
            var diagnosis = Office(card: true).Shelf(Stick("spare", Origin.Shelf), Card("spare-card", Origin.Shelf)).Trial("4").Diagnosis;
            var decision = Planner.Decide(diagnosis, school, Preferences.Usual);
            if (decision.Kind != AdviceKind.NextOfSchool)
                continue;
            var telling = Planner
                .Advise(diagnosis, school)
                .Alternatives.Select(a => a.Candidate.Key)
                .Append(decision.Step!.Key)
                .ToHashSet();
            Assert.Contains(decision.Step.Key, telling);
            Assert.Equal(Phase.Narrow, decision.Phase);
        }
    }

    [Fact]
    public void With_no_spare_and_all_tried_the_part_that_would_tell_is_named()
    {
        // Nothing on the shelf; everything that can be done in place was done.
        var bench = Office(cpuGraphics: true, extension: false).Trial("4");
        string[] units = ["stick-1", "stick-2", "cpu", "cooler", "supply"];
        foreach (var unit in units)
            bench.Trial("4", Reseat(unit));
        bench.Trial("4", Clear);
        for (var i = 0; i < 40; i++)
        {
            var decision = Planner.Decide(bench.Diagnosis, School.Advisor, Preferences.Usual);
            if (decision.Kind is AdviceKind.OnlyAPartTells or AdviceKind.PartTellsMore)
            {
                Assert.Equal(Phase.Stuck, decision.Phase);
                Assert.NotNull(decision.Missing);
                Assert.Same(decision.WithAPart!.Missing, decision.Missing);
                return;
            }

            if (decision.Step is not { Check: null } step)
                break;
            bench.Trial("4", [.. step.Changes]);
        }

        var last = Planner.Decide(bench.Diagnosis, School.Advisor, Preferences.Usual);
        Assert.True(last.Phase is Phase.Repair or Phase.Narrow, last.ToString());
    }

    // ---- The job format -----------------------------------------------------------------------------

    private static string Blame(string text) => Assert.Throws<DataFileException>(() => JobFormat.Read(text)).Message;

    private static JsonObject Root(BenchJob job) => (JsonObject)JsonNode.Parse(JobFormat.Write(job))!;

    [Fact]
    public void A_file_at_exactly_the_limits_is_read_and_one_more_is_refused()
    {
        var text = JobFormat.Write(Office().Trial("4").Job);
        var padded = text + new string(' ', JobFormat.MostCharacters - text.Length);
        Assert.Single(JobFormat.Read(padded).Trials);
        Assert.Contains($"{JobFormat.MostCharacters} is the most", Blame(padded + " "));

        var root = Root(Office().Job);
        var steps = Enumerable.Range(0, BenchJob.MostLines).Select(_ => (JsonNode)new JsonObject { ["kind"] = "note", ["note"] = "n" });
        root["steps"] = new JsonArray([.. steps]);
        var full = JobFormat.Read(root.ToJsonString());
        Assert.Equal(BenchJob.MostLines, full.Lines.Length);
        Assert.Throws<EntryRefusedException>(() => full.Append(new NoteEntry(Guid.NewGuid()) { Note = "one more" }));
        ((JsonArray)root["steps"]!).Add(new JsonObject { ["kind"] = "note", ["note"] = "n" });
        Assert.Contains($"$.steps: more than {BenchJob.MostLines} steps", Blame(root.ToJsonString()));
    }

    [Fact]
    public void A_file_of_another_format_or_version_is_refused_by_name()
    {
        var root = Root(Office().Job);
        root["version"] = JobFormat.Version + 1;
        Assert.Contains(
            $"$.version: this program reads versions {JobFormat.OldestVersion} to {JobFormat.Version}",
            Blame(root.ToJsonString())
        );
        root["version"] = JobFormat.OldestVersion - 1;
        Assert.Contains("$.version", Blame(root.ToJsonString()));
        root["version"] = JobFormat.OldestVersion;
        Assert.Empty(JobFormat.Read(root.ToJsonString()).Lines);
        root["format"] = "another";
        Assert.Contains("$.format: expected \"kelvet-job\"", Blame(root.ToJsonString()));
        root["format"] = JobFormat.Name;
        root.Remove("steps");
        Assert.Empty(JobFormat.Read(root.ToJsonString()).Lines);
    }

    [Fact]
    public void A_step_is_blamed_where_it_stands()
    {
        var job = Office().Trial("4").Trial("4").Job;
        var root = Root(job);
        var steps = (JsonArray)root["steps"]!;
        steps.Add(steps[0]!.DeepClone());
        Assert.Contains($"$.steps[2]: there is a step with the id {job.Entries[0].Id} already", Blame(root.ToJsonString()));

        // The first and the last step are blamed by their own number.
        foreach (var at in new[] { 0, 1 })
        {
            var broken = Root(job);
            broken["steps"]![at]!["changes"] = new JsonArray("remove ghost");
            Assert.Matches($@"\$\.steps\[{at}\]: .*There is no unit ghost", Blame(broken.ToJsonString()));
        }

        var fitted = Root(job);
        fitted["fitted"]!["memory.A2"] = "ghost";
        Assert.Contains("$.fitted", Blame(fitted.ToJsonString()));
    }

    [Fact]
    public void Parts_of_a_job_are_stored_apart_and_read_back()
    {
        var job = Office(card: true).Trial("4").Job;
        var intake = JobFormat.Write(job.Intake);
        Assert.DoesNotContain('\n', intake);
        Assert.Equal(intake, JobFormat.Write(JobFormat.ReadIntake(intake)));
        Assert.Equal(
            (JobFormat.Name, JobFormat.Version),
            ((string?)JsonNode.Parse(intake)!["format"], (int)JsonNode.Parse(intake)!["version"]!)
        );
        var unit = JobFormat.Write(job.Now.Parts[new UnitId("card")]);
        Assert.DoesNotContain('\n', unit);
        Assert.Equal(unit, JobFormat.Write(JobFormat.ReadUnit(unit)));
        Assert.DoesNotContain('\n', JobFormat.Write(job.Entries[0]));
        Assert.EndsWith("}\n", JobFormat.Write(job));
        Assert.Contains("Müller-Söhne", JobFormat.Write(job.Intake with { Title = "Müller-Söhne" }));
        Assert.Contains("Müller-Söhne", JobFormat.Write(BenchJob.Open(job.Intake with { Title = "Müller-Söhne" })));
    }
}
