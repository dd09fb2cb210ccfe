using System.Text.Json;
using System.Text.RegularExpressions;
using Kelvet.Core.Text;

namespace Kelvet.Core.Listings;

/// <summary>Reads lshw -json: a tree of nodes, with an array around it in newer versions.</summary>
internal static partial class LshwReader
{
    private const int MostNodes = 20_000;

    /// <summary>Reads the tree.</summary>
    public static Listing Read(JsonElement root)
    {
        var nodes = new List<JsonElement>();
        Collect(root, nodes);
        if (!nodes.Any(n => Text(n, "class").Length > 0 && Text(n, "id").Length > 0))
            throw new DataFileException("This JSON is not of lshw: its nodes have no id and class.");
        return Listing.Empty with
        {
            Tools = ["lshw"],
            System = Part(nodes.FirstOrDefault(n => Text(n, "class") == "system"), ""),
            Board = Part(nodes.FirstOrDefault(n => Text(n, "id") == "core" && Text(n, "class") == "bus"), ""),
            Firmware = nodes.FirstOrDefault(n => Text(n, "id") == "firmware") is { ValueKind: JsonValueKind.Object } firmware
                ? $"{Text(firmware, "version")} {Text(firmware, "date")}".Trim()
                : "",
            Cpu = Part(nodes.FirstOrDefault(n => Text(n, "class") == "processor" && !IsDisabled(n)), "CPU", withMaker: false),
            Socket = "",
            CpuGraphics = nodes.Any(n =>
                Text(n, "class") == "display" && Text(n, "businfo").StartsWith("pci@0000:00:", StringComparison.Ordinal)
            )
                ? true
                : null,
            Memory = [.. nodes.Where(n => Bank().IsMatch(Text(n, "id"))).Select(Stick)],
            Graphics =
            [
                .. nodes
                    .Where(n => Text(n, "class") == "display" && OnACard().IsMatch(Text(n, "businfo")))
                    .Select(n => Part(n, "Graphics card")!),
            ],
            Drives = [.. nodes.Where(n => Text(n, "class") == "disk" && !IsRemovable(n)).Select(n => Part(n, "Drive")!)],
            Usb =
            [
                .. nodes
                    .Where(n =>
                        Text(n, "businfo").StartsWith("usb@", StringComparison.Ordinal)
                        && Text(n, "class") is not ("bus" or "disk" or "volume" or "storage")
                    )
                    .Select(n => Part(n, "USB device")!),
            ],
        };
    }

    private static void Collect(JsonElement element, List<JsonElement> nodes)
    {
        if (nodes.Count > MostNodes)
            throw new DataFileException($"It has more than {MostNodes:N0} nodes: no machine does.");
        if (element.ValueKind == JsonValueKind.Array)
        {
            foreach (var item in element.EnumerateArray())
                Collect(item, nodes);
        }
        else if (element.ValueKind == JsonValueKind.Object)
        {
            nodes.Add(element);
            if (element.TryGetProperty("children", out var children))
                Collect(children, nodes);
        }
    }

    private static ListedStick Stick(JsonElement node)
    {
        var description = Text(node, "description");
        var empty = description.Contains("[empty]", StringComparison.OrdinalIgnoreCase);
        return new ListedStick(ListingReader.Told(Text(node, "slot")), empty ? 0 : Gb(node))
        {
            Type = Generation().Match(description) is { Success: true } m ? m.Value : "",
            Maker = ListingReader.Told(Text(node, "vendor")),
            PartNumber = ListingReader.Told(Text(node, "product")),
            Serial = ListingReader.Told(Text(node, "serial")),
            Speed = Speed().Match(description) is { Success: true } s ? ListingReader.Number(s.Value) : null,
        };
    }

    private static int? Gb(JsonElement node) =>
        node.TryGetProperty("size", out var size) && size.ValueKind == JsonValueKind.Number && size.TryGetInt64(out var bytes)
            ? (int)Math.Clamp(bytes >> 30, 0, 1 << 20)
            : null;

    private static ListedPart? Part(JsonElement node, string fallback, bool withMaker = true)
    {
        if (node.ValueKind != JsonValueKind.Object)
            return null;
        var named = ListingReader.Named(withMaker ? Text(node, "vendor") : "", Text(node, "product"), fallback);
        var serial = ListingReader.Told(Text(node, "serial"));
        return named.Length == 0 && serial.Length == 0 ? null : new ListedPart(named, serial);
    }

    private static bool IsDisabled(JsonElement node) => node.TryGetProperty("disabled", out var d) && d.ValueKind == JsonValueKind.True;

    private static bool IsRemovable(JsonElement node) =>
        Text(node, "id").StartsWith("cdrom", StringComparison.Ordinal)
        || Text(node, "businfo").StartsWith("usb@", StringComparison.Ordinal);

    private static string Text(JsonElement node, string name) =>
        node.ValueKind == JsonValueKind.Object && node.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String
            ? value.GetString()!
            : "";

    [GeneratedRegex(@"^bank(:[0-9]+)?$")]
    private static partial Regex Bank();

    [GeneratedRegex(@"^pci@[0-9a-f]{4}:(?!00:)")]
    private static partial Regex OnACard();

    [GeneratedRegex(@"\b(LP)?DDR[0-9]*X?\b")]
    private static partial Regex Generation();

    [GeneratedRegex(@"[0-9]+ (MHz|MT/s)")]
    private static partial Regex Speed();
}
