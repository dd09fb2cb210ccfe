using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The papers of a job.</summary>
public sealed class PapersModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    /// <summary>Parts that a return sheet is for: those that were found at fault, or stand out so far.</summary>
    public IEnumerable<Suspect> Named =>
        Reading.Diagnosis.Suspects.Where(s =>
            Job.IsClosed
                ? Job.Found.Contains(s.Unit.Id)
                : s.Standing != Standing.PutRight && CaseRecord.StandingOut(Reading.Diagnosis, Rules.Preferences).Contains(s.Unit.Id)
        );
}
