using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Kelvet.Core.Text;

/// <summary>
/// A place in a data file that can be read as something or complained about. Data files for people are YAML and
/// complaints name the line; job files are JSON and complaints name the path. The checks are the same.
/// </summary>
public abstract class DataPart
{
    /// <summary>File and line, or path, for messages.</summary>
    protected abstract string Where { get; }

    /// <summary>The text of a scalar; null when this is a list, a map or null.</summary>
    protected abstract string? Scalar { get; }

    /// <summary>Fields where this is a map; null otherwise.</summary>
    protected abstract IEnumerable<(string Key, DataPart Value)>? FieldsOrNull { get; }

    /// <summary>Items where this is a list; null otherwise.</summary>
    protected abstract IEnumerable<DataPart>? ItemsOrNull { get; }

    /// <summary>File and line, or path.</summary>
    public string At => Where;

    /// <summary>Whether it is a plain value.</summary>
    public bool IsScalar => Scalar is not null;

    /// <summary>Whether it is a map of names to values.</summary>
    public bool IsMap => FieldsOrNull is not null;

    /// <summary>Whether it is a list.</summary>
    public bool IsList => ItemsOrNull is not null;

    /// <summary>An error that names where this stands.</summary>
    public DataFileException Wrong(string what) => new($"{Where}: {what}.");

    /// <summary>Names and values of a map; refused where it is none.</summary>
    public IEnumerable<(string Key, DataPart Value)> Fields() => FieldsOrNull ?? throw Wrong("expected a map of names to values");

    /// <summary>Items of a list; refused where it is none.</summary>
    public IEnumerable<DataPart> Items() => ItemsOrNull ?? throw Wrong("expected a list");

    /// <summary>The value of a field; null where it is missing.</summary>
    public DataPart? Find(string key) => Fields().FirstOrDefault(f => f.Key == key).Value;

    /// <summary>The value of a field; refused where it is missing.</summary>
    public DataPart Get(string key) => Find(key) ?? throw Wrong($"\"{key}\" is missing");

    /// <exception cref="DataFileException">There is a field that is not one of these.</exception>
    public void Only(params string[] keys)
    {
        foreach (var (key, value) in Fields())
        {
            if (!keys.Contains(key))
                throw value.Wrong($"\"{key}\" is not known here; known are {string.Join(", ", keys)}");
        }
    }

    /// <summary>A text, trimmed.</summary>
    public string Text(int most = 120, int least = 1)
    {
        var text = Scalar?.Trim() ?? throw Wrong("expected a text");
        return text.Length >= least && text.Length <= most
            ? text
            : throw Wrong($"expected a text of {least} to {most} characters, not {text.Length}");
    }

    /// <summary>Text of a field, at most <paramref name="most"/> characters.</summary>
    public string TextOr(string key, string otherwise, int most = 120) => Find(key)?.Text(most, 0) ?? otherwise;

    /// <summary>True or false.</summary>
    public bool Flag() =>
        Scalar switch
        {
            "true" => true,
            "false" => false,
            _ => throw Wrong("expected true or false"),
        };

    /// <summary>True or false, of a field that may be missing.</summary>
    public bool FlagOr(string key, bool otherwise) => Find(key)?.Flag() ?? otherwise;

    /// <summary>A name of small letters, digits and dashes.</summary>
    public string Slug() =>
        Core.Text.Slug.IsValid(Text()) ? Text() : throw Wrong($"\"{Text()}\" is not an id: lower-case letters, digits and dashes");

    /// <summary>A number within bounds, both included.</summary>
    public double Number(double least, double most)
    {
        if (!double.TryParse(Scalar, NumberStyles.Float, CultureInfo.InvariantCulture, out var value) || !double.IsFinite(value))
            throw Wrong($"expected a number from {least} to {most}");
        return value >= least && value <= most ? value : throw Wrong($"{value} is not from {least} to {most}");
    }

    /// <summary>A whole number within bounds, both included.</summary>
    public int Whole(int least, int most) =>
        Number(least, most) is var value && value == Math.Floor(value) ? (int)value : throw Wrong($"{value} is not a whole number");

    /// <summary>One of an enum's names.</summary>
    public T Choice<T>(bool dashed = true)
        where T : struct, Enum =>
        TryChoice<T>(Text(), dashed, out var value) ? value : throw Wrong($"\"{Text()}\" is none of {Choices<T>(dashed)}");

    /// <summary>A map whose names are an enum's; all of them where it must be complete.</summary>
    public ImmutableDictionary<TKey, TValue> EnumMap<TKey, TValue>(Func<DataPart, TValue> read, bool complete, bool dashed = true)
        where TKey : struct, Enum
    {
        var map = ImmutableDictionary.CreateBuilder<TKey, TValue>();
        foreach (var (key, value) in Fields())
        {
            if (!TryChoice<TKey>(key, dashed, out var choice))
                throw value.Wrong($"\"{key}\" is none of {Choices<TKey>(dashed)}");
            map[choice] = read(value);
        }

        foreach (var key in Enum.GetValues<TKey>())
        {
            if (complete && !map.ContainsKey(key))
                throw Wrong($"\"{Dashed.Of(key)}\" is missing");
        }

        return map.ToImmutable();
    }

    private static string Choices<T>(bool dashed)
        where T : struct, Enum => string.Join(", ", dashed ? Dashed.All<T>() : Enum.GetNames<T>());

    private static bool TryChoice<T>(string text, bool dashed, out T value)
        where T : struct, Enum => dashed ? Dashed.TryRead(text, out value) : Enum.TryParse(text, out value) && $"{value}" == text;
}

/// <summary>A node of a YAML file.</summary>
public sealed class YamlPart : DataPart
{
    private readonly YamlNode _node;
    private readonly string _file;

    private YamlPart(YamlNode node, string file)
    {
        _node = node;
        _file = file;
    }

    /// <exception cref="DataFileException">The text is not one YAML document.</exception>
    public static DataPart Root(string yaml, string file)
    {
        var stream = new YamlStream();
        try
        {
            stream.Load(new StringReader(yaml));
        }
        catch (YamlException e)
        {
            throw new DataFileException($"{file} line {e.Start.Line}: {e.Message}", e);
        }

        return stream.Documents.Count == 1
            ? new YamlPart(stream.Documents[0].RootNode, file)
            : throw new DataFileException($"{file} line 1: expected one document, found {stream.Documents.Count}.");
    }

    /// <inheritdoc/>
    protected override string Where => $"{_file} line {_node.Start.Line}";

    /// <inheritdoc/>
    protected override string? Scalar => (_node as YamlScalarNode)?.Value;

    /// <inheritdoc/>
    protected override IEnumerable<(string Key, DataPart Value)>? FieldsOrNull =>
        (_node as YamlMappingNode)?.Children.Select(p => ((p.Key as YamlScalarNode)?.Value ?? "", (DataPart)new YamlPart(p.Value, _file)));

    /// <inheritdoc/>
    protected override IEnumerable<DataPart>? ItemsOrNull => (_node as YamlSequenceNode)?.Children.Select(n => new YamlPart(n, _file));
}

/// <summary>An element of a JSON file.</summary>
public sealed class JsonPart : DataPart
{
    private readonly JsonElement _element;
    private readonly string _path;

    private JsonPart(JsonElement element, string path)
    {
        _element = element;
        _path = path;
    }

    /// <summary>Reads JSON with comments and trailing commas allowed, for files written by hand.</summary>
    /// <exception cref="DataFileException">The text is not JSON; the message names the line.</exception>
    public static DataPart Root(string json)
    {
        try
        {
            using var document = JsonDocument.Parse(
                json,
                new JsonDocumentOptions
                {
                    CommentHandling = JsonCommentHandling.Skip,
                    AllowTrailingCommas = true,
                    MaxDepth = 32,
                }
            );
            return new JsonPart(document.RootElement.Clone(), "$");
        }
        catch (JsonException e)
        {
            throw new DataFileException(
                $"line {e.LineNumber + 1}, column {e.BytePositionInLine + 1}: this is not JSON: {e.Message.Split(" LineNumber")[0]}",
                e
            );
        }
    }

    /// <inheritdoc/>
    protected override string Where => _path;

    /// <inheritdoc/>
    protected override string? Scalar =>
        _element.ValueKind switch
        {
            JsonValueKind.String => ReadString(),
            JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False => _element.GetRawText(),
            _ => null,
        };

    /// <inheritdoc/>
    protected override IEnumerable<(string Key, DataPart Value)>? FieldsOrNull =>
        _element.ValueKind == JsonValueKind.Object
            ? _element.EnumerateObject().Where(p => p.Value.ValueKind != JsonValueKind.Null).Select(Field)
            : null;

    /// <inheritdoc/>
    protected override IEnumerable<DataPart>? ItemsOrNull =>
        _element.ValueKind == JsonValueKind.Array ? _element.EnumerateArray().Select((e, i) => new JsonPart(e, $"{_path}[{i}]")) : null;

    private (string Key, DataPart Value) Field(JsonProperty property)
    {
        try
        {
            return (property.Name, new JsonPart(property.Value, $"{_path}.{property.Name}"));
        }
        catch (InvalidOperationException e)
        {
            throw new DataFileException($"{_path}: the name of a field is not valid Unicode.", e);
        }
    }

    private string ReadString()
    {
        try
        {
            return _element.GetString()!;
        }
        catch (InvalidOperationException e)
        {
            throw new DataFileException($"{_path}: the text is not valid Unicode.", e);
        }
    }
}
