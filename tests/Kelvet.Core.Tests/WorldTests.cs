using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Text;
using Kelvet.Core.Training;
using Kelvet.Core.Words;

namespace Kelvet.Core.Tests;

/// <summary>Worlds that differ from the reasoner's, jobs judged by what takes the fault away, campaigns that add up, and walks.</summary>
public class WorldTests
{
    private static readonly string Root = AppContext.BaseDirectory[..AppContext.BaseDirectory.IndexOf("/tests/", StringComparison.Ordinal)];

    private static WorldSetting Read(string yaml) => WorldReader.Read(yaml, "w.yaml", Atlas.Standard);

    public static TheoryData<string> Worlds =>
        [.. Directory.EnumerateFiles(Path.Combine(Root, "tests/worlds"), "*.yaml").Select(f => Path.GetFileNameWithoutExtension(f)!)];

    public static TheoryData<string> Walks =>
        [.. Directory.EnumerateFiles(Path.Combine(Root, "tests/walks"), "*.yaml").Select(f => Path.GetFileNameWithoutExtension(f)!)];

    [Theory]
    [MemberData(nameof(Worlds))]
    public void Every_world_that_ships_is_read(string world) =>
        Assert.NotEmpty(
            WorldReader.Read(File.ReadAllText(Path.Combine(Root, "tests/worlds", $"{world}.yaml")), world, Atlas.Standard).Name
        );

    [Theory]
    [InlineData("name: x\nfaults: [0.5, 0.5]", "line 2: expected three chances")]
    [InlineData("name: x\nfaults: [0.5, 0.3, 0.3]", "line 2: the chances add up to 1.1")]
    [InlineData("name: x\nrate: [0.4, 0.2]", "line 2: expected the least rate and the most")]
    [InlineData("name: x\npatch:\n  no-such: { odds: 1 }", "line 3: there is no mode \"no-such\"")]
    [InlineData("name: x\npatch:\n  stick-dead: { stops: { RunsNoPost: 0.7, Picture: 0.7 } }", "line 3: the chances add up to 1.4")]
    [InlineData("name: x\ncomplaint: { goal: runs-no-post }", "line 2: a machine is to show a picture")]
    [InlineData("name: x\ncircumstances: [struck-by-gold]", "line 2: there is no context \"struck-by-gold\"")]
    [InlineData("name: x\ntechnician: { obeys: 2 }", "line 2")]
    [InlineData("name: x\nspares: { plenty: 1 }", "line 2")]
    [InlineData("name: x\nacts: { dancing: 1 }", "line 2")]
    [InlineData("name: x\ncomplaint: { shows: a-crack }", "line 2")]
    [InlineData("name: x\nbeeps: 3", "line 2")]
    public void A_world_that_is_wrong_is_refused_with_its_line(string yaml, string told) =>
        Assert.Contains(told, Assert.Throws<DataFileException>(() => Read(yaml)).Message, StringComparison.Ordinal);

    [Fact]
    public void A_world_may_patch_what_the_atlas_says_and_the_reasoner_does_not_see_it()
    {
        var world = Read("name: x\nwithout-cures: [clean]\npatch:\n  stick-dead: { odds: 2, cure: reseat, stops: { CutsOut: 1 } }");
        var mode = world.True(Atlas.Standard)["stick-dead"];
        Assert.Equal((2, Cure.Reseat, 1), (mode.Odds, mode.Cure, mode.Stops[(int)BootStage.CutsOut]));
        Assert.Equal(0, mode.Reach[(int)BootStage.CutsOut + 1]);
        Assert.Equal(Atlas.Standard["stick-dead"], world.Believed(Atlas.Standard)["stick-dead"]);
        Assert.DoesNotContain(
            world.Believed(Atlas.Standard).Modes,
            m => m.Cure == Cure.Clean && !m.Id.StartsWith(FaultMode.Unlisted, StringComparison.Ordinal)
        );
    }

    private static (World World, BenchJob Job) Hidden(string mode, WorldSetting setting)
    {
        var job = Bench.Office().Job;
        var faults = Fault.AllOf(Atlas.Standard, job.Now, []);
        var f = faults.Index().First(x => x.Item.Mode.Id == mode && x.Item.Unit.Origin == Origin.Customer).Index;
        var hidden = new HiddenFault(f, FaultForm.Whole(faults[f], f), null, 0.5) { Acts = setting.Acts };
        return (new World(faults, [hidden], Atlas.Standard) { Goal = setting.Complaint.Goal }, job);
    }

    [Fact]
    public void What_acts_at_one_kind_of_start_shows_at_no_other()
    {
        var (world, job) = Hidden("stick-dead", Read("name: x\nacts: { cold: 1 }"));
        var random = new Random(1);
        int Fails(StartKind? kind) => Enumerable.Range(0, 200).Count(_ => !world.Start(job.Now, random, kind).Seen.ShowsPicture);
        Assert.InRange(Fails(StartKind.Cold), 180, 200);
        // Nothing but slips is left.
        Assert.InRange(Fails(null), 0, 12);
        Assert.InRange(Fails(StartKind.Load), 0, 12);
        Assert.True(world.Matters(world.Hidden[0], job.Now));
    }

    [Fact]
    public void Only_a_run_under_load_is_followed_to_its_end()
    {
        var (world, job) = Hidden("stick-dead", Read("name: x\ncomplaint: { when: load, goal: stable }\nacts: { load: 0 }"));
        var random = new Random(1);
        Assert.Contains(
            new StageRange(BootStage.OsLoads, BootStage.Stable),
            Enumerable.Range(0, 9).Select(_ => world.Start(job.Now, random).Seen)
        );
        Assert.Contains(
            StageRange.At(BootStage.Stable),
            Enumerable.Range(0, 9).Select(_ => world.Start(job.Now, random, StartKind.Load).Seen)
        );
    }

    [Theory]
    [InlineData(true, "A2")]
    [InlineData(false, "A2")]
    public void A_machine_may_come_up_and_not_see_a_stick_and_without_any_that_it_sees_it_does_not(bool both, string lost)
    {
        var (world, job) = Hidden("slot-dead", WorldSetting.Known);
        var dead = world.Faults.Index().First(f => f.Item.Mode.Id == "slot-dead" && f.Item.Part == lost).Index;
        var form = FaultForm.Whole(world.Faults[dead], dead) with { Shows = Symptom.MissingMemory };
        world = world with { Hidden = [new HiddenFault(dead, form, null, 0.5)] };
        var now = both ? job.Now : job.Now.After([Bench.Remove("stick-2")]);
        Assert.True(world.Matters(world.Hidden[0], now));
        var random = new Random(1);
        var starts = Enumerable.Range(0, 40).Select(_ => world.Start(now, random)).ToArray();
        Assert.InRange(starts.Count(s => s.Seen.ShowsPicture && s.Lost.SequenceEqual([lost])), both ? 36 : 0, both ? 40 : 4);
        Assert.InRange(starts.Count(s => s.Seen.High < BootStage.Picture), both ? 0 : 36, both ? 4 : 40);
    }

    [Fact]
    public void A_world_of_machines_that_come_up_with_memory_missing_tells_of_it_and_of_nothing_else()
    {
        var world = Read("name: x\ncomplaint: { shows: missing-memory }\nonly: [slot-dead, stick-dead, socket-pins-bent]");
        foreach (var job in Enumerable.Range(0, 6).Select(j => Simulation.Job(j, 3, [School.Advisor], Atlas.Standard, 1, world)[0]))
        {
            Assert.True(job.Log.Job.Intake.Reported!.Value.ShowsPicture);
            Assert.NotEmpty(job.Log.Job.Trials);
            Assert.All(job.Log.Job.Trials.Where(t => t.Seen.ShowsPicture), t => Assert.True(t.TellsOfMemory));
        }
    }

    [Fact]
    public void Boards_beep_as_one_of_the_tables_has_it_and_a_technician_may_count_wrong()
    {
        string[] Heard(string technician) =>
            [
                .. Enumerable
                    .Range(0, 8)
                    .Select(j => Simulation.Job(j, 4, [School.Advisor], Atlas.Standard, 1, Read($"name: x\nbeeps: 1{technician}"))[0])
                    .SelectMany(j => j.Log.Job.Trials)
                    .Select(t => t.Entry.Signs.Beeps)
                    .Where(b => b.Length > 0),
            ];
        var listed = Atlas.Standard.Signals.Tables.Where(t => t.Kind == SignalKind.Beeps).SelectMany(t => t.Rows).Select(r => r.Signal);
        var known = listed.ToHashSet(StringComparer.Ordinal);
        var heard = Heard("");
        Assert.True(heard.Length >= 10);
        Assert.All(heard, b => Assert.Contains(b, known));
        var wrong = Heard("\ntechnician: { misreads-beeps: 1 }");
        Assert.All(wrong, b => Assert.NotNull(SignalText.Of(SignalKind.Beeps, b)));
        Assert.Contains(wrong, b => !known.Contains(b));
    }

    [Fact]
    public void Shelf_parts_may_be_unlike_what_they_stand_in_for()
    {
        BenchJob Taken(string spares) =>
            Simulation.Job(0, 9, [School.Advisor], Atlas.Standard, 1, Read($"name: x\nspares: {{ {spares} }}"))[0].Log.Job;
        Unit[] Shelf(BenchJob job) => [.. job.Intake.Parts.All.Where(u => u.Origin == Origin.Shelf)];
        var unlike = Shelf(Taken("unlike: 1"));
        Assert.All(unlike.OfType<Cpu>(), c => Assert.False(c.HasGraphics));
        Assert.All(unlike.OfType<GraphicsCard>(), c => Assert.True(c.NeedsAuxPower));
        var own = Taken("unlike: 1").Intake.Parts.All.OfType<MemoryStick>().First(m => m.Origin == Origin.Customer);
        Assert.All(unlike.OfType<MemoryStick>(), m => Assert.True(MemoryRun.AreOfDifferentKits(m, own)));
        var like = Shelf(Taken("few: 0"));
        Assert.Contains(like.OfType<GraphicsCard>(), c => !c.NeedsAuxPower);
    }

    [Fact]
    public void A_sign_is_drawn_from_what_ended_the_start_and_says_what_the_atlas_says_of_it()
    {
        var random = new Random(3);
        var now = Bench.Office(card: true).Job.Now;
        var names = Atlas
            .Standard.Modes.SelectMany(m => Enumerable.Range(0, 40).Select(_ => SignsSeen.Of(m, now, Atlas.Standard, random)))
            .SelectMany(s => SignNames.Of(s, null))
            .ToHashSet();
        Assert.True(names.Count >= 20, string.Join(" ", names));
    }

    [Theory]
    // A board thrown away for its settings is a good board thrown away, whatever unit the settings sit on.
    [InlineData("settings-bad", "board", Verdict.WrongPart)]
    [InlineData("board-no-post", "board", Verdict.Right)]
    [InlineData("stick-unseated", "stick-1", Verdict.WrongPart)]
    [InlineData("stick-dead", "stick-1", Verdict.Right)]
    // Firmware that is gone is written anew by nothing on a board that has no way of its own: another board is all that helps.
    [InlineData("firmware-corrupt", "board", Verdict.Right)]
    public void A_job_is_judged_by_what_takes_the_fault_away(string mode, string thrownOut, Verdict verdict)
    {
        var (world, _) = Hidden(mode, WorldSetting.Known);
        var bench = Bench
            .Office()
            .Shelf(Bench.Board("new-board", Origin.New), Bench.Stick("new-stick", Origin.New))
            .Trial("4")
            .Trial("6", Bench.Swap(thrownOut, thrownOut == "board" ? "new-board" : "new-stick"));
        var log = bench.Diagnosis;
        Assert.Equal(verdict, Judge.Of(log, world, world, new Decision(Phase.Done, AdviceKind.Done)).Verdict);
        // Given back as not reproduced while it acts here, it was sent home.
        var other = Bench.Office().Trial("6").Diagnosis;
        Assert.Equal(Verdict.SentHome, Judge.Of(other, world, world, new Decision(Phase.Done, AdviceKind.NotReproduced)).Verdict);
    }

    [Fact]
    public void A_campaign_in_shares_adds_up_to_the_same_bytes_as_one_run_and_a_line_that_was_broken_off_is_passed_over()
    {
        var world = Read("name: x\nsigns: true\ntechnician: { obeys: 0.8, forgets-plug: 0.1 }");
        CampaignJob Work(int job) => Campaign.Work("x", world, 5, job, Atlas.Standard, School.Advisor);
        string[] whole = [.. Enumerable.Range(0, 4).Select(j => Work(j).Write())];
        string[] shares = [Work(3).Write(), Work(1).Write(), Work(0).Write()[..40], Work(2).Write(), Work(0).Write(), Work(1).Write()];
        string Added(IEnumerable<string> lines)
        {
            var worlds = Campaign.Worlds(lines.Select(CampaignJob.Read).OfType<CampaignJob>());
            return Campaign.Table(worlds) + Campaign.Csv(worlds) + Campaign.Drawing(worlds);
        }

        Assert.Equal(Added(whole), Added(shares));
        var other = CampaignJob.Read(whole[0])! with { Seed = 6 };
        Assert.Contains(
            "different seeds",
            Assert.Throws<DataFileException>(() => Campaign.Worlds([CampaignJob.Read(whole[0])!, other])).Message
        );
    }

    [Theory]
    // Brown, Cai and DasGupta, Statistical Science 16 (2001) 101, give the formula; the values are by an independent calculator (R,
    // binom.confint, method "wilson"), from memory.
    [InlineData(0, 10, 0, 0.2775)]
    [InlineData(5, 10, 0.2366, 0.7634)]
    [InlineData(10, 10, 0.7225, 1)]
    [InlineData(8, 100, 0.0411, 0.1500)]
    public void The_interval_of_a_share_is_Wilsons(int hits, int of, double low, double high)
    {
        var interval = Learning.Share.Wilson(hits, of);
        Assert.Equal(low, interval.Low, 4);
        Assert.Equal(high, interval.High, 4);
    }

    private static Walk WalkOf(string name, string without = "\0") =>
        WalkReader.Read(
            File.ReadAllText(Path.Combine(Root, "tests/walks", $"{name}.yaml")).Replace(without, "", StringComparison.Ordinal),
            $"{name}.yaml",
            f => File.ReadAllText(Path.Combine(Root, "tests/walks", f)),
            Atlas.Standard
        );

    [Theory]
    [MemberData(nameof(Walks))]
    public void A_walk_goes_as_it_is_said_to_go_today(string name)
    {
        var walk = WalkOf(name);
        var result = walk.Follow(Atlas.Standard);
        Assert.True(
            walk.Passes == result.Broken.IsEmpty,
            $"{(walk.Passes ? "It is said to pass" : "It passes now: say so in the file")}. {string.Join("; ", result.Broken)}"
        );
    }

    [Fact]
    public void On_the_way_nothing_is_looked_at_twice_for_nothing_and_nothing_is_changed_for_the_sake_of_one_more_start()
    {
        // Nobody notes how it ended, so that more has to be tried.
        var taken = WalkOf("supply-under-load", ", signs: { ended: Restarted, minutes: \"6\" }").Follow(Atlas.Standard).Taken;
        var looks = taken.Select(t => t.Advice.Decision.Step).Where(s => s?.Check is not null).Select(s => (s!.Check!.Id, s.Checked!.Id));
        Assert.Contains(taken, t => t.Advice.Decision.Step is { Check.Powered: true });
        Assert.Distinct(looks);
        Assert.DoesNotContain(
            taken.SelectMany(t => t.Advice.Decision.Step?.Changes ?? []),
            c => c.Subject is { } id && taken[0].Read.Job.Now.Parts[id].Kind == UnitKind.VideoCable
        );
        var control = taken.First(t => t.Advice.Decision.Kind == AdviceKind.Control);
        Assert.Contains(
            control.Read.Job.Now.The(control.Advice.Decision.Fault!.Unit),
            PlainAdvice.Of(control.Advice, control.Read).Reason,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Under_load_a_change_that_is_nothing_to_it_is_worth_no_more_than_the_run_again()
    {
        // It freezes one run in three: the monitor's place, its settings and its seat have nothing to do with that.
        var taken = WalkOf("freezing-drive").Follow(Atlas.Standard).Taken;
        Assert.DoesNotContain(
            taken.SelectMany(t => t.Advice.Decision.Step?.Changes ?? []),
            c => c is Change.DisplayAt || c.Subject?.Value == "monitor"
        );
        Assert.Contains(taken, t => t.Advice.Decision.Step is { Changes: [Change.Remove, Change.Choose], Kind: StartKind.Load });
    }

    [Fact]
    public void What_only_restores_accuses_no_part_when_it_helps_and_every_reason_says_what_it_would_tell()
    {
        var restored = 0;
        foreach (var name in new[] { "settings", "standoff", "dead-stick", "bent-pin", "flat-cell" })
        {
            foreach (var taken in WalkOf(name).Follow(Atlas.Standard).Taken)
            {
                var reason = PlainAdvice.Of(taken.Advice, taken.Read).Reason;
                Assert.DoesNotContain("strengthens or weakens", reason, StringComparison.Ordinal);
                if (taken.Advice.Decision is not { Kind: AdviceKind.TellsMost, Step.Changes: [Change.ClearCmos or Change.Reseat] })
                    continue;
                restored++;
                Assert.Matches("^If it (starts|holds), it was (the settings|its seat)\\.", reason);
            }
        }

        Assert.True(restored > 0);
    }

    [Fact]
    public void What_a_look_found_is_put_right_next_and_only_where_it_may_be_that()
    {
        static Decision After(params (string Look, string Unit, bool Found)[] looks)
        {
            var bench = Bench.Office(extension: false).Trial("4");
            foreach (var (look, unit, found) in looks)
                bench.Finding(look, unit, found);
            return Planner.Decide(bench.Diagnosis, School.Advisor, Preferences.Usual);
        }

        var cell = After(("meter-battery", "board", true));
        Assert.Equal(AdviceKind.MendWhatWasFound, cell.Kind);
        Assert.Equal(new Change.Mend(Remedy.NewCell, new UnitId("board")), Assert.Single(cell.Step!.Changes));
        Assert.NotEqual(AdviceKind.MendWhatWasFound, After(("meter-battery", "board", false)).Kind);
        // The rear switch was seen to be on: what the tester finds is not that.
        Assert.NotEqual(AdviceKind.MendWhatWasFound, After(("look-plugs", "supply", false), ("test-supply", "supply", true)).Kind);
    }

    [Theory]
    [InlineData("not out stick-2", "on the moon", "is no condition")]
    [InlineData("job: office.json", "job: other.json", "other.json")]
    [InlineData("{ say: it is found, out: stick-2, by: 20 }", "{ say: x, look: look-at-me, by: 2 }", "there is no look \"look-at-me\"")]
    [InlineData("{ sees: \"6-8\" }", "{ sees: \"6-8\", every: 2 }", "the last rule must hold always")]
    [InlineData("sees: \"4-5\"", "sees: dark", "expected a stage")]
    [InlineData("today: passes", "today: perhaps", "expected passes or fails")]
    public void A_walk_that_is_wrong_is_refused_with_its_line(string good, string bad, string told)
    {
        var folder = Path.Combine(Root, "tests/walks");
        var text = File.ReadAllText(Path.Combine(folder, "dead-stick.yaml"));
        Assert.Contains(good, text, StringComparison.Ordinal);
        var error = Assert.Throws<DataFileException>(() =>
            WalkReader.Read(
                text.Replace(good, bad, StringComparison.Ordinal),
                "walk.yaml",
                f => File.ReadAllText(Path.Combine(folder, f)),
                Atlas.Standard
            )
        );
        Assert.Contains("walk.yaml line", error.Message, StringComparison.Ordinal);
        Assert.Contains(told, error.Message, StringComparison.Ordinal);
    }
}
