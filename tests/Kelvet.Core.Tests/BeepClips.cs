using System.Diagnostics;
using System.Globalization;
using Kelvet.Core.Hearing;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Tests;

/// <summary>Makes recordings of beeps with sox: pitch, rate, noise of fans, echo, overload, speed, cuts.</summary>
internal sealed class BeepClips(int seed) : IDisposable
{
    private readonly Random _random = new(seed);
    private readonly string _folder = Directory.CreateTempSubdirectory("kelvet-clips-").FullName;
    private int _files;

    public static IReadOnlyList<string> Patterns { get; } =
    [
        "1 short",
        "2 short",
        "3 short",
        "4 short",
        "5 short",
        "6 short",
        "7 short",
        "8 short",
        "11 short",
        "1 long 1 short",
        "1 long 2 short",
        "1 long 3 short",
        "1 long 8 short",
        "3 short 1 long",
        "3 long",
        "1-3-3-1",
        "1-2-2-3",
        "2-1-4-1",
        "3-3-4-2",
        "1-2",
        "continuous",
        "endless short",
        "endless long",
        "siren",
    ];

    /// <summary>How a clip is made.</summary>
    public sealed record Making(
        string Pattern,
        double Hz,
        int Rate,
        int Bits,
        int Channels,
        bool Square,
        double? Snr,
        bool Echo,
        bool Clipped,
        double Speed,
        bool CutStart,
        bool CutEnd
    );

    public Making Any(double? snr, bool hard) =>
        new(
            Patterns[_random.Next(Patterns.Count)],
            Between(400, 2500),
            Pick(8000, 11025, 16000, 22050, 44100, 48000),
            Pick(8, 16),
            Pick(1, 2),
            _random.Next(2) == 0,
            snr,
            hard && _random.Next(3) == 0,
            hard && _random.Next(4) == 0,
            hard && _random.Next(2) == 0 ? Between(0.8, 1.2) : 1,
            hard && _random.Next(5) == 0,
            hard && _random.Next(5) == 0
        );

    /// <summary>Makes the recording.</summary>
    public Recording Make(Making m)
    {
        var shortBeep = Between(0.12, 0.3);
        var longBeep = Math.Clamp(shortBeep * Between(3, 5), 0.65, 1.5);
        var gap = Between(0.1, 0.35);
        var groupGap = Math.Max(0.35, gap * Between(2.5, 4));
        var pause = Math.Max(1.3, groupGap * Between(2.2, 3.5));
        Assert.True(BeepPattern.TryParse(m.Pattern, out var pattern));
        var lead = Between(0.3, 1.2);
        var pieces = new List<(double On, double Off, double Hz)>();
        if (pattern == BeepPattern.Continuous)
            pieces.Add((Between(6, 12), 0.8, m.Hz));
        else if (pattern == BeepPattern.Siren)
            pieces.AddRange(Enumerable.Range(0, 16).Select(i => (0.45, 0.0, i % 2 == 0 ? m.Hz : m.Hz * (m.Hz > 1750 ? 1 / 1.4 : 1.4))));
        else if (pattern == BeepPattern.EndlessShort)
            pieces.AddRange(Enumerable.Repeat((shortBeep, gap, m.Hz), 24));
        else if (pattern == BeepPattern.EndlessLong)
            pieces.AddRange(Enumerable.Repeat((longBeep, gap, m.Hz), 9));
        else
        {
            var rounds = m.CutStart || m.CutEnd ? 3 : _random.Next(1, 4);
            for (var r = 0; r < rounds; r++)
            {
                foreach (var group in pattern.Groups)
                {
                    pieces.AddRange(group.Select(isLong => (isLong ? longBeep : shortBeep, gap, m.Hz)));
                    pieces[^1] = pieces[^1] with { Off = groupGap };
                }

                pieces[^1] = pieces[^1] with { Off = r < rounds - 1 ? pause : 2.6 };
            }
        }

        var files = new Dictionary<(double, double, double), string>();
        foreach (var p in pieces.Distinct())
        {
            files[p] = NewFile();
            Sox(
                $"-n -r {m.Rate} -b 16 -c 1 {files[p]} synth {N(p.On)} {(m.Square ? "square" : "sine")} {N(p.Hz)} gain -12 "
                    + $"fade t 0.004 0 0.004 pad 0 {N(p.Off)}"
            );
        }

        var tone = NewFile();
        var total = lead + pieces.Sum(p => p.On + p.Off);
        var cut =
            (m.CutStart ? $" trim {N(lead + Math.Min(0.4, pieces[0].On * 0.5))}" : "")
            + (m.CutEnd ? $" reverse trim {N(pieces[^1].Off + Math.Min(0.4, pieces[^1].On * 0.5))} reverse" : "");
        Sox(
            $"{string.Join(' ', pieces.Select(p => files[p]))} {tone} pad {N(lead)} "
                + $"0{(m.Echo ? " reverb 35 50 60" : "")}{cut}"
                + $"{(m.Speed != 1 ? $" speed {N(m.Speed)}" : "")}{(m.Clipped ? " gain 16" : "")} rate {m.Rate}"
        );
        if (m.Snr is { } snr)
        {
            var noise = NewFile();
            Sox(
                $"-n -r {m.Rate} -b 16 -c 1 {noise} synth {N((total / Math.Min(1, m.Speed)) + 1)} brownnoise synth "
                    + $"{Pick("pinknoise", "whitenoise")} mix synth sine mix {N(Between(180, 320))} gain -3"
            );
            var tonePower = Math.Pow(10, m.Clipped ? 0.2 : -1.2) * (m.Square ? 1 : 0.5);
            var k = Math.Sqrt(tonePower / Math.Pow(10, snr / 10) / Power(noise));
            var mixed = NewFile();
            var scale = Math.Min(1, 0.9 / (k + (m.Clipped ? 1 : 0.25)));
            var length = Recording.OfWav(File.ReadAllBytes(tone)).Samples.Length;
            Sox($"-m -v {N(scale)} {tone} -v {N(k * scale)} {noise} {mixed} trim 0 {length}s");
            tone = mixed;
        }

        var final = NewFile();
        Sox($"{tone} -b {m.Bits} -c {m.Channels} {final}");
        return Recording.OfWav(File.ReadAllBytes(final));
    }

    /// <summary>Notes that change, with chords, or one voice alone.</summary>
    public Recording Music(int kind)
    {
        var rate = Pick(16000, 22050, 44100);
        var notes = Enumerable
            .Range(0, 24)
            .Select(_ => N(440 * Math.Pow(2, new[] { -5, -3, -1, 0, 2, 4, 5, 7, 9, 12 }[_random.Next(10)] / 12.0)))
            .ToArray();
        var files = notes.Select(note =>
        {
            var file = NewFile();
            var second = N(double.Parse(note, CultureInfo.InvariantCulture) * 1.26);
            var length = N(Pick(0.25, 0.25, 0.5, 0.75));
            Sox(
                kind switch
                {
                    0 => $"-n -r {rate} -b 16 {file} synth {length} pluck {note}",
                    1 => $"-n -r {rate} -b 16 {file} synth {length} sine {note} synth sine mix {second} gain -6 fade t 0.02 0 0.05",
                    _ => $"-n -r {rate} -b 16 {file} synth {length} triangle {note} gain -9 fade t 0.01 0 0.03",
                }
            );
            return file;
        });
        var final = NewFile();
        Sox($"{string.Join(' ', files)} {final}{(kind == 3 ? " reverb" : "")}");
        return Recording.OfWav(File.ReadAllBytes(final));
    }

    /// <summary>No beeps: nothing at all, a room, a fan, or the hum of the mains.</summary>
    public Recording Silence(int kind)
    {
        var file = NewFile();
        Sox(
            $"-n -r 16000 -b 16 {file} "
                + (
                    kind switch
                    {
                        0 => "trim 0 8",
                        1 => "synth 8 pinknoise gain -30",
                        2 => $"synth 8 brownnoise synth sine mix {N(Between(150, 400))} gain -15",
                        _ => "synth 8 sine 100 synth sine mix 300 gain -25",
                    }
                )
        );
        return Recording.OfWav(File.ReadAllBytes(file));
    }

    /// <summary>Three short beeps twice, kept in some way: the bytes of the file.</summary>
    /// <param name="keeping">How sox is to write it, as "-b 24" or "-e a-law".</param>
    public byte[] Kept(string keeping)
    {
        var file = NewFile();
        Sox($"-n -r 16000 -b 16 -c 2 {file} synth 0.2 square 900 pad 0 0.2 repeat 2 pad 0 2 repeat 1 gain -6 pad 0.5 0");
        var kept = NewFile();
        Sox($"{file} {keeping} {kept}");
        return File.ReadAllBytes(kept);
    }

    public void Dispose() => Directory.Delete(_folder, true);

    private static double Power(string file) => Recording.OfWav(File.ReadAllBytes(file)).Samples.Average(s => (double)s * s);

    private double Between(double low, double high) => low + (_random.NextDouble() * (high - low));

    private T Pick<T>(params T[] of) => of[_random.Next(of.Length)];

    private string NewFile() => Path.Combine(_folder, $"{++_files}.wav");

    private static string N(double value) => value.ToString("0.#####", CultureInfo.InvariantCulture);

    private static void Sox(string arguments)
    {
        using var sox = Process.Start(new ProcessStartInfo("sox", $"-V1 -R {arguments}") { RedirectStandardError = true })!;
        var said = sox.StandardError.ReadToEnd();
        sox.WaitForExit();
        Assert.True(sox.ExitCode == 0, $"sox {arguments}: {said}");
    }
}
