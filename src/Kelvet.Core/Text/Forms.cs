using System.Collections.Immutable;
using System.Text.Json.Nodes;

namespace Kelvet.Core.Text;

/// <summary>
/// The form of a value in a JSON file: how it is read and blamed, how it is written, and how the JSON Schema and the
/// document describe it. A format is a table of these, so that reader, writer, schema and document cannot differ.
/// </summary>
/// <param name="Read">Reads it; throws <see cref="DataFileException"/> that names the place.</param>
/// <param name="Write">Writes it.</param>
/// <param name="Schema">Its JSON Schema (draft 2020-12), made anew at each call.</param>
/// <param name="Words">What it is, for the document: "true or false".</param>
public sealed record Form<T>(Func<DataPart, T> Read, Func<T, JsonNode?> Write, Func<JsonObject> Schema, string Words)
{
    /// <summary>The same values as another type.</summary>
    /// <param name="to">From what is read; an <see cref="ArgumentException"/> is blamed on the place.</param>
    /// <param name="from">To what is written.</param>
    public Form<TOther> As<TOther>(Func<T, TOther> to, Func<TOther, T> from) =>
        new(part => Forms.Guarded(part, () => to(Read(part))), value => Write(from(value)), Schema, Words);
}

/// <summary>Forms of plain values.</summary>
public static class Forms
{
    /// <summary>A text, trimmed.</summary>
    /// <param name="most">Most characters.</param>
    /// <param name="least">Fewest characters.</param>
    public static Form<string> Text(int most, int least = 0) =>
        new(
            p => p.Text(most, least),
            v => v,
            () =>
                least > 0
                    ? new JsonObject
                    {
                        ["type"] = "string",
                        ["minLength"] = least,
                        ["maxLength"] = most,
                    }
                    : new JsonObject { ["type"] = "string", ["maxLength"] = most },
            least > 0 ? $"{least} to {most:N0} characters" : $"up to {most:N0} characters"
        );

    /// <summary>An id.</summary>
    public static Form<string> Id { get; } = new(p => p.Slug(), v => v, () => Ref("id"), "an id");

    /// <summary>True or false.</summary>
    public static Form<bool> Flag { get; } = new(p => p.Flag(), v => v, () => new JsonObject { ["type"] = "boolean" }, "true or false");

    /// <summary>A whole number.</summary>
    public static Form<int> Whole(int least, int most) =>
        new(
            p => p.Whole(least, most),
            v => v,
            () =>
                new JsonObject
                {
                    ["type"] = "integer",
                    ["minimum"] = least,
                    ["maximum"] = most,
                },
            $"{least:N0} to {most:N0}"
        );

    /// <summary>A number.</summary>
    public static Form<double> Number(double least, double most) =>
        new(
            p => p.Number(least, most),
            v => v,
            () =>
                new JsonObject
                {
                    ["type"] = "number",
                    ["minimum"] = least,
                    ["maximum"] = most,
                },
            $"{least:0.##} to {most:0.##}"
        );

    /// <summary>An amount of money, 0 or more, exact to what is written.</summary>
    public static Form<decimal> Money(decimal most) =>
        new(
            p => (decimal)p.Number(0, (double)most),
            v => v,
            () =>
                new JsonObject
                {
                    ["type"] = "number",
                    ["minimum"] = 0,
                    ["maximum"] = most,
                },
            $"0 to {most:N0}"
        );

    /// <summary>A member of an enumeration, as <see cref="Dashed"/> writes it.</summary>
    public static Form<T> Choice<T>()
        where T : struct, Enum =>
        new(
            p => p.Choice<T>(),
            v => Dashed.Of(v),
            () => new JsonObject { ["enum"] = new JsonArray([.. Dashed.All<T>().Select(t => (JsonNode)t)]) },
            string.Join(", ", Dashed.All<T>().Select(t => $"`{t}`"))
        );

    /// <summary>A text of a form of its own.</summary>
    /// <param name="read">Reads it, or says what was expected.</param>
    /// <param name="write">Writes it.</param>
    /// <param name="schema">Its schema.</param>
    /// <param name="words">What it is.</param>
    public static Form<T> Written<T>(
        Func<string, (T? Value, string Expected)> read,
        Func<T, string> write,
        Func<JsonObject> schema,
        string words
    )
        where T : notnull =>
        new(
            p =>
                read(p.Text(200)) is { Expected: "", Value: { } value }
                    ? value
                    : throw p.Wrong($"\"{p.Text(200)}\" is not {read(p.Text(200)).Expected}"),
            v => write(v),
            schema,
            words
        );

    /// <summary>A list.</summary>
    public static Form<ImmutableArray<T>> List<T>(Form<T> item, int most, string words, int least = 0) =>
        new(
            p =>
            {
                var items = ImmutableArray.CreateBuilder<T>();
                foreach (var part in p.Items())
                {
                    if (items.Count == most)
                        throw p.Wrong($"there are more than {most}, the most");
                    items.Add(item.Read(part));
                }

                return items.Count >= least ? items.ToImmutable() : throw p.Wrong($"at least {least} needed");
            },
            v => new JsonArray([.. v.Select(item.Write)]),
            () =>
            {
                var schema = new JsonObject { ["type"] = "array" };
                if (least > 0)
                    schema["minItems"] = least;
                schema["maxItems"] = most;
                schema["items"] = item.Schema();
                return schema;
            },
            words
        );

    /// <summary>A reference to a definition of the schema.</summary>
    public static JsonObject Ref(string definition) => new() { ["$ref"] = $"#/$defs/{definition}" };

    /// <summary>Makes a value; what its type refuses is blamed on the place.</summary>
    public static T Guarded<T>(DataPart part, Func<T> make)
    {
        try
        {
            return make();
        }
        catch (ArgumentException e)
        {
            throw part.Wrong(Plainly(e));
        }
    }

    /// <summary>The message of an exception without the framework's tail and the full stop.</summary>
    public static string Plainly(ArgumentException e)
    {
        var tail = e.Message.IndexOf(" (Parameter", StringComparison.Ordinal);
        return (tail < 0 ? e.Message : e.Message[..tail]).TrimEnd('.');
    }
}

/// <summary>A field of an object in a JSON file.</summary>
/// <typeparam name="TObject">The object.</typeparam>
public interface IField<in TObject>
{
    /// <summary>Its name in the file.</summary>
    string Key { get; }

    /// <summary>Whether it must be there.</summary>
    bool IsRequired { get; }

    /// <summary>What it is, for the document.</summary>
    string Words { get; }

    /// <summary>Its JSON Schema.</summary>
    JsonObject Schema();

    /// <summary>Reads it from its place.</summary>
    object? ReadPart(DataPart part);

    /// <summary>Writes it; null when it is left out.</summary>
    JsonNode? WritePart(TObject from);
}

/// <summary>A field of an object in a JSON file, with its type.</summary>
/// <param name="Key">Its name in the file.</param>
/// <param name="Form">The form of its value.</param>
/// <param name="Get">Its value in an object.</param>
/// <param name="About">What it is, for the document, beside the form.</param>
/// <param name="Default">What it is when it is left out; null where it must be there.</param>
public sealed record Field<TObject, T>(string Key, Form<T> Form, Func<TObject, T> Get, string About, Func<T>? Default) : IField<TObject>
{
    /// <inheritdoc/>
    public bool IsRequired => Default is null;

    /// <summary>Whether it is written even where it is what it is when left out.</summary>
    public bool Always { get; init; }

    /// <inheritdoc/>
    public string Words => About.Length == 0 ? Form.Words : $"{About}; {Form.Words}";

    /// <inheritdoc/>
    public JsonObject Schema() => Form.Schema();

    /// <inheritdoc/>
    public object? ReadPart(DataPart part) => Form.Read(part);

    /// <inheritdoc/>
    public JsonNode? WritePart(TObject from)
    {
        var value = Get(from);
        return !Always && Default is not null && Same(value, Default()) ? null : Form.Write(value);
    }

    private static bool Same(T value, T other) =>
        value is System.Collections.ICollection { Count: 0 } && other is System.Collections.ICollection { Count: 0 }
        || EqualityComparer<T>.Default.Equals(value, other);
}

/// <summary>What was read of an object's fields.</summary>
public sealed class FieldValues
{
    private readonly Dictionary<string, object?> _read = new(StringComparer.Ordinal);

    internal FieldValues(DataPart where) => Where = where;

    /// <summary>The object's place in the file.</summary>
    public DataPart Where { get; }

    internal bool TryAdd(string key, object? value) => _read.TryAdd(key, value);

    internal bool Has(string key) => _read.ContainsKey(key);

    internal object? At(string key) => _read[key];

    /// <summary>The value of a field: as read, or what it is when left out.</summary>
    public T Of<TObject, T>(Field<TObject, T> field) => _read.TryGetValue(field.Key, out var value) ? (T)value! : field.Default!();
}

/// <summary>The form of an object: a table of fields and how the object is made of them.</summary>
/// <param name="Fields">The fields, in the order in which they are written.</param>
/// <param name="Make">Makes the object; an <see cref="ArgumentException"/> is blamed on its place.</param>
/// <param name="Unread">Names that are taken for known and passed over, for a part that another form reads.</param>
public sealed record ObjectForm<T>(ImmutableArray<IField<T>> Fields, Func<FieldValues, T> Make, params string[] Unread)
{
    /// <summary>Reads the object.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the place.</exception>
    public T Read(DataPart part)
    {
        var values = new FieldValues(part);
        foreach (var (key, value) in part.Fields())
        {
            if (Unread.Contains(key))
                continue;
            if (Fields.FirstOrDefault(f => f.Key == key) is not { } field)
                throw value.Wrong($"\"{key}\" is not known here; known are {string.Join(", ", Unread.Concat(Fields.Select(f => f.Key)))}");
            if (!values.TryAdd(key, field.ReadPart(value)))
                throw value.Wrong($"\"{key}\" is given twice");
        }

        if (Fields.FirstOrDefault(f => f.IsRequired && !values.Has(f.Key)) is { } missing)
            throw part.Wrong($"\"{missing.Key}\" is missing");
        return Forms.Guarded(part, () => Make(values));
    }

    /// <summary>Writes the fields behind those that are there.</summary>
    public JsonObject Write(T value, JsonObject? into = null)
    {
        into ??= [];
        foreach (var field in Fields)
        {
            if (field.WritePart(value) is { } node)
                into[field.Key] = node;
        }

        return into;
    }

    /// <summary>Its JSON Schema.</summary>
    /// <param name="first">Fields in front of its own, with their schema; all of them must be there.</param>
    public JsonObject Schema(params (string Key, JsonObject Schema)[] first)
    {
        var properties = new JsonObject([
            .. first.Select(f => KeyValuePair.Create(f.Key, (JsonNode?)f.Schema)),
            .. Fields.Select(f => KeyValuePair.Create(f.Key, (JsonNode?)f.Schema())),
        ]);
        return new JsonObject
        {
            ["type"] = "object",
            ["additionalProperties"] = false,
            ["required"] = new JsonArray([
                .. first.Select(f => (JsonNode)f.Key),
                .. Fields.Where(f => f.IsRequired).Select(f => (JsonNode)f.Key),
            ]),
            ["properties"] = properties,
        };
    }

    /// <summary>As the form of a value.</summary>
    public Form<T> AsForm(string words) => new(Read, v => Write(v), () => Schema(), words);
}

/// <summary>One of several sorts of an object, told apart by a field.</summary>
/// <param name="Key">What the telling field holds.</param>
/// <param name="Is">Whether an object is of this sort.</param>
/// <param name="Read">Reads one.</param>
/// <param name="Write">Writes one.</param>
/// <param name="Schema">Its schema.</param>
/// <param name="Fields">Its fields, name and words, for the document.</param>
/// <param name="About">What it is, for the document.</param>
public sealed record Sort<TBase>(
    string Key,
    Func<TBase, bool> Is,
    Func<DataPart, TBase> Read,
    Func<TBase, JsonObject> Write,
    Func<string, JsonObject> Schema,
    ImmutableArray<(string Key, string Words, bool Required)> Fields,
    string About
);

/// <summary>Makes sorts.</summary>
public static class Sorts
{
    /// <summary>A sort with a table of fields.</summary>
    /// <param name="key">What the telling field holds.</param>
    /// <param name="telling">Name of the telling field.</param>
    /// <param name="form">The fields.</param>
    /// <param name="about">What it is.</param>
    /// <param name="also">A further condition for an object to be of this sort; null for its type alone.</param>
    public static Sort<TBase> Of<TBase, T>(string key, string telling, ObjectForm<T> form, string about, Func<T, bool>? also = null)
        where T : TBase =>
        new(
            key,
            v => v is T t && (also?.Invoke(t) ?? true),
            p => form.Read(p),
            v => form.Write((T)v!, new JsonObject { [telling] = key }),
            name => form.Schema((name, new JsonObject { ["const"] = key })),
            [.. form.Fields.Select(f => (f.Key, f.Words, f.IsRequired))],
            about
        );
}

/// <summary>The form of an object of several sorts.</summary>
/// <param name="Telling">Name of the field that tells them apart.</param>
/// <param name="Sorts">The sorts.</param>
public sealed record UnionForm<TBase>(string Telling, ImmutableArray<Sort<TBase>> Sorts)
{
    /// <summary>Reads an object.</summary>
    /// <exception cref="DataFileException">It is broken or of no known sort; the message names the place.</exception>
    public TBase Read(DataPart part)
    {
        var key = part.Get(Telling);
        return Sorts.FirstOrDefault(s => s.Key == key.Text()) is { } sort
            ? sort.Read(part)
            : throw key.Wrong($"\"{key.Text()}\" is none of {string.Join(", ", Sorts.Select(s => s.Key))}");
    }

    /// <summary>Writes an object.</summary>
    /// <exception cref="ArgumentException">It is of no known sort.</exception>
    public JsonObject Write(TBase value) =>
        (
            Sorts.FirstOrDefault(s => s.Is(value)) ?? throw new ArgumentException($"No form for {value?.GetType().Name}.", nameof(value))
        ).Write(value);

    /// <summary>Its JSON Schema.</summary>
    public JsonObject Schema() => new() { ["oneOf"] = new JsonArray([.. Sorts.Select(s => (JsonNode)s.Schema(Telling))]) };
}
