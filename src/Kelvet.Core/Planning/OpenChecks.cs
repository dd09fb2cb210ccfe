using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>
/// What restores cheaply and was not tried with a part in the machine: before it is bought anew, left out or condemned, a master does
/// these first. Common practice.
/// </summary>
/// <param name="Settings">The board's settings were never cleared, and it fails where settings could be why: a machine that never runs is
/// not kept down by them.</param>
/// <param name="Seat">The part was never seated anew.</param>
/// <param name="Looks">Looks at it that were not made, without what takes longer than the part is worth a look: ten minutes.</param>
public sealed record OpenChecks(bool Settings, bool Seat, ImmutableArray<Check> Looks)
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
        var made = job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().Where(f => f.Unit == unit).Select(f => f.Check).ToHashSet();
        var failed = job.Trials.Where(t => t.Failed).ToArray();
        var settings = atlas.Modes.Where(m => m.Cure == Cure.ClearCmos).ToArray();
        var mayBeSettings = failed.Length == 0 || failed.Any(t => settings.Any(m => m.MayStopIn(t.Seen)));
        return new OpenChecks(
            mayBeSettings && now.Board is { } board && !now.CmosCleared(board.Id),
            !now.Refitted(unit) && job.Intake.Received.Has(unit),
            [.. atlas.Checks.Where(c => c.On == now.Parts[unit].Kind && !c.Powered && c.Minutes.Value <= Quick && !made.Contains(c.Id))]
        );
    }
}
