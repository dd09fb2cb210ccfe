using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>
/// The job format (docs/formats.md): one JSON file that holds a job's intake and its whole log. Version 4 is written;
/// older ones are read as well: 1 lacks insertions and what was done live, 2 corrections of the intake; up to 3 a code, a light or a
/// beep that is none was kept as it was typed, and now goes into the note of its line.
/// </summary>
public static class JobFormat
{
    /// <summary>What "format" holds.</summary>
    public const string Name = "kelvet-job";

    /// <summary>The version that is written.</summary>
    public const int Version = 4;

    /// <summary>The first version whose signs and findings are read to the letter.</summary>
    private const int Strict = 4;

    /// <summary>The oldest version that is read.</summary>
    public const int OldestVersion = 1;

    /// <summary>Largest accepted file, characters.</summary>
    public const int MostCharacters = 4_000_000;

    private static readonly JsonSerializerOptions Indented = new()
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };
    private static readonly JsonSerializerOptions Compact = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>Reads a whole job.</summary>
    /// <exception cref="DataFileException">The file is broken; the message names the line or path.</exception>
    public static BenchJob Read(string json)
    {
        if (json.Length > MostCharacters)
            throw new DataFileException($"The file has {json.Length} characters; {MostCharacters} is the most.");
        var root = JsonPart.Root(json);
        if (root.Get("format").Text() != Name)
            throw root.Get("format").Wrong($"expected \"{Name}\"");
        if (root.Get("version").Whole(0, int.MaxValue) is var version && version is < OldestVersion or > Version)
            throw root.Get("version").Wrong($"this program reads versions {OldestVersion} to {Version}");
        if (version < Strict)
            root = JsonPart.Root(OldLines.Mended(json) ?? json);
        var job = OpenAt(root, JobFields.Intake.Read(root));
        var steps = root.Find("steps")?.Items().Take(BenchJob.MostLines + 1).ToArray() ?? [];
        if (steps.Length > BenchJob.MostLines)
            throw root.Get("steps").Wrong($"more than {BenchJob.MostLines} steps, the most");
        var entries = new List<Entry>(steps.Length);
        var ids = new HashSet<Guid>();
        foreach (var step in steps)
        {
            var entry = JobFields.Step.Read(new NumberedStep(step, entries));
            if (!ids.Add(entry.Id))
                throw step.Wrong($"there is a step with the id {entry.Id} already");
            entries.Add(entry);
        }

        try
        {
            return job.With(entries);
        }
        catch (EntryRefusedException e)
        {
            throw (e.Line is >= 1 && e.Line <= steps.Length ? steps[e.Line - 1] : root.Get("steps")).Wrong(e.Message.TrimEnd('.'));
        }
    }

    /// <summary>Reads the intake part of a job, as it is stored apart from the log.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the path.</exception>
    public static Intake ReadIntake(string json) => JobFields.Intake.Read(JsonPart.Root(json));

    /// <summary>Reads one log line, as it is stored.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the path.</exception>
    public static Entry ReadEntry(string json)
    {
        try
        {
            return JobFields.Step.Read(JsonPart.Root(json));
        }
        catch (DataFileException) when (OldLines.Mended(json) is { } mended && mended != json)
        {
            return JobFields.Step.Read(JsonPart.Root(mended));
        }
    }

    /// <summary>Reads one unit, as it is stored on the shelf.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the path.</exception>
    public static Unit ReadUnit(string json) => ReadUnit(JsonPart.Root(json));

    /// <summary>Reads a unit from its place in a file.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the place.</exception>
    public static Unit ReadUnit(DataPart part) => JobFields.Unit.Read(part);

    /// <summary>A whole job, indented.</summary>
    public static string Write(BenchJob job)
    {
        var root = JobFields.Intake.Write(job.AsTakenIn, Head());
        root["steps"] = new JsonArray([.. job.Entries.Select(e => (JsonNode)JobFields.Step.Write(e))]);
        return root.ToJsonString(Indented) + "\n";
    }

    /// <summary>The intake alone, as it is stored.</summary>
    public static string Write(Intake intake) => JobFields.Intake.Write(intake, Head()).ToJsonString(Compact);

    /// <summary>One log line, as it is stored.</summary>
    public static string Write(Entry entry) => JobFields.Step.Write(entry).ToJsonString(Compact);

    /// <summary>One unit, as it is stored on the shelf.</summary>
    public static string Write(Unit unit) => JobFields.Unit.Write(unit).ToJsonString(Compact);

    /// <summary>The same under another id and of another origin: a part that stays with the shop.</summary>
    public static string Write(Unit unit, UnitId id, Origin origin)
    {
        var node = JobFields.Unit.Write(unit);
        (node["id"], node["origin"]) = (id.Value, Dashed.Of(origin));
        return node.ToJsonString(Compact);
    }

    private static JsonObject Head() => new() { ["format"] = Name, ["version"] = Version };

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
}
