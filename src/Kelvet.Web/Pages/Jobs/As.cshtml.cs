using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A line that was something else: what the log and the suspects become is shown, and kept by one key.</summary>
public sealed class AsModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk) : JobPageModel(store, readings, visitor)
{
    private const int MostMoved = 4;

    /// <summary>A suspect before and after.</summary>
    public sealed record Effect(string Who, string Was, string Becomes);

    /// <summary>The stage or range that was reached; null where it was seen right.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Seen { get; set; }

    /// <summary>Which change was another, from 0.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Nth { get; set; }

    /// <summary>That change, in the text form.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Change { get; set; }

    /// <summary>The line.</summary>
    public LogLine Line { get; private set; } = null!;

    /// <summary>What the line would say.</summary>
    public string Becomes { get; private set; } = "";

    /// <summary>What the other lines would become.</summary>
    public MendingPreview? Preview { get; private set; }

    /// <summary>The suspects that it moves, most moved first.</summary>
    public ImmutableArray<Effect> Effects { get; private set; } = [];

    /// <summary>A reason that is offered.</summary>
    public string Offered => Seen is null ? "it was another place or part" : "it was seen wrongly";

    /// <summary>Shows what it would become.</summary>
    public IActionResult OnGet(int line)
    {
        if (!Find(line))
            return NotFound();
        try
        {
            Foresee();
        }
        catch (EntryRefusedException e)
        {
            Problem = e.Message;
        }

        return Page();
    }

    /// <summary>Records the correction.</summary>
    public async Task<IActionResult> OnPostAsync(int line, Guid stepId, string? reason)
    {
        await ReadAsync();
        if (!Find(line))
            return NotFound();
        try
        {
            var mending = Otherwise()
                .Mending(
                    Job.Bench,
                    Line,
                    stepId == Guid.Empty ? Guid.NewGuid() : stepId,
                    Guid.NewGuid(),
                    reason?.Trim() is { Length: > 0 } why ? why : Offered
                );
            var answer = await desk.MendAsync(Number, mending, null, Attachments.None, await DeskAsync(), HttpContext.RequestAborted);
            return answer.Refused is { } refused
                ? await RefusedAsync(refused.Words())
                : Redirect($"/jobs/{Number}?said={answer.Job.Bench.Lines.Length}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        if (int.TryParse(RouteData.Values["line"] as string, out var line))
            Find(line);
    }

    private bool Find(int line)
    {
        if (Job.Bench.Lines.FirstOrDefault(l => l.Number == line) is not { } found)
            return false;
        Line = found;
        return true;
    }

    private OtherReading Otherwise()
    {
        if (Job.IsClosed)
            throw new EntryRefusedException("The job is closed. Reopen it to mend its log.");
        if (!Line.CanBeMended)
            throw new EntryRefusedException("This line does not count any more, or corrects another one.");
        StageRange? seen = null;
        if (Seen is not null)
            seen = ObservedFormat.TryRead(Seen, out var range)
                ? range
                : throw new EntryRefusedException("Say which stage was reached, 0 to 8, or a range such as 4-5.");
        if (string.IsNullOrEmpty(Change))
            return new OtherReading(null, null, seen);
        return MachineFormat.TryRead(Change, out var instead, out var expected)
            ? new OtherReading(Nth ?? 0, instead, seen)
            : throw new EntryRefusedException($"What was done instead cannot be read: {expected}.");
    }

    private void Foresee()
    {
        var mending = Otherwise().Mending(Job.Bench, Line, Guid.NewGuid(), Guid.NewGuid(), Offered);
        Preview = Job.Bench.Preview(mending);
        Becomes = LogWords.Of(Job.Bench, mending.Replacement!);
        var (was, then) = (Reading.Diagnosis, BenchDiagnosis.Of(Job.Bench.Append(mending), Rules.Atlas));
        Effects =
        [
            .. was
                .Suspects.Select(s => (Suspect: s, Then: then[s.Unit.Id].Probability))
                .OrderByDescending(s => Math.Abs(s.Then - s.Suspect.Probability))
                .Take(MostMoved)
                .Select(s => new Effect(
                    Job.Bench.Now.The(s.Suspect.Unit),
                    CaseWords.Likelihood(s.Suspect.Probability),
                    CaseWords.Likelihood(s.Then)
                ))
                .Where(e => e.Was != e.Becomes),
        ];
    }
}
