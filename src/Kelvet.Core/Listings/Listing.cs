using System.Collections.Immutable;

namespace Kelvet.Core.Listings;

/// <summary>A memory stick, or an empty slot, as a tool lists it.</summary>
/// <param name="Slot">The slot's name as printed; empty where the tool does not tell.</param>
/// <param name="Gb">Capacity, GB; 0 for an empty slot, null where it is not told.</param>
public sealed record ListedStick(string Slot, int? Gb)
{
    /// <summary>Generation, such as "DDR4"; empty where it is not told.</summary>
    public string Type { get; init; } = "";

    /// <summary>Maker; empty where it is not told.</summary>
    public string Maker { get; init; } = "";

    /// <summary>The maker's part number.</summary>
    public string PartNumber { get; init; } = "";

    /// <summary>Serial number.</summary>
    public string Serial { get; init; } = "";

    /// <summary>Rated speed, MT/s; null where it is not told.</summary>
    public int? Speed { get; init; }

    /// <summary>Speed that it runs at, MT/s; null where it is not told.</summary>
    public int? Runs { get; init; }

    /// <summary>Ranks; null where it is not told.</summary>
    public int? Ranks { get; init; }
}

/// <summary>A part as a tool lists it.</summary>
/// <param name="Name">Maker and model.</param>
/// <param name="Serial">Serial number; empty where it is not told.</param>
public sealed record ListedPart(string Name, string Serial);

/// <summary>A line that no reader could read.</summary>
/// <param name="Number">Its number in the text, from 1.</param>
/// <param name="Text">The line, cut short.</param>
public sealed record UnreadLine(int Number, string Text);

/// <summary>What the tools of a running system say of its parts. What they do not say is null or empty.</summary>
public sealed record Listing
{
    /// <summary>Nothing.</summary>
    public static Listing Empty { get; } = new();

    /// <summary>Names of the tools whose output was found.</summary>
    public ImmutableArray<string> Tools { get; init; } = [];

    /// <summary>The whole machine, as its maker calls it.</summary>
    public ListedPart? System { get; init; }

    /// <summary>The motherboard.</summary>
    public ListedPart? Board { get; init; }

    /// <summary>Version and date of the firmware, as printed; empty where they are not told.</summary>
    public string Firmware { get; init; } = "";

    /// <summary>The processor.</summary>
    public ListedPart? Cpu { get; init; }

    /// <summary>The processor's socket as printed; empty where it is not told.</summary>
    public string Socket { get; init; } = "";

    /// <summary>Whether the processor makes a picture by itself; null where it is not told.</summary>
    public bool? CpuGraphics { get; init; }

    /// <summary>Sticks and empty slots.</summary>
    public ImmutableArray<ListedStick> Memory { get; init; } = [];

    /// <summary>Cards that make a picture.</summary>
    public ImmutableArray<ListedPart> Graphics { get; init; } = [];

    /// <summary>Drives.</summary>
    public ImmutableArray<ListedPart> Drives { get; init; } = [];

    /// <summary>What hangs on USB, hubs inside the machine left out.</summary>
    public ImmutableArray<ListedPart> Usb { get; init; } = [];

    /// <summary>Lines that could not be read.</summary>
    public ImmutableArray<UnreadLine> Unread { get; init; } = [];

    /// <summary>Both together: what this one does not tell is taken from the other.</summary>
    public Listing With(Listing other) =>
        this with
        {
            Tools = [.. Tools.Union(other.Tools)],
            System = System ?? other.System,
            Board = Board ?? other.Board,
            Firmware = Firmware.Length > 0 ? Firmware : other.Firmware,
            Cpu = Cpu ?? other.Cpu,
            Socket = Socket.Length > 0 ? Socket : other.Socket,
            CpuGraphics = CpuGraphics ?? other.CpuGraphics,
            Memory = Better(Memory, other.Memory),
            Graphics = Graphics.Length > 0 ? Graphics : other.Graphics,
            Drives = Drives.Length > 0 ? Drives : other.Drives,
            Usb = Usb.Length > 0 ? Usb : other.Usb,
            Unread = [.. Unread, .. other.Unread],
        };

    /// <summary>One list names slots, the other reads the sticks themselves: what is missing in the one is filled by serial.</summary>
    private static ImmutableArray<ListedStick> Better(ImmutableArray<ListedStick> one, ImmutableArray<ListedStick> other)
    {
        if (one.Length == 0)
            return other;
        return
        [
            .. one.Select(s =>
                other.FirstOrDefault(o => o.Serial.Length > 0 && Bare(o.Serial) == Bare(s.Serial)) is { } same
                    ? s with
                    {
                        Type = s.Type.Length > 0 ? s.Type : same.Type,
                        Ranks = s.Ranks ?? same.Ranks,
                        Speed = s.Speed ?? same.Speed,
                        PartNumber = s.PartNumber.Length > 0 ? s.PartNumber : same.PartNumber,
                    }
                    : s
            ),
        ];
    }

    /// <summary>The one tool writes "0x1A2B", the other "1A2B".</summary>
    private static string Bare(string serial) =>
        (serial.StartsWith("0x", StringComparison.OrdinalIgnoreCase) ? serial[2..] : serial).ToUpperInvariant();
}
