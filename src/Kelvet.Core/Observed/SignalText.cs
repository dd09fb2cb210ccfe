using System.Globalization;
using System.Text.RegularExpressions;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>Brings a signal, as read or written by hand, into the one form in which tables list it.</summary>
public static partial class SignalText
{
    /// <summary>The form of a kind.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="text">As written: "0x55", "five beeps" is not understood, "5 beeps" is.</param>
    /// <returns>The form, or null when the text is no signal of this kind.</returns>
    public static string? Of(SignalKind kind, string? text)
    {
        var plain = Folded.Of(text);
        return kind switch
        {
            SignalKind.Post => Post(plain),
            SignalKind.Beeps => BeepPattern.TryParse(plain, out var pattern) ? pattern.ToString() : null,
            SignalKind.Lights => LightSequence.TryParse(plain, out var lights) ? lights.Key : Blinks(plain),
            SignalKind.Firmware => Firmware(plain),
            _ => null,
        };
    }

    /// <summary>The form of what was typed into the field of a kind: in a code's field a status code of 32 bits is understood as
    /// well.</summary>
    public static string? Typed(SignalKind kind, string? text) =>
        Of(kind, text) ?? (kind == SignalKind.Post ? Of(SignalKind.Firmware, text) : null);

    /// <summary>What a form looks like, for messages.</summary>
    public static string Expected(SignalKind kind) =>
        kind switch
        {
            SignalKind.Post => "two hexadecimal digits such as 55, or a range such as 12-14",
            SignalKind.Beeps => "a beep pattern such as 5 short, 1 long 2 short, 1-3-3-1, continuous, endless short or siren",
            SignalKind.Lights => "lights in their order such as cpu memory~, or blinks such as 3 amber 2 white",
            SignalKind.Firmware => "a word and a hexadecimal number, such as error 01 or progress 00051000",
            _ => "a signal",
        };

    /// <summary>Two upper-case digits; a range of a table as "12-14"; "--" for a dark display.</summary>
    private static string? Post(string text)
    {
        if (text is "--" or "-")
            return "--";
        var match = PostForm().Match(text);
        if (!match.Success)
            return null;
        var from = match.Groups["from"].Value.ToUpperInvariant();
        if (match.Groups["to"].Length == 0)
            return from;
        var to = match.Groups["to"].Value.ToUpperInvariant();
        return string.CompareOrdinal(from, to) < 0 ? $"{from}-{to}" : null;
    }

    private static string? Firmware(string text)
    {
        if (Bare().IsMatch(text))
            return "error " + text.ToUpperInvariant();
        var match = FirmwareForm().Match(text);
        return match.Success ? $"{match.Groups["word"].Value.ToLowerInvariant()} {match.Groups["value"].Value.ToUpperInvariant()}" : null;
    }

    private static string? Blinks(string text)
    {
        var match = BlinkForm().Match(text);
        return match.Success
            ? string.Join(
                ' ',
                match
                    .Groups["n"]
                    .Captures.Zip(
                        match.Groups["colour"].Captures,
                        (n, c) =>
                            string.Create(
                                CultureInfo.InvariantCulture,
                                $"{int.Parse(n.Value, CultureInfo.InvariantCulture)} {c.Value.ToLowerInvariant()}"
                            )
                    )
            )
            : null;
    }

    [GeneratedRegex(@"^(?:0x|\$)?(?<from>[0-9a-f]{2})h?(?:\s*-\s*(?:0x|\$)?(?<to>[0-9a-f]{2})h?)?$", RegexOptions.IgnoreCase)]
    private static partial Regex PostForm();

    [GeneratedRegex(@"^[0-9a-f]{8}$", RegexOptions.IgnoreCase)]
    private static partial Regex Bare();

    [GeneratedRegex(@"^(?<word>[a-z]{2,20})\s+(?:0x)?(?<value>[0-9a-f]{2}|[0-9a-f]{8})$", RegexOptions.IgnoreCase)]
    private static partial Regex FirmwareForm();

    [GeneratedRegex(@"^((?<n>[0-9]{1,2})\s*(?<colour>amber|white|red|blue|green|orange|yellow)[\s,]*){1,3}$", RegexOptions.IgnoreCase)]
    private static partial Regex BlinkForm();
}
