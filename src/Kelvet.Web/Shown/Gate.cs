using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Data;

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
    /// <summary>Say how far it got.</summary>
    RecordStart,
}

/// <summary>The gate between hands in the machine and power on it.</summary>
public sealed record Gate(GateStep Step, Power Power, DateTime? SafeAtUtc, string? WhyBlocked, bool IsSafe)
{
    /// <param name="job">The job.</param>
    /// <param name="pending">What is to be done before the next start.</param>
    /// <param name="look">The look, test or reading that is being taken; null when none is.</param>
    /// <param name="drainSeconds">How long it is drained.</param>
    /// <param name="nowUtc">The time.</param>
    public static Gate Of(StoredJob job, PendingChanges pending, Check? look, int drainSeconds, DateTime nowUtc)
    {
        var power = job.Row.Power;
        DateTime? safeAt = power == Power.Off && job.Row.PowerSinceUtc is { } since ? DateTime.SpecifyKind(since, DateTimeKind.Utc).AddSeconds(drainSeconds) : null;
        var safe = safeAt <= nowUtc;
        var handsIn = pending.Changes.Any(Candidates.HandsIn);
        var blocked = PowerOn.WhyNot(job.Bench, pending.After);
        var step = power switch
        {
            Power.Off when !safe => GateStep.WaitForDrain,
            not Power.Off when look is { HandsIn: true } => GateStep.TakePowerOff,
            Power.NotRecorded or Power.On when handsIn => GateStep.TakePowerOff,
            _ when blocked is not null => GateStep.Blocked,
            Power.Off or Power.NotRecorded => GateStep.PutPowerOn,
            _ => GateStep.RecordStart,
        };
        return new Gate(step, power, safeAt, blocked, safe);
    }

    /// <summary>Whether the machine may be touched inside, in words that are always on the screen.</summary>
    public string Words => (Power, IsSafe) switch
    {
        (Power.Off, true) => "Off and drained: safe to touch",
        (Power.Off, false) => "Draining: hands off",
        (Power.NotRecorded, _) => "Power not recorded: treat as live",
        _ => "Live: hands out",
    };
}
