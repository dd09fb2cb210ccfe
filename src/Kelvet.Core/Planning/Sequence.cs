using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>One place to look, with the chance that the fault is found there and the minutes a look takes.</summary>
public sealed record Look<T>(T What, double Probability, Minutes Minutes);

/// <summary>
/// The order of independent looks for one fault. Looking in order of probability over cost is optimal:
/// J. B. Kadane and H. A. Simon, "Optimal strategies for a class of constrained sequential problems",
/// Annals of Statistics 5 (1977); D. Heckerman, J. S. Breese and K. Rommelse, "Decision-theoretic
/// troubleshooting", CACM 38 (1995).
/// </summary>
public static class Sequence
{
    /// <summary>The optimal order.</summary>
    public static ImmutableArray<Look<T>> Best<T>(IEnumerable<Look<T>> looks) =>
        [.. looks.OrderByDescending(l => l.Minutes.Value > 0 ? l.Probability / l.Minutes.Value : double.PositiveInfinity)];

    /// <summary>Expected minutes until the fault is found, or until every look was in vain.</summary>
    public static Minutes Expected<T>(IEnumerable<Look<T>> order)
    {
        double total = 0,
            left = 1;
        foreach (var look in order)
        {
            total += left * look.Minutes.Value;
            left -= look.Probability;
        }

        return new Minutes(Math.Max(0, total));
    }

    /// <summary>
    /// What to look over with the power off, best order first: seats, plugs, wires and switches that are not dealt with.
    /// </summary>
    public static ImmutableArray<Look<Fault>> Checks(BenchDiagnosis diagnosis) =>
        Best(
            diagnosis
                .Suspects.SelectMany(s => s.Faults)
                .Where(b =>
                    b.Fault.Mode.Cure is Cure.Reseat or Cure.Set or Cure.Rewire or Cure.Repaste or Cure.Clean
                    && b.Fault.Unit.Origin == Origin.Customer
                    && !b.Fault.DealtWith(diagnosis.Job.Now)
                    && diagnosis.Job.Now.Now.Has(b.Fault.Unit.Id)
                )
                .Select(b => new Look<Fault>(b.Fault, b.Probability, diagnosis.Atlas.Work.Reseat[b.Fault.Unit.Kind]))
        );
}
