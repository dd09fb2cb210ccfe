using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>Where a sign is asked for on the bench: among the details of a start, or at the part of the drawing that shows it.</summary>
public enum SignPlace
{
    /// <summary>How the start ended, and what was heard and smelt.</summary>
    Ending,

    /// <summary>What it signals, and what it says of its memory.</summary>
    Signals,

    /// <summary>What is read off a meter, a thermometer or a clock.</summary>
    Readings,

    /// <summary>The code display of the board.</summary>
    CodeDisplay,

    /// <summary>The cooler's fan.</summary>
    CoolerFan,

    /// <summary>The graphics card's fans.</summary>
    CardFans,

    /// <summary>The screen.</summary>
    Screen,

    /// <summary>Nowhere: it comes with another sign.</summary>
    Nowhere,
}

/// <summary>One of the answers of a sign.</summary>
/// <param name="Key">As files have it: "run-then-stop".</param>
/// <param name="Value">As forms have it: "RunThenStop".</param>
/// <param name="Words">For people: "run, then stop".</param>
public sealed record SignAnswer(string Key, string Value, string Words);

/// <summary>Numbers that a sign may be.</summary>
/// <param name="Least">Least.</param>
/// <param name="Most">Most.</param>
/// <param name="Step">Step of its field.</param>
public sealed record SignRange(double Least, double Most, double Step);

/// <summary>Names by which the atlas gives a sign a meaning.</summary>
/// <param name="All">Every one.</param>
/// <param name="Of">The one that a value has: the value, and the memory channels that hold a stick, null where that is not known.</param>
public sealed record SignBands<T>(ImmutableArray<string> All, Func<T, int?, string?> Of);

/// <summary>
/// A kind of sign: all that is to be known of one thing that can be seen, heard or read of a start. Its field in files, its question
/// on forms, its words in logs, its range and the names that the atlas gives a meaning to follow from its row in
/// <see cref="SignKinds"/>.
/// </summary>
public abstract class SignKind : IField<Signs>
{
    /// <summary>A row.</summary>
    /// <param name="key">Its name in files, such as "fan-speed".</param>
    /// <param name="label">How it is asked for, such as "CPU fan".</param>
    protected SignKind(string key, string label) => (Key, Label) = (key, label);

    /// <inheritdoc/>
    public string Key { get; }

    /// <summary>How it is asked for.</summary>
    public string Label { get; }

    /// <summary>Its unit; empty where it has none.</summary>
    public string Unit { get; init; } = "";

    /// <summary>Where it is asked for.</summary>
    public SignPlace Place { get; init; }

    /// <summary>What it is, for the documentation; empty where its name says it.</summary>
    public string About { get; init; } = "";

    /// <summary>What stands in its empty field; empty for nothing.</summary>
    public string Hint { get; init; } = "";

    /// <summary>How it is said that it was not noted.</summary>
    public string NotNoted { get; init; } = "not noted";

    /// <summary>Name of its field on a form: "fanSpeed".</summary>
    public string Field => field ??= Camel(Key);

    /// <summary>The kind of unit without which it is not asked for; null where every machine has it.</summary>
    public UnitKind? On { get; internal set; }

    /// <summary>Label and unit: "CPU fan, turns a minute".</summary>
    public string Question => Unit.Length == 0 ? Label : $"{Label}, {Unit}";

    /// <summary>Answers to choose from; empty where it is a number or a text.</summary>
    public virtual ImmutableArray<SignAnswer> Answers => [];

    /// <summary>Numbers that it may be; null where it is no number.</summary>
    public virtual SignRange? Range => null;

    /// <summary>Most characters, where it is a text; 0 where it is none.</summary>
    public virtual int Longest => 0;

    /// <summary>Names by which the atlas gives it a meaning; empty where it has none.</summary>
    public abstract ImmutableArray<string> Names { get; }

    /// <summary>Its place among the values of <see cref="Signs"/>.</summary>
    internal int Index { get; init; }

    /// <inheritdoc/>
    bool IField<Signs>.IsRequired => false;

    /// <inheritdoc/>
    public abstract string Words { get; }

    /// <inheritdoc/>
    public abstract JsonObject Schema();

    /// <inheritdoc/>
    public abstract object? ReadPart(DataPart part);

    /// <inheritdoc/>
    public abstract JsonNode? WritePart(Signs from);

    /// <summary>What was typed or chosen for it, as forms have it; empty where it was not noted.</summary>
    public abstract string Typed(Signs signs);

    /// <summary>What was noted of it, in words; null where nothing was.</summary>
    public abstract string? Told(Signs signs);

    /// <summary>The name by which the atlas gives what was noted a meaning; null where it gives none.</summary>
    /// <param name="signs">The signs.</param>
    /// <param name="channels">Memory channels that hold a stick; null where that is not known.</param>
    public abstract string? NameOf(Signs signs, int? channels);

    /// <summary>The signs with what was typed for it; an empty text takes it back.</summary>
    /// <exception cref="ArgumentException">It cannot be; the message says why.</exception>
    public abstract Signs Read(Signs into, string typed);

    /// <summary>The same, with a value that was read from a file.</summary>
    internal abstract Signs With(Signs into, object? value);

    /// <summary>The signs with its value of others.</summary>
    public Signs Copy(Signs from, Signs into) => With(into, from.Values[Index]);

    private static string Camel(string key)
    {
        var parts = key.Split('-');
        return parts[0] + string.Concat(parts.Skip(1).Select(p => char.ToUpperInvariant(p[0]) + p[1..]));
    }
}

/// <summary>A kind of sign with the type of its values.</summary>
public sealed class SignKind<T> : SignKind
    where T : notnull
{
    private readonly Form<T> _form;
    private readonly Func<T, Signs, string?> _told;
    private readonly Func<string, T> _read;
    private readonly Func<T, string> _typed;

    internal SignKind(string key, string label, Form<T> form, Func<T, Signs, string?> told, Func<string, T> read, Func<T, string> typed)
        : base(key, label) => (_form, _told, _read, _typed) = (form, told, read, typed);

    /// <summary>What it is where nothing was noted; null where it then is nothing.</summary>
    internal object? Usual { get; set; }

    /// <summary>Refuses values that cannot be, with an <see cref="ArgumentException"/>, and folds others.</summary>
    internal Func<T, T> Checked { get; init; } = v => v;

    internal ImmutableArray<SignAnswer> Choices { get; init; } = [];

    internal SignRange? Numbers { get; init; }

    internal int Characters { get; init; }

    internal SignBands<T> Bands { get; set; } = new([], (_, _) => null);

    /// <inheritdoc/>
    public override ImmutableArray<SignAnswer> Answers => Choices;

    /// <inheritdoc/>
    public override SignRange? Range => Numbers;

    /// <inheritdoc/>
    public override int Longest => Characters;

    /// <inheritdoc/>
    public override ImmutableArray<string> Names => Bands.All;

    /// <inheritdoc/>
    public override string Words => About.Length == 0 ? _form.Words : $"{About}; {_form.Words}";

    /// <summary>A value in words: <c>SignKinds.Ended.Say(Ending.Off)</c> is "it went off".</summary>
    public string Say(T value) => Choices.FirstOrDefault(a => a.Value == _typed(value))?.Words ?? _typed(value);

    /// <inheritdoc/>
    public override JsonObject Schema() => _form.Schema();

    /// <inheritdoc/>
    public override object? ReadPart(DataPart part) => _form.Read(part);

    /// <inheritdoc/>
    public override JsonNode? WritePart(Signs from) => from.Values[Index] is T value ? _form.Write(value) : null;

    /// <inheritdoc/>
    public override string Typed(Signs signs) => signs.Values[Index] is T value ? _typed(value) : "";

    /// <inheritdoc/>
    public override string? Told(Signs signs) => signs.Values[Index] is T value ? _told(value, signs) : null;

    /// <inheritdoc/>
    public override string? NameOf(Signs signs, int? channels) => signs.Values[Index] is T value ? Bands.Of(value, channels) : null;

    /// <inheritdoc/>
    public override Signs Read(Signs into, string typed) => With(into, typed.Trim().Length == 0 ? null : _read(typed.Trim()));

    /// <inheritdoc/>
    internal override Signs With(Signs into, object? value) => into.With(this, value is null ? null : Kept((T)value));

    /// <summary>The value as it is kept; null where it is the usual one.</summary>
    /// <exception cref="ArgumentException">It cannot be.</exception>
    internal object? Kept(T value)
    {
        // Also what is no number at all is not within them.
        if (Numbers is { } r && !(Convert.ToDouble(value, CultureInfo.InvariantCulture) is var n && n >= r.Least && n <= r.Most))
            throw new ArgumentException(
                string.Create(CultureInfo.InvariantCulture, $"it is {r.Least:0.##} to {r.Most:0.##} {Unit}").TrimEnd()
            );
        value = Checked(value);
        return Equals(value, Usual) ? null : value;
    }
}
