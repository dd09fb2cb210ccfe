using System.Text;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Customers;

/// <summary>A customer: how to reach them, their machines and jobs; handed out and erased on asking.</summary>
public sealed class CustomerModel(CustomerStore customers, DataFolder folder, DiagnosisCache readings) : FormPage, IFindsItself
{
    /// <summary>Whose page it is.</summary>
    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    /// <summary>The customer.</summary>
    public CustomerRow Row { get; private set; } = null!;

    /// <summary>Their machines.</summary>
    public IReadOnlyList<MachineRow> Machines { get; private set; } = [];

    /// <summary>Their jobs.</summary>
    public IReadOnlyList<EarlierVisit> Visits { get; private set; } = [];

    /// <summary>Parts that failed again and again.</summary>
    public IReadOnlyList<(string Kind, int Times)> Again { get; private set; } = [];

    /// <inheritdoc/>
    public async Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        if (await customers.GetAsync(Id, cancel) is not { } row)
            return NotFound();
        Row = row;
        return null;
    }

    /// <summary>A machine of theirs, small; null where what is kept of it cannot be read.</summary>
    public static DrawingView? Picture(MachineRow row)
    {
        try
        {
            var kept = CustomerStore.MachineOf(row);
            return new DrawingView
            {
                Drawing = new MachineDrawing(
                    Situation.AtIntake(kept.Parts, kept.Received),
                    System.Collections.Immutable.ImmutableDictionary<UnitId, Core.Proving.Standing>.Empty,
                    kept.Received
                ),
                Small = true,
            };
        }
        catch (DataFileException)
        {
            return null;
        }
    }

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        Machines = await customers.MachinesAsync(Id, HttpContext.RequestAborted);
        Visits = await customers.VisitsAsync(Id, null, [], cancel: HttpContext.RequestAborted);
        Again = await customers.DyingAgainAsync(Id, HttpContext.RequestAborted);
    }

    /// <summary>Changes what is kept of them.</summary>
    public async Task<IActionResult> OnPostAsync(string? name, string? phone, string? email, string? reach, string? shown)
    {
        foreach (var (value, most) in new[] { (name, 120), (phone, 40), (email, 120), (reach, 120) })
        {
            if (value?.Length > most)
                return await RefusedAsync($"\"{value[..20]}…\" has {value.Length} characters; {most} is the most.");
        }

        await customers.ChangeAsync(
            Id,
            name?.Trim() ?? "",
            phone?.Trim() ?? "",
            email?.Trim() ?? "",
            reach?.Trim() ?? "",
            shown ?? "",
            HttpContext.RequestAborted
        );
        return Redirect($"/customers/{Id}");
    }

    /// <summary>Everything personal that is kept, as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync() =>
        await customers.ExportAsync(Id, HttpContext.RequestAborted) is { } json
            ? File(Encoding.UTF8.GetBytes(json), "application/json", $"customer-{Id}.json")
            : NotFound();

    /// <summary>Erases them.</summary>
    public async Task<IActionResult> OnPostEraseAsync(string? sure, bool? copies)
    {
        if (!string.Equals(sure?.Trim(), "erase", StringComparison.OrdinalIgnoreCase))
            return await RefusedAsync("Type the word erase to erase this customer. It cannot be taken back.", "sure");
        await customers.EraseAsync(Id, folder.Path, copies == true, HttpContext.RequestAborted);
        readings.Forget();
        return Redirect("/customers");
    }
}
