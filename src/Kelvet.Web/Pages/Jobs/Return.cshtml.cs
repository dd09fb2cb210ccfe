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
public sealed class ReturnModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live, TimeProvider clock)
    : JobPageModel(store, readings, visitor)
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

    /// <summary>What the other half of its proof costs; null where it is whole, or none is begun.</summary>
    public ProofPrice? Proof => Reading.Advice.Proofs.FirstOrDefault(p => p.Unit.Id == Suspect.Unit.Id);

    /// <summary>What was done that could have restored it; a paper for a maker does not list what was not.</summary>
    public string[] Tried =>
        [.. BeforeReplacing(Suspect.Unit.Id).All.Where(c => c.State == CheapState.Done && c.Act != CheapAct.LookAt).Select(c => c.Words())];

    /// <summary>Customer's parts that were cleared.</summary>
    public IReadOnlyList<Suspect> RuledOut =>
        [.. Reading.Diagnosis.Suspects.Where(s => s.Standing == Standing.Cleared && s.Unit.Origin == Origin.Customer && s != Suspect)];

    /// <summary>Shows it.</summary>
    public IActionResult OnGet(string? paper)
    {
        Paper = paper == "letter" ? "letter" : "a4";
        return Find() ? Page() : NotFound();
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
