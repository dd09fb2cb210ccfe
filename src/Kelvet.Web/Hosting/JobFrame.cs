using Kelvet.Core.Words;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>What stands on every page of a job: whose it is, what it is complained of, and what is to be done next.</summary>
/// <param name="Job">The job as stored.</param>
/// <param name="Read">Reads its log: a page that does not ask for it does not pay for it.</param>
public sealed record JobFrame(StoredJob Job, Func<Reading> Read)
{
    /// <summary>Under what a page hands it to its frame.</summary>
    public const string Key = "JobFrame";

    /// <summary>What is to be done next, in a few words.</summary>
    public string Next
    {
        get
        {
            var reading = Read();
            return PlainAdvice.Of(reading.Advice, reading.Diagnosis).Imperative;
        }
    }

    /// <summary>What it is complained of; the title where nothing else was told.</summary>
    public string Complaint => Job.Bench.Intake.ComplaintWords() is { Length: > 0 } told ? told : Job.Bench.Intake.Title;
}
