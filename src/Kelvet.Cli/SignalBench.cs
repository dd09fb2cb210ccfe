using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Hearing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Devices;

namespace Kelvet.Cli;

/// <summary>Measures what reads codes, beeps and lights.</summary>
internal static class SignalBench
{
    public static void Run()
    {
        Console.WriteLine();
        var library = Atlas.Standard.Signals;
        foreach (var rate in new[] { 8000, 16000, 44100, 48000 })
        {
            var sound = Beeping(rate, 30);
            Say(
                $"30 s of sound at {rate / 1000.0:0.#} kHz decoded ({BeepDecoder.Decode(sound, rate).Pattern.Pattern})",
                BenchCommand.Median(() => BeepDecoder.Decode(sound, rate)),
                150
            );
        }

        foreach (var query in new[] { "55", "1-2-2-3", "1 long 2 short", "memory", "coin cell flat" })
            Say(
                $"search of {library.Tables.Sum(t => t.Rows.Length)} rows for \"{query}\" ({library.Search(query).Length} found)",
                BenchCommand.Median(() => library.Search(query)),
                50
            );
        var entry = new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.RunsNoPost))
        {
            Signs = new Signs
            {
                Code = "55",
                Codes = "02 06 0B 15 19 2B 2C 2E 55",
                Beeps = "1 long 3 short",
                Lights = "cpu memory",
            },
        };
        Say("code, beeps and lights of a start weighed", BenchCommand.Median(() => SignalEvidence.Of(entry, null, library)), 5);
        var flood = System.Text.Encoding.ASCII.GetBytes(string.Concat(Enumerable.Range(0, 10_000).Select(i => $"{i & 0xFF:X2}\n")));
        Say(
            "a second of a flood, 10,000 codes, read and logged",
            BenchCommand.Median(() =>
            {
                var log = new CodeLog();
                new CodeProtocol().Take(flood, code => log.Add(0, code));
            }),
            50
        );
    }

    private static void Say(string what, double ms, double most) => Console.WriteLine($"{what, -78}{ms, 9:0.00} ms   at most {most:0}");

    /// <summary>One long and two short, again and again, with noise.</summary>
    private static float[] Beeping(int rate, int seconds)
    {
        var random = new Random(3);
        var sound = new float[rate * seconds];
        for (var i = 0; i < sound.Length; i++)
        {
            var t = i / (double)rate % 5;
            var on = t is < 0.9 or (> 1.1 and < 1.3) or (> 1.5 and < 1.7);
            sound[i] = (float)((on ? 0.3 * Math.Sin(2 * Math.PI * 1040 * i / rate) : 0) + (0.05 * (random.NextDouble() - 0.5)));
        }

        return sound;
    }
}
