using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Codes, beeps and lights as evidence, each through a whole diagnosis.</summary>
public class SignalEvidenceTests
{
    private static readonly string[] MemorySide = ["stick-1", "stick-2"];

    private static BenchDiagnosis With(Signs signs, string[]? tables = null, string seen = "4")
    {
        Assert.True(ObservedFormat.TryRead(seen, out var range));
        var office = Office(card: true).Job;
        var board = (Motherboard)office.Intake.Parts.Find(new UnitId("board"))! with { Tables = [.. tables ?? []] };
        var intake = office.Intake with { Parts = Parts.Of(office.Intake.Parts.All.Select(u => u.Id == board.Id ? board : u)) };
        return BenchDiagnosis.Of(BenchJob.Open(intake).Append(new TrialEntry(Guid.NewGuid(), [], range) { Signs = signs }), Atlas.Standard);
    }

    private static double P(Signs signs, string unit, string[]? tables = null) => With(signs, tables).P(unit);

    [Fact]
    public void A_memory_code_accuses_memory_and_leaves_everything_behind_it_in_play()
    {
        var before = With(Signs.None);
        var after = With(new Signs { Code = "55" }, ["aptio"]);
        Assert.All(MemorySide, stick => Assert.True(after.P(stick) > 1.3 * before.P(stick)));
        Assert.True(after.P("card") < before.P("card"));
        Assert.True(after.P("board") > 0.05 && after.P("cpu") > 0.01);
        Assert.DoesNotContain(after.Suspects, s => s.Standing == Standing.Condemned);
        Assert.DoesNotContain(after.Suspects, s => s.Probability > 0.9);
    }

    [Fact]
    public void No_row_of_any_table_favours_one_domain_over_another_by_more_than_the_limit() =>
        Assert.All(
            SignalLibrary.Standard.Tables.Where(t => t.Kind != SignalKind.Firmware),
            t =>
                Assert.All(
                    t.Rows,
                    r =>
                    {
                        var signs = t.Kind switch
                        {
                            SignalKind.Post => new Signs { Code = r.Signal[..2] },
                            SignalKind.Beeps => new Signs { Beeps = r.Signal },
                            _ => new Signs { Lights = r.Signal },
                        };
                        var signal = SignalEvidence.Of(
                            new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)) { Signs = signs },
                            Board("board") with
                            {
                                Tables = [t.Id],
                            },
                            SignalLibrary.Standard
                        );
                        Assert.NotNull(signal);
                        Assert.InRange(signal.Likelihoods.Max() / signal.Likelihoods.Min(), 1, SignalEvidence.MostRatio + 1e-9);
                    }
                )
        );

    [Fact]
    public void A_doubtful_family_weighs_less_than_a_known_one_and_an_unlisted_signal_nothing()
    {
        double Shift(string[] tables) => P(new Signs { Beeps = "3 short 1 long" }, "stick-1", tables);
        var none = P(Signs.None, "stick-1");
        Assert.True(Shift(["office-beeps"]) > none);
        Assert.Equal(none, P(new Signs { Beeps = "9 short 9 long" }, "stick-1"), 12);
        Assert.Throws<ArgumentException>(() => new Signs { Beeps = "it sounded unhappy" });
        Assert.True(P(new Signs { Code = "55" }, "stick-1", ["aptio"]) > P(new Signs { Code = "55" }, "stick-1"));
    }

    [Fact]
    public void A_code_that_stood_a_code_in_passing_and_one_that_cycles_weigh_differently()
    {
        var none = P(Signs.None, "stick-1");
        var stood = P(new Signs { Code = "2B" }, "stick-1", ["aptio"]);
        var cycles = P(new Signs { Code = "2B", Motion = CodeMotion.Cycling }, "stick-1", ["aptio"]);
        var passing = P(new Signs { Code = "2B", Motion = CodeMotion.Passing }, "stick-1", ["aptio"]);
        Assert.True(stood > cycles && cycles > none && none > passing, $"{stood} {cycles} {none} {passing}");
    }

    [Fact]
    public void Codes_that_were_passed_speak_for_what_they_stand_for()
    {
        var alone = P(new Signs { Code = "92" }, "stick-1", ["aptio"]);
        var after = P(new Signs { Code = "92", Codes = "02 06 2B 2C 2E 31 92" }, "stick-1", ["aptio"]);
        Assert.True(after < alone, $"{after} {alone}");
    }

    [Theory]
    [InlineData("00")]
    [InlineData("FF")]
    [InlineData("--")]
    public void A_silent_display_says_that_nothing_runs_unless_other_codes_came_before(string silent)
    {
        var none = With(Signs.None);
        var dark = With(new Signs { Code = silent }, ["aptio"]);
        Assert.True(dark.PFault("supply/supply-no-good") > none.PFault("supply/supply-no-good"));
        Assert.True(dark.PFault("cpu/cpu-dead") > none.PFault("cpu/cpu-dead"));
        Assert.True(dark.P("stick-1") < none.P("stick-1"));
        var handedOver = With(new Signs { Code = silent, Codes = $"02 2B 92 AD {silent}" }, ["aptio"]);
        Assert.True(handedOver.PFault("supply/supply-no-good") < none.PFault("supply/supply-no-good"));
    }

    [Fact]
    public void Where_a_family_says_that_FF_is_boot_it_is_boot()
    {
        var saying = Assert.Single(
            SignalEvidence.Sayings(new Signs { Code = "FF" }, Board("board") with { Tables = ["award"] }, SignalLibrary.Standard)
        );
        Assert.Equal(StallDomain.Boot, saying.Weighed!.Pointed);
        Assert.NotEqual(
            StallDomain.Boot,
            Assert
                .Single(
                    SignalEvidence.Sayings(new Signs { Code = "FF" }, Board("board") with { Tables = ["aptio"] }, SignalLibrary.Standard)
                )
                .Weighed!.Pointed
        );
    }

    [Fact]
    public void Code_beeps_and_lights_that_agree_weigh_more_than_one_but_less_than_three()
    {
        var one = new Signs { Code = "55" };
        var three = one with { Beeps = "1 long 3 short", Lights = "cpu memory" };
        string[] tables = ["aptio", "aptio-beeps", "indicators"];
        StallSignal Of(Signs s) =>
            SignalEvidence.Of(
                new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)) { Signs = s },
                Board("board") with
                {
                    Tables = [.. tables],
                },
                SignalLibrary.Standard
            )!;
        double Ratio(StallSignal s) => s.Likelihoods[(int)StallDomain.Memory] / s.Likelihoods[(int)StallDomain.Cpu];
        var separately = Ratio(Of(one)) * Ratio(Of(new Signs { Beeps = three.Beeps })) * Ratio(Of(new Signs { Lights = three.Lights }));
        Assert.InRange(Ratio(Of(three)), Ratio(Of(one)), separately * 0.8);
        Assert.True(Ratio(Of(three)) <= SignalEvidence.MostRatio + 1e-9);
    }

    [Fact]
    public void A_start_with_a_picture_is_not_moved_by_a_code_that_stood()
    {
        var plain = With(Signs.None, seen: "6-8");
        var coded = With(new Signs { Code = "55" }, ["aptio"], "6-8");
        Assert.Equal(plain.P("stick-1"), coded.P("stick-1"), 12);
    }

    [Fact]
    public void What_a_code_says_names_what_it_cannot_tell_apart()
    {
        var d = With(new Signs { Code = "55" }, ["aptio"]);
        var trial = d.Job.Trials[^1];
        var saying = Assert.Single(SignalEvidence.Sayings(trial.Entry.Signs, trial.Situation.Board, Atlas.Standard.Signals));
        var meaning = SignalMeaning.Of(saying, d.Faults, trial.Situation);
        Assert.Contains("none found", meaning.Says);
        foreach (var open in new[] { "stick", "memory slot", "memory channel of the board", "memory controller of the CPU" })
            Assert.Contains(open, meaning.DoesNotSay);
        Assert.Contains("pointer", meaning.DoesNotSay);
    }

    [Fact]
    public void Where_the_family_is_not_known_the_disagreement_is_told()
    {
        var d = With(new Signs { Beeps = "5 short" });
        var trial = d.Job.Trials[^1];
        var meaning = SignalMeaning.Of(
            SignalEvidence.Sayings(trial.Entry.Signs, trial.Situation.Board, Atlas.Standard.Signals)[0],
            d.Faults,
            trial.Situation
        );
        Assert.Contains("The tables differ", meaning.Says);
    }

    private static LightSequence Lights(double end, params (StallDomain Light, double On, double? Off)[] taps) =>
        LightSequence.Of(taps.Select(t => new LightTap(t.Light, t.On, t.Off)), end);

    [Fact]
    public void Lights_are_read_as_stuck_skipping_flickering_together_and_by_turns()
    {
        var stuck = Lights(40, (StallDomain.Cpu, 0.5, 1.4), (StallDomain.Memory, 1.5, null));
        Assert.Equal("cpu memory", stuck.Key);
        Assert.True(stuck.StillLit);
        Assert.Equal(38.5, stuck.Steps[1].Seconds);
        Assert.Equal("cpu:0.9 memory:38.5 +", stuck.ToString());
        Assert.True(LightSequence.TryParse(stuck.ToString(), out var again));
        Assert.Equal(stuck.Key, again.Key);

        Assert.Equal<StallDomain>([StallDomain.Memory], Lights(30, (StallDomain.Cpu, 0, 1), (StallDomain.Video, 1.1, null)).Skipped);
        Assert.Equal(
            "cpu memory~",
            Lights(
                9,
                (StallDomain.Cpu, 0, 1),
                (StallDomain.Memory, 1, 1.5),
                (StallDomain.Memory, 2, 2.5),
                (StallDomain.Memory, 3, 3.6),
                (StallDomain.Memory, 4, null)
            ).Key
        );
        Assert.Equal("cpu* memory*", Lights(30, (StallDomain.Cpu, 0, null), (StallDomain.Memory, 0.2, null)).Key);
        Assert.Equal(
            "cpu@ memory@",
            Lights(4.5, (StallDomain.Cpu, 0, 1), (StallDomain.Memory, 1, 2), (StallDomain.Cpu, 2, 3), (StallDomain.Memory, 3, 4)).Key
        );
        Assert.Equal(
            "cpu memory video boot none",
            Lights(9, (StallDomain.Cpu, 0, 1), (StallDomain.Memory, 1, 2), (StallDomain.Video, 2, 3), (StallDomain.Boot, 3, 4)).Key
        );
        Assert.Equal("none", Lights(20).Key);
        Assert.Throws<ArgumentException>(() => Lights(9, (StallDomain.Cpu, 2, 1)));
        Assert.Throws<ArgumentException>(() => Lights(9, (StallDomain.Power, 0, 1)));
    }

    [Fact]
    public void A_sequence_that_no_table_lists_is_read_by_its_last_light()
    {
        var saying = Assert.Single(
            SignalEvidence.Sayings(new Signs { Lights = "cpu:1 memory:2 none" }, Board("board"), SignalLibrary.Standard)
        );
        Assert.Equal(StallDomain.Memory, saying.Weighed!.Pointed);
        Assert.Equal(SignalReading.LastLightThenDark, saying.How);
        Assert.True(P(new Signs { Lights = "cpu memory none" }, "stick-1") < P(new Signs { Lights = "cpu memory" }, "stick-1"));
    }
}
