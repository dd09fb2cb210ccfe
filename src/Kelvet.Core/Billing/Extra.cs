using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Billing;

/// <summary>Something that is offered beside a repair. What an owner reads of it has no word of the trade.</summary>
/// <param name="Id">Its name in forms and in the shop's prices.</param>
/// <param name="What">What the owner reads.</param>
/// <param name="Why">Why it is offered in this job.</param>
/// <param name="Usual">Price where the shop has said none. Bench judgement.</param>
public sealed record Extra(string Id, string What, string Why, decimal Usual)
{
    /// <summary>Every extra that is known, with when it is offered. Common practice, no source.</summary>
    private static readonly ImmutableArray<(Extra Extra, Func<BenchJob, string?> Why)> All =
    [
        (new("cleaning", "Cleaning inside", "", 25), Dusty),
        (
            new("cooler", "A stronger cooler, fitted", "", 60),
            job => Fits(job, Misfit.CoolerTooWeak) ? "The cooler is made for less heat than this processor gives." : null
        ),
        (
            new("fan-hub", "An adapter for the fans, fitted", "", 15),
            job => Fits(job, Misfit.MoreFansThanHeaders) ? "There are more fans than the main board can drive." : null
        ),
        (
            new("memory-slots", "Memory moved to where the main board wants it", "", 10),
            job =>
                (Fits(job, Misfit.WrongSlots) || Fits(job, Misfit.OneChannel)) && KnowsMemory(job)
                    ? "It runs slower, or not as it should, where it is now."
                    : null
        ),
        (
            new("surge-strip", "A power strip with protection", "", 20),
            job => job.Intake.Contexts.Contains("power-event") ? "It failed after trouble with the power." : null
        ),
    ];

    /// <summary>The check of the atlas that looks for dust.</summary>
    public const string DustCheck = "look-dirt";

    /// <summary>The extras that a job gives a reason to offer.</summary>
    public static IEnumerable<Extra> For(BenchJob job) =>
        All.Select(e => e.Why(job) is { } why ? e.Extra with { Why = why } : null).OfType<Extra>();

    /// <summary>Every extra, for the list of prices.</summary>
    public static IEnumerable<Extra> Known => All.Select(e => e.Extra);

    private static bool Fits(BenchJob job, Misfit kind) => MisfitFound.In(job.Now).Any(m => m.Kind == kind);

    /// <summary>Whether nothing of where the memory sits is a guess: what nobody knows is not offered to be put right.</summary>
    private static bool KnowsMemory(BenchJob job)
    {
        var known = Knowledge.Of(job);
        return job.Now.Board is { } board
            && !known.IsGuess(board.Id, PartFact.Slots)
            && job.Now.Sticks.All(s => !known.IsGuess(s.Stick.Id, PartFact.Presence));
    }

    private static string? Dusty(BenchJob job)
    {
        var seen = job.Lines.Select(l => l.Stands).OfType<FindingEntry>().Any(f => f.Found && f.Check == DustCheck);
        return seen ? "There is dust in it, which holds the heat."
            : job.Intake.Contexts.Contains("heat") ? "It ran hot, or stood in dust."
            : null;
    }
}
