using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Corrects what was taken in: the complaint, what happened before, the parts. The correction is a line of the log.</summary>
public sealed class CorrectIntakeModel(
    JobStore store,
    Shop shop,
    CustomerStore customers,
    CatalogueStore parts,
    HouseRules house,
    Desk desk,
    LiveJobs live,
    DiagnosisCache readings,
    IDataProtectionProvider seals,
    SupportLists lists,
    Visitor visitor
) : IntakePage(shop, customers, parts, house, seals, lists), IFindsItself
{
    /// <summary>The job's number.</summary>
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    /// <summary>Why it is corrected.</summary>
    [BindProperty]
    public string? Reason { get; set; }

    /// <summary>Lines of the log when the form was shown.</summary>
    [BindProperty]
    public int Lines { get; set; }

    /// <summary>The job.</summary>
    public StoredJob Job { get; private set; } = null!;

    /// <inheritdoc/>
    public async Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        if (await store.FindAsync(Number, cancel) is not { } job)
            return NotFound();
        Job = job;
        var rules = await readings.RulesAsync(job);
        ViewData[JobFrame.Key] = new JobFrame(job, () => readings.Of(job, rules));
        return null;
    }

    /// <summary>What was taken in, as it stands.</summary>
    public async Task OnGetAsync()
    {
        Form = IntakeForm.Of(Job.Bench.Intake);
        Lines = Job.Bench.Lines.Length;
        if (Job.Row.MachineId is { } id && await Customers.MachineAsync(id, HttpContext.RequestAborted) is { } machine)
            (Form.MachineId, Form.MachineName, Form.MachineSerial, Form.MachineMark) = (id, machine.Name, machine.Serial, machine.Mark);
        await ShowAsync();
    }

    /// <summary>Records the correction.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        await ShowAsync();
        await LookUpAsync();
        TellUnread();
        if (string.IsNullOrWhiteSpace(Reason) || Reason.Length > Entry.LongestNote)
            Form.Wrong[nameof(Reason)] = "Say why it is corrected, such as \"serial misread\".";
        if (Form.Open([]) is not { } told || Form.Wrong.Count > 0)
            return Page();
        var before = Job.Bench.Intake;
        // Parts beside the bench, and what is not asked here, stay.
        var beside = before.Parts.All.Where(u => !before.Received.Has(u.Id) && !told.Intake.Parts.Has(u.Id));
        var intake = told.Intake with { Parts = Core.Machines.Parts.Of([.. told.Intake.Parts.All, .. beside]), Goal = before.Goal };
        try
        {
            var rules = await readings.RulesAsync();
            _ = await desk.AmendAsync(
                Number,
                new AmendEntry(Guid.NewGuid(), intake, Reason!.Trim()),
                Lines,
                new DeskRules(visitor.Name, rules.Set, rules.Drain),
                HttpContext.RequestAborted
            );
            if (Job.Row.MachineId is { } machine)
                await Customers.KeepMachineAsync(
                    machine,
                    Job.Row.CustomerId,
                    Form.MachineName?.Trim() ?? "",
                    Form.MachineSerial?.Trim() ?? "",
                    Form.MachineMark?.Trim() ?? "",
                    intake,
                    template: false,
                    HttpContext.RequestAborted
                );
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/card");
        }
        catch (EntryRefusedException e)
        {
            Problem = e.Message;
            return Page();
        }
    }
}
