using Kelvet.Core.Jobs;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The job card: whose machine it is, what was told and agreed, what follows from it, and where the job stands.</summary>
public sealed class CardModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    CustomerStore customers,
    Shop shop,
    LiveJobs live,
    IDataProtectionProvider seals
) : JobPageModel(store, readings, visitor)
{
    /// <summary>Whose machine it is; null where nobody is kept.</summary>
    public CustomerRow? Customer { get; private set; }

    /// <summary>The machine; null where it is not kept.</summary>
    public MachineRow? Machine { get; private set; }

    /// <summary>Earlier visits.</summary>
    public IReadOnlyList<EarlierVisit> Visits { get; private set; } = [];

    /// <summary>Parts that failed again and again at this customer.</summary>
    public IReadOnlyList<(string Kind, int Times)> Again { get; private set; } = [];

    /// <summary>What was agreed and left.</summary>
    public DropOff DropOff { get; private set; } = DropOff.Nothing;

    /// <summary>Suspects that the answers moved.</summary>
    public IReadOnlyList<Moved> Moved { get; private set; } = [];

    /// <summary>Who works here.</summary>
    public IReadOnlyList<string> People { get; private set; } = [];

    /// <summary>The password, opened on asking; null until then.</summary>
    public string? Password { get; private set; }

    /// <summary>Shows the card.</summary>
    public Task OnGetAsync() => FillAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        await FillAsync();
    }

    private async Task FillAsync()
    {
        var cancel = HttpContext.RequestAborted;
        var row = Job.Row;
        Customer = row.CustomerId is { } c ? await customers.GetAsync(c, cancel) : null;
        Machine = row.MachineId is { } m ? await customers.MachineAsync(m, cancel) : null;
        Visits = await customers.VisitsAsync(
            row.CustomerId,
            row.MachineId,
            new[] { Machine?.Serial ?? "", Machine?.Mark ?? "", Job.Bench.Now.Board?.Serial ?? "" },
            Number,
            cancel
        );
        Again = row.CustomerId is { } id ? await customers.DyingAgainAsync(id, cancel) : [];
        DropOff = DropOff.Of(row);
        Moved = IntakeWords.AnswersMoved(Job.Bench, Rules.Atlas);
        People = await shop.TechniciansAsync();
    }

    /// <summary>Lets the job wait for a part or the customer, or takes it on again.</summary>
    public async Task<IActionResult> OnPostWaitAsync(JobWait? wait, string? what, string? from, DateTime? due)
    {
        if (wait is not { } sort)
            return await RefusedAsync("Say what it waits for, or that it goes on.");
        return await CarryOutAsync(async () =>
            await desk.WaitAsync(
                Number,
                sort,
                what?.Trim() ?? "",
                from?.Trim() ?? "",
                due is { } day ? await Visitor.EndOfDayAsync(day) : null,
                cancel: HttpContext.RequestAborted
            )
        );
    }

    /// <summary>Promises a date, or takes the promise back.</summary>
    public async Task<IActionResult> OnPostPromiseAsync(DateTime? promised) =>
        await CarryOutAsync(async () =>
            await desk.PromiseAsync(Number, promised is { } day ? await Visitor.EndOfDayAsync(day) : null, HttpContext.RequestAborted)
        );

    /// <summary>Passes the job on.</summary>
    public async Task<IActionResult> OnPostPassAsync(string? to, string? note)
    {
        if (to?.Length > 60 || note?.Length > 1900)
            return await RefusedAsync("The name has at most 60 characters, the note 1,900.");
        return await CarryOutAsync(async () =>
            await desk.PassOnAsync(Number, to?.Trim() ?? "", note?.Trim() ?? "", await DeskAsync(), HttpContext.RequestAborted)
        );
    }

    /// <summary>The machine goes back to its owner.</summary>
    public Task<IActionResult> OnPostHandOverAsync() => CarryOutAsync(() => desk.HandOverAsync(Number, HttpContext.RequestAborted));

    /// <summary>Keeps the machine as a template for others of its sort.</summary>
    public async Task<IActionResult> OnPostTemplateAsync(string? name)
    {
        if (string.IsNullOrWhiteSpace(name) || name.Length > 120)
            return await RefusedAsync("Name the template in 1 to 120 characters.", "name");
        await ReadAsync();
        await customers.KeepMachineAsync(null, null, name.Trim(), "", "", Job.Bench.Intake, template: true, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/card");
    }

    /// <summary>Opens the sealed password for this one look.</summary>
    public async Task<IActionResult> OnPostPasswordAsync()
    {
        await ShowAsync();
        if (DropOff.Sealed.Length == 0)
            return await RefusedAsync("No password is kept.");
        Password = IntakePage.Unsealed(seals, DropOff.Sealed);
        return Password is null ? await RefusedAsync("The password was sealed by another installation and cannot be opened here.") : Page();
    }

    private async Task<IActionResult> CarryOutAsync(Func<Task<DeskAnswer>> command)
    {
        try
        {
            _ = await command();
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/card");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
