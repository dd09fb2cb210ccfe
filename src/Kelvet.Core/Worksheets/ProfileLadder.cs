using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Worksheets;

/// <summary>A rung: the memory so far below its profile.</summary>
/// <param name="StepsDown">0 as received, 1 to 3 by 200 MT/s each, 4 with the profile off.</param>
/// <param name="Speed">Megatransfers per second; null where the sticks' speeds are not recorded.</param>
/// <param name="Passed">Starts that passed on it with the sticks that are fitted now.</param>
/// <param name="Failed">Starts that failed on it with them.</param>
/// <param name="IsNow">Whether the memory runs so now.</param>
/// <param name="Changes">What leads there, or towards it; empty where it is so.</param>
public sealed record LadderRung(int StepsDown, int? Speed, int Passed, int Failed, bool IsNow, ImmutableArray<Change> Changes)
{
    /// <summary>
    /// Whether there is no picture to set it by: the settings are cleared first, which turns the profile off, and it is set
    /// after the start that this allows.
    /// </summary>
    public bool ClearsFirst { get; init; }
}

/// <summary>
/// Memory that is not stable at its profile: whether it holds without it, and then the fastest rung that holds. A fault that
/// is there at some speed is there at every faster one, so that each rung halves what is left.
/// </summary>
/// <param name="Rungs">From the profile down.</param>
/// <param name="Next">The rung to try next; null where the fastest that holds is known, or nothing holds.</param>
/// <param name="Fastest">The fastest rung that held, with all faster ones tried and failed; null while that is open.</param>
public sealed record ProfileLadder(ImmutableArray<LadderRung> Rungs, LadderRung? Next, LadderRung? Fastest)
{
    /// <summary>Clean starts after which a rung is taken to hold. Common practice: one proves little of what is at its edge.</summary>
    public const int StartsOfARung = 3;

    /// <summary>The ladder of a job; null where no stick that is fitted has a profile, or nothing failed yet.</summary>
    public static ProfileLadder? Of(BenchJob job)
    {
        var now = job.Now;
        var profiles = now.Sticks.Any(s => s.Stick.Profile is not null) || Situation.ProfileSteps.Any(now.IsChosen);
        if (now.Board is null || !profiles || !job.Trials.Any(t => t.Failed))
            return null;
        ImmutableArray<LadderRung> rungs = [.. Enumerable.Range(0, Situation.ProfileSteps.Length + 1).Select(steps => Rung(job, steps))];
        // Where rungs come out at one speed, the lower one says nothing more.
        rungs = [.. rungs.Where((r, i) => r.Speed is null || i == 0 || r.Speed != rungs[i - 1].Speed)];
        var failed = rungs.LastOrDefault(r => r.Failed > 0);
        var held = rungs.FirstOrDefault(r => r is { Failed: 0, Passed: >= StartsOfARung });
        if (held is null)
        {
            // First whether it is the profile at all; a rung that was begun is finished.
            var begun = rungs.FirstOrDefault(r => r is { Failed: 0, Passed: > 0 } && r.StepsDown > 0);
            var off = rungs[^1].Failed > 0 ? null : rungs[^1];
            return new ProfileLadder(rungs, begun ?? off, null);
        }

        LadderRung[] between = [.. rungs.Where(r => r.StepsDown < held.StepsDown && (failed is null || r.StepsDown > failed.StepsDown))];
        var half = between.FirstOrDefault(r => r.Passed > 0) ?? (between.Length == 0 ? null : between[between.Length / 2]);
        return new ProfileLadder(rungs, half, half is null ? held : null);
    }

    private static LadderRung Rung(BenchJob job, int steps)
    {
        var now = job.Now;
        var sticks = now.Sticks.Select(s => s.Stick.Id).ToHashSet();
        var trials = job
            .Trials.Where(t =>
                t.Situation.ProfileStepsDown == steps && t.Situation.Sticks.Select(s => s.Stick.Id).ToHashSet().SetEquals(sticks)
            )
            .ToArray();
        var speeds = now.Sticks.Select(s => MemoryRun.SpeedOf(s.Stick, steps)).ToArray();
        var shows = job.Trials is [.., { Seen.ShowsPicture: true }];
        ImmutableArray<Change> changes =
            now.ProfileStepsDown == steps ? []
            : !shows ? [new Change.ClearCmos()]
            : steps == 0 ? Back(now)
            : [new Change.Choose(Situation.ProfileSteps[steps - 1])];
        return new LadderRung(
            steps,
            speeds.All(s => s is not null) ? speeds.Min() : null,
            trials.Count(t => t.Passed),
            trials.Count(t => t.Failed),
            now.ProfileStepsDown == steps,
            changes
        )
        {
            ClearsFirst = !shows && changes.Length > 0 && steps < Situation.ProfileSteps.Length,
        };
    }

    private static ImmutableArray<Change> Back(Situation now) =>
        Situation.ProfileSteps.FirstOrDefault(now.IsChosen, MachineOption.ProfileOn) is var chosen and not MachineOption.ProfileOn
        && now.After(new Change.Undo(chosen)).ProfileStepsDown == 0
            ? [new Change.Undo(chosen)]
            : [new Change.Choose(MachineOption.ProfileOn)];
}
