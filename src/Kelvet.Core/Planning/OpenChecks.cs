using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>
/// What restores cheaply and was not tried with a part in the machine: before it is bought anew, left out or condemned, a master does
/// these first; of what is never powered again nothing is open. Common practice.
/// </summary>
/// <param name="Settings">The settings of the customer's board were never cleared, the part hangs on them, and it fails where
/// they could be why: a machine that never runs is
/// not kept down by them, nor one that fails on another board.</param>
/// <param name="Seat">The part sits in a seat or a plug, and was never seated anew.</param>
/// <param name="Contacts">Its contacts were never cleaned.</param>
/// <param name="Looks">Looks at it that were not made, without what takes longer than the part is worth a look: ten minutes.</param>
public sealed record OpenChecks(bool Settings, bool Seat, bool Contacts, ImmutableArray<Check> Looks)
{
    private const double Quick = 10;

    /// <summary>Whether any is open but looks.</summary>
    public bool Any => Settings || Seat;

    /// <summary>Those of a part.</summary>
    /// <param name="job">The job.</param>
    /// <param name="unit">The part.</param>
    /// <param name="atlas">The looks.</param>
    public static OpenChecks Of(BenchJob job, UnitId unit, Atlas atlas)
    {
        var now = job.Now;
        if (Safety.WhyNeverAgain(job, unit) is not null)
            return new OpenChecks(false, false, false, []);
        var kind = now.Parts[unit].Kind;
        var made = job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().Where(f => f.Unit == unit).Select(f => f.Check).ToHashSet();
        var failed = job.Trials.Where(t => t.Failed).ToArray();
        var settings = atlas.Modes.Where(m => m.Cure == Cure.ClearCmos).ToArray();
        var board = job.Intake.Received[Place.Board];
        // What fails on another board too is not this one's settings.
        var mayBeSettings =
            failed.Length == 0
            || (failed.Any(t => settings.Any(m => m.MayStopIn(t.Seen))) && failed.All(t => t.Situation.Board?.Id == board));
        return new OpenChecks(
            UnitFacts.Of(kind).SetUp && mayBeSettings && board is { } own && !now.CmosCleared(own),
            !now.Refitted(unit) && job.Intake.Received.Has(unit) && UnitFacts.Of(kind).Seats,
            Situation.RemediesFor(kind).Contains(Remedy.Clean) && !now.Mended(unit, Remedy.Clean),
            [.. atlas.Checks.Where(c => c.On == kind && !c.Powered && c.Minutes.Value <= Quick && !made.Contains(c.Id))]
        );
    }
}
