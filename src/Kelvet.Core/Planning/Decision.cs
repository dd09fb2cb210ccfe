using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>What stage of the work the job has come to.</summary>
public enum Phase
{
    /// <summary>Nothing has been tried yet: reproduce the complaint first.</summary>
    Reproduce,

    /// <summary>It must not be powered as it stands: make it safe first.</summary>
    MakeSafe,

    /// <summary>Narrow down.</summary>
    Narrow,

    /// <summary>One unit stands out; complete the proof.</summary>
    Prove,

    /// <summary>A unit is certain enough: mend or replace it.</summary>
    Repair,

    /// <summary>What is likely can neither be proved nor replaced with what is at hand: get the part.</summary>
    Order,

    /// <summary>The fault is settled and the machine runs: put the customer's parts back.</summary>
    PutBack,

    /// <summary>All is back and it runs: start it until what may be left is unlikely.</summary>
    ProveRuns,

    /// <summary>It runs as received, repaired, and nothing is likely to be left.</summary>
    Done,

    /// <summary>Nothing feasible tells anything more.</summary>
    Stuck,
}

/// <summary>What is advised and why, as a kind; <c>Words</c> turns it into sentences.</summary>
public enum AdviceKind
{
    /// <summary>Look it over, then start it as it came in.</summary>
    LookThenStart,

    /// <summary>It may not be powered as it stands: do what makes it safe.</summary>
    MakeSafe,

    /// <summary>It is started the way that it is said to fail, to see it fail here.</summary>
    MakeItFail,

    /// <summary>The shop always does this first.</summary>
    HouseFirst,

    /// <summary>It tells most for its minutes.</summary>
    TellsMost,

    /// <summary>It is next in the order of a school.</summary>
    NextOfSchool,

    /// <summary>It tells a part that is nearly condemned from something else that the log allows.</summary>
    Control,

    /// <summary>A failure in this step would complete the proof.</summary>
    CompleteProof,

    /// <summary>The suspect goes back in, to see it fail again.</summary>
    PutBackToProve,

    /// <summary>The suspect is back and should fail again; it may do so only now and then.</summary>
    AwaitFailure,

    /// <summary>The suspect comes out: half the proof.</summary>
    SwapToProve,

    /// <summary>The extension is left out.</summary>
    LeaveOut,

    /// <summary>What most likely cures it is done.</summary>
    Mend,

    /// <summary>What a look found to be wrong is put right.</summary>
    MendWhatWasFound,

    /// <summary>The firmware is written while it runs.</summary>
    FlashWhileItRuns,

    /// <summary>A condemned unit is replaced.</summary>
    ReplaceCondemned,

    /// <summary>Before a part is bought or replaced, what restores cheaply is tried with it in.</summary>
    CheapFirst,

    /// <summary>The likeliest unit cannot be replaced with what is at hand.</summary>
    GetReplacement,

    /// <summary>None of the customer's sticks can stay.</summary>
    GetSticks,

    /// <summary>It is put together without what is proved, and started.</summary>
    TryTogether,

    /// <summary>What is in the wrong place goes where it belongs.</summary>
    PutRight,

    /// <summary>The rest goes back as received.</summary>
    PutRestBack,

    /// <summary>One more clean start.</summary>
    StartOnceMore,

    /// <summary>The last failure may have been mis-seen.</summary>
    MisSeen,

    /// <summary>It runs, everything in place.</summary>
    Done,

    /// <summary>It never failed here: it is looked over before it is given back.</summary>
    LookBeforeGivingBack,

    /// <summary>It never failed here: what to ask of the customer and the site.</summary>
    NotReproduced,

    /// <summary>A part that is not here would tell more than anything at hand.</summary>
    PartTellsMore,

    /// <summary>Nothing at hand tells more; a part would.</summary>
    OnlyAPartTells,

    /// <summary>Nothing that can be tried here tells more.</summary>
    NothingTells,

    /// <summary>It has cost much, and what is left to try would not settle it soon: say what was ruled out, and stop.</summary>
    NotProved,
}

/// <summary>What is to be done next, decided.</summary>
/// <param name="Phase">Where the work stands.</param>
/// <param name="Kind">What is advised.</param>
public sealed record Decision(Phase Phase, AdviceKind Kind)
{
    /// <summary>The step; null when there is nothing to do, or nothing without the missing part.</summary>
    public Candidate? Step { get; init; }

    /// <summary>The unit that it is about.</summary>
    public Unit? About { get; init; }

    /// <summary>The part that takes its place.</summary>
    public Unit? StandIn { get; init; }

    /// <summary>The fault that it is about.</summary>
    public Fault? Fault { get; init; }

    /// <summary>The case against the unit, or the chance that something is left, 0 to 1.</summary>
    public double Probability { get; init; }

    /// <summary>Clean starts in a row that are still needed, this one counted; 0 where that is not what is asked.</summary>
    public int More { get; init; }

    /// <summary>Places that held something when it came in and stay empty as it goes out; none where that is not what is asked.</summary>
    public ImmutableArray<Place> Empty { get; init; } = [];

    /// <summary>The part that must be got before the work goes on; null when there is something to do without.</summary>
    public Unit? Missing { get; init; }

    /// <summary>The step that a part which is not here would allow.</summary>
    public Candidate? WithAPart { get; init; }

    /// <summary>What keeps it from being powered.</summary>
    public PowerBlock? Block { get; init; }
}
