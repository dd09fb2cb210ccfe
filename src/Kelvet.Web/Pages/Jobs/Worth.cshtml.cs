using Kelvet.Core.Planning;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What each way out of a job is expected to cost, against what the customer allows.</summary>
public sealed class WorthModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    /// <summary>The ways; null before the first start.</summary>
    public Worth? Worth { get; private set; }

    /// <summary>What the customer allows; null where nothing was said.</summary>
    public decimal? Limit { get; private set; }

    /// <summary>What the machine is called to its owner.</summary>
    public string Machine => $"your computer (job {Number})";

    /// <summary>Shows them.</summary>
    public void OnGet()
    {
        Limit = DropOff.Of(Job.Row).Limit;
        if (Job.Bench.Trials.Length > 0)
            Worth = Worth.Of(Reading.Diagnosis, Reading.Advice.Economy?.Expected?.Value, Rules.Preferences);
    }
}
