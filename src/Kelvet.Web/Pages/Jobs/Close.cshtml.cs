using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Closes a job with what was found, or reopens it.</summary>
public sealed class CloseModel(JobStore store, DiagnosisCache readings, Visitor visitor, HouseRules house) : JobPageModel(store, readings, visitor)
{
    private const int MostWords = 400;

    public string Words { get; private set; } = "";

    public IReadOnlyCollection<string> Found { get; private set; } = [];

    public string? Problem { get; private set; }

    /// <summary>
    /// For a fault that came and went: how often it failed before the clean starts at the end of the log, how many of those
    /// it takes to believe in the repair, and how many there are. Null when it never both failed and passed before.
    /// </summary>
    public (int Failed, int Starts, int Clean, int Since)? CleanStartsNeeded
    {
        get
        {
            var trials = Job.Bench.Trials;
            var since = trials.Reverse().TakeWhile(t => t.Seen.ShowsPicture).Count();
            var before = trials.Take(trials.Length - since).ToArray();
            var failed = before.Count(t => !t.Seen.ShowsPicture);
            return failed > 0 && failed < before.Length ? (failed, before.Length, CleanStarts.Needed(failed, before.Length), since) : null;
        }
    }

    /// <summary>Ticks what the log speaks for.</summary>
    public void OnGet() => Found =
        [.. Reading.Diagnosis.Suspects.Where(s => s.Standing is Standing.Condemned or Standing.ProofOneWay).Select(s => s.Unit.Id.Value)];

    public async Task<IActionResult> OnPostAsync(string[] found, string? words)
    {
        Found = found;
        Words = words?.Trim() ?? "";
        if (Words.Length is 0 or > MostWords) Problem = $"Say what was done, in 1 to {MostWords} characters.";
        else if (found.Any(f => !UnitId.IsValid(f) || !Job.Bench.Now.Parts.Has(new UnitId(f)))) Problem = "One of the ticked parts is not in this job.";
        if (Problem is not null) return Page();
        UnitId[] units = [.. found.Select(f => new UnitId(f))];
        await Store.CloseAsync(Number, Visitor.Name, Words, units, Experience.Proved(Reading.Diagnosis, units), cancel: HttpContext.RequestAborted);
        house.Changed();
        return Redirect($"/jobs/{Number}/report");
    }

    public async Task<IActionResult> OnPostReopenAsync()
    {
        await Store.ReopenAsync(Number, HttpContext.RequestAborted);
        house.Changed();
        return Redirect($"/jobs/{Number}");
    }
}
