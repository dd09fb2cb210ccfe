using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Making the fault show itself: the technician's own set-up first, then a start in the way the complaint happens; and what
/// to do where it works here.</summary>
public sealed class ReproduceModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>How the first start is made.</summary>
    public Reproduction How { get; private set; } = null!;

    /// <summary>
    /// How the last start compares with what was told, or the last that failed where one did: a machine that fails now and then does not
    /// work here because its last start passed. Null before the first, or where nothing was told.
    /// </summary>
    public Likeness? Last { get; private set; }

    /// <summary>Starts that passed and that failed.</summary>
    public (int Passed, int Failed) Counted { get; private set; }

    /// <summary>Clean starts that are wanted before "works here" is believed.</summary>
    public int Wanted { get; private set; }

    /// <summary>Whether the own set-up was checked, by the log.</summary>
    public bool SetUpChecked => Job.Bench.Lines.Any(l => l.Stands is NoteEntry n && n.Note.StartsWith(Checked, StringComparison.Ordinal));

    /// <summary>How the line begins that says so.</summary>
    public const string Checked = "Own set-up checked:";

    /// <summary>Shows how.</summary>
    public void OnGet() => Fill();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        Fill();
    }

    private void Fill()
    {
        var bench = Job.Bench;
        How = Reproduction.Of(bench);
        Last = (bench.Trials.LastOrDefault(t => t.Failed) ?? bench.Trials.LastOrDefault()) is { } telling
            ? Reproduction.Compare(bench, telling)
            : null;
        Counted = (bench.Trials.Count(t => t.Passed), bench.Trials.Count(t => t.Failed));
        Wanted = bench.Intake.ReportedTimes is { } times
            ? Math.Max(Reproduction.LeastPasses, CleanStarts.Needed(times.Failed, times.Of))
            : Reproduction.LeastPasses;
    }

    /// <summary>Records that the own set-up was checked.</summary>
    public async Task<IActionResult> OnPostAsync(List<SetUpPoint>? point)
    {
        if (point is not { Count: > 0 })
            return await RefusedAsync("Tick what you have checked of your own set-up.");
        var words = string.Join("; ", point.Distinct().Select(p => p.Words()));
        try
        {
            _ = await desk.RecordWordsAsync(
                Number,
                new NoteEntry(Guid.NewGuid()) { Note = $"{Checked} {words}." },
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            await ReadAsync();
            var kind = Job.Bench.Intake.Complaint.When;
            return Redirect($"/jobs/{Number}{(kind is { } k ? $"?kind={k}" : "")}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Closes the job with the fault not seen here.</summary>
    public async Task<IActionResult> OnPostUnreproducedAsync(string? words)
    {
        try
        {
            _ = await desk.CloseUnreproducedAsync(Number, words?.Trim() ?? "", await DeskAsync(), HttpContext.RequestAborted);
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/card");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
