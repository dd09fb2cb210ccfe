using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>How often models of parts fail in this shop, and what that does to the odds.</summary>
public class ModelRateTests
{
    private static readonly UnitModel Weak = new(UnitKind.Supply, "CORVEN 450");
    private static readonly UnitModel Sound = new(UnitKind.Supply, "ONDEL P5");

    private static ImmutableArray<ModelRate> Rates(int weak, int of) =>
        ModelRates.Of(new Dictionary<UnitModel, ModelTally> { [Weak] = new(weak, of), [Sound] = new(1, 40) });

    [Fact]
    public void A_model_is_one_however_its_name_was_written_and_none_where_it_is_guessed()
    {
        var unit = Unit.Plain(new UnitId("psu"), UnitKind.Supply, "  Corven   450 ", Origin.Customer);
        Assert.Equal(Weak, UnitModel.Of(unit));
        Assert.Equal(Weak, UnitModel.Read(Weak.ToString()));
        Assert.Null(UnitModel.Of(unit with { Guessed = [PartFact.Name] }));
        Assert.Null(UnitModel.Read("supply"));
        Assert.Null(UnitModel.Read("nothing X"));
        // What stands beside modes in a list of odds is taken for no mode, and no mode for a model.
        Assert.All(Atlas.Standard.Modes, m => Assert.Null(UnitModel.Read(m.Id)));
    }

    [Fact]
    public void Four_of_five_move_the_odds_and_one_job_by_no_more_than_a_quarter()
    {
        var four = Rates(4, 5).Single(r => r.Model == Weak);
        Assert.True(four.IsWorse);
        Assert.InRange(four.Factor, 1.2, 10);
        // Wilson's interval for 4 of 5, by his formula: 0.3755 to 0.9638 (E. B. Wilson, JASA 22 (1927) 209).
        Assert.Equal((0.3755, 0.9638), (Math.Round(four.Interval.Low, 4), Math.Round(four.Interval.High, 4)));
        Assert.Contains("4 of 5", four.Words(), StringComparison.Ordinal);
        for (var n = 0; n < 30; n++)
        {
            for (var failed = 0; failed <= n; failed++)
            {
                // The kind's own rate is held, so that what is asked is what one more job of this model does.
                ModelRate At(int f, int of) => new(Weak, new ModelTally(f, of), 0.15);
                Assert.InRange(At(failed + 1, n + 1).Factor / At(failed, n).Factor, 1, 1.25 + 1e-9);
                Assert.InRange(At(failed, n + 1).Factor / At(failed, n).Factor, 0.75, 1);
                Assert.InRange(At(failed, Math.Max(1, n)).Mean, 0, 1);
            }
        }

        Assert.Equal(1, new ModelRate(Weak, default, 0.15).Factor, 1e-12);
        // Seen too seldom it moves nothing.
        Assert.DoesNotContain(Weak, ModelRates.Factors(Rates(2, 2)).Keys);
        Assert.Contains(Weak, ModelRates.Factors(Rates(3, 3)).Keys);
    }

    [Fact]
    public void What_a_job_taught_can_be_taken_off_again()
    {
        var parts = Office().Job.Intake.Parts;
        var supply = parts.All.First(u => u.Kind == UnitKind.Supply);
        var taught = ModelRates.Contribution(parts, [supply.Id]);
        Assert.Equal(new ModelTally(1, 1), taught[UnitModel.Of(supply)!.Value]);
        Assert.All(taught.Where(t => t.Key.Kind != UnitKind.Supply), t => Assert.Equal(0, t.Value.Failed));
        Assert.DoesNotContain(taught.Keys, m => UnitFacts.Of(m.Kind).Outside);
        var two = new ModelTally(1, 1) + new ModelTally(0, 2);
        Assert.Equal(new ModelTally(1, 3), two);
        Assert.Equal(new ModelTally(0, 2), two - new ModelTally(1, 1));
        Assert.Equal(new ModelTally(0, 0), new ModelTally(0, 1) - new ModelTally(1, 5));
    }

    [Fact]
    public void The_odds_of_a_customers_part_follow_its_model_and_of_nothing_else()
    {
        var parts = Office().Job.Intake.Parts;
        var supply = parts.All.First(u => u.Kind == UnitKind.Supply);
        var model = UnitModel.Of(supply)!.Value;
        var atlas = Experience.ApplyTo(Atlas.Standard, new Dictionary<string, double> { [model.ToString()] = 3 });
        Assert.Equal(Atlas.Standard.Modes.Select(m => m.Odds), atlas.Modes.Select(m => m.Odds));
        var before = Fault.AllOf(Atlas.Standard, parts, []);
        var after = Fault.AllOf(atlas, parts, []);
        Assert.Equal(before.Select(f => f.Key), after.Select(f => f.Key));
        foreach (var (was, now) in before.Zip(after))
        {
            var moves = was.Unit.Id == supply.Id && was.Mode.Cure == Cure.Replace;
            Assert.Equal(moves ? 3 : 1, now.Odds / was.Odds, 1e-12);
        }

        Assert.Contains(before, f => f.Unit.Id == supply.Id && f.Mode.Cure == Cure.Replace);
        // A spare of the same model is not the one that failed.
        var spare = Parts.Of([.. parts.All, Unit.Plain(new UnitId("spare"), UnitKind.Supply, supply.Name, Origin.Shelf)]);
        double Of(Atlas with) => Fault.AllOf(with, spare, []).Where(f => f.Unit.Id.Value == "spare").Sum(f => f.Odds);
        Assert.Equal(Of(Atlas.Standard), Of(atlas), 1e-12);
    }
}
