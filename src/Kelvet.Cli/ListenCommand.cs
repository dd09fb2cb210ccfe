using System.CommandLine;
using Kelvet.Core.Faults;
using Kelvet.Core.Hearing;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;

namespace Kelvet.Cli;

/// <summary>Decodes beeps in recordings.</summary>
internal static class ListenCommand
{
    public static Command Create()
    {
        var files = new Argument<string[]>("files") { Description = "Recordings (.wav).", Arity = ArgumentArity.OneOrMore };
        var family = new Option<string[]>("--table")
        {
            Description = "Tables that the board goes by; all are asked when none is given.",
            AllowMultipleArgumentsPerToken = true,
        };
        var command = new Command("listen", "Decode the beeps in a recording and say what the tables make of them.") { files, family };
        command.SetAction(r => r.GetValue(files)!.Max(f => Exit.Guarded(() => One(f, [.. r.GetValue(family) ?? []]))));
        return command;
    }

    private static int One(string path, string[] family)
    {
        var heard = Recording.OfWav(File.ReadAllBytes(path)).Listen();
        Console.WriteLine(
            $"{path}: {heard.Pattern.Pattern?.ToString() ?? "no pattern"}"
                + $"{(heard.Pattern.Why.Length > 0 ? $"; {heard.Pattern.Why}" : "")}; confidence {heard.Pattern.Confidence:0.00}, "
                + $"rounds {heard.Pattern.Rounds}, tone {heard.ToneHz:0} Hz, {heard.AboveNoise:0} dB above the rest"
        );
        if (heard.Pattern.Pattern is not { } pattern)
            return Exit.Well;
        foreach (var match in Atlas.Standard.Signals.Ask(SignalKind.Beeps, pattern.ToString(), [.. family]).Matches)
            Console.WriteLine(
                $"  {100 * match.Weight, 3:0} %  {match.Table.Name}: {match.Row.Meaning} (points at {match.Row.Points.Words()})"
            );
        return Exit.Well;
    }
}
