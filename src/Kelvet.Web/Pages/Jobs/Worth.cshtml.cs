using Kelvet.Core.Planning;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What each way out of a job is expected to cost, against what the customer allows and the machine is worth.</summary>
public sealed class WorthModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, PlayedAhead played)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>The ways; null before the first start.</summary>
    public Worth? Worth { get; private set; }

    /// <summary>The search, played out; null while it is being played.</summary>
    public SearchAhead? Ahead { get; private set; }

    /// <summary>How far it is played out; null where nothing is to be played.</summary>
    public PlayState? Playing { get; private set; }

    /// <summary>What the customer allows; null where nothing was said.</summary>
    public decimal? Limit { get; private set; }

    /// <summary>What the machine is worth as was said; null to add up its parts.</summary>
    public decimal? Said { get; private set; }

    /// <summary>Shows them.</summary>
    public void OnGet()
    {
        var agreed = DropOff.Of(Job.Row);
        (Limit, Said) = (agreed.Limit, agreed.Worth);
        if (Job.Bench.Trials.Length == 0)
            return;
        Playing = Job.IsClosed ? null : played.Ask(Number, Reading);
        Ahead = Playing?.Ahead;
        Worth = Worth.Of(Reading.Diagnosis, Reading.Advice.Economy?.Expected?.Value, Ahead, Rules.Preferences, (double?)Said);
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        OnGet();
    }

    /// <summary>Says what the machine is worth.</summary>
    public async Task<IActionResult> OnPostAsync(decimal? machine)
    {
        if (machine is < 0 or > 100_000)
            return await RefusedAsync("A machine is worth 0 to 100,000.", "machine");
        _ = await desk.ValueAsync(Number, machine, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/worth");
    }
}
