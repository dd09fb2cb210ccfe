using System.Text.Json;
using System.Text.RegularExpressions;
using Kelvet.Core.Text;

namespace Kelvet.Core.Listings;

/// <summary>
/// Reads what common Linux tools print of a machine's parts: dmidecode, lspci, lshw -json, decode-dimms and lsusb, one or
/// several after another. Versions differ, so that what is known is taken and what is not known is told, never guessed.
/// </summary>
public static partial class ListingReader
{
    /// <summary>Most characters of a text.</summary>
    public const int MostCharacters = 2_000_000;

    /// <summary>Most characters of a line: what is longer is no output of these tools.</summary>
    public const int LongestLine = 20_000;

    private const int MostUnread = 20;

    /// <summary>Reads a text.</summary>
    /// <exception cref="DataFileException">It is too long, is no text, or no tool's output is in it.</exception>
    public static Listing Read(string text)
    {
        if (text.Length > MostCharacters)
            throw new DataFileException($"The text has {text.Length:N0} characters; {MostCharacters:N0} is the most.");
        if (text.Contains('\0', StringComparison.Ordinal))
            throw new DataFileException("This is no text. Paste what the tool prints, or upload it as a text file.");
        var trimmed = text.AsSpan().TrimStart();
        if (trimmed.Length > 0 && trimmed[0] is '{' or '[')
            return LshwReader.Read(Json(text));
        var lines = text.ReplaceLineEndings("\n").Split('\n');
        if (Array.FindIndex(lines, l => l.Length > LongestLine) is >= 0 and var tooLong)
            throw new DataFileException($"Line {tooLong + 1} has {lines[tooLong].Length:N0} characters: no tool prints such a line.");
        var read = new bool[lines.Length];
        var listing = DmidecodeReader
            .Read(lines, read)
            .With(DecodeDimmsReader.Read(lines, read))
            .With(PciReader.Read(lines, read))
            .With(UsbReader.Read(lines, read));
        if (listing.Tools.Length == 0)
            throw new DataFileException(
                "No output of dmidecode, lspci, lshw -json, decode-dimms or lsusb was found in it. Paste the whole of what one prints."
            );
        return listing with
        {
            Unread =
            [
                .. lines
                    .Select((l, i) => new UnreadLine(i + 1, l.Length > 80 ? l[..80] : l))
                    .Where(l => !read[l.Number - 1] && l.Text.Trim().Length > 0)
                    .Take(MostUnread),
            ],
        };
    }

    /// <summary>A value that says something; empty for what makers leave in place of one.</summary>
    internal static string Told(string? value)
    {
        var trimmed = Spaces().Replace(value ?? "", " ").Trim();
        return Nothing().IsMatch(trimmed) ? "" : trimmed;
    }

    /// <summary>Maker and model, the maker once.</summary>
    internal static string Named(string? maker, string? model, string fallback)
    {
        var (m, p) = (Told(maker), Told(model));
        var name =
            p.Length == 0 ? m
            : m.Length == 0 || p.StartsWith(m, StringComparison.OrdinalIgnoreCase) ? p
            : $"{m} {p}";
        return name.Length == 0 ? fallback
            : name.Length > 80 ? name[..80].TrimEnd()
            : name;
    }

    /// <summary>The first number in a text; null where there is none.</summary>
    internal static int? Number(string text) =>
        FirstNumber().Match(text) is { Success: true } m && int.TryParse(m.Value, out var number) ? number : null;

    private static JsonElement Json(string text)
    {
        try
        {
            using var document = JsonDocument.Parse(
                text,
                new JsonDocumentOptions
                {
                    MaxDepth = 64,
                    AllowTrailingCommas = true,
                    CommentHandling = JsonCommentHandling.Skip,
                }
            );
            return document.RootElement.Clone();
        }
        catch (JsonException e)
        {
            throw new DataFileException(
                $"It begins like JSON and is none (line {e.LineNumber + 1}). Paste the whole of what lshw -json prints.",
                e
            );
        }
    }

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    [GeneratedRegex(
        @"^(|none|n/?a|unknown|undefined|default string|not (specified|provided|available)|no module installed|empty|\[empty\]|"
            + @"to be filled by o\.?e\.?m\.?|o\.?e\.?m\.?|system (serial number|product name|manufacturer|version)|"
            + @"base board serial number|serial ?num(ber)?[0-9]*|0+|(0x)?f+|0x0+|x+|\.+|-+|0?123456789)$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Nothing();

    [GeneratedRegex(@"[0-9]+")]
    private static partial Regex FirstNumber();
}
