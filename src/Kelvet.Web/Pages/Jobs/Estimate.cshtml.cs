using Kelvet.Core.Planning;
using Kelvet.Core.Records;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What a machine's owner is asked to agree to, on paper.</summary>
public sealed class EstimateModel(JobStore store, DiagnosisCache readings, Visitor visitor, PlayedAhead played)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    public string Paper { get; private set; } = "a4";

    /// <summary>The way that is proposed; the cheapest where none is chosen.</summary>
    [BindProperty(SupportsGet = true)]
    public WayOut? Way { get; set; }

    /// <summary>Whether with used parts.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Used { get; set; }

    /// <summary>The ways that there are; empty before the first start.</summary>
    public IReadOnlyList<WayCost> Ways { get; private set; } = [];

    /// <summary>The estimate; null before the first start.</summary>
    public Estimate? Estimate { get; private set; }

    /// <summary>How far the search is played out; null where nothing is to be played.</summary>
    public PlayState? Playing { get; private set; }

    /// <summary>Shows it.</summary>
    public void OnGet(string? paper)
    {
        Paper = paper == "letter" ? "letter" : "a4";
        if (Job.Bench.Trials.Length == 0)
            return;
        Playing = Job.IsClosed ? null : played.Ask(Number, Reading);
        if (Playing is { Word: "playing" })
            return;
        var worth = Worth.Of(
            Reading.Diagnosis,
            Reading.Advice.Economy?.Expected?.Value,
            Playing?.Ahead,
            Rules.Preferences,
            (double?)DropOff.Of(Job.Row).Worth
        );
        Ways = worth.Ways;
        var way = Ways.FirstOrDefault(w => w.Way == Way) ?? (worth.IsNotWorthIt ? Ways[^1] : Ways[0]);
        Way = way.Way;
        Estimate = Estimate.Of(worth, way, Used);
    }
}
