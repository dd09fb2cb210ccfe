using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Corrects or strikes one line of the log by writing a new one.</summary>
public sealed class CorrectModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    public LogLine Line { get; private set; } = null!;

    public string Reason { get; private set; } = "";

    public string? Problem { get; private set; }

    public IActionResult OnGet(int line) => Find(line) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(int line, string? reason, string what, int low, int high, StallDomain? stall, Signs? signs, Guid stepId)
    {
        if (!Find(line)) return NotFound();
        Reason = reason ?? "";
        try
        {
            Entry? replacement = null;
            if (what == "replace" && Line.Written is TrialEntry trial)
            {
                if (low > high) throw new EntryRefusedException("\"At least\" is above \"not beyond\". Turn them round.");
                replacement = trial with { Seen = new StageRange((BootStage)low, (BootStage)high), Stall = stall is { } pointed ? pointed : null, Signs = Heard(trial.Signs, signs) };
            }

            var id = stepId == Guid.Empty ? Guid.NewGuid() : stepId;
            var stored = await Store.AppendAsync(Number, new StrikeEntry(id, Line.Written.Id, Reason, replacement) { By = Visitor.Name }, HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}?said={stored.Bench.Lines.Length}");
        }
        catch (Exception e) when (e is EntryRefusedException or ArgumentOutOfRangeException)
        {
            Problem = e is EntryRefusedException ? e.Message : "A stage is 0 to 8.";
            return Page();
        }
    }

    /// <summary>What was noted, with what is corrected of it: code, beeps and lights.</summary>
    private static Signs Heard(Signs noted, Signs? sent) => sent is null ? noted
        : CodeSign.Trimmed(noted with { Code = sent.Code, Motion = sent.Motion, Codes = sent.Code == noted.Code ? noted.Codes : "", Beeps = sent.Beeps, Lights = sent.Lights });

    private bool Find(int line)
    {
        if (line < 1 || line > Job.Bench.Lines.Length) return false;
        Line = Job.Bench.Lines[line - 1];
        return true;
    }
}
