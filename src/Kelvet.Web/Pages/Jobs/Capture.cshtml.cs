using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A page for a phone: takes photos for a job that is on a bench elsewhere.</summary>
public sealed class CaptureModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live, PhotoRoom photos)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>The line that the last photo became; null when none was just kept.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Kept { get; set; }

    /// <summary>Where this page is, for a phone to find it.</summary>
    public string Address => $"{Request.Scheme}://{Request.Host}/jobs/{Number}/capture";

    /// <summary>Whether it is called by a name that only this machine knows.</summary>
    public bool IsHereOnly => Request.Host.Host is "localhost" or "127.0.0.1" or "[::1]";

    /// <summary>Shows it.</summary>
    public void OnGet() { }

    /// <summary>Keeps a photo as a line of its own.</summary>
    public async Task<IActionResult> OnPostAsync(IFormFile? photo, string? note, Guid stepId)
    {
        if (photo is not { Length: > 0 })
            return await RefusedAsync("Choose or take a photo.", "photo");
        var (jpeg, why) = await photos.ReadAsync(photo, HttpContext.RequestAborted);
        if (why is not null)
            return await RefusedAsync(why, "photo");
        try
        {
            var entry = new NoteEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId)
            {
                Note = string.IsNullOrWhiteSpace(note) ? "Photo" : note.Trim(),
            };
            var answer = await desk.RecordWordsAsync(
                Number,
                entry,
                null,
                new Attachments(jpeg, []),
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line capture");
            return Redirect($"/jobs/{Number}/capture?kept={answer.Job.Bench.Lines.Length}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
