using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The whole log, corrections and struck lines included.</summary>
public sealed class LogModel(JobStore store, DiagnosisCache readings, Visitor visitor, BenchState bench) : JobPageModel(store, readings, visitor)
{
    /// <summary>Ids of photos by line.</summary>
    public ILookup<Guid, Guid> Photos { get; private set; } = Array.Empty<Guid>().ToLookup(g => g);

    public async Task OnGetAsync() => Photos = await bench.PhotosAsync(Job.Row.Id, HttpContext.RequestAborted);
}
