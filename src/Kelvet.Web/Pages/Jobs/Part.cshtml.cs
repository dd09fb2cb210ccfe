using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Stock;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Brings a part to the bench in the course of a job: from the shelf, or described here.</summary>
public sealed class PartModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, Shop shop, Orders orders)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>The kind of part that is looked for; null for any.</summary>
    [BindProperty(SupportsGet = true)]
    public UnitKind? Of { get; set; }

    /// <summary>Shelf parts that this job does not have yet: those of the kind that is looked for and that fit come first.</summary>
    public IReadOnlyList<OnShelf> Shelf { get; private set; } = [];

    /// <summary>What of this job's orders is still to come, or was wrong.</summary>
    public IReadOnlyList<(OrderRow Row, Unit Unit)> Ordered { get; private set; } = [];

    /// <summary>Sellers.</summary>
    public IReadOnlyList<SupplierRow> Suppliers { get; private set; } = [];

    /// <summary>What the part that is looked for has to match.</summary>
    public IReadOnlyList<Need> Needs { get; private set; } = [];

    /// <summary>A part of the shelf, and what of it would not fit here.</summary>
    /// <param name="Unit">The part.</param>
    /// <param name="Row">What is kept of it.</param>
    /// <param name="Against">What would not fit.</param>
    public sealed record OnShelf(Unit Unit, ShelfRow Row, Clash Against);

    /// <summary>The part that is described, as it stands in the form.</summary>
    public (UnitKind? Kind, string Name, string Serial, Origin Origin) Described { get; private set; } = (null, "", "", Origin.Shelf);

    /// <summary>The customer's part that it would replace, where that is held; null where it may come.</summary>
    public Unit? Held { get; private set; }

    /// <summary>Shows what can come in: the shelf first, then what is ordered, then anything else.</summary>
    public async Task OnGetAsync()
    {
        Of ??= Reading.Advice.Missing?.Kind;
        var now = Job.Bench.Now;
        var may = (await shop.ShelfAsync()).Select(u => u.Id).ToHashSet();
        Shelf =
        [
            .. (await shop.WholeShelfAsync())
                .Parts.Where(p => may.Contains(p.Unit.Id) && !now.Parts.Has(p.Unit.Id))
                .Select(p => new OnShelf(p.Unit, p.Row, Core.Stock.Needs.Against(now, p.Unit)))
                .OrderBy(p => Of is { } kind && p.Unit.Kind != kind)
                .ThenByDescending(p => p.Against.IsNone)
                .ThenByDescending(p => p.Row.ProvedUtc),
        ];
        Ordered =
        [
            .. (await orders.OfJobAsync(Number, HttpContext.RequestAborted)).Where(o => OrderStep.After(o.Row.State, o.Row.Kind).Any()),
        ];
        Suppliers = await orders.SuppliersAsync(HttpContext.RequestAborted);
        Needs = Of is { } of ? Core.Stock.Needs.Of(Job.Bench, of) : [];
    }

    /// <summary>What the order form proposes: the name of what is replaced, or the kind.</summary>
    public string LikeWhat =>
        Of is { } kind
        && Job.Bench.Intake.Parts.All.FirstOrDefault(u => u.Kind == kind) is { } like
        && !like.Guessed.Contains(PartFact.Name)
            ? like.Name
            : "";

    /// <summary>Orders a part: the job waits for it.</summary>
    public async Task<IActionResult> OnPostOrderAsync(
        string? name,
        string? supplier,
        decimal? price,
        DateOnly? expected,
        string? needs,
        string? why,
        bool? ordered
    )
    {
        await ShowAsync();
        if (Of is not { } kind)
            return await RefusedAsync("Choose what kind of part it is.", "of");
        try
        {
            var unit = UnitForm.Like(Job.Bench.Now, kind, FreeId(kind), name?.Trim() ?? "", Origin.New);
            var wanted = new Wanted(
                unit,
                Number,
                supplier?.Trim() ?? "",
                price,
                1,
                expected,
                needs?.Trim() ?? "",
                $"{PlainAdvice.Of(Reading.Advice, Reading.Diagnosis).Imperative} (job {Number}, line {Job.Bench.Lines.Length})"
            );
            await GoAheadAsync(unit, why);
            var id = await orders.AddAsync(wanted, await DeskAsync(), HttpContext.RequestAborted);
            if (ordered == true)
                _ = await orders.StepAsync(id, OrderState.Ordered, "", await DeskAsync(), HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}/part");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? UnitForm.Plainly(wrong) : e.Message);
        }
    }

    /// <summary>The owner's parts that may be sent out: out of the machine, and of the kind that is looked for.</summary>
    public IEnumerable<Unit> MaySend =>
        Job.Bench.Intake.Parts.All.Where(u =>
            u is { Origin: Origin.Customer, IsAway: false }
            && !Settling.StaysAtBench(u)
            && (Of is null || u.Kind == Of)
            && (u is Motherboard || !Job.Bench.Now.Now.Has(u.Id))
            && Ordered.All(o => o.Row.Repairs != u.Id.Value)
        );

    /// <summary>Whether the form for that is open.</summary>
    public bool Sending { get; private set; }

    /// <summary>Sends a part of the owner's out to be mended: the job waits for it.</summary>
    public async Task<IActionResult> OnPostSendAsync(
        string? unit,
        string? supplier,
        decimal? price,
        DateOnly? expected,
        string? needs,
        string? why
    )
    {
        await ShowAsync();
        Sending = true;
        if (MaySend.FirstOrDefault(u => u.Id.Value == unit) is not { } goes)
            return await RefusedAsync("Choose a part that is out of the machine. Take it out at the bench first.", "unit");
        try
        {
            var back = UnitForm.Like(Job.Bench.Now, goes.Kind, FreeId(goes.Kind), Text.Cut($"{goes.Name} (mended)", 80), Origin.New) with
            {
                Serial = goes.Serial,
            };
            var wanted = new Wanted(
                back,
                Number,
                supplier?.Trim() ?? "",
                price,
                1,
                expected,
                needs?.Trim() ?? "",
                $"sent out in job {Number}, line {Job.Bench.Lines.Length}"
            )
            {
                Repairs = goes.Id,
            };
            await GoAheadAsync(back, why);
            var id = await orders.AddAsync(wanted, await DeskAsync(), HttpContext.RequestAborted);
            _ = await orders.StepAsync(id, OrderState.Ordered, "", await DeskAsync(), HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}/part");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? UnitForm.Plainly(wrong) : e.Message);
        }
    }

    /// <summary>An order of this job goes a step on; what arrives comes to the bench.</summary>
    public async Task<IActionResult> OnPostStepAsync(int? order, OrderState? to, string? wrong, decimal? charged)
    {
        await ShowAsync();
        if (Ordered.FirstOrDefault(o => o.Row.Id == order) is not { Row: not null } found || to is not { } state)
            return await RefusedAsync("That order is not one of this job any more. Choose another.");
        try
        {
            _ = await orders.StepAsync(found.Row.Id, state, wrong?.Trim() ?? "", charged, await DeskAsync(), HttpContext.RequestAborted);
            return Redirect(state == OrderState.Arrived ? $"/jobs/{Number}?pick={found.Unit.Id}" : $"/jobs/{Number}/part");
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
        await OnGetAsync();
    }

    /// <summary>A part of the shelf comes in.</summary>
    public async Task<IActionResult> OnPostShelfAsync(string? unit, Guid stepId)
    {
        await ShowAsync();
        if (Shelf.FirstOrDefault(u => u.Unit.Id.Value == unit)?.Unit is not { } part)
            return await RefusedAsync("That part is no longer on the shelf list. Choose another.");
        return await ArriveAsync(part, stepId);
    }

    /// <summary>A part that is described comes in.</summary>
    public async Task<IActionResult> OnPostAsync(UnitKind? kind, string? name, string? serial, Origin? origin, string? why, Guid stepId)
    {
        await ShowAsync();
        Described = (kind, name ?? "", serial ?? "", origin ?? Origin.Shelf);
        if (kind is not { } sort)
            return await RefusedAsync("Choose what kind of part it is.", "kind");
        try
        {
            var unit = UnitForm.Like(Job.Bench.Now, sort, FreeId(sort), name ?? "", origin ?? Origin.Shelf) with
            {
                Serial = serial?.Trim() ?? "",
            };
            await GoAheadAsync(unit, why);
            return await ArriveAsync(unit, stepId);
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(UnitForm.Plainly(e));
        }
    }

    /// <summary>Goes past what holds a part from being replaced, where a reason is given.</summary>
    private async Task GoAheadAsync(Unit unit, string? why)
    {
        Held = ReplacementGate.HeldAgainst(Job.Bench, unit, Rules.Atlas, Rules.Preferences);
        if (Held is { } held && !string.IsNullOrWhiteSpace(why))
            _ = await desk.RecordWordsAsync(
                Number,
                new GoAheadEntry(Guid.NewGuid(), held.Id, why),
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
    }

    private async Task<IActionResult> ArriveAsync(Unit unit, Guid stepId)
    {
        try
        {
            var entry = new ArrivalEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId, unit);
            var answer = await desk.RecordWordsAsync(Number, entry, null, Attachments.None, await DeskAsync(), HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}?said={answer.Job.Bench.Lines.Length}&pick={unit.Id}");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    private UnitId FreeId(UnitKind kind)
    {
        for (var n = 1; ; n++)
        {
            var id = new UnitId($"extra-{Core.Text.Dashed.Of(kind)}-{n}");
            if (!Job.Bench.Now.Parts.Has(id) && Ordered.All(o => o.Unit.Id != id))
                return id;
        }
    }
}
