using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Records;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A page about one job: finds the job of the address, or answers 404. The log is read when the page is shown.</summary>
public abstract class JobPageModel(JobStore store, DiagnosisCache readings, Visitor visitor) : FormPage, IFindsItself
{
    private Reading? _reading;
    private StoredJob? _job;

    /// <summary>The job's number.</summary>
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    /// <summary>The job as stored.</summary>
    public StoredJob Job => _job ?? throw new InvalidOperationException("The job has not been read yet.");

    /// <summary>Its log as read by the core.</summary>
    public Reading Reading => _reading ??= readings.Of(Job, Rules);

    /// <summary>How this shop works, as this job is read.</summary>
    public Rules Rules { get; private set; } = null!;

    /// <summary>Where jobs are read.</summary>
    protected JobStore Store => store;

    /// <summary>Who sits at this browser.</summary>
    protected Visitor Visitor => visitor;

    /// <inheritdoc/>
    public async Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        // What is sent is judged by the desk, which reads the job itself; only a page that is shown reads it here.
        if (!HttpMethods.IsGet(Request.Method) && !HttpMethods.IsHead(Request.Method))
            return await store.ExistsAsync(Number, cancel) ? null : NotFound();
        try
        {
            return await ReadAsync() ? null : NotFound();
        }
        catch (Exception e) when (JobStore.IsUnreadable(e))
        {
            HttpContext.Items[StoreAnswers.Why] =
                $"Job {Number} cannot be read by this version: {e.Message} Everything that is stored of it stays as it is.";
            HttpContext.Items[ErrorModel.Job] = Number;
            return StatusCode(StatusCodes.Status422UnprocessableEntity);
        }
    }

    /// <summary>Reads the job anew.</summary>
    /// <returns>False when there is none.</returns>
    protected async Task<bool> ReadAsync()
    {
        if (await store.FindAsync(Number, HttpContext.RequestAborted) is not { } job)
            return false;
        Rules = await readings.RulesAsync(job);
        (_job, _reading) = (job, null);
        ViewData["Title"] = $"{job.Number} {job.Bench.Intake.Title}";
        ViewData[JobFrame.Key] = new JobFrame(job, () => Reading);
        return true;
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync() => await ReadAsync();

    /// <summary>Name of the field in which a form carries what its page proposed.</summary>
    public const string Proposed = "proposed";

    /// <summary>Whether a line is what the page that it was sent from had proposed; null where the form does not say.</summary>
    /// <param name="entry">The line.</param>
    protected async Task<bool?> IsFollowedAsync(Entry entry)
    {
        if (
            Proposal.Read(Request.Form[Proposed]) is not { } proposed
            || await Store.FindAsync(Number, HttpContext.RequestAborted) is not { } job
        )
            return null;
        try
        {
            return Followed.By(proposed, job.Bench, entry);
        }
        catch (ChangeRefusedException)
        {
            // The desk refuses it, and says why.
            return null;
        }
    }

    /// <summary>The parts that are at fault: as it was closed with, or as they stand out so far.</summary>
    public ImmutableArray<UnitId> Found => Job.IsClosed ? [.. Job.Found] : CaseRecord.StandingOut(Reading.Diagnosis, Rules.Preferences);

    /// <summary>What was spent and what the customer allows, where that comes near; null where it does not, or nothing was said.</summary>
    public (double Spent, double Limit)? NearTheLimit
    {
        get
        {
            var limit = (double?)DropOff.Of(Job.Row).Limit;
            var spent = Worth.SpentOn(Job.Bench, Rules.Atlas, Rules.Preferences);
            return !Job.IsClosed && Worth.IsNear(spent, limit) ? (spent, limit!.Value) : null;
        }
    }

    /// <summary>What restores a part cheaply, and how that stands.</summary>
    public OpenChecks BeforeReplacing(UnitId unit) => OpenChecks.Of(Job.Bench, unit, Rules.Atlas, Rules.Preferences);

    /// <summary>What a command is carried out under.</summary>
    protected async Task<DeskRules> DeskAsync()
    {
        var rules = await readings.RulesAsync();
        return new DeskRules(visitor.Name, rules.Set, rules.Drain) { Preferences = rules.Preferences };
    }
}
