using System.Collections.Immutable;
using System.Text.RegularExpressions;

namespace Kelvet.Core.Listings;

/// <summary>Reads lspci, plain, with -nn, -v or -mm: cards that make a picture, and drives that sit on the bus.</summary>
internal static partial class PciReader
{
    /// <summary>Reads the devices among lines, and marks those lines.</summary>
    public static Listing Read(string[] lines, bool[] read)
    {
        var graphics = ImmutableArray.CreateBuilder<ListedPart>();
        var drives = ImmutableArray.CreateBuilder<ListedPart>();
        bool? own = null;
        var found = false;
        for (var i = 0; i < lines.Length; i++)
        {
            if (Device().Match(lines[i]) is not { Success: true } device)
                continue;
            found = read[i] = true;
            var (kind, name) = (device.Groups["class"].Value, Clean(device.Groups["name"].Value));
            if (Quoted().Match(lines[i]) is { Success: true } quoted)
                (kind, name) = (quoted.Groups["class"].Value, Clean($"{quoted.Groups["maker"].Value} {quoted.Groups["model"].Value}"));
            if (Picture().IsMatch(kind))
            {
                // What sits on the first bus is part of the processor; a card sits behind a bridge.
                if (device.Groups["bus"].Value == "00")
                    own = true;
                else
                    graphics.Add(new ListedPart(ListingReader.Named("", name, "Graphics card"), ""));
            }
            else if (kind.Contains("Non-Volatile memory", StringComparison.OrdinalIgnoreCase))
                drives.Add(new ListedPart(ListingReader.Named("", name, "Drive"), ""));

            // Details of -v belong to the device above them.
            while (i + 1 < lines.Length && lines[i + 1].Length > 0 && char.IsWhiteSpace(lines[i + 1][0]))
                read[++i] = true;
        }

        return found
            ? Listing.Empty with
            {
                Tools = ["lspci"],
                Graphics = graphics.ToImmutable(),
                Drives = drives.ToImmutable(),
                CpuGraphics = own,
            }
            : Listing.Empty;
    }

    private static string Clean(string name) => Tail().Replace(name, "").Trim();

    [GeneratedRegex(
        @"^(?:[0-9a-f]{4}:)?(?<bus>[0-9a-f]{2}):[0-9a-f]{2}\.[0-7] (?<class>[^:""]*?)(?: \[[0-9a-f]{4}\])?(?:: (?<name>.*)|$|"")"
    )]
    private static partial Regex Device();

    [GeneratedRegex(
        @"\.[0-7] ""(?<class>[^""]*?)(?: \[[0-9a-f]{4}\])?"" ""(?<maker>[^""]*?)(?: \[[0-9a-f]{4}\])?"" "
            + @"""(?<model>[^""]*?)(?: \[[0-9a-f]{4}\])?"""
    )]
    private static partial Regex Quoted();

    [GeneratedRegex(@"VGA compatible|3D controller|Display controller", RegexOptions.IgnoreCase)]
    private static partial Regex Picture();

    [GeneratedRegex(@"(\s*\[[0-9a-f]{4}:[0-9a-f]{4}\])?(\s*\(rev [0-9a-f]+\))?(\s*\(prog-if [^)]*\))?\s*$")]
    private static partial Regex Tail();
}
