using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Files;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>
/// Reads the job format, version 1 (docs/formats.md): one JSON file that holds a job's intake and its whole log.
/// </summary>
public static class JobFormat
{
    public const string Name = "kelvet-job";
    public const int Version = 1;

    /// <summary>Largest accepted file, characters.</summary>
    public const int MostCharacters = 4_000_000;

    /// <summary>Reads a whole job.</summary>
    /// <exception cref="DataFileException">The file is broken; the message names the line or path.</exception>
    public static BenchJob Read(string json)
    {
        if (json.Length > MostCharacters) throw new DataFileException($"The file has {json.Length} characters; {MostCharacters} is the most.");
        var root = JsonPart.Root(json);
        root.Only("format", "version", "title", "customer", "symptom", "reported", "contexts", "units", "fitted", "start", "display", "steps");
        if (root.Get("format").Text() != Name) throw root.Get("format").Wrong($"expected \"{Name}\"");
        if (root.Get("version").Whole(0, int.MaxValue) != Version) throw root.Get("version").Wrong($"this program reads version {Version}");
        var job = OpenAt(root, ReadIntake(root));
        var steps = root.Find("steps")?.Items().ToArray() ?? [];
        if (steps.Length > BenchJob.MostLines) throw root.Get("steps").Wrong($"{steps.Length} steps; {BenchJob.MostLines} is the most");
        var entries = new List<Entry>();
        foreach (var step in steps)
        {
            var entry = ReadEntry(step, entries);
            if (entries.Any(e => e.Id == entry.Id)) throw step.Wrong($"there is a step with the id {entry.Id} already");
            entries.Add(entry);
        }

        try
        {
            return job.With(entries);
        }
        catch (EntryRefusedException)
        {
            // Find the step that is to blame: the first one that cannot be added.
            for (var i = 0; i < entries.Count; i++)
            {
                try
                {
                    job = job.Append(entries[i]);
                }
                catch (EntryRefusedException e)
                {
                    throw steps[i].Wrong(e.Message.TrimEnd('.'));
                }
            }

            throw;
        }
    }

    /// <summary>Reads the intake part of a job, as it is stored apart from the log.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the path.</exception>
    public static Intake ReadIntake(string json) => ReadIntake(JsonPart.Root(json));

    /// <summary>Reads one log line, as it is stored.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the path.</exception>
    public static Entry ReadEntry(string json) => ReadEntry(JsonPart.Root(json), []);

    /// <summary>Reads one unit, as it is stored on the shelf.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the path.</exception>
    public static Unit ReadUnit(string json) => ReadUnit(JsonPart.Root(json));

    private static BenchJob OpenAt(DataPart root, Intake intake)
    {
        try
        {
            return BenchJob.Open(intake);
        }
        catch (ChangeRefusedException e)
        {
            throw (root.Find("fitted") ?? root).Wrong(e.Message.TrimEnd('.'));
        }
    }

    private static Intake ReadIntake(DataPart root)
    {
        var parts = Parts.None;
        foreach (var unit in root.Get("units").Items()) parts = Guarded(unit, () => parts.With(ReadUnit(unit)));
        var received = Configuration.Empty;
        foreach (var (key, value) in root.Get("fitted").Fields())
        {
            if (!Place.TryParse(key, out var place)) throw value.Wrong($"\"{key}\" is not a place, such as supply, memory.A2 or card.1");
            if (received[place] is not null) throw value.Wrong($"\"{key}\" is given twice");
            received = received.WithUnit(place, UnitIdOf(value));
        }

        if (root.Find("start") is { } start) received = received.WithStart(start.Choice<StartMethod>());
        if (root.Find("display") is { } display) received = received.WithDisplay(OutputOf(display));
        return new Intake
        {
            Title = root.Get("title").Text(),
            Customer = root.TextOr("customer", ""),
            Symptom = root.TextOr("symptom", "", Entry.LongestNote),
            Reported = root.Find("reported") is { } reported ? RangeOf(reported) : null,
            Contexts = [.. root.Find("contexts")?.Items().Select(c => c.Slug()) ?? []],
            Parts = parts,
            Received = received,
        };
    }

    /// <summary>Reads a unit from its place in a file.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the place.</exception>
    public static Unit ReadUnit(DataPart part) => Guarded(part, () => UnitOf(part));

    private static Unit UnitOf(DataPart part)
    {
        var id = UnitIdOf(part.Get("id"));
        var kind = part.Get("kind").Choice<UnitKind>();
        var name = part.Get("name").Text(80);
        var origin = part.Find("origin")?.Choice<Origin>() ?? Origin.Customer;
        string[] common = ["id", "kind", "name", "origin", "serial", "fitted-by-owner"];
        Unit unit;
        switch (kind)
        {
            case UnitKind.Motherboard:
                part.Only([.. common, "slots", "outputs", "cards", "socket", "memory", "tells-post", "tables", "firmware", "flashes-without-cpu"]);
                unit = new Motherboard(id, name, origin, part.Get("slots").Items().Select(ReadSlot), ReadOutputs(part), part.Find("cards")?.Items().Select(c => c.Text(20)) ?? [])
                {
                    Socket = part.TextOr("socket", "", 20),
                    MemoryType = part.TextOr("memory", "", 20),
                    TellsPost = part.FlagOr("tells-post", false),
                    Tables = [.. part.Find("tables")?.Items().Select(t => t.Slug()) ?? []],
                    Firmware = part.Find("firmware")?.Whole(0, 1_000_000),
                    FlashesWithoutCpu = part.FlagOr("flashes-without-cpu", false),
                };
                break;
            case UnitKind.Cpu:
                part.Only([.. common, "graphics", "socket", "needs-firmware"]);
                unit = new Cpu(id, name, origin, part.FlagOr("graphics", false)) { Socket = part.TextOr("socket", "", 20), NeedsFirmware = part.Find("needs-firmware")?.Whole(0, 1_000_000) };
                break;
            case UnitKind.MemoryStick:
                part.Only([.. common, "memory", "gb"]);
                unit = new MemoryStick(id, name, origin) { MemoryType = part.TextOr("memory", "", 20), SizeGb = part.Find("gb")?.Whole(0, 1024) ?? 0 };
                break;
            case UnitKind.GraphicsCard:
                part.Only([.. common, "outputs", "aux-power"]);
                unit = new GraphicsCard(id, name, origin, ReadOutputs(part), part.FlagOr("aux-power", false));
                break;
            default:
                part.Only(common);
                unit = Unit.Plain(id, kind, name, origin);
                break;
        }

        return unit with { Serial = part.TextOr("serial", "", 60), FittedByOwner = part.FlagOr("fitted-by-owner", false) };
    }

    private static MemorySlot ReadSlot(DataPart part)
    {
        part.Only("name", "channel");
        return new MemorySlot(part.Get("name").Text(20), part.Get("channel").Text(20));
    }

    private static IEnumerable<VideoOutput> ReadOutputs(DataPart part) => part.Find("outputs")?.Items().Select(o =>
    {
        o.Only("name", "signal");
        return new VideoOutput(o.Get("name").Text(20), o.Find("signal")?.Choice<VideoSignal>() ?? VideoSignal.Digital);
    }) ?? [];

    private static Signs SignsOf(DataPart part)
    {
        part.Only("code", "motion", "codes", "lights", "beeps", "fans", "card-fans", "waited", "temperature");
        return new Signs
        {
            Code = part.TextOr("code", "", Signs.LongestCode),
            Motion = part.Find("motion")?.Choice<CodeMotion>() ?? CodeMotion.Stuck,
            Codes = part.TextOr("codes", "", Signs.LongestCodes),
            Lights = part.TextOr("lights", "", Signs.LongestLights),
            Beeps = part.TextOr("beeps", "", Signs.LongestBeeps),
            Fans = part.Find("fans")?.Choice<FanBehaviour>(),
            CardFans = part.Find("card-fans")?.Choice<FanBehaviour>(),
            Waited = part.Find("waited")?.Whole(0, Signs.LongestWait),
            Temperature = part.Find("temperature")?.Number(-20, 150),
        };
    }

    private static Entry ReadEntry(DataPart part, IReadOnlyList<Entry> before)
    {
        string[] common = ["id", "kind", "by", "at", "atlas", "note"];
        var id = part.Find("id") is { } given
            ? Guid.TryParse(given.Text(), out var guid) && guid != Guid.Empty ? guid : throw given.Wrong($"\"{given.Text()}\" is not a step id (a UUID)")
            : NumberedId(before.Count + 1);
        var kind = part.Get("kind").Text();
        Entry entry;
        switch (kind)
        {
            case "trial":
                part.Only([.. common, "changes", "seen", "stall", "button", "signs"]);
                entry = new TrialEntry(id, ReadChanges(part), RangeOf(part.Get("seen")), part.Find("stall") is { } stall ? StallOf(stall) : null) { Button = part.Find("button")?.Choice<ButtonTest>(), Signs = part.Find("signs") is { } signs ? SignsOf(signs) : Signs.None };
                break;
            case "finding":
                part.Only([.. common, "check", "unit", "found"]);
                entry = new FindingEntry(id, part.Get("check").Slug(), UnitIdOf(part.Get("unit")), part.Get("found").Flag());
                break;
            case "claim":
                part.Only([.. common, "changes", "seen"]);
                entry = new ClaimEntry(id, ReadChanges(part), RangeOf(part.Get("seen")));
                break;
            case "elsewhere":
                part.Only([.. common, "unit", "worked"]);
                entry = new ElsewhereEntry(id, UnitIdOf(part.Get("unit")), part.Get("worked").Flag());
                break;
            case "work":
                part.Only([.. common, "changes"]);
                entry = new WorkEntry(id, ReadChanges(part));
                break;
            case "arrival":
                part.Only([.. common, "unit"]);
                entry = new ArrivalEntry(id, ReadUnit(part.Get("unit")));
                break;
            case "note":
                part.Only(common);
                entry = new NoteEntry(id);
                break;
            case "strike":
                part.Only([.. common, "struck", "reason", "replacement"]);
                entry = new StrikeEntry(id, StruckId(part.Get("struck"), before), part.Get("reason").Text(Entry.LongestNote),
                    part.Find("replacement") is { } r ? ReadEntry(r, before) : null);
                break;
            default:
                throw part.Get("kind").Wrong($"\"{kind}\" is none of trial, work, finding, claim, elsewhere, arrival, note, strike");
        }

        return entry with
        {
            By = part.TextOr("by", "", 60),
            At = part.Find("at") is { } at ? TimeOf(at) : default,
            AtlasVersion = part.TextOr("atlas", "", 40),
            Note = part.TextOr("note", "", Entry.LongestNote),
        };
    }

    /// <summary>Steps of a hand-written file have no ids; they get one from their number.</summary>
    private static Guid NumberedId(int number) => new(number, 0, 0, [0, 0, 0, 0, 0, 0, 0, 1]);

    /// <summary>A struck line is named by its id, or in a hand-written file by its number.</summary>
    private static Guid StruckId(DataPart part, IReadOnlyList<Entry> before)
    {
        if (Guid.TryParse(part.Text(), out var id)) return id;
        return before.Count == 0 ? throw part.Wrong("there is no earlier step to strike") : before[part.Whole(1, before.Count) - 1].Id;
    }

    private static DateTimeOffset TimeOf(DataPart part) =>
        DateTimeOffset.TryParse(part.Text(), null, System.Globalization.DateTimeStyles.AssumeUniversal, out var at)
            ? at.ToUniversalTime()
            : throw part.Wrong($"\"{part.Text()}\" is not a time, such as 2026-03-01T09:30:00Z");

    private static ImmutableArray<Change> ReadChanges(DataPart part) => [.. part.Find("changes")?.Items().Select(ReadChange) ?? []];

    private static Change ReadChange(DataPart part) =>
        Change.TryParse(part.Text(), out var change, out var expected) ? change : throw part.Wrong($"\"{part.Text()}\" is not a change: expected {expected}");

    private static T Guarded<T>(DataPart part, Func<T> make)
    {
        try
        {
            return make();
        }
        catch (ArgumentException e)
        {
            throw part.Wrong(e.Message.Split(" (Parameter")[0].TrimEnd('.'));
        }
    }

    private static StallSignal StallOf(DataPart part)
    {
        if (part.IsScalar) return part.Choice<StallDomain>();
        var likelihoods = part.EnumMap<StallDomain, double>(v => v.Number(0, 1), complete: false);
        return Guarded(part, () => new StallSignal(Enum.GetValues<StallDomain>().Select(d => likelihoods.GetValueOrDefault(d))));
    }

    private static UnitId UnitIdOf(DataPart part) => new(part.Slug());

    private static OutputRef OutputOf(DataPart part) =>
        OutputRef.TryParse(part.Text(), out var output) ? output : throw part.Wrong($"\"{part.Text()}\" is not an output, such as board/HDMI or card.1/DP");

    private static StageRange RangeOf(DataPart part) =>
        StageRange.TryParse(part.Text(), out var range) ? range : throw part.Wrong($"\"{part.Text()}\" is not a stage 0 to 8 or a range such as 4-5");
}
