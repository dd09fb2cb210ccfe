using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;

namespace Kelvet.Core.Tests;

/// <summary>What is told at the counter: what it means for the goal, for safety, for the suspects, and how it is corrected.</summary>
public sealed class TakingInTests
{
    private static BenchJob Told(
        Complaint? complaint = null,
        string? reported = null,
        string[]? contexts = null,
        Times? times = null,
        Bench? bench = null
    )
    {
        var intake = (bench ?? Bench.Office()).Job.Intake;
        return BenchJob.Open(
            intake with
            {
                Complaint = complaint ?? Complaint.None,
                Reported = reported is not null && ObservedFormat.TryRead(reported, out var range) ? range : null,
                ReportedTimes = times,
                Contexts = [.. contexts ?? []],
            }
        );
    }

    private static double P(BenchJob job, string unit) => BenchDiagnosis.Of(job, Atlas.Standard)[new UnitId(unit)].Probability;

    [Theory]
    [InlineData(null, null, null, BootStage.Picture)]
    [InlineData("6", null, null, BootStage.OsLoads)]
    [InlineData("7", null, null, BootStage.Stable)]
    [InlineData("6", StartKind.Load, null, BootStage.Stable)]
    [InlineData(null, StartKind.Wake, null, BootStage.Stable)]
    [InlineData("4-5", StartKind.Cold, null, BootStage.Picture)]
    [InlineData("7", null, 12.0, BootStage.Stable)]
    public void The_complaint_sets_what_works_will_mean(string? reported, StartKind? when, double? minutes, BootStage goal) =>
        Assert.Equal(
            goal,
            Told(
                new Complaint
                {
                    When = when,
                    Minutes = minutes,
                    Then = minutes is null ? null : Ending.Off,
                },
                reported
            ).Goal
        );

    [Fact]
    public void What_works_will_mean_is_said_with_the_starts_that_it_takes()
    {
        Assert.Contains("at three starts in a row", Told(reported: "4").GoalWords(), StringComparison.Ordinal);
        var often = Told(new Complaint { When = StartKind.Load, Minutes = 20 }, "7", times: new Times(1, 4)).GoalWords();
        Assert.Contains("holds 40 min under load", often, StringComparison.Ordinal);
        Assert.Contains($"{CleanStarts.Needed(1, 4)} clean starts in a row, since it failed 1 of 4", often, StringComparison.Ordinal);
        Assert.Contains("a clean picture", Told(new Complaint { Picture = Artefacts.FromTheLogo }).GoalWords(), StringComparison.Ordinal);
    }

    [Fact]
    public void What_it_does_then_weighs_and_less_than_if_it_were_seen()
    {
        // A machine that goes off after some minutes: the supply and what cools are suspects, memory less.
        var bench = Bench.Office(card: true);
        var silent = Told(reported: "7", bench: bench);
        var off = Told(new Complaint { Then = Ending.Off }, "7", bench: bench);
        Assert.True(P(off, "cooler") > P(silent, "cooler") * 1.2);
        Assert.True(P(off, "stick-1") < P(silent, "stick-1"));
        var seen = silent.Append(
            new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.OsLoads)) { Signs = new Signs { Ended = Ending.Off } }
        );
        Assert.True(P(seen, "cooler") > P(off, "cooler"), "what is seen at the bench weighs more");
    }

    [Fact]
    public void The_kind_of_start_that_is_told_decides_which_faults_may_act()
    {
        var wake = Told(new Complaint { When = StartKind.Wake }, "4-5");
        var any = Told(reported: "4-5");
        Assert.True(
            BenchDiagnosis.Of(wake, Atlas.Standard).PFault("board/sleep-fails")
                > BenchDiagnosis.Of(any, Atlas.Standard).PFault("board/sleep-fails")
        );
    }

    [Fact]
    public void A_claim_counts_by_how_sure_they_are()
    {
        double After(Sureness sure)
        {
            var spare = Bench.Plain("told", UnitKind.Supply, Origin.New) with { IsAway = true };
            var job = Told(reported: "0", bench: Bench.Office().Shelf(spare));
            return P(
                job.Append(
                    new ClaimEntry(Guid.NewGuid(), [new Change.Swap(new UnitId("supply"), spare.Id)], StageRange.At(BootStage.NoStandby))
                    {
                        Sure = sure,
                    }
                ),
                "supply"
            );
        }

        Assert.True(After(Sureness.Certain) < After(Sureness.Fairly));
        Assert.True(After(Sureness.Fairly) < After(Sureness.Doubtful));
    }

    [Fact]
    public void A_part_that_is_only_told_of_is_never_offered()
    {
        var spare = Bench.Plain("told", UnitKind.Supply, Origin.New);
        var here = BenchDiagnosis.Of(Told(reported: "0", bench: Bench.Office().Shelf(spare)), Atlas.Standard);
        var away = BenchDiagnosis.Of(Told(reported: "0", bench: Bench.Office().Shelf(spare with { IsAway = true })), Atlas.Standard);
        static bool Uses(BenchDiagnosis d) =>
            Planning.Candidates.From(d).Any(c => c.Changes.Any(ch => ch is Change.Swap s && s.In == new UnitId("told")));
        Assert.True(Uses(here));
        Assert.False(Uses(away));
    }

    [Theory]
    [InlineData("tripped-breaker", Triage.SupplyTripped, Triage.Electrician)]
    [InlineData("smell", Triage.SupplyBurnt, null)]
    [InlineData("wet", Triage.DryFirst, null)]
    [InlineData("power-event", Triage.Electrician, null)]
    [InlineData("site-trouble", Triage.Electrician, Triage.BringTheRest)]
    [InlineData("heat", Triage.CleanFirst, null)]
    [InlineData("repeated-return", Triage.BringTheRest, null)]
    public void Answers_ask_for_what_is_safe(string context, Triage first, Triage? second)
    {
        var asked = Triages.Of(Told(contexts: [context]));
        Assert.Contains(first, asked);
        if (second is { } more)
            Assert.Contains(more, asked);
        Assert.All(asked, t => Assert.NotEmpty(t.Words()));
        Assert.Empty(Triages.Of(Told()).Where(t => t.Stops()));
    }

    [Fact]
    public void Answers_are_said_by_how_they_moved_the_suspects()
    {
        var moved = IntakeWords.AnswersMoved(Told(reported: "0", contexts: ["power-event"]), Atlas.Standard);
        var supply = Assert.Single(moved, m => m.Unit.Kind == UnitKind.Supply);
        Assert.True(supply.With > supply.Without);
        Assert.Contains("after a power cut, surge or thunderstorm", supply.Because);
        Assert.Empty(IntakeWords.AnswersMoved(Told(reported: "0"), Atlas.Standard));
    }

    [Fact]
    public void A_correction_of_the_intake_is_a_line_and_the_log_is_read_on_from_it()
    {
        var bench = Bench.Office().Trial("4");
        var job = bench.Job;
        var right = job.Intake with
        {
            Title = "Another title",
            Received = job.Intake.Received.WithUnit(Place.Memory("B2"), null).WithUnit(Place.Memory("B1"), new UnitId("stick-2")),
        };
        var amended = job.Append(new AmendEntry(Guid.NewGuid(), right, "slot misread"));
        Assert.Equal("Another title", amended.Intake.Title);
        Assert.Equal("Test machine", amended.AsTakenIn.Title);
        Assert.Equal(new UnitId("stick-2"), amended.Trials[0].Situation.Now[Place.Memory("B1")]);
        Assert.Equal(2, amended.Lines.Length);
        // Struck, it is as it was.
        var back = amended.Append(new StrikeEntry(Guid.NewGuid(), amended.Entries[^1].Id, "it was right before"));
        Assert.Equal("Test machine", back.Intake.Title);
        Assert.Equal(new UnitId("stick-2"), back.Trials[0].Situation.Now[Place.Memory("B2")]);
        // The file carries both.
        Assert.Equal("Another title", JobFormat.Read(JobFormat.Write(amended)).Intake.Title);
        Assert.Equal("Test machine", JobFormat.Read(JobFormat.Write(amended)).AsTakenIn.Title);
    }

    [Fact]
    public void A_correction_that_the_log_does_not_fit_is_refused_and_needs_a_reason()
    {
        var job = Bench.Office().Trial("4", Bench.Reseat("stick-2")).Job;
        var without = job.Intake with { Received = job.Intake.Received.WithUnit(Place.Memory("B2"), null) };
        Assert.Contains(
            "Line 1 would no longer be possible",
            Assert.Throws<EntryRefusedException>(() => job.Append(new AmendEntry(Guid.NewGuid(), without, "no stick there"))).Message,
            StringComparison.Ordinal
        );
        Assert.Throws<EntryRefusedException>(() => job.Append(new AmendEntry(Guid.NewGuid(), job.Intake, " ")));
        var boardless = job.Intake with { Received = job.Intake.Received.WithUnit(Place.Board, null) };
        Assert.Throws<EntryRefusedException>(() => job.Append(new AmendEntry(Guid.NewGuid(), boardless, "none")));
    }

    [Theory]
    [InlineData("tripped-breaker", PowerBlock.SupplyTripped)]
    [InlineData("smell", PowerBlock.SupplyBurnt)]
    [InlineData("wet", PowerBlock.LookForDamp)]
    public void No_correction_takes_back_what_was_told_of_danger(string context, PowerBlock block)
    {
        var job = Told(contexts: [context]);
        Assert.Equal(block, Safety.WhyNotPowered(job, job.Now));
        var corrected = job.Append(new AmendEntry(Guid.NewGuid(), job.Intake with { Contexts = [] }, "it did not"));
        Assert.Empty(corrected.Intake.Contexts);
        Assert.Equal(block, Safety.WhyNotPowered(corrected, corrected.Now));
        // Nor does it help to say it late.
        var late = Told().Append(new AmendEntry(Guid.NewGuid(), job.Intake, "they told later"));
        Assert.Equal(block, Safety.WhyNotPowered(late, late.Now));
    }

    [Fact]
    public void A_misfit_that_was_taken_as_a_finding_is_never_put_back()
    {
        var office = Bench.Office();
        var intake = office.Job.Intake;
        var wrong = BenchJob.Open(
            intake with
            {
                Received = intake.Received.WithUnit(Place.Memory("A2"), null).WithUnit(Place.Memory("A1"), new UnitId("stick-1")),
            }
        );
        var found = Assert.Single(MisfitFound.In(wrong.Now), m => m.Kind == Misfit.WrongSlots);
        var mended = wrong.Append(new WorkEntry(Guid.NewGuid(), found.Fix));
        Assert.Contains(mended.OutOfPlace(), o => o.Unit.Id == new UnitId("stick-1"));
        var taken = mended.Append(new MisfitEntry(Guid.NewGuid(), Misfit.WrongSlots, found.Unit));
        Assert.Empty(taken.OutOfPlace());
        Assert.Equal(new UnitId("stick-1"), taken.AsItBelongs[Place.Memory("A2")]);
        Assert.Null(taken.AsItBelongs[Place.Memory("A1")]);
    }

    [Fact]
    public void The_once_over_lists_every_look_of_this_machine_and_dirt_comes_first()
    {
        var job = Bench.Office(card: true).Job;
        var points = OnceOver.Of(job, Atlas.Standard, kind => (int)kind);
        Assert.Equal("look-dirt", points[0].Check.Id);
        Assert.Equal(2, points.Count(p => p.Check.Id == "look-stick"));
        Assert.Single(points, p => p.Check.Id == "look-card");
        Assert.All(points, p => Assert.Equal(PointAnswer.Open, p.Answer));
        Assert.DoesNotContain(OnceOver.Of(Bench.Office().Job, Atlas.Standard, k => (int)k), p => p.Check.Id == "look-card");
    }

    [Fact]
    public void Every_answer_of_a_point_is_kept_and_put_right_is_a_finding_and_its_mending()
    {
        var job = Bench.Office(card: true).Job;
        var atlas = Atlas.Standard;
        var plugs = atlas.Check("look-card")!;
        BenchJob Answer(BenchJob to, PointAnswer answer, string what = "") =>
            to.With(OnceOver.Lines(to, atlas, plugs, new UnitId("card"), answer, what, Guid.NewGuid())!.Value);
        PointAnswer Said(BenchJob of) => OnceOver.Of(of, atlas, k => (int)k).Single(p => p.Check.Id == "look-card").Answer;

        Assert.Equal(PointAnswer.Fine, Said(Answer(job, PointAnswer.Fine)));
        Assert.Equal(PointAnswer.CannotSee, Said(Answer(job, PointAnswer.CannotSee)));
        Assert.Equal(PointAnswer.Finding, Said(Answer(job, PointAnswer.Finding, "plug-out")));
        var right = Answer(job, PointAnswer.PutRight, "plug-out");
        Assert.Equal(PointAnswer.PutRight, Said(right));
        Assert.Equal(2, right.Lines.Length);
        Assert.Contains(right.Entries, e => e is WorkEntry { Changes: [Change.Reseat { Unit.Value: "card" }] });
        // A finding accuses, and once it is put right the plug is in: what was wrong is known and over.
        var finding = BenchDiagnosis.Of(Answer(job, PointAnswer.Finding, "plug-out"), atlas);
        var before = BenchDiagnosis.Of(job, atlas).PFault("card/card-aux-unplugged");
        Assert.True(finding.PFault("card/card-aux-unplugged") > 20 * before, $"{before} to {finding.PFault("card/card-aux-unplugged")}");
        // "Cannot see" is no evidence.
        Assert.Equal(P(job, "card"), P(Answer(job, PointAnswer.CannotSee), "card"), 12);
        // Said again, the last counts.
        Assert.Equal(PointAnswer.Fine, Said(Answer(Answer(job, PointAnswer.CannotSee), PointAnswer.Fine)));
    }

    [Fact]
    public void What_only_another_part_helps_is_not_put_right_in_place()
    {
        var job = Bench.Office().Job;
        var check = Atlas.Standard.Check("look-extension")!;
        Assert.Null(OnceOver.Lines(job, Atlas.Standard, check, new UnitId("extension"), PointAnswer.PutRight, "", Guid.NewGuid()));
        Assert.NotNull(OnceOver.Lines(job, Atlas.Standard, check, new UnitId("extension"), PointAnswer.Finding, "", Guid.NewGuid()));
    }

    [Theory]
    [InlineData("4-5", "4", Likeness.Same)]
    [InlineData("4-5", "2", Likeness.StopsEarlier)]
    [InlineData("2", "4", Likeness.GetsFurther)]
    [InlineData("4-5", "6-8", Likeness.WorksHere)]
    public void A_start_is_compared_with_what_was_told(string told, string seen, Likeness likeness)
    {
        var job = Told(reported: told);
        ObservedFormat.TryRead(seen, out var range);
        job = job.Append(new TrialEntry(Guid.NewGuid(), [], range));
        Assert.Equal(likeness, Reproduction.Compare(job, job.Trials[^1]));
    }

    [Fact]
    public void The_same_stage_with_another_ending_is_told_apart_and_nothing_told_is_not_compared()
    {
        var job = Told(new Complaint { Then = Ending.Off }, "7")
            .Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.OsLoads)) { Signs = new Signs { Ended = Ending.Froze } });
        Assert.Equal(Likeness.EndsOtherwise, Reproduction.Compare(job, job.Trials[^1]));
        var untold = Told().Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)));
        Assert.Null(Reproduction.Compare(untold, untold.Trials[^1]));
    }

    [Fact]
    public void Not_reproduced_takes_starts_that_passed_and_none_that_failed()
    {
        var job = Told(reported: "4");
        for (var i = 0; i < Reproduction.LeastPasses; i++)
        {
            Assert.False(Reproduction.MayEndUnreproduced(job));
            job = job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.AtLeast(BootStage.Picture)));
        }

        Assert.True(Reproduction.MayEndUnreproduced(job));
        Assert.False(Reproduction.MayEndUnreproduced(job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)))));
    }

    [Fact]
    public void The_first_start_is_the_one_in_which_it_fails_with_what_came_in()
    {
        var lead = Bench.Plain("lead", UnitKind.MainsLead);
        var how = Reproduction.Of(Told(new Complaint { When = StartKind.Load }, "7", bench: Bench.Office().Shelf(lead)));
        Assert.Equal(StartKind.Load, how.Kind);
        Assert.Equal(30, how.Minutes);
        Assert.Contains(lead.Id, how.Theirs);
        Assert.Contains(UnitKind.PowerStrip, how.Missing);
        Assert.DoesNotContain(UnitKind.MainsLead, how.Missing);
    }

    [Theory]
    [InlineData(65, 170, 1, 450, 1, Misfit.SupplyTooSmall, false)]
    [InlineData(140, 300, 3, 450, 1, Misfit.SupplyTooSmall, true)]
    [InlineData(65, 220, 2, 550, 1, Misfit.TooFewPlugs, true)]
    [InlineData(65, 220, 2, 550, 2, Misfit.TooFewPlugs, false)]
    public void Supply_and_plugs_are_weighed_before_the_first_start(
        int cpu,
        int card,
        int needs,
        int rated,
        int has,
        Misfit kind,
        bool misfit
    )
    {
        var intake = Bench.Office(card: true, extension: false).Job.Intake;
        var parts = Parts.Of(
            intake.Parts.All.Select(u =>
                u.Id.Value switch
                {
                    "cpu" => u with { Watts = cpu },
                    "card" => u with { Watts = card, Plugs = needs },
                    "supply" => u with { Watts = rated, Plugs = has },
                    _ => u,
                }
            )
        );
        var found = MisfitFound.In(BenchJob.Open(intake with { Parts = parts }).Now);
        Assert.Equal(misfit, found.Any(m => m.Kind == kind));
        // What is not known is no misfit.
        Assert.DoesNotContain(MisfitFound.In(BenchJob.Open(intake).Now), m => m.Kind is Misfit.SupplyTooSmall or Misfit.TooFewPlugs);
    }

    /// <summary>CPU 65 W, card 170 W, board 40 W, two sticks 4 W each, a drive 8 W: by hand.</summary>
    [Fact]
    public void The_first_estimate_is_the_sum_with_a_quarter_on_top()
    {
        var intake = Bench.Office(card: true).Job.Intake;
        var parts = Parts.Of(
            intake.Parts.All.Select(u =>
                u.Kind switch
                {
                    UnitKind.Cpu => u with { Watts = 65 },
                    UnitKind.GraphicsCard => u with { Watts = 170 },
                    _ => u,
                }
            )
        );
        Assert.Equal(new PowerEstimate(291, 364), PowerEstimate.Of(BenchJob.Open(intake with { Parts = parts }).Now));
        Assert.Null(PowerEstimate.Of(BenchJob.Open(intake).Now));
    }

    [Fact]
    public void Cooler_and_fans_are_weighed_too()
    {
        var fans = Enumerable.Range(1, 3).Select(n => Bench.Plain($"fan-{n}", UnitKind.CaseFan)).ToArray();
        var bench = Bench.Office();
        foreach (var (fan, i) in fans.Select((f, i) => (f, i + 1)))
            bench.Add(fan, Place.Of(PlaceKind.Fan, $"{i}"));
        var intake = bench.Job.Intake;
        Misfit[] With(string fits, int carries, int gives, int headers) =>
            [
                .. MisfitFound
                    .In(
                        BenchJob
                            .Open(
                                intake with
                                {
                                    Parts = Parts.Of(
                                        intake.Parts.All.Select(u =>
                                            u switch
                                            {
                                                Motherboard b => b with { FanHeaders = headers },
                                                Cpu c => c with { Watts = gives },
                                                { Kind: UnitKind.Cooler } => u with { Fits = [fits], Watts = carries },
                                                _ => u,
                                            }
                                        )
                                    ),
                                }
                            )
                            .Now
                    )
                    .Select(m => m.Kind),
            ];
        Assert.DoesNotContain(With("T1", 95, 65, 3), m => m is >= Misfit.CoolerForOtherSocket);
        Assert.Contains(Misfit.CoolerForOtherSocket, With("T2", 95, 65, 3));
        Assert.Contains(Misfit.CoolerTooWeak, With("T1", 60, 65, 3));
        Assert.Contains(Misfit.MoreFansThanHeaders, With("T1", 95, 65, 2));
    }

    [Fact]
    public void A_board_s_own_slot_order_goes_before_the_usual()
    {
        var board = Bench.Board("board");
        Assert.True(board.HasUsualOrder(["A2", "B2"]));
        var own = board with { Order = ["A1", "B1", "A2", "B2"] };
        Assert.False(own.HasUsualOrder(["A2", "B2"]));
        Assert.True(own.HasUsualOrder(["A1", "B1"]));
        Assert.Throws<ArgumentException>(() => board with { Order = ["A1", "C1"] });
    }

    [Fact]
    public void A_complaint_is_said_in_a_line_and_nothing_is_said_where_nothing_was_told()
    {
        var full = new Complaint
        {
            Then = Ending.Restarted,
            When = StartKind.Load,
            Minutes = 6,
            Since = "the move",
        };
        Assert.Equal(
            "system loads, it restarted by itself, under load, after 6 min, 3 of 10 times, since the move",
            Told(full, "7", times: new Times(3, 10)).Intake.ComplaintWords()
        );
        Assert.Equal("", Told().Intake.ComplaintWords());
        Assert.All(Enum.GetValues<StartKind>(), k => Assert.Contains(k.AsTold(), Told(new Complaint { When = k }).Intake.ComplaintWords()));
    }

    [Fact]
    public void A_start_that_could_not_show_the_complaint_says_nothing_until_one_fails()
    {
        var told = Told(new Complaint { When = StartKind.Cold });
        var warm = told.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.Picture)) { Kind = StartKind.Warm });
        Assert.False(warm.CouldHaveFailed(warm.Trials[0]));
        var cold = warm.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.Picture)) { Kind = StartKind.Cold });
        Assert.True(cold.CouldHaveFailed(cold.Trials[1]));
        Assert.False(cold.CouldHaveFailed(cold.Trials[0]));
        // It fails at a plain start after all: each start could have.
        var failed = cold.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RestartLoop)));
        Assert.All(failed.Trials, t => Assert.True(failed.CouldHaveFailed(t)));
        var plain = Told().Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.Picture)));
        Assert.True(plain.CouldHaveFailed(plain.Trials[0]));
    }

    [Fact]
    public void Starts_are_counted_by_kind_and_what_could_not_have_failed_is_told_apart()
    {
        static string[] Said(BenchJob job) =>
            [.. StartTally.Of(job).Select(t => $"{t.Kind.Plural()}: {t.Words()}{(t.IsNext ? ", next" : "")}")];
        TrialEntry Start(StartKind? kind, BootStage at) => new(Guid.NewGuid(), [], StageRange.At(at)) { Kind = kind };
        var told = Told(new Complaint { When = StartKind.Cold });
        Assert.Equal(["Cold starts: none yet, next"], Said(told));
        var warm = told.Append(Start(StartKind.Warm, BootStage.Picture)).Append(Start(null, BootStage.Picture));
        Assert.Equal(["Cold starts: none yet, next", "Ordinary starts: 2, none could show it"], Said(warm));
        var cold = warm.Append(Start(StartKind.Cold, BootStage.RunsNoPost)).Append(Start(StartKind.Cold, BootStage.Picture));
        Assert.Equal(["Cold starts: 1 of 2 failed, next", "Ordinary starts: 2, none could show it"], Said(cold));
        // It fails at a plain start after all: each could have, and a plain one is next.
        Assert.Equal(
            ["Cold starts: 1 of 2 failed", "Ordinary starts: 1 of 3 failed, next"],
            Said(cold.Append(Start(null, BootStage.RestartLoop)))
        );
    }
}
