using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>What restores cheaply, or tells cheaply that it would.</summary>
public enum CheapAct
{
    /// <summary>The settings of the customer's board are cleared.</summary>
    ClearSettings,

    /// <summary>The part is seated or plugged anew.</summary>
    Reseat,

    /// <summary>Its contacts are cleaned.</summary>
    Clean,

    /// <summary>It is looked at.</summary>
    LookAt,
}

/// <summary>How such an act stands.</summary>
public enum CheapState
{
    /// <summary>It was done.</summary>
    Done,

    /// <summary>It was not done, and could be.</summary>
    Open,

    /// <summary>It could not be why: a machine that never runs is not kept down by its settings, nor one that fails on another
    /// board, nor a part that fails in another machine.</summary>
    NotInQuestion,

    /// <summary>The part is never powered again, so that nothing tried with it shows anything.</summary>
    Impossible,

    /// <summary>It costs more than the part.</summary>
    TooDear,
}

/// <summary>One of them.</summary>
/// <param name="Act">What is done.</param>
/// <param name="State">How it stands.</param>
/// <param name="Look">The look, where it is one.</param>
public sealed record CheapCheck(CheapAct Act, CheapState State, Check? Look = null)
{
    /// <summary>Whether the part may not be replaced before it is done: what restores it, not what only tells.</summary>
    public bool Holds => State == CheapState.Open && Act is CheapAct.ClearSettings or CheapAct.Reseat;
}

/// <summary>
/// What restores cheaply with a part in the machine: before it is bought anew, left out or condemned, a master does these first.
/// Common practice.
/// </summary>
/// <param name="All">All that there is for the part, and how it stands.</param>
public sealed record OpenChecks(ImmutableArray<CheapCheck> All)
{
    /// <summary>What takes longer than this is not worth a look at a part before it is replaced: minutes, bench judgement.</summary>
    private const double Quick = 10;

    /// <summary>The settings of the customer's board were never cleared, the part hangs on them, and they could be why.</summary>
    public bool Settings => IsOpen(CheapAct.ClearSettings);

    /// <summary>The part sits in a seat or a plug, and was never seated anew.</summary>
    public bool Seat => IsOpen(CheapAct.Reseat);

    /// <summary>Its contacts were never cleaned.</summary>
    public bool Contacts => IsOpen(CheapAct.Clean);

    /// <summary>Looks at it that were not made.</summary>
    public ImmutableArray<Check> Looks =>
        [.. All.Where(c => c is { Act: CheapAct.LookAt, State: CheapState.Open }).Select(c => c.Look).OfType<Check>()];

    /// <summary>Whether any holds it.</summary>
    public bool Any => All.Any(c => c.Holds);

    private bool IsOpen(CheapAct act) => All.Any(c => c.Act == act && c.State == CheapState.Open);

    /// <summary>Those of a part.</summary>
    /// <param name="job">The job.</param>
    /// <param name="unit">The part.</param>
    /// <param name="atlas">The looks.</param>
    /// <param name="preferences">What minutes and parts cost.</param>
    public static OpenChecks Of(BenchJob job, UnitId unit, Atlas atlas, Preferences preferences)
    {
        var now = job.Now;
        var kind = now.Parts[unit].Kind;
        var gone = Safety.WhyNeverAgain(job, unit) is not null;
        var price = preferences.PriceOf(kind).New;
        // What fails in another machine as well was seated there, and is kept down by nothing of this one's.
        var elsewhere = job.Testimonies.Any(t => t.Entry is ElsewhereEntry { Worked: false } e && e.Unit == unit);
        var checks = ImmutableArray.CreateBuilder<CheapCheck>();
        var board = job.Intake.Received[Place.Board];
        if (UnitFacts.Of(kind).SetUp && board is { } own)
            Add(CheapAct.ClearSettings, now.CmosCleared(own), atlas.Work.ClearCmos.Value, !elsewhere && MayBeSettings(job, own, atlas));
        if (UnitFacts.Of(kind).Seats && job.Intake.Received.Has(unit))
            Add(CheapAct.Reseat, now.Refitted(unit), atlas.Work.Reseat[kind].Value, !elsewhere);
        if (Situation.RemediesFor(kind).Contains(Remedy.Clean))
            Add(CheapAct.Clean, now.Mended(unit, Remedy.Clean), atlas.Work.Mend[Remedy.Clean].Value);
        var made = job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().Where(f => f.Unit == unit).Select(f => f.Check).ToHashSet();
        foreach (var look in atlas.Checks.Where(c => c.On == kind && !c.Powered && c.Minutes.Value <= Quick))
            Add(CheapAct.LookAt, made.Contains(look.Id), look.Minutes.Value, look: look);
        return new OpenChecks(checks.ToImmutable());

        void Add(CheapAct act, bool done, double minutes, bool mayBeWhy = true, Check? look = null) =>
            checks.Add(
                new CheapCheck(
                    act,
                    done ? CheapState.Done
                        : gone ? CheapState.Impossible
                        : !mayBeWhy ? CheapState.NotInQuestion
                        : price > 0 && preferences.CostOf(minutes) > price ? CheapState.TooDear
                        : CheapState.Open,
                    look
                )
            );
    }

    /// <summary>What fails on another board too is not this one's settings, nor what fails where they keep nothing down.</summary>
    private static bool MayBeSettings(BenchJob job, UnitId board, Atlas atlas)
    {
        var failed = job.Trials.Where(t => t.Failed).ToArray();
        var settings = atlas.Modes.Where(m => m.Cure == Cure.ClearCmos).ToArray();
        return failed.Length == 0
            || (failed.Any(t => settings.Any(m => m.MayStopIn(t.Seen))) && failed.All(t => t.Situation.Board?.Id == board));
    }
}

/// <summary>
/// Whether a part may be replaced: something like it bought anew, or it left out and named as failed when the job is closed. Advice,
/// desk and papers ask here; a technician goes past it with a reason, which the log keeps.
/// </summary>
public static class ReplacementGate
{
    /// <summary>Why a part is replaced though something cheap is open, as the log has it; null where nobody said.</summary>
    public static GoAheadEntry? GoAheadWith(BenchJob job, UnitId unit) =>
        job.Lines.Select(l => l.Stands).OfType<GoAheadEntry>().LastOrDefault(g => g.Unit == unit);

    /// <summary>Whether it holds a part: something that may restore it is open, and nobody said why that is passed over.</summary>
    public static bool Holds(BenchJob job, UnitId unit, Atlas atlas, Preferences preferences) =>
        GoAheadWith(job, unit) is null && OpenChecks.Of(job, unit, atlas, preferences).Any;

    /// <summary>The customer's part that a new one would replace, where each of its kind is held; null where the new one may
    /// come.</summary>
    /// <param name="job">The job.</param>
    /// <param name="bought">The part that comes.</param>
    /// <param name="atlas">The looks.</param>
    /// <param name="preferences">What minutes and parts cost.</param>
    public static Unit? HeldAgainst(BenchJob job, Unit bought, Atlas atlas, Preferences preferences)
    {
        if (bought.Origin != Origin.New)
            return null;
        Unit[] alike = [.. job.Intake.Received.At.Values.Select(id => job.Now.Parts[id]).Where(u => u.Kind == bought.Kind)];
        return alike.All(u => Holds(job, u.Id, atlas, preferences)) ? alike.FirstOrDefault() : null;
    }

    /// <summary>Parts that are named as failed and are not in the machine as it goes out, and are held.</summary>
    /// <param name="job">The job.</param>
    /// <param name="found">The parts that are named.</param>
    /// <param name="atlas">The looks.</param>
    /// <param name="preferences">What minutes and parts cost.</param>
    public static ImmutableArray<Unit> HeldAtClosing(BenchJob job, IEnumerable<UnitId> found, Atlas atlas, Preferences preferences) =>
        [
            .. found
                .Where(id => job.Intake.Received.Has(id) && !job.Now.Now.Has(id) && Holds(job, id, atlas, preferences))
                .Select(id => job.Now.Parts[id]),
        ];
}
