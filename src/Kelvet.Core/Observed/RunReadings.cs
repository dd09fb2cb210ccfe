using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using CsvHelper;
using CsvHelper.Configuration;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>A temperature at a time of a run.</summary>
/// <param name="Seconds">Seconds since the load began, 0 or more.</param>
/// <param name="Celsius">Degrees Celsius.</param>
public readonly record struct Heat(double Seconds, double Celsius);

/// <summary>Readings of a run, by their columns.</summary>
/// <param name="Columns">What was read, as the file names it.</param>
/// <param name="Seconds">Seconds since the first reading.</param>
/// <param name="Values">For each column a value at each time; not a number where it was not read.</param>
public sealed record RunReadings(
    ImmutableArray<string> Columns,
    ImmutableArray<double> Seconds,
    ImmutableArray<ImmutableArray<double>> Values
)
{
    /// <summary>The temperature of a column over time.</summary>
    public IReadOnlyList<Heat> Of(int column) =>
        [.. Seconds.Select((s, i) => new Heat(s, Values[column][i])).Where(h => double.IsFinite(h.Celsius))];

    /// <summary>Most rows of a file.</summary>
    public const int MostRows = 500_000;

    /// <summary>Most characters of a file.</summary>
    public const int MostCharacters = 50_000_000;

    /// <summary>Most columns.</summary>
    public const int MostColumns = 60;

    /// <summary>Names under which files have their times.</summary>
    private static readonly string[] Times = ["seconds", "time", "t", "s", "timestamp", "elapsed", "date"];

    /// <summary>The column that is most likely the processor's temperature; 0 where none stands out.</summary>
    public int LikelyTemperature
    {
        get
        {
            foreach (var name in new[] { "tctl", "package", "cpu", "core", "temp", "celsius" })
            {
                for (var c = 0; c < Columns.Length; c++)
                {
                    if (
                        Columns[c].Contains(name, StringComparison.OrdinalIgnoreCase)
                        && !Columns[c].Contains("fan", StringComparison.OrdinalIgnoreCase)
                    )
                        return c;
                }
            }

            return 0;
        }
    }

    /// <summary>What each column most likely is.</summary>
    public ImmutableArray<Quantity> Guessed => [.. Columns.Select(Quantities.Of)];

    /// <summary>Every second, third, … reading, so that at most so many are left; the first is always among them.</summary>
    /// <param name="most">Most readings, 1 upward.</param>
    public RunReadings Thinned(int most)
    {
        var every = (Seconds.Length + most - 1) / most;
        return every <= 1 ? this : this with { Seconds = Every(Seconds), Values = [.. Values.Select(Every)] };

        ImmutableArray<double> Every(ImmutableArray<double> all) => [.. all.Where((_, i) => i % every == 0)];
    }

    /// <summary>The mean of a column's later half, where it has settled; null where nothing was read.</summary>
    public double? Settled(int column)
    {
        double[] later = [.. Values[column].Skip(Seconds.Length / 2).Where(double.IsFinite)];
        return later.Length == 0 ? null : later.Average();
    }

    /// <summary>The readings as plain CSV: a column "seconds", then one for each that is not left out, named as it was read. What
    /// was not read is empty.</summary>
    /// <param name="quantities">What each column is.</param>
    public string ToCsv(IReadOnlyList<Quantity> quantities)
    {
        int[] kept = [.. Enumerable.Range(0, Columns.Length).Where(c => quantities[c] != Quantity.LeftOut)];
        return CsvText.Write(
            kept.Select(c => Quantities.Named(Columns[c], quantities[c])).Prepend("seconds"),
            Seconds.Select((s, i) => kept.Select(c => Figure(Values[c][i])).Prepend(Figure(s)))
        );

        static string Figure(double value) => double.IsFinite(value) ? value.ToString("0.####", CultureInfo.InvariantCulture) : "";
    }

    /// <summary>
    /// Reads a file: CSV with a column of times, what "sensors -j" prints again and again, or what stress-ng prints with
    /// --thermalstat (format of version 0.15, seen; the zones' temperatures follow clocks and loads).
    /// </summary>
    /// <param name="text">The file.</param>
    /// <param name="every">Seconds from one reading to the next where no times are told, above 0.</param>
    /// <exception cref="DataFileException">It is neither, or a line cannot be read; the message names the line.</exception>
    public static RunReadings Read(string text, double every = 1)
    {
        if (text.Length > MostCharacters)
            throw new DataFileException(
                $"The file has {text.Length:N0} characters; {MostCharacters:N0} is the most. Leave every second reading out."
            );
        if (every is not (> 0 and <= 3600))
            throw new DataFileException("From one reading to the next it is above 0 to 3600 seconds.");
        return text.TrimStart() is ['{', ..] ? OfSensors(text, every)
            : text.Contains(Therm, StringComparison.Ordinal) ? OfStressNg(text, every)
            : OfCsv(text, every);
    }

    private const string Therm = "therm:";

    private static RunReadings OfStressNg(string text, double every)
    {
        string[]? header = null;
        var rows = new List<double[]>();
        foreach (var (line, number) in text.Split('\n').Select((l, i) => (l, i + 1)))
        {
            if (line.IndexOf(Therm, StringComparison.Ordinal) is not (>= 0 and var at))
                continue;
            var words = line[(at + Therm.Length)..].Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            if (words.Any(w => w.Contains("GHz", StringComparison.OrdinalIgnoreCase)))
            {
                header ??= words;
                continue;
            }

            if (header is null || words.Length != header.Length)
                throw new DataFileException(
                    $"Line {number}: {words.Length} figures under {header?.Length ?? 0} names. "
                        + "Paste it from the line that begins with AvGHz on."
                );
            rows.Add([.. words.Select((w, c) => w == "n/a" ? double.NaN : Value(w, header[c], number))]);
        }

        return rows.Count == 0
            ? throw new DataFileException("There is no reading below the line of names. Run it with --thermalstat 1.")
            : new RunReadings(
                [.. header!],
                [.. rows.Select((_, i) => i * every)],
                [.. header!.Select((_, c) => rows.Select(r => r[c]).ToImmutableArray())]
            );
    }

    private static RunReadings OfCsv(string text, double every)
    {
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
        if (!csv.Read() || csv.Parser.Record is not { Length: > 0 } header)
            throw new DataFileException("The file is empty. Its first line names the columns, such as seconds,cpu,fan.");
        if (header.Length > MostColumns)
            throw new DataFileException($"Line 1: {header.Length} columns; {MostColumns} is the most.");
        if (header.All(h => double.TryParse(h, CultureInfo.InvariantCulture, out _)))
            throw new DataFileException("Line 1 holds figures. Put a line with the names of the columns above it.");
        var time = Array.FindIndex(header, h => Times.Contains(h.ToLowerInvariant()));
        int[] values = [.. Enumerable.Range(0, header.Length).Where(c => c != time && header[c].Length > 0)];
        if (values.Length == 0)
            throw new DataFileException("Line 1: there is no column of readings beside the times.");
        var seconds = new List<double>();
        var columns = values.Select(_ => new List<double>()).ToArray();
        double? first = null;
        while (csv.Read())
        {
            if (seconds.Count >= MostRows)
                throw new DataFileException($"The file has more than {MostRows:N0} rows, the most. Leave every second one out.");
            var record = csv.Parser.Record!;
            if (record.All(string.IsNullOrWhiteSpace))
                continue;
            var at = time < 0 ? seconds.Count * every : At(time < record.Length ? record[time] : "", csv.Parser.RawRow);
            first ??= at;
            seconds.Add(at - first.Value);
            for (var c = 0; c < values.Length; c++)
                columns[c].Add(Value(values[c] < record.Length ? record[values[c]] : "", header[values[c]], csv.Parser.RawRow));
        }

        return seconds.Count == 0
            ? throw new DataFileException("There is no reading below the first line.")
            : new RunReadings(
                [.. values.Select(c => header[c].TrimStart('\''))],
                [.. seconds],
                [.. columns.Select(c => c.ToImmutableArray())]
            );
    }

    private static double At(string text, int line)
    {
        if (double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var seconds))
            return seconds;
        if (TimeSpan.TryParse(text, CultureInfo.InvariantCulture, out var span))
            return span.TotalSeconds;
        return DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var when)
            ? when.ToUnixTimeMilliseconds() / 1000.0
            : throw new DataFileException($"Line {line}: \"{Cut(text)}\" is no time. Use seconds, 00:01:30, or 2026-03-01T09:30:00Z.");
    }

    private static double Value(string text, string column, int line)
    {
        if (text.Length == 0 || text is "N/A" or "-" or "nan" or "NaN")
            return double.NaN;
        // A leading apostrophe is how a figure with a sign is kept from being a spreadsheet's formula.
        var bare = text.TrimStart('\'').TrimEnd('C', 'c', '\u00b0', ' ', 'V', 'W', '%').TrimStart('+');
        return double.TryParse(bare, NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
            ? value
            : throw new DataFileException(
                $"Line {line}, column {Cut(column)}: \"{Cut(text)}\" is no figure. Leave it empty where nothing was read."
            );
    }

    private static string Cut(string text) => text.Length > 40 ? text[..40] + "\u2026" : text;

    /// <summary>What lm-sensors prints: chip, then feature, then "temp1_input"; one object a reading.</summary>
    private static RunReadings OfSensors(string text, double every)
    {
        var names = new List<string>();
        var rows = new List<Dictionary<string, double>>();
        var bytes = System.Text.Encoding.UTF8.GetBytes(text);
        var from = 0;
        while (true)
        {
            while (from < bytes.Length && bytes[from] is (byte)' ' or (byte)'\n' or (byte)'\r' or (byte)'\t' or (byte)',')
                from++;
            if (from >= bytes.Length)
                break;
            if (rows.Count >= MostRows)
                throw new DataFileException($"There are more than {MostRows:N0} readings, the most.");
            try
            {
                var reader = new Utf8JsonReader(
                    bytes.AsSpan(from),
                    new JsonReaderOptions { AllowTrailingCommas = true, CommentHandling = JsonCommentHandling.Skip }
                );
                using var reading = JsonDocument.ParseValue(ref reader);
                from += (int)reader.BytesConsumed;
                rows.Add(Reading(reading.RootElement, names));
            }
            catch (JsonException e)
            {
                throw new DataFileException($"Reading {rows.Count + 1} is not what \"sensors -j\" prints: {e.Message}", e);
            }
        }

        if (names.Count == 0)
            throw new DataFileException("There is no reading of a sensor in it. Paste what \"sensors -j\" prints.");
        return new RunReadings(
            [.. names],
            [.. rows.Select((_, i) => i * every)],
            [.. names.Select(n => rows.Select(r => r.GetValueOrDefault(n, double.NaN)).ToImmutableArray())]
        );
    }

    private static Dictionary<string, double> Reading(JsonElement root, List<string> names)
    {
        var row = new Dictionary<string, double>(StringComparer.Ordinal);
        foreach (var chip in root.EnumerateObject().Where(c => c.Value.ValueKind == JsonValueKind.Object))
        {
            foreach (var feature in chip.Value.EnumerateObject().Where(f => f.Value.ValueKind == JsonValueKind.Object))
            {
                foreach (var value in feature.Value.EnumerateObject())
                {
                    if (!value.Name.EndsWith("_input", StringComparison.Ordinal) || value.Value.ValueKind != JsonValueKind.Number)
                        continue;
                    var name = $"{chip.Name} {feature.Name}";
                    if (!names.Contains(name) && names.Count < MostColumns)
                        names.Add(name);
                    row[name] = value.Value.GetDouble();
                }
            }
        }

        return row;
    }
}
