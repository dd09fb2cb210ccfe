using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What else a log allows beside the fault that leads, fault by fault against the definition.</summary>
[Trait("suite", "rules")]
public class RivalTests
{
    private static readonly Bench[] Logs =
    [
        Office().Trial("4").Trial("6", Remove("stick-2")),
        Office().Trial("4").Trial("6").Trial("4").Trial("6", Remove("stick-2")).Trial("6"),
        Office(card: true).Trial("5").Trial("6", Show("board/HDMI"), Remove("card")),
        Office().Trial("3").Trial("6", Clear),
        // Two at once: with the supply alone exchanged it runs and stops at the memory, and a stick out lets it through.
        Office()
            .Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf))
            .Trial("0")
            .Trial("4", Swap("supply", "spare"))
            .Trial("4")
            .Trial("6", Remove("stick-2"))
            .Trial("4", Fit("stick-2", "memory.B2"))
            .Trial("0", Swap("spare", "supply")),
        Office().Shelf(Plain("spare", UnitKind.Supply, Origin.Shelf)).Trial("0").Trial("6", Swap("supply", "spare")),
    ];

    [Theory]
    [InlineData(0, "stick-2")]
    [InlineData(1, "stick-2")]
    [InlineData(2, "card")]
    [InlineData(3, "board")]
    [InlineData(4, "stick-2")]
    [InlineData(5, "supply")]
    public void A_rival_fits_the_log_well_enough_with_what_else_is_there_and_is_not_far_fetched(int log, string suspect)
    {
        var inference = Logs[log].Diagnosis.Inference;
        var table = inference.Table;
        var unit = new UnitId(suspect);
        UnitId UnitOf(int form) => table.Faults[table.Forms[form].Fault].Unit.Id;
        int[] besides = [.. inference.Hypotheses.First(h => h.Forms.Select(UnitOf).Contains(unit)).Forms.Where(f => UnitOf(f) != unit)];

        var forms = table
            .Forms.Select((form, f) => (form.Fault, form.Rate, form.Share, Log: inference.LogLikelihood([.. besides, f])))
            .ToArray();
        var top = forms.Max(f => f.Log);
        var steady = forms.ToLookup(f => f.Fault, f => f.Share * Math.Exp(f.Log - top));
        var lucky = forms.Where(f => f.Rate is not null).ToLookup(f => f.Fault, f => Math.Exp(f.Log - top));
        double Steady(int fault) => steady[fault].Sum();
        double Fit(int fault) => Math.Max(Steady(fault), lucky[fault].Append(0).Max());

        var all = Enumerable.Range(0, table.Faults.Length).ToArray();
        var own = all.Where(f => table.Faults[f].Unit.Id == unit).ToArray();
        var act = table.Faults[own.OrderByDescending(f => inference.Marginals[f]).First()].Act;
        var best = own.Where(f => table.Faults[f].Act == act).Max(Steady);
        double Share(int fault) => Cures.IsSetting(table.Faults[fault].Mode.Cure) ? 0.01 : 0.06;

        var expected = all.Where(f => table.Faults[f].Act != act && besides.All(b => table.Forms[b].Fault != f))
            .Where(f => Fit(f) / best >= Share(f) && inference.Marginals[f] >= 0.0005)
            .Where(f => table.Faults[f].Unit.Id != unit || table.Faults[f].Mode.Cure != Cure.Repair)
            .ToDictionary(f => f, f => (Ratio: Fit(f) / best, ByChance: Steady(f) / best < Share(f)));
        var rivals = Rivals.Of(inference, unit);
        Assert.NotEmpty(rivals);
        Assert.Equal(expected.Keys.Order(), rivals.Select(r => r.Index).Order());
        Assert.Equal(rivals.Select(r => r.Ratio).OrderDescending(), rivals.Select(r => r.Ratio));
        foreach (var rival in rivals)
        {
            Assert.Equal(table.Faults[rival.Index], rival.Fault);
            Assert.Equal(expected[rival.Index].Ratio, rival.Ratio, 1e-9);
            Assert.Equal(expected[rival.Index].ByChance, rival.ByChance);
            // Luck at the rate that suits the log best: at no other rate does it fit better.
            var rates = forms.Where(f => f.Fault == rival.Index && f.Rate is not null).ToArray();
            Assert.Equal(rates.Length > 0 ? rates.MaxBy(f => f.Log).Rate : null, rival.Rate);
        }
    }

    [Fact]
    public void How_often_it_acts_is_the_mean_over_what_explains_the_log()
    {
        var bench = Office();
        foreach (var seen in new[] { "4", "6", "4", "6", "4", "4", "6", "6", "4" })
            bench.Trial(seen);
        bench.Trial("6", Remove("stick-2"));
        for (var n = 0; n < 12; n++)
            bench.Trial("6");
        bench.Trial("4", Fit("stick-2", "memory.B2"));
        var diagnosis = bench.Diagnosis;
        var inference = diagnosis.Inference;
        var rated = (
            from h in inference.Hypotheses
            from f in h.Forms
            let form = inference.Table.Forms[f]
            where form.Rate is not null && inference.Faults[form.Fault].Unit.Id.Value == "stick-2"
            select (h.Probability, Rate: form.Rate!.Value)
        ).ToArray();
        var mean = rated.Sum(r => r.Probability * r.Rate) / rated.Sum(r => r.Probability);
        Assert.InRange(mean, 0.3, 0.7);
        Assert.Equal(mean, diagnosis.RateOf(new("stick-2"))!.Value, 1e-9);
        // The board is suspected but acts always, where it is it; of the other stick too little is thought.
        Assert.True(diagnosis.P("board") > 0.25);
        Assert.Null(diagnosis.RateOf(new("board")));
        Assert.Null(diagnosis.RateOf(new("stick-1")));
    }

    [Fact]
    public void Of_a_part_that_nobody_has_heard_of_there_is_no_rival() =>
        Assert.Empty(Rivals.Of(Logs[0].Diagnosis.Inference, new UnitId("not-there")));
}
