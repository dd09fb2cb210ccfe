using System.Collections.Immutable;
using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Listings;

/// <summary>A line of a support list: which firmware a board needs at least for a CPU.</summary>
/// <param name="Board">Make and model of the board, 1 to 80 characters.</param>
/// <param name="Revision">Its revision, at most 20 characters; empty for any.</param>
/// <param name="Cpu">Make and model of the CPU, 1 to 80 characters.</param>
/// <param name="Firmware">Least version, 0 to 1,000,000; 0 for one that every version knows.</param>
public sealed record SupportLine(string Board, string Revision, string Cpu, int Firmware);

/// <summary>
/// What firmware boards need for which CPU, as their makers list it and a shop types or imports it: CSV (RFC 4180) with a
/// header line (docs/formats.md).
/// </summary>
/// <param name="Lines">The lines, in the order of the file.</param>
public sealed record SupportList(ImmutableArray<SupportLine> Lines)
{
    /// <summary>Most lines of a file.</summary>
    public const int MostLines = 20_000;

    /// <summary>Most characters of a file.</summary>
    public const int MostCharacters = 4_000_000;

    /// <summary>Most mistakes that are told.</summary>
    public const int MostMistakes = 20;

    /// <summary>Its columns.</summary>
    public static ImmutableArray<CatalogueColumn> Columns { get; } =
    [
        new("board", "make and model of the board, 1 to 80 characters"),
        new("revision", "its revision as printed, up to 20 characters; empty for any"),
        new("cpu", "make and model of the CPU, 1 to 80 characters"),
        new("firmware", "least version that knows the CPU, a whole number that rises; 0 where every version does"),
    ];

    /// <summary>No lines.</summary>
    public static SupportList Empty { get; } = new([]);

    /// <summary>
    /// The least version that a board needs for a CPU; null where it is not listed. A line for the board's own revision counts
    /// before one for any; where lines differ, the highest is taken.
    /// </summary>
    public int? LeastFor(string board, string revision, string cpu)
    {
        var of = Lines.Where(l => Same(l.Board, board) && Same(l.Cpu, cpu)).ToArray();
        var own = of.Where(l => l.Revision.Length > 0 && Same(l.Revision, revision)).ToArray();
        return (own.Length > 0 ? own : of.Where(l => l.Revision.Length == 0 || revision.Length == 0)).Max(l => (int?)l.Firmware);
    }

    /// <summary>The same of parts.</summary>
    public int? LeastFor(Motherboard board, Cpu cpu) => LeastFor(board.Name, board.Revision, cpu.Name);

    /// <summary>
    /// The same units, the fitted CPU with what its board needs for it where that was not known and is listed.
    /// </summary>
    public IEnumerable<Unit> AppliedTo(IReadOnlyCollection<Unit> units, Configuration fitted)
    {
        var board = units.OfType<Motherboard>().FirstOrDefault(b => fitted.Has(b.Id));
        return units.Select(u =>
            board is not null && u is Cpu { NeedsFirmware: null } cpu && fitted.Has(cpu.Id) && LeastFor(board, cpu) is { } least
                ? cpu with
                {
                    NeedsFirmware = least,
                }
                : u
        );
    }

    /// <summary>Names of CPUs that a board knows in this version, in the order of the list.</summary>
    public IEnumerable<string> KnownTo(Motherboard board, int firmware) =>
        Lines
            .Where(l => Same(l.Board, board.Name) && LeastFor(board.Name, board.Revision, l.Cpu) <= firmware)
            .Select(l => l.Cpu)
            .Distinct(StringComparer.OrdinalIgnoreCase);

    /// <summary>Reads a file; a line with a mistake is not taken.</summary>
    /// <param name="text">The file.</param>
    /// <exception cref="DataFileException">The header lacks a column, or the file is too large.</exception>
    public static (SupportList List, ImmutableArray<CatalogueMistake> Mistakes) Read(string text)
    {
        if (text.Length > MostCharacters)
            throw new DataFileException($"The file has {text.Length:N0} characters; {MostCharacters:N0} is the most. Split it.");
        using var csv = new CsvReader(
            new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                TrimOptions = TrimOptions.Trim,
                DetectDelimiter = true,
                BadDataFound = null,
                MissingFieldFound = null,
            }
        );
        if (!csv.Read() || csv.Parser.Record is not { } header)
            throw new DataFileException("The file is empty. Its first line names the columns.");
        var at = Columns.ToDictionary(c => c.Key, c => Array.FindIndex(header, h => Same(h, c.Key)));
        if (at.FirstOrDefault(c => c.Value < 0 && c.Key != "revision") is { Key: { } missing })
            throw new DataFileException($"Line 1: there is no column \"{missing}\". The columns are board, revision, cpu, firmware.");
        var lines = ImmutableArray.CreateBuilder<SupportLine>();
        var mistakes = ImmutableArray.CreateBuilder<CatalogueMistake>();
        while (csv.Read())
        {
            if (lines.Count >= MostLines)
                throw new DataFileException($"The file has more than {MostLines:N0} lines, the most. Split it.");
            var record = csv.Parser.Record!;
            if (record.All(string.IsNullOrWhiteSpace))
                continue;
            try
            {
                lines.Add(Line(record, at));
            }
            catch (DataFileException e) when (mistakes.Count < MostMistakes)
            {
                mistakes.Add(new CatalogueMistake(csv.Parser.RawRow, e.Message));
            }
        }

        return (new SupportList(lines.ToImmutable()), mistakes.ToImmutable());
    }

    /// <summary>Writes a list so that <see cref="Read"/> gives it back; no spreadsheet takes a cell of it for a formula.</summary>
    public string Write() =>
        CsvText.Write(
            Columns.Select(c => c.Key),
            Lines.Select(l => new[] { l.Board, l.Revision, l.Cpu, l.Firmware.ToString(CultureInfo.InvariantCulture) })
        );

    private static SupportLine Line(string[] record, Dictionary<string, int> at)
    {
        var firmware = Text("firmware", 7, needed: true);
        if (!int.TryParse(firmware, NumberStyles.None, CultureInfo.InvariantCulture, out var version) || version > 1_000_000)
            throw new DataFileException($"firmware: \"{firmware}\" is not a whole number from 0 to 1000000");
        return new SupportLine(
            Text("board", 80, needed: true),
            Text("revision", 20, needed: false),
            Text("cpu", 80, needed: true),
            version
        );

        string Text(string column, int most, bool needed)
        {
            var i = at[column];
            var said = i >= 0 && i < record.Length ? record[i] : "";
            // What keeps a cell from being a formula is taken off; a formula is refused.
            if (said is ['\'', '=' or '+' or '-' or '@', ..])
                said = said[1..];
            else if (said is ['=' or '+' or '-' or '@', ..])
                throw new DataFileException($"{column}: it is a formula; put the value in its place");
            if (said.Any(char.IsControl))
                throw new DataFileException($"{column}: it holds a line break or another control character");
            if (said.Length > most)
                throw new DataFileException($"{column}: {said.Length} characters; {most} is the most");
            return said.Length > 0 || !needed ? said : throw new DataFileException($"{column}: it is empty");
        }
    }

    /// <summary>Names that are told apart by their letters and digits alone.</summary>
    private static bool Same(string one, string other) => string.Equals(Bare(one), Bare(other), StringComparison.OrdinalIgnoreCase);

    private static string Bare(string name) => string.Concat(name.Where(char.IsLetterOrDigit));
}
