using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Supplies;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The power of a machine: rails as read, what its parts draw against what its supply has, what goes to its card.</summary>
public sealed class PowerModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>What the machine draws, as it stands.</summary>
    public PowerBudget Budget => _budget ??= PowerBudget.Of(Job.Bench.Now);

    private PowerBudget? _budget;

    /// <summary>Readings of the log, with the number of their line.</summary>
    public IReadOnlyList<(int Line, RailSet Rails)> Rails =>
        [
            .. Job
                .Bench.InOrder.Where(l => l.Stands is FindingEntry { Rails: not null })
                .Select(l => (l.Number, ((FindingEntry)l.Stands!).Rails!)),
        ];

    /// <summary>What pairs of readings tell: the last of each two loads or two ends.</summary>
    public IReadOnlyList<(RailReading One, RailReading Other, TwoReadings Tell)> Pairs
    {
        get
        {
            // Without the current nothing is said of milliohms.
            if (!Budget.IsWhole)
                return [];
            var all = Rails.SelectMany(r => r.Rails.Readings).Reverse().DistinctBy(r => (r.Rail, r.Load, r.At)).ToArray();
            var guide = Rails.Count > 0 ? Rails[^1].Rails.Guide : SupplyGuide.Atx12V2;
            var pairs = new List<(RailReading, RailReading, TwoReadings)>();
            foreach (var rail in all.Where(r => r.Rail == Rail.V12))
            {
                foreach (var other in all.Where(o => o.Rail == rail.Rail && o.At == rail.At && o.Load > rail.Load))
                    pairs.Add((rail, other, TwoReadings.AtTwoLoads(rail, other, Amps(rail.Load), Amps(other.Load), Rated, guide)));
                foreach (var other in all.Where(o => o.Rail == rail.Rail && o.Load == rail.Load && o.At > rail.At))
                    pairs.Add((rail, other, TwoReadings.AtBothEnds(rail, other, Amps(rail.Load))));
            }

            return pairs;
        }
    }

    private double Amps(RailLoad load) =>
        load switch
        {
            RailLoad.None => 0,
            RailLoad.Idle => Budget.TwelveAmps(Work.Idle),
            _ => Budget.TwelveAmps(Work.Load),
        };

    private double Rated => Math.Max(1, (Budget.Has ?? 300) / 12);

    /// <summary>What stands in the form, when it is shown again.</summary>
    public IReadOnlyDictionary<Rail, string> Typed { get; private set; } = new Dictionary<Rail, string>();

    /// <summary>Plugs that are in the card.</summary>
    [BindProperty(SupportsGet = true)]
    public string[] Plugs { get; set; } = [];

    /// <summary>Whether one is fed by an adapter from plugs of data drives.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Adapter { get; set; }

    /// <summary>Whether two hang on one cable.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Splitter { get; set; }

    /// <summary>Whether a cable of another supply is used.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Foreign { get; set; }

    /// <summary>The card that is judged; null where none is fitted.</summary>
    public GraphicsCard? Card => Job.Bench.Now.Cards.Select(c => c.Card).FirstOrDefault(c => c.NeedsAuxPower || c.Watts is not null);

    /// <summary>What goes to it; null where nothing was asked.</summary>
    public CardPower? CardPower { get; private set; }

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync()
    {
        if (Card is not { } card || (Plugs.Length == 0 && !Adapter && !Splitter && !Foreign))
            return Page();
        try
        {
            CardPower = CardPower.Of(card, Plugs.Where(p => p.Length > 0), Adapter, Splitter, Foreign);
            return Page();
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(Forms.Plainly(e), "plugs");
        }
    }

    /// <summary>Records rails that were read.</summary>
    public async Task<IActionResult> OnPostAsync(
        Dictionary<Rail, double?>? volts,
        RailLoad? load,
        Instrument? by,
        RailSpot? at,
        SupplyGuide? guide,
        Guid stepId
    )
    {
        await ReadAsync();
        Typed = (volts ?? [])
            .Where(v => v.Value is not null)
            .ToDictionary(v => v.Key, v => v.Value!.Value.ToString(System.Globalization.CultureInfo.InvariantCulture));
        if (load is not { } loaded || by is not { } instrument || at is not { } spot)
            return await RefusedAsync("Say how the supply was loaded, where it was read, and with what.", "load");
        try
        {
            var rails = RailSet.Of(
                (volts ?? []).Where(v => v.Value is not null).ToDictionary(v => v.Key, v => v.Value!.Value),
                loaded,
                instrument,
                spot,
                guide ?? SupplyGuide.Atx12V2
            );
            var finding = FindingEntry.OfRails(stepId == Guid.Empty ? Guid.NewGuid() : stepId, rails, Job.Bench.Now);
            var check = Rules.Atlas.Check(finding.Check) ?? throw new EntryRefusedException("The atlas has no such look.");
            var answer = await desk.RecordFindingAsync(
                Number,
                finding,
                check,
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            if (answer.Refused is { } refused)
                return await RefusedAsync(refused.Words());
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/power#rails");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "volts");
        }
    }

    /// <summary>What a trace of the draw at the wall says; null where none was sent.</summary>
    public WallTrace? Trace { get; private set; }

    /// <summary>Its picture.</summary>
    public string Chart { get; private set; } = "";

    /// <summary>Most readings that are kept with a line.</summary>
    private const int MostKept = 5000;

    /// <summary>Reads a trace of the draw at the wall, and keeps it in the log where that is asked for.</summary>
    public async Task<IActionResult> OnPostTraceAsync(IFormFile? file, bool keep)
    {
        await ReadAsync();
        if (file is not { Length: > 0 })
            return await RefusedAsync("Choose the file of the meter: CSV with a column of seconds and one of watts.", "file");
        try
        {
            using var reader = new StreamReader(file.OpenReadStream());
            var read = RunReadings.Read(await reader.ReadToEndAsync(HttpContext.RequestAborted));
            var column = Math.Max(0, read.Guessed.IndexOf(Quantity.Watts));
            Trace = WallTrace.Of(read.Seconds, read.Values[column]);
            Chart = DrawChart.Of(read.Seconds, read.Values[column], Trace);
            if (!keep)
                return Page();
            Quantity[] kept = [.. read.Guessed.Select((_, i) => i == column ? Quantity.Watts : Quantity.LeftOut)];
            _ = await desk.RecordWordsAsync(
                Number,
                new NoteEntry(Guid.NewGuid()) { Note = $"Draw at the wall: {Trace.Words()}" },
                null,
                new Attachments(null, [("draw at the wall", read.Thinned(MostKept).ToCsv(kept))]),
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            await ReadAsync();
            return Page();
        }
        catch (Exception e) when (e is DataFileException or EntryRefusedException)
        {
            return await RefusedAsync(e.Message, "file");
        }
    }

    /// <summary>Keeps what is printed on the supply: a correction of what was taken in.</summary>
    public async Task<IActionResult> OnPostLabelAsync(string? label, int? watts)
    {
        await ReadAsync();
        var intake = Job.Bench.Intake;
        if (Budget.Supply is not { } supply || intake.Parts.Find(supply.Id) is null)
            return await RefusedAsync("The supply in the machine did not come with it: its label is kept on the shelf.", "label");
        try
        {
            var parts = Parts.Of(intake.Parts.All.Select(u => u.Id == supply.Id ? u with { Label = label ?? "", Watts = watts } : u));
            _ = await desk.AmendAsync(
                Number,
                new AmendEntry(Guid.NewGuid(), intake with { Parts = parts }, $"What is printed on {supply.Name}."),
                null,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/power#budget");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "label");
        }
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        _budget = null;
    }
}
