using Kelvet.Data;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;

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

    /// <summary>The line after which the machine is shown; null for as it stands.</summary>
    [BindProperty(SupportsGet = true)]
    public int? At { get; set; }

    /// <summary>The machine beside the log.</summary>
    public DrawingView Drawing { get; private set; } = null!;

    public async Task OnGetAsync()
    {
        // A line after which nobody ever stood is the last one.
        At = At is { } at && at > 0 && at < Job.Bench.Entries.Length ? at : null;
        Drawing = DrawingView.Of(At is { } stood ? Job.Bench.AfterLines(stood) : Job.Bench);
        Photos = await bench.PhotosAsync(Job.Row.Id, HttpContext.RequestAborted);
        Captures = await signals.CapturedAsync(Job.Row.Id, HttpContext.RequestAborted);
        Says = Job.Bench.Trials.SelectMany(t => CodeSign.Of(t, Reading.Diagnosis)).ToLookup(s => s.Line);
    }
}
