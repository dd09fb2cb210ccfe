using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The case against one unit: its faults, the proof, and what each step said.</summary>
public sealed class UnitModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    public Unit Unit { get; private set; } = null!;

    public Suspect Suspect { get; private set; } = null!;

    public ImmutableArray<Weight> Weights { get; private set; }

    public IActionResult OnGet(string id)
    {
        if (Reading.Diagnosis.Suspects.FirstOrDefault(s => s.Unit.Id.Value == id) is not { } suspect)
            return NotFound();
        Suspect = suspect;
        Unit = suspect.Unit;
        Weights = Weight.On(Reading.Diagnosis, Unit.Id);
        return Page();
    }
}
