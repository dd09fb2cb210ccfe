using System.CommandLine;
using System.Diagnostics;
using System.Text.Json;
using Kelvet.Core.Faults;
using Kelvet.Core.Planning;
using Kelvet.Core.Training;

namespace Kelvet.Cli;

/// <summary>Draws hidden faults, lets each school work each job to a verdict, and compares.</summary>
internal static class SimulateCommand
{
    public static Command Create()
    {
        var jobs = new Option<int>("--jobs") { Description = "Jobs to simulate, 1 to 100000.", DefaultValueFactory = _ => 200 };
        var seed = new Option<int>("--seed") { Description = "The same seed gives the same output.", DefaultValueFactory = _ => 1 };
        var school = new Option<string>("--school") { Description = "A school, or all.", DefaultValueFactory = _ => "all" };
        var mismatch = new Option<double>("--mismatch")
        {
            Description = "Factor, 1 to 10, by which the world's numbers differ from the reasoner's at most.",
            DefaultValueFactory = _ => 1,
        };
        var json = new Option<bool>("--json") { Description = "Print JSON." };
        var worst = new Option<int>("--worst")
        {
            Description = "Also list so many jobs that did not end right.",
            DefaultValueFactory = _ => 0,
        };
        var world = new Option<string?>("--world")
        {
            Description = "A world that the reasoner does not know: a file, or a name in tests/worlds.",
        };
        var calibration = new Option<string?>("--calibration")
        {
            Description = "Also print how often parts that were said to be at fault were, and draw it into this SVG.",
        };
        var trace = new Option<int?>("--trace") { Description = "Print one job step by step instead." };
        var command = new Command("simulate", "Let the schools work simulated jobs and compare them.")
        {
            jobs,
            seed,
            school,
            mismatch,
            json,
            worst,
            trace,
            world,
            calibration,
        };
        command.SetAction(r =>
            Exit.Guarded(() =>
                Run(
                    r.GetValue(jobs),
                    r.GetValue(seed),
                    r.GetValue(school)!,
                    r.GetValue(mismatch),
                    r.GetValue(json),
                    r.GetValue(worst),
                    r.GetValue(trace),
                    r.GetValue(world) is { } name ? Worlds.Read(name) : null,
                    r.GetValue(calibration)
                )
            )
        );
        return command;
    }

    private static int Run(
        int jobs,
        int seed,
        string school,
        double mismatch,
        bool json,
        int worst,
        int? trace,
        WorldSetting? world,
        string? calibration
    )
    {
        // Long: it reads its options, runs, and prints one table after another.
        var schools = school == "all" ? School.Standard : [.. School.Standard.Where(s => s.Id == school)];
        if (schools.Length == 0)
            return Exit.Wrong($"There is no school \"{school}\"; there is {string.Join(", ", School.Standard.Select(s => s.Id))} and all.");
        if (jobs is < 1 or > 100_000)
            return Exit.Wrong("--jobs takes 1 to 100000.");
        if (mismatch is not (>= 1 and <= 10))
            return Exit.Wrong("--mismatch takes 1 to 10.");
        if (trace is { } index)
            return Replay.Print(Simulation.Job(index, seed, [schools[0]], Atlas.Standard, mismatch, world)[0], schools[0]);
        // Logs are dropped at once: a thousand of them would fill the memory.
        var outcomes = new JobResult[jobs][];
        var claims = new (double Said, bool Was)[jobs][];
        var progress = new Progress(jobs);
        Parallel.For(
            0,
            jobs,
            i =>
            {
                var worked = Simulation.Job(i, seed, schools, Atlas.Standard, mismatch, world);
                outcomes[i] = [.. worked.Select(w => w.Result)];
                claims[i] = [.. worked[0].Claims];
                progress.Step();
            }
        );
        progress.End();
        SchoolResult[] results = [.. schools.Select((s, n) => SchoolResult.Of(s.Id, [.. outcomes.Select(o => o[n])]))];
        if (json)
        {
            Console.WriteLine(
                JsonSerializer.Serialize(
                    new
                    {
                        jobs,
                        seed,
                        mismatch,
                        schools = results,
                    },
                    Exit.Json
                )
            );
            return Exit.Well;
        }

        Console.WriteLine($"{jobs} jobs, seed {seed}, mismatch {mismatch:0.##}{(world is null ? "" : $", world: {world.Name}")}");
        Console.WriteLine(
            $"{"school", -12}{"right", 9}{"missed", 9}{"wrong", 9}{"given up", 10}"
                + $"{"not proved", 11}{"mean min", 10}{"median", 9}{"trials", 9}{"at risk", 9}"
        );
        foreach (var r in results)
        {
            Console.WriteLine(
                $"{r.School, -12}{Share(r.Right), 9}{Share(r.Missed), 9}{Share(r.WrongPart), 9}"
                    + $"{Share(r.GivenUp), 10}{Share(r.NotProved), 11}"
                    + $"{r.MeanMinutes, 10:0.0}{r.MedianMinutes, 9:0.0}{r.MeanTrials, 9:0.0}{r.SparesAtRisk, 9:0.00}"
            );
        }

        foreach (var (o, i) in outcomes.Select((o, i) => (o[0], i)).Where(p => p.Item1.Verdict != Verdict.Right).Take(worst))
            Console.WriteLine(
                $"job {i}: {o.Verdict} after {o.Minutes:0} min, {o.Trials} trials; replaced {string.Join(", ", o.Condemned)}"
            );
        if (calibration is not null)
        {
            var bands = Calibration.Of(claims.SelectMany(c => c));
            Console.Write(Calibration.Table(bands));
            File.WriteAllText(calibration, Calibration.Drawing(bands));
        }

        return Exit.Well;

        string Share(int n) => $"{100.0 * n / jobs:0.0} %";
    }
}

/// <summary>A progress line on a terminal; nothing elsewhere.</summary>
internal sealed class Progress(int total)
{
    private readonly bool _shown = !Console.IsErrorRedirected;
    private readonly long _since = Stopwatch.GetTimestamp();
    private int _done;

    public void Step()
    {
        var done = Interlocked.Increment(ref _done);
        if (!_shown || done % Math.Max(1, total / 200) != 0)
            return;
        var bar = new string('#', 30 * done / total).PadRight(30, '.');
        lock (this)
            Console.Error.Write(
                $"\r[{bar}] {done} of {total}, {Stopwatch.GetElapsedTime(_since) / done * (total - done):hh\\:mm\\:ss} to go "
            );
    }

    public void End()
    {
        if (_shown)
            Console.Error.Write("\r" + new string(' ', 80) + "\r");
    }
}
