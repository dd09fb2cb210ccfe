using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What a maker asks for to take a part back: its serial, the starts that show the fault, and what else was ruled out.</summary>
public sealed class ReturnModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    LiveJobs live,
    BenchState bench,
    TimeProvider clock
) : JobPageModel(store, readings, visitor)
{
    /// <summary>Today.</summary>
    public DateOnly Today => DateOnly.FromDateTime(clock.GetUtcNow().UtcDateTime);

    /// <summary>Whether the part was taken in with the machine, so that what is known of it can be corrected.</summary>
    public bool IsOfIntake => Job.Bench.Intake.Parts.Has(Suspect.Unit.Id);

    /// <summary>Id of the part.</summary>
    [BindProperty(SupportsGet = true)]
    public string Unit { get; set; } = "";

    /// <summary>a4 or letter.</summary>
    public string Paper { get; private set; } = "a4";

    /// <summary>The case against it.</summary>
    public Suspect Suspect { get; private set; } = null!;

    /// <summary>Whether one side of its proof was enough for the shop; what that rests on is for the technician's report.</summary>
    public bool OneSideAccepted => Reading.Advice.Proofs.Any(p => p.Unit.Id == Suspect.Unit.Id && p.Accepted);

    /// <summary>Whether the log proves it: then the sheet says so, and else it says what is missing.</summary>
    public bool IsProved => Suspect.Standing == Standing.Condemned;

    /// <summary>The last start that failed with it at work, and the last that passed without it.</summary>
    public IEnumerable<(Trial Trial, bool With)> SetUps =>
        Suspect.Proof.Events.Reverse().DistinctBy(e => e.With).OrderByDescending(e => e.With);

    /// <summary>What was looked at, tested and measured of it.</summary>
    public IEnumerable<(int Line, string What)> Findings =>
        Job
            .Bench.InOrder.Where(l => l.Stands is FindingEntry f && f.Unit == Suspect.Unit.Id)
            .Select(l => (l.Number, Finding: (FindingEntry)l.Stands!))
            .Select(l => (l.Number, Said(l.Finding)));

    private string Said(FindingEntry finding)
    {
        var check = Rules.Atlas.Check(finding.Check);
        var what = check?.Findings.FirstOrDefault(f => f.Id == finding.What)?.Name ?? check?.Found ?? "found";
        var counts = string.Join(
            ", ",
            new[]
            {
                finding.Passes is { } passes ? $"{passes} passes" : "",
                finding.Errors is { } errors ? $"{errors} errors" : "",
                finding.Minutes is { } minutes ? $"{minutes:0.#} min" : "",
                finding.Rails?.Words() ?? "",
            }.Where(w => w.Length > 0)
        );
        return $"{check?.Name ?? finding.Check}: {(finding.Found ? what : "nothing found")}{(counts.Length > 0 ? $" ({counts})" : "")}";
    }

    /// <summary>Photos of the lines that are about it.</summary>
    public IReadOnlyList<(int Line, Guid Photo)> Photos { get; private set; } = [];

    private async Task PhotosAsync()
    {
        var photos = await bench.PhotosAsync(Job.Row.Id, HttpContext.RequestAborted);
        var starts = Suspect.Proof.Events.Select(e => e.Trial.Number).ToHashSet();
        Photos =
        [
            .. Job
                .Bench.InOrder.Where(l =>
                    starts.Contains(l.Number)
                    || l.Stands is FindingEntry f && f.Unit == Suspect.Unit.Id
                    || l.Stands?.Done.Any(c => c.Moves(Suspect.Unit.Id)) == true
                )
                .SelectMany(l => photos[l.Written.Id].Select(p => (l.Number, p))),
        ];
    }

    /// <summary>What was done that could have restored it; a paper for a maker does not list what was not.</summary>
    public string[] Tried =>
        [.. BeforeReplacing(Suspect.Unit.Id).All.Where(c => c.State == CheapState.Done && c.Act != CheapAct.LookAt).Select(c => c.Words())];

    /// <summary>Customer's parts that were cleared.</summary>
    public IReadOnlyList<Suspect> RuledOut =>
        [.. Reading.Diagnosis.Suspects.Where(s => s.Standing == Standing.Cleared && s.Unit.Origin == Origin.Customer && s != Suspect)];

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(string? paper)
    {
        Paper = paper == "letter" ? "letter" : "a4";
        if (!Find())
            return NotFound();
        await PhotosAsync();
        return Page();
    }

    private bool Find()
    {
        if (!UnitId.IsValid(Unit) || Reading.Diagnosis.Suspects.FirstOrDefault(s => s.Unit.Id.Value == Unit) is not { } suspect)
            return false;
        Suspect = suspect;
        return true;
    }

    /// <summary>Keeps when and where it was bought: a correction of what was taken in.</summary>
    public async Task<IActionResult> OnPostAsync(DateOnly? bought, string? seller, int? returnDays, int? warrantyMonths)
    {
        await ReadAsync();
        if (!Find() || !IsOfIntake)
            return NotFound();
        if (bought > Today)
            return await RefusedAsync("It was bought on a day that is still to come. Correct the date.", "bought");
        var intake = Job.Bench.Intake;
        try
        {
            var parts = Parts.Of(
                intake.Parts.All.Select(u =>
                    u.Id == Suspect.Unit.Id
                        ? u with
                        {
                            Bought = bought,
                            Seller = seller?.Trim() ?? "",
                            ReturnDays = returnDays,
                            WarrantyMonths = warrantyMonths,
                        }
                        : u
                )
            );
            _ = await desk.AmendAsync(
                Number,
                new AmendEntry(Guid.NewGuid(), intake with { Parts = parts }, $"When and where {Suspect.Unit.Name} was bought."),
                null,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/return/{Unit}");
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message);
        }
    }
}
