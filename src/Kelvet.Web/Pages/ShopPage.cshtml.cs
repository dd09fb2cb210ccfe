using System.Collections.Immutable;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Records;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Devices;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>The shop's name, clock and shelf of known-good parts.</summary>
public sealed class ShopPageModel(
    Shop shop,
    HouseRules house,
    SignalStore signals,
    Readers hub,
    BenchState bench,
    DataFolder folder,
    JobStore jobs,
    TimeProvider clock
) : FormPage
{
    public string Name { get; private set; } = "";

    public string Zone { get; private set; } = "";

    public IReadOnlyList<Unit> Shelf { get; private set; } = [];

    /// <summary>Readers of POST codes with what they do now.</summary>
    public IReadOnlyList<(ReaderRow Row, ReaderView? View)> Readers { get; private set; } = [];

    /// <summary>Why the readers could not be read; empty when they could.</summary>
    public string ReadersProblem => hub.Problem;

    /// <summary>Serial ports of this machine.</summary>
    public static IEnumerable<string> Ports => SerialCodeLine.Ports();

    /// <summary>What is kept, how much of it there is, and the most that is kept.</summary>
    public IReadOnlyList<(string What, string Now, string Most)> Room { get; private set; } = [];

    public Rules Rules { get; private set; } = null!;

    /// <summary>What the shop's jobs have taught, the furthest moved first.</summary>
    public IEnumerable<LearntOdds> Learnt =>
        Rules
            .Learnt.Where(l => l.Tally.Cases > 0 || Math.Abs(Math.Log(l.Factor)) > 0.05)
            .OrderByDescending(l => Math.Abs(Math.Log(l.Factor)));

    /// <summary>Procedures that were measured: what they took here, how often, and what the shop counts for them now.</summary>
    public IReadOnlyList<(Procedure Procedure, IReadOnlyList<double> Minutes, double? Median)> Measured { get; private set; } = [];

    /// <summary>How the last closed jobs went.</summary>
    public TrackRecord Track { get; private set; } = TrackRecord.Of([]);

    /// <summary>Closed jobs that are counted.</summary>
    public const int MostCounted = 500;

    /// <summary>The switches: name in the form, question, answers, the one that holds.</summary>
    public IEnumerable<(string Name, string Question, IReadOnlyList<string> Answers, string Now)> Switches
    {
        get
        {
            var p = Rules.Preferences;
            yield return Switch("cmos", "Clear CMOS", p.CmosClear);
            yield return Switch("swap", "First swap", p.FirstSwap);
            yield return Switch("tester", "Supply tester", p.SupplyTester);
            yield return Switch("cpu", "CPU or board first", p.CpuOrBoard);
            yield return Switch("drain", "Drain the machine", p.Drain);
            yield return Switch("pin", "Bent socket pin", p.BentPin);
            yield return Switch("card", "Dead graphics card", p.DeadCard);
            yield return Switch("place", "Where the board is tried", p.BenchPlace);
            yield return Switch("memory", "Memory test program", p.MemoryTest);

            static (string, string, IReadOnlyList<string>, string) Switch<T>(string name, string question, T now)
                where T : struct, Enum => (name, question, Enum.GetNames<T>(), now.ToString());
        }
    }

    /// <summary>"WhenSuspected" as "when suspected".</summary>
    public static string Words(string answer) =>
        string.Concat(answer.Select((c, i) => i > 0 && char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{char.ToLowerInvariant(c)}"));

    /// <summary>Shows the shop.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        Rules = await house.CurrentAsync();
        var row = await shop.RowAsync();
        Name = row.Name;
        Zone = row.TimeZone;
        Terms = await shop.TermsAsync();
        Shown = (row.Logo is not null, row.StatePage);
        Shelf = await shop.ShelfAsync();
        var views = hub.All().ToDictionary(v => v.Id);
        Readers = [.. (await signals.ReadersAsync()).Select(r => (r, views.GetValueOrDefault(r.Id)))];
        Track = TrackRecord.Of([
            .. (await jobs.ClosedFiguresAsync(MostCounted, HttpContext.RequestAborted)).Select(ReadOrNone).OfType<CaseRecord>(),
        ]);
        var measured = await jobs.MeasuredAsync(HttpContext.RequestAborted);
        Measured =
        [
            .. Procedures
                .Standard.Where(p => measured.ContainsKey(p.Id))
                .Select(p => (p, measured[p.Id], Procedures.Median([.. measured[p.Id]]))),
        ];
        var (photos, captures) = await bench.SizesAsync();
        Room =
        [
            ("Photos", Size(photos), $"{Size(BenchState.MostPhotoBytes)}, {BenchState.MostPhotos} a line"),
            ("Captures of codes", Size(captures), Size(BenchState.MostCaptureCharacters)),
            ("Log files", Size(folder.Bytes("logs")), $"{Size(DataFolder.MostLogFiles * DataFolder.MostLogBytes)}, the oldest go first"),
            ("Copies of the database", Size(folder.Bytes("backups")), $"{row.CopyDays} days and {row.CopyWeeks} weeks, see Copies"),
        ];
    }

    /// <summary>A record of a closed job; none where it cannot be read: the others are counted.</summary>
    private static CaseRecord? ReadOrNone(string figures)
    {
        try
        {
            return CaseRecord.Read(figures);
        }
        catch (DataFileException)
        {
            return null;
        }
    }

    private static string Size(long bytes) =>
        bytes < 1_000_000 ? $"{bytes / 1000.0:0} kB"
        : bytes < 1_000_000_000 ? $"{bytes / 1e6:0.0} MB"
        : $"{bytes / 1e9:0.#} GB";

    public async Task<IActionResult> OnPostReaderAsync(string? name, ReaderKind? kind, string? address, int? baud)
    {
        await OnGetAsync();
        var row = new ReaderRow
        {
            Name = name?.Trim() ?? "",
            Kind = kind ?? ReaderKind.Serial,
            Address = address?.Trim() ?? "",
            Baud = baud ?? 0,
        };
        if (kind is null)
            return await RefusedAsync("Say how the reader is connected.");
        if (ReaderForm.WhyNot(row) is { } why)
            return await RefusedAsync(why);
        if (Readers.Count >= SignalStore.MostReaders)
            return await RefusedAsync($"{SignalStore.MostReaders} readers are the most. Remove one first.");
        if (!await signals.AddReaderAsync(row))
            return await RefusedAsync($"There is a reader named {row.Name} already; give this one another name.");
        await hub.ReloadAsync();
        return Redirect("/shop#readers");
    }

    public async Task<IActionResult> OnPostRemoveReaderAsync(int? id)
    {
        if (id is not { } reader)
            return await RefusedAsync("Say which reader is removed.");
        await signals.RemoveReaderAsync(reader);
        await hub.ReloadAsync();
        return Redirect("/shop#readers");
    }

    public async Task<IActionResult> OnPostAsync(string? name, string? zone)
    {
        await OnGetAsync();
        if (string.IsNullOrWhiteSpace(name) || name.Length > 80)
            return await RefusedAsync("The shop needs a name of 1 to 80 characters.");
        if (!TimeZoneInfo.TryFindSystemTimeZoneById(zone ?? "", out _))
            return await RefusedAsync($"\"{zone}\" is not a time zone known here. Use a name such as Europe/Berlin.");
        await shop.NameAsync(name.Trim(), zone!);
        return Redirect("/shop");
    }

    public async Task<IActionResult> OnPostWaysAsync(
        string? school,
        int? drainSeconds,
        double? hourlyRate,
        CmosClear? cmos,
        FirstSwap? swap,
        SupplyTester? tester,
        CpuOrBoard? cpu,
        Drain? drain,
        BentPin? pin,
        DeadCard? card,
        BenchPlace? place,
        MemoryTest? memory
    )
    {
        await OnGetAsync();
        if (School.Standard.All(s => s.Id != school))
            return await RefusedAsync($"There is no order of work \"{school}\"; choose one from the list.");
        if (drainSeconds is not (>= 5 and <= 300))
            return await RefusedAsync("Drain for 5 to 300 seconds.");
        if (hourlyRate is not (>= 0 and <= 10_000))
            return await RefusedAsync("The hour costs 0 to 10,000.");
        if (
            cmos is null
            || swap is null
            || tester is null
            || cpu is null
            || drain is null
            || pin is null
            || card is null
            || place is null
            || memory is null
        )
            return await RefusedAsync("One of the switches was not sent; choose an answer for each.");
        var preferences = Rules.Preferences with
        {
            CmosClear = cmos.Value,
            FirstSwap = swap.Value,
            SupplyTester = tester.Value,
            CpuOrBoard = cpu.Value,
            Drain = drain.Value,
            BentPin = pin.Value,
            DeadCard = card.Value,
            BenchPlace = place.Value,
            MemoryTest = memory.Value,
            HourlyRate = hourlyRate.Value,
        };
        await shop.ChangeAsync(row =>
            (row.School, row.DrainSeconds, row.PreferencesJson) = (school!, drainSeconds.Value, HouseRules.Write(preferences))
        );
        house.Changed();
        return Redirect("/shop#ways");
    }

    /// <summary>How the shop writes its bills.</summary>
    public BillingTerms Terms { get; private set; } = BillingTerms.Usual;

    /// <summary>Keeps how bills are written.</summary>
    public async Task<IActionResult> OnPostBillingAsync(
        string? currency,
        decimal? tax,
        string? taxName,
        bool withTax,
        Labour? labour,
        decimal? flat,
        decimal? fee,
        string? prefix,
        string? reach,
        string? taxNumber,
        string? address,
        string? country,
        string? receiptPrefix,
        int? offerDays,
        Dictionary<string, decimal?>? extras
    )
    {
        await OnGetAsync();
        if (tax is null || flat is null || fee is null || labour is null)
            return await RefusedAsync("Tax and prices of bills are numbers; work is charged by time or flat.", "tax");
        BillingTerms terms;
        try
        {
            terms = new BillingTerms
            {
                CurrencyCode = currency ?? "",
                Tax = tax.Value,
                TaxName = taxName?.Trim() ?? "",
                WithTax = withTax,
                Labour = labour.Value,
                FlatPrice = flat.Value,
                DiagnosisFee = fee.Value,
                Prefix = prefix?.Trim() ?? "",
                Reach = reach?.Trim() ?? "",
                TaxNumber = taxNumber?.Trim() ?? "",
                Country = country?.Trim().ToUpperInvariant() ?? "",
                ReceiptPrefix = receiptPrefix?.Trim() ?? "",
                OfferDays = offerDays ?? 0,
                ExtraPrices = Extra
                    .Known.Where(e => (extras ?? []).GetValueOrDefault(e.Id) is { } said && said != e.Usual)
                    .ToImmutableSortedDictionary(e => e.Id, e => extras![e.Id]!.Value),
                Address = address?.Replace("\r", "", StringComparison.Ordinal).Trim() ?? "",
            };
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(Forms.Plainly(e), "billing");
        }

        if (terms.WhyNot() is { } why)
            return await RefusedAsync(why, "billing");
        await shop.ChangeAsync(row => row.BillingJson = terms.Write());
        return Redirect("/shop#billing");
    }

    /// <summary>Whether there is a picture at the head of papers, and whether owners may look at the state of their job.</summary>
    public (bool Logo, bool State) Shown { get; private set; }

    /// <summary>Models of which something can be said, those that fail most first.</summary>
    public IReadOnlyList<ModelRate> Models =>
        [.. Rules.Models.Where(m => m.Tally.Seen >= ModelRate.LeastSeen && m.Tally.Failed > 0).OrderByDescending(m => m.Factor)];

    /// <summary>Keeps what stands at the head of papers; none takes it away.</summary>
    public async Task<IActionResult> OnPostLogoAsync(IFormFile? logo, [FromServices] PhotoRoom room)
    {
        await OnGetAsync();
        byte[]? jpeg = null;
        if (logo is not null)
        {
            var (read, why) = await room.ReadAsync(logo, HttpContext.RequestAborted, Photos.LogoSide);
            if (read is null)
                return await RefusedAsync(why ?? "The picture cannot be read.", "logo");
            jpeg = read;
        }

        await shop.ChangeAsync(row => row.Logo = jpeg);
        return Redirect("/shop#papers");
    }

    /// <summary>Lets owners look at the state of their jobs by the code on the ticket, or not.</summary>
    public async Task<IActionResult> OnPostStateAsync(bool on)
    {
        await shop.ChangeAsync(row => row.StatePage = on);
        return Redirect("/shop#papers");
    }

    /// <summary>Kinds of part that have a price.</summary>
    public IEnumerable<UnitKind> Priced => Enum.GetValues<UnitKind>().Where(k => k != UnitKind.Outlet);

    /// <summary>Keeps what parts cost, and when a proof is worth its own price.</summary>
    public async Task<IActionResult> OnPostPricesAsync(
        double? sure,
        double? comingBack,
        double? dearPart,
        UnitKind[]? kinds,
        double?[]? bought,
        double?[]? used
    )
    {
        await OnGetAsync();
        if (sure is not (>= 50 and <= 99.9))
            return await RefusedAsync("A repair is let go at 50 to 99.9 % sure.", "sure");
        if (comingBack is not (>= 0 and <= 10_000))
            return await RefusedAsync("A machine that comes back costs 0 to 10,000.", "comingBack");
        if (dearPart is not (>= 0 and <= 100_000))
            return await RefusedAsync("A dear part costs 0 to 100,000.", "dearPart");
        if (kinds is null || bought?.Length != kinds.Length || used?.Length != kinds.Length)
            return await RefusedAsync("A price was not sent; say what each kind of part costs, new and used.", "bought");
        foreach (var (kind, price) in kinds.Zip(bought).Concat(kinds.Zip(used)))
        {
            if (price is not (>= 0 and <= 100_000))
                return await RefusedAsync($"What a {kind.Words()} costs is 0 to 100,000.", "bought");
        }

        var preferences = Rules.Preferences with
        {
            Sure = sure.Value / 100,
            ComingBack = comingBack.Value,
            DearPart = dearPart.Value,
            PartPrices = kinds.Zip(bought, (k, p) => (k, p!.Value)).DistinctBy(p => p.k).ToImmutableDictionary(p => p.k, p => p.Value),
            UsedPrices = kinds.Zip(used, (k, p) => (k, p!.Value)).DistinctBy(p => p.k).ToImmutableDictionary(p => p.k, p => p.Value),
        };
        await shop.ChangeAsync(row => row.PreferencesJson = HouseRules.Write(preferences));
        house.Changed();
        return Redirect("/shop#prices");
    }

    /// <summary>Counts what procedures were measured to take, or goes back to the minutes that ship.</summary>
    public async Task<IActionResult> OnPostMinutesAsync(bool own)
    {
        await OnGetAsync();
        var minutes = Measured
            .Where(m => own && m.Median is not null)
            .ToImmutableDictionary(m => m.Procedure.Id, m => Math.Round(m.Median!.Value, 1));
        if (own && minutes.IsEmpty)
            return await RefusedAsync($"No procedure was measured {Procedures.LeastMeasured} times yet: the minutes stay.");
        var preferences = Rules.Preferences with { OwnMinutes = minutes };
        await shop.ChangeAsync(row => row.PreferencesJson = HouseRules.Write(preferences));
        house.Changed();
        return Redirect("/shop#minutes");
    }

    /// <summary>Changes the order of work alone, from a job's steps.</summary>
    public async Task<IActionResult> OnPostSchoolAsync(string? school, int? job)
    {
        await OnGetAsync();
        if (School.Standard.All(s => s.Id != school))
            return await RefusedAsync($"There is no order of work \"{school}\"; choose one from the list.");
        await shop.ChangeAsync(row => row.School = school!);
        house.Changed();
        return Redirect(job is { } number ? $"/jobs/{number}/steps" : "/shop#ways");
    }

    public async Task<IActionResult> OnPostForgetAsync()
    {
        await shop.ForgetAsync(clock.GetUtcNow().UtcDateTime);
        house.Learnt();
        return Redirect("/shop#learnt");
    }
}
