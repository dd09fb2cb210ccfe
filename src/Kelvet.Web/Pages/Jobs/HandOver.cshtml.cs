using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What is looked at before a machine goes back, made for this machine.</summary>
public sealed class HandOverModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    [BindProperty(SupportsGet = true)]
    public string Paper { get; set; } = "a4";

    /// <summary>Takes any other paper for A4.</summary>
    public void OnGet() => Paper = Paper == "letter" ? "letter" : "a4";

    /// <summary>The points.</summary>
    public ImmutableArray<HandOverItem> Items => HandOverSheet.Of(Reading.Diagnosis);

    /// <summary>Indexes of those that were ticked, when the form is shown again.</summary>
    public IReadOnlySet<int> Ticked { get; private set; } = new HashSet<int>();

    /// <summary>The line that says how it was gone through before; null where it was not.</summary>
    public string? Before =>
        Job
            .Bench.Lines.Select(l => l.Stands)
            .OfType<NoteEntry>()
            .LastOrDefault(n => n.Note.StartsWith(HandOverWords.Done, StringComparison.Ordinal))
            ?.Note;

    /// <summary>Records what is in order, and what is open.</summary>
    public async Task<IActionResult> OnPostAsync(List<int>? done, Guid stepId)
    {
        await ReadAsync();
        Ticked = (done ?? []).ToHashSet();
        var items = Items;
        string[] open = [.. items.Where((_, i) => !Ticked.Contains(i)).Select(i => i.Words())];
        if (open.Length == items.Length)
            return await RefusedAsync("Tick what is in order. Nothing was, so nothing is recorded.");
        var words = $"{HandOverWords.Done} {items.Length - open.Length} of {items.Length} points in order.";
        if (open.Length > 0)
            words += $" Open: {string.Join("; ", open)}.";
        try
        {
            _ = await desk.RecordWordsAsync(
                Number,
                new NoteEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId)
                {
                    Note = words.Length > Entry.LongestNote ? words[..Entry.LongestNote] : words,
                },
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/close");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
