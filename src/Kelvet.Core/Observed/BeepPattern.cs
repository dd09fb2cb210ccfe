using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>
/// One round of beeps as a table lists it: "5 short", "1 long 2 short", "1-3-3-1", "continuous", "endless short",
/// "endless long", "siren".
/// </summary>
public sealed partial record BeepPattern
{
    private readonly string _text;

    private BeepPattern(string text) => _text = text;

    /// <summary>The most beeps in a round.</summary>
    public const int MostBeeps = 40;

    /// <summary>Longer texts are no pattern.</summary>
    private const int LongestText = 400;

    /// <summary>One tone without an end.</summary>
    public static BeepPattern Continuous { get; } = new("continuous");

    /// <summary>Two pitches by turns.</summary>
    public static BeepPattern Siren { get; } = new("siren");

    /// <summary>Short beeps, evenly, without an end.</summary>
    public static BeepPattern EndlessShort { get; } = new("endless short");

    /// <summary>Long beeps, evenly, without an end.</summary>
    public static BeepPattern EndlessLong { get; } = new("endless long");

    /// <summary>A round of beeps in groups; groups of one length each are told apart by the length alone.</summary>
    /// <param name="groups">True for a long beep. At least one group, none empty, at most <see cref="MostBeeps"/> beeps.</param>
    /// <exception cref="ArgumentException">There is no beep, an empty group, or there are too many.</exception>
    public static BeepPattern Of(IEnumerable<IEnumerable<bool>> groups)
    {
        var all = groups.Select(g => g.ToImmutableArray()).ToImmutableArray();
        if (all.Length == 0 || all.Any(g => g.Length == 0) || all.Sum(g => g.Length) > MostBeeps)
            throw new ArgumentException($"A round has 1 to {MostBeeps} beeps and no empty group.", nameof(groups));
        return all.Length > 1 && all.All(g => g.All(isLong => !isLong))
            ? new BeepPattern(string.Join('-', all.Select(g => g.Length)))
            : new BeepPattern(
                string.Join(' ', Runs([.. all.SelectMany(g => g)]).Select(r => $"{r.Count} {(r.IsLong ? "long" : "short")}"))
            );
    }

    /// <summary>Reads a pattern as a technician may write it: "5", "5 beeps", "1 long, 2 short", "1L2S", "long short short",
    /// "1-2-2-3".</summary>
    /// <param name="text">The text.</param>
    /// <param name="pattern">The pattern.</param>
    /// <returns>False when it is none.</returns>
    public static bool TryParse(string? text, out BeepPattern pattern)
    {
        pattern = Continuous;
        var plain = Folded.Of(text).ToLowerInvariant();
        if (plain.Length is 0 or > LongestText)
            return false;
        var fixedForm = new[] { Continuous, Siren, EndlessShort, EndlessLong }.FirstOrDefault(p => p._text == plain);
        if (fixedForm is not null || (fixedForm = Other(plain)) is not null)
        {
            pattern = fixedForm;
            return true;
        }

        if (GroupForm().IsMatch(plain))
        {
            var counts = plain.Split('-', StringSplitOptions.TrimEntries).Select(n => int.Parse(n, CultureInfo.InvariantCulture)).ToArray();
            if (counts.Sum() > MostBeeps)
                return false;
            pattern = Of(counts.Select(n => Enumerable.Repeat(false, n)));
            return true;
        }

        if (!Between().IsMatch(Run().Replace(plain, " ")))
            return false;
        var beeps = new List<bool>();
        foreach (Match run in Run().Matches(plain))
        {
            var count = run.Groups["n"].Length > 0 ? int.Parse(run.Groups["n"].Value, CultureInfo.InvariantCulture) : 1;
            if (count == 0 || beeps.Count + count > MostBeeps)
                return false;
            beeps.AddRange(Enumerable.Repeat(run.Groups["kind"].Value.StartsWith('l'), count));
        }

        if (beeps.Count == 0)
            return false;
        pattern = Of([beeps]);
        return true;
    }

    /// <summary>In the form of the tables.</summary>
    public override string ToString() => _text;

    /// <summary>Lengths of the beeps of a round, in its groups, true for long; empty for a form without an end.</summary>
    public ImmutableArray<ImmutableArray<bool>> Groups =>
        GroupForm().IsMatch(_text) && _text.Contains('-')
            ? [.. _text.Split('-').Select(n => Enumerable.Repeat(false, int.Parse(n, CultureInfo.InvariantCulture)).ToImmutableArray())]
        : char.IsAsciiDigit(_text[0])
            ?
            [
                [
                    .. Run()
                        .Matches(_text)
                        .SelectMany(r =>
                            Enumerable.Repeat(
                                r.Groups["kind"].Value.StartsWith('l'),
                                int.Parse(r.Groups["n"].Value, CultureInfo.InvariantCulture)
                            )
                        ),
                ],
            ]
        : [];

    private static BeepPattern? Other(string plain) =>
        plain switch
        {
            "endless" or "continuous tone" or "one tone" or "long tone" => Continuous,
            "repeating short" or "short repeating" or "endless shorts" => EndlessShort,
            "repeating long" or "long repeating" or "endless longs" => EndlessLong,
            "high low" or "high-low" or "two tone" => Siren,
            _ => null,
        };

    private static IEnumerable<(bool IsLong, int Count)> Runs(ImmutableArray<bool> beeps)
    {
        for (var i = 0; i < beeps.Length; )
        {
            var end = i;
            while (end < beeps.Length && beeps[end] == beeps[i])
                end++;
            yield return (beeps[i], end - i);
            i = end;
        }
    }

    [GeneratedRegex(@"^[1-9](\s*-\s*[1-9]){1,5}$")]
    private static partial Regex GroupForm();

    /// <summary>What may stand between runs.</summary>
    [GeneratedRegex(@"^(?:[\s,;+]|and\b|then\b)*$")]
    private static partial Regex Between();

    [GeneratedRegex(
        @"(?<n>[0-9]{1,2})?\s*(?<kind>(?:longs?|shorts?|[ls])(?![a-z])|beeps?(?![a-z]))(?:\s*beeps?)?|(?<n>[0-9]{1,2})(?=\s*$)"
    )]
    private static partial Regex Run();
}
