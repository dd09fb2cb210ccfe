using System.Collections.Immutable;
using System.Text.RegularExpressions;

namespace Kelvet.Core.Listings;

/// <summary>Reads lsusb: what hangs on USB.</summary>
internal static partial class UsbReader
{
    /// <summary>Reads the devices among lines, and marks those lines.</summary>
    public static Listing Read(string[] lines, bool[] read)
    {
        var devices = ImmutableArray.CreateBuilder<ListedPart>();
        var found = false;
        for (var i = 0; i < lines.Length; i++)
        {
            if (Device().Match(lines[i]) is not { Success: true } device)
                continue;
            found = read[i] = true;
            // Root hubs are the machine's own.
            if (device.Groups["maker"].Value != "1d6b")
                devices.Add(
                    new ListedPart(ListingReader.Named("", device.Groups["name"].Value, $"USB device {device.Groups["id"].Value}"), "")
                );
        }

        return found ? Listing.Empty with { Tools = ["lsusb"], Usb = devices.ToImmutable() } : Listing.Empty;
    }

    [GeneratedRegex(@"^Bus [0-9]{3} Device [0-9]{3}: ID (?<id>(?<maker>[0-9a-f]{4}):[0-9a-f]{4})(?: (?<name>.*))?$")]
    private static partial Regex Device();
}
