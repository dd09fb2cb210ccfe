using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Learning;

/// <summary>A closed job whose faults were proved, as far as base rates can be learnt from it.</summary>
/// <param name="Parts">The job's units; the customer's count.</param>
/// <param name="Contexts">What was known at intake.</param>
/// <param name="Modes">The mode of each fault that was proved; empty when none was.</param>
public sealed record ProvedJob(Parts Parts, ImmutableArray<string> Contexts, ImmutableArray<string> Modes);

/// <summary>How often a mode was proved and how often it could have been there.</summary>
/// <param name="Cases">Times that it was proved.</param>
/// <param name="Exposure">Times that it could have been there; a context that makes it twice as likely counts twice.</param>
public readonly record struct Tally(int Cases, double Exposure)
{
    /// <summary>Both added up.</summary>
    public static Tally operator +(Tally a, Tally b) => new(a.Cases + b.Cases, a.Exposure + b.Exposure);

    /// <summary>One taken off the other, not below nothing.</summary>
    public static Tally operator -(Tally a, Tally b) => new(Math.Max(0, a.Cases - b.Cases), Math.Max(0, a.Exposure - b.Exposure));

    /// <summary>Both added up.</summary>
    public static Tally Add(Tally left, Tally right) => left + right;

    /// <summary>One taken off the other, not below nothing.</summary>
    public static Tally Subtract(Tally left, Tally right) => left - right;
}

/// <summary>What a shop's jobs say about one mode.</summary>
/// <param name="Mode">The mode as the atlas ships it.</param>
/// <param name="Tally">What was counted.</param>
/// <param name="Odds">Odds with that worked in.</param>
public sealed record LearntOdds(FaultMode Mode, Tally Tally, double Odds)
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

    /// <summary>The modes that a log proves for units that were found at fault: those condemned, put right, or proved on one side
    /// where that was accepted, by their likeliest fault. Without the last, parts that are dear to put back would be learnt too
    /// seldom.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="found">The units that were found at fault.</param>
    /// <param name="accepted">The units of which one side of the proof was accepted.</param>
    public static ImmutableArray<string> Proved(
        BenchDiagnosis diagnosis,
        IEnumerable<UnitId> found,
        IReadOnlyCollection<UnitId>? accepted = null
    )
    {
        var named = found.ToHashSet();
        return [.. diagnosis.Suspects.Where(s => named.Contains(s.Unit.Id) && IsProved(s)).Select(s => s.Leading.Fault.Mode.Id)];

        bool IsProved(Suspect s) =>
            s.Standing is Standing.Condemned or Standing.PutRight
            || (s.Standing == Standing.ProofOneWay && accepted?.Contains(s.Unit.Id) == true);
    }

    /// <summary>The units found at fault that only another part helped: what was put right is no failure of its model.</summary>
    public static ImmutableArray<UnitId> Broken(BenchDiagnosis diagnosis, IEnumerable<UnitId> found)
    {
        var named = found.ToHashSet();
        return [.. diagnosis.Suspects.Where(s => named.Contains(s.Unit.Id) && s.Standing != Standing.PutRight).Select(s => s.Unit.Id)];
    }

    /// <summary>What one job adds to the counts, by mode: its cases, and for every mode that its parts could have had, an
    /// exposure.</summary>
    public static ImmutableDictionary<string, Tally> Contribution(Atlas atlas, ProvedJob job)
    {
        var counts = new Dictionary<string, Tally>(StringComparer.Ordinal);
        foreach (var mode in job.Modes)
            counts[mode] = counts.GetValueOrDefault(mode) + new Tally(1, 0);
        foreach (var fault in Fault.AllOf(atlas, job.Parts, job.Contexts).Where(f => f.Unit.Origin == Origin.Customer))
        {
            var usual = fault.Mode.Odds * atlas.Origins[Origin.Customer];
            counts[fault.Mode.Id] = counts.GetValueOrDefault(fault.Mode.Id) + new Tally(0, Math.Min(MostWeight, fault.Odds / usual));
        }

        return counts.ToImmutableDictionary(StringComparer.Ordinal);
    }

    /// <summary>The odds of every mode with the jobs worked in, in the atlas's order.</summary>
    public static ImmutableArray<LearntOdds> Of(Atlas atlas, IEnumerable<ProvedJob> jobs)
    {
        var counts = new Dictionary<string, Tally>(StringComparer.Ordinal);
        foreach (var (mode, tally) in jobs.SelectMany(j => Contribution(atlas, j)))
            counts[mode] = counts.GetValueOrDefault(mode) + tally;
        return Of(atlas, counts);
    }

    /// <summary>The odds of every mode with what was counted worked in, in the atlas's order.</summary>
    public static ImmutableArray<LearntOdds> Of(Atlas atlas, IReadOnlyDictionary<string, Tally> counts) =>
        [.. atlas.Modes.Select(m => Learnt(m, counts.GetValueOrDefault(m.Id)))];

    /// <summary>The Beta distribution's two counts that an atlas figure is worth.</summary>
    /// <param name="odds">Prior odds, above 0.</param>
    public static (double Cases, double Others) Worth(double odds)
    {
        var p = odds / (1 + odds);
        var worth = Math.Max(LeastCases, AtlasJobs * p);
        return (worth, worth * (1 - p) / p);
    }

    private static LearntOdds Learnt(FaultMode mode, Tally tally)
    {
        var (a, b) = Worth(mode.Odds);
        return new LearntOdds(mode, tally, (a + tally.Cases) / (b + Math.Max(0, tally.Exposure - tally.Cases)));
    }

    /// <summary>The atlas with learnt odds in the place of its own.</summary>
    /// <param name="atlas">The atlas.</param>
    /// <param name="odds">
    /// Odds by the id of a mode; modes that are not in it keep the atlas's. Beside them factors by model, under its written form.
    /// </param>
    public static Atlas ApplyTo(Atlas atlas, IReadOnlyDictionary<string, double> odds) =>
        atlas with
        {
            Modes = [.. atlas.Modes.Select(m => m with { Odds = odds.GetValueOrDefault(m.Id, m.Odds) })],
            Models = odds.Select(o => (Model: UnitModel.Read(o.Key), o.Value))
                .Where(o => o.Model is not null)
                .ToImmutableDictionary(o => o.Model!.Value, o => o.Value),
        };
}
