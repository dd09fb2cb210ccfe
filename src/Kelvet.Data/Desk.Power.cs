using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <content>Power and timers.</content>
public sealed partial class Desk
{
    /// <summary>Supply off, lead out, start held: the drain begins.</summary>
    /// <param name="number">The job.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    public Task<DeskAnswer> TakePowerOffAsync(int number, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "take power off",
            number,
            async job =>
            {
                SetPower(job, Power.Off);
                await SetTimerAsync(job, "drain", (int)rules.Drain.TotalSeconds, cancel);
                await StopAsync(job, "wait", cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    /// <summary>Hands out, nothing loose, cooler on, lead in: power on and started.</summary>
    /// <param name="number">The job.</param>
    /// <param name="pending">What is to be done before the start.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    public Task<DeskAnswer> PutPowerOnAsync(
        int number,
        IReadOnlyList<Change> pending,
        DeskRules rules,
        CancellationToken cancel = default
    ) => PowerAsync("put power on", number, PowerAct.PutOn, pending, rules, cancel);

    /// <summary>Started again as it stands, without hands in it.</summary>
    /// <inheritdoc cref="PutPowerOnAsync"/>
    public Task<DeskAnswer> StartAgainAsync(
        int number,
        IReadOnlyList<Change> pending,
        DeskRules rules,
        CancellationToken cancel = default
    ) => PowerAsync("start again", number, PowerAct.StartAgain, pending, rules, cancel);

    /// <summary>Starts a countdown; one of the same name starts again.</summary>
    /// <param name="number">The job.</param>
    /// <param name="name">What it is for.</param>
    /// <param name="seconds">Length, 1 to 7200.</param>
    /// <param name="cancel">Stops the work.</param>
    public Task<DeskAnswer> StartTimerAsync(int number, string name, int seconds, CancellationToken cancel = default) =>
        RunAsync(
            "start timer",
            number,
            async job =>
            {
                await SetTimerAsync(job, name, seconds, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    /// <summary>Stops a countdown.</summary>
    public Task<DeskAnswer> StopTimerAsync(int number, string name, CancellationToken cancel = default) =>
        RunAsync(
            "stop timer",
            number,
            async job =>
            {
                await StopAsync(job, name, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    private Task<DeskAnswer> PowerAsync(
        string what,
        int number,
        PowerAct act,
        IReadOnlyList<Change> pending,
        DeskRules rules,
        CancellationToken cancel
    ) =>
        RunAsync(
            what,
            number,
            async job =>
            {
                Situation after;
                try
                {
                    after = job.Bench.Now.After(pending);
                }
                catch (ChangeRefusedException e)
                {
                    throw new EntryRefusedException(e.Message, e);
                }

                var power = PowerOf(job, rules.Drain);
                if (PowerGate.WhyNot(job.Bench, act, after, pending.Any(c => c.HandsIn(job.Bench.Now.Parts)), power) is { } refused)
                    return new DeskAnswer(job, refused);
                SetPower(job, PowerGate.After(act, power), again: true);
                await StopAsync(job, "drain", cancel);
                await SetTimerAsync(job, "wait", StartCourse.Of(job.Bench, pending).Wait, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    private void SetPower(StoredJob job, Power power, bool again = false)
    {
        if (job.Row.Power == power && power != Power.Off && !again)
            return;
        job.Row.Power = power;
        job.Row.PowerSinceUtc = Now();
        job.Row.PowerMoment = elapsed.Now();
    }

    private async Task SetTimerAsync(StoredJob job, string name, int seconds, CancellationToken cancel)
    {
        await StopAsync(job, name, cancel);
        if (await db.Timers.CountAsync(t => t.JobId == job.Row.Id, cancel) >= BenchState.MostTimers)
            await db.Timers.Where(t => t.JobId == job.Row.Id).OrderBy(t => t.StartedAtUtc).Take(1).ExecuteDeleteAsync(cancel);
        db.Timers.Add(
            new TimerRow
            {
                JobId = job.Row.Id,
                Name = name,
                Seconds = Math.Clamp(seconds, 1, 7200),
                StartedAtUtc = Now(),
            }
        );
    }

    private Task<int> StopAsync(StoredJob job, string name, CancellationToken cancel) =>
        db.Timers.Where(t => t.JobId == job.Row.Id && t.Name == name).ExecuteDeleteAsync(cancel);
}
