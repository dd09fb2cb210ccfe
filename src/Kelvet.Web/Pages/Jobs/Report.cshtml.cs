using System.Text.Json;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The report for the customer and for a return, on A4 or Letter paper. A closed job prints the figures it was closed
/// with.</summary>
public sealed class ReportModel(JobStore store, DiagnosisCache readings, Visitor visitor, BenchState bench)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    public string Paper { get; private set; } = "a4";

    /// <summary>The figures.</summary>
    public CaseRecord Figures { get; private set; } = null!;

    /// <summary>Id of the rules that the figures come from; empty when they were not kept.</summary>
    public string ReadWith => Job.IsClosed ? Job.Row.ClosedRules : Rules.Set.Id;

    /// <summary>Photos with the lines that they are of.</summary>
    public IReadOnlyList<(int Line, Guid Photo)> Photos { get; private set; } = [];

    /// <summary>The grid of sticks and slots, where more than one of them was tried; null otherwise.</summary>
    public MemoryGrid? Grid { get; private set; }

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync(string? paper)
    {
        var photos = await bench.PhotosAsync(Job.Row.Id, HttpContext.RequestAborted);
        Photos = [.. Job.Bench.InOrder.SelectMany(l => photos[l.Written.Id].Select(p => (l.Number, p)))];
        if (Job.Bench.Trials.Select(t => string.Join(' ', t.Situation.Sticks.Select(s => $"{s.Place}{s.Stick.Id}"))).Distinct().Count() > 2)
            Grid = MemoryGrid.Of(Reading.Diagnosis);
        Paper = paper == "letter" ? "letter" : "a4";
        Figures =
            Job.IsClosed && Job.Row.ClosedFigures.Length > 0
                ? JsonSerializer.Deserialize<CaseRecord>(Job.Row.ClosedFigures)!
                : CaseRecord.Of(Reading.Diagnosis, Rules.Preferences, Job.IsClosed ? Job.Found : null);
    }
}
