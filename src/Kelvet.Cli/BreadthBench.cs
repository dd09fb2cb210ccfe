using System.Diagnostics;
using Kelvet.Core.Diagnosis;
using Kelvet.Core.Faults;
using Kelvet.Core.Planning;
using Kelvet.Core.Training;

namespace Kelvet.Cli;

/// <summary>
/// What each breadth of the posterior costs and how far it is off, on logs of jobs in every world that ships, against one that
/// weighs far more sets.
/// </summary>
internal static class BreadthBench
{
    private static readonly Breadth Reference = new(600, 200, 1e-7);

    private static readonly Breadth[] Tried =
    [
        new(240, 120, 3e-4),
        new(160, 120, 1e-3),
        new(120, 120, 1e-3),
        new(160, 90, 1e-3),
        new(160, 45, 1e-3),
        new(80, 45, 3e-3),
    ];

    /// <summary>Lines after which a log is read.</summary>
    private static readonly int[] Lengths = [2, 6, 12, 30];

    public static void Run(int seed)
    {
        var atlas = Atlas.Standard;
        var worlds = Worlds.Named("all");
        var logs = worlds
            .AsParallel()
            .AsOrdered()
            .Select(w => Simulation.Job(0, seed, [School.Advisor], atlas, 1, w.Setting)[0].Log.Job)
            .SelectMany(job => Lengths.Where(n => n <= job.Lines.Length).Select(job.AfterLines))
            .ToArray();
        Console.WriteLine(
            $"{logs.Length} logs of {worlds.Length} worlds, seed {seed}, against {Reference.Heads} heads and {Reference.Trios} in triples"
        );
        var (wide, _) = Read(Reference);
        Console.WriteLine(
            $"{"heads", 6}{"triples", 8}{"neglect", 9}{"ms", 7}{"worst", 9}{"95 %", 9}{"mean", 9}{"other leader", 14}{"left out", 10}"
        );
        foreach (var breadth in Tried)
        {
            var (read, milliseconds) = Read(breadth);
            double[] off = [.. read.Zip(wide, (a, b) => a.Marginals.Zip(b.Marginals, (x, y) => Math.Abs(x - y)).Max()).Order()];
            var left = read.Average(r => r.Posterior.LeftOut);
            var others = read.Zip(wide).Count(p => Leader(p.First) != Leader(p.Second));
            Console.WriteLine(
                $"{breadth.Heads, 6}{breadth.Trios, 8}{breadth.Neglect, 9:0.0e0}{milliseconds, 7:0.0}{off[^1], 9:0.0000}"
                    + $"{off[off.Length * 95 / 100], 9:0.0000}{off.Average(), 9:0.00000}{others, 14}{left, 10:0.0000}"
            );
        }

        (Inference[] Read, double Milliseconds) Read(Breadth breadth)
        {
            _ = Inference.Of(logs[0], atlas, breadth);
            var clock = Stopwatch.StartNew();
            Inference[] read = [.. logs.Select(job => Inference.Of(job, atlas, breadth))];
            return (read, clock.Elapsed.TotalMilliseconds / logs.Length);
        }

        static int Leader(Inference read) => Array.IndexOf(read.Marginals, read.Marginals.Max());
    }
}
