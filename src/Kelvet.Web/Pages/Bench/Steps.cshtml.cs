using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;

namespace Kelvet.Web.Pages.Bench;

/// <summary>Every step that could be taken, those that cannot tell anything included, with the reason.</summary>
public sealed class StepsModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    /// <summary>The part that a step touches, by its kind.</summary>
    public static string Touches(Candidate step, Situation now) =>
        step.Checked is { } looked ? looked.Kind.Words()
        : step.Changes.Select(c => c.Subject).OfType<UnitId>().FirstOrDefault() is { Value.Length: > 0 } id
        && now.Parts.Find(id) is { } unit
            ? unit.Kind.Words()
        : step.Missing is { } missing ? missing.Kind.Words()
        : "the machine as a whole";
}
