using System.Collections.Immutable;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Training;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

public class MinimalDiagnosesTests
{
    private static string[] Sets(params string[][] conflicts) =>
        [.. MinimalSets.HittingSets(conflicts.Select(c => (IReadOnlyCollection<string>)c), 5).Select(s => string.Join(',', s))];

    /// <summary>J. de Kleer and B. C. Williams, "Diagnosing multiple faults", Artificial Intelligence 32 (1987): the polybox.</summary>
    [Fact]
    public void The_polybox_has_the_published_minimal_diagnoses() =>
        Assert.Equal(["A1", "M1", "A2,M2", "M2,M3"], Sets(["A1", "M1", "M2"], ["A1", "A2", "M1", "M3"]));

    /// <summary>R. Reiter, "A theory of diagnosis from first principles", Artificial Intelligence 32 (1987): the full adder.</summary>
    [Fact]
    public void The_full_adder_has_the_published_diagnoses() =>
        Assert.Equal(["X1", "A2,X2", "O1,X2"], Sets(["X1", "X2"], ["X1", "A2", "O1"]));

    [Property(MaxTest = 100)]
    public Property Hitting_sets_are_those_that_trying_every_subset_finds() =>
        Prop.ForAll(
            Gen.Choose(0, 1_000_000).ToArbitrary(),
            seed =>
            {
                var random = new System.Random(seed);
                var conflicts = Enumerable
                    .Range(0, random.Next(1, 6))
                    .Select(_ => Enumerable.Range(0, 7).Where(_ => random.Next(3) == 0).DefaultIfEmpty(random.Next(7)).ToArray())
                    .ToArray();
                var hitting = Enumerable.Range(0, 1 << 7).Where(m => conflicts.All(c => c.Any(x => (m >> x & 1) == 1))).ToArray();
                var minimal = hitting.Where(m => !hitting.Any(o => o != m && (o & m) == o)).Order().ToArray();
                var found = MinimalSets
                    .HittingSets(conflicts.Select(c => (IReadOnlyCollection<int>)c), 7)
                    .Select(s => s.Sum(x => 1 << x))
                    .Order()
                    .ToArray();
                Assert.Equal(minimal, found);
            }
        );

    /// <summary>
    /// Against Google OR-Tools' CP-SAT on sizes that trying every subset does not reach: solved again and again for the
    /// smallest set, each answer and its supersets forbidden, it lists exactly the minimal ones.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    public void Hitting_sets_agree_with_a_general_solver(int seed)
    {
        const int Largest = 6;
        var random = new System.Random(seed);
        var conflicts = Enumerable
            .Range(0, 9)
            .Select(_ => Enumerable.Range(0, 30).OrderBy(_ => random.Next()).Take(random.Next(2, 5)).ToArray())
            .ToArray();
        var model = new Google.OrTools.Sat.CpModel();
        var member = Enumerable.Range(0, 30).Select(i => model.NewBoolVar($"m{i}")).ToArray();
        foreach (var conflict in conflicts)
            model.AddBoolOr(conflict.Select(i => member[i]));
        model.Minimize(Google.OrTools.Sat.LinearExpr.Sum(member));
        var expected = new List<string>();
        while (true)
        {
            var solver = new Google.OrTools.Sat.CpSolver { StringParameters = "num_workers:1" };
            if (solver.Solve(model) != Google.OrTools.Sat.CpSolverStatus.Optimal || solver.ObjectiveValue > Largest)
                break;
            var set = Enumerable.Range(0, 30).Where(i => solver.BooleanValue(member[i])).ToArray();
            expected.Add(string.Join(',', set));
            model.AddBoolOr(set.Select(i => member[i].Not()));
        }

        var found = MinimalSets.HittingSets(conflicts.Select(c => (IReadOnlyCollection<int>)c), Largest).Select(s => string.Join(',', s));
        Assert.NotEmpty(expected);
        Assert.Equal(expected.Order(StringComparer.Ordinal), found.Order(StringComparer.Ordinal));
    }

    [Fact]
    public void The_smallest_explanations_of_a_story_name_its_part()
    {
        var alone = MinimalDiagnoses
            .Of(StoryTests.CutsOutOnItsSupply().Diagnosis)
            .Where(m => m.Count == 1)
            .SelectMany(m => m)
            .Select(u => u.Value)
            .ToArray();
        Assert.Contains("supply", alone);
        Assert.DoesNotContain(alone, u => u is "stick-1" or "stick-2" or "card" or "drive" or "extension" or "cpu");
        Assert.Contains(MinimalDiagnoses.Of(StoryTests.BlackInOneSlot().Diagnosis), m => m.Count == 1 && m.Contains(new UnitId("cpu")));
    }
}

public class InvarianceTests
{
    private static Dictionary<string, double> Units(BenchDiagnosis d) => d.Suspects.ToDictionary(s => s.Unit.Id.Value, s => s.Probability);

    [Fact]
    public void The_order_of_looks_does_not_matter()
    {
        FindingEntry[] looks =
        [
            new(Guid.NewGuid(), "look-plugs", new UnitId("supply"), false),
            new(Guid.NewGuid(), "look-stick", new UnitId("stick-1"), true),
            new(Guid.NewGuid(), "look-board", new UnitId("board"), false),
        ];
        var job = Office().Trial("4").Job;
        var one = Units(BenchDiagnosis.Of(job.With(looks), Atlas.Standard));
        var other = Units(BenchDiagnosis.Of(job.With(looks.Reverse()), Atlas.Standard));
        Assert.All(one, u => Assert.Equal(u.Value, other[u.Key], 1e-12));
    }

    [Fact]
    public void Renaming_units_changes_nothing()
    {
        var job = StoryTests.BlackInOneSlot().Job;
        var text = JobFormat.Write(job);
        foreach (var id in job.Now.Parts.All.Select(u => u.Id.Value).OrderByDescending(i => i.Length))
            text = System.Text.RegularExpressions.Regex.Replace(text, $"(?<=[\" ]){id}(?=[\" ])", $"zz-{id}");
        text = text.Replace("\"zz-", "\"zz-", StringComparison.Ordinal)
            .Replace("\"zz-board\":", "\"board\":")
            .Replace("\"zz-supply\":", "\"supply\":")
            .Replace("\"zz-switch\":", "\"switch\":")
            .Replace("\"zz-cpu\":", "\"cpu\":")
            .Replace("\"zz-cooler\":", "\"cooler\":")
            .Replace("\"zz-cable\":", "\"cable\":")
            .Replace("\"zz-monitor\":", "\"monitor\":")
            .Replace("\"zz-extension\":", "\"extension\":")
            .Replace("\"kind\": \"zz-", "\"kind\": \"");
        var renamed = Units(BenchDiagnosis.Of(JobFormat.Read(text), Atlas.Standard));
        Assert.All(Units(BenchDiagnosis.Of(job, Atlas.Standard)), u => Assert.Equal(u.Value, renamed[$"zz-{u.Key}"], 1e-9));
    }

    [Fact]
    public void An_irrelevant_spare_changes_no_posterior_by_more_than_its_own_prior()
    {
        var without = StoryTests.CutsOutOnItsSupply().Diagnosis;
        var with = BenchDiagnosis.Of(
            StoryTests.CutsOutOnItsSupply().Job.Append(new ArrivalEntry(Guid.NewGuid(), Stick("idle", Origin.Shelf))),
            Atlas.Standard
        );
        var prior = with.Of("idle").Prior;
        Assert.All(without.Suspects, s => Assert.Equal(s.Probability, with.P(s.Unit.Id.Value), prior));
    }

    [Fact]
    public void A_cleared_unit_rises_again_when_the_evidence_turns()
    {
        var bench = Office().Trial("6").Trial("6");
        var cleared = bench.Diagnosis;
        Assert.Equal(Standing.Cleared, cleared.Of("extension").Standing);
        var turned = bench.Trial("0").Trial("0").Diagnosis;
        Assert.True(turned.P("extension") > 3 * cleared.P("extension"));
        Assert.NotEqual(Standing.Cleared, turned.Of("extension").Standing);
    }

    [Fact]
    public void One_more_line_gives_the_same_as_reading_the_whole_log()
    {
        var whole = StoryTests.TwoFaults().Job;
        var grown = whole.Entries.Aggregate(BenchDiagnosis.Of(BenchJob.Open(whole.Intake), Atlas.Standard), (d, e) => d.After(e));
        Assert.All(Units(BenchDiagnosis.Of(whole, Atlas.Standard)), u => Assert.Equal(u.Value, grown.P(u.Key), 1e-9));
    }

    [Fact]
    public void Leaving_a_line_out_by_division_agrees_with_leaving_it_out_for_good()
    {
        var d = StoryTests.BlackInOneSlot().Diagnosis;
        double LogOdds(double p) => Math.Log(p / (1 - p));
        int[] board = [.. d.Inference.FaultOf.Select(f => d.Faults[f].Unit.Id.Value == "board" ? 0 : 1)];
        var weights = Weight.On(d, new UnitId("board"));
        for (var i = 0; i < d.Evidence.Length; i++)
        {
            var without = Posterior.Of(d.Inference.Makeup, [.. d.Evidence.Where((_, j) => j != i).Select(e => e.Column)]);
            Assert.Equal(LogOdds(d.P("board")) - LogOdds(without.Marginals(board, 2)[0]), weights[i].LogRatio, 0.02);
        }
    }

    [Property(MaxTest = 200)]
    public Property A_spoiled_case_file_is_read_or_refused_and_nothing_else() =>
        Prop.ForAll(
            Gen.Choose(0, 1_000_000_000).ToArbitrary(),
            seed =>
            {
                var random = new System.Random(seed);
                var text = JobFormat.Write(StoryTests.TwoFaults().Job).ToCharArray().ToList();
                const string Alphabet = "{}[]\",:0123456789-eE.abcdefxyz/\\ \n\u0000";
                for (var n = random.Next(1, 8); n > 0; n--)
                {
                    var at = random.Next(text.Count);
                    switch (random.Next(4))
                    {
                        case 0:
                            text.RemoveRange(at, Math.Min(random.Next(1, 40), text.Count - at));
                            break;
                        case 1:
                            text.Insert(at, Alphabet[random.Next(Alphabet.Length)]);
                            break;
                        case 2:
                            text[at] = Alphabet[random.Next(Alphabet.Length)];
                            break;
                        default:
                            text.InsertRange(at, text.GetRange(at, Math.Min(random.Next(1, 60), text.Count - at)));
                            break;
                    }
                }

                try
                {
                    _ = JobFormat.Read(new string([.. text]));
                }
                catch (DataFileException e)
                {
                    Assert.NotEmpty(e.Message);
                }
            }
        );

    [Theory]
    [InlineData("10,000 steps", "more than 2000 steps, the most")]
    [InlineData("64 sticks", "at most 80 units")]
    [InlineData("deep", "is not JSON")]
    [InlineData("huge number", "is not from 0 to 1024")]
    public void What_is_too_large_is_refused_in_words(string what, string words)
    {
        var text = JobFormat.Write(Office().Trial("4").Job);
        text = what switch
        {
            "10,000 steps" => text.Replace(
                "\"steps\": [",
                "\"steps\": [" + string.Concat(Enumerable.Repeat("{\"kind\":\"note\",\"note\":\"x\"},", 9999))
            ),
            "64 sticks" => text.Replace(
                "\"units\": [",
                "\"units\": ["
                    + string.Concat(
                        Enumerable.Range(0, 70).Select(i => $"{{\"id\":\"more-{i}\",\"kind\":\"memory-stick\",\"name\":\"s\"}},")
                    )
            ),
            "deep" => new string('[', 5000),
            _ => text.Replace("\"gb\": 8", "\"gb\": 1e300"),
        };
        Assert.Contains(words, Assert.Throws<DataFileException>(() => JobFormat.Read(text)).Message);
    }

    [Fact]
    public void A_machine_with_very_many_faults_gets_a_bounded_answer()
    {
        var bench = Office();
        for (var i = 0; i < 60; i++)
            bench.Shelf(Stick($"stick-{i + 3}", Origin.Customer));
        var d = bench.Trial("4").Trial("6", Remove("stick-2")).Diagnosis;
        Assert.True(d.Faults.Length > 250);
        Assert.InRange(d.Posterior.LeftOut, 0, 0.2);
        Assert.All(d.Suspects, s => Assert.InRange(s.Probability, 0, 1));
    }
}

public class SchoolTests
{
    [Fact]
    public void The_same_seed_gives_the_same_outcomes()
    {
        JobResult Run() => Simulation.Job(3, 11, [School.Advisor], Atlas.Standard, 1)[0].Result;
        Assert.Equal((Run().Verdict, Run().Minutes, Run().Trials), (Run().Verdict, Run().Minutes, Run().Trials));
    }

    [Fact]
    public void The_advisor_is_faster_than_every_fixed_order_and_no_less_often_right()
    {
        var outcomes = Enumerable
            .Range(0, 24)
            .AsParallel()
            .AsOrdered()
            .Select(i => Simulation.Job(i, 4, School.Standard, Atlas.Standard, 1).Select(w => w.Result).ToArray())
            .ToArray();
        SchoolResult[] results = [.. School.Standard.Select((s, n) => SchoolResult.Of(s.Id, [.. outcomes.Select(o => o[n])]))];
        Assert.All(
            results.Skip(1),
            // One job of so few is luck.
            r => Assert.True(results[0].MeanMinutes <= 0.95 * r.MeanMinutes && results[0].Right >= r.Right - 1, $"{results[0]} {r}")
        );
        Assert.True(results[0].RightShare >= 0.9 && results[0].WrongPart == 0, results[0].ToString());
    }

    [Fact]
    public void A_fixed_order_does_first_what_comes_first()
    {
        var easy = School.Standard.Single(s => s.Id == "easy-first");
        var d = Office(card: true).Shelf(Stick("spare-stick", Origin.Shelf)).Trial("4").Diagnosis;
        Assert.Equal(Clear, Assert.Single(Planner.Advise(d, easy).Next!.Candidate.Changes));
        var bare = School.Standard.Single(s => s.Id == "bare-bench");
        Assert.True(Planner.Advise(d, bare).Next!.Candidate.Changes.Length > 2);
    }

    [Theory]
    [InlineData("order: information", "order: guess", "expected \"information\" or a list")]
    [InlineData("swap cpu", "swap toaster", "\"swap toaster\" is not a line of an order")]
    [InlineData("id: power-first", "id: easy-first", "two schools \"easy-first\"")]
    public void A_mistake_in_a_schools_file_is_named_with_its_line(string good, string bad, string complaint)
    {
        using var stream = typeof(School).Assembly.GetManifestResourceStream("schools.yaml")!;
        var text = new StreamReader(stream).ReadToEnd();
        var error = Assert.Throws<DataFileException>(() => School.Read(text.Replace(good, bad), "shop.yaml"));
        Assert.Contains(complaint, error.Message);
        Assert.StartsWith("shop.yaml line ", error.Message);
    }

    [Fact]
    public void Preferences_change_what_is_proposed()
    {
        var d = Office(card: true).Shelf(Stick("spare-stick", Origin.Shelf), Card("spare-card", Origin.Shelf)).Trial("4").Diagnosis;
        Candidate? Next(Preferences p) => Planner.Advise(d, null, p).Next?.Candidate;
        Assert.Equal(Clear, Assert.Single(Next(Preferences.Usual with { CmosClear = CmosClear.First })!.Changes));
        Assert.IsType<Change.Swap>(Next(Preferences.Usual with { FirstSwap = FirstSwap.Graphics })!.Changes[0]);
        Assert.Contains(
            Next(Preferences.Usual with { BenchPlace = BenchPlace.OnTheBench })!.Changes,
            c => c is Change.Mend { Remedy: Remedy.Isolate }
        );
        var skip = Planner.Advise(d, null, Preferences.Usual with { SupplyTester = SupplyTester.Skip });
        Assert.DoesNotContain(skip.Alternatives.Prepend(skip.Next!).Concat(skip.Pointless), a => a.Candidate.Check?.Id == "test-supply");
        Assert.True(
            Preferences.Usual.ApplyTo(Atlas.Standard).Work.Power
                > (Preferences.Usual with { Drain = Drain.WhenOdd }).ApplyTo(Atlas.Standard).Work.Power
        );
    }

    [Fact]
    public void Past_a_point_the_part_is_cheaper_than_the_search()
    {
        var d = StoryTests.BlackInOneSlot().Diagnosis;
        var dear = Planner.Advise(d, null, Preferences.Usual with { HourlyRate = 6000 }).Economy!;
        Assert.True(dear.ReplaceInstead || dear.PartCost > dear.SearchCost);
        Assert.Equal("board", dear.Part.Id.Value);
        var cheapPart = Planner
            .Advise(d, null, Preferences.Usual with { PartPrices = Preferences.Usual.PartPrices.SetItem(UnitKind.Motherboard, 1e6) })
            .Economy!;
        Assert.False(cheapPart.ReplaceInstead);
        Assert.True(dear.Spent.Value > 20);
    }

    /// <summary>
    /// Small problems with one-shot tests, solved exactly by dynamic programming over which tests were made with which
    /// outcomes, each until it knows at 95 % or has made every test: the choice rule needs at most 1.15 times the minutes of the
    /// optimal policy on average.
    /// </summary>
    [Fact]
    public void On_small_problems_the_choice_is_near_the_optimal_policy()
    {
        double chosen = 0,
            optimal = 0;
        for (var seed = 0; seed < 40; seed++)
        {
            var random = new System.Random(seed);
            var faults = random.Next(3, 6);
            double[] prior = [.. Enumerable.Range(0, faults).Select(_ => random.NextDouble() + 0.05)];
            prior = [.. prior.Select(p => p / prior.Sum())];
            Prospect[] tests =
            [
                .. Enumerable
                    .Range(0, 6)
                    .Select(t =>
                    {
                        // A test tells some faults from the rest, nearly always.
                        double[] yes = [.. Enumerable.Range(0, faults).Select(f => f == t % faults || random.Next(3) == 0 ? 0.98 : 0.02)];
                        return new Prospect(1 + (9 * random.NextDouble()), [yes, [.. yes.Select(y => 1 - y)]]);
                    }),
            ];
            int[] groups = [.. Enumerable.Range(0, faults)];
            optimal += Optimal(prior, tests, [], new Dictionary<string, double>());
            chosen += ByChoice(prior, tests, groups, []);
        }

        Assert.InRange(chosen / optimal, 1 - 1e-9, 1.15);
    }

    /// <summary>Minutes charged for stopping without an answer.</summary>
    private const double Unanswered = 60;

    private static double Stop(double[] belief) => Unanswered * (1 - belief.Max());

    private static double Optimal(double[] belief, Prospect[] tests, int[] done, Dictionary<string, double> known)
    {
        if (belief.Max() >= 0.95 || done.Length == tests.Length)
            return Stop(belief);
        var stop = double.PositiveInfinity;
        var key = string.Join(' ', done.Order()) + string.Join(',', belief.Select(b => b.ToString("R")));
        if (known.TryGetValue(key, out var value))
            return value;
        for (var t = 0; t < tests.Length; t++)
        {
            if (done.Contains(t))
                continue;
            stop = Math.Min(stop, After(belief, tests, t, b => Optimal(b, tests, [.. done, t], known)));
        }

        return known[key] = stop;
    }

    private static double ByChoice(double[] belief, Prospect[] tests, int[] groups, int[] done)
    {
        if (belief.Max() >= 0.95)
            return Stop(belief);
        int[] open = [.. Enumerable.Range(0, tests.Length).Except(done)];
        var choice = new Choice(belief, groups);
        Prospect[] options = [.. open.Select(t => tests[t])];
        var best = choice.Best(options, [.. options.Select(choice.Gain)]);
        if (best < 0)
            return Stop(belief);
        var t = open[best];
        return After(belief, tests, t, b => ByChoice(b, tests, groups, [.. done, t]));
    }

    private static double After(double[] belief, Prospect[] tests, int t, Func<double[], double> then)
    {
        var minutes = tests[t].Minutes;
        foreach (var chances in tests[t].Chances)
        {
            var (p, posterior) = Choice.Given(belief, chances);
            if (p > 1e-12)
                minutes += p * then(posterior);
        }

        return minutes;
    }
}
