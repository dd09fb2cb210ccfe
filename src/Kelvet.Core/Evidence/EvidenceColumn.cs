using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Evidence;

/// <summary>
/// One piece of evidence as numbers per fault. The likelihood of a set S of faults is
/// <code>
/// (Scale * (A0 * prod A[f] - B0 * prod B[f]) + Offset) * (N0 + sum N[f]) / (D0 + sum D[f])
/// </code>
/// over f in S. Trials, inspections, readings and claims all take this form, so that one table of faults
/// by evidence gives every set's likelihood by multiplication.
/// </summary>
public sealed class EvidenceColumn
{
    /// <summary>Weight of "no fault stopped it" in the mixture of stall domains. Bench judgement.</summary>
    private const double StallBackground = 0.02;

    /// <summary>How often an indicator points where the start-up really stalled. Bench judgement.</summary>
    private const double StallFidelity = 0.85;

    private EvidenceColumn(double[] a, double[] b)
    {
        A = a;
        B = b;
    }

    public double[] A { get; }

    public double[] B { get; }

    /// <summary>Stall numerators; null when the column has no stall evidence.</summary>
    public double[]? N { get; private init; }

    /// <summary>Stall denominators; null together with <see cref="N"/>.</summary>
    public double[]? D { get; private init; }

    public double A0 { get; private init; } = 1;

    public double B0 { get; private init; } = 1;

    public double N0 { get; private init; } = 1;

    public double D0 { get; private init; } = 1;

    public double Scale { get; private init; } = 1;

    public double Offset { get; private init; }

    /// <summary>
    /// A trial: (1 - slip)(Reach(low) - Reach(high + 1)) + slip * width / 9, times what the indicators say of the stall.
    /// </summary>
    /// <param name="faults">All faults of the job, in the order of the table.</param>
    /// <param name="situation">The machine as it was started.</param>
    /// <param name="ceiling">What a healthy machine could have reached.</param>
    /// <param name="seen">The range reached.</param>
    /// <param name="slip">Chance, 0 to 1, that the observation is worthless.</param>
    /// <param name="stall">Where indicators say that start-up stalled; null when they say nothing.</param>
    public static EvidenceColumn OfTrial(
        IReadOnlyList<Fault> faults, Situation situation, Ceiling ceiling, StageRange seen, double slip, StallDomain? stall = null)
    {
        var n = faults.Count;
        var a = new double[n];
        var b = new double[n];
        var pointed = stall is not null && !seen.ShowsPicture;
        var numerators = pointed ? new double[n] : null;
        var denominators = pointed ? new double[n] : null;
        var low = (int)seen.Low;
        var above = (int)seen.High + 1;
        for (var f = 0; f < n; f++)
        {
            var engaged = faults[f].Engaged(situation);
            var reach = faults[f].Mode.Reach;
            a[f] = 1 - engaged + (engaged * reach[low]);
            b[f] = above < BootStages.Count ? 1 - engaged + (engaged * reach[above]) : 0;
            if (!pointed) continue;
            var stopped = engaged * (reach[low] - reach[Math.Min(above, BootStages.Count - 1)]);
            denominators![f] = stopped;
            numerators![f] = stopped * ((StallFidelity * faults[f].Mode.Stall[(int)stall!.Value]) + ((1 - StallFidelity) / StallDomains));
        }

        return new EvidenceColumn(a, b)
        {
            A0 = ceiling.Reach(seen.Low),
            B0 = above < BootStages.Count ? ceiling.Reach((BootStage)above) : 0,
            Scale = 1 - slip,
            Offset = slip * seen.Width / BootStages.Count,
            N = numerators,
            D = denominators,
            N0 = pointed ? StallBackground / StallDomains : 1,
            D0 = pointed ? StallBackground : 1,
        };
    }

    /// <summary>A trial from the log.</summary>
    public static EvidenceColumn OfTrial(IReadOnlyList<Fault> faults, Trial trial, double slip) =>
        OfTrial(faults, trial.Situation, trial.Ceiling, trial.Seen, slip, trial.Entry.Stall);

    /// <summary>
    /// Something that is seen when any one of its causes brings it about, or by chance (noisy OR).
    /// Seen: 1 - (1 - leak) * prod (1 - sensitivity); not seen: the rest.
    /// </summary>
    /// <param name="sensitivity">Per fault, the chance, 0 to 1, that it alone brings the finding about.</param>
    /// <param name="leak">Chance, 0 to 1, of the finding with no fault at all.</param>
    /// <param name="whenTrue">Likelihood of the report when the finding is there (1 for a direct look).</param>
    /// <param name="whenFalse">Likelihood of the report when it is not (0 for a direct look).</param>
    public static EvidenceColumn OfFinding(IReadOnlyList<double> sensitivity, double leak, double whenTrue, double whenFalse)
    {
        var a = new double[sensitivity.Count];
        Array.Fill(a, 1);
        return new EvidenceColumn(a, [.. sensitivity.Select(s => 1 - s)])
        {
            B0 = 1 - leak,
            Scale = whenTrue - whenFalse,
            Offset = whenFalse,
        };
    }

    /// <summary>Likelihood of this evidence if exactly these faults are present.</summary>
    public double Likelihood(ReadOnlySpan<int> set)
    {
        double a = A0, b = B0, numerator = N0, denominator = D0;
        foreach (var f in set)
        {
            a *= A[f];
            b *= B[f];
            if (N is null) continue;
            numerator += N[f];
            denominator += D![f];
        }

        return ((Scale * (a - b)) + Offset) * (numerator / denominator);
    }

    private static readonly double StallDomains = Enum.GetValues<StallDomain>().Length;
}
