using System.CommandLine;
using System.Text.Json;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Planning;
using Kelvet.Core.Records;
using Kelvet.Core.Training;
using Kelvet.Core.Words;

namespace Kelvet.Cli;

/// <summary>Follows the program's own advice through a job with a hidden truth, to the letter.</summary>
internal static class WalkCommand
{
    public static Command Create()
    {
        var file = new Argument<string>("file") { Description = "A walk file, see docs/formats.md." };
        var json = new Option<bool>("--json") { Description = "Print JSON." };
        var command = new Command("walk", "Follow the advice to the letter through a job with a hidden truth.") { file, json };
        command.SetAction(r => Exit.Guarded(() => Run(r.GetValue(file)!, r.GetValue(json))));
        return command;
    }

    private static int Run(string file, bool json)
    {
        var folder = Path.GetDirectoryName(Path.GetFullPath(file))!;
        var walk = WalkReader.Read(CaseFiles.Text(file), file, f => CaseFiles.Text(Path.Combine(folder, f)), Atlas.Standard);
        var result = walk.Follow(Atlas.Standard);
        if (json)
        {
            Console.WriteLine(
                JsonSerializer.Serialize(
                    new
                    {
                        name = walk.Name,
                        saidToPass = walk.Passes,
                        steps = result.Taken.Select(t => new { next = NextStep.Of(t.Read, t.Advice, Preferences.Usual), shown = t.Shown }),
                        broken = result.Broken,
                    },
                    Exit.Json
                )
            );
        }
        else
        {
            Console.WriteLine(walk.Name);
            foreach (var step in result.Taken)
            {
                var leading = step.Read.Suspects.Take(2).Select(s => $"{s.Unit.Id} {Percent.Words(s.Probability)}");
                Console.WriteLine($"{step.Number, 3}. {step.Advice.Words()}");
                Console.WriteLine($"     -> {step.Shown}   ({string.Join(", ", leading)})");
            }

            foreach (var broken in result.Broken)
                Console.WriteLine($"  not so: {broken}");
            Console.WriteLine(result.Broken.IsEmpty ? "As a master would." : $"{result.Broken.Length} not as a master would.");
        }

        return result.Broken.IsEmpty ? Exit.Well : Exit.WrongFile;
    }
}
