using System.Collections.Immutable;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

public class PosteriorTests
{
    /// <summary>
    /// The same posterior with no tricks: every subset of up to three faults, each in every one of its forms, the formula of
    /// docs/how-it-reasons.md written out from the atlas alone.
    /// </summary>
    private static Dictionary<string, double> Naive(BenchJob job, Atlas atlas, ImmutableArray<Fault> faults)
    {
        // Long: it writes the whole model out a second time, in one piece.
        var marginals = faults.ToDictionary(f => f.Key, _ => 0.0);
        var engaged = job.Trials.ToDictionary(
            t => t.Ordinal,
            t => faults.Select(f => f.Engaged(t.Situation) * f.Mode.Starts.GetValueOrDefault(t.Entry.Kind ?? StartKind.Warm, 1)).ToArray()
        );
        var forms = faults.Select((f, i) => Forms(f, job.Trials.Any(t => engaged[t.Ordinal][i] > 0), atlas.Behaviour).ToArray()).ToArray();
        double[] sums = [1, 0, 0, 0];
        foreach (var f in faults.Where(f => f.Unit.Origin == Origin.Customer))
        {
            for (var k = 3; k > 0; k--)
                sums[k] += f.Odds * sums[k - 1];
        }

        // A machine that could have shown nothing as it came in has most likely nothing broken.
        var received = Ceiling.Of(Situation.AtIntake(job.Now.Parts, job.Intake.Received));
        double[] numbers = received.Stage < BootStage.Picture ? [0.6, 0.35, 0.04, 0.01] : [.. atlas.Numbers];
        double total = 0,
            none = 0;
        foreach (var set in Subsets(faults.Length))
        {
            var own = set.Count(f => faults[f].Unit.Origin == Origin.Customer);
            var prior =
                set.Aggregate(1.0, (w, f) => w * faults[f].Odds)
                * Harmed(job, faults, set)
                * Tied(job, atlas, faults, set)
                * numbers[own]
                / sums[own];
            if (prior == 0)
                continue;
            var weight = 0.0;
            foreach (var drawn in Draws([.. set.Select(f => forms[f])]))
                weight += prior * drawn.Aggregate(1.0, (w, d) => w * d.Share) * Likelihood(set, drawn);
            total += weight;
            if (set.Length == 0)
                none += weight;
            foreach (var f in set)
                marginals[faults[f].Key] += weight;
        }

        var result = marginals.ToDictionary(m => m.Key, m => m.Value / total);
        result["none"] = none / total;
        return result;

        double Likelihood(int[] set, (double Share, double[] Stops, double? Rate, StartKind? Only)[] drawn)
        {
            var weight = 1.0;
            var signals = new List<StallDomain>();
            foreach (var trial in job.Trials)
            {
                double E(int m)
                {
                    var e = engaged[trial.Ordinal][set[m]];
                    var kind = trial.Entry.Kind;
                    var most = faults[set[m]].Mode.Bites.Max(b => b.With);
                    if (drawn[m].Only is { } only)
                        return e
                            / most
                            * (
                                kind is null ? 0.45
                                : (kind == StartKind.Cold) == (only == StartKind.Cold) ? 0.9
                                : 0.05
                            );
                    if (drawn[m].Rate is not { } rate)
                        return e;
                    // A run under load is as many chances to act as four starts.
                    var once = rate * e / most;
                    return kind == StartKind.Load ? 1 - Math.Pow(1 - once, 4) : once;
                }

                double Reach(int s)
                {
                    if (s > 8)
                        return 0;
                    var reach = trial.Ceiling.Reach((BootStage)s);
                    for (var m = 0; m < set.Length; m++)
                        reach *= 1 - E(m) + (E(m) * (1 - drawn[m].Stops.Take(s).Sum()));
                    return reach;
                }

                int lo = (int)trial.Seen.Low,
                    hi = (int)trial.Seen.High;
                weight *= ((1 - atlas.Slip) * (Reach(lo) - Reach(hi + 1))) + (atlas.Slip * (hi - lo + 1) / 9.0);
                // A light that stood before at a start without a picture counts once.
                if (trial.Entry.Stall?.Pointed is not { } pointed || lo >= 6)
                    continue;
                if (signals.Contains(pointed))
                    continue;
                signals.Add(pointed);
                double numerator = 0.02 / 6,
                    denominator = 0.02;
                for (var m = 0; m < set.Length; m++)
                {
                    var stopped = E(m) * drawn[m].Stops.Skip(lo).Take(hi - lo + 1).Sum();
                    if (hi == 8)
                        stopped = E(m) * (drawn[m].Stops.Skip(lo).Take(8 - lo).Sum());
                    numerator += stopped * ((0.85 * faults[set[m]].Mode.Stall[(int)pointed]) + (0.15 / 6));
                    denominator += stopped;
                }

                weight *= numerator / denominator;
            }

            return weight;
        }
    }

    /// <summary>The ways in which a fault may behave, written out: the same end every time or not, always or now and then.</summary>
    private static List<(double Share, double[] Stops, double? Rate, StartKind? Only)> Forms(Fault fault, bool touched, Behaviour behaviour)
    {
        double[] stops = [.. fault.Mode.Stops];
        if (!touched)
            return [(1, stops, null, null)];
        var nowAndThen = fault.Mode.NowAndThen ?? behaviour.NowAndThen;
        var forms = new List<(double, double[], double?, StartKind?)>();
        var bound = fault.Mode.WhenCold + fault.Mode.WhenWarm;
        if (fault.Mode.WhenCold > 0)
            forms.Add((fault.Mode.WhenCold, stops, null, StartKind.Cold));
        if (fault.Mode.WhenWarm > 0)
            forms.Add((fault.Mode.WhenWarm, stops, null, StartKind.Warm));
        Add((1 - nowAndThen) * (1 - bound), null, 0.03);
        foreach (var (rate, weight) in new[] { (0.15, 0.3), (0.4, 0.4), (0.75, 0.3) })
            Add(nowAndThen * weight * (1 - bound), rate, nowAndThen >= 0.4 || fault.Mode.IsUnlisted ? 0.15 : 2);
        return forms;

        void Add(double share, double? rate, double least)
        {
            var left = share;
            for (var s = 0; s < 9 && share > 0; s++)
            {
                var part = stops[s] / stops.Sum();
                if (part < least || part > 1 - 1e-9)
                    continue;
                var firm = fault.Mode.IsUnlisted ? 0.9 : 1;
                var there = s;
                forms.Add((share * 0.8 * part, [.. stops.Select((p, i) => (firm * (i == there ? 1 : 0)) + ((1 - firm) * p))], rate, null));
                left -= share * 0.8 * part;
            }

            if (share > 0)
                forms.Add((left, stops, rate, null));
        }
    }

    private static IEnumerable<(double Share, double[] Stops, double? Rate, StartKind? Only)[]> Draws(
        (double Share, double[] Stops, double? Rate, StartKind? Only)[][] forms
    ) =>
        forms.Aggregate(
            (IEnumerable<(double Share, double[] Stops, double? Rate, StartKind? Only)[]>)
                [
                    [],
                ],
            (drawn, next) => drawn.SelectMany(d => next.Select(n => d.Append(n).ToArray()))
        );

    /// <summary>What culprits in the set add to the odds of victims in it that ran beside them, and what excludes each other,
    /// written out.</summary>
    private static double Harmed(BenchJob job, ImmutableArray<Fault> faults, int[] set)
    {
        var factor = 1.0;
        foreach (var culprit in set)
        {
            // A fault that was mended is either cured or not.
            if (set.Any(o => o != culprit && faults[o].Site == faults[culprit].Site))
                return 0;
            foreach (var victim in set.Where(v => faults[v].Unit != faults[culprit].Unit))
            {
                var together = job
                    .Trials.Select(t => t.Situation)
                    .Append(Situation.AtIntake(job.Now.Parts, job.Intake.Received))
                    .Any(s => faults[culprit].Engaged(s) > 0 && s.Now.Has(faults[victim].Unit.Id));
                if (together && faults[culprit].Mode.Harms.TryGetValue(faults[victim].Mode.Id, out var added))
                    factor *= (faults[victim].Odds + added) / faults[victim].Odds;
            }
        }

        return factor;
    }

    /// <summary>What one cause makes likelier of two parts together, written out.</summary>
    private static double Tied(BenchJob job, Atlas atlas, ImmutableArray<Fault> faults, int[] set) =>
        (
            from context in atlas.Contexts
            where job.Intake.Contexts.Contains(context.Id)
            from a in set
            from b in set
            where a < b && (faults[a].Unit.Id != faults[b].Unit.Id || faults[a].Part != faults[b].Part)
            where faults[a].Unit.Origin == Origin.Customer && faults[b].Unit.Origin == Origin.Customer
            where context.Together.ContainsKey(faults[a].Mode.Id) && context.Together.ContainsKey(faults[b].Mode.Id)
            select Math.Sqrt(context.Together[faults[a].Mode.Id] * context.Together[faults[b].Mode.Id])
        ).Aggregate(1.0, (p, f) => p * f);

    private static IEnumerable<int[]> Subsets(int n)
    {
        yield return [];
        for (var i = 0; i < n; i++)
        {
            yield return [i];
            for (var j = i + 1; j < n; j++)
            {
                yield return [i, j];
                for (var k = j + 1; k < n; k++)
                    yield return [i, j, k];
            }
        }
    }

    /// <summary>A random small machine with a random log of possible changes.</summary>
    private static BenchJob RandomJob(int seed)
    {
        var random = new System.Random(seed);
        var bench = new Bench()
            .Add(Plain("supply", UnitKind.Supply), Place.Supply)
            .Add(
                new Motherboard(
                    new UnitId("board"),
                    "Ondel S1",
                    Origin.Customer,
                    [new("A1", "A"), new("B1", "B")],
                    [new("HDMI", VideoSignal.Digital)],
                    []
                )
                {
                    TellsPost = random.Next(2) == 0,
                },
                Place.Board
            )
            .Add(new Cpu(new UnitId("cpu"), "Tarn C1", Origin.Customer, random.Next(2) == 0), Place.Cpu)
            .Add(Plain("cooler", UnitKind.Cooler), Place.Cooler)
            .Add(Stick("stick-1"), Place.Memory("A1"));
        if (random.Next(2) == 0)
            bench.Add(Plain("monitor", UnitKind.Monitor), Place.Monitor).Add(Plain("cable", UnitKind.VideoCable), Place.Cable);
        if (random.Next(2) == 0)
            bench.Add(Plain("extension", UnitKind.PowerExtension), Place.Extension);
        bench.Shelf(Stick("stick-2", Origin.Shelf), Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        bench.Contexts = random.Next(2) == 0 ? ["power-event", "old"] : [];
        Change[] possible =
        [
            Clear,
            Swap("stick-1", "stick-2"),
            Swap("stick-2", "stick-1"),
            Move("stick-1", "memory.B1"),
            Move("stick-1", "memory.A1"),
            Swap("supply", "spare-supply"),
            Swap("spare-supply", "supply"),
            Reseat("stick-1"),
            Bypass("extension"),
            Connect("extension"),
            Show("board/HDMI"),
        ];
        for (var t = random.Next(1, 7); t > 0; t--)
        {
            var changes = new List<Change>();
            var situation = bench.Job.Now;
            for (var c = random.Next(0, 3); c > 0; c--)
            {
                var change = possible[random.Next(possible.Length)];
                if (situation.TryAfter(change, out situation, out _))
                    changes.Add(change);
            }

            var low = random.Next(9);
            var high = random.Next(low, 9);
            StallDomain? stall = random.Next(3) == 0 ? (StallDomain)random.Next(6) : null;
            bench.Trial($"{low}-{high}", stall, random.Next(3) == 0 ? (StartKind)random.Next(5) : null, [.. changes]);
        }

        return bench.Job;
    }

    [Property(MaxTest = 40)]
    public Property The_fast_posterior_agrees_with_full_enumeration_to_1e_9() =>
        Prop.ForAll(
            Gen.Choose(0, 1_000_000).ToArbitrary(),
            seed =>
            {
                // A dozen modes are kept, another dozen for each seed: every set in every form is written out.
                var some = new System.Random(seed);
                var atlas = Atlas.Standard with { Modes = [.. Atlas.Standard.Modes.OrderBy(_ => some.Next()).Take(9)] };
                var job = RandomJob(seed);
                var exact = Inference.Of(job, atlas, Breadth.All);
                var naive = Naive(job, atlas, exact.Faults);
                Assert.Equal(naive["none"], exact.NothingFound, 1e-9);
                for (var f = 0; f < exact.Faults.Length; f++)
                    Assert.Equal(naive[exact.Faults[f].Key], exact.Marginals[f], 1e-9);

                // What is usually left out changes no figure by more than a thousandth.
                var usual = Inference.Of(job, atlas);
                for (var f = 0; f < exact.Faults.Length; f++)
                    Assert.Equal(exact.Marginals[f], usual.Marginals[f], 1e-3);
            }
        );

    [Property(MaxTest = 40)]
    public Property Adding_a_trial_to_a_posterior_equals_starting_over() =>
        Prop.ForAll(
            Gen.Choose(0, 1_000_000).ToArbitrary(),
            seed =>
            {
                // A few modes, so that nothing is left out and every step is exact.
                var d = Inference.Of(RandomJob(seed), Atlas.Standard with { Modes = [.. Atlas.Standard.Modes.Take(12)] });
                double[] odds = [.. d.Table.Forms.Select(f => d.Faults[f.Fault].Odds * f.Share)];
                var makeup = new Makeup([.. odds], d.FaultOf) { Coupling = d.Coupling };
                EvidenceColumn[] columns = [.. d.Evidence.Select(e => e.Column)];
                var grown = columns.Aggregate(Posterior.Of(makeup, [], Breadth.All), (p, column) => p.With(column));
                int[] each = [.. Enumerable.Range(0, odds.Length)];
                var expected = Posterior.Of(makeup, columns, Breadth.All).Marginals(each, odds.Length);
                var actual = grown.Marginals(each, odds.Length);
                for (var f = 0; f < odds.Length; f++)
                    Assert.Equal(expected[f], actual[f], 1e-9);
                Assert.Equal(1, grown.CountDistribution().Sum(), 1e-9);
            }
        );

    /// <summary>
    /// S. Russell and P. Norvig, "Artificial Intelligence: A Modern Approach", chapter on Bayesian networks, after
    /// J. Pearl (1988): P(Burglary | John calls, Mary calls) = 0.284.
    /// </summary>
    [Fact]
    public void The_burglar_alarm_comes_out_at_0_284()
    {
        // Faults: burglary P = .001, earthquake P = .002. The alarm given one cause: .94, .29; given none: .001.
        double[] odds = [0.001 / 0.999, 0.002 / 0.998];
        const double leak = 0.001;
        double[] alone = [1 - (0.06 / (1 - leak)), 1 - (0.71 / (1 - leak))];

        // Both calls: .9 * .7 with the alarm ringing, .05 * .01 without.
        var calls = EvidenceColumn.OfFinding(alone, leak, 0.9 * 0.7, 0.05 * 0.01);
        var posterior = Posterior.Of(odds, [calls]);
        Assert.Equal(0.284, posterior.Marginals([0, 1], 2)[0], 0.0005);
    }

    [Fact]
    public void A_long_contradictory_log_gives_numbers_not_NaN()
    {
        var bench = Office();
        for (var i = 0; i < 300; i++)
            bench.Trial(i % 2 == 0 ? "0" : "8", i % 3 == 0 ? StallDomain.Memory : null);
        var d = bench.Diagnosis;
        Assert.All(d.Suspects, s => Assert.InRange(s.Probability, 0, 1));
        Assert.Equal(1, d.Posterior.CountDistribution().Sum(), 1e-9);
    }

    [Fact]
    public void Without_trials_every_unit_is_untested_and_near_its_prior()
    {
        var d = Office(card: true).Diagnosis;
        Assert.All(
            d.Suspects,
            s =>
            {
                Assert.Equal(Standing.Untested, s.Standing);
                Assert.Equal(s.Prior, s.Probability, 0.02);
            }
        );
    }

    [Fact]
    public void A_spare_that_was_never_fitted_stays_untested_at_its_prior()
    {
        var d = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf)).Trial("2").Trial("2", Clear).Diagnosis;
        var spare = d.Of("spare-supply");
        Assert.Equal(Standing.Untested, spare.Standing);
        Assert.Equal(spare.Prior, spare.Probability, 0.005);
        Assert.True(d.Of("supply").Probability > 5 * spare.Probability);
        Assert.Equal(spare, d.Suspects[^1]);
    }

    [Fact]
    public void Four_to_five_is_kept_as_a_range_and_does_not_condemn_the_CPU()
    {
        var told = Office().Trial("4").Diagnosis;
        var untold = Office().Trial("4-5").Diagnosis;
        Assert.True(untold.PFault("cpu/cpu-dead") < told.PFault("cpu/cpu-dead"));
        Assert.True(untold.P("cable") > told.P("cable"));
    }

    [Fact]
    public void An_indicator_moves_suspicion_to_its_domain_and_is_no_verdict()
    {
        var blind = Office().Trial("4").Diagnosis;
        var pointed = Office().Trial("4", StallDomain.Memory).Diagnosis;
        Assert.True(pointed.P("stick-1") > blind.P("stick-1"));
        Assert.True(pointed.PFault("board/slot-dead/A2") > blind.PFault("board/slot-dead/A2"));
        Assert.True(pointed.P("stick-1") < BenchDiagnosis.Certain);
    }

    [Fact]
    public void What_the_customer_reports_weighs_less_than_what_is_seen()
    {
        var bench = Office();
        bench.Reported = StageRange.At(BootStage.NoStandby);
        var reported = bench.Diagnosis.P("supply");
        var seen = Office().Trial("0").Diagnosis.P("supply");
        var prior = Office().Diagnosis.P("supply");
        Assert.InRange(reported, prior + 0.01, seen);
    }

    [Fact]
    public void Weights_name_the_step_that_moved_a_unit_most_and_in_which_direction()
    {
        var d = StoryTests.CutsOutOnItsSupply().Diagnosis;
        var weights = Weight.On(d, new UnitId("supply"));
        Assert.Equal(d.Job.Trials.Length, weights.Length);
        Assert.True(weights.All(w => double.IsFinite(w.LogRatio)));
        Assert.StartsWith("very strong, against", CaseWords.InWords(6));
        Assert.StartsWith("positive, for", CaseWords.InWords(-2));
        var extension = Weight.On(d, new UnitId("extension"));
        Assert.True(extension.Last().LogRatio < 0);
    }
}
