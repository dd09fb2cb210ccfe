using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Faults;

/// <summary>Reads and checks an atlas file. Every complaint names the line.</summary>
public static partial class AtlasReader
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
            "before-replacing",
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
            BeforeReplacing = part.Find("before-replacing")?.Choice<Remedy>(),
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
