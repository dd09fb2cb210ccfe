using System.Collections.Immutable;
using System.Diagnostics.Metrics;
using System.Text.RegularExpressions;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Training;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>How the house is built: one policy, one table of fields, one replay, one figure, one order of events.</summary>
public class HouseTests
{
    private static readonly string Docs = Path.Combine(
        AppContext.BaseDirectory[..AppContext.BaseDirectory.IndexOf("/tests/", StringComparison.Ordinal)],
        "docs"
    );

    [Fact]
    public void The_schema_and_the_tables_of_fields_in_the_documentation_are_what_the_code_has()
    {
        Assert.Equal(JobDocument.Schema(), File.ReadAllText(Path.Combine(Docs, "job.schema.json")));
        var text = File.ReadAllText(Path.Combine(Docs, "formats.md"));
        foreach (
            var (name, made) in new[]
            {
                ("intake", JobDocument.IntakeTable()),
                ("units", JobDocument.UnitTable()),
                ("steps", JobDocument.StepTable()),
                ("signs", JobDocument.SignsTable()),
                ("changes", JobDocument.ChangeTable()),
                ("places", JobDocument.PlaceTable()),
            }
        )
            Assert.Contains($"<!-- made: {name} -->\n{made}<!-- end -->", text);
    }

    /// <summary>A value for every row, none of them the usual one.</summary>
    private static Signs EverythingNoted()
    {
        var signs = SignKinds.All.Aggregate(
            Signs.None,
            (noted, kind) =>
                kind.Read(
                    noted,
                    kind.Range is { Step: < 1 } r ? $"{r.Least + (r.Most - r.Least) / 8:0.##}"
                        : kind.Range is { } whole ? $"{whole.Least + 1}"
                        : kind.Answers is [.., var last] ? last.Value
                        : kind == SignKinds.Code ? "55"
                        : kind.Hint
                )
        );
        Assert.All(SignKinds.All, kind => Assert.NotEqual(signs, kind.Read(signs, "")));
        Assert.All(SignKinds.All, kind => Assert.Equal(kind.Copy(signs, Signs.None), kind.Read(Signs.None, kind.Typed(signs))));
        return signs;
    }

    [Theory]
    [InlineData("temperature", "151", "it is -20 to 150 °C")]
    [InlineData("temperature", "NaN", "it is -20 to 150 °C")]
    [InlineData("waited", "-1", "it is 0 to 7200 s")]
    [InlineData("waited", "1.5", "a whole number is expected")]
    [InlineData("volts", "twelve", "a number is expected")]
    [InlineData("ended", "99", "one of the answers is expected")]
    [InlineData("profile-on", "perhaps", "true or false is expected")]
    [InlineData("beeps", "loud", "\"loud\" is not")]
    [InlineData("code", "123456789", "8 is the most")]
    public void What_a_sign_cannot_be_is_refused_by_its_row(string key, string typed, string why)
    {
        var kind = SignKinds.All.Single(k => k.Key == key);
        Assert.Contains(why, Assert.Throws<ArgumentException>(() => kind.Read(Signs.None, typed)).Message);
        Assert.Equal(Signs.None, kind.Read(Signs.None, " "));
    }

    [Fact]
    public void Signs_are_the_same_when_the_same_was_noted()
    {
        var signs = new Signs { Volts = 12.1, Code = "55" };
        Assert.Equal(signs, SignKinds.Volts.Read(new Signs { Code = "55" }, "12,1"));
        Assert.Equal(signs.GetHashCode(), (new Signs { Code = "55" } with { Volts = 12.1 }).GetHashCode());
        Assert.NotEqual(signs, signs with { Volts = null });
        Assert.Equal("code 55; 12 V rail 12.1 V", signs.ToString());
        Assert.Same(Signs.None, SignKinds.Motion.Read(Signs.None, "Stuck"));
        Assert.Equal(SignKinds.All.Length, SignKinds.All.Select(k => k.Field).Distinct().Count());
        // Every row that the bench asks for stands at one place of it.
        Assert.Equal(SignKinds.All.Length, Enum.GetValues<SignPlace>().Sum(p => SignKinds.At(p).Count()));
    }

    [Fact]
    public void Every_kind_of_line_with_everything_set_is_written_and_read_back()
    {
        // Long: it lists every kind of line.
        var at = new DateTimeOffset(2026, 3, 1, 9, 30, 15, TimeSpan.FromHours(5.75));
        var signs = EverythingNoted();
        var trial = new TrialEntry(
            Guid.NewGuid(),
            [Remove("drive")],
            StageRange.At(BootStage.CutsOut),
            new StallSignal([0.1, 0.2, 0.3, 0.4, 0.5, 0.6])
        )
        {
            Button = ButtonTest.NoResponse,
            Signs = signs,
        };
        var note = new NoteEntry(Guid.NewGuid()) { Note = "late" };
        Entry[] lines =
        [
            trial,
            new FindingEntry(Guid.NewGuid(), "look-plugs", new("supply"), true),
            new ClaimEntry(Guid.NewGuid(), [Clear], StageRange.At(BootStage.RestartLoop)),
            new ElsewhereEntry(Guid.NewGuid(), new("stick-1"), true),
            new WorkEntry(Guid.NewGuid(), [Show("board/VGA")]),
            new ArrivalEntry(Guid.NewGuid(), Stick("late", Origin.New) with { Serial = "S 1", FittedByOwner = true }),
            new ArrivalEntry(
                Guid.NewGuid(),
                Board("late-board", Origin.Shelf) with
                {
                    Tables = ["aptio"],
                    Firmware = 12,
                    FlashesWithoutCpu = true,
                }
            ),
            new NoteEntry(Guid.NewGuid()) { Note = "words" },
            new StrikeEntry(Guid.NewGuid(), trial.Id, "wrong", trial with { Signs = Signs.None }) { Also = [] },
            new InsertEntry(note.Id, trial.Id, note, "forgotten"),
        ];
        foreach (
            var line in lines.Select(l =>
                l with
                {
                    By = "Ada Fenn",
                    At = at,
                    AtlasVersion = "7",
                    Rules = "0123456789ab",
                    Live = "in a hurry",
                    Note = l.Note.Length > 0 ? l.Note : "n",
                }
            )
        )
        {
            var again = JobFormat.ReadEntry(JobFormat.Write(line));
            Assert.Equal(JobFormat.Write(line), JobFormat.Write(again));
            Assert.Equal(
                (line.Id, line.By, line.At, line.AtlasVersion, line.Rules, line.Live, line.Note),
                (again.Id, again.By, again.At, again.AtlasVersion, again.Rules, again.Live, again.Note)
            );
            Assert.Equal(TimeSpan.Zero, again.At.Offset);
        }

        var read = Assert.IsType<TrialEntry>(JobFormat.ReadEntry(JobFormat.Write(trial)));
        Assert.Equal((signs, trial.Stall, trial.Button, trial.Seen), (read.Signs, read.Stall, read.Button, read.Seen));
        Assert.True(trial.Changes.SequenceEqual(read.Changes));
        var board = Assert.IsType<Motherboard>(Assert.IsType<ArrivalEntry>(JobFormat.ReadEntry(JobFormat.Write(lines[6]))).Unit);
        Assert.Equal((12, true, "aptio"), (board.Firmware, board.FlashesWithoutCpu, board.Tables[0]));
    }

    [Fact]
    public void A_file_of_version_1_is_read_and_the_hand_written_numbers_with_it()
    {
        var text = JobFormat
            .Write(Office().Trial("4-5").Trial("4-5").Job)
            .Replace("\"version\": 2", "\"version\": 1", StringComparison.Ordinal);
        Assert.Equal(2, JobFormat.Read(text).Trials.Length);
        var steps =
            text[..text.IndexOf("\"steps\"", StringComparison.Ordinal)]
            + """
                "steps": [ { "kind": "trial", "seen": "4-5" }, { "kind": "trial", "seen": "6-8" },
                  { "kind": "strike", "struck": 2, "reason": "mis-seen", "replacement": { "kind": "trial", "seen": "4" } },
                  { "kind": "insert", "before": 1, "reason": "late", "line": { "kind": "note", "note": "first" } } ] }
                """;
        var job = JobFormat.Read(steps);
        Assert.Equal([4, 1, 2, 3], job.InOrder.Select(l => l.Number));
        Assert.Equal(BootStage.RunsNoPost, job.Trials[1].Seen.High);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_file_is_blamed_at_the_step_without_replaying_it_again_and_again(bool broken)
    {
        var steps = Enumerable
            .Range(0, 1500)
            .Select(i =>
                $$"""{ "kind": "trial", "changes": ["{{(i % 2 == 0 ? "remove stick-2" : "fit stick-2 memory.B2")}}"], "seen": "4-5" }"""
            )
            .ToList();
        if (broken)
            steps[^1] = """{ "kind": "trial", "changes": ["remove ghost"], "seen": "4-5" }""";
        var text = JobFormat.Write(Office().Job);
        text = text[..text.IndexOf("\"steps\"", StringComparison.Ordinal)] + $"\"steps\": [{string.Join(',', steps)}] }}";
        long replays = 0;
        using var listener = new MeterListener
        {
            InstrumentPublished = (i, l) =>
            {
                if (i.Name == "kelvet.log.replays")
                    l.EnableMeasurementEvents(i);
            },
        };
        var mine = Environment.CurrentManagedThreadId;
        listener.SetMeasurementEventCallback<long>(
            (_, n, _, _) =>
            {
                if (Environment.CurrentManagedThreadId == mine)
                    replays += n;
            }
        );
        listener.Start();
        if (broken)
            Assert.Contains("$.steps[1499]: There is no unit ghost", Assert.Throws<DataFileException>(() => JobFormat.Read(text)).Message);
        else
            Assert.Equal(1500, JobFormat.Read(text).Trials.Length);
        Assert.Equal(1, replays);

        // A line that only follows on is worked in without replaying what stood before.
        var job = Office().Trial("4-5").Job;
        replays = 0;
        for (var i = 0; i < 20; i++)
            job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)));
        Assert.Equal(0, replays);
        _ = job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[0].Id, "wrong"));
        Assert.Equal(1, replays);
    }

    [Fact]
    public void Bench_and_simulation_decide_alike()
    {
        foreach (var school in School.Standard)
        {
            for (var index = 0; index < 2; index++)
            {
                var log = Simulation.Job(index, 31, [school], Atlas.Standard, 1)[0].Log.Job;
                for (var n = 1; n <= Math.Min(8, log.Lines.Length); n++)
                {
                    var diagnosis = BenchDiagnosis.Of(log.AfterLines(n), Atlas.Standard);
                    var advice = Planner.Advise(diagnosis, school);
                    var decision = Planner.Decide(diagnosis, school, Preferences.Usual);
                    Assert.Equal((advice.Decision.Kind, advice.Next?.Candidate.Key), (decision.Kind, decision.Step?.Key));

                    // What was played next is what the bench would have proposed.
                    if (n < log.Lines.Length && decision.Step is { } step)
                    {
                        var played = log.Entries[n] switch
                        {
                            TrialEntry t => new StepKey(new ValueList<Change>(t.Changes), null, null),
                            FindingEntry f => new StepKey(new ValueList<Change>([]), f.Check, f.Unit),
                            _ => null,
                        };
                        if (played is null || played == step.Key)
                            continue;

                        // Two sticks that stand alike are as good as each other.
                        var equal = advice.Alternatives.FirstOrDefault(a => a.Candidate.Key == played);
                        Assert.NotNull(equal);
                        // As good as far as what is left out of the sums allows.
                        Assert.InRange(equal.Rate / advice.Next!.Rate, 0.98, 1.02);
                    }
                }
            }
        }
    }

    [Fact]
    public void Coming_and_going_is_counted_over_one_and_the_same_machine()
    {
        var other = Office()
            .Trial("4-5")
            .Trial("6", Remove("stick-2"))
            .Trial("4-5", Fit("stick-2", "memory.B2"))
            .Trial("6", Remove("stick-2"));
        Assert.Null(Intermittence.In(other.Job));
        var same = Office().Trial("4-5").Trial("6").Trial("4-5").Trial("6").Trial("6");
        Assert.Equal(new Intermittence(2, 5, 2), Intermittence.In(same.Job));
        var mended = same.Trial("6", new Change.Reseat(new("stick-1")));
        Assert.Equal(new Intermittence(2, 5, 1), Intermittence.In(mended.Job));
        Assert.Equal(CleanStarts.Needed(2, 5), Intermittence.In(mended.Job)!.Needed);
        Assert.Contains("2 of 5 starts of the same machine", Intermittence.In(mended.Job)!.Words());
    }

    [Fact]
    public void A_proof_is_told_in_the_order_in_which_it_happened()
    {
        var bench = Office()
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf))
            .Trial("2")
            .Trial("6", Swap("supply", "spare-supply"))
            .Trial("2", Swap("spare-supply", "supply"))
            .Trial("6", Swap("supply", "spare-supply"));
        var proof = bench.Diagnosis.Of("supply").Proof;
        Assert.True(proof.TwoWay);
        var lines = Regex
            .Matches(proof.Story(), @"start (\d+)")
            .Select(m => int.Parse(m.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture))
            .ToArray();
        Assert.Equal(lines.Order(), lines);
        Assert.Equal(lines.Distinct(), lines);
        Assert.StartsWith("With it the machine failed (start 1: cuts out); without it the machine passed (start 2:", proof.Story());
        Assert.Contains("with it back the machine failed (start 3", proof.Story());
    }

    [Fact]
    public void One_outlook_is_what_the_advice_and_the_report_show()
    {
        var bench = Office()
            .Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf))
            .Trial("2")
            .Trial("6", Swap("supply", "spare-supply"))
            .Trial("2", Swap("spare-supply", "supply"))
            .Trial("6", Swap("supply", "spare-supply"));
        for (var i = 0; i < 4; i++)
            bench.Trial("6");
        var diagnosis = bench.Diagnosis;
        var advice = Planner.Advise(diagnosis);
        Assert.Equal(Phase.Done, advice.Phase);
        Assert.Equal(Outlook.Of(diagnosis).Left, advice.Decision.Probability);
        Assert.Equal(Percent.Words(advice.Decision.Probability), CaseRecord.Of(diagnosis, Preferences.Usual).Left);
        Assert.Contains(CaseRecord.Of(diagnosis, Preferences.Usual).Left, advice.Words());
    }

    [Theory]
    [InlineData(Safety.TrippedBreaker, PowerBlock.SupplyTripped)]
    [InlineData(Safety.Smell, PowerBlock.SupplyBurnt)]
    [InlineData(Safety.Wet, PowerBlock.LookForDamp)]
    public void What_must_not_be_powered_is_made_safe_before_anything_is_tried(string context, PowerBlock block)
    {
        var bench = Office();
        bench.Contexts = [context];
        var none = Planner.Advise(bench.Diagnosis);
        Assert.Equal((Phase.MakeSafe, block), (none.Phase, none.Decision.Block));
        var advice = Planner.Advise(With(context).Diagnosis);
        if (context == Safety.Wet)
            Assert.Equal(Safety.LookForDamp, advice.Next!.Candidate.Check!.Id);
        else
            Assert.Equal(Swap("supply", "spare-supply"), Assert.Single(advice.Next!.Candidate.Changes));
        if (context != Safety.Wet)
            Assert.Equal(UnitKind.Supply, none.Missing!.Kind);

        static Bench With(string context)
        {
            var bench = Office();
            bench.Contexts = [context];
            return bench.Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        }
    }

    [Fact]
    public void A_supply_that_is_never_powered_again_is_in_no_proposal()
    {
        var bench = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf), Stick("spare-stick", Origin.Shelf));
        bench.Contexts = [Safety.TrippedBreaker];
        foreach (var seen in new[] { "4-5", "6", "6", "6" })
        {
            bench.Trial(seen, bench.Job.Trials.Length == 0 ? [Swap("supply", "spare-supply")] : []);
            var advice = Planner.Advise(bench.Diagnosis);
            Assert.All(
                new[] { advice.Next }.OfType<Assessment>().Concat(advice.Alternatives).Concat(advice.Pointless).Concat(advice.WithAPart),
                a => Assert.NotEqual(new UnitId("supply"), a.Candidate.After.Now[Place.Supply])
            );
            Assert.NotEqual(new UnitId("supply"), Planner.Repaired(bench.Diagnosis)[Place.Supply]);
        }
    }

    [Fact]
    public void What_the_ear_was_less_sure_of_weighs_less()
    {
        static double Ratio(double sure)
        {
            var signal = SignalEvidence.Of(
                new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost))
                {
                    Signs = new Signs { Beeps = "3 short", BeepsSure = sure },
                },
                Board("board") with
                {
                    Tables = ["ami-beeps"],
                },
                SignalLibrary.Standard
            )!;
            return signal.Likelihoods.Max() / signal.Likelihoods.Min();
        }

        Assert.True(Ratio(1) > Ratio(0.98));
        Assert.True(Ratio(0.98) > Ratio(0.6));
        Assert.True(Ratio(0.6) > Ratio(0.2));
        Assert.True(Ratio(0.2) > 1);
    }

    [Fact]
    public void Rules_have_an_id_that_is_theirs_alone()
    {
        var odds = Atlas.Standard.Modes.ToImmutableSortedDictionary(m => m.Id, m => m.Odds, StringComparer.Ordinal);
        var rules = new RuleSet("7", "0.1.0", odds, "");
        Assert.Matches("^[0-9a-f]{12}$", rules.Id);
        Assert.Equal(rules.Id, new RuleSet("7", "0.1.0", odds, "").Id);
        string[] others =
        [
            new RuleSet("8", "0.1.0", odds, "").Id,
            new RuleSet("7", "0.2.0", odds, "").Id,
            new RuleSet("7", "0.1.0", odds, "{}").Id,
            new RuleSet("7", "0.1.0", odds.SetItem("stick-dead", 0.5), "").Id,
        ];
        Assert.Equal(5, others.Append(rules.Id).Distinct().Count());
    }

    [Fact]
    public void What_a_job_taught_is_taken_off_again_exactly()
    {
        var parts = Office().Job.Now.Parts;
        var taught = Experience.Contribution(Atlas.Standard, new ProvedJob(parts, [], ["supply-weak"]));
        Assert.Equal(1, taught["supply-weak"].Cases);
        Assert.Equal(default, taught["supply-weak"] - taught["supply-weak"]);
        Assert.Equal(
            Experience.Of(Atlas.Standard, [new ProvedJob(parts, [], ["supply-weak"])]).Select(l => l.Odds),
            Experience.Of(Atlas.Standard, taught).Select(l => l.Odds)
        );
    }

    [Theory]
    [InlineData("=1+1")]
    [InlineData("+1")]
    [InlineData("-2")]
    [InlineData("@SUM(A1)")]
    public void What_a_spreadsheet_would_compute_is_defused_and_comes_back_as_it_was(string formula)
    {
        var row = SignalLibrary.Standard.Table("pc-beeps")!.Rows[0] with { Meaning = formula };
        var table = SignalLibrary.Standard.Table("pc-beeps")! with { Name = $"a, {formula}", Rows = [row] };
        var text = SignalTableFile.Write(table);
        Assert.DoesNotContain(
            text.Split('\n').SelectMany(l => l.Split(',')),
            cell => cell.Trim('"', ' ').StartsWith(formula, StringComparison.Ordinal)
        );
        var again = SignalTableFile.Read(text, "t");
        Assert.Equal((formula, $"a, {formula}"), (again.Rows[0].Meaning, again.Name));
    }

    [Fact]
    public void Intakes_that_would_cost_minutes_are_capped_at_once()
    {
        var text = JobFormat.Write(Office().Job);
        var many = string.Join(',', Enumerable.Repeat("\"old\"", 100_000));
        Assert.Contains(
            "40, the most",
            Assert
                .Throws<DataFileException>(() =>
                    JobFormat.Read(text.Replace("\"units\"", $"\"contexts\": [{many}], \"units\"", StringComparison.Ordinal))
                )
                .Message
        );
        var places = string.Join(',', Enumerable.Range(0, 30_000).Select(i => $"\"storage.{i}\": \"drive\""));
        Assert.Contains(
            "80 places, the most",
            Assert
                .Throws<DataFileException>(() =>
                    JobFormat.Read(Regex.Replace(text, "\"fitted\": \\{[^}]*\\}", $"\"fitted\": {{{places}}}"))
                )
                .Message
        );
    }
}
