using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Training;

/// <summary>
/// A machine with hidden faults that answers as such a machine would: the same model that reads a log backwards,
/// played forwards. Randomness is handed in, so that the same seed gives the same answers.
/// </summary>
/// <param name="Faults">All faults that the job's units could have, with the world's own numbers.</param>
/// <param name="Hidden">Indices of those that are there.</param>
/// <param name="Atlas">The world's atlas; the reasoner may believe another.</param>
public sealed record World(ImmutableArray<Fault> Faults, ImmutableArray<int> Hidden, Atlas Atlas)
{
    /// <summary>
    /// Chance that a fault acts now. A repair in place either worked or did not, once and for all: the draw is fixed by
    /// the fault and the world, not made anew at each start.
    /// </summary>
    private double Engaged(int fault, Situation situation)
    {
        var engaged = Faults[fault].Engaged(situation);
        if (engaged == 0 || !Faults[fault].DealtWith(situation))
            return engaged;
        return Luck(fault) < engaged ? 1 : 0;
    }

    private double Luck(int fault)
    {
        var mixed = Hidden.Aggregate(2166136261u, (m, f) => (m ^ (uint)f) * 16777619u);
        mixed = (mixed ^ (uint)(fault * 7919)) * 16777619u;
        return (mixed >> 8) / (double)(1 << 24);
    }

    /// <summary>Starts the machine in a situation and says what a technician sees.</summary>
    public (StageRange Seen, StallSignal? Stall) Start(Situation situation, Random random)
    {
        var ceiling = Ceiling.Of(situation);
        var top = ceiling.Stage;
        if (ceiling.Beyond > 0 && random.NextDouble() < ceiling.Beyond)
            top = BootStage.Stable;
        StallDomain? stall = null;
        foreach (var f in Hidden)
        {
            if (random.NextDouble() >= Engaged(f, situation))
                continue;
            var stop = Draw(Faults[f].Mode.Stops, random);
            if (stop < 0 || (BootStage)stop >= top)
                continue;
            top = (BootStage)stop;
            stall = (StallDomain)Math.Max(0, Draw(Faults[f].Mode.Stall, random));
        }

        if (random.NextDouble() < Atlas.Slip)
            top = (BootStage)random.Next(BootStages.Count);
        var tells = situation.Board?.TellsPost == true;
        var seen =
            top >= BootStage.Picture ? StageRange.AtLeast(BootStage.Picture)
            : !tells && top >= BootStage.RunsNoPost ? new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture)
            : StageRange.At(top);
        if (!tells || stall is null || seen.ShowsPicture)
            return (seen, null);
        var shown = random.NextDouble() < 0.85 ? stall.Value : (StallDomain)random.Next(Enum.GetValues<StallDomain>().Length);
        return (seen, StallSignal.At(shown));
    }

    /// <summary>Makes a check and says whether it found something.</summary>
    public bool Look(Check check, UnitId unit, Situation situation, Random random)
    {
        var missed = Hidden.Aggregate(1 - check.Leak, (p, f) => p * (1 - EvidenceColumn.Sensitivity(Faults[f], check, unit, situation)));
        return random.NextDouble() >= missed;
    }

    /// <summary>
    /// Whether a fault keeps a picture away in this situation at least now and then, so that a machine with it is
    /// not repaired.
    /// </summary>
    public bool Matters(int fault, Situation situation) =>
        Engaged(fault, situation) * (1 - Faults[fault].Mode.Reach[(int)BootStage.Picture]) >= 0.08;

    /// <summary>Draws faults for a job until the machine, as received, shows no picture; that is what the customer reports.</summary>
    public static (World World, StageRange Reported) Draw(BenchJob job, Atlas atlas, Random random)
    {
        var faults = Fault.AllOf(atlas, job.Now.Parts, job.Intake.Contexts);
        while (true)
        {
            ImmutableArray<int> hidden = [.. Enumerable.Range(0, faults.Length).Where(f => random.NextDouble() < faults[f].Prior)];
            if (hidden.Length is 0 or > 3)
                continue;
            var world = new World(faults, hidden, atlas);
            if (!hidden.Any(f => world.Matters(f, job.Now)))
                continue;
            var seen = world.Start(job.Now, random).Seen;
            if (!seen.ShowsPicture)
                return (world, seen);
        }
    }

    /// <summary>
    /// The atlas with its odds, bites and stops each multiplied by a random factor between 1 / most and most: a world
    /// whose numbers the reasoner does not know.
    /// </summary>
    public static Atlas Perturbed(Atlas atlas, double most, Random random)
    {
        if (most <= 1)
            return atlas;
        double Factor() => Math.Exp(((2 * random.NextDouble()) - 1) * Math.Log(most));
        return atlas with
        {
            Modes =
            [
                .. atlas.Modes.Select(m =>
                {
                    double[] stops = [.. m.Stops.Select(s => s * Factor())];
                    var through = (1 - m.Stops.Sum()) * Factor();
                    var total = stops.Sum() + Math.Max(0, through);
                    return new FaultMode(
                        m.Id,
                        m.On,
                        m.Name,
                        Math.Min(5, m.Odds * Factor()),
                        m.Where,
                        [.. m.Bites.Select(b => b with { With = b.With >= 0.999 ? 1 : Math.Clamp(b.With * Factor(), 0, 1) })],
                        [.. stops.Select(s => s / total)],
                        m.Stall,
                        m.Cure,
                        m.Harms
                    );
                }),
            ],
        };
    }

    private static int Draw(ImmutableArray<double> chances, Random random)
    {
        var left = random.NextDouble();
        for (var i = 0; i < chances.Length; i++)
        {
            left -= chances[i];
            if (left < 0)
                return i;
        }

        return -1;
    }
}
