using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Kelvet.Core.Faults;
using Kelvet.Core.Files;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>Writes the job format that <see cref="JobFormat"/> reads.</summary>
public static class JobWriter
{
    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
    private static readonly JsonSerializerOptions Compact = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>A whole job, indented.</summary>
    public static string Write(BenchJob job)
    {
        var root = IntakeNode(job.Intake);
        root["steps"] = new JsonArray([.. job.Entries.Select(EntryNode)]);
        return root.ToJsonString(Indented) + "\n";
    }

    /// <summary>The intake alone, as it is stored.</summary>
    public static string Write(Intake intake) => IntakeNode(intake).ToJsonString(Compact);

    /// <summary>One log line, as it is stored.</summary>
    public static string Write(Entry entry) => EntryNode(entry).ToJsonString(Compact);

    /// <summary>One unit, as it is stored on the shelf.</summary>
    public static string Write(Unit unit) => UnitNode(unit).ToJsonString(Compact);

    private static JsonObject IntakeNode(Intake intake)
    {
        var root = new JsonObject
        {
            ["format"] = JobFormat.Name,
            ["version"] = JobFormat.Version,
            ["title"] = intake.Title,
        };
        Put(root, "customer", intake.Customer);
        Put(root, "symptom", intake.Symptom);
        if (intake.Reported is { } reported) root["reported"] = reported.ToString();
        if (intake.Contexts.Length > 0) root["contexts"] = new JsonArray([.. intake.Contexts.Select(c => (JsonNode)c)]);
        root["units"] = new JsonArray([.. intake.Parts.All.Select(UnitNode)]);
        root["fitted"] = new JsonObject(intake.Received.At.Select(p => KeyValuePair.Create(p.Key.ToString(), (JsonNode?)p.Value.Value)));
        root["start"] = DataPart.Dashed(intake.Received.Start);
        if (intake.Received.Display is { } display) root["display"] = display.ToString();
        return root;
    }

    private static JsonObject UnitNode(Unit unit)
    {
        var node = new JsonObject
        {
            ["id"] = unit.Id.Value,
            ["kind"] = DataPart.Dashed(unit.Kind),
            ["name"] = unit.Name,
            ["origin"] = DataPart.Dashed(unit.Origin),
        };
        Put(node, "serial", unit.Serial);
        if (unit.FittedByOwner) node["fitted-by-owner"] = true;
        switch (unit)
        {
            case Motherboard b:
                node["slots"] = new JsonArray([.. b.Slots.Select(s => new JsonObject { ["name"] = s.Name, ["channel"] = s.Channel })]);
                node["outputs"] = OutputNodes(b.Outputs);
                node["cards"] = new JsonArray([.. b.CardSlots.Select(c => (JsonNode)c)]);
                Put(node, "socket", b.Socket);
                Put(node, "memory", b.MemoryType);
                node["tells-post"] = b.TellsPost;
                if (b.Tables.Length > 0) node["tables"] = new JsonArray([.. b.Tables.Select(t => (JsonNode)t)]);
                if (b.Firmware is { } version) node["firmware"] = version;
                if (b.FlashesWithoutCpu) node["flashes-without-cpu"] = true;
                break;
            case Cpu c:
                node["graphics"] = c.HasGraphics;
                Put(node, "socket", c.Socket);
                if (c.NeedsFirmware is { } needed) node["needs-firmware"] = needed;
                break;
            case MemoryStick m:
                Put(node, "memory", m.MemoryType);
                if (m.SizeGb > 0) node["gb"] = m.SizeGb;
                break;
            case GraphicsCard g:
                node["outputs"] = OutputNodes(g.Outputs);
                node["aux-power"] = g.NeedsAuxPower;
                break;
            default:
                break;
        }

        return node;
    }

    private static JsonArray OutputNodes(IEnumerable<VideoOutput> outputs) =>
        new([.. outputs.Select(o => new JsonObject { ["name"] = o.Name, ["signal"] = DataPart.Dashed(o.Signal) })]);

    private static JsonObject SignsNode(Signs signs)
    {
        var node = new JsonObject();
        if (signs.Code.Length > 0) node["code"] = signs.Code;
        if (signs.Motion != CodeMotion.Stuck) node["motion"] = DataPart.Dashed(signs.Motion);
        if (signs.Codes.Length > 0) node["codes"] = signs.Codes;
        if (signs.Lights.Length > 0) node["lights"] = signs.Lights;
        if (signs.Beeps.Length > 0) node["beeps"] = signs.Beeps;
        if (signs.Fans is { } fans) node["fans"] = DataPart.Dashed(fans);
        if (signs.CardFans is { } cardFans) node["card-fans"] = DataPart.Dashed(cardFans);
        if (signs.Waited is { } waited) node["waited"] = waited;
        if (signs.Temperature is { } temperature) node["temperature"] = temperature;
        return node;
    }

    private static JsonObject EntryNode(Entry entry)
    {
        var node = new JsonObject { ["id"] = entry.Id.ToString() };
        switch (entry)
        {
            case TrialEntry t:
                node["kind"] = "trial";
                if (t.Changes.Length > 0) node["changes"] = ChangeNodes(t.Changes);
                node["seen"] = t.Seen.ToString();
                if (t.Stall is { } stall)
                {
                    node["stall"] = stall.IsPlain
                        ? DataPart.Dashed(stall.Pointed)
                        : new JsonObject(Enum.GetValues<StallDomain>().Select(d => KeyValuePair.Create(DataPart.Dashed(d), (JsonNode?)stall.Likelihoods[(int)d])));
                }

                if (t.Button is { } button) node["button"] = DataPart.Dashed(button);
                if (t.Signs != Signs.None) node["signs"] = SignsNode(t.Signs);
                break;
            case WorkEntry w:
                node["kind"] = "work";
                node["changes"] = ChangeNodes(w.Changes);
                break;
            case FindingEntry f:
                node["kind"] = "finding";
                node["check"] = f.Check;
                node["unit"] = f.Unit.Value;
                node["found"] = f.Found;
                break;
            case ClaimEntry c:
                node["kind"] = "claim";
                if (c.Changes.Length > 0) node["changes"] = ChangeNodes(c.Changes);
                node["seen"] = c.Seen.ToString();
                break;
            case ElsewhereEntry e:
                node["kind"] = "elsewhere";
                node["unit"] = e.Unit.Value;
                node["worked"] = e.Worked;
                break;
            case ArrivalEntry a:
                node["kind"] = "arrival";
                node["unit"] = UnitNode(a.Unit);
                break;
            case NoteEntry:
                node["kind"] = "note";
                break;
            case StrikeEntry s:
                node["kind"] = "strike";
                node["struck"] = s.Struck.ToString();
                node["reason"] = s.Reason;
                if (s.Replacement is { } replacement) node["replacement"] = EntryNode(replacement);
                break;
            default:
                throw new ArgumentException($"No format for {entry.GetType().Name}.", nameof(entry));
        }

        Put(node, "by", entry.By);
        if (entry.At != default) node["at"] = entry.At.ToUniversalTime().ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'");
        Put(node, "atlas", entry.AtlasVersion);
        Put(node, "note", entry.Note);
        return node;
    }

    private static JsonArray ChangeNodes(IEnumerable<Change> changes) => new([.. changes.Select(c => (JsonNode)c.ToString())]);

    private static void Put(JsonObject node, string key, string value)
    {
        if (value.Length > 0) node[key] = value;
    }
}
