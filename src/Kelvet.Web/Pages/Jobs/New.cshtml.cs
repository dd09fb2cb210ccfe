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
    Desk desk,
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

    /// <summary>Whether it is taken in at the counter: who, what it does, when, what it may cost. The rest is asked when it is
    /// needed.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Counter { get; set; }

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
        if (Counter)
            await TakeKnownAsync();
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

        try
        {
            var number = await KeepAsync(job, pictures);
            return Redirect(Counter ? $"/jobs/{number}/ticket" : $"/jobs/{number}");
        }
        catch (Exception e) when (e is DataFileException or EntryRefusedException || StoreTroubles.Of(e) is not null)
        {
            Form.Wrong["Title"] = StoreTroubles.Of(e) is { } trouble ? StoreTroubles.Words(trouble) : e.Message;
            return Page();
        }
    }

    /// <summary>What the counter does not ask: the machine as this shop knows it, or an ordinary one; every spare of the shelf.</summary>
    private async Task TakeKnownAsync()
    {
        if (Form.MachineId is not null)
            await OnPostMachineAsync(Form.MachineId);
        else
            Form.TellByFields();
        Form.Spares = [.. Shelf.Select(u => u.Id.Value)];
    }

    private async Task<int> KeepAsync(BenchJob job, List<byte[]> pictures)
    {
        var who = new ToldCustomer(Form.CustomerId, Told(Form.Customer), Told(Form.Phone), Told(Form.Email), Told(Form.Reach));
        var isKnown = who is { Id: not null } or not { Name: "", Phone: "", Email: "" };
        var machine = new ToldMachine(
            Form.MachineId,
            Told(Form.MachineName) is { Length: > 0 } name ? name : job.Now.Board!.Name,
            Told(Form.MachineSerial),
            Told(Form.MachineMark)
        );
        var rules = await House.CurrentAsync();
        return await desk.OpenAsync(
            job,
            new Opening
            {
                Customer = isKnown ? who : null,
                Machine = isKnown || machine is not { Serial: "", Mark: "" } ? machine : null,
                DropOff = DropOffOf(DropOff.Nothing),
                PromisedUtc = await PromisedAsync(),
                Photos = pictures,
            },
            new DeskRules(visitor.Name, rules.Set, rules.Drain),
            HttpContext.RequestAborted
        );

        static string Told(string? text) => text?.Trim() ?? "";
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
