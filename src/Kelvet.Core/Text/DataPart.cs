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

    protected abstract IEnumerable<(string Key, DataPart Value)>? FieldsOrNull { get; }

    protected abstract IEnumerable<DataPart>? ItemsOrNull { get; }

    /// <summary>File and line, or path.</summary>
    public string At => Where;

    /// <summary>Whether it is a plain value.</summary>
    public bool IsScalar => Scalar is not null;

    /// <summary>Whether it is a map of names to values.</summary>
    public bool IsMap => FieldsOrNull is not null;

    /// <summary>Whether it is a list.</summary>
    public bool IsList => ItemsOrNull is not null;

    public DataFileException Wrong(string what) => new($"{Where}: {what}.");

    public IEnumerable<(string Key, DataPart Value)> Fields() => FieldsOrNull ?? throw Wrong("expected a map of names to values");

    public IEnumerable<DataPart> Items() => ItemsOrNull ?? throw Wrong("expected a list");

    public DataPart? Find(string key) => Fields().FirstOrDefault(f => f.Key == key).Value;

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

    public string TextOr(string key, string otherwise, int most = 120) => Find(key)?.Text(most, 0) ?? otherwise;

    public bool Flag() =>
        Scalar switch
        {
            "true" => true,
            "false" => false,
            _ => throw Wrong("expected true or false"),
        };

    public bool FlagOr(string key, bool otherwise) => Find(key)?.Flag() ?? otherwise;

    public string Slug() =>
        Core.Text.Slug.IsValid(Text()) ? Text() : throw Wrong($"\"{Text()}\" is not an id: lower-case letters, digits and dashes");

    public double Number(double least, double most)
    {
        if (!double.TryParse(Scalar, NumberStyles.Float, CultureInfo.InvariantCulture, out var value) || !double.IsFinite(value))
            throw Wrong($"expected a number from {least} to {most}");
        return value >= least && value <= most ? value : throw Wrong($"{value} is not from {least} to {most}");
    }

    public int Whole(int least, int most) =>
        Number(least, most) is var value && value == Math.Floor(value) ? (int)value : throw Wrong($"{value} is not a whole number");

    public T Choice<T>(bool dashed = true)
        where T : struct, Enum =>
        TryChoice<T>(Text(), dashed, out var value) ? value : throw Wrong($"\"{Text()}\" is none of {Choices<T>(dashed)}");

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

    protected override string Where => $"{_file} line {_node.Start.Line}";

    protected override string? Scalar => (_node as YamlScalarNode)?.Value;

    protected override IEnumerable<(string Key, DataPart Value)>? FieldsOrNull =>
        (_node as YamlMappingNode)?.Children.Select(p => ((p.Key as YamlScalarNode)?.Value ?? "", (DataPart)new YamlPart(p.Value, _file)));

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

    protected override string Where => _path;

    protected override string? Scalar =>
        _element.ValueKind switch
        {
            JsonValueKind.String => ReadString(),
            JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False => _element.GetRawText(),
            _ => null,
        };

    protected override IEnumerable<(string Key, DataPart Value)>? FieldsOrNull =>
        _element.ValueKind == JsonValueKind.Object
            ? _element.EnumerateObject().Where(p => p.Value.ValueKind != JsonValueKind.Null).Select(Field)
            : null;

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
