using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Kelvet.Core.Listings;

/// <summary>Reads dmidecode: the tables that a firmware keeps of its machine (structures of DSP0134, System Management BIOS).</summary>
internal static partial class DmidecodeReader
{
    /// <summary>Reads the structures among lines, and marks those lines.</summary>
    public static Listing Read(string[] lines, bool[] read)
    {
        var listing = Listing.Empty;
        var memory = ImmutableArray.CreateBuilder<ListedStick>();
        for (var i = 0; i < lines.Length; i++)
        {
            if (Head().IsMatch(lines[i]) || Preface().IsMatch(lines[i]))
                read[i] = true;
            if (TypeOf(lines, i) is not { } type)
                continue;
            listing = listing with { Tools = ["dmidecode"] };
            read[i] = true;
            var fields = Fields(lines, read, ref i);
            listing = type switch
            {
                "0" => listing with { Firmware = $"{Told(fields, "Version")} {Told(fields, "Release Date")}".Trim() },
                "1" => listing with { System = Part(fields, "Product Name") },
                "2" when listing.Board is null => listing with { Board = Part(fields, "Product Name") },
                "4" when listing.Cpu is null && !Told(fields, "Status").Contains("Unpopulated", StringComparison.OrdinalIgnoreCase) =>
                    listing with
                    {
                        Cpu = new ListedPart(ListingReader.Named("", fields.GetValueOrDefault("Version"), "CPU"), ""),
                        Socket = SocketOf(fields),
                    },
                _ => listing,
            };
            if (type == "17")
                memory.Add(Stick(fields));
        }

        return listing with
        {
            Memory = memory.ToImmutable(),
        };
    }

    /// <summary>
    /// The number of the structure that begins on a line; null where none does. Without handles (dmidecode -q) the title alone
    /// tells, with its fields below it.
    /// </summary>
    private static string? TypeOf(string[] lines, int i) =>
        Handle().Match(lines[i]) is { Success: true } handle ? handle.Groups["type"].Value
        : i + 1 < lines.Length && lines[i + 1].StartsWith('\t') && !lines[i].StartsWith('\t') ? Titles.GetValueOrDefault(lines[i].TrimEnd())
        : null;

    private static readonly Dictionary<string, string> Titles = new(StringComparer.Ordinal)
    {
        ["BIOS Information"] = "0",
        ["System Information"] = "1",
        ["Base Board Information"] = "2",
        ["Chassis Information"] = "3",
        ["Processor Information"] = "4",
        ["Cache Information"] = "7",
        ["Physical Memory Array"] = "16",
        ["Memory Device"] = "17",
        ["Memory Array Mapped Address"] = "19",
        ["Memory Device Mapped Address"] = "20",
    };

    /// <summary>The fields of a structure; lists below a field are passed over.</summary>
    private static Dictionary<string, string> Fields(string[] lines, bool[] read, ref int i)
    {
        var fields = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        while (i + 1 < lines.Length && lines[i + 1].Length > 0 && !Handle().IsMatch(lines[i + 1]))
        {
            read[++i] = true;
            if (Field().Match(lines[i]) is { Success: true } field)
                fields.TryAdd(field.Groups["name"].Value, field.Groups["value"].Value);
        }

        return fields;
    }

    private static ListedStick Stick(Dictionary<string, string> fields)
    {
        var size = fields.GetValueOrDefault("Size", "");
        return new ListedStick(Told(fields, "Locator"), Gb(size))
        {
            Type = Told(fields, "Type"),
            Maker = Told(fields, "Manufacturer"),
            PartNumber = Told(fields, "Part Number"),
            Serial = Told(fields, "Serial Number"),
            Speed = ListingReader.Number(Told(fields, "Speed")),
            Runs = ListingReader.Number(Told(fields, "Configured Memory Speed", "Configured Clock Speed")),
            Ranks = ListingReader.Number(Told(fields, "Rank")),
        };
    }

    /// <summary>Capacity in GB: 0 where no module is installed, null where it is not known.</summary>
    internal static int? Gb(string size)
    {
        if (size.Contains("No Module", StringComparison.OrdinalIgnoreCase))
            return 0;
        return
            Size().Match(size) is { Success: true } m
            && double.TryParse(m.Groups["n"].Value, NumberStyles.Number, CultureInfo.InvariantCulture, out var n)
            ? m.Groups["unit"].Value.ToUpperInvariant()[0] switch
            {
                'T' => (int)(n * 1024),
                'G' => (int)n,
                'M' => (int)(n / 1024),
                _ => (int)(n / 1024 / 1024),
            }
            : null;
    }

    private static string SocketOf(Dictionary<string, string> fields)
    {
        var upgrade = Told(fields, "Upgrade");
        return upgrade.StartsWith("Socket ", StringComparison.Ordinal) ? upgrade["Socket ".Length..]
            : upgrade is "Other" or "ZIF Socket" or "Daughter Board" or "None" ? ""
            : upgrade;
    }

    private static ListedPart? Part(Dictionary<string, string> fields, string name)
    {
        var named = ListingReader.Named(fields.GetValueOrDefault("Manufacturer"), fields.GetValueOrDefault(name), "");
        var serial = Told(fields, "Serial Number");
        return named.Length == 0 && serial.Length == 0 ? null : new ListedPart(named, serial);
    }

    private static string Told(Dictionary<string, string> fields, params string[] names) =>
        names.Select(n => ListingReader.Told(fields.GetValueOrDefault(n))).FirstOrDefault(v => v.Length > 0) ?? "";

    [GeneratedRegex(@"^Handle 0x[0-9A-Fa-f]+, DMI type (?<type>[0-9]+), [0-9]+ bytes")]
    private static partial Regex Handle();

    [GeneratedRegex(@"^\t(?<name>[A-Za-z][^:\t]{0,60}):\s*(?<value>.*)$")]
    private static partial Regex Field();

    [GeneratedRegex(@"^# (dmidecode|SMBIOS)")]
    private static partial Regex Head();

    [GeneratedRegex(
        @"^(Getting SMBIOS data|Reading SMBIOS|SMBIOS [0-9.]+ present|Table at 0x|[0-9]+ structures occupying|Scanning |"
            + @"Invalid entry length|End Of Table|# No SMBIOS|Using legacy)"
    )]
    private static partial Regex Preface();

    [GeneratedRegex(@"(?<n>[0-9.]+)\s*(?<unit>[kKMGT])B")]
    private static partial Regex Size();
}
