using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Listings;

/// <summary>A machine made of what tools say of it, its slots as found and its sticks told apart by their marks.</summary>
public static partial class ListedMachine
{
    /// <summary>
    /// The parts that a listing tells of, in their places: board, CPU, memory, cards, drives, what hangs on USB. What no tool
    /// tells of (supply, cooler, switch, monitor) is not in it.
    /// </summary>
    public static (Parts Parts, Configuration Fitted) Of(Listing listing)
    {
        // Long: it lists a machine part by part.
        var units = new List<Unit>();
        var fitted = Configuration.Empty.WithStart(StartMethod.CaseSwitch);
        var slots = Slots(listing.Memory);
        Put(
            new Motherboard(
                new UnitId("board"),
                listing.Board?.Name is { Length: > 0 } name ? name : "Motherboard",
                Origin.Customer,
                slots.Select(s => s.Slot),
                listing.CpuGraphics == true ? [new VideoOutput("HDMI", VideoSignal.Digital)] : [],
                Enumerable.Range(1, Math.Max(1, Math.Min(8, listing.Graphics.Length))).Select(n => $"{n}")
            )
            {
                // No tool sees sockets at the back, nor a slot with nothing in it.
                Guessed =
                [
                    .. listing.Board?.Name is { Length: > 0 } ? ImmutableArray<PartFact>.Empty : [PartFact.Name],
                    .. listing.Memory.IsEmpty ? ImmutableArray.Create(PartFact.Slots) : [],
                    PartFact.CardSlots,
                    PartFact.Outputs,
                ],
                Serial = Cut(listing.Board?.Serial ?? "", 60),
                Socket = Cut(listing.Socket, 20),
                FirmwareDate = DateOf(listing.Firmware),
                MemoryType = Cut(listing.Memory.Select(m => m.Type).FirstOrDefault(t => t.Length > 0) ?? "", 20),
            },
            Place.Board
        );
        Put(
            new Cpu(new UnitId("cpu"), listing.Cpu?.Name ?? "CPU", Origin.Customer, listing.CpuGraphics == true)
            {
                Guessed =
                [
                    .. listing.Cpu is null ? ImmutableArray.Create(PartFact.Name) : [],
                    .. listing.CpuGraphics is null ? ImmutableArray.Create(PartFact.Graphics) : [],
                ],
                Socket = Cut(listing.Socket, 20),
            },
            Place.Cpu
        );
        var number = 0;
        foreach (var (slot, stick) in slots.Where(s => s.Stick is { Gb: not 0 }))
            Put(Stick(stick!, ++number), Place.Memory(slot.Name));
        foreach (var (card, i) in listing.Graphics.Take(8).Select((c, i) => (c, i + 1)))
        {
            var id = new UnitId(i == 1 ? "card" : $"card-{i}");
            Put(
                new GraphicsCard(id, card.Name, Origin.Customer, OrdinaryMachine.CardOutputs, needsAuxPower: false)
                {
                    Guessed = [PartFact.Outputs, PartFact.AuxPower],
                },
                Place.Card($"{i}")
            );
        }

        foreach (var (drive, i) in listing.Drives.Take(12).Select((d, i) => (d, i + 1)))
            Put(Plain($"drive-{i}", UnitKind.Storage, drive), Place.Storage($"{i}"));
        foreach (var (device, i) in listing.Usb.Take(6).Select((d, i) => (d, i + 1)))
            Put(Plain($"usb-{i}", UnitKind.Peripheral, device), Place.Peripheral($"{i}"));
        OutputRef? display =
            listing.Graphics.Length > 0 ? new OutputRef(Place.Card("1"), "DP 1")
            : listing.CpuGraphics == true ? new OutputRef(Place.Board, "HDMI")
            : null;
        return (Parts.Of(units), fitted.WithDisplay(display));

        void Put(Unit unit, Place place)
        {
            units.Add(unit with { KnownFrom = FactSource.Listed });
            fitted = fitted.WithUnit(place, unit.Id);
        }

        static Unit Plain(string id, UnitKind kind, ListedPart part) =>
            Unit.Plain(new UnitId(id), kind, part.Name, Origin.Customer) with
            {
                Serial = Cut(part.Serial, 60),
            };
    }

    private static MemoryStick Stick(ListedStick listed, int number)
    {
        var name = ListingReader.Named(listed.Maker, listed.PartNumber, $"Memory stick {number}");
        return new MemoryStick(new UnitId($"stick-{number}"), name, Origin.Customer)
        {
            MemoryType = Cut(listed.Type, 20),
            SizeGb = Math.Clamp(listed.Gb ?? 0, 0, 1024),
            Serial = Cut(listed.Serial, 60),
            PartNumber = Cut(listed.PartNumber, 40),
            Ranks = listed.Ranks is >= 1 and <= 8 ? listed.Ranks : null,
            Speed = Fast(listed.Speed),
            // What runs faster than its plain speed runs by a profile.
            Profile = listed.Runs > listed.Speed ? Fast(listed.Runs) : null,
        };

        static int? Fast(int? speed) => speed is >= MemoryStick.LeastSpeed and <= MemoryStick.MostSpeed ? speed : null;
    }

    /// <summary>The date of a firmware as its table writes it, month first; null where it is none.</summary>
    private static DateOnly? DateOf(string firmware) =>
        DateOnly.TryParseExact(
            firmware[(firmware.LastIndexOf(' ') + 1)..],
            "MM/dd/yyyy",
            CultureInfo.InvariantCulture,
            DateTimeStyles.None,
            out var date
        )
            ? date
            : null;

    /// <summary>
    /// Slots by the names that the firmware gives them. Where a name tells no channel each is taken for a channel of its own,
    /// so that nothing is said of their order; where no tool tells of slots, as many as sticks are numbered.
    /// </summary>
    private static List<(MemorySlot Slot, ListedStick? Stick)> Slots(ImmutableArray<ListedStick> memory)
    {
        var slots = new List<(MemorySlot, ListedStick?)>();
        var taken = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (stick, i) in memory.Take(16).Select((m, i) => (m, i + 1)))
        {
            var printed = Valid().Replace(stick.Slot, "-").Trim('-', ' ');
            var name = Cut(printed, 20).TrimEnd('-', ' ');
            if (name.Length == 0 || !SlotName.IsValid(name) || !taken.Add(name))
                taken.Add(name = $"{i}");
            var channel = Channel().Match(stick.Slot) is { Success: true } m ? m.Groups["channel"].Value : $"{i}";
            slots.Add((new MemorySlot(name, channel), stick));
        }

        return slots.Count > 0 ? slots : [(new MemorySlot("A1", "A"), null), (new MemorySlot("B1", "B"), null)];
    }

    private static string Cut(string text, int most) => text.Length > most ? text[..most].TrimEnd() : text;

    [GeneratedRegex("[^A-Za-z0-9 -]+")]
    private static partial Regex Valid();

    [GeneratedRegex(
        @"(Channel\s*-?_?(?<channel>[A-H])\b)|(Channel(?<channel>[A-H])-)|(DIMM[ _-]?(?<channel>[A-H])[ _-]?[0-9]\b)|"
            + "(^(?<channel>[A-H])[0-9]$)",
        RegexOptions.ExplicitCapture
    )]
    private static partial Regex Channel();
}
