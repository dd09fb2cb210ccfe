using System.Text.Json;
using System.Text.Json.Nodes;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>
/// Lines that older versions took and that no line can say any more: a signal that is none, and a finding that found nothing with
/// errors counted. What they said goes into the note of the line, so that it is read and not weighed.
/// </summary>
internal static class OldLines
{
    /// <summary>Fields that hold a signal, with the most characters that a line ever had in them.</summary>
    private static readonly (string Key, SignalKind Kind, int Most)[] Signals =
    [
        ("code", SignalKind.Post, Signs.LongestCode),
        ("beeps", SignalKind.Beeps, Signs.LongestBeeps),
        ("lights", SignalKind.Lights, Signs.LongestLights),
    ];

    private static readonly JsonDocumentOptions ByHand = new() { CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true };

    /// <summary>The text with such lines mended; null where it is no JSON.</summary>
    public static string? Mended(string json)
    {
        try
        {
            var root = JsonNode.Parse(json, documentOptions: ByHand);
            return root is not null && Walk(root) ? root.ToJsonString() : json;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or ArgumentException)
        {
            return null;
        }
    }

    private static bool Walk(JsonNode node)
    {
        var changed = false;
        if (node is JsonObject line)
        {
            if (line["signs"] is JsonObject signs)
            {
                foreach (var (key, kind, most) in Signals)
                {
                    if (Text(signs[key]) is { Length: > 0 } said && said.Length <= most && SignalText.Typed(kind, said) is null)
                        changed |= ToNote(line, signs, key, $"{key} as noted: {said}");
                }
            }

            if (line["found"] is JsonValue found && found.TryGetValue<bool>(out var was) && !was)
            {
                if (line["errors"] is JsonValue errors && errors.TryGetValue<double>(out var counted) && counted > 0)
                    changed |= ToNote(line, line, "errors", $"errors as noted: {counted}");
                foreach (var key in new[] { "addresses", "what" })
                {
                    if (Text(line[key]) is { Length: > 0 } said)
                        changed |= ToNote(line, line, key, $"{key} as noted: {said}");
                }
            }

            foreach (var (_, value) in line.ToArray())
                changed |= value is JsonObject or JsonArray && Walk(value);
        }
        else if (node is JsonArray items)
        {
            foreach (var item in items)
                changed |= item is not null && Walk(item);
        }

        return changed;
    }

    private static string? Text(JsonNode? node) => node is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

    private static bool ToNote(JsonObject line, JsonObject from, string key, string said)
    {
        var note = Text(line["note"]) ?? "";
        var both = note.Length == 0 ? said : $"{note} {said}";
        line["note"] = both.Length > Entry.LongestNote ? both[..Entry.LongestNote] : both;
        return from.Remove(key);
    }
}
