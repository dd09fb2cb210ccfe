using System.Collections.Immutable;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Faults;

/// <summary>A closed job whose faults were proved, as far as base rates can be learnt from it.</summary>
/// <param name="Parts">The job's units; the customer's count.</param>
/// <param name="Contexts">What was known at intake.</param>
/// <param name="Modes">The mode of each fault that was proved; empty when none was.</param>
public sealed record ProvedJob(Parts Parts, ImmutableArray<string> Contexts, ImmutableArray<string> Modes);

/// <summary>What a shop's jobs say about one mode.</summary>
/// <param name="Mode">The mode as the atlas ships it.</param>
/// <param name="Cases">Times that it was proved.</param>
/// <param name="Exposure">Times that it could have been there; a context that makes it twice as likely counts twice.</param>
/// <param name="Odds">Odds with that worked in.</param>
public sealed record LearntOdds(FaultMode Mode, int Cases, double Exposure, double Odds)
{
    /// <summary>How far the odds have moved: 1 when not at all.</summary>
    public double Factor => Odds / Mode.Odds;
}

/// <summary>
/// Base rates learnt from closed, proved jobs. Each mode's prior probability is a Beta distribution whose mean is the
/// atlas's figure; cases and exposures are added to it. The atlas counts as at least <see cref="LeastCases"/> cases and
/// as <see cref="AtlasJobs"/> exposures, so that one strange job moves no odds by more than a quarter.
/// </summary>
public static class Experience
{
    /// <summary>Exposures that the atlas's figure is worth. Bench judgement: about a quarter's work of a small shop.</summary>
    public const double AtlasJobs = 60;

    /// <summary>Cases that the atlas's figure is worth at least, however rare the mode.</summary>
    public const double LeastCases = 4;

    /// <summary>A context's weight on an exposure is held to this, so that a near-certain case counts as one or a few.</summary>
    private const double MostWeight = 5;

    /// <summary>The modes that a log proves for units that were found at fault: those condemned, by their likeliest fault.</summary>
    public static ImmutableArray<string> Proved(BenchDiagnosis diagnosis, IEnumerable<UnitId> found)
    {
        var named = found.ToHashSet();
        return [.. diagnosis.Suspects.Where(s => s.Standing == Standing.Condemned && named.Contains(s.Unit.Id)).Select(s => s.Leading.Fault.Mode.Id)];
    }

    /// <summary>The odds of every mode with the jobs worked in, in the atlas's order.</summary>
    public static ImmutableArray<LearntOdds> Of(Atlas atlas, IEnumerable<ProvedJob> jobs)
    {
        var cases = new Dictionary<string, int>(StringComparer.Ordinal);
        var exposure = new Dictionary<string, double>(StringComparer.Ordinal);
        foreach (var job in jobs)
        {
            foreach (var mode in job.Modes) cases[mode] = cases.GetValueOrDefault(mode) + 1;
            foreach (var fault in Fault.AllOf(atlas, job.Parts, job.Contexts).Where(f => f.Unit.Origin == Origin.Customer))
            {
                var usual = fault.Mode.Odds * atlas.Origins[Origin.Customer];
                exposure[fault.Mode.Id] = exposure.GetValueOrDefault(fault.Mode.Id) + Math.Min(MostWeight, fault.Odds / usual);
            }
        }

        return [.. atlas.Modes.Select(m => Learnt(m, cases.GetValueOrDefault(m.Id), exposure.GetValueOrDefault(m.Id)))];
    }

    /// <summary>The Beta distribution's two counts that an atlas figure is worth.</summary>
    /// <param name="odds">Prior odds, above 0.</param>
    public static (double Cases, double Others) Worth(double odds)
    {
        var p = odds / (1 + odds);
        var worth = Math.Max(LeastCases, AtlasJobs * p);
        return (worth, worth * (1 - p) / p);
    }

    private static LearntOdds Learnt(FaultMode mode, int cases, double exposure)
    {
        var (a, b) = Worth(mode.Odds);
        return new LearntOdds(mode, cases, exposure, (a + cases) / (b + Math.Max(0, exposure - cases)));
    }

    /// <summary>The atlas with learnt odds in the place of its own.</summary>
    public static Atlas ApplyTo(Atlas atlas, ImmutableArray<LearntOdds> learnt)
    {
        var odds = learnt.ToDictionary(l => l.Mode.Id, l => l.Odds, StringComparer.Ordinal);
        return atlas with { Modes = [.. atlas.Modes.Select(m => m with { Odds = odds.GetValueOrDefault(m.Id, m.Odds) })] };
    }
}
