using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Shown;

namespace Kelvet.Web.Hosting;

/// <summary>Works out what bench, list and log show of a job with its new lines; the reading is kept for the page that follows.</summary>
public sealed class LineJudge(DiagnosisCache readings) : ILineJudge
{
    /// <inheritdoc/>
    public async Task JudgeAsync(StoredJob longer, IReadOnlyList<Entry> lines, CancellationToken cancel)
    {
        var reading = readings.Of(longer, await readings.RulesAsync(longer));
        cancel.ThrowIfCancellationRequested();
        _ = JobCard.Of(longer, reading).Picture();
        var ids = lines.Select(l => l.Id).ToHashSet();
        foreach (var line in longer.Bench.Lines.Where(l => ids.Contains(l.Written.Id)))
        {
            _ = LogWords.Of(longer.Bench, line.Written);
            foreach (var trial in longer.Bench.Trials.Where(t => t.Number == line.Number))
                _ = CodeSign.Of(trial, reading.Diagnosis);
        }
    }
}
