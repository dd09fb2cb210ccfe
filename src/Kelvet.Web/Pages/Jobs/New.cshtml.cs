using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Takes a machine in.</summary>
public sealed class NewModel(
    JobStore store,
    Shop shop,
    CustomerStore customers,
    CatalogueStore parts,
    HouseRules house,
    PhotoRoom photos,
    IDataProtectionProvider seals,
    SupportLists lists,
    Visitor visitor
) : IntakePage(shop, customers, parts, house, seals, lists)
{
    /// <summary>Most photos at drop-off.</summary>
    public const int MostPhotos = 6;

    /// <summary>An ordinary office machine, to be changed to what came in.</summary>
    /// <param name="customer">A customer who is picked already.</param>
    public async Task OnGetAsync(int? customer)
    {
        Form = IntakeForm.Usual();
        if (customer is { } id && await Customers.GetAsync(id, HttpContext.RequestAborted) is { } known)
            Take(known);
        await ShowAsync();
        Form.Spares = [.. Shelf.Select(u => u.Id.Value)];
    }

    /// <summary>Customers by what is typed, as a list and nothing else.</summary>
    public async Task<IActionResult> OnGetFindAsync(string? q) =>
        Partial("_CustomersFound", await Customers.FindAsync(q, HttpContext.RequestAborted));

    /// <summary>Names of the catalogue by what is typed, as a list and nothing else.</summary>
    public async Task<IActionResult> OnGetNamesAsync(string? kind, string? q) =>
        Partial(
            "_Names",
            Dashed.TryRead<UnitKind>(kind ?? "", out var of) ? await Catalogue.NamesAsync(of, q, HttpContext.RequestAborted) : []
        );

    /// <summary>A customer fills the form; none empties it.</summary>
    public async Task<IActionResult> OnPostCustomerAsync(int? pick)
    {
        if (pick is null or 0)
        {
            (Form.CustomerId, Form.Customer, Form.Phone, Form.Email, Form.Reach) = (null, "", "", "", "");
        }
        else if (await Customers.GetAsync(pick.Value, HttpContext.RequestAborted) is { } known)
        {
            Take(known);
        }

        return await FilledAsync();
    }

    /// <summary>Opens the job.</summary>
    public async Task<IActionResult> OnPostAsync(List<IFormFile>? photo)
    {
        await ShowAsync();
        await LookUpAsync();
        TellUnread();
        if (Form.Open(Shelf) is not { } job)
            return Page();
        var pictures = new List<byte[]>();
        foreach (var file in (photo ?? []).Where(p => p.Length > 0).Take(MostPhotos))
        {
            var (jpeg, why) = await photos.ReadAsync(file, HttpContext.RequestAborted);
            if (why is not null)
            {
                Form.Wrong["Photos"] = why;
                return Page();
            }

            pictures.Add(jpeg!);
        }

        return Redirect($"/jobs/{await KeepAsync(job, pictures)}");
    }

    private async Task<int> KeepAsync(BenchJob job, List<byte[]> pictures)
    {
        var customer = await Customers.KeepAsync(
            Form.CustomerId,
            Form.Customer?.Trim() ?? "",
            Form.Phone?.Trim() ?? "",
            Form.Email?.Trim() ?? "",
            Form.Reach?.Trim() ?? "",
            HttpContext.RequestAborted
        );
        int? machine = null;
        if (customer is not null || !string.IsNullOrWhiteSpace(Form.MachineSerial) || !string.IsNullOrWhiteSpace(Form.MachineMark))
        {
            machine = await Customers.KeepMachineAsync(
                Form.MachineId,
                customer,
                string.IsNullOrWhiteSpace(Form.MachineName) ? job.Now.Board!.Name : Form.MachineName.Trim(),
                Form.MachineSerial?.Trim() ?? "",
                Form.MachineMark?.Trim() ?? "",
                job.Intake,
                template: false,
                HttpContext.RequestAborted
            );
        }

        return await store.OpenAsync(
            job,
            visitor.Name,
            with: new Opening
            {
                Customer = customer,
                Machine = machine,
                DropOff = DropOffOf(DropOff.Nothing),
                PromisedUtc = await PromisedAsync(),
                Photos = pictures,
            },
            cancel: HttpContext.RequestAborted
        );
    }

    /// <summary>The end of the promised day by the shop's clock.</summary>
    private async Task<DateTime?> PromisedAsync() => Form.Promised is { } day ? await visitor.EndOfDayAsync(day) : null;

    private void Take(CustomerRow known) =>
        (Form.CustomerId, Form.Customer, Form.Phone, Form.Email, Form.Reach) = (
            known.Id,
            known.Name,
            known.Phone,
            known.Email,
            known.Reach
        );
}
