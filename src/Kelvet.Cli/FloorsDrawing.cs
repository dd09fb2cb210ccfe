using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace Kelvet.Cli;

/// <summary>The floors of the core as a drawing, from the usings of its files: each folder on its floor, an arrow to each that it
/// knows.</summary>
internal static partial class FloorsDrawing
{
    private const int Width = 760,
        Row = 46,
        Left = 250,
        Box = 170;

    public static string Of(string core)
    {
        var knows = Directory
            .EnumerateDirectories(core)
            .Select(d => Path.GetFileName(d)!)
            .Where(d => d is not ("bin" or "obj"))
            .ToDictionary(
                d => d,
                d =>
                    Directory
                        .EnumerateFiles(Path.Combine(core, d), "*.cs")
                        .SelectMany(f => Using().Matches(File.ReadAllText(f)).Select(m => m.Groups[1].Value))
                        .Where(k => k != d)
                        .ToHashSet()
            );
        foreach (var folder in knows.Keys)
            knows[folder].IntersectWith(knows.Keys);
        var floors = Ordered(knows);
        var text = new StringBuilder();
        var height = (floors.Count * Row) + 20;
        text.Append(
            CultureInfo.InvariantCulture,
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Width} {height}\" font-family=\"sans-serif\" "
                + $"font-size=\"15\" role=\"img\" aria-label=\"The floors of the core\">\n"
        );
        text.Append(CultureInfo.InvariantCulture, $"<rect width=\"{Width}\" height=\"{height}\" fill=\"#fff\"/>\n");
        double Y(string folder) => height - 10 - (Row * (floors.IndexOf(folder) + 1)) + (Row / 2.0);
        foreach (var folder in floors)
        {
            foreach (var (known, n) in knows[folder].OrderByDescending(floors.IndexOf).Select((k, n) => (k, n)))
            {
                var reach = Left + Box + 14 + (13 * (floors.IndexOf(folder) - floors.IndexOf(known)));
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"<path d=\"M{Left + Box} {Y(folder) + (3 * n) - 8:0.#} C{reach} {Y(folder):0.#} {reach} {Y(known):0.#} "
                        + $"{Left + Box + 4} {Y(known):0.#}\" fill=\"none\" stroke=\"#5b6b78\" stroke-opacity=\".55\"/>\n"
                );
            }
        }

        foreach (var folder in floors)
        {
            text.Append(
                CultureInfo.InvariantCulture,
                $"<rect x=\"{Left}\" y=\"{Y(folder) - 17:0.#}\" width=\"{Box}\" height=\"34\" rx=\"4\" fill=\"#eef2f4\" "
                    + $"stroke=\"#22303a\"/>"
            );
            text.Append(
                CultureInfo.InvariantCulture,
                $"<text x=\"{Left + (Box / 2)}\" y=\"{Y(folder) + 5:0.#}\" text-anchor=\"middle\" fill=\"#16212a\">{folder}</text>"
            );
            text.Append(
                CultureInfo.InvariantCulture,
                $"<text x=\"{Left - 14}\" y=\"{Y(folder) + 5:0.#}\" text-anchor=\"end\" fill=\"#44525d\" "
                    + $"font-size=\"13\">{knows[folder].Count} known below</text>\n"
            );
        }

        return text.Append("</svg>\n").ToString();
    }

    /// <summary>From the ground up: each folder above all that it knows.</summary>
    private static List<string> Ordered(Dictionary<string, HashSet<string>> knows)
    {
        var floors = new List<string>();
        while (floors.Count < knows.Count)
        {
            var next =
                knows.Keys.Where(f => !floors.Contains(f) && knows[f].IsSubsetOf(floors)).Order(StringComparer.Ordinal).FirstOrDefault()
                ?? throw new InvalidOperationException(
                    $"The folders {string.Join(", ", knows.Keys.Except(floors))} know each other in a circle."
                );
            floors.Add(next);
        }

        return floors;
    }

    [GeneratedRegex(@"^using (?:static )?Kelvet\.Core\.(\w+)", RegexOptions.Multiline)]
    private static partial Regex Using();
}
