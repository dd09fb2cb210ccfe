using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using CsvHelper;
using CsvHelper.Configuration;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Tables;

/// <summary>
/// Reads and writes a table of signals (docs/formats.md): comment lines "# key: value" at the head, then CSV (RFC 4180) with
/// a header line. A mistake is reported with its line.
/// </summary>
public static partial class SignalTableFile
{
    /// <summary>First line of such a file, without its comment sign.</summary>
    public const string Mark = "kelvet-signals 1";

    /// <summary>Largest accepted file, characters.</summary>
    public const int MostCharacters = 1_000_000;

    /// <summary>Most rows of a table.</summary>
    public const int MostRows = 2000;

    private static readonly string[] Head = ["id", "name", "kind", "version", "uncertainty", "about"];
    private static readonly string[] Columns =
    [
        "signal",
        "meaning",
        .. Enum.GetValues<StallDomain>().Select(d => d.ToString().ToLowerInvariant()),
        "causes",
        "checks",
        "term",
        "source",
        "confidence",
    ];

    /// <summary>Reads a table.</summary>
    /// <param name="text">The file.</param>
    /// <param name="name">Its name, for messages.</param>
    /// <exception cref="DataFileException">It is broken; the message names the line.</exception>
    public static SignalTable Read(string text, string name)
    {
        if (text.Length > MostCharacters)
            throw new DataFileException($"{name}: the file has {text.Length} characters; {MostCharacters} is the most.");
        return new TableReader(name, text.TrimStart('\uFEFF').Split('\n')).Read();
    }

    /// <summary>
    /// Writes a table so that <see cref="Read"/> gives it back. What a spreadsheet would take for a formula gets an apostrophe
    /// in front (OWASP, "CSV Injection"), which reading takes off again.
    /// </summary>
    public static string Write(SignalTable table)
    {
        using var writer = new StringWriter { NewLine = "\n" };
        writer.WriteLine($"# {Mark}");
        writer.WriteLine($"# id: {table.Id}");
        writer.WriteLine($"# name: {Defused(table.Name)}");
        writer.WriteLine($"# kind: {table.Kind.ToString().ToLowerInvariant()}");
        writer.WriteLine($"# version: {Defused(table.Version)}");
        writer.WriteLine(string.Create(CultureInfo.InvariantCulture, $"# uncertainty: {table.Uncertainty}"));
        if (table.About.Length > 0)
            writer.WriteLine($"# about: {Defused(table.About)}");
        using (
            var csv = new CsvWriter(
                writer,
                new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\n", InjectionOptions = InjectionOptions.Escape },
                leaveOpen: true
            )
        )
        {
            foreach (var column in Columns)
                csv.WriteField(column);
            csv.NextRecord();
            foreach (var row in table.Rows)
            {
                csv.WriteField(row.Signal);
                csv.WriteField(row.Meaning);
                foreach (var likelihood in row.Likelihoods.Likelihoods)
                    csv.WriteField(likelihood);
                csv.WriteField(row.Causes);
                csv.WriteField(row.Checks);
                csv.WriteField(row.Term);
                csv.WriteField(row.Source);
                csv.WriteField(row.Confidence.ToString().ToLowerInvariant());
                csv.NextRecord();
            }
        }

        return writer.ToString();
    }

    /// <summary>Characters with which a formula begins.</summary>
    private const string Formula = "=+-@\t\r";

    /// <summary>A line of the head is split at commas by a spreadsheet: what would begin a formula behind one is defused.</summary>
    private static string Defused(string text) => BehindComma().Replace(text, "$1'");

    private static string Armed(string text) => BehindCommaDefused().Replace(text, "$1");

    [GeneratedRegex(@"(,\s*)(?=[=+\-@])")]
    private static partial Regex BehindComma();

    [GeneratedRegex(@"(,\s*)'(?=[=+\-@])")]
    private static partial Regex BehindCommaDefused();

    /// <summary>Reads one table and says of what is wrong in which line it stands.</summary>
    private sealed class TableReader(string name, string[] lines)
    {
        private readonly Dictionary<string, (string Value, int Line)> _head = [];
        private int _start;

        public SignalTable Read()
        {
            ReadHead();
            var id = Field("id", 40);
            if (!UnitId.IsValid(id))
                throw Wrong(_head["id"].Line, $"\"{id}\" is not an id: lower-case letters, digits and dashes");
            var kind =
                Enum.TryParse<SignalKind>(Field("kind", 20), true, out var k) && Enum.IsDefined(k)
                    ? k
                    : throw Wrong(
                        _head["kind"].Line,
                        $"\"{_head["kind"].Value}\" is none of "
                            + $"{string.Join(", ", Enum.GetNames<SignalKind>().Select(n => n.ToLowerInvariant()))}"
                    );
            return new SignalTable(
                id,
                Field("name", 60),
                kind,
                Field("version", 20),
                Number(Field("uncertainty", 10), 0, 0.9, _head["uncertainty"].Line, "uncertainty"),
                _head.ContainsKey("about") ? Field("about", 400) : "",
                Rows(kind)
            );
        }

        private void ReadHead()
        {
            while (_start < lines.Length && lines[_start].StartsWith('#'))
            {
                var line = lines[_start][1..].Trim();
                _start++;
                if (line.IndexOf(':') is > 0 and var colon)
                    _head[line[..colon].Trim()] = (Armed(line[(colon + 1)..].Trim()), _start);
                else if (_start == 1 && line != Mark)
                    throw Wrong(1, $"expected \"# {Mark}\"");
            }

            if (_start == 0)
                throw Wrong(1, $"expected \"# {Mark}\" and the head of the table; see the formats page");
            if (_head.Keys.FirstOrDefault(k => !Head.Contains(k)) is { } unknown)
                throw Wrong(_head[unknown].Line, $"\"{unknown}\" is not known in the head; known are {string.Join(", ", Head)}");
        }

        private ImmutableArray<SignalRow> Rows(SignalKind kind)
        {
            using var csv = new CsvReader(
                new StringReader(string.Join('\n', lines[_start..])),
                new CsvConfiguration(CultureInfo.InvariantCulture)
                {
                    TrimOptions = TrimOptions.Trim,
                    BadDataFound = null,
                    MissingFieldFound = null,
                    ShouldSkipRecord = r => r.Row.Parser.Record is [""],
                }
            );
            ReadColumns(csv);
            var rows = ImmutableArray.CreateBuilder<SignalRow>();
            var seen = new Dictionary<string, int>();
            while (csv.Read())
            {
                var line = Line(csv);
                if (csv.Parser.Count != Columns.Length)
                    throw Wrong(line, $"{csv.Parser.Count} fields; the header has {Columns.Length}");
                if (rows.Count == MostRows)
                    throw Wrong(line, $"{MostRows} rows are the most");
                var row = Row(csv, kind, line);
                if (!seen.TryAdd(row.Signal, line))
                    throw Wrong(line, $"{row.Signal} stands in line {seen[row.Signal]} already");
                rows.Add(row);
            }

            return rows.Count > 0 ? rows.ToImmutable() : throw Wrong(_start + 1, "the table has no row");
        }

        private void ReadColumns(CsvReader csv)
        {
            if (!csv.Read() || !csv.ReadHeader())
                throw Wrong(_start + 1, $"expected the header line {string.Join(',', Columns)}");
            if (csv.HeaderRecord is [var only] && only.Split(';', '\t').Length > 1)
                throw Wrong(Line(csv), "the columns are parted by semicolons or tabs; save the file with commas");
            if (csv.HeaderRecord!.FirstOrDefault(c => !Columns.Contains(c)) is { } extra)
                throw Wrong(Line(csv), $"the column \"{extra}\" is not known; known are {string.Join(", ", Columns)}");
            if (Columns.FirstOrDefault(c => !csv.HeaderRecord!.Contains(c)) is { } missing)
                throw Wrong(Line(csv), $"the column \"{missing}\" is missing");
        }

        private SignalRow Row(CsvReader csv, SignalKind kind, int line)
        {
            return new SignalRow(
                SignalText.Of(kind, Cell("signal")) ?? throw Wrong(line, $"\"{Cell("signal")}\" is not {SignalText.Expected(kind)}"),
                Text("meaning", 200, true),
                Likelihoods(),
                Text("causes", 300),
                Text("checks", 300),
                Text("term", 300),
                Text("source", 200, true),
                Enum.TryParse<Confidence>(Cell("confidence"), true, out var c) && Enum.IsDefined(c)
                    ? c
                    : throw Wrong(line, $"confidence: \"{Cell("confidence")}\" is none of published, likely, doubtful")
            );

            string Cell(string column) =>
                csv[column] is { } cell
                    ? cell is ['\'', var first, ..] && Formula.Contains(first)
                        ? cell[1..]
                        : cell
                    : "";

            string Text(string column, int most, bool needed = false)
            {
                var value = Cell(column);
                if (needed && value.Length == 0)
                    throw Wrong(line, $"{column} is needed");
                return value.Length <= most ? value : throw Wrong(line, $"{column} has {value.Length} characters; {most} is the most");
            }

            StallSignal Likelihoods()
            {
                var values = Enum.GetValues<StallDomain>()
                    .Select(d => Number(Cell(d.ToString().ToLowerInvariant()), 0, 1, line, d.ToString().ToLowerInvariant()))
                    .ToArray();
                return values.Any(v => v > 0) ? new StallSignal(values) : throw Wrong(line, "one of the six likelihoods must be above 0");
            }
        }

        private int Line(CsvReader csv) => _start + csv.Parser.RawRow;

        private DataFileException Wrong(int line, string what) => new($"{name}, line {line}: {what}.");

        private string Field(string key, int most)
        {
            if (!_head.TryGetValue(key, out var f))
                throw Wrong(_start, $"the head has no line \"# {key}: …\"");
            return f.Value.Length is var n && n > 0 && n <= most
                ? f.Value
                : throw Wrong(f.Line, $"{key} needs 1 to {most} characters, not {n}");
        }

        private double Number(string value, double least, double most, int line, string what) =>
            double.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v >= least && v <= most
                ? v
                : throw Wrong(line, $"{what}: \"{value}\" is not a number from {least} to {most}");
    }
}
