using System.CommandLine;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Words;

namespace Kelvet.Cli;

/// <summary>Checks case files, atlases, schools files, tables of signals and captures of codes.</summary>
internal static class ValidateCommand
{
    public static Command Create()
    {
        var files = new Argument<string[]>("files")
        {
            Description = "Job files (.json), atlases and schools files (.yaml), tables of signals (.csv), captures of codes (.txt).",
            Arity = ArgumentArity.OneOrMore,
        };
        var command = new Command("validate", "Check files; every mistake is named with its place.") { files };
        command.SetAction(r => r.GetValue(files)!.Max(f => Exit.Guarded(() => One(f))));
        return command;
    }

    private static int One(string path)
    {
        var text = CaseFiles.Text(path);
        if (path.EndsWith(".yaml", StringComparison.OrdinalIgnoreCase) || path.EndsWith(".yml", StringComparison.OrdinalIgnoreCase))
        {
            if (YamlPart.Root(text, path).Find("schools") is not null)
                Console.WriteLine($"{path}: {School.Read(text, path).Length} schools, well formed");
            else
                Console.WriteLine($"{path}: {AtlasReader.Read(text, path).Modes.Length} fault modes, well formed");
            return Exit.Well;
        }

        if (path.EndsWith(".csv", StringComparison.OrdinalIgnoreCase))
        {
            var table = SignalTableFile.Read(text, path);
            Console.WriteLine($"{path}: {table.Rows.Length} rows of {table.Kind.Words()}, well formed");
            return Exit.Well;
        }

        if (path.EndsWith(".txt", StringComparison.OrdinalIgnoreCase))
        {
            Console.WriteLine($"{path}: {CodeLog.Read(text, path).Total} codes, well formed");
            return Exit.Well;
        }

        var job = CaseFiles.Job(path);
        foreach (var finding in job.Entries.OfType<FindingEntry>().Where(f => Atlas.Standard.Check(f.Check) is null))
            throw new DataFileException(
                $"{path}: there is no check \"{finding.Check}\" in the atlas; known are "
                    + $"{string.Join(", ", Atlas.Standard.Checks.Select(c => c.Id))}."
            );
        Console.WriteLine($"{path}: {job.Now.Parts.Count} units, {job.Lines.Length} steps, well formed");
        return Exit.Well;
    }
}
