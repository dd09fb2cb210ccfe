using System.Collections.Immutable;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Planning;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What a machine's owner is asked to agree to, on paper: as it would be now, as it was given, and what they answered.</summary>
public sealed class EstimateModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    PlayedAhead played,
    Shop shop,
    Offers offers,
    Payments payments,
    TimeProvider clock
) : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    [BindProperty(SupportsGet = true)]
    public string Paper { get; set; } = "a4";

    /// <summary>The way that is proposed; the cheapest where none is chosen.</summary>
    [BindProperty(SupportsGet = true)]
    public WayOut? Way { get; set; }

    /// <summary>Whether with used parts.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Used { get; set; }

    /// <summary>Id of an estimate that was given; null for one as it would be now.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Of { get; set; }

    /// <summary>Whether an estimate as it would be now is looked at, though one was given.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Anew { get; set; }

    /// <summary>The ways that there are; empty before the first start.</summary>
    public IReadOnlyList<WayCost> Ways { get; private set; } = [];

    /// <summary>What is shown; null before the first start.</summary>
    public Offer? Offer { get; private set; }

    /// <summary>The estimate that was given and is shown; null for one as it would be now.</summary>
    public OfferRow? Given { get; private set; }

    /// <summary>The answer to it; null while there is none.</summary>
    public Leave? Leave { get; private set; }

    /// <summary>All that were given.</summary>
    public IReadOnlyList<OfferRow> All { get; private set; } = [];

    /// <summary>What can be offered beside the repair, with what it costs and whether this job gives a reason.</summary>
    public IReadOnlyList<(Extra Extra, decimal Price, bool Ticked)> Extras { get; private set; } = [];

    /// <summary>How far the search is played out; null where nothing is to be played.</summary>
    public PlayState? Playing { get; private set; }

    /// <summary>What was paid beforehand.</summary>
    public decimal Paid { get; private set; }

    /// <summary>How the shop writes its bills.</summary>
    public BillingTerms Terms { get; private set; } = BillingTerms.Usual;

    /// <summary>Shows it.</summary>
    public Task OnGetAsync() => FillAsync(null);

    private async Task FillAsync(Asked? asked)
    {
        var cancel = HttpContext.RequestAborted;
        Paper = Paper == "letter" ? "letter" : "a4";
        Terms = await shop.TermsAsync();
        All = await offers.OfAsync(Number, cancel);
        Paid = Payment.PaidOf((await payments.OfAsync(Number, cancel)).Select(p => p.Read()));
        Given =
            Of is { } id ? All.FirstOrDefault(o => o.Id == id)
            : Anew || All.Count == 0 ? null
            : All[^1];
        if (Given is { } given && asked is null)
        {
            (Offer, Leave) = (given.Read(), given.Leave());
            return;
        }

        Given = null;
        // Of a job that is closed nothing is asked any more: what was given stands above.
        if (Job.Bench.Trials.Length == 0 || Job.IsClosed)
            return;
        Playing = played.Ask(Number, Reading);
        if (Playing is { Word: "playing" })
            return;
        var worth = Worth.Of(
            Reading.Diagnosis,
            Reading.Advice.Economy?.Expected?.Value,
            Playing?.Ahead,
            Rules.Preferences,
            (double?)DropOff.Of(Job.Row).Worth
        );
        Ways = worth.Ways;
        var way = Ways.FirstOrDefault(w => w.Way == Way) ?? (worth.IsNotWorthIt ? Ways[^1] : Ways[0]);
        Way = way.Way;
        var offered = Extra.For(Job.Bench).ToArray();
        Extras =
        [
            .. Extra.Known.Select(e =>
                (
                    offered.FirstOrDefault(o => o.Id == e.Id) ?? e,
                    asked?.Prices.GetValueOrDefault(e.Id) ?? Terms.PriceOf(e),
                    asked is null ? offered.Any(o => o.Id == e.Id) : asked.Extras.Contains(e.Id)
                )
            ),
        ];
        var estimate = Estimate.Of(Reading.Diagnosis, way, Used, Playing?.Ahead, Rules.Preferences, Terms);
        ImmutableArray<OfferLine> extras =
            way.Way == WayOut.GiveBack
                ? []
                : [.. Extras.Where(e => e.Ticked).Select(e => new OfferLine(e.Extra.What, e.Price, e.Price, e.Extra.Why, true))];
        Offer = new Offer(
            Terms,
            estimate.Known,
            estimate.Proposal,
            [.. estimate.Lines, .. extras],
            asked?.Until ?? Today.AddDays(Terms.OfferDays),
            asked?.Deposit ?? 0
        );
    }

    /// <summary>Today, by the shop's clock.</summary>
    public DateOnly Today => DateOnly.FromDateTime(clock.GetUtcNow().UtcDateTime);

    /// <summary>What is added to what the log says.</summary>
    private sealed record Asked(HashSet<string> Extras, IReadOnlyDictionary<string, decimal?> Prices, DateOnly Until, decimal Deposit);

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        await FillAsync(null);
    }

    /// <summary>Gives it to the owner as it stands: it is kept, and their answer is waited for.</summary>
    public async Task<IActionResult> OnPostAsync(string[]? extras, Dictionary<string, decimal?>? prices, DateOnly? until, decimal? deposit)
    {
        await ReadAsync();
        try
        {
            if (until is not { } last || last < Today)
                return await RefusedAsync("Say until which day it holds: today or later.", "until");
            await FillAsync(new Asked([.. extras ?? []], prices ?? [], last, deposit ?? 0));
            if (Offer is not { } offer)
                return await RefusedAsync("It is still being worked out. Look again in some seconds.");
            var row = await offers.GiveAsync(Number, offer, Visitor.Name, HttpContext.RequestAborted);
            return Redirect($"/jobs/{Number}/estimate?of={row.Id}");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "deposit");
        }
    }

    /// <summary>Keeps what the owner answered.</summary>
    public async Task<IActionResult> OnPostAnswerAsync(int? offer, int[]? accepted, string? who, LeaveHow? how, bool? no)
    {
        await ReadAsync();
        (Of, Anew) = (offer, false);
        if (offer is not { } id || how is not { } by)
            return await RefusedAsync("Say how they answered: at the counter, by phone, in writing, or signed.", "how");
        if (no != true && accepted is null or [])
            return await RefusedAsync("Tick what they agree to, or say that they want it back as it is.", "accepted");
        try
        {
            _ = await offers.AnswerAsync(
                Number,
                id,
                no == true ? [] : accepted ?? [],
                who ?? "",
                by,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            return Redirect($"/jobs/{Number}/estimate?of={id}");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "who");
        }
    }
}
