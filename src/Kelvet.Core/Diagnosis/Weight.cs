using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Diagnosis;

/// <summary>How far one piece of evidence moved one unit.</summary>
/// <param name="Trial">The trial; null for the customer's report.</param>
/// <param name="LogRatio">
/// Natural logarithm of odds(unit | whole log) / odds(unit | log without this piece). Above 0 it speaks against the unit.
/// </param>
public sealed record Weight(Trial? Trial, double LogRatio)
{
    /// <summary>
    /// The grades of Kass and Raftery, "Bayes Factors", JASA 90 (1995), p. 777: twice the logarithm, below 2
    /// not worth more than a bare mention, to 6 positive, to 10 strong, above very strong.
    /// </summary>
    public string Words
    {
        get
        {
            var twice = 2 * Math.Abs(LogRatio);
            if (twice < 0.2) return "says nothing";
            var side = LogRatio > 0 ? "against" : "for";
            return twice switch
            {
                < 2 => $"barely worth a mention, {side} it",
                < 6 => $"positive, {side} it",
                < 10 => $"strong, {side} it",
                _ => $"very strong, {side} it",
            };
        }
    }

    /// <summary>The weight of every piece of evidence on a unit, in log order.</summary>
    /// <exception cref="KeyNotFoundException">No such unit, or none that can be at fault.</exception>
    public static ImmutableArray<Weight> On(BenchDiagnosis diagnosis, UnitId unit)
    {
        _ = diagnosis[unit];
        int[] group = [.. diagnosis.Faults.Select(f => f.Unit.Id == unit ? 0 : 1)];
        double[] odds = [.. diagnosis.Faults.Select(f => f.Odds)];
        var all = LogOdds(diagnosis.Posterior);
        var reports = diagnosis.Evidence.Length - diagnosis.Job.Trials.Length;
        return
        [
            .. diagnosis.Evidence.Select((column, i) => new Weight(
                i < reports ? null : diagnosis.Job.Trials[i - reports],
                all - LogOdds(Posterior.Of(odds, diagnosis.Evidence.RemoveAt(i))))),
        ];

        double LogOdds(Posterior posterior)
        {
            var p = Math.Clamp(posterior.Marginals(group, 2)[0], 1e-12, 1 - 1e-12);
            return Math.Log(p / (1 - p));
        }
    }
}
