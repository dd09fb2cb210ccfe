using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Evidence;

/// <summary>
/// One piece of evidence as numbers per entry, a form that a fault can take. The likelihood of a set S of faults is
/// <code>
/// (Scale * (A0 * prod A[f] - B0 * prod B[f]) + Offset) * (N0 + sum N[f]) / (D0 + sum D[f])
/// </code>
/// over f in S. Trials, inspections, readings and claims all take this form, so that one table of entries
/// by evidence gives every set's likelihood by multiplication.
/// </summary>
public sealed class EvidenceColumn
{
    /// <summary>Weight of "no fault stopped it" in the mixture of stall domains. Bench judgement.</summary>
    private const double StallBackground = 0.02;

    private EvidenceColumn(double[] a, double[] b)
    {
        A = a;
        B = b;
    }

    /// <summary>Factor A[f] of each fault in the first product; see the formula above.</summary>
    public double[] A { get; }

    /// <summary>Factor B[f] of each fault in the product that is taken off.</summary>
    public double[] B { get; }

    /// <summary>Stall numerators; null when the column has no stall evidence.</summary>
    public double[]? N { get; private init; }

    /// <summary>Stall denominators; null together with <see cref="N"/>.</summary>
    public double[]? D { get; private init; }

    /// <summary>The first product with no fault at all.</summary>
    public double A0 { get; private init; } = 1;

    /// <summary>The product that is taken off, with no fault at all.</summary>
    public double B0 { get; private init; } = 1;

    /// <summary>Stall numerator with no fault at all.</summary>
    public double N0 { get; private init; } = 1;

    /// <summary>Stall denominator with no fault at all.</summary>
    public double D0 { get; private init; } = 1;

    /// <summary>What the difference of the products is multiplied by.</summary>
    public double Scale { get; private init; } = 1;

    /// <summary>What is added to it, before the stall's quotient.</summary>
    public double Offset { get; private init; }

    /// <summary>
    /// A trial: (1 - slip)(Reach(low) - Reach(high + 1)) + slip * width / 9, times what the indicators say of the stall.
    /// </summary>
    /// <param name="table">All faults of the job and their forms.</param>
    /// <param name="engaged">Per form, the chance that it acted.</param>
    /// <param name="ceiling">What a healthy machine could have reached.</param>
    /// <param name="seen">The range reached.</param>
    /// <param name="slip">Chance, 0 to 1, that the observation is worthless.</param>
    /// <param name="stall">Where indicators say that start-up stalled; null when they say nothing.</param>
    /// <param name="signs">What was noted of how it ended; empty when nothing was.</param>
    public static EvidenceColumn OfTrial(
        FaultTable table,
        double[] engaged,
        Ceiling ceiling,
        StageRange seen,
        double slip,
        StallSignal? stall = null,
        IReadOnlyCollection<SignMeaning>? signs = null
    )
    {
        var n = table.Forms.Length;
        var a = new double[n];
        var b = new double[n];
        signs ??= [];
        if (seen.ShowsPicture)
            stall = null;
        var pointed = stall is not null || signs.Count > 0;
        var usual = signs.Aggregate(stall?.Likelihoods.Average() ?? 1, (p, s) => p * s.Usual);
        var numerators = pointed ? new double[n] : null;
        var denominators = pointed ? new double[n] : null;
        var low = (int)seen.Low;
        var above = (int)seen.High + 1;
        for (var f = 0; f < n; f++)
        {
            var reach = table.Forms[f].Reach;
            a[f] = TrialModel.Past(engaged[f], reach[low]);
            b[f] = above < BootStages.Count ? TrialModel.Past(engaged[f], reach[above]) : a[f];
            if (!pointed)
                continue;
            var stopped = engaged[f] * (reach[low] - reach[Math.Min(above, BootStages.Count - 1)]);
            denominators![f] = stopped;
            var mode = table.Faults[table.Forms[f].Fault].Mode;
            numerators![f] = signs.Aggregate(stopped * (stall is null ? 1 : Expected(mode.Stall, stall)), (p, s) => p * s.With(mode));
        }

        return new EvidenceColumn(a, b)
        {
            A0 = ceiling.Reach(seen.Low),
            B0 = above < BootStages.Count ? ceiling.Reach((BootStage)above) : 0,
            Scale = TrialModel.Weight(slip),
            Offset = TrialModel.Worthless(seen, slip),
            N = numerators,
            D = denominators,
            N0 = pointed ? StallBackground * usual : 1,
            D0 = pointed ? StallBackground : 1,
        };
    }

    /// <summary>A finding, claim or try elsewhere from the log; null when the atlas does not know the check.</summary>
    public static EvidenceColumn? OfTestimony(FaultTable table, Testimony testimony, Atlas atlas) =>
        testimony.Entry switch
        {
            FindingEntry f => atlas.Check(f.Check) is { } check
                ? f.Rails is { } rails
                    ? OfRails(table, check, f.Unit, testimony.Situation, rails)
                    : OfCheck(table, check, f.Unit, testimony.Situation, f.Found, f.What, f.Found ? 1 : f.Passes ?? 1)
                : null,
            ClaimEntry c => OfTrial(
                table,
                table.Engaged(table.ByRule(testimony.Situation)),
                Ceiling.Of(testimony.Situation),
                c.Seen,
                SlipOf(c.Sure, atlas)
            ),
            ElsewhereEntry e => OfElsewhere(table, e.Unit, e.Worked),
            _ => null,
        };

    /// <summary>Chance that what a customer tells is worthless, by how sure they are. Bench judgement.</summary>
    public static double SlipOf(Sureness sure, Atlas atlas) =>
        sure switch
        {
            Sureness.Certain => atlas.ReportedSlip / 2,
            Sureness.Doubtful => Math.Min(0.6, atlas.ReportedSlip * 3),
            _ => atlas.ReportedSlip,
        };

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

    /// <summary>A finding of a check, or its absence.</summary>
    /// <param name="table">All faults of the job and their forms.</param>
    /// <param name="check">The check.</param>
    /// <param name="unit">The unit that was looked at.</param>
    /// <param name="situation">The machine at that moment.</param>
    /// <param name="found">Whether the finding was there.</param>
    /// <param name="what">Which of the things that the check tells apart; empty for any.</param>
    /// <param name="passes">Passes of a test program that all found nothing; 1 for a look or a reading.</param>
    public static EvidenceColumn OfCheck(
        FaultTable table,
        Check check,
        UnitId unit,
        Situation situation,
        bool found,
        string what = "",
        int passes = 1
    )
    {
        var narrowed = check;
        if (found && check.Findings.FirstOrDefault(f => f.Id == what) is { } sort)
            narrowed = check with { Shows = sort.Shows, Leak = check.Leak / check.Findings.Length };
        return OfFinding(
            table.PerForm([.. table.Faults.Select(f => TestProgram.After(Sensitivity(f, narrowed, unit, situation), passes))]),
            narrowed.Leak,
            found ? 1 : 0,
            found ? 0 : 1
        );
    }

    /// <summary>
    /// Rails that were read as numbers: whether one is out is not known for certain, and the numbers say how much likelier that is. A
    /// supply that stands idle shows a weakness half as often as one under load. Bench judgement.
    /// </summary>
    /// <param name="table">All faults of the job and their forms.</param>
    /// <param name="check">The look that they belong to.</param>
    /// <param name="unit">The supply, or the extension.</param>
    /// <param name="situation">The machine at that moment.</param>
    /// <param name="rails">The readings.</param>
    public static EvidenceColumn OfRails(FaultTable table, Check check, UnitId unit, Situation situation, Supplies.RailSet rails)
    {
        var shown = rails.Load == Supplies.RailLoad.Idle ? IdleShows : 1;
        var ratio = rails.Ratio;
        var scale = Math.Max(ratio, 1);
        return OfFinding(
            table.PerForm([.. table.Faults.Select(f => shown * Sensitivity(f, check, unit, situation))]),
            check.Leak,
            ratio / scale,
            1 / scale
        );
    }

    private const double IdleShows = 0.5;

    /// <summary>What is there whatever ended the start: a stopped fan, a wrong clock. Seen by what acts, or by chance.</summary>
    /// <param name="table">All faults of the job and their forms.</param>
    /// <param name="engaged">Per form, the chance that it acted.</param>
    /// <param name="sign">The sign.</param>
    public static EvidenceColumn OfSign(FaultTable table, double[] engaged, SignMeaning sign) =>
        OfFinding(
            [
                .. table.Forms.Select(
                    (f, i) => Math.Max(0, sign.With(table.Faults[f.Fault].Mode) - sign.Usual) / (1 - sign.Usual) * engaged[i]
                ),
            ],
            sign.Usual,
            1,
            0
        );

    /// <summary>
    /// Chance that a check finds a fault: the atlas's sensitivity while the fault is not dealt with. Modes of another
    /// unit count while that unit is fitted (a hot CPU shows the cooler's faults); a powered check shows what acts.
    /// </summary>
    public static double Sensitivity(Fault fault, Check check, UnitId unit, Situation situation)
    {
        if (!check.Shows.TryGetValue(fault.Mode.Id, out var shows))
            return 0;
        var own = fault.Unit.Id == unit || (check.SpeaksForAll && fault.Unit.Kind == check.On && situation.Now.Has(fault.Unit.Id));
        if (!own && (fault.Unit.Kind == check.On || !situation.Now.Has(fault.Unit.Id)))
            return 0;
        if (!check.Powered)
            return fault.DealtWith(situation) ? 0 : shows;

        // At its own plug a supply is tried apart from the machine; otherwise what does not act does not show.
        var engaged = fault.Engaged(situation);
        return engaged > 0 ? shows * Math.Max(engaged, 0.7)
            : own ? shows
            : 0;
    }

    /// <summary>A unit tried in a machine that is known good.</summary>
    /// <param name="table">All faults of the job and their forms.</param>
    /// <param name="unit">The unit.</param>
    /// <param name="worked">Whether that machine ran.</param>
    public static EvidenceColumn OfElsewhere(FaultTable table, UnitId unit, bool worked) =>
        OfFinding(
            table.PerForm([.. table.Faults.Select(f => f.Unit.Id == unit && f.Mode.Cure == Cure.Replace ? Travels(f) : 0)]),
            ElsewhereLeak,
            worked ? 0 : 1,
            worked ? 1 : 0
        );

    /// <summary>Chance that a try in another machine fails for another reason. Bench judgement.</summary>
    private const double ElsewhereLeak = 0.03;

    private static double Travels(Fault fault) => fault.Mode.Most * (1 - fault.Mode.Reach[(int)BootStage.Picture]);

    private static double Expected(ImmutableArray<double> stall, StallSignal signal)
    {
        var sum = 0.0;
        for (var d = 0; d < stall.Length; d++)
            sum += stall[d] * signal.Likelihoods[d];
        return sum;
    }

    /// <summary>The most that any set with an entry in it can be given, the stall left aside.</summary>
    public double Most(int entry) => Scale >= 0 ? (Scale * A0 * A[entry]) + Offset : Offset + (Scale * (A0 - (B0 * B[entry])));

    /// <summary>The most that the stall's quotient can be.</summary>
    public double MostOfStall()
    {
        if (N is null)
            return 1;
        var most = N0 / D0;
        for (var f = 0; f < N.Length; f++)
        {
            if (D![f] > 0)
                most = Math.Max(most, N[f] / D[f]);
        }

        return most;
    }

    /// <summary>The same with every likelihood multiplied.</summary>
    public EvidenceColumn Scaled(double factor) =>
        new(A, B)
        {
            N = N,
            D = D,
            A0 = A0,
            B0 = B0,
            N0 = N0,
            D0 = D0,
            Scale = Scale * factor,
            Offset = Offset * factor,
        };

    /// <summary>The same evidence about some of the faults alone, in the given order.</summary>
    public EvidenceColumn Only(int[] faults)
    {
        return new EvidenceColumn(Pick(A), Pick(B))
        {
            N = N is null ? null : Pick(N),
            D = D is null ? null : Pick(D),
            A0 = A0,
            B0 = B0,
            N0 = N0,
            D0 = D0,
            Scale = Scale,
            Offset = Offset,
        };

        double[] Pick(double[] values)
        {
            var picked = new double[faults.Length];
            for (var f = 0; f < picked.Length; f++)
                picked[f] = values[faults[f]];
            return picked;
        }
    }

    /// <summary>The part of the likelihood that is not put down to a slip, stall evidence left aside.</summary>
    public double Explained(ReadOnlySpan<int> set)
    {
        double a = A0,
            b = B0;
        foreach (var f in set)
        {
            a *= A[f];
            b *= B[f];
        }

        return Scale * (a - b);
    }

    /// <summary>Likelihood of this evidence if exactly these faults are present.</summary>
    public double Likelihood(ReadOnlySpan<int> set)
    {
        double a = A0,
            b = B0,
            numerator = N0,
            denominator = D0;
        foreach (var f in set)
        {
            a *= A[f];
            b *= B[f];
            if (N is null)
                continue;
            numerator += N[f];
            denominator += D![f];
        }

        return ((Scale * (a - b)) + Offset) * (numerator / denominator);
    }
}
