using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The whole log, corrections and struck lines included.</summary>
public sealed class LogModel(JobStore store, DiagnosisCache readings, Visitor visitor, BenchState bench, SignalStore signals)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>Ids of photos by line.</summary>
    public ILookup<Guid, Guid> Photos { get; private set; } = Array.Empty<Guid>().ToLookup(g => g);

    /// <summary>Captures of codes by line: number and source.</summary>
    public ILookup<Guid, (int Id, string Source)> Captures { get; private set; } = Array.Empty<(int, string)>().ToLookup(_ => Guid.Empty);

    /// <summary>What code, beeps and lights said, by line.</summary>
    public ILookup<int, CodeSign> Says { get; private set; } = Array.Empty<CodeSign>().ToLookup(s => s.Line);

    public async Task OnGetAsync()
    {
        Photos = await bench.PhotosAsync(Job.Row.Id, HttpContext.RequestAborted);
        Captures = await signals.CapturedAsync(Job.Row.Id, HttpContext.RequestAborted);
        Says = Job.Bench.Trials.SelectMany(t => CodeSign.Of(t, Reading.Diagnosis)).ToLookup(s => s.Line);
    }
}
