using System.Text.RegularExpressions;
using Kelvet.Core.Billing;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Training;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What the other half of a proof costs against the price of being wrong, and what a search may still take.</summary>
[Trait("suite", "rules")]
public class ProofPriceTests
{
    /// <summary>A board that was swapped last, everything before it to no avail: it passes without it, and once more.</summary>
    private static BenchJob SwappedLast() =>
        NotLookedInto().Append(new FindingEntry(Guid.NewGuid(), "look-socket", new UnitId("board"), false));

    /// <summary>The same, but nobody looked whether a pin of its socket is bent.</summary>
    private static BenchJob NotLookedInto() =>
        Office(extension: false)
            .Shelf(
                Bench.Board("spare-board", Origin.Shelf),
                new Cpu(new UnitId("spare-cpu"), "spare CPU", Origin.Shelf, true) { Socket = "T1" },
                Stick("spare-stick", Origin.Shelf),
                Plain("spare-supply", UnitKind.Supply, Origin.Shelf)
            )
            .Trial("4")
            .Trial("4", Swap("supply", "spare-supply"))
            .Trial("4", Remove("stick-2"), Swap("stick-1", "spare-stick"), Clear)
            .Trial("4", Swap("cpu", "spare-cpu"))
            .Trial("6", Swap("board", "spare-board"))
            .Trial("6")
            .Job;

    private static ProofPrice? PriceOf(BenchJob job, Preferences? preferences = null) =>
        ProofPrice
            .Of(BenchDiagnosis.Of(job, Atlas.Standard), preferences ?? Preferences.Usual)
            .SingleOrDefault(p => p.Unit.Id.Value == "board");

    [Fact]
    public void An_hour_of_proof_is_not_spent_for_what_it_cannot_save()
    {
        var job = SwappedLast();
        var d = BenchDiagnosis.Of(job, Atlas.Standard);
        Assert.Equal(Standing.ProofOneWay, d.Of("board").Standing);
        var price = PriceOf(job)!;
        Assert.Equal(WhyProof.NotWorthIt, price.Why);
        Assert.True(price.Minutes > 60 && price.Expected < price.Cost);
        // By hand: the usual board costs 110, a machine that comes back 90, and an hour 60; in and out again.
        var swap = Atlas.Standard.Work.Swap[UnitKind.Motherboard].Value;
        Assert.Equal(110 + 90 + swap + Effort.OrderMinutes, price.AtStake, 1e-9);
        Assert.Equal(price.Minutes, price.Cost, 1e-9);
        Assert.StartsWith("One-way proof, accepted because putting it back", price.Because(), StringComparison.Ordinal);
        var advice = Planner.Advise(d);
        Assert.Equal(AdviceKind.PutRestBack, advice.Decision.Kind);
        Assert.Equal([price.Because()], advice.Proofs.Select(p => p.Because()));
        Assert.Contains(new UnitId("board"), CaseRecord.StandingOut(d, Preferences.Usual));
        Assert.Equal(price.Because(), CaseRecord.Of(d, Preferences.Usual).Named.Single(n => n.Unit == "board").Accepted);
        Assert.NotEqual(new UnitId("board"), Planner.Repaired(d)[Place.Board]);
    }

    [Fact]
    public void A_dear_part_an_open_warranty_and_being_wrong_at_a_price_ask_for_both_ways()
    {
        var job = SwappedLast();
        Preferences With(double hour = 60, double back = 90, double board = 110) =>
            Preferences.Usual with
            {
                HourlyRate = hour,
                ComingBack = back,
                PartPrices = Preferences.Usual.PartPrices.SetItem(UnitKind.Motherboard, board),
            };
        Assert.Equal(WhyProof.DearPart, PriceOf(job, With(board: 200))!.Why);
        Assert.Equal(WhyProof.NotWorthIt, PriceOf(job, With(board: 199))!.Why);
        Assert.Equal(WhyProof.WorthIt, PriceOf(job, With(back: 9000))!.Why);
        Assert.Equal(WhyProof.WorthIt, PriceOf(job, With(hour: 1))!.Why);
        var under = Amended(job, new DateOnly(2025, 12, 1), 24);
        Assert.Equal(WhyProof.GoesBack, PriceOf(under)!.Why);
        Assert.Equal(AdviceKind.PutBackToProve, Planner.Advise(BenchDiagnosis.Of(under, Atlas.Standard)).Decision.Kind);
        // The warranty ran out on the day before the last line.
        Assert.Equal(WhyProof.NotWorthIt, PriceOf(Amended(job, new DateOnly(2024, 11, 26), 24))!.Why);
        Assert.Equal(WhyProof.GoesBack, PriceOf(Amended(job, new DateOnly(2024, 11, 27), 24))!.Why);

        static BenchJob Amended(BenchJob job, DateOnly bought, int months)
        {
            var parts = Parts.Of(
                job.Intake.Parts.All.Select(u => u.Id.Value == "board" ? u with { Bought = bought, WarrantyMonths = months } : u)
            );
            return job.Append(
                new AmendEntry(Guid.NewGuid(), job.Intake with { Parts = parts }, "bought")
                {
                    At = new DateTimeOffset(2026, 11, 27, 12, 0, 0, TimeSpan.Zero),
                }
            );
        }
    }

    [Fact]
    public void The_technician_overrules_it_either_way_and_the_log_keeps_why()
    {
        var job = SwappedLast();
        var both = job.Append(new ProofChoiceEntry(Guid.NewGuid(), new UnitId("board"), true) { Note = "the maker wants it" });
        Assert.Equal(WhyProof.ChosenTwoWay, PriceOf(both)!.Why);
        var asked = Planner.Advise(BenchDiagnosis.Of(both, Atlas.Standard));
        Assert.Equal((AdviceKind.PutBackToProve, "board"), (asked.Decision.Kind, asked.Decision.About!.Id.Value));
        var one = both.Append(new ProofChoiceEntry(Guid.NewGuid(), new UnitId("board"), false));
        Assert.True(PriceOf(one) is { Accepted: true, Why: WhyProof.ChosenOneWay });
        // It survives a file, and a part that is not there cannot be chosen for.
        var read = JobFormat.Read(JobFormat.Write(one));
        Assert.Equal(WhyProof.ChosenOneWay, PriceOf(read)!.Why);
        Assert.Throws<EntryRefusedException>(() => job.Append(new ProofChoiceEntry(Guid.NewGuid(), new UnitId("nobody"), true)));
    }

    [Fact]
    public void Before_it_is_put_back_at_a_price_it_is_looked_at()
    {
        var job = NotLookedInto();
        var price = PriceOf(job)!;
        Assert.Equal(WhyProof.NotCertain, price.Why);
        Assert.True(price.Wrong > 0.05 && price.Expected < price.Cost);
        var advice = Planner.Advise(BenchDiagnosis.Of(job, Atlas.Standard));
        Assert.Equal((AdviceKind.Control, "look-socket"), (advice.Decision.Kind, advice.Decision.Step!.Check?.Id));
        Assert.Equal("board", advice.Decision.About!.Id.Value);
        // Another look at the same part is not that look.
        var other = job.Append(new FindingEntry(Guid.NewGuid(), "look-board", new UnitId("board"), false));
        Assert.Equal("look-socket", Planner.Advise(BenchDiagnosis.Of(other, Atlas.Standard)).Decision.Step!.Check?.Id);
        // A pin is bent: nothing is accepted, and it is straightened in its place rather than replaced.
        var bent = job.Append(new FindingEntry(Guid.NewGuid(), "look-socket", new UnitId("board"), true));
        Assert.False(PriceOf(bent)?.Accepted ?? false);
        Assert.Contains(
            Planner.Advise(BenchDiagnosis.Of(bent, Atlas.Standard)).Decision.Step!.Changes,
            c => c is Change.Mend { Remedy: Remedy.Straighten }
        );
    }

    [Fact]
    public void A_stick_goes_back_in_because_that_takes_minutes()
    {
        var job = Office(extension: false)
            .Shelf(Stick("spare-stick", Origin.Shelf))
            .Trial("4")
            .Trial("4", Remove("stick-2"), Reseat("stick-1"), Clear)
            .Trial("6", Swap("stick-1", "spare-stick"))
            .Trial("6")
            .Job;
        var prices = ProofPrice.Of(BenchDiagnosis.Of(job, Atlas.Standard), Preferences.Usual).ToArray();
        Assert.All(prices, p => Assert.False(p.Accepted));
        Assert.Contains(prices, p => p.Unit.Id.Value == "stick-1" && p.Why is WhyProof.Cheap or WhyProof.NotCertain);
    }

    [Fact]
    public void A_search_is_played_out_by_the_advice_itself()
    {
        var bench = Office().Trial("4").Trial("4", Clear);
        var ahead = Ahead.Of(bench.Diagnosis, School.Advisor, Preferences.Usual, 4);
        Assert.Equal(4, ahead.Ends);
        Assert.InRange(ahead.Minutes, ahead.Least, ahead.Most);
        Assert.True(ahead.Least > 0);
        Assert.NotEmpty(ahead.Replaced);
        // The same log gives the same figure, and the table counts it.
        Assert.Equal(ahead.Minutes, Ahead.Of(bench.Diagnosis, School.Advisor, Preferences.Usual, 4).Minutes, 1e-9);
        var search = Worth.Of(bench.Diagnosis, 45, ahead, Preferences.Usual).Ways.Single(w => w.Way == WayOut.SearchOn);
        Assert.Equal(ahead.Minutes, search.Minutes, 1e-9);
        Assert.Equal(ahead.Replaced.Sum(k => Preferences.Usual.PriceOf(k).New) / 4, search.Parts.New, 1e-9);
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        Assert.Throws<OperationCanceledException>(() => Ahead.Of(bench.Diagnosis, School.Advisor, Preferences.Usual, 4, stopped.Token));
        // Where all but the last word is said, most of the ends say it.
        var said = Ahead.Of(BenchDiagnosis.Of(SwappedLast(), Atlas.Standard), School.Advisor, Preferences.Usual, 4);
        Assert.True(said.Replaced.Count(k => k == UnitKind.Motherboard) >= 3, string.Join(" ", said.Replaced));
    }

    [Fact]
    public void A_board_that_only_elimination_speaks_for_is_accepted_as_such_and_taught()
    {
        var job = SwappedLast();
        var d = BenchDiagnosis.Of(job, Atlas.Standard);
        UnitId board = new("board");
        Assert.Empty(Experience.Proved(d, [board]));
        Assert.Single(Experience.Proved(d, [board], [board]));
        Assert.Empty(Experience.Proved(d, [], [board]));
        // The machine fails again: nothing is accepted of a part that was taken out for nothing.
        Assert.Null(PriceOf(job.Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost)))));
    }

    [Fact]
    public void What_was_proposed_is_told_from_what_was_not()
    {
        var fresh = Office(extension: false).Shelf(Stick("spare-stick", Origin.Shelf)).Job;
        // What was proposed travels with the form: it is read back from its text.
        Proposal At(BenchJob job) => Proposal.Read(Proposal.Of(Planner.Advise(BenchDiagnosis.Of(job, Atlas.Standard))).Write())!;
        TrialEntry Start(params Change[] changes) => new(Guid.NewGuid(), [.. changes], StageRange.At(BootStage.RunsNoPost));
        FindingEntry Look(string check, UnitId unit) => new(Guid.NewGuid(), check, unit, false);
        Assert.True(Followed.By(At(fresh), fresh, Start()));
        Assert.False(Followed.By(At(fresh), fresh, Start(Clear)));
        Assert.True(Followed.By(At(fresh), fresh, Look("look-board", new UnitId("board"))));
        Assert.Null(Followed.By(At(fresh), fresh, new NoteEntry(Guid.NewGuid()) { Note = "x" }));
        var job = fresh.Append(Start() with { Followed = true });
        var advice = At(job);
        var step = Planner.Advise(BenchDiagnosis.Of(job, Atlas.Standard)).Decision.Step!;
        var done = step.Check is { } check ? (Entry)Look(check.Id, step.Checked!.Id) : Start([.. step.Changes]);
        Assert.True(Followed.By(advice, job, done));
        Assert.False(Followed.By(advice, job, Start(Remove("keyboard"))));
        Assert.False(Followed.By(advice, job, Look("look-nothing", new UnitId("board"))));
        // It goes into the file and is counted at closing; a line of an older version is not.
        var read = JobFormat.Read(JobFormat.Write(job.Append(Start(Remove("keyboard")) with { Followed = false }).Append(Start())));
        Assert.Equal((1, 2), Followed.Of(read));
        var record = CaseRecord.Of(BenchDiagnosis.Of(read, Atlas.Standard), Preferences.Usual, []);
        Assert.Equal((1, 2), (record.Followed, record.Advised));
    }

    [Fact]
    public void What_it_was_first_taken_for_is_what_the_first_failure_spoke_for()
    {
        var job = SwappedLast();
        var d = BenchDiagnosis.Of(job, Atlas.Standard);
        var first = BenchDiagnosis.Of(job.AfterLines(1), Atlas.Standard);
        var guess = CaseRecord.FirstTakenFor(d)!;
        Assert.Equal(first.Suspects.Where(s => s.Unit.Origin == Origin.Customer).MaxBy(s => s.Probability)!.Unit.Id.Value, guess.Unit);
        var record = CaseRecord.Of(d, Preferences.Usual, [new UnitId("board")]);
        Assert.Equal(guess.Unit == "board", record.FirstWasRight);
        Assert.NotEmpty(record.Named.Single().Mode);
        var kept = CaseRecord.Read(record.Write());
        Assert.Equal((record.First, record.Named.Single()), (kept.First, kept.Named.Single()));
        // A record of an older version has neither.
        var old = CaseRecord.Read(
            """
            {"Named":[{"Unit":"a","Name":"b","Serial":"","Fault":"c","Standing":6,"Probability":"99 %","Story":""}],
            "Left":"","CameAndWent":""}
            """
        )!;
        Assert.Null(old.FirstWasRight);
        Assert.Equal("", old.Named[0].Accepted);
        Assert.Null(CaseRecord.FirstTakenFor(Office().Trial("6").Diagnosis));
        var track = TrackRecord.Of([record with { Followed = 3, Advised = 4 }, old]);
        Assert.Equal((2, 1, 3, 4), (track.Jobs, track.FirstKnown, track.Followed, track.Advised));
        Assert.Equal((1, 1), (track.OneSide, track.BothWays));
    }

    [Fact]
    public void An_estimate_adds_up_and_an_owner_can_read_it()
    {
        var bench = Office().Trial("4").Trial("4", Clear);
        var worth = Worth.Of(bench.Diagnosis, 45, null, Preferences.Usual);
        var rate = (decimal)Preferences.Usual.HourlyRate;
        foreach (var way in worth.Ways)
        {
            foreach (var used in new[] { false, true })
            {
                foreach (var ahead in new[] { null, new SearchAhead(50, 20, 90, [UnitKind.Motherboard], 2) })
                {
                    var estimate = Estimate.Of(bench.Diagnosis, way, used, ahead, Preferences.Usual, BillingTerms.Usual);
                    // Its work is quarters of an hour that were begun, and what the search may take lies within it.
                    var work = estimate.Lines.Single(l => l.What == "Work");
                    var (least, most) = way.Way switch
                    {
                        WayOut.SearchOn when ahead is not null => (20.0, 90.0),
                        WayOut.ReplaceLikeliest => (0, 0),
                        _ => (0, way.Minutes),
                    };
                    Assert.InRange(worth.Spent + Preferences.Usual.CostOf(least), 0, (double)work.From + 1e-6);
                    Assert.InRange(worth.Spent + Preferences.Usual.CostOf(most), 0, (double)work.To + 1e-6);
                    Assert.Equal((0, 0), (work.From / rate % 0.25m, work.To / rate % 0.25m));
                    Assert.Equal(way.Way != WayOut.GiveBack, estimate.Lines.Any(l => l.What != "Work"));
                    Assert.All(estimate.Lines, l => Assert.True(l.From == l.To || l.Why.Length > 0, "A range says why."));
                    var words = string.Join(
                        ' ',
                        [estimate.Known, estimate.Proposal, .. estimate.Lines.SelectMany(l => new[] { l.What, l.Why })]
                    );
                    Assert.All(PlainReport.Jargon, j => Assert.DoesNotMatch($@"(?i)(?<![\w-]){Regex.Escape(j)}s?(?![\w-])", words));
                }
            }
        }

        // A machine that is worth less than any way costs is better given back, and that is what the owner is asked.
        Assert.False(worth.IsNotWorthIt);
        // Leave is asked for from four fifths of what was allowed on.
        Assert.Equal(
            (false, true, true, false),
            (Worth.IsNear(79.9, 100), Worth.IsNear(80, 100), Worth.IsNear(120, 100), Worth.IsNear(1e6, null))
        );
        var poor = Worth.Of(bench.Diagnosis, 45, null, Preferences.Usual, 20);
        Assert.True(poor.IsNotWorthIt);
        Assert.Contains("give it back", poor.Words(null), StringComparison.Ordinal);
        Assert.Contains("ask first", worth.Words(1), StringComparison.Ordinal);
        Assert.StartsWith("Cheapest from here:", worth.Words(null), StringComparison.Ordinal);
        // By hand: the parts that came in, used.
        var parts = bench.Job.Intake.Received.At.Values.Select(id => bench.Job.Intake.Parts[id].Kind);
        Assert.Equal(parts.Sum(k => Preferences.Usual.PriceOf(k).Used), worth.Machine, 1e-9);
    }

    [Fact]
    public void A_sheet_for_a_seller_says_what_is_missing_until_nothing_is()
    {
        var bench = Office().Trial("4");
        Suspect Of(Bench of) => of.Diagnosis.Suspects.First(s => s.Unit.Kind == UnitKind.MemoryStick);
        var nothing = Of(bench);
        Assert.Contains(nothing.Lacks(), l => l.StartsWith("A start that fails with it in", StringComparison.Ordinal));
        Assert.Contains("When it was bought.", nothing.Lacks());
        foreach (var standing in Enum.GetValues<Standing>())
        {
            var told = nothing with { Standing = standing };
            Assert.All(told.Lacks(), l => Assert.DoesNotMatch(@"\d|%|likely|suspect|condemned|posterior", l));
        }

        Assert.Contains(
            (nothing with { Standing = Standing.PutRight }).Lacks(),
            l => l.Contains("nothing to return", StringComparison.Ordinal)
        );
    }
}
