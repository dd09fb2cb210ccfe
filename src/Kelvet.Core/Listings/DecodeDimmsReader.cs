using System.Collections.Immutable;
using System.Text.RegularExpressions;

namespace Kelvet.Core.Listings;

/// <summary>Reads decode-dimms: what each stick says of itself (serial presence detect, JEDEC).</summary>
internal static partial class DecodeDimmsReader
{
    /// <summary>Reads the sticks among lines, and marks those lines.</summary>
    public static Listing Read(string[] lines, bool[] read)
    {
        var from = Array.FindIndex(lines, l => Begin().IsMatch(l));
        if (from < 0)
            return Listing.Empty;
        var sticks = ImmutableArray.CreateBuilder<ListedStick>();
        Dictionary<string, string>? fields = null;
        var ours = true;
        for (var i = from; i < lines.Length; i++)
        {
            if (OtherTool().IsMatch(lines[i]))
                ours = false;
            if (Decoding().IsMatch(lines[i]))
            {
                Keep();
                fields = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
                ours = true;
            }

            if (!ours)
                continue;
            read[i] = true;
            if (fields is not null && Field().Match(lines[i]) is { Success: true } field)
                fields.TryAdd(field.Groups["name"].Value.Trim(), field.Groups["value"].Value.Trim());
        }

        Keep();
        return Listing.Empty with { Tools = ["decode-dimms"], Memory = sticks.ToImmutable() };

        void Keep()
        {
            if (fields is { Count: > 0 } && Stick(fields) is { } stick)
                sticks.Add(stick);
        }
    }

    private static ListedStick? Stick(Dictionary<string, string> fields)
    {
        var type = Told("Fundamental Memory type");
        var gb = DmidecodeReader.Gb(Told("Size"));
        if (type.Length == 0 && gb is null)
            return null;
        return new ListedStick("", gb)
        {
            Type = Generation().Match(type) is { Success: true } m ? m.Value : type,
            Maker = Told("Module Manufacturer"),
            PartNumber = Told("Part Number"),
            Serial = Told("Assembly Serial Number"),
            Speed = ListingReader.Number(Told("Maximum module speed")),
            Ranks = ListingReader.Number(Told("Ranks")),
        };

        string Told(string name) => ListingReader.Told(fields.GetValueOrDefault(name));
    }

    [GeneratedRegex(@"^# decode-dimms|^Memory Serial Presence Detect Decoder|^Decoding EEPROM")]
    private static partial Regex Begin();

    [GeneratedRegex(@"^Decoding EEPROM")]
    private static partial Regex Decoding();

    [GeneratedRegex(@"^(Handle 0x|Bus [0-9]{3} Device |[0-9a-f]{2}:[0-9a-f]{2}\.[0-7] |# dmidecode)")]
    private static partial Regex OtherTool();

    [GeneratedRegex(@"^(?<name>[A-Za-z][^\t:]{2,48}?)\s{2,}(?<value>\S.*)$")]
    private static partial Regex Field();

    [GeneratedRegex(@"^(LP)?DDR[0-9]*X?")]
    private static partial Regex Generation();
}
