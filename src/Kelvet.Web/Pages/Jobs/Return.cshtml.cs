using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What a maker asks for to take a part back: its serial, the starts that show the fault, and what else was ruled out.</summary>
public sealed class ReturnModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    /// <summary>Id of the part.</summary>
    [BindProperty(SupportsGet = true)]
    public string Unit { get; set; } = "";

    /// <summary>a4 or letter.</summary>
    public string Paper { get; private set; } = "a4";

    /// <summary>The case against it.</summary>
    public Suspect Suspect { get; private set; } = null!;

    /// <summary>Customer's parts that were cleared.</summary>
    public IReadOnlyList<Suspect> RuledOut =>
        [.. Reading.Diagnosis.Suspects.Where(s => s.Standing == Standing.Cleared && s.Unit.Origin == Origin.Customer && s != Suspect)];

    /// <summary>Shows it.</summary>
    public IActionResult OnGet(string? paper)
    {
        Paper = paper == "letter" ? "letter" : "a4";
        if (!UnitId.IsValid(Unit) || Reading.Diagnosis.Suspects.FirstOrDefault(s => s.Unit.Id.Value == Unit) is not { } suspect)
            return NotFound();
        Suspect = suspect;
        return Page();
    }
}
