using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Training;

/// <summary>What a search may still take, played out: machines that the log allows, each worked to its end by the advice itself.</summary>
public static class Ahead
{
    /// <summary>Ends that are played out for one figure.</summary>
    public const int UsualEnds = 8;

    /// <summary>
    /// Plays a job on from its log. The machines are taken at even steps through the explanations by their likelihood, so that the
    /// likely ones are played and the same log gives the same figure.
    /// </summary>
    /// <param name="diagnosis">The log; at least one trial.</param>
    /// <param name="school">The order of work.</param>
    /// <param name="preferences">The shop's.</param>
    /// <param name="ends">How many ends, 1 upward.</param>
    /// <param name="cancel">Given up between two ends.</param>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    public static SearchAhead Of(
        BenchDiagnosis diagnosis,
        School school,
        Preferences preferences,
        int ends = UsualEnds,
        CancellationToken cancel = default
    )
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(ends, 1);
        var worked = new List<JobResult>();
        for (var end = 0; end < ends; end++)
        {
            cancel.ThrowIfCancellationRequested();
            var random = new Random(end);
            var world = Drawn(diagnosis, (end + 0.5) / ends, random);
            worked.Add(Episode.Work(diagnosis.Job, world, diagnosis.Atlas, school, preferences, random).Result);
        }

        return new SearchAhead(
            worked.Average(w => w.Minutes),
            worked.Min(w => w.Minutes),
            worked.Max(w => w.Minutes),
            [.. worked.SelectMany(w => w.Condemned).Select(id => diagnosis.Job.Now.Parts.Find(id)?.Kind).OfType<Machines.UnitKind>()],
            ends
        );
    }

    /// <summary>The machine at a share, 0 to 1, of the way through the explanations.</summary>
    private static World Drawn(BenchDiagnosis diagnosis, double share, Random random)
    {
        var table = diagnosis.Inference.Table;
        var left = share * diagnosis.Hypotheses.Sum(h => h.Probability);
        var hypothesis = diagnosis.Hypotheses[^1];
        foreach (var h in diagnosis.Hypotheses)
        {
            left -= h.Probability;
            if (left > 0)
                continue;
            hypothesis = h;
            break;
        }

        return new World(
            diagnosis.Faults,
            [.. hypothesis.Forms.Select(f => new HiddenFault(table.Forms[f].Fault, table.Forms[f], null, random.NextDouble()))],
            diagnosis.Atlas
        );
    }
}
