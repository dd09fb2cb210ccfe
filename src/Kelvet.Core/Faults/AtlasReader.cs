using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Faults;

/// <summary>Reads and checks an atlas file. Every complaint names the line.</summary>
public static class AtlasReader
{
    /// <param name="yaml">The text of the file.</param>
    /// <param name="file">Its name, for messages.</param>
    /// <exception cref="DataFileException">The file is not a valid atlas.</exception>
    public static Atlas Read(string yaml, string file)
    {
        var root = YamlPart.Root(yaml, file);
        root.Only(
            "version",
            "slip",
            "reported-slip",
            "behaviour",
            "numbers",
            "unlisted",
            "origins",
            "groups",
            "contexts",
            "modes",
            "checks",
            "signs",
            "practice",
            "work"
        );
        var modes = root.Get("modes").Items().Select(Mode).ToImmutableArray();
        Distinct(root.Get("modes"), modes.Select(m => m.Id), "mode");
        if (root.Find("unlisted") is { } unlisted)
            modes = [.. modes, .. Unlisted(unlisted, modes)];
        var groups =
            root.Find("groups")?.Fields().ToImmutableDictionary(g => g.Key, g => Group(g.Key, g.Value, modes), StringComparer.Ordinal)
            ?? ImmutableDictionary<string, ImmutableDictionary<string, double>>.Empty;
        var contexts = root.Get("contexts").Items().Select(c => Context(c, modes, groups)).ToImmutableArray();
        Distinct(root.Get("contexts"), contexts.Select(c => c.Id), "context");
        var checks = root.Get("checks").Items().Select(c => CheckOf(c, modes)).ToImmutableArray();
        Distinct(root.Get("checks"), checks.Select(c => c.Id), "check");
        if (root.Get("practice").Items().LastOrDefault() is not { } last || PracticeOf(last) is not { Act: null, On: null })
            throw root.Get("practice").Wrong("the last entry must be for any act on any unit");
        foreach (var (mode, part) in modes.Zip(root.Get("modes").Items()))
            HarmsAreModes(mode, part, modes);
        var atlas = new Atlas(
            root.Get("version").Text(),
            root.Get("slip").Number(0.0001, 0.5),
            root.Get("reported-slip").Number(0, 1),
            root.Get("origins").EnumMap<Origin, double>(v => v.Number(0, 10), complete: true),
            contexts,
            modes,
            checks,
            [.. root.Get("practice").Items().Select(PracticeOf)],
            Work(root.Get("work"))
        )
        {
            Behaviour = root.Find("behaviour") is { } behaviour ? BehaviourOf(behaviour) : Behaviour.Memoryless,
            Signs =
                root.Find("signs")?.Items().Select(s => SignOf(s, modes)).ToImmutableDictionary(s => s.Id)
                ?? ImmutableDictionary<string, SignMeaning>.Empty,
            Numbers = root.Find("numbers") is { } numbers ? NumbersOf(numbers) : [],
        };
        SafetyIds.Bind(atlas, file);
        return atlas;
    }

    private static Behaviour BehaviourOf(DataPart part)
    {
        part.Only("same-each-time", "now-and-then");
        return new Behaviour(part.Get("same-each-time").Number(0, 1), part.Get("now-and-then").Number(0, 1));
    }

    /// <summary>Chance of 0 to 3 faults, as given for 1 to 3 among machines with a fault, and for none.</summary>
    private static ImmutableArray<double> NumbersOf(DataPart part)
    {
        double[] numbers = [.. part.Items().Select(i => i.Number(0, 1))];
        if (numbers.Length != 4)
            throw part.Wrong("expected four chances: of no fault, one, two and three");
        return Math.Abs(numbers.Sum() - 1) < 1e-6 ? [.. numbers] : throw part.Wrong($"the chances add up to {numbers.Sum():0.###}, not 1");
    }

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
        return mode.Otherwise(
            part.Find("odds")?.Number(0, 10),
            part.Find("bites") is { } bites ? [.. bites.Items().Select(Bite)] : null,
            part.Find("stops") is { } stops ? Stops(stops) : null,
            part.Find("stall") is { } stall ? Stall(stall) : null,
            part.Find("cure")?.Choice<Cure>()
        ) with
        {
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

    private static ImmutableDictionary<string, double> Numbers(DataPart part, double most) =>
        part.Fields().ToImmutableDictionary(f => f.Key, f => f.Value.Number(0, most), StringComparer.Ordinal);

    private static void HarmsAreModes(FaultMode mode, DataPart part, ImmutableArray<FaultMode> modes)
    {
        foreach (var victim in mode.Harms.Keys)
        {
            if (modes.All(m => m.Id != victim))
                throw part.Get("harms").Wrong($"there is no mode \"{victim}\"");
        }
    }

    private static Practice PracticeOf(DataPart part)
    {
        part.Only("act", "on", "tools", "caution");
        return new Practice(
            part.Get("act").Text() == "any" ? null : part.Get("act").Choice<ActKind>(),
            part.Get("on").Text() == "any" ? null : part.Get("on").Choice<UnitKind>(),
            part.Get("tools").Text(),
            part.TextOr("caution", "", 300)
        );
    }

    private static Check CheckOf(DataPart part, ImmutableArray<FaultMode> modes)
    {
        part.Only(
            "id",
            "name",
            "say",
            "first",
            "visit",
            "on",
            "found",
            "findings",
            "powered",
            "minutes",
            "leak",
            "shows",
            "caution",
            "needs",
            "only-with",
            "speaks-for-all"
        );
        FindingSort[] findings = part.Find("findings") is { } sorts ? [.. sorts.Items().Select(s => FindingOf(s, modes))] : [];
        var shows = findings.Length > 0 ? Together(findings) : Shown(part.Get("shows"), modes);

        return new Check(
            part.Get("id").Slug(),
            part.Get("name").Text(),
            part.Get("on").Choice<UnitKind>(),
            part.Get("found").Text(),
            part.FlagOr("powered", false),
            new Minutes(part.Get("minutes").Number(0, 600)),
            part.Get("leak").Number(0, 1),
            shows,
            part.TextOr("caution", "", 300),
            part.Find("needs")?.Choice<BootStage>(dashed: false) ?? BootStage.NoStandby
        )
        {
            Say = part.Get("say").Text(60),
            InVisit = part.FlagOr("visit", false),
            IsFirst = part.FlagOr("first", false),
            OnlyWith = part.Find("only-with")?.Slug(),
            Findings = [.. findings],
            SpeaksForAll = part.FlagOr("speaks-for-all", false),
        };
    }

    private static FindingSort FindingOf(DataPart part, ImmutableArray<FaultMode> modes)
    {
        part.Only("id", "name", "shows");
        return new FindingSort(part.Get("id").Slug(), part.Get("name").Text(), Shown(part.Get("shows"), modes));
    }

    /// <summary>What any of the findings would show: the chance that at least one does.</summary>
    private static ImmutableDictionary<string, double> Together(IEnumerable<FindingSort> findings) =>
        findings
            .SelectMany(f => f.Shows)
            .GroupBy(s => s.Key)
            .ToImmutableDictionary(g => g.Key, g => 1 - g.Aggregate(1.0, (p, s) => p * (1 - s.Value)));

    private static ImmutableDictionary<string, double> Shown(DataPart part, ImmutableArray<FaultMode> modes)
    {
        var shows = Numbers(part, 1);
        foreach (var mode in shows.Keys)
        {
            if (modes.All(m => m.Id != mode))
                throw part.Wrong($"there is no mode \"{mode}\"");
        }

        return shows;
    }

    private static SignMeaning SignOf(DataPart part, ImmutableArray<FaultMode> modes)
    {
        part.Only("id", "of", "usual", "shows");
        var byMode = ImmutableDictionary.CreateBuilder<string, double>(StringComparer.Ordinal);
        var bySite = ImmutableDictionary.CreateBuilder<FaultSite, double>();
        foreach (var (key, value) in part.Get("shows").Fields())
        {
            if (modes.Any(m => m.Id == key))
                byMode[key] = value.Number(0, 1);
            else if (Dashed.TryRead<FaultSite>(key, out var site))
                bySite[site] = value.Number(0, 1);
            else
                throw value.Wrong($"\"{key}\" is neither a mode, nor what a mode sits on, nor a group");
        }

        var of = part.Get("of").Text();
        return new SignMeaning(
            SignNames.All.Contains(part.Get("id").Text())
                ? part.Get("id").Text()
                : throw part.Get("id").Wrong($"there is no sign \"{part.Get("id").Text()}\"; known are {string.Join(", ", SignNames.All)}"),
            of switch
            {
                "stop" => true,
                "machine" => false,
                _ => throw part.Get("of").Wrong("expected \"stop\" or \"machine\""),
            },
            part.Get("usual").Number(0.0001, 1),
            byMode.ToImmutable(),
            bySite.ToImmutable()
        );
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

    /// <summary>Modes that contexts multiply together, each with a factor of its own.</summary>
    private static ImmutableDictionary<string, double> Group(string id, DataPart part, ImmutableArray<FaultMode> modes)
    {
        if (modes.Any(m => m.Id == id) || Dashed.TryRead<FaultSite>(id, out _))
            throw part.Wrong($"\"{id}\" is a mode or what a mode sits on; a group needs a name of its own");
        return part.Fields()
            .ToImmutableDictionary(
                f => modes.Any(m => m.Id == f.Key) ? f.Key : throw f.Value.Wrong($"there is no mode \"{f.Key}\""),
                f => f.Value.Number(0, 1000),
                StringComparer.Ordinal
            );
    }

    private static IntakeContext Context(
        DataPart part,
        ImmutableArray<FaultMode> modes,
        ImmutableDictionary<string, ImmutableDictionary<string, double>> groups
    )
    {
        part.Only("id", "name", "multiply", "together");
        var byMode = ImmutableDictionary.CreateBuilder<string, double>(StringComparer.Ordinal);
        var bySite = ImmutableDictionary.CreateBuilder<FaultSite, double>();
        // What a context says of a mode itself goes before what it says of a group.
        foreach (var (key, value) in part.Get("multiply").Fields().OrderBy(f => !groups.ContainsKey(f.Key)))
        {
            if (groups.TryGetValue(key, out var group))
            {
                foreach (var (mode, factor) in group)
                    byMode[mode] = byMode.GetValueOrDefault(mode, 1) * factor * value.Number(0, 1000);
            }
            else if (modes.Any(m => m.Id == key))
                byMode[key] = value.Number(0, 1000);
            else if (Dashed.TryRead<FaultSite>(key, out var site) && modes.Any(m => m.On == site))
                bySite[site] = value.Number(0, 1000);
            else
                throw value.Wrong($"\"{key}\" is neither a mode nor what a mode sits on");
        }

        var together = part.Find("together") is { } tied
            ? tied.Fields()
                .ToImmutableDictionary(
                    f => modes.Any(m => m.Id == f.Key) ? f.Key : throw f.Value.Wrong($"there is no mode \"{f.Key}\""),
                    f => f.Value.Number(1, 1000)
                )
            : ImmutableDictionary<string, double>.Empty;
        return new IntakeContext(part.Get("id").Slug(), part.Get("name").Text(), byMode.ToImmutable(), bySite.ToImmutable())
        {
            Together = together,
        };
    }

    private static WorkTimes Work(DataPart part)
    {
        part.Only(
            "power",
            "wait",
            "clear-cmos",
            "mend",
            "start-at-pins",
            "display",
            "setting",
            "lay",
            "rest",
            "load-run",
            "reseat",
            "remove",
            "swap"
        );
        return new WorkTimes(
            Time(part.Get("power")),
            Time(part.Get("wait")),
            Time(part.Get("clear-cmos")),
            part.Get("mend").EnumMap<Remedy, Minutes>(Time, complete: true),
            Time(part.Get("start-at-pins")),
            Time(part.Get("display")),
            Time(part.Get("setting")),
            Time(part.Get("lay")),
            Time(part.Get("rest")),
            Time(part.Get("load-run")),
            Times("reseat"),
            Times("remove"),
            Times("swap")
        );

        Minutes Time(DataPart p) => new(p.Number(0, 600));
        ImmutableDictionary<UnitKind, Minutes> Times(string name) => part.Get(name).EnumMap<UnitKind, Minutes>(Time, complete: true);
    }

    private static void Distinct(DataPart list, IEnumerable<string> ids, string what)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (id, item) in ids.Zip(list.Items()))
        {
            if (!seen.Add(id))
                throw item.Wrong($"there is a {what} \"{id}\" already");
        }
    }
}
