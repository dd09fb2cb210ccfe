using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Signals;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Corrects or strikes one line of the log by writing a new one.</summary>
public sealed class CorrectModel(JobStore store, DiagnosisCache readings, Visitor visitor, SignalStore signals) : JobPageModel(store, readings, visitor)
{
    public LogLine Line { get; private set; } = null!;

    public string Reason { get; private set; } = "";

    public string? Problem { get; private set; }

    public IActionResult OnGet(int line) => Find(line) ? Page() : NotFound();

    /// <summary>The outcome as it stands in the form: as it was recorded, or as it was sent and refused; null for a line without one.</summary>
    public TrialEntry? Shown { get; private set; }

    /// <summary>The stages in the form, as sent; they may be the wrong way round.</summary>
    public (int Low, int High) Stages { get; private set; }

    public async Task<IActionResult> OnPostAsync(int line, string? reason, string what, int low, int high, StallDomain? stall, Signs? signs, Guid stepId, IFormFile? capture)
    {
        if (!Find(line)) return NotFound();
        Reason = reason ?? "";
        try
        {
            CodeLog? codes = null;
            if (what == "replace" && Shown is { } trial)
            {
                Stages = (low, high);
                Shown = trial with { Stall = stall is { } pointed ? pointed : null, Signs = Heard(trial.Signs, signs, null) };
                if (low > high) throw new EntryRefusedException("\"At least\" is above \"not beyond\". Turn them round.");
                (codes, var why) = await CodeSign.ReadAsync(capture);
                if (why is not null) throw new EntryRefusedException($"{why} Nothing was corrected: choose another capture, or none.");
                Shown = Shown with { Seen = new StageRange((BootStage)low, (BootStage)high), Signs = Heard(trial.Signs, signs, codes) };
            }

            var id = stepId == Guid.Empty ? Guid.NewGuid() : stepId;
            var stored = await Store.AppendAsync(Number, new StrikeEntry(id, Line.Written.Id, Reason, what == "replace" ? Shown : null) { By = Visitor.Name }, HttpContext.RequestAborted);
            if (codes is not null) await signals.KeepCaptureAsync(Job.Row.Id, Line.Written.Id, $"file {Text.Cut(capture!.FileName, 60)}", codes);
            return Redirect($"/jobs/{Number}?said={stored.Bench.Lines.Length}");
        }
        catch (Exception e) when (e is EntryRefusedException or ArgumentOutOfRangeException)
        {
            Problem = e is EntryRefusedException ? e.Message : "A stage is 0 to 8.";
            return Page();
        }
    }

    /// <summary>
    /// What was noted, with what is corrected of it: code, beeps and lights. A capture says which codes came, but a code that was
    /// corrected by hand stays.
    /// </summary>
    private static Signs Heard(Signs noted, Signs? sent, CodeLog? capture)
    {
        if (sent is null) return noted;
        var same = (sent.Code ?? "").Trim() == noted.Code;
        var heard = CodeSign.Trimmed(noted with { Code = sent.Code!, Motion = sent.Motion, Codes = same ? noted.Codes : "", Beeps = sent.Beeps, Lights = sent.Lights });
        return capture is null ? heard : capture.Into(same ? heard with { Code = "", Codes = "" } : heard, double.MaxValue);
    }

    private bool Find(int line)
    {
        if (line < 1 || line > Job.Bench.Lines.Length) return false;
        Line = Job.Bench.Lines[line - 1];
        Shown = Line.Written as TrialEntry;
        if (Shown is not null) Stages = ((int)Shown.Seen.Low, (int)Shown.Seen.High);
        return true;
    }
}
