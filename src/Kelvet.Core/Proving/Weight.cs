using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Proving;

/// <summary>How far one piece of evidence moved one unit.</summary>
/// <param name="Evidence">The piece: a trial, a finding, what the customer says.</param>
/// <param name="LogRatio">
/// Natural logarithm of odds(unit | whole log) / odds(unit | log without this piece). Above 0 it speaks against the unit.
/// </param>
public sealed record Weight(EvidencePiece Evidence, double LogRatio)
{
    /// <summary>The weight of every piece of evidence on a unit, in log order.</summary>
    /// <exception cref="KeyNotFoundException">No such unit, or none that can be at fault.</exception>
    public static ImmutableArray<Weight> On(BenchDiagnosis diagnosis, UnitId unit)
    {
        _ = diagnosis[unit];
        return All(diagnosis)[unit];
    }

    /// <summary>
    /// The weight of every piece of evidence on every unit. Leaving one piece out divides each leading hypothesis
    /// by its likelihood; hypotheses below one in 10^8 are left out throughout.
    /// </summary>
    public static ImmutableDictionary<UnitId, ImmutableArray<Weight>> All(BenchDiagnosis diagnosis)
    {
        UnitId[] units = [.. diagnosis.Suspects.Select(s => s.Unit.Id)];
        var indexOf = units.Select((u, i) => (u, i)).ToDictionary(p => p.u, p => p.i);
        var unitsOf = diagnosis
            .Hypotheses.Select(h =>
                h.Forms.Select(f => indexOf[diagnosis.Faults[diagnosis.Inference.FaultOf[f]].Unit.Id]).Distinct().ToArray()
            )
            .ToArray();
        var all = LogOdds(null);
        var weights = units.Select(_ => ImmutableArray.CreateBuilder<Weight>(diagnosis.Evidence.Length)).ToArray();
        foreach (var piece in diagnosis.Evidence)
        {
            var without = LogOdds(piece);
            for (var u = 0; u < units.Length; u++)
                weights[u].Add(new Weight(piece, all[u] - without[u]));
        }

        return units.Select((u, i) => KeyValuePair.Create(u, weights[i].ToImmutable())).ToImmutableDictionary();

        double[] LogOdds(EvidencePiece? leaveOut)
        {
            var sums = new double[units.Length];
            var total = 0.0;
            for (var h = 0; h < unitsOf.Length; h++)
            {
                var hypothesis = diagnosis.Hypotheses[h];
                var w = leaveOut is null
                    ? hypothesis.Probability
                    : hypothesis.Probability / leaveOut.Column.Likelihood(hypothesis.Forms.AsSpan());
                total += w;
                foreach (var u in unitsOf[h])
                    sums[u] += w;
            }

            for (var u = 0; u < sums.Length; u++)
            {
                var p = Math.Clamp(sums[u] / total, 1e-9, 1 - 1e-9);
                sums[u] = Math.Log(p / (1 - p));
            }

            return sums;
        }
    }
}
