using System.Globalization;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Worksheets;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The report for the customer and for a return, on A4 or Letter paper. A closed job prints the figures it was closed
/// with.</summary>
public sealed class ReportModel(JobStore store, DiagnosisCache readings, Visitor visitor, BenchState bench, SignalStore signals)
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

    /// <summary>What was recorded of a start or a run: codes as they came, or readings drawn.</summary>
    /// <param name="Line">The line.</param>
    /// <param name="Source">Where it came from.</param>
    /// <param name="Codes">Codes with their seconds, the last the one that stood; empty for readings.</param>
    /// <param name="Charts">Readings, drawn; empty for codes.</param>
    public sealed record Trace(int Line, string Source, string Codes, IReadOnlyList<(string Name, string Svg)> Charts);

    /// <summary>Codes and columns of readings that a paper shows of one trace.</summary>
    private const int MostCodes = 60,
        MostCharts = 4;

    /// <summary>What was recorded of starts and runs.</summary>
    public IReadOnlyList<Trace> Traces { get; private set; } = [];

    /// <summary>The grid of sticks and slots, where more than one of them was tried; null otherwise.</summary>
    public MemoryGrid? Grid { get; private set; }

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync(string? paper)
    {
        var photos = await bench.PhotosAsync(Job.Row.Id, HttpContext.RequestAborted);
        Photos = [.. Job.Bench.InOrder.SelectMany(l => photos[l.Written.Id].Select(p => (l.Number, p)))];
        var captured = await signals.CapturedAsync(Job.Row.Id, HttpContext.RequestAborted);
        var traces = new List<Trace>();
        foreach (var (line, (id, source)) in Job.Bench.InOrder.SelectMany(l => captured[l.Written.Id].Select(c => (l.Number, c))))
        {
            if (await signals.CaptureAsync(Number, id, HttpContext.RequestAborted) is { } text)
                traces.Add(source == HeatModel.Run ? OfRun(line, text) : OfCodes(line, source, text));
        }

        Traces = traces;
        if (Job.Bench.Trials.Select(t => string.Join(' ', t.Situation.Sticks.Select(s => $"{s.Place}{s.Stick.Id}"))).Distinct().Count() > 2)
            Grid = MemoryGrid.Of(Reading.Diagnosis);
        Paper = paper == "letter" ? "letter" : "a4";
        Figures =
            Job.IsClosed && Job.Row.ClosedFigures.Length > 0
                ? CaseRecord.Read(Job.Row.ClosedFigures)
                : CaseRecord.Of(Reading.Diagnosis, Rules.Preferences, Job.IsClosed ? Job.Found : null);
    }

    private static Trace OfRun(int line, string text)
    {
        var read = RunReadings.Read(text);
        var quantities = read.Guessed;
        return new Trace(
            line,
            "a run under load",
            "",
            [
                .. Enumerable
                    .Range(0, read.Columns.Length)
                    .Where(c => quantities[c] != Quantity.LeftOut)
                    .Take(MostCharts)
                    .Select(c => (read.Columns[c], HeatChart.Of(read, c, quantities[c], RunLimits.Usual))),
            ]
        );
    }

    private static Trace OfCodes(int line, string source, string text)
    {
        var seen = CodeLog.Read(text, source).Seen.ToArray();
        var codes = string.Join(
            ", ",
            seen.TakeLast(MostCodes).Select(c => string.Create(CultureInfo.InvariantCulture, $"{c.Code} at {c.Seconds:0.0} s"))
        );
        return new Trace(line, source, seen.Length > MostCodes ? $"… {codes}" : codes, []);
    }
}
