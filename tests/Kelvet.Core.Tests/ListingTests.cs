using System.Buffers.Binary;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Tests;

/// <summary>
/// What tools print of a machine, checked against the tools themselves (Debian's dmidecode, i2c-tools, pciutils, lshw,
/// usbutils): tests write the tables that firmware and sticks hold, the tool turns them into its text, and the reader must
/// find what was put in.
/// </summary>
public class ListingTests
{
    private static readonly string Folder = Directory.CreateTempSubdirectory("kelvet-listing-").FullName;

    [Fact]
    public void Dmidecode_tells_board_firmware_cpu_and_every_slot()
    {
        var dump = Path.Combine(Folder, "smbios.bin");
        File.WriteAllBytes(dump, Smbios.Dump());
        var text = Tool("dmidecode", "--from-dump", dump);
        var listing = ListingReader.Read(text);
        Assert.Equal("dmidecode", Assert.Single(listing.Tools));
        Assert.Equal(new ListedPart("Ondel Vantage 40", "SYS-77"), listing.System);
        Assert.Equal(new ListedPart("Ondel B40-M", "BRD-0042"), listing.Board);
        Assert.Equal("F12 03/01/2026", listing.Firmware);
        Assert.Equal("Corvane 6 Six-Core", listing.Cpu!.Name);
        Assert.Equal("AM4", listing.Socket);
        Assert.Equal(["DIMM_A1", "DIMM_A2", "DIMM_B1", "DIMM_B2"], listing.Memory.Select(m => m.Slot));
        Assert.Equal([0, 8, 0, 16], listing.Memory.Select(m => m.Gb));
        var stick = listing.Memory[1];
        Assert.Equal(("DDR4", 3200, 2400, "MK-8G-32", "S0001"), (stick.Type, stick.Speed, stick.Runs, stick.PartNumber, stick.Serial));
        Assert.Empty(listing.Unread);
    }

    private static readonly Smbios.Bank[] Two = [new("DIMM 0", 1, "DDR2", 800, "A1", "P-1"), new("DIMM 1", 2, "DDR2", 667, "A2", "P-2")];
    private static readonly Smbios.Bank[] Four =
    [
        new("ChannelA-DIMM0", 0, "DDR3", 0, "", ""),
        new("ChannelA-DIMM1", 4, "DDR3", 1600, "B1", "P-3"),
        new("ChannelB-DIMM0", 0, "DDR3", 0, "", ""),
        new("ChannelB-DIMM1", 8, "DDR3", 1333, "B2", "P-4"),
    ];
    private static readonly Smbios.Bank[] Eight =
    [
        .. "ABCD".SelectMany(c => new[] { 1, 2 }.Select(n => new Smbios.Bank($"DIMM_{c}{n}", 16, "DDR4", 2933, $"C{c}{n}", $"P-{c}{n}"))),
    ];
    private static readonly Smbios.Bank[] Large =
    [
        new("DIMMA1", 48, "DDR5", 5600, "D1", "P-5"),
        new("DIMMB1", 64, "DDR5", 4800, "D2", "P-6"),
    ];

    /// <summary>
    /// Tables of ten versions of the specification, printed by dmidecode in each of its ways: as many real outputs, none of which
    /// loses a stick, a slot or a figure without saying so.
    /// </summary>
    [Theory]
    [InlineData(2, 3, "two")]
    [InlineData(2, 4, "two")]
    [InlineData(2, 5, "four")]
    [InlineData(2, 6, "four")]
    [InlineData(2, 7, "four")]
    [InlineData(2, 8, "eight")]
    [InlineData(3, 0, "eight")]
    [InlineData(3, 1, "eight")]
    [InlineData(3, 2, "large")]
    [InlineData(3, 3, "large")]
    public void Dmidecode_loses_no_stick_of_any_version(int major, int minor, string which)
    {
        var banks = which switch
        {
            "two" => Two,
            "four" => Four,
            "eight" => Eight,
            _ => Large,
        };
        var dump = Path.Combine(Folder, $"smbios-{major}-{minor}.bin");
        File.WriteAllBytes(dump, Smbios.Dump(major, minor, banks));
        foreach (var how in new string[][] { [], ["-t", "17"], ["-q"], ["-t", "memory"] })
        {
            var listing = ListingReader.Read(Tool("dmidecode", ["--from-dump", dump, .. how]));
            Assert.Equal(banks.Select(b => (b.Slot, (int?)b.Gb)), listing.Memory.Select(m => (m.Slot, m.Gb)));
            Assert.Equal(
                banks.Where(b => b.Gb > 0).Select(b => (b.Type, (int?)b.Speed, b.Serial, b.Part)),
                listing.Memory.Where(m => m.Gb > 0).Select(m => (m.Type, m.Speed, m.Serial, m.PartNumber))
            );
            Assert.Empty(listing.Unread);
            Assert.Equal(how.Length == 0 || how[0] == "-q", listing.Board is { Name: "Ondel X60", Serial: "BRD-9" });
        }
    }

    [Fact]
    public void A_machine_is_made_of_it_with_slots_as_found_and_sticks_told_apart()
    {
        var dump = Path.Combine(Folder, "smbios-2.bin");
        File.WriteAllBytes(dump, Smbios.Dump());
        var (parts, fitted) = ListedMachine.Of(ListingReader.Read(Tool("dmidecode", "--from-dump", dump)));
        var board = Assert.IsType<Motherboard>(parts[new UnitId("board")]);
        Assert.Equal(["A", "A", "B", "B"], board.Slots.Select(s => s.Channel));
        Assert.Equal(["S0001", "S0002"], parts.All.OfType<MemoryStick>().Select(m => m.Serial));
        Assert.Equal(new UnitId("stick-1"), fitted[Place.Memory("DIMM-A2")]);
        Assert.Equal("DDR4", board.MemoryType);
        Assert.Equal(new DateOnly(2026, 3, 1), board.FirmwareDate);
        Assert.Equal(("MK-8G-32", 3200, 1), (parts.All.OfType<MemoryStick>().First() is var s ? s.PartNumber : "", s.Speed, s.Ranks));
    }

    [Theory]
    [InlineData(8, 1, "KT-0815", 0x12345678u)]
    [InlineData(16, 2, "KT-1630", 0x0badcafeu)]
    public void Decode_dimms_tells_what_a_stick_says_of_itself(int gb, int ranks, string part, uint serial)
    {
        var dump = Path.Combine(Folder, $"spd-{gb}.hex");
        File.WriteAllText(dump, Hex(Spd(ranks, part, serial)));
        var text = Tool("decode-dimms", "-x", dump);
        var listing = ListingReader.Read(text);
        var stick = Assert.Single(listing.Memory);
        Assert.Equal(("DDR4", gb, ranks, 3200, part), (stick.Type, stick.Gb, stick.Ranks, stick.Speed, stick.PartNumber));
        Assert.Equal($"0x{serial:X8}", stick.Serial);
    }

    [Theory]
    [InlineData]
    [InlineData("-nn")]
    [InlineData("-mm")]
    [InlineData("-v")]
    public void Lspci_tells_the_card_from_the_graphics_in_the_processor(params string[] how)
    {
        var dump = Path.Combine(Folder, $"pci-{string.Concat(how)}.txt");
        // Vendor and device of the emulators that everybody has; classes 0300 (VGA), 0108 (non-volatile memory), 0600 (bridge).
        File.WriteAllText(
            dump,
            Pci("00:00.0", 0x0600, 0x1237)
                + Pci("00:02.0", 0x0300, 0x1111)
                + Pci("01:00.0", 0x0300, 0x1111)
                + Pci("02:00.0", 0x0108, 0x0010)
        );
        var listing = ListingReader.Read(Tool("lspci", ["-F", dump, .. how]));
        Assert.True(listing.CpuGraphics);
        Assert.Single(listing.Graphics);
        Assert.Single(listing.Drives);
        Assert.DoesNotContain("rev", listing.Graphics[0].Name, StringComparison.Ordinal);
        Assert.Empty(listing.Unread);
    }

    [Fact]
    public void Lshw_of_this_very_machine_is_read()
    {
        var listing = ListingReader.Read(Tool("lshw", "-json", "-quiet"));
        Assert.Equal("lshw", Assert.Single(listing.Tools));
        Assert.NotNull(listing.Cpu);
        _ = ListedMachine.Of(listing);
    }

    /// <summary>The form of a bank of memory, a display and a disk in lshw's JSON, from memory; makers and models are invented.</summary>
    [Theory]
    [InlineData("{0}")]
    [InlineData("[{0}]")]
    public void Lshw_tells_banks_displays_and_disks(string around)
    {
        const string Json = """
            { "id": "shop", "class": "system", "product": "Vantage 40", "vendor": "Ondel", "serial": "SYS-77", "children": [
              { "id": "core", "class": "bus", "product": "B40-M", "vendor": "Ondel", "serial": "BRD-0042", "children": [
                { "id": "firmware", "class": "memory", "version": "F12", "date": "03/01/2026" },
                { "id": "memory", "class": "memory", "size": 8589934592, "children": [
                  { "id": "bank:0", "class": "memory", "description": "[empty]", "slot": "ChannelA-DIMM0" },
                  { "id": "bank:1", "class": "memory", "description": "DIMM DDR4 Synchronous 3200 MHz (0.3 ns)",
                    "product": "KT-0815", "vendor": "Orrin", "serial": "S0001", "slot": "ChannelA-DIMM1", "size": 8589934592 } ] },
                { "id": "cpu", "class": "processor", "product": "Corvane 6", "vendor": "Corvane" },
                { "id": "display:0", "class": "display", "businfo": "pci@0000:00:02.0", "product": "Graphics" },
                { "id": "display:1", "class": "display", "businfo": "pci@0000:01:00.0", "product": "Ferrin 7", "vendor": "Ferrin" },
                { "id": "disk", "class": "disk", "businfo": "scsi@0:0.0.0", "product": "Stow 500", "serial": "D1" },
                { "id": "cdrom", "class": "disk", "businfo": "scsi@1:0.0.0", "product": "Disc" } ] } ] }
            """;
        var listing = ListingReader.Read(around.Replace("{0}", Json, StringComparison.Ordinal));
        Assert.Equal(new ListedPart("Ondel B40-M", "BRD-0042"), listing.Board);
        Assert.Equal([0, 8], listing.Memory.Select(m => m.Gb));
        Assert.Equal(("DDR4", 3200), (listing.Memory[1].Type, listing.Memory[1].Speed));
        Assert.Equal(["Ferrin 7"], listing.Graphics.Select(g => g.Name));
        Assert.Equal(new ListedPart("Stow 500", "D1"), Assert.Single(listing.Drives));
        Assert.Equal("F12 03/01/2026", listing.Firmware);
    }

    [Fact]
    public void Several_tools_after_one_another_fill_each_others_gaps_and_what_is_none_is_told()
    {
        var dump = Path.Combine(Folder, "smbios-3.bin");
        File.WriteAllBytes(dump, Smbios.Dump());
        var usb = "Bus 001 Device 001: ID 1d6b:0002 Root hub\nBus 001 Device 004: ID 0001:0002 Invented Keyboard\n";
        var listing = ListingReader.Read(Tool("dmidecode", "--from-dump", dump) + "\nroot@bench:~# lsusb\n" + usb);
        Assert.Equal("dmidecode lsusb", string.Join(' ', listing.Tools));
        Assert.Equal(["Invented Keyboard"], listing.Usb.Select(u => u.Name));
        var unread = Assert.Single(listing.Unread);
        Assert.Equal("root@bench:~# lsusb", unread.Text);
    }

    [Theory]
    [InlineData("", "Paste the whole")]
    [InlineData("hello there", "Paste the whole")]
    [InlineData("{ \"id\": 3", "begins like JSON")]
    [InlineData("{ \"a\": 3 }", "not of lshw")]
    [InlineData("Handle 0x0001, DMI type 17, 40 bytes\0", "no text")]
    public void What_is_no_tool_s_output_is_refused_in_words(string text, string words) =>
        Assert.Contains(words, Assert.Throws<DataFileException>(() => ListingReader.Read(text)).Message, StringComparison.Ordinal);

    [Fact]
    public void Absurd_text_ends_soon()
    {
        Assert.Throws<DataFileException>(() => ListingReader.Read(new string('x', ListingReader.MostCharacters + 1)));
        Assert.Throws<DataFileException>(() => ListingReader.Read("Handle 0x0001, DMI type 17, 40 bytes\n" + new string('y', 30_000)));
        Assert.Throws<DataFileException>(() => ListingReader.Read(string.Concat(Enumerable.Repeat("[", 5000))));
    }

    private static string Tool(string name, params string[] arguments)
    {
        var start = new ProcessStartInfo(name) { RedirectStandardOutput = true, RedirectStandardError = true };
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        start.Environment["LC_ALL"] = "C";
        start.Environment["PATH"] = $"/usr/sbin:/sbin:{start.Environment["PATH"]}";
        using var process = Process.Start(start)!;
        _ = process.StandardError.ReadToEndAsync();
        var text = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return text;
    }

    /// <summary>A DDR4 stick of x8 chips of 8 Gbit (JEDEC 21-C annex L, from memory), its checksum right.</summary>
    private static byte[] Spd(int ranks, string part, uint serial)
    {
        var spd = new byte[512];
        (spd[0], spd[1], spd[2], spd[3], spd[4], spd[5]) = (0x23, 0x11, 0x0c, 0x02, 0x85, 0x21);
        (spd[12], spd[13], spd[17], spd[18]) = ((byte)(0x01 | ((ranks - 1) << 3)), 0x03, 0x00, 0x05);
        (spd[19], spd[20], spd[24], spd[25], spd[26], spd[27], spd[28], spd[29]) = (0x0d, 0xf8, 0x6e, 0x6e, 0x6e, 0x11, 0x00, 0x6e);
        spd[125] = 0;
        var crc = 0;
        for (var i = 0; i < 126; i++)
        {
            crc ^= spd[i] << 8;
            for (var bit = 0; bit < 8; bit++)
                crc = (crc & 0x8000) != 0 ? ((crc << 1) ^ 0x1021) & 0xffff : (crc << 1) & 0xffff;
        }

        (spd[126], spd[127]) = ((byte)crc, (byte)(crc >> 8));
        (spd[320], spd[321]) = (0x80, 0x2c);
        BinaryPrimitives.WriteUInt32BigEndian(spd.AsSpan(325), serial);
        Encoding.ASCII.GetBytes(part.PadRight(20)).CopyTo(spd.AsSpan(329));
        return spd;
    }

    private static string Hex(byte[] bytes)
    {
        var text = new StringBuilder();
        for (var i = 0; i < bytes.Length; i += 16)
            text.AppendLine(CultureInfo.InvariantCulture, $"{i:x8}  {Row(i)}  {Row(i + 8)}  |................|");
        return text.ToString();

        string Row(int from) => string.Join(' ', bytes.Skip(from).Take(8).Select(b => $"{b:x2}"));
    }

    private static string Pci(string slot, int deviceClass, int device)
    {
        var config = new byte[64];
        BinaryPrimitives.WriteUInt16LittleEndian(config, 0x1234);
        BinaryPrimitives.WriteUInt16LittleEndian(config.AsSpan(2), (ushort)device);
        config[8] = 1;
        BinaryPrimitives.WriteUInt16LittleEndian(config.AsSpan(10), (ushort)deviceClass);
        var text = new StringBuilder($"{slot} Device\n");
        for (var i = 0; i < 64; i += 16)
            text.Append(CultureInfo.InvariantCulture, $"{i:x2}: {string.Join(' ', config.Skip(i).Take(16).Select(b => $"{b:x2}"))}\n");
        return text.Append('\n').ToString();
    }
}
