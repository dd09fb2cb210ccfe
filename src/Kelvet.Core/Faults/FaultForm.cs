using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Faults;

/// <summary>
/// The way in which a fault behaves, drawn once for it and not anew at every start: where start-up ends while it acts,
/// and how often it acts. The forms of one fault share its odds and exclude each other.
/// </summary>
/// <param name="Fault">Index of the fault among those of the job.</param>
/// <param name="Share">Its share of the fault's odds, 0 to 1; over the forms of a fault they add up to 1.</param>
/// <param name="Reach"><c>Reach[s]</c>: chance of getting at least to stage s while it acts; never rises.</param>
/// <param name="StopsAt">The stage at which it ends every time; null when that wanders from start to start.</param>
/// <param name="Rate">How often it acts, above 0 to 1, where the mode's rule says "fully"; null when it goes by the rule.</param>
public sealed record FaultForm(int Fault, double Share, ImmutableArray<double> Reach, BootStage? StopsAt, double? Rate)
{
    /// <summary>Rates of faults that act now and then, with their weights. Bench judgement.</summary>
    private static readonly (double Rate, double Weight)[] Rates = [(0.15, 0.3), (0.4, 0.4), (0.75, 0.3)];

    /// <summary>A stage that takes less than this share of a fault's stops is left to the wandering form.</summary>
    private const double WorthAForm = 0.03;

    /// <summary>The same for faults that act now and then, of which there are three for every stage.</summary>
    private const double WorthARatedForm = 0.15;

    /// <summary>How often something unlisted ends where it mostly ends.</summary>
    private const double MostlyThere = 0.9;

    /// <summary>From this share on, faults that act now and then are told apart by stage as well.</summary>
    private const double MostlyNowAndThen = 0.4;

    private static readonly ImmutableArray<double> Through = [.. Enumerable.Repeat(1.0, BootStages.Count)];

    /// <summary>What it shows in a machine that comes up all the same; null for a form that ends the start.</summary>
    public Symptom? Shows { get; init; }

    /// <summary>The warmth that it acts at: <see cref="StartKind.Cold"/> or <see cref="StartKind.Warm"/>; null for any.</summary>
    public StartKind? OnlyWhen { get; init; }

    /// <summary>Chance that what acts cold (or warm) only does so when it is, and when it is not. Bench judgement.</summary>
    private const double InItsWarmth = 0.9;
    private const double OutOfIt = 0.05;

    /// <summary>The same where nobody noted how warm the machine was.</summary>
    private const double WarmthUnknown = 0.45;

    /// <summary>Chance, 0 to 1, that it acts where the mode's rule gives a chance.</summary>
    /// <param name="byRule">What the rule gives.</param>
    /// <param name="most">The most that any rule of the mode gives.</param>
    /// <param name="kind">The kind of start; null where it was not noted.</param>
    public double Engaged(double byRule, double most, StartKind? kind = null)
    {
        if (OnlyWhen is { } warmth)
        {
            var acts =
                kind is null ? WarmthUnknown
                : (kind == StartKind.Cold) == (warmth == StartKind.Cold) ? InItsWarmth
                : OutOfIt;
            return most > 0 ? acts * byRule / most : 0;
        }

        return Rate is { } rate && most > 0 ? rate * byRule / most : byRule;
    }

    /// <summary>The one form of a fault that no start has touched: as the mode has it on the whole.</summary>
    public static FaultForm Whole(Fault fault, int index) => new(index, 1, fault.Mode.Reach, null, null);

    /// <summary>The forms of a fault.</summary>
    /// <param name="fault">The fault.</param>
    /// <param name="index">Its index.</param>
    /// <param name="behaviour">How faults in general behave.</param>
    /// <param name="noted">Symptoms that were looked for at any start; what is not noted is not told apart.</param>
    public static IEnumerable<FaultForm> Of(Fault fault, int index, Behaviour behaviour, IReadOnlySet<Symptom>? noted = null)
    {
        var mode = fault.Mode;
        var nowAndThen = mode.NowAndThen ?? behaviour.NowAndThen;
        var stops = mode.Stops.Sum();
        // Of what nobody knows it is not known either where it ends: mostly at one stage, whichever.
        var firm = mode.IsUnlisted ? MostlyThere : 1;
        var shows = mode.Shows.Where(s => noted?.Contains(s.Key) == true).OrderBy(s => s.Key).ToArray();
        var showing = shows.Sum(s => s.Value);
        foreach (var (symptom, share) in shows)
            yield return new FaultForm(index, share, Through, null, null) { Shows = symptom };
        var warmth = mode.WhenCold + mode.WhenWarm;
        foreach (var (only, share) in new[] { (StartKind.Cold, mode.WhenCold), (StartKind.Warm, mode.WhenWarm) })
        {
            if (share > 0)
                yield return new FaultForm(index, share * (1 - showing), mode.Reach, null, null) { OnlyWhen = only };
        }

        showing = 1 - ((1 - showing) * (1 - warmth));
        foreach (var form in AtStages((1 - nowAndThen) * (1 - showing), null, WorthAForm))
            yield return form;
        foreach (var (rate, weight) in nowAndThen > 0 ? Rates : [])
        {
            var least = nowAndThen >= MostlyNowAndThen || mode.IsUnlisted ? WorthARatedForm : 2;
            foreach (var form in AtStages(nowAndThen * weight * (1 - showing), rate, least))
                yield return form;
        }

        IEnumerable<FaultForm> AtStages(double share, double? rate, double least)
        {
            if (share <= 0)
                yield break;
            var left = share;
            for (var s = 0; s < mode.Stops.Length && stops > 0; s++)
            {
                var ofStops = mode.Stops[s] / stops;
                if (ofStops < least || ofStops > 1 - 1e-9)
                    continue;
                var own = share * behaviour.SameEachTime * ofStops;
                left -= own;
                yield return new FaultForm(index, own, UpTo(s, firm), firm < 1 ? null : (BootStage)s, rate);
            }

            yield return new FaultForm(index, left, mode.Reach, null, rate);
        }

        ImmutableArray<double> UpTo(int stage, double firm) =>
            [.. Enumerable.Range(0, BootStages.Count).Select(s => (firm * (s <= stage ? 1 : 0)) + ((1 - firm) * mode.Reach[s]))];
    }
}

/// <summary>How faults in general behave; a mode may say otherwise of itself. Bench judgement.</summary>
/// <param name="SameEachTime">Share, 0 to 1, of faults with several ends that take the same one at every start.</param>
/// <param name="NowAndThen">Share, 0 to 1, of faults that act in some starts only, at a rate of their own.</param>
public sealed record Behaviour(double SameEachTime, double NowAndThen)
{
    /// <summary>Faults that draw anew at every start and act by the rule: for machines whose numbers are all given.</summary>
    public static Behaviour Memoryless { get; } = new(0, 0);
}
