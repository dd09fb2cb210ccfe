using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Web.Shown;

/// <summary>A first job, told step by step beside the bench: what to press now, by how far the log has come.</summary>
/// <param name="Nth">Which of the steps, from 1.</param>
/// <param name="Words">What to do.</param>
public sealed record Guide(int Nth, string Words)
{
    /// <summary>How many steps there are.</summary>
    public const int Steps = 6;

    /// <summary>What the example machine does, for whoever works it without one on the bench.</summary>
    public const string Machine =
        "The example: with a stick in slot A2 fans run, no picture (4 or 5); with A2 empty and a stick elsewhere, a picture (6).";

    /// <param name="reading">The job as read.</param>
    /// <param name="gate">Where the work stands at the gate.</param>
    /// <param name="pending">Whether something is to be done before the next start.</param>
    /// <param name="closed">Whether the job is closed.</param>
    public static Guide Of(BenchDiagnosis reading, Gate gate, bool pending, bool closed)
    {
        var job = reading.Job;
        if (closed)
            return new(Steps, "Closed. The papers are under r. That was a whole job.");
        if (job.Lines.Length == 0)
            return new(1, "Nobody knows yet what it does. Look it over with the power off: v, and a number answers each point.");
        if (job.Trials.Length == 0)
            return new(2, "Now start it as it came in: g. Watch it, and press the number of how far it got.");
        if (reading.Suspects.Any(s => s.Standing is Standing.Condemned or Standing.PutRight or Standing.ProofOneWay))
            return new(
                5,
                "One part stands out, and why is under e. Go on as it says until everything is back in place and starts clean; then d."
            );
        if (pending || gate.Power.State == Power.Off)
            return new(4, "Hands go in only when the strip says SAFE. Make the change that is lit; then g, and say how far it gets.");
        return new(
            3,
            job.Trials.Length == 1
                ? "The largest words are the next step. Why? q. Take it with n: the power goes off with it."
                : "Two columns that differ in one part and in height are the answer. n takes the next step."
        );
    }
}
