using Kelvet.Core.Faults;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>Supply and lead, by what was recorded last.</summary>
public enum Power
{
    /// <summary>Nobody has said: treat it as live.</summary>
    NotRecorded,

    /// <summary>Supply off, lead out; safe to touch once it is drained.</summary>
    Off,

    /// <summary>Back on after it was off and drained, and how that start went is not recorded yet.</summary>
    OnAgain,

    /// <summary>On, and how its start went is recorded.</summary>
    On,

    /// <summary>Started again without having been off and drained; how that start went is not recorded yet.</summary>
    StartedAgain,
}

/// <summary>The power of a machine and how long it has been so.</summary>
/// <param name="State">What was recorded last.</param>
/// <param name="Since">Time that has passed since, as a clock that nobody sets counts it; 0 or more.</param>
/// <param name="Drain">How long this shop drains a machine.</param>
public sealed record BenchPower(Power State, TimeSpan Since, TimeSpan Drain)
{
    /// <summary>Whether hands may be in the machine.</summary>
    public bool IsSafe => State == Power.Off && Since >= Drain;

    /// <summary>How much longer it drains; null when it does not.</summary>
    public TimeSpan? Left => State == Power.Off && Since < Drain ? Drain - Since : null;

    /// <summary>Whether a start is waiting to be told how it went.</summary>
    public bool IsStarted => State is Power.OnAgain or Power.StartedAgain;
}

/// <summary>What is done about supply and lead.</summary>
public enum PowerAct
{
    /// <summary>Supply off, lead out, start held.</summary>
    TakeOff,

    /// <summary>Hands out, nothing loose, cooler on, lead in, supply on, started.</summary>
    PutOn,

    /// <summary>Started again as it stands: reset, or off and on at the button.</summary>
    StartAgain,
}

/// <summary>Why an act or a line does not pass the gate between hands in the machine and power on it.</summary>
public enum GateRefusal
{
    /// <summary>Nobody may power the machine so; see <see cref="PowerBlock"/>.</summary>
    Blocked,

    /// <summary>Hands go in: take the power off and drain first.</summary>
    TakePowerOffFirst,

    /// <summary>It is still draining.</summary>
    StillDraining,

    /// <summary>How this start went is recorded already: start it again first.</summary>
    AlreadyRecorded,

    /// <summary>Supply off or lead out: put the power on first.</summary>
    PowerIsOff,

    /// <summary>Whether it is on at all is not recorded: put the power on first.</summary>
    PowerNotRecorded,

    /// <summary>It is off; "start again" is for a machine that is on.</summary>
    NothingToStartAgain,
}

/// <summary>A refusal of the gate.</summary>
/// <param name="Why">Why.</param>
/// <param name="Block">What keeps the machine from being powered; null where that is not why.</param>
public sealed record GateAnswer(GateRefusal Why, PowerBlock? Block = null)
{
    /// <summary>
    /// Whether it can still be recorded as having been done live, with a reason: hands were in, or it was started, past the
    /// gate, and a log that hides it would be worse.
    /// </summary>
    public bool MayHaveHappened => Block is null;
}

/// <summary>
/// The rule between hands in the machine and power on it. Every line and every act passes here, from whatever page or
/// request it comes.
/// </summary>
public static class PowerGate
{
    /// <summary>Why a line may not be recorded as the power stands; null when it may.</summary>
    /// <param name="job">The log before it.</param>
    /// <param name="entry">The line. With a reason in <see cref="Entry.Live"/> it passes, but for what nobody may power.</param>
    /// <param name="handsIn">Whether hands go in for a look, as its check has it; a start and work say so themselves.</param>
    /// <param name="power">Supply and lead.</param>
    public static GateAnswer? WhyNot(BenchJob job, Entry entry, bool handsIn, BenchPower power)
    {
        if (Safety.WhyNotRecorded(job, entry) is { } block)
            return new GateAnswer(GateRefusal.Blocked, block);
        if (entry.Live.Trim().Length > 0)
            return null;
        return entry.Row.Gate switch
        {
            LineGate.Start => WhyNoStart(entry.Done.Any(c => c.HandsIn(job.Now.Parts)), power),
            LineGate.Work => entry.Done.Any(c => c.HandsIn(job.Now.Parts)) ? WhyNoHands(power) : null,
            LineGate.Look => handsIn && job.Now.Now.Has(((FindingEntry)entry).Unit) ? WhyNoHands(power) : null,
            LineGate.Words or LineGate.Mends => null,
            _ => throw new InvalidOperationException($"A line of gate {entry.Row.Gate} has no rule."),
        };
    }

    /// <summary>Whether hands go into the machine for a look: not for a part that lies beside it.</summary>
    /// <param name="check">The look.</param>
    /// <param name="unit">What is looked at.</param>
    /// <param name="now">The machine as it stands.</param>
    public static bool HandsIn(Check check, UnitId unit, Situation now) => check.HandsIn && now.Now.Has(unit);

    /// <summary>Why an act may not be done as the machine stands; null when it may.</summary>
    /// <param name="job">The log so far.</param>
    /// <param name="act">The act.</param>
    /// <param name="pending">The machine with what is to be done before its next start.</param>
    /// <param name="handsIn">Whether hands go in for that.</param>
    /// <param name="power">Supply and lead.</param>
    public static GateAnswer? WhyNot(BenchJob job, PowerAct act, Situation pending, bool handsIn, BenchPower power)
    {
        if (act == PowerAct.TakeOff)
            return null;
        if (Safety.WhyNotPowered(job, pending) is { } block)
            return new GateAnswer(GateRefusal.Blocked, block);
        if (power.Left is not null)
            return new GateAnswer(GateRefusal.StillDraining);
        if (handsIn && !power.IsSafe)
            return new GateAnswer(GateRefusal.TakePowerOffFirst);
        return act == PowerAct.StartAgain && power.State is Power.Off or Power.NotRecorded
            ? new GateAnswer(GateRefusal.NothingToStartAgain)
            : null;
    }

    /// <summary>The power after an act.</summary>
    public static Power After(PowerAct act, BenchPower power) =>
        act switch
        {
            PowerAct.TakeOff => Power.Off,
            PowerAct.PutOn => power.IsSafe ? Power.OnAgain : Power.StartedAgain,
            _ => power.State == Power.OnAgain ? Power.OnAgain : Power.StartedAgain,
        };

    /// <summary>The power after a line; unchanged where the line says nothing of it.</summary>
    public static Power After(Entry entry, Power power) => entry.Row.Gate == LineGate.Start ? Power.On : power;

    /// <summary>The power once the last line, a start, is taken back: that start waits to be told again.</summary>
    /// <param name="start">The start.</param>
    /// <param name="power">The power as it stands.</param>
    /// <param name="parts">The parts of the job.</param>
    public static Power WhenTakenBack(TrialEntry start, Power power, Parts parts) =>
        power != Power.On ? power
        : start.Changes.Any(c => c.HandsIn(parts)) ? Power.OnAgain
        : Power.StartedAgain;

    private static GateAnswer? WhyNoStart(bool handsIn, BenchPower power) =>
        power.State switch
        {
            Power.OnAgain => null,
            Power.StartedAgain => handsIn ? new GateAnswer(GateRefusal.TakePowerOffFirst) : null,
            Power.On => new GateAnswer(handsIn ? GateRefusal.TakePowerOffFirst : GateRefusal.AlreadyRecorded),
            Power.Off => new GateAnswer(power.Left is null ? GateRefusal.PowerIsOff : GateRefusal.StillDraining),
            _ => new GateAnswer(handsIn ? GateRefusal.TakePowerOffFirst : GateRefusal.PowerNotRecorded),
        };

    private static GateAnswer? WhyNoHands(BenchPower power) =>
        power.IsSafe ? null : new GateAnswer(power.Left is null ? GateRefusal.TakePowerOffFirst : GateRefusal.StillDraining);
}
