using System.CommandLine;
using System.Diagnostics;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Cli;

/// <summary>Measures the core: medians over repeated runs in one process, after warming up.</summary>
internal static class BenchCommand
{
    private const int Runs = 15;

    public static Command Create()
    {
        var breadth = new Option<int>("--breadth")
        {
            Description = "Measure instead how far off posteriors of other breadths are, on logs of jobs drawn with this seed.",
        };
        var command = new Command("bench", "Measure posterior, evidence, standing and next steps by trials and modes.") { breadth };
        command.SetAction(r =>
        {
            if (r.GetValue(breadth) is not (> 0 and var seed))
                return Run();
            BreadthBench.Run(seed);
            return Exit.Well;
        });
        return command;
    }

    private static int Run()
    {
        Console.WriteLine($"{Environment.ProcessorCount} cores, .NET {Environment.Version}; medians of {Runs} runs, ms");
        Console.WriteLine(
            $"{"trials", 7}{"faults", 8}{"sets", 10}{"posterior", 11}{"evidence", 10}{"next", 8}{"together", 10}{"append", 8}{"MB", 8}"
        );
        // The first measurement would count the compiler's work, not ours.
        _ = Measured(Full(), 20);
        foreach (var trials in new[] { 5, 10, 20, 40, 80 })
            Console.WriteLine(Measured(Full(), trials));
        foreach (var faults in new[] { 40, 80, 160 })
            Console.WriteLine(Measured(Trimmed(faults), 40));
        var csv =
            "seconds,cpu,fan,fan2,+12V,watts\n"
            + string.Concat(
                Enumerable.Range(0, 100_000).Select(i => $"{i},{40 + (i % 50)},{1000 + (i % 300)},0,12.0{i % 9},{90 + (i % 7)}\n")
            );
        var read = Median(() => RunReadings.Read(csv));
        var readings = RunReadings.Read(csv);
        var heat = readings.Of(0);
        var judged = Median(() => RunLimits.Usual.Crossed(readings, readings.Guessed));
        Console.WriteLine(
            $"100,000 readings of a run: read {read:0} ms, fitted {Median(() => HeatRun.Fit(heat, 200)):0} ms, "
                + $"judged {judged:0} ms (budget 1000 ms together)"
        );
        SignalBench.Run();
        return 0;
    }

    private static string Measured((BenchJob Job, Atlas Atlas) start, int trials)
    {
        var (job, atlas) = start;
        var random = new Random(7);
        var diagnosis = BenchDiagnosis.Of(job, atlas);
        for (var t = 0; t < trials; t++)
        {
            var step = Planner.Advise(diagnosis).Next?.Candidate;
            Change[] changes = step is null || step.Check is not null ? [] : [.. step.Changes];
            diagnosis = diagnosis.After(Trial(changes, random));
        }

        job = diagnosis.Job;
        var before = GC.GetTotalMemory(true);
        var kept = BenchDiagnosis.Of(job, atlas);
        var bytes = GC.GetTotalMemory(true) - before;
        double[] columns = [.. kept.Faults.Select(f => f.Odds)];
        var posterior = Median(() => Posterior.Of(columns, [.. kept.Evidence.Select(e => e.Column)], kept.Inference.Coupling));
        var evidence = Median(() => Weight.All(kept));
        var next = Median(() => Planner.Advise(kept));
        var together = Median(() =>
        {
            var d = BenchDiagnosis.Of(job, atlas);
            _ = Weight.All(d);
            _ = Planner.Advise(d);
        });
        var append = Median(() => kept.After(Trial([], random)));
        return $"{trials, 7}{kept.Faults.Length, 8}{kept.Posterior.Sets, 10}{posterior, 11:0.0}"
            + $"{evidence, 10:0.0}{next, 8:0.0}{together, 10:0.0}{append, 8:0.0}{bytes / 1e6, 8:0.0}";
    }

    private static TrialEntry Trial(Change[] changes, Random random) =>
        new(
            Guid.NewGuid(),
            [.. changes],
            random.Next(3) == 0 ? StageRange.AtLeast(BootStage.Picture) : new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture)
        );

    /// <summary>Four sticks, a card, and spares for everything.</summary>
    private static (BenchJob Job, Atlas Atlas) Full() => (Machine(4, spares: true), Atlas.Standard);

    /// <summary>The same machine with the likeliest modes kept until about so many faults are possible.</summary>
    private static (BenchJob Job, Atlas Atlas) Trimmed(int faults)
    {
        var job = Machine(4, spares: true);
        var atlas = Atlas.Standard;
        var modes = atlas.Modes.OrderByDescending(m => m.Odds).ToList();
        for (var keep = 1; keep <= modes.Count; keep++)
        {
            var trimmed = atlas with { Modes = [.. modes.Take(keep)] };
            if (Fault.AllOf(trimmed, job.Now.Parts, []).Length >= faults)
                return (job, trimmed);
        }

        return (job, atlas);
    }

    private static BenchJob Machine(int sticks, bool spares)
    {
        var units = new List<Unit>();
        var received = Configuration.Empty;
        void Put(Unit unit, Place place)
        {
            units.Add(unit);
            if (unit.Origin == Origin.Customer)
                received = received.WithUnit(place, unit.Id);
        }

        foreach (var origin in spares ? new[] { Origin.Customer, Origin.Shelf } : [Origin.Customer])
        {
            var prefix = origin == Origin.Customer ? "" : "spare-";
            UnitId Id(string name) => new(prefix + name);
            Put(Unit.Plain(Id("supply"), UnitKind.Supply, "supply", origin), Place.Supply);
            Put(Unit.Plain(Id("extension"), UnitKind.PowerExtension, "extension", origin), Place.Extension);
            Put(Unit.Plain(Id("switch"), UnitKind.CaseSwitch, "switch", origin), Place.Switch);
            Put(Unit.Plain(Id("lead"), UnitKind.MainsLead, "lead", origin), Place.Lead);
            Put(
                new Motherboard(
                    Id("board"),
                    "board",
                    origin,
                    [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")],
                    [new("HDMI", VideoSignal.Digital), new("DP", VideoSignal.Digital), new("VGA", VideoSignal.Analogue)],
                    ["1", "2"]
                )
                {
                    TellsPost = true,
                },
                Place.Board
            );
            Put(new Cpu(Id("cpu"), "CPU", origin, true), Place.Cpu);
            Put(Unit.Plain(Id("cooler"), UnitKind.Cooler, "cooler", origin), Place.Cooler);
            for (var i = 0; i < (origin == Origin.Customer ? sticks : 2); i++)
                Put(new MemoryStick(Id($"stick-{i + 1}"), $"stick {i + 1}", origin), Place.Memory(new[] { "A1", "A2", "B1", "B2" }[i]));
            Put(
                new GraphicsCard(Id("card"), "card", origin, [new("DP 1", VideoSignal.Digital), new("HDMI", VideoSignal.Digital)], true),
                Place.Card("1")
            );
            Put(Unit.Plain(Id("drive"), UnitKind.Storage, "drive", origin), Place.Storage("1"));
            Put(Unit.Plain(Id("cable"), UnitKind.VideoCable, "cable", origin), Place.Cable);
            Put(Unit.Plain(Id("monitor"), UnitKind.Monitor, "monitor", origin), Place.Monitor);
        }

        return BenchJob.Open(
            new Intake
            {
                Title = "Bench",
                Parts = Parts.Of(units),
                Received = received.WithStart(StartMethod.CaseSwitch).WithDisplay(new OutputRef(Place.Card("1"), "DP 1")),
            }
        );
    }

    /// <summary>Median milliseconds of an act, after one run that does not count.</summary>
    public static double Median(Action run)
    {
        run();
        var times = new double[Runs];
        for (var i = 0; i < Runs; i++)
        {
            var clock = Stopwatch.StartNew();
            run();
            times[i] = clock.Elapsed.TotalMilliseconds;
        }

        Array.Sort(times);
        return times[Runs / 2];
    }
}
