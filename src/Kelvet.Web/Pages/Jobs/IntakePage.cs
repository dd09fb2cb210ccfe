using System.Security.Cryptography;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What taking in and correcting what was taken in have in common.</summary>
public abstract class IntakePage(
    Shop shop,
    CustomerStore customers,
    CatalogueStore catalogue,
    HouseRules house,
    IDataProtectionProvider seals,
    SupportLists lists
) : FormPage, ITellsFields
{
    /// <summary>What the password is sealed for.</summary>
    public const string Seal = "Kelvet.Password";

    /// <summary>The form.</summary>
    [BindProperty]
    public IntakeForm Form { get; set; } = new();

    /// <summary>Parts on the shelf.</summary>
    public IReadOnlyList<Unit> Shelf { get; private set; } = [];

    /// <summary>The tables that a board may go by.</summary>
    public SignalLibrary Signals { get; private set; } = SignalLibrary.Standard;

    /// <summary>The customer who is picked; null where none is.</summary>
    public CustomerRow? Known { get; private set; }

    /// <summary>Their machines.</summary>
    public IReadOnlyList<MachineRow> Machines { get; private set; } = [];

    /// <summary>The last job of each, by its row.</summary>
    public IReadOnlyDictionary<int, int> LastJobs { get; private set; } = new Dictionary<int, int>();

    /// <summary>A machine by its name and what tells it from others of that name.</summary>
    public string NameOf(MachineRow machine) =>
        machine.Mark.Length > 0 ? $"{machine.Name}, {machine.Mark}"
        : machine.Serial.Length > 0 ? $"{machine.Name}, {machine.Serial}"
        : LastJobs.TryGetValue(machine.Id, out var job) ? $"{machine.Name}, job {job}"
        : machine.Name;

    /// <summary>Machines that others are taken in by.</summary>
    public IReadOnlyList<MachineRow> Templates { get; private set; } = [];

    /// <summary>What is looked for of the machine: a template, a machine that was here, a part.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Thing { get; set; }

    /// <summary>What was found by it.</summary>
    public (IReadOnlyList<MachineRow> Machines, IReadOnlyList<(CatalogueRow Row, Unit Unit)> Parts) Things { get; private set; } = ([], []);

    /// <summary>The place of the drawing whose fields lie open; empty for none.</summary>
    public string Touched { get; private set; } = "";

    /// <summary>Parts and machines that are shown of a search.</summary>
    private const int MostThings = 6;

    /// <summary>Customers found by what was typed.</summary>
    public IReadOnlyList<CustomerRow> Found { get; private set; } = [];

    /// <summary>Earlier visits.</summary>
    public IReadOnlyList<EarlierVisit> Visits { get; private set; } = [];

    /// <summary>What tools told of the machine, once their text was read.</summary>
    public Listing? Listing { get; private set; }

    /// <summary>Text of tools that was pasted.</summary>
    [BindProperty]
    public string? ListingText { get; set; }

    /// <summary>Where customers are kept.</summary>
    protected CustomerStore Customers => customers;

    /// <summary>How this shop works.</summary>
    protected HouseRules House => house;

    /// <summary>The catalogue.</summary>
    protected CatalogueStore Catalogue => catalogue;

    /// <summary>The parts of the machine by what the form has so far, for the list of parts; empty where they are told by fields.</summary>
    public IReadOnlyList<(IntakeForm.PartForm Form, Unit Unit, Place? Place)> Parts
    {
        get
        {
            if (string.IsNullOrEmpty(Form.Base))
                return [];
            try
            {
                var kept = JobFormat.ReadIntake(Form.Base);
                return
                [
                    .. Form
                        .Parts.Where(p => UnitId.IsValid(p.Id))
                        .Select(p => (p, kept.Parts.Find(new UnitId(p.Id!)), kept.Received.PlaceOf(new UnitId(p.Id!))))
                        .Where(p => p.Item2 is not null)
                        .Select(p => (p.p, p.Item2!, p.Item3)),
                ];
            }
            catch (DataFileException)
            {
                return [];
            }
        }
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        Signals = (await house.CurrentAsync()).Atlas.Signals;
        Shelf = await shop.ShelfAsync();
        Templates = await customers.TemplatesAsync(HttpContext.RequestAborted);
        if (Form.CustomerId is { } id)
        {
            Known = await customers.GetAsync(id, HttpContext.RequestAborted);
            Machines = Known is null ? [] : await customers.MachinesAsync(id, HttpContext.RequestAborted);
            LastJobs = await customers.LastJobsAsync(Machines, HttpContext.RequestAborted);
            if (Known is null)
                Form.CustomerId = null;
        }

        Visits = await customers.VisitsAsync(
            Form.CustomerId,
            Form.MachineId,
            new[] { Form.MachineSerial, Form.MachineMark, Form.BoardSerial }.Select(s => s?.Trim() ?? ""),
            cancel: HttpContext.RequestAborted
        );
    }

    /// <summary>What was typed cannot be read: said beside its field.</summary>
    protected void TellUnread()
    {
        foreach (var (field, state) in ModelState.Where(s => s.Value?.Errors.Count > 0))
            Form.Wrong[field.Replace("Form.", "", StringComparison.Ordinal)] = $"\"{state!.AttemptedValue}\" cannot be read here.";
    }

    /// <summary>Looks up what the form names in the catalogue and in the support list.</summary>
    protected async Task LookUpAsync() =>
        (Form.Catalogue, Form.Support) = (await catalogue.GetAsync(Form.Named, HttpContext.RequestAborted), await lists.CurrentAsync());

    /// <summary>The machine as the form describes it so far; null while it describes none.</summary>
    public DrawingView? Picture()
    {
        // What is drawn says nothing of what is wrong, and changes nothing of what was typed.
        var (title, wrong) = (Form.Title, Form.Wrong.ToArray());
        Form.Title = "-";
        Form.Wrong.Clear();
        var job = Form.Open([]);
        Form.Title = title;
        Form.Wrong.Clear();
        foreach (var (field, words) in wrong)
            Form.Wrong[field] = words;
        return job is null
            ? null
            : new DrawingView
            {
                Drawing = new MachineDrawing(job.Now, (BenchDiagnosis?)null),
                Known = Knowledge.Of(job),
                PartLink = p => new DrawnLink($"#{FieldOf(p)}", $"{Wording.Text.Capital(p.Place.Words())}: say what is there"),
                OutputLink = o => string.IsNullOrEmpty(Form.Base) ? new DrawnLink("#wason", $"It was plugged into {o.Name}") : null,
            };
    }

    /// <summary>The field in which a part of the drawing is told: of a part that is known its row, else the first of its place.</summary>
    private string FieldOf(DrawnPart part) =>
        !string.IsNullOrEmpty(Form.Base)
            ? part.Unit is { } unit
                ? $"part-{unit.Id}"
                : "add-kind"
            : part.Place.Kind switch
            {
                PlaceKind.Supply or PlaceKind.Extension or PlaceKind.MainCable or PlaceKind.CpuCable or PlaceKind.CardCable => "supply",
                PlaceKind.Board => "board",
                PlaceKind.Cpu => "cpu",
                PlaceKind.Cooler or PlaceKind.Pump => "cooler",
                PlaceKind.Memory => "stick",
                PlaceKind.Card or PlaceKind.Riser => "card",
                PlaceKind.Storage => "drives",
                PlaceKind.Monitor or PlaceKind.Cable or PlaceKind.Lead or PlaceKind.Outlet or PlaceKind.Strip => "monitor",
                _ => "small",
            };

    /// <summary>Looks for a template, a machine that was here, or a part.</summary>
    private async Task FindThingsAsync()
    {
        if (Thing?.Trim() is not { Length: > 1 } asked)
            return;
        var machines = await customers.MachinesLikeAsync(asked, MostThings, HttpContext.RequestAborted);
        Things = (machines, (await catalogue.ListAsync(null, asked, 1, MostThings, HttpContext.RequestAborted)).Rows);
    }

    /// <summary>What is found of the machine by what is typed, and nothing else.</summary>
    public async Task<IActionResult> OnGetThingsAsync()
    {
        Templates = await customers.TemplatesAsync(HttpContext.RequestAborted);
        await FindThingsAsync();
        return Partial("_Things", this);
    }

    /// <summary>The same in the whole page, for a browser without script.</summary>
    public async Task<IActionResult> OnPostThingsAsync()
    {
        await FindThingsAsync();
        return await FilledAsync();
    }

    /// <summary>A part of the catalogue goes to its place.</summary>
    public async Task<IActionResult> OnPostPartAsync(int? part)
    {
        if (part is not { } id || await catalogue.FindAsync(id, HttpContext.RequestAborted) is not { } found)
            return await FilledAsync("That part is not in the catalogue any more. Choose another.", "thing");
        Thing = "";
        if (!Form.Name(found.Kind, found.Name))
            return await FilledAsync($"A {found.Kind.Words()} has no place at intake: it comes in on the bench.", "thing");
        Touched = found.Kind switch
        {
            UnitKind.Supply => "supply",
            UnitKind.Motherboard => "board",
            UnitKind.Cpu => "cpu",
            UnitKind.Cooler => "cooler",
            UnitKind.MemoryStick => "memory",
            UnitKind.GraphicsCard => "card",
            UnitKind.Monitor => "screen",
            _ => "small",
        };
        return await FilledAsync();
    }

    /// <summary>Shows the form again with something filled in.</summary>
    protected async Task<IActionResult> FilledAsync(string problem = "", string field = "")
    {
        ModelState.Clear();
        await ShowAsync();
        await LookUpAsync();
        if (problem.Length > 0)
            (Problem, ProblemField) = (problem, field);
        return Page();
    }

    /// <summary>The picture of the machine as the form describes it, and nothing else.</summary>
    public async Task<IActionResult> OnPostPictureAsync()
    {
        await LookUpAsync();
        return Picture() is { } picture ? Partial("_Drawing", picture) : new NoContentResult();
    }

    /// <summary>Earlier visits by what the form has so far, and nothing else.</summary>
    public async Task<IActionResult> OnPostVisitsAsync()
    {
        await ShowAsync();
        return Partial("_Visits", this);
    }

    /// <summary>A machine that is kept, or a template, fills the form.</summary>
    public async Task<IActionResult> OnPostMachineAsync(int? machine)
    {
        if (machine is null or 0)
        {
            Form.TellByFields();
            return await FilledAsync();
        }

        if (await customers.MachineAsync(machine.Value, HttpContext.RequestAborted) is not { } row)
            return await FilledAsync("That machine is not kept any more. Choose another.", "machine");
        Intake kept;
        try
        {
            kept = CustomerStore.MachineOf(row);
        }
        catch (DataFileException e)
        {
            return await FilledAsync($"What is kept of {row.Name} cannot be read: {e.Message} Describe it by its fields.", "machine");
        }

        Form.Take(kept.Parts, kept.Received);
        Thing = "";
        Form.MachineId = row.IsTemplate ? null : row.Id;
        // A template says what such machines are like; what was typed of this one stays.
        if (!row.IsTemplate)
            (Form.MachineName, Form.MachineSerial, Form.MachineMark) = (row.Name, row.Serial, row.Mark);
        else if (string.IsNullOrWhiteSpace(Form.MachineName))
            Form.MachineName = row.Name;
        return await FilledAsync();
    }

    /// <summary>What tools print fills the form.</summary>
    public async Task<IActionResult> OnPostListingAsync(IFormFile? listing)
    {
        var text = ListingText ?? "";
        if (listing is { Length: > 0 })
        {
            if (listing.Length > ListingReader.MostCharacters)
                return await FilledAsync($"The file has {listing.Length / 1e6:0.0} MB; 2 MB is the most.", "listing");
            using var reader = new StreamReader(listing.OpenReadStream());
            text = await reader.ReadToEndAsync(HttpContext.RequestAborted);
        }

        try
        {
            Listing = ListingReader.Read(text);
            var (parts, fitted) = ListedMachine.Of(Listing);
            Form.Take(parts, fitted);
            Form.MachineId = null;
            Form.MachineName = string.IsNullOrWhiteSpace(Form.MachineName) ? Listing.System?.Name : Form.MachineName;
            Form.MachineSerial = string.IsNullOrWhiteSpace(Form.MachineSerial) ? Listing.System?.Serial : Form.MachineSerial;
            ListingText = "";
            return await FilledAsync();
        }
        catch (DataFileException e)
        {
            return await FilledAsync(e.Message, "listing");
        }
    }

    /// <summary>What was agreed and left, its password sealed.</summary>
    protected DropOff DropOffOf(DropOff before) =>
        new()
        {
            MayOpen = Form.MayOpen,
            MayTouchData = Form.MayTouchData,
            MayStartSystem = Form.MayStartSystem,
            Limit = Form.Limit,
            NoPassword = Form.NoPassword ? true : null,
            Sealed =
                Form.NoPassword ? ""
                : string.IsNullOrEmpty(Form.Password) ? before.Sealed
                : seals.CreateProtector(Seal).Protect(Form.Password),
            Accessories = Form.Accessories?.Trim() ?? "",
        };

    /// <summary>A sealed password opened again; null where it cannot be.</summary>
    public static string? Unsealed(IDataProtectionProvider seals, string @sealed)
    {
        try
        {
            return seals.CreateProtector(Seal).Unprotect(@sealed);
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}
