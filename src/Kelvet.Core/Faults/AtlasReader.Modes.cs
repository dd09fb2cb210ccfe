using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Faults;

/// <content>Modes: those that are listed, those of a world, and what stands for what is not listed.</content>
public static partial class AtlasReader
{
    private static FaultMode Mode(DataPart part)
    {
        part.Only(
            "id",
            "on",
            "where",
            "name",
            "odds",
            "bites",
            "stops",
            "stall",
            "cure",
            "harms",
            "now-and-then",
            "shows",
            "unless",
            "starts",
            "when-cold",
            "when-warm",
            "disturbed-by"
        );
        var where = part.Find("where") is { } traits
            ? traits
                .Items()
                .Select(t =>
                    Trait.Known.Contains(t.Text())
                        ? t.Text()
                        : throw t.Wrong($"there is no trait \"{t.Text()}\"; known are {string.Join(", ", Trait.Known)}")
                )
                .ToImmutableArray()
            : [];
        return new FaultMode(
            part.Get("id").Slug(),
            part.Get("on").Choice<FaultSite>(),
            part.Get("name").Text(),
            part.Get("odds").Number(0, 10),
            where,
            [.. part.Get("bites").Items().Select(Bite)],
            Stops(part.Get("stops")),
            Stall(part.Get("stall")),
            part.Get("cure").Choice<Cure>(),
            part.Find("harms") is { } harms ? Numbers(harms, 10) : ImmutableDictionary<string, double>.Empty
        )
        {
            NowAndThen = part.Find("now-and-then")?.Number(0, 1),
            Unless = part.Find("unless") is { } unless ? [.. unless.Items().Select(i => i.Choice<UnitKind>())] : [],
            Starts =
                part.Find("starts")?.EnumMap<StartKind, double>(v => v.Number(0, 1), complete: false)
                ?? ImmutableDictionary<StartKind, double>.Empty,
            DisturbedBy =
                part.Find("disturbed-by")?.EnumMap<UnitKind, double>(v => v.Number(0, 0.9), complete: false)
                ?? ImmutableDictionary<UnitKind, double>.Empty,
            WhenCold = part.Find("when-cold")?.Number(0, 0.9) ?? 0,
            WhenWarm = part.Find("when-warm")?.Number(0, 0.9) ?? 0,
            Shows =
                part.Find("shows")?.EnumMap<Symptom, double>(v => v.Number(0, 0.9), complete: false)
                ?? ImmutableDictionary<Symptom, double>.Empty,
        };
    }

    private static ImmutableArray<double> Stops(DataPart part)
    {
        var stops = part.EnumMap<BootStage, double>(v => v.Number(0, 1), complete: false, dashed: false);
        if (stops.Values.Sum() > 1 + 1e-9)
            throw part.Wrong($"the chances add up to {stops.Values.Sum():0.###}, more than 1");
        return stops.ContainsKey(BootStage.Stable)
            ? throw part.Wrong("a fault cannot stop start-up at Stable, the last stage")
            : [.. BootStages.All.Select(s => stops.GetValueOrDefault(s))];
    }

    /// <summary>A mode with some of its fields as a world has them.</summary>
    /// <param name="mode">As the atlas has it.</param>
    /// <param name="part">The fields that differ, as an atlas has them.</param>
    /// <exception cref="DataFileException">One is wrong; the message names the line.</exception>
    internal static FaultMode Patched(FaultMode mode, DataPart part)
    {
        part.Only("odds", "bites", "stops", "stall", "cure", "now-and-then", "when-cold", "when-warm");
        return mode with
        {
            Odds = part.Find("odds")?.Number(0, 10) ?? mode.Odds,
            Bites = part.Find("bites") is { } bites ? [.. bites.Items().Select(Bite)] : mode.Bites,
            Stops = part.Find("stops") is { } stops ? Stops(stops) : mode.Stops,
            Stall = part.Find("stall") is { } stall ? Stall(stall) : mode.Stall,
            Cure = part.Find("cure")?.Choice<Cure>() ?? mode.Cure,
            NowAndThen = part.Find("now-and-then")?.Number(0, 1) ?? mode.NowAndThen,
            WhenCold = part.Find("when-cold")?.Number(0, 0.9) ?? mode.WhenCold,
            WhenWarm = part.Find("when-warm")?.Number(0, 0.9) ?? mode.WhenWarm,
        };
    }

    /// <summary>For every kind of unit a mode for what no other describes, by what is known to go wrong with it.</summary>
    private static IEnumerable<FaultMode> Unlisted(DataPart part, ImmutableArray<FaultMode> modes)
    {
        part.Only("share", "least", "name", "now-and-then", "stops", "acts-when");
        var share = part.Get("share").Number(0, 1);
        var least = part.Get("least").Number(0, 1);
        var name = part.Get("name").Text();
        var nowAndThen = part.Get("now-and-then").Number(0, 1);
        var stops = part.Get("stops").EnumMap<BootStage, double>(v => v.Number(0, 1), complete: false, dashed: false);
        var stall = Enum.GetValues<StallDomain>();
        var when = part.Get("acts-when").EnumMap<FaultSite, Condition>(ConditionOf, complete: false);
        var fitted = Condition.Named("fitted", negated: false)!;
        return FaultMode.WholeUnits.Select(site => new FaultMode(
            $"{FaultMode.Unlisted}{Dashed.Of(site)}",
            site,
            name,
            Math.Max(least, share * modes.Where(m => m.On == site).Sum(m => m.Odds)),
            [],
            [new BiteRule(when.TryGetValue(site, out var also) ? [fitted, also] : [fitted], 1)],
            [.. BootStages.All.Select(s => stops.GetValueOrDefault(s))],
            [.. stall.Select(_ => 1.0 / stall.Length)],
            Cure.Replace,
            ImmutableDictionary<string, double>.Empty
        )
        {
            NowAndThen = nowAndThen,
            IsUnlisted = true,
        });
    }

    private static BiteRule Bite(DataPart part)
    {
        part.Only("when", "with");
        return new BiteRule([.. part.Get("when").Items().Select(ConditionOf)], part.Get("with").Number(0, 1));
    }

    private static Condition ConditionOf(DataPart part)
    {
        const string not = "not ";
        var negated = part.Text().StartsWith(not, StringComparison.Ordinal);
        var name = negated ? part.Text()[not.Length..].Trim() : part.Text();
        return Condition.Named(name, negated)
            ?? throw part.Wrong($"there is no condition \"{name}\"; known are {string.Join(", ", Condition.Names)}");
    }

    private static ImmutableArray<double> Stall(DataPart part)
    {
        var stall = new double[Enum.GetValues<StallDomain>().Length];
        if (part.IsScalar)
        {
            // One word: mostly that, now and then something else.
            Array.Fill(stall, 0.1 / (stall.Length - 1));
            stall[(int)part.Choice<StallDomain>()] = 0.9;
            return [.. stall];
        }

        foreach (var (domain, chance) in part.EnumMap<StallDomain, double>(v => v.Number(0, 1), complete: false))
            stall[(int)domain] = chance;
        return Math.Abs(stall.Sum() - 1) < 1e-6 ? [.. stall] : throw part.Wrong($"the chances add up to {stall.Sum():0.###}, not 1");
    }
}
