using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using CsvHelper;
using CsvHelper.Configuration;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Listings;

/// <summary>A part of a catalogue: what it is, and what it costs.</summary>
/// <param name="Unit">The part; its id says nothing.</param>
/// <param name="Price">Price in the shop's money, 0 to 100,000; null when not known.</param>
public sealed record CataloguePart(Unit Unit, decimal? Price);

/// <summary>A column of a catalogue.</summary>
/// <param name="Key">Its name in a file.</param>
/// <param name="About">What it holds.</param>
/// <param name="Aliases">Other names under which files have it.</param>
public sealed record CatalogueColumn(string Key, string About, params string[] Aliases);

/// <summary>A mistake in a catalogue.</summary>
/// <param name="Line">The line, from 1; the header is line 1.</param>
/// <param name="Words">The column, what is wrong, and what to do.</param>
public sealed record CatalogueMistake(int Line, string Words);

/// <summary>
/// Reads and writes a catalogue of parts: CSV (RFC 4180) with a header line (docs/formats.md). Columns are matched by name, or
/// as they are mapped by hand. A mistake is told with its line; a line with one is not taken.
/// </summary>
public static partial class CatalogueFile
{
    /// <summary>Most bytes of a file.</summary>
    public const int MostBytes = 10_000_000;

    /// <summary>Most rows of a file.</summary>
    public const int MostRows = 50_000;

    /// <summary>Most characters of a line.</summary>
    public const int LongestLine = 4_000;

    /// <summary>Most mistakes that are told.</summary>
    public const int MostMistakes = 50;

    /// <summary>The kinds that a catalogue holds.</summary>
    public static ImmutableArray<UnitKind> Kinds { get; } = [.. UnitFacts.All.Where(f => f.Catalogued).Select(f => f.Kind)];

    /// <summary>Its columns; those that say nothing of a kind are left empty.</summary>
    public static ImmutableArray<CatalogueColumn> Columns { get; } =
    [
        new("kind", $"one of {string.Join(", ", Kinds.Select(k => $"`{Dashed.Of(k)}`"))}", "type", "category"),
        new("name", "make and model, 1 to 80 characters; with the kind it tells a part from all others", "model", "part", "product"),
        new("socket", "of a board or CPU, up to 20 characters"),
        new("memory", "generation of a board or stick, such as DDR4", "ram type", "memory type"),
        new("slots", "memory slots of a board in its order, such as `A1 A2 B1 B2`; the channel is the letter", "memory slots"),
        new("order", "the same slots in the order in which the manual fills them"),
        new("outputs", "video outputs of a board or card, such as `HDMI DP VGA`", "video outputs"),
        new("cards", "number of expansion slots of a board, 0 to 8", "card slots", "expansion slots"),
        new("form", "outline of a board: `full`, `micro`, `mini`, `office`", "form factor"),
        new("graphics", "whether a CPU has graphics of its own: yes or no"),
        new("gb", "capacity of a stick, GB", "capacity", "size"),
        new("watts", "what a supply is rated for, a cooler carries off, any other part draws at most, W", "power", "tdp"),
        new("plugs", "power plugs for cards that a card needs or a supply has, 0 to 12", "aux plugs"),
        new("fits", "sockets that a cooler goes on, separated by spaces", "sockets"),
        new("firmware", "version of a board's firmware as sold, a whole number that rises"),
        new("needs-firmware", "least version that a CPU needs of its board"),
        new("tells", "what a board tells of its start by: `indicators`, `code-display`, `speaker-header`"),
        new("fan-headers", "headers for fans of a board, 0 to 20"),
        new("flashes-without-cpu", "whether a board can be flashed with no CPU: yes or no"),
        new("made", "year"),
        new("price", "in the shop's money, such as 49.90", "cost"),
    ];

    /// <summary>The text of a file.</summary>
    /// <exception cref="DataFileException">It is too large, compressed, binary, or in no encoding that is read.</exception>
    public static (string Text, string Note) Decode(byte[] file)
    {
        if (file.Length > MostBytes)
            throw new DataFileException($"The file has {file.Length / 1e6:0.0} MB; {MostBytes / 1_000_000} MB is the most. Split it.");
        if (file is [0x50, 0x4b, ..] or [0x1f, 0x8b, ..] or [0x28, 0xb5, 0x2f, 0xfd, ..] or [0x37, 0x7a, ..] or [0x42, 0x5a, 0x68, ..])
            throw new DataFileException("The file is compressed, or a spreadsheet. Unpack it, or save it as CSV, and choose that.");
        var (text, note) = Encoded(file);
        if (text.Contains('\0', StringComparison.Ordinal))
            throw new DataFileException("The file is no text. Save it as CSV, and choose that.");
        return (text, note);
    }

    private static (string Text, string Note) Encoded(byte[] file)
    {
        if (file is [0xff, 0xfe, ..])
            return (Encoding.Unicode.GetString(file, 2, file.Length - 2), "");
        if (file is [0xfe, 0xff, ..])
            return (Encoding.BigEndianUnicode.GetString(file, 2, file.Length - 2), "");
        try
        {
            return (new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(file).TrimStart('\uFEFF'), "");
        }
        catch (DecoderFallbackException)
        {
            return (Encoding.Latin1.GetString(file), "The file is not UTF-8; it was read as Latin 1. Look whether accents came out right.");
        }
    }

    /// <summary>The header of a file, its first rows, and to which column each field of the header goes by its name.</summary>
    /// <param name="text">The file.</param>
    /// <param name="rows">Rows to show.</param>
    /// <exception cref="DataFileException">There is no header, or a line is too long.</exception>
    public static (ImmutableArray<string> Header, ImmutableArray<string> Mapping, ImmutableArray<ImmutableArray<string>> Rows) Preview(
        string text,
        int rows
    )
    {
        CheckLines(text);
        using var csv = Reader(text);
        if (!csv.Read() || csv.Parser.Record is not { Length: > 0 } header || header.All(string.IsNullOrWhiteSpace))
            throw new DataFileException("The file is empty. Its first line names the columns.");
        if (header.Length > 60)
            throw new DataFileException($"The first line has {header.Length} columns; 60 is the most. Is it separated by commas?");
        var shown = ImmutableArray.CreateBuilder<ImmutableArray<string>>();
        while (shown.Count < rows && csv.Read())
            shown.Add([.. csv.Parser.Record!]);
        return ([.. header], [.. header.Select(ColumnOf)], shown.ToImmutable());
    }

    /// <summary>Reads the rows of a file.</summary>
    /// <param name="text">The file.</param>
    /// <param name="mapping">For each field of the header the key of its column; empty for one that is passed over.</param>
    /// <param name="part">Takes each part that could be read, with its line.</param>
    /// <param name="mistake">Takes each mistake.</param>
    /// <exception cref="DataFileException">A needed column is not mapped, one is mapped twice, or there are too many rows.</exception>
    public static void Read(string text, IReadOnlyList<string> mapping, Action<int, CataloguePart> part, Action<CatalogueMistake> mistake)
    {
        foreach (var needed in new[] { "kind", "name" })
        {
            if (!mapping.Contains(needed))
                throw new DataFileException($"No column is mapped to \"{needed}\", which is needed.");
        }

        if (mapping.Where(m => m.Length > 0).GroupBy(m => m).FirstOrDefault(g => g.Count() > 1) is { } twice)
            throw new DataFileException($"Two columns are mapped to \"{twice.Key}\". Choose one.");
        if (mapping.FirstOrDefault(m => m.Length > 0 && Columns.All(c => c.Key != m)) is { } strange)
            throw new DataFileException($"There is no column \"{strange}\" in a catalogue.");
        CheckLines(text);
        using var csv = Reader(text);
        _ = csv.Read();
        var seen = new Dictionary<(UnitKind, string), int>();
        for (var row = 1; csv.Read(); row++)
        {
            if (row > MostRows)
                throw new DataFileException($"The file has more than {MostRows:N0} rows, the most. Split it.");
            var line = csv.Parser.RawRow;
            var record = csv.Parser.Record!;
            if (record.All(string.IsNullOrWhiteSpace))
                continue;
            try
            {
                var read = new Row([.. mapping], record).Part(row);
                var key = (read.Unit.Kind, read.Unit.Name.ToUpperInvariant());
                if (seen.TryGetValue(key, out var before))
                    throw new DataFileException($"name: \"{read.Unit.Name}\" stands in line {before} already; keep one of them");
                seen[key] = line;
                part(line, read);
            }
            catch (DataFileException e)
            {
                mistake(new CatalogueMistake(line, e.Message));
            }
            catch (ArgumentException e)
            {
                mistake(new CatalogueMistake(line, Forms.Plainly(e)));
            }
        }
    }

    /// <summary>Writes a catalogue so that <see cref="Read"/> gives it back; no spreadsheet takes a cell of it for a formula.</summary>
    public static string Write(IEnumerable<CataloguePart> parts) =>
        CsvText.Write(Columns.Select(c => c.Key), parts.Select(p => Columns.Select(c => Field(p, c.Key))));

    private static string Field(CataloguePart part, string column)
    {
        var unit = part.Unit;
        var board = unit as Motherboard;
        return column switch
        {
            "kind" => Dashed.Of(unit.Kind),
            "name" => unit.Name,
            "socket" => board?.Socket ?? (unit as Cpu)?.Socket ?? "",
            "memory" => board?.MemoryType ?? (unit as MemoryStick)?.MemoryType ?? "",
            "slots" => board is null ? "" : string.Join(' ', board.Slots.Select(s => s.Name)),
            "order" => board is null ? "" : string.Join(' ', board.Order),
            "outputs" => string.Join(' ', (board?.Outputs ?? (unit as GraphicsCard)?.Outputs ?? []).Select(o => o.Name.Replace(' ', '-'))),
            "cards" => board is null ? "" : Whole(board.CardSlots.Length),
            "form" => board?.Form is { } form ? Dashed.Of(form) : "",
            "graphics" => unit is Cpu cpu ? YesNo(cpu.HasGraphics) : "",
            "gb" => unit is MemoryStick { SizeGb: > 0 } stick ? Whole(stick.SizeGb) : "",
            "watts" => Whole(unit.Watts),
            "plugs" => Whole(unit.Plugs),
            "fits" => string.Join(' ', unit.Fits),
            "firmware" => Whole(board?.Firmware),
            "needs-firmware" => Whole((unit as Cpu)?.NeedsFirmware),
            "tells" => board is null ? "" : string.Join(' ', board.Tells.Select(t => Dashed.Of(t))),
            "fan-headers" => Whole(board?.FanHeaders),
            "flashes-without-cpu" => board is null ? "" : YesNo(board.FlashesWithoutCpu),
            "made" => Whole(unit.Made),
            _ => part.Price?.ToString("0.00", CultureInfo.InvariantCulture) ?? "",
        };

        static string Whole(int? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";

        static string YesNo(bool yes) => yes ? "yes" : "no";
    }

    private static void CheckLines(string text)
    {
        var line = 1;
        var length = 0;
        foreach (var c in text)
        {
            (line, length) = c == '\n' ? (line + 1, 0) : (line, length + 1);
            if (length > LongestLine)
                throw new DataFileException(
                    $"Line {line} has more than {LongestLine:N0} characters. Is it a CSV file, and are its quotes closed?"
                );
        }
    }

    private static CsvReader Reader(string text) =>
        new(
            new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                HasHeaderRecord = false,
                DetectDelimiter = true,
                DetectDelimiterValues = [",", ";", "\t"],
                BadDataFound = null,
                MissingFieldFound = null,
                IgnoreBlankLines = true,
                MaxFieldSize = LongestLine,
                TrimOptions = TrimOptions.Trim,
            }
        );

    private static string ColumnOf(string header)
    {
        var plain = Plain(header);
        return Columns.FirstOrDefault(c => Plain(c.Key) == plain || c.Aliases.Any(a => Plain(a) == plain))?.Key ?? "";

        static string Plain(string name) => Letters().Replace(name, "").ToUpperInvariant();
    }

    [GeneratedRegex("[^A-Za-z0-9]+")]
    private static partial Regex Letters();

    /// <summary>One row, whose fields are asked for by column.</summary>
    private sealed class Row(string[] mapping, string[] record)
    {
        public CataloguePart Part(int number)
        {
            var kind = Kind();
            var name = Text("name", 80);
            if (name.Length == 0)
                throw new DataFileException("name: it is empty; a part needs one");
            var id = new UnitId($"part-{number}");
            Unit unit = kind switch
            {
                UnitKind.Motherboard => Board(id, name),
                UnitKind.Cpu => new Cpu(id, name, Origin.Customer, Yes("graphics"))
                {
                    Socket = Text("socket", 20),
                    NeedsFirmware = Number("needs-firmware", 0, 1_000_000),
                },
                UnitKind.MemoryStick => new MemoryStick(id, name, Origin.Customer)
                {
                    MemoryType = Text("memory", 20),
                    SizeGb = Number("gb", 0, 1024) ?? 0,
                },
                UnitKind.GraphicsCard => new GraphicsCard(id, name, Origin.Customer, Outputs(needed: true), Number("plugs", 0, 12) is > 0),
                _ => Unit.Plain(id, kind, name, Origin.Customer),
            };
            unit = unit with
            {
                Watts = Number("watts", 0, Unit.MostWatts),
                Plugs = Number("plugs", 0, 12),
                Made = Number("made", 1980, 2100),
                Fits = [.. Words("fits")],
            };
            return new CataloguePart(unit, Price());
        }

        private Motherboard Board(UnitId id, string name)
        {
            string[] slots = [.. Words("slots")];
            if (slots.Length == 0)
                throw new DataFileException("slots: it is empty; name the memory slots of the board, such as A1 A2 B1 B2");
            return new Motherboard(
                id,
                name,
                Origin.Customer,
                slots.Select(s => new MemorySlot(s, s[..1])),
                Outputs(needed: false),
                Enumerable.Range(1, Number("cards", 0, 8) ?? 0).Select(n => n.ToString(CultureInfo.InvariantCulture))
            )
            {
                Socket = Text("socket", 20),
                MemoryType = Text("memory", 20),
                Form = Choice<BoardForm>("form"),
                Firmware = Number("firmware", 0, 1_000_000),
                FanHeaders = Number("fan-headers", 0, 20),
                FlashesWithoutCpu = Yes("flashes-without-cpu"),
                Tells =
                [
                    .. Words("tells")
                        .Select(t => Dashed.TryRead<Teller>(t, out var teller) ? teller : throw No<Teller>("tells", t))
                        .Distinct(),
                ],
                TellsPost = Words("tells").Length > 0,
                Order = [.. Words("order")],
            };
        }

        private UnitKind Kind()
        {
            var said = Text("kind", 40);
            return Dashed.TryRead<UnitKind>(said.ToLowerInvariant().Replace(' ', '-'), out var kind) && Kinds.Contains(kind)
                ? kind
                : throw new DataFileException($"kind: \"{said}\" is none of {string.Join(", ", Kinds.Select(k => Dashed.Of(k)))}");
        }

        private VideoOutput[] Outputs(bool needed)
        {
            VideoOutput[] outputs =
            [
                .. Words("outputs")
                    .Select(o => new VideoOutput(
                        o,
                        o.StartsWith("VGA", StringComparison.OrdinalIgnoreCase) ? VideoSignal.Analogue : VideoSignal.Digital
                    )),
            ];
            return outputs.Length == 0 && needed ? [new VideoOutput("HDMI", VideoSignal.Digital)] : outputs;
        }

        private decimal? Price()
        {
            var said = Text("price", 20);
            if (said.Length == 0)
                return null;
            return decimal.TryParse(said, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var price) && price <= 100_000
                ? price
                : throw new DataFileException($"price: \"{said}\" is not 0 to 100000, such as 49.90");
        }

        private int? Number(string column, int least, int most)
        {
            var said = Text(column, 20);
            if (said.Length == 0)
                return null;
            return int.TryParse(said, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number >= least && number <= most
                ? number
                : throw new DataFileException($"{column}: \"{said}\" is not a whole number from {least} to {most}");
        }

        private bool Yes(string column) =>
            Text(column, 10).ToUpperInvariant() switch
            {
                "YES" or "Y" or "TRUE" or "1" => true,
                "" or "NO" or "N" or "FALSE" or "0" => false,
                var other => throw new DataFileException($"{column}: \"{other}\" is neither yes nor no"),
            };

        private T? Choice<T>(string column)
            where T : struct, Enum
        {
            var said = Text(column, 30).ToLowerInvariant();
            return said.Length == 0 ? null
                : Dashed.TryRead<T>(said, out var value) ? value
                : throw No<T>(column, said);
        }

        private static DataFileException No<T>(string column, string said)
            where T : struct, Enum => new($"{column}: \"{said}\" is none of {string.Join(", ", Dashed.All<T>())}");

        private string[] Words(string column) =>
            Text(column, 200).Split([' ', ',', ';', '/'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

        /// <summary>A field as text. A formula is refused; the apostrophe that keeps a cell from being one is taken off.</summary>
        private string Text(string column, int most)
        {
            var at = Array.IndexOf(mapping, column);
            var said = at >= 0 && at < record.Length ? record[at] : "";
            if (said is ['\'', '=' or '+' or '-' or '@', ..])
                said = said[1..];
            else if (said is ['=' or '+' or '@', ..] or ['-', not (>= '0' and <= '9'), ..])
                throw new DataFileException($"{column}: \"{Cut(said)}\" is a formula; put the value in its place");
            if (said.Any(char.IsControl))
                throw new DataFileException($"{column}: it holds a line break or another control character");
            return said.Length <= most ? said : throw new DataFileException($"{column}: {said.Length} characters; {most} is the most");
        }

        private static string Cut(string text) => text.Length > 40 ? text[..40] + "…" : text;
    }
}
