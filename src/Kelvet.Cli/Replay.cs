using Kelvet.Core.Jobs;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Training;
using Kelvet.Core.Words;

namespace Kelvet.Cli;

/// <summary>
/// Prints a simulated job as the technician would have lived it: what was said at each step, what was done, what it showed, who was
/// then suspected; at the end what was really wrong.
/// </summary>
internal static class Replay
{
    public static int Print(WorkedJob worked, School school)
    {
        var job = worked.Log.Job;
        Console.WriteLine($"{job.Intake.Title}; {string.Join(", ", job.Intake.Contexts.DefaultIfEmpty("nothing told"))}");
        foreach (var line in job.Lines)
        {
            var before = BenchDiagnosis.Of(job.AfterLines(line.Number - 1), worked.Log.Atlas);
            var advice = Planner.Advise(before, school);
            var said = PlainAdvice.Of(advice, before);
            Console.WriteLine($"{line.Number, 3}. {said.Imperative} {said.Reason}");
            var done = Done(line.Written);
            Console.WriteLine(
                $"     {(done.Length > 0 ? $"{done} " : "")}-> {Shown(line.Written)}   ({Suspected(job, line.Number, worked)})"
            );
        }

        var result = worked.Result;
        var wasted = result.Wasted > 0 ? $", {result.Wasted:0} of it for good parts" : "";
        Console.WriteLine($"Really wrong: {string.Join("; ", worked.World.Hidden.Select(h => Words(worked.World, h)))}");
        Console.WriteLine(
            $"{Dashed.Of(result.Verdict)}: {result.Minutes:0} min, {result.Waiting:0} of them waiting; {result.Trials} starts; "
                + $"bought for {result.Money:0}{wasted}; replaced {string.Join(", ", result.Condemned.DefaultIfEmpty(new("nothing")))}"
        );
        return Exit.Well;
    }

    private static string Done(Entry entry) =>
        entry is TrialEntry t
            ? string.Join(", ", t.Changes.Select(c => c.ToString()).Append(t.Kind is { } kind ? $"start {Dashed.Of(kind)}" : ""))
                .Trim(' ', ',')
        : entry is FindingEntry f ? $"{f.Check} {f.Unit}"
        : "";

    private static string Shown(Entry entry) =>
        entry switch
        {
            TrialEntry t => $"{ObservedFormat.Write(t.Seen)}{(t.Stall is { } s ? $", lights at {s.Pointed}" : "")}",
            FindingEntry f => f.Found ? "found" : "nothing found",
            ArrivalEntry a => $"{a.Unit.Id} comes",
            _ => "done",
        };

    private static string Suspected(BenchJob job, int line, WorkedJob worked) =>
        string.Join(
            ", ",
            BenchDiagnosis
                .Of(job.AfterLines(line), worked.Log.Atlas)
                .Suspects.Take(2)
                .Select(s => $"{s.Unit.Id} {Percent.Words(s.Probability)} {Dashed.Of(s.Standing)}")
        );

    private static string Words(World world, HiddenFault hidden)
    {
        var stops = hidden.Form.StopsAt is { } stage ? $", always {stage}" : "";
        return $"{world.Faults[hidden.Index].Key}{stops}{(hidden.Form.Rate is { } rate ? $", in {rate:P0} of starts" : "")}";
    }
}
