using System.CommandLine;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;

namespace Kelvet.Cli;

/// <summary>Writes what the documentation takes from the code: the job schema, the tables of fields, the drawing of the floors.</summary>
internal static partial class DocsCommand
{
    public static Command Create()
    {
        var folder = new Argument<string>("folder") { Description = "The folder docs." };
        var check = new Option<bool>("--check") { Description = "Change nothing; fail when something has drifted." };
        var command = new Command("docs", "Write what the documentation takes from the code.") { folder, check };
        command.SetAction(r => Exit.Guarded(() => Run(r.GetValue(folder)!, r.GetValue(check))));
        return command;
    }

    private static int Run(string folder, bool check)
    {
        var drifted = 0;
        Put(Path.Combine(folder, "job.schema.json"), _ => JobDocument.Schema());
        Put(
            Path.Combine(folder, "formats.md"),
            text =>
                Blocks(
                    text,
                    new Dictionary<string, string>
                    {
                        ["intake"] = JobDocument.IntakeTable(),
                        ["units"] = JobDocument.UnitTable(),
                        ["steps"] = JobDocument.StepTable(),
                        ["signs"] = JobDocument.SignsTable(),
                        ["changes"] = JobDocument.ChangeTable(),
                        ["places"] = JobDocument.PlaceTable(),
                        ["catalogue"] = CatalogueTable(),
                    }
                )
        );
        Put(Path.Combine(folder, "how-it-reasons.md"), text => WorkedJob(text, Path.Combine(folder, "examples/black-screen.json")));
        var core = Path.Combine(folder, "../src/Kelvet.Core");
        Put(Path.Combine(folder, "floors.svg"), _ => FloorsDrawing.Of(core));
        if (drifted > 0 && check)
            Console.Error.WriteLine("Run ./kelvet docs.");
        return drifted > 0 && check ? Exit.WrongUse : Exit.Well;

        void Put(string file, Func<string, string> make)
        {
            var before = File.Exists(file) ? File.ReadAllText(file) : "";
            var after = make(before);
            if (after == before)
                return;
            drifted++;
            Console.WriteLine($"{file} {(check ? "has drifted from the code" : "is written")}");
            if (!check)
                File.WriteAllText(file, after, new UTF8Encoding(false));
        }
    }

    private static string CatalogueTable() =>
        "| column | what it holds |\n|---|---|\n" + string.Concat(CatalogueFile.Columns.Select(c => $"| `{c.Key}` | {c.About} |\n"));

    /// <summary>The rows of the worked job, with the suspects and the next step as they come out.</summary>
    private static string WorkedJob(string text, string file)
    {
        var job = JobFormat.Read(File.ReadAllText(file));
        return WorkedRow()
            .Replace(
                text,
                m =>
                {
                    var d = BenchDiagnosis.Of(job.AfterLines(int.Parse(m.Groups["n"].Value, CultureInfo.InvariantCulture)), Atlas.Standard);
                    var suspects = d
                        .Suspects.OrderByDescending(s => s.Probability)
                        .Take(3)
                        .Select(s => $"`{s.Unit.Id}` {Percent.Words(s.Probability).Replace('\u00a0', ' ')}");
                    return $"{m.Groups["head"].Value} {string.Join(", ", suspects)} | {Planner.Advise(d).Words()} |";
                }
            );
    }

    [GeneratedRegex(@"^(?<head>\| (?<n>\d) \| [^|]+ \| [\d-]+ \|)[^|]+\|[^|\n]+\|$", RegexOptions.Multiline)]
    private static partial Regex WorkedRow();

    /// <summary>The first mark of a block.</summary>
    public static string MarkOf(string block) => $"<!-- made: {block} -->";

    /// <summary>Puts each block between its marks, "&lt;!-- made: NAME --&gt;" and "&lt;!-- end --&gt;".</summary>
    public static string Blocks(string text, Dictionary<string, string> blocks) =>
        Block()
            .Replace(
                text,
                m =>
                    blocks.TryGetValue(m.Groups["name"].Value, out var made)
                        ? $"{MarkOf(m.Groups["name"].Value)}\n{made}<!-- end -->"
                        : m.Value
            );

    [GeneratedRegex("<!-- made: (?<name>[a-z]+) -->\n.*?<!-- end -->", RegexOptions.Singleline)]
    private static partial Regex Block();
}
