using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Proving;

/// <summary>Another fault that explains the log so nearly as well as the suspect's that the log has not told them apart.</summary>
/// <param name="Index">Its index among the job's faults.</param>
/// <param name="Fault">The fault.</param>
/// <param name="Ratio">How well it explains the log, against the suspect's fault, 0 upward; how likely either was at intake is
/// left aside.</param>
/// <param name="ByChance">Whether it explains the log only by acting in some starts and not in others.</param>
/// <param name="Rate">How often it would act, above 0 to 1, where it suits the log best; null where it goes by its rule.</param>
public sealed record Rival(int Index, Fault Fault, double Ratio, bool ByChance, double? Rate = null);

/// <summary>
/// What else the log allows, priors left aside: a proof is one only against what could have come out the same. Coincidence (a
/// fault elsewhere that comes and goes), a spare that is unlike (it needs no power plug), a combination, a setting, an
/// arrangement, another fault of the same unit that is mended otherwise: each is a fault in the table, and each is a rival
/// until a trial tells it from the suspect.
/// </summary>
public static class Rivals
{
    /// <summary>A fault that explains the log less than so well, against the suspect, is ruled out by it: about the five in a
    /// hundred that luck may be.</summary>
    public const double RuledOut = 0.06;

    /// <summary>The same for what a setting puts right: that is tried in minutes, before anything is bought. Bench judgement.</summary>
    public const double RuledOutSetting = 0.01;

    /// <summary>A fault below this is too far-fetched to hold up a proof, however well it fits. Bench judgement.</summary>
    public const double FarFetched = 0.0005;

    /// <summary>The rivals of a unit's leading fault, strongest first; none when the unit is in no likely explanation.</summary>
    public static ImmutableArray<Rival> Of(Inference inference, UnitId unit)
    {
        var table = inference.Table;
        if (LeadingWith(inference, unit) is not { } explanation)
            return [];
        int[] others = [.. explanation.Forms.Where(f => UnitOf(f) != unit)];
        var fits = new double[table.Faults.Length];
        var steady = new double[table.Faults.Length];
        var byChance = new (double Fit, double? Rate)[table.Faults.Length];
        var set = new int[others.Length + 1];
        others.CopyTo(set, 0);
        var top = double.NegativeInfinity;
        var logs = new double[table.Forms.Length];
        for (var f = 0; f < logs.Length; f++)
        {
            set[^1] = f;
            logs[f] = inference.LogLikelihood(set);
            top = Math.Max(top, logs[f]);
        }

        for (var f = 0; f < logs.Length; f++)
        {
            var form = table.Forms[f];
            var fit = Math.Exp(logs[f] - top);
            // Luck is weighed as if it were known that something comes and goes, at the rate that suits it best.
            if (form.Rate is not null && fit > byChance[form.Fault].Fit)
                byChance[form.Fault] = (fit, form.Rate);
            steady[form.Fault] += form.Share * fit;
        }

        for (var f = 0; f < fits.Length; f++)
            fits[f] = Math.Max(steady[f], byChance[f].Fit);

        var own = Enumerable.Range(0, fits.Length).Where(f => table.Faults[f].Unit.Id == unit).ToArray();
        var leading = own.MaxBy(f => inference.Marginals[f]);
        var act = table.Faults[leading].Act;
        var best = own.Where(f => table.Faults[f].Act == act).Max(f => steady[f]);
        var there = others.Select(f => table.Forms[f].Fault).ToHashSet();
        return
        [
            .. Enumerable
                .Range(0, fits.Length)
                .Where(f => table.Faults[f].Act != act && !there.Contains(f) && fits[f] >= Least(f) * best)
                .Where(f => inference.Marginals[f] >= FarFetched)
                // What is mended on the part itself at leisure (a support, a cell) is a fault of the part all the same.
                .Where(f => table.Faults[f].Unit.Id != unit || table.Faults[f].Mode.Cure != Cure.Repair)
                .Select(f => new Rival(f, table.Faults[f], fits[f] / best, steady[f] < Least(f) * best, byChance[f].Rate))
                .OrderByDescending(r => r.Ratio),
        ];

        double Least(int fault) => Cures.IsSetting(table.Faults[fault].Mode.Cure) ? RuledOutSetting : RuledOut;

        UnitId UnitOf(int form) => table.Faults[table.Forms[form].Fault].Unit.Id;
    }

    private static Hypothesis? LeadingWith(Inference inference, UnitId unit) =>
        inference.Hypotheses.FirstOrDefault(h => h.Forms.Any(f => inference.Faults[inference.FaultOf[f]].Unit.Id == unit));
}
