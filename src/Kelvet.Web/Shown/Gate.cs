using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using PowerState = Kelvet.Core.Jobs.Power;

namespace Kelvet.Web.Shown;

/// <summary>What the bench asks for next on the way from one start to the other.</summary>
public enum GateStep
{
    /// <summary>Nobody may power it as it stands.</summary>
    Blocked,

    /// <summary>Hands go in: supply off, lead out, hold start.</summary>
    TakePowerOff,

    /// <summary>Draining; hands off.</summary>
    WaitForDrain,

    /// <summary>Hands may be in; when they are out: nothing loose, cooler on, lead in.</summary>
    PutPowerOn,

    /// <summary>How the last start went is recorded: say that it was started again.</summary>
    StartAgain,

    /// <summary>Say how far it got.</summary>
    RecordStart,
}

/// <summary>The gate between hands in the machine and power on it, as the bench shows it. The rule itself is <see
/// cref="PowerGate"/>.</summary>
/// <param name="Step">What is asked for.</param>
/// <param name="Power">Supply and lead.</param>
/// <param name="SafeAtUtc">When the drain ends; null when it does not drain.</param>
/// <param name="WhyBlocked">Why nobody may power it; null when it may be.</param>
public sealed record Gate(GateStep Step, BenchPower Power, DateTime? SafeAtUtc, string? WhyBlocked)
{
    /// <param name="job">The job.</param>
    /// <param name="pending">What is to be done before the next start.</param>
    /// <param name="look">Whether a look is being taken for which hands go in.</param>
    /// <param name="power">Supply and lead.</param>
    /// <param name="nowUtc">The time.</param>
    public static Gate Of(BenchJob job, PendingChanges pending, bool look, BenchPower power, DateTime nowUtc)
    {
        var blocked = Safety.WhyNotPowered(job, pending.After)?.Words();
        var handsIn = pending.Changes.Any(c => c.HandsIn(job.Now.Parts));
        var step = power.State switch
        {
            _ when power.Left is not null => GateStep.WaitForDrain,
            not PowerState.Off when look => GateStep.TakePowerOff,
            PowerState.NotRecorded or PowerState.On or PowerState.StartedAgain when handsIn => GateStep.TakePowerOff,
            _ when blocked is not null => GateStep.Blocked,
            PowerState.Off or PowerState.NotRecorded => GateStep.PutPowerOn,
            PowerState.On => GateStep.StartAgain,
            _ => GateStep.RecordStart,
        };
        return new Gate(step, power, power.Left is { } left ? nowUtc + left : null, blocked) { HandsGoIn = handsIn || look };
    }

    /// <summary>Whether hands may be in the machine.</summary>
    public bool IsSafe => Power.IsSafe;

    /// <summary>The state of the machine in a word or two, that is read from two metres.</summary>
    public string Word =>
        (Power.State, IsSafe) switch
        {
            (PowerState.Off, true) => Step == GateStep.PutPowerOn && !HandsGoIn ? "Ready to start" : "Safe",
            (PowerState.Off, false) => "Draining",
            (PowerState.NotRecorded, _) => "Treat as live",
            _ => "Live",
        };

    /// <summary>The state as its look: safe, drain or live.</summary>
    public string Kind =>
        Power.State != PowerState.Off ? "live"
        : IsSafe ? "safe"
        : "drain";

    /// <summary>What that means for hands.</summary>
    public string Hint =>
        (Power.State, IsSafe) switch
        {
            (PowerState.Off, true) => Step == GateStep.PutPowerOn && !HandsGoIn ? "off, drained, safe to touch" : "safe to touch",
            (PowerState.Off, false) => "hands off",
            (PowerState.NotRecorded, _) => "power not recorded",
            _ => "hands out",
        };

    /// <summary>Whether hands are to go in before the next start.</summary>
    public bool HandsGoIn { get; init; }
}
