using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <content>How rows are made: of texts, numbers, answers to choose from; and what is said of one beside.</content>
public static partial class SignKinds
{
    private static SignKind<T> Row<T>(SignKind<T> row)
        where T : notnull
    {
        Rows.Add(row);
        return row;
    }

    private static SignKind<T> Usually<T>(this SignKind<T> row, T usual)
        where T : notnull
    {
        row.Usual = usual;
        return row;
    }

    private static SignKind<T> Of<T>(this SignKind<T> row, UnitKind on)
        where T : notnull
    {
        row.On = on;
        return row;
    }

    /// <summary>The first band that a value is in gives the name.</summary>
    private static SignKind<T> Meaning<T>(this SignKind<T> row, params (string Name, Func<T, bool> Has)[] bands)
        where T : notnull => row.Meaning([.. bands.Select(b => b.Name)], (v, _) => bands.First(b => b.Has(v)).Name);

    /// <summary>Each answer has a meaning of its own: "ended-off".</summary>
    private static SignKind<T> Meaning<T>(this SignKind<T> row)
        where T : struct, Enum => row.Meaning([.. row.Answers.Select(a => $"{row.Key}-{a.Key}")], (v, _) => $"{row.Key}-{Dashed.Of(v)}");

    private static SignKind<T> Meaning<T>(this SignKind<T> row, ImmutableArray<string> names, Func<T, int?, string?> of)
        where T : notnull
    {
        row.Bands = new SignBands<T>(names, of);
        return row;
    }

    private static SignKind<string> Text(
        string key,
        string label,
        int longest,
        Func<string, Signs, string?> told,
        SignPlace place,
        string about,
        string hint,
        SignalKind? signal = null
    ) =>
        Row(
            new SignKind<string>(key, label, Forms.Text(longest), told, t => t, v => v)
            {
                Index = Rows.Count,
                Place = place,
                About = about,
                Hint = hint,
                Characters = longest,
                Usual = "",
                Checked = typed =>
                {
                    var text = Folded.Of(typed);
                    if (text.Length > longest)
                        throw new ArgumentException($"it has {text.Length} characters; {longest} is the most");
                    // What no table could ever list would be kept and would say nothing.
                    return text.Length == 0 || signal is not { } kind || SignalText.Typed(kind, text) is not null
                        ? text
                        : throw new ArgumentException($"\"{text}\" is not {SignalText.Expected(kind)}");
                },
            }
        );

    private static SignKind<double> Number(
        string key,
        string label,
        string unit,
        double least,
        double most,
        double step,
        Func<double, FormattableString?> told,
        SignPlace place,
        string about
    ) =>
        Row(
            new SignKind<double>(
                key,
                label,
                Forms.Number(least, most),
                (v, _) => told(v)?.ToString(CultureInfo.InvariantCulture),
                ReadNumber,
                v => v.ToString("0.###", CultureInfo.InvariantCulture)
            )
            {
                Index = Rows.Count,
                Unit = unit,
                Place = place,
                About = about,
                Numbers = new SignRange(least, most, step),
            }
        );

    private static SignKind<int> Whole(
        string key,
        string label,
        string unit,
        int least,
        int most,
        Func<int, FormattableString?> told,
        SignPlace place,
        string about
    ) =>
        Row(
            new SignKind<int>(
                key,
                label,
                Forms.Whole(least, most),
                (v, _) => told(v)?.ToString(CultureInfo.InvariantCulture),
                ReadWhole,
                v => v.ToString(CultureInfo.InvariantCulture)
            )
            {
                Index = Rows.Count,
                Unit = unit,
                Place = place,
                About = about,
                Numbers = new SignRange(least, most, 1),
            }
        );

    private static SignKind<T> Choice<T>(
        string key,
        string label,
        string none,
        Func<T, string, string?> told,
        SignPlace place,
        string about,
        params (T Value, string Words)[] answers
    )
        where T : struct, Enum
    {
        if (answers.Length != Enum.GetValues<T>().Length)
            throw new InvalidOperationException($"The sign {key} has an answer without words.");
        return Row(
            new SignKind<T>(
                key,
                label,
                Forms.Choice<T>(),
                (v, _) => told(v, answers.First(a => a.Value.Equals(v)).Words),
                typed => ReadChoice(typed, answers.Select(a => a.Value)),
                v => v.ToString()
            )
            {
                Index = Rows.Count,
                Place = place,
                About = about,
                NotNoted = none,
                Choices = [.. answers.Select(a => new SignAnswer(Dashed.Of(a.Value), a.Value.ToString(), a.Words))],
            }
        );
    }

    private static SignKind<bool> Flag(
        string key,
        string label,
        string yes,
        string no,
        Func<bool, string, string?> told,
        SignPlace place,
        string about
    ) =>
        Row(
            new SignKind<bool>(key, label, Forms.Flag, (v, _) => told(v, v ? yes : no), ReadFlag, v => v ? "true" : "false")
            {
                Index = Rows.Count,
                Place = place,
                About = about,
                NotNoted = "not looked at",
                Choices = [new SignAnswer("true", "true", yes), new SignAnswer("false", "false", no)],
            }
        );

    /// <summary>A comma counts as the point: no sign is large enough for one between thousands.</summary>
    private static double ReadNumber(string typed) =>
        double.TryParse(typed.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
            ? number
            : throw Unread(typed, "a number");

    private static int ReadWhole(string typed) =>
        int.TryParse(typed, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
            ? number
            : throw Unread(typed, "a whole number");

    private static bool ReadFlag(string typed) => bool.TryParse(typed, out var flag) ? flag : throw Unread(typed, "true or false");

    private static T ReadChoice<T>(string typed, IEnumerable<T> answers)
        where T : struct, Enum =>
        answers.Where(a => string.Equals(a.ToString(), typed, StringComparison.OrdinalIgnoreCase)).Cast<T?>().FirstOrDefault()
        ?? throw Unread(typed, "one of the answers");

    private static ArgumentException Unread(string typed, string expected) =>
        new($"\"{(typed.Length > 60 ? typed[..60] + "…" : typed)}\" cannot be read: {expected} is expected");
}
