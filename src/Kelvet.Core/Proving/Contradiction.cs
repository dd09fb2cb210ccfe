using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Proving;

/// <summary>A log that no set of faults explains better than slips do.</summary>
/// <param name="Lines">Lines most likely mis-recorded, or that a fault unknown to the atlas explains, worst first.</param>
public sealed record Contradiction(ImmutableArray<int> Lines)
{
    /// <summary>
    /// The first of the lines that cannot be as the machine stood then, and why: it got further than anything healthy could
    /// have. Null where no line is that plain.
    /// </summary>
    public (int Line, StageRange Seen, ImmutableArray<CeilingReason> Why)? Impossible { get; private init; }

    /// <summary>A likelihood is put down to a slip when the rest of it is less than so many times the slip's part.</summary>
    private const double SlipShare = 1;

    /// <summary>Looks for one: lines that the likeliest explanations put down to slips.</summary>
    /// <returns>Null when the log is explained.</returns>
    public static Contradiction? In(BenchDiagnosis diagnosis)
    {
        var lines = new List<(int Line, double Share)>();
        foreach (var piece in diagnosis.Evidence.Where(e => e.Trial is not null))
        {
            // Posterior share of hypotheses under which this line is mostly a slip.
            double slipped = 0,
                all = 0;
            foreach (var h in diagnosis.Hypotheses)
            {
                all += h.Probability;
                if (piece.Column.Explained(h.Forms.AsSpan()) < SlipShare * piece.Column.Offset)
                    slipped += h.Probability;
            }

            if (all > 0 && slipped / all > 0.5)
                lines.Add((piece.Line, slipped / all));
        }

        return lines.Count == 0
            ? null
            : new Contradiction([.. lines.OrderByDescending(l => l.Share).ThenBy(l => l.Line).Select(l => l.Line)])
            {
                Impossible = lines
                    .Select(l => diagnosis.Job.Trials.FirstOrDefault(t => t.Number == l.Line))
                    .OfType<Trial>()
                    .Where(t => !t.Ceiling.CanReach(t.Seen.Low))
                    .Select(t => ((int, StageRange, ImmutableArray<CeilingReason>)?)(t.Number, t.Seen, t.Ceiling.Reasons))
                    .FirstOrDefault(),
            };
    }
}
