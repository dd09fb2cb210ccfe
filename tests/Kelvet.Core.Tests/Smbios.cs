using System.Buffers.Binary;
using System.Text;

namespace Kelvet.Core.Tests;

/// <summary>
/// Writes the tables that a firmware keeps of its machine, as dmidecode --dump-bin stores them (DSP0134, System Management
/// BIOS reference specification, 3.0; offsets from memory). Makers, models and serial numbers are invented.
/// </summary>
internal static class Smbios
{
    public static byte[] Dump()
    {
        var table = new List<byte>();
        var handle = 0;
        Add(0, Body(18, (0, 1), (1, 2), (4, 3), (5, 0x0f)), "Ondel", "F12", "03/01/2026");
        Add(1, Body(23, (0, 1), (1, 2), (3, 3)), "Ondel", "Vantage 40", "SYS-77");
        Add(2, Body(11, (0, 1), (1, 2), (3, 3)), "Ondel", "B40-M", "BRD-0042");
        // Socket designation, type CPU, family, maker; version is string 3; status populated; upgrade 0x31 is socket AM4.
        Add(4, Body(44, (0, 1), (1, 3), (2, 0x6b), (3, 2), (12, 3), (20, 0x41), (21, 0x31)), "AM4", "Corvane", "Corvane 6 Six-Core");
        Add(16, Body(19, (0, 3), (1, 3), (2, 3), (7, 0xfe), (8, 0xff), (9, 4)));
        Stick("DIMM_A1", 0, "", "");
        Stick("DIMM_A2", 8192, "S0001", "MK-8G-32");
        Stick("DIMM_B1", 0, "", "");
        Stick("DIMM_B2", 16384, "S0002", "MK-16G-32");
        Add(127, []);
        return [.. Entry(table.Count, 0), .. table];

        void Stick(string slot, int megabytes, string serial, string part)
        {
            var body = new byte[36];
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(0), 0x1000);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(2), 0xfffe);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(4), 64);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(6), 64);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(8), (ushort)megabytes);
            (body[10], body[12], body[13], body[14]) = (0x09, 1, 2, (byte)(megabytes > 0 ? 0x1a : 0x02));
            if (megabytes > 0)
            {
                BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(17), 3200);
                (body[19], body[20], body[22], body[23]) = (3, 4, 5, 1);
                BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(28), 2400);
                Add(17, body, slot, "BANK 0", "Orrin", serial, part);
            }
            else
                Add(17, body, slot, "BANK 0");
        }

        void Add(byte type, byte[] body, params string[] strings)
        {
            table.AddRange([type, (byte)(body.Length + 4), (byte)handle, (byte)(handle >> 8), .. body]);
            handle++;
            foreach (var text in strings)
                table.AddRange([.. Encoding.ASCII.GetBytes(text), 0]);
            table.AddRange(strings.Length == 0 ? [0, 0] : [0]);
        }
    }

    private static byte[] Body(int length, params (int At, byte Value)[] values)
    {
        var body = new byte[length];
        foreach (var (at, value) in values)
            body[at] = value;
        return body;
    }

    /// <summary>The 64-bit entry point, its checksum right, padded to where the table begins.</summary>
    private static byte[] Entry(int length, int minor)
    {
        var entry = new byte[32];
        Encoding.ASCII.GetBytes("_SM3_").CopyTo(entry, 0);
        (entry[6], entry[7], entry[8], entry[10]) = (24, 3, (byte)minor, 1);
        BinaryPrimitives.WriteInt32LittleEndian(entry.AsSpan(12), length);
        BinaryPrimitives.WriteInt64LittleEndian(entry.AsSpan(16), 32);
        entry[5] = (byte)(256 - (entry.Take(24).Sum(b => b) & 0xff));
        return entry;
    }

    /// <summary>A memory slot of a table: its name and what is in it; nothing where that has no GB.</summary>
    public sealed record Bank(string Slot, int Gb, string Type, int Speed, string Serial, string Part);

    /// <summary>The types of memory by their numbers (DSP0134, table "Memory Device: Type", from memory).</summary>
    private static readonly Dictionary<string, byte> Types = new()
    {
        ["DDR"] = 0x12,
        ["DDR2"] = 0x13,
        ["DDR3"] = 0x18,
        ["DDR4"] = 0x1a,
        ["DDR5"] = 0x22,
    };

    /// <summary>A table as a version of the specification has it: what came later is not in its structures.</summary>
    public static byte[] Dump(int major, int minor, params Bank[] banks)
    {
        var table = new List<byte>();
        var version = (major * 10) + minor;
        var handle = 0;
        Add(0, Body(version >= 24 ? 20 : 15, (0, 1), (1, 2), (4, 3), (5, 0x0f)), "Ondel", "1.40", "11/20/2019");
        Add(1, Body(version >= 24 ? 23 : 21, (0, 1), (1, 2), (3, 3)), "Ondel", "Vantage", "SYS-1");
        Add(2, Body(11, (0, 1), (1, 2), (3, 3)), "Ondel", "X60", "BRD-9");
        Add(
            4,
            Body(version >= 26 ? 38 : 31, (0, 1), (1, 3), (2, 2), (3, 2), (12, 3), (20, 0x41), (21, 2)),
            "Socket",
            "Corvane",
            "Corvane 4"
        );
        foreach (var bank in banks)
        {
            // Lengths of the structure from version to version, its header of four bytes left out.
            var body = new byte[
                version >= 33 ? 88
                : version >= 32 ? 80
                : version >= 28 ? 36
                : version >= 27 ? 30
                : version >= 26 ? 24
                : 23
            ];
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(0), 0x1000);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(2), 0xfffe);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(4), 64);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(6), 64);
            var megabytes = bank.Gb * 1024;
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(8), (ushort)(megabytes >= 32767 ? 0x7fff : megabytes));
            (body[10], body[12], body[13], body[14]) = (0x09, 1, 2, Types[bank.Type]);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(17), (ushort)(bank.Gb > 0 ? bank.Speed : 0));
            (body[19], body[20], body[22]) = bank.Gb > 0 ? ((byte)3, (byte)4, (byte)5) : default;
            if (body.Length >= 30)
                BinaryPrimitives.WriteInt32LittleEndian(body.AsSpan(24), megabytes >= 32767 ? megabytes : 0);
            if (body.Length >= 30 && bank.Gb > 0)
                BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(28), (ushort)bank.Speed);
            Add(17, body, bank.Gb > 0 ? [bank.Slot, "BANK", "Orrin", bank.Serial, bank.Part] : [bank.Slot, "BANK"]);
        }

        Add(127, []);
        return [.. major >= 3 ? Entry(table.Count, minor) : OldEntry(table.Count, major, minor, handle), .. table];

        void Add(byte type, byte[] body, params string[] strings)
        {
            table.AddRange([type, (byte)(body.Length + 4), (byte)handle, (byte)(handle >> 8), .. body]);
            handle++;
            foreach (var text in strings)
                table.AddRange([.. Encoding.ASCII.GetBytes(text), 0]);
            table.AddRange(strings.Length == 0 ? [0, 0] : [0]);
        }
    }

    /// <summary>The 32-bit entry point of the versions before 3.</summary>
    private static byte[] OldEntry(int length, int major, int minor, int structures)
    {
        var entry = new byte[32];
        Encoding.ASCII.GetBytes("_SM_").CopyTo(entry, 0);
        (entry[5], entry[6], entry[7]) = (0x1f, (byte)major, (byte)minor);
        BinaryPrimitives.WriteUInt16LittleEndian(entry.AsSpan(8), 200);
        Encoding.ASCII.GetBytes("_DMI_").CopyTo(entry, 16);
        BinaryPrimitives.WriteUInt16LittleEndian(entry.AsSpan(22), (ushort)length);
        BinaryPrimitives.WriteInt32LittleEndian(entry.AsSpan(24), 32);
        BinaryPrimitives.WriteUInt16LittleEndian(entry.AsSpan(28), (ushort)structures);
        entry[30] = (byte)((major << 4) | minor);
        entry[21] = (byte)(256 - (entry.Skip(16).Take(15).Sum(b => b) & 0xff));
        entry[4] = (byte)(256 - (entry.Take(31).Sum(b => b) & 0xff));
        return entry;
    }
}
