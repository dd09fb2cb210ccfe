using System.Collections.Concurrent;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Planning;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>A job's log as read by the core.</summary>
public sealed record Reading(BenchDiagnosis Diagnosis, Advice Advice);

/// <summary>
/// Keeps the last reading of each job. The log is the truth; a reading is only ever good for the log that it was made from.
/// </summary>
public sealed class DiagnosisCache
{
    private const int MostJobs = 200;

    private readonly ConcurrentDictionary<int, (Guid LastLine, int Lines, Lazy<Reading> Reading)> _last = new();

    public Reading Of(StoredJob job)
    {
        var lines = job.Bench.Entries.Length;
        var last = lines == 0 ? Guid.Empty : job.Bench.Entries[^1].Id;
        if (_last.Count > MostJobs) _last.Clear();
        return _last.AddOrUpdate(
            job.Row.Id,
            _ => (last, lines, Make()),
            (_, known) => known.LastLine == last && known.Lines == lines ? known : (last, lines, Make())).Reading.Value;

        Lazy<Reading> Make() => new(() =>
        {
            var diagnosis = BenchDiagnosis.Of(job.Bench, Atlas.Standard);
            return new Reading(diagnosis, Planner.Advise(diagnosis));
        });
    }
}
