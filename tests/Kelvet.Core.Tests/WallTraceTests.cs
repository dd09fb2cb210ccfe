using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Tests;

/// <summary>How far a machine gets, by its draw at the wall: generated traces, of which the truth is known.</summary>
public class WallTraceTests
{
    private sealed record Made(double[] Seconds, double[] Watts, BootStage Truth, DrawShape Shape);

    /// <summary>A meter that shows the mean since its last reading, with noise and other loads.</summary>
    private static Made Trace(int seed)
    {
        var random = new Random(seed);
        var shape = (DrawShape)(seed % 6);
        var rate = 1 + (random.NextDouble() * 9);
        var length = 40 + (random.NextDouble() * 50);
        var other = random.NextDouble() < 0.3 ? 2 + (random.NextDouble() * 8) : 0;
        var standby = shape == DrawShape.Nothing ? 0 : 0.5 + (random.NextDouble() * 3);
        if (shape == DrawShape.Nothing)
            other = 0;
        var noise = 0.05 + (random.NextDouble() * (shape is DrawShape.Nothing or DrawShape.Standby ? 0.1 : 1.2));
        var pressed = 3 + (random.NextDouble() * 4);
        var run = 30 + (random.NextDouble() * 120);
        var cut = 0.4 + (random.NextDouble() * 3);
        var (up, down) = (2 + (random.NextDouble() * 6), 1.5 + (random.NextDouble() * 3));
        double[] steps = [.. Enumerable.Range(0, 12).Select(_ => 0.6 + (random.NextDouble() * 0.9))];
        double At(double t)
        {
            var since = t - pressed;
            if (since < 0)
                return standby;
            switch (shape)
            {
                case DrawShape.CutsOut:
                    return since < cut ? run : standby;
                case DrawShape.Loop:
                    return since % (up + down) < up ? run : standby;
                case DrawShape.Plateau:
                    return run * (since < 0.5 ? 1.3 : 1);
                case DrawShape.Steps:
                    return run * steps[Math.Min(steps.Length - 1, (int)(since / 6))];
                default:
                    return standby;
            }
        }

        var (times, watts) = (new List<double>(), new List<double>());
        for (var t = 0.0; t < length; t += 1 / rate)
        {
            // The mean over the time since the last reading, in twenty pieces.
            var mean = Enumerable.Range(1, 20).Average(k => At(t - ((20 - k) / 20.0 / rate)));
            times.Add(t);
            watts.Add(Math.Max(0, mean + other + (noise * Normal(random))));
        }

        var truth = shape switch
        {
            DrawShape.Nothing => BootStage.NoStandby,
            DrawShape.Standby => BootStage.StandbyOnly,
            DrawShape.CutsOut => BootStage.CutsOut,
            DrawShape.Loop => BootStage.RestartLoop,
            DrawShape.Plateau => BootStage.RunsNoPost,
            _ => BootStage.Picture,
        };
        return new Made([.. times], [.. watts], truth, shape);
    }

    private static double Normal(Random random) =>
        Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());

    [Fact]
    public void The_stage_is_right_in_97_of_100_generated_traces()
    {
        var wrong = new List<string>();
        for (var seed = 5000; seed < 5500; seed++)
        {
            var made = Trace(seed);
            var read = WallTrace.Of(made.Seconds, made.Watts);
            if (read.Stage?.Contains(made.Truth) != true || read.Stage is { Width: > 4 })
                wrong.Add($"{seed} {made.Shape}: {read.Shape} {read.Stage}");
        }

        Assert.True(wrong.Count <= 15, $"{wrong.Count} of 500: {string.Join("; ", wrong.Take(12))}");
    }

    [Fact]
    public void Nothing_flat_or_foreign_is_ever_read_with_confidence()
    {
        var random = new Random(27);
        for (var seed = 0; seed < 400; seed++)
        {
            var rate = 1 + (random.NextDouble() * 9);
            var level = random.NextDouble() * 300;
            var phase = random.NextDouble() * 6;
            var slow = 20 + (random.NextDouble() * 60);
            double At(double t) =>
                (seed % 5) switch
                {
                    // Flat at any level.
                    0 => level,
                    // Something that swells and falls by itself.
                    1 => level + (0.4 * level * Math.Sin((t / slow * 2 * Math.PI) + phase)),
                    // A slow ramp: a heater, a motor.
                    2 => Math.Min(level, level * t / slow),
                    // A kettle.
                    3 => t > 10 ? 2000 : 0,
                    // A wandering load.
                    _ => level + (20 * Math.Sin(t / 3)) + (15 * Math.Sin((t / 7) + phase)),
                };
            double[] times = [.. Enumerable.Range(0, (int)(60 * rate)).Select(n => n / rate)];
            double[] watts = [.. times.Select(t => Math.Max(0, At(t) + (0.3 * Normal(random))))];
            var read = WallTrace.Of(times, watts);
            Assert.True(read.Confidence < WallTrace.Confident, $"{seed % 5} at {seed}: {read.Shape} {read.Confidence}");
        }
    }

    [Fact]
    public void A_cut_out_is_timed_in_tenths_and_a_loop_by_its_period()
    {
        double[] times = [.. Enumerable.Range(0, 400).Select(n => n / 10.0)];
        var cut = WallTrace.Of(times, [.. times.Select(t => t is >= 5 and < 5.7 ? 60.0 : 1.2)]);
        Assert.Equal((DrawShape.CutsOut, 0.7), (cut.Shape, cut.CutOut));
        Assert.Contains("0.7 s", cut.Words(), StringComparison.Ordinal);
        var loop = WallTrace.Of(times, [.. times.Select(t => t >= 5 && (t - 5) % 6 < 4 ? 60.0 : 1.2)]);
        Assert.Equal((DrawShape.Loop, 6.0), (loop.Shape, loop.Period));
    }

    [Fact]
    public void A_flood_a_gap_a_reset_and_nothing_at_all_are_answered()
    {
        Assert.Null(WallTrace.Of([], []).Stage);
        Assert.Null(WallTrace.Of([1, 2], [3, 4]).Stage);
        double[] times = [.. Enumerable.Range(0, 200).Select(n => n / 5.0)];
        double[] watts = [.. times.Select(t => t < 5 ? 1.0 : 80)];
        // What was dropped is left out.
        var gaps = WallTrace.Of(times, [.. watts.Select((w, i) => i % 7 == 0 ? double.NaN : w)]);
        Assert.Equal(DrawShape.Plateau, gaps.Shape);
        // A meter that counts its time anew says nothing.
        double[] reset = [.. times.Select((t, i) => i < 100 ? t : t - 20)];
        Assert.Null(WallTrace.Of(reset, watts).Stage);
        Assert.All(Enum.GetValues<DrawShape>(), s => Assert.NotEqual("", (gaps with { Shape = s, CutOut = 1, Period = 1 }).Words()));
    }
}
