using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>The job format described: its JSON Schema and the tables of docs/formats.md, both made from the table of fields.</summary>
public static class JobDocument
{
    private static readonly JsonSerializerOptions Indented = new()
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The JSON Schema (draft 2020-12) of a job file of the version that is written, steps with ids left out included.</summary>
    public static string Schema()
    {
        var intake = JobFields.Intake.Schema(
            ("format", new JsonObject { ["const"] = JobFormat.Name }),
            (
                "version",
                new JsonObject
                {
                    ["enum"] = new JsonArray([
                        .. Enumerable
                            .Range(JobFormat.OldestVersion, JobFormat.Version - JobFormat.OldestVersion + 1)
                            .Select(v => (JsonNode)v),
                    ]),
                }
            )
        );
        intake["properties"]!.AsObject()["steps"] = new JsonObject
        {
            ["type"] = "array",
            ["maxItems"] = BenchJob.MostLines,
            ["items"] = Forms.Ref("step"),
        };
        var root = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = $"Kelvet job, version {JobFormat.Version}",
            ["description"] =
                "One repair job: what came in and its whole bench log. See formats.md. Made from the table of fields; do not edit.",
        };
        foreach (var (key, value) in intake.ToArray())
        {
            intake.Remove(key);
            root[key] = value;
        }

        var step = JobFields.Step.Schema();
        foreach (var sort in step["oneOf"]!.AsArray())
        {
            // A file that is written by hand may leave ids out; steps then get them from their number.
            var required = sort!["required"]!.AsArray();
            required.Remove(required.First(r => r!.GetValue<string>() == "id"));
        }

        root["$defs"] = new JsonObject
        {
            ["id"] = Pattern("[a-z0-9][a-z0-9-]{0,39}"),
            ["slot"] = Pattern(MachineFormat.SlotPattern),
            ["range"] = Pattern("[0-8](-[0-8])?"),
            ["output"] = Pattern(MachineFormat.OutputPattern),
            ["change"] = Pattern(MachineFormat.ChangePattern),
            ["unit"] = JobFields.Unit.Schema(),
            ["step"] = step,
        };
        return root.ToJsonString(Indented) + "\n";
    }

    /// <summary>The table of an intake's fields, Markdown.</summary>
    public static string IntakeTable() => Table(JobFields.Intake.Fields.Select(f => (f.Key, f.Words, f.IsRequired)));

    /// <summary>The table of what was seen and heard of a start, Markdown.</summary>
    public static string SignsTable() => Table(JobFields.Signs.Fields.Select(f => (f.Key, f.Words, f.IsRequired)));

    /// <summary>The table of changes, Markdown.</summary>
    public static string ChangeTable() =>
        "| change | meaning |\n|---|---|\n"
        + string.Concat(Enum.GetValues<ActKind>().Select(MachineFormat.Described).Select(d => $"| `{d.Form}` | {d.Meaning} |\n"));

    /// <summary>The table of places with the kinds of unit that go there, Markdown.</summary>
    public static string PlaceTable() =>
        "| place | what goes there |\n|---|---|\n"
        + string.Concat(
            Enum.GetValues<PlaceKind>()
                .Select(p =>
                    $"| `{Dashed.Of(p)}{(MachineFormat.TryRead($"{Dashed.Of(p)}.1", out Place _) ? ".NAME" : "")}` | "
                    + $"{string.Join(", ", UnitFacts.All.Where(f => f.Place == p).Select(f => $"`{Dashed.Of(f.Kind)}`"))} |\n"
                )
        );

    /// <summary>The table of units by kind, Markdown.</summary>
    public static string UnitTable() => Sorts(JobFields.Unit, "kind");

    /// <summary>The table of steps by kind, Markdown.</summary>
    public static string StepTable() => Sorts(JobFields.Step, "kind");

    private static string Table(IEnumerable<(string Key, string Words, bool Required)> fields)
    {
        var text = new StringBuilder("| field | what it is |\n|---|---|\n");
        foreach (var (key, words, required) in fields)
            text.Append(System.Globalization.CultureInfo.InvariantCulture, $"| `{key}` | {(required ? "" : "optional; ")}{words} |\n");
        return text.ToString();
    }

    private static string Sorts<T>(UnionForm<T> union, string telling)
    {
        var common = union
            .Sorts.Select(s => s.Fields.Select(f => f.Key))
            .Aggregate((a, b) => a.Intersect(b))
            .ToHashSet(StringComparer.Ordinal);
        var any = union.Sorts[0].Fields.Where(f => common.Contains(f.Key));
        var text = new StringBuilder($"| {telling} | what it is | fields |\n|---|---|---|\n| any | | {Listed(any)} |\n");
        foreach (var group in union.Sorts.GroupBy(s => Listed(s.Fields.Where(f => !common.Contains(f.Key)))))
            text.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"| {string.Join(", ", group.Select(s => $"`{s.Key}`"))} | {group.First().About} | "
                    + $"{(group.Key.Length > 0 ? group.Key : "none of its own")} |\n"
            );
        return text.ToString();
    }

    private static string Listed(IEnumerable<(string Key, string Words, bool Required)> fields) =>
        string.Join("<br>", fields.Select(f => $"`{f.Key}`{(f.Required ? "" : " (optional)")}: {f.Words}"));

    private static JsonObject Pattern(string pattern) => new() { ["type"] = "string", ["pattern"] = $"^({pattern})$" };
}
