using System.Collections.Immutable;
using Kelvet.Core.Observed;
using NWaves.Filters.Fda;
using NWaves.Transforms;
using NWaves.Windows;

namespace Kelvet.Core.Hearing;

/// <summary>What was heard in a recording.</summary>
/// <param name="Pattern">The pattern, or why there is none.</param>
/// <param name="Beeps">The beeps that were found.</param>
/// <param name="ToneHz">Pitch of the tone, Hz; 0 when none was found.</param>
/// <param name="AboveNoise">How far the tone stands above what else is at its pitch, decibels.</param>
/// <param name="Seconds">Length of the recording.</param>
public sealed record Heard(HeardPattern Pattern, ImmutableArray<Beep> Beeps, double ToneHz, double AboveNoise, double Seconds);

/// <summary>
/// Finds beeps in sound: one steady tone that comes and goes. The tone is the pitch that stands out from its neighbourhood in
/// most frames; a beep is where it does. Sound with many pitches (speech, music) gives no pattern.
/// </summary>
public static class BeepDecoder
{
    /// <summary>Lowest and highest pitch that is looked for, Hz.</summary>
    public const double LowestHz = 350,
        HighestHz = 3150;

    /// <summary>Accepted sample rates, Hz.</summary>
    public const int LowestRate = 8000,
        HighestRate = 192_000;

    /// <summary>Longest recording, seconds; what comes after is not listened to.</summary>
    public const double LongestSeconds = 120;

    private const int Frame = 256;
    private const int Hop = 64;
    private const int Around = 10;

    /// <summary>A peak this far above its neighbourhood is a tone, decibels.</summary>
    private const double Tonal = 13;

    /// <summary>Tones this far below the loudest do not count, decibels.</summary>
    private const double Faint = 20;

    /// <summary>Less of the tonal frames than this at one pitch, and it is not beeps.</summary>
    private const double LeastPurity = 0.8;

    /// <summary>Decodes one channel of sound.</summary>
    /// <param name="samples">-1 to 1.</param>
    /// <param name="rate">Samples a second, <see cref="LowestRate"/> to <see cref="HighestRate"/>.</param>
    /// <exception cref="ArgumentOutOfRangeException">The rate is out of range.</exception>
    public static Heard Decode(ReadOnlySpan<float> samples, int rate)
    {
        if (rate is < LowestRate or > HighestRate)
            throw new ArgumentOutOfRangeException(nameof(rate), rate, $"Sound is taken at {LowestRate} to {HighestRate} samples a second.");
        var most = (int)(LongestSeconds * rate);
        var isLonger = samples.Length > most;
        if (isLonger)
            samples = samples[..most];
        var seconds = samples.Length / (double)rate;
        var factor = Math.Max(1, rate / 7350);
        var slow = Decimate(samples, factor);
        var slowRate = rate / (double)factor;
        var spectrum = new Spectrum(slow, slowRate);
        if (spectrum.Frames < 8)
            return None("the recording is too short", seconds);
        var heard = spectrum.Listen(seconds);
        if (!isLonger)
            return heard;
        string[] doubts = [heard.Pattern.Why, $"only the first {LongestSeconds:0} s were listened to"];
        return heard with { Pattern = heard.Pattern with { Why = string.Join("; ", doubts.Where(d => d.Length > 0)) } };
    }

    private static Heard None(string why, double seconds, double hz = 0, double above = 0) =>
        new(new HeardPattern(null, 0, 0, why), [], hz, above, seconds);

    /// <summary>Every nth sample of the low-passed sound.</summary>
    private static float[] Decimate(ReadOnlySpan<float> samples, int factor)
    {
        if (factor == 1)
            return samples.ToArray();
        var taps = (8 * factor) | 1;
        var kernel = DesignFilter.FirWinLp(taps, 0.42 / factor);
        var coefficients = Array.ConvertAll(kernel, k => (float)k);
        var output = new float[Math.Max(0, (samples.Length - taps) / factor)];
        for (var i = 0; i < output.Length; i++)
            output[i] = System.Numerics.Tensors.TensorPrimitives.Dot(samples.Slice(i * factor, taps), coefficients);
        return output;
    }

    /// <summary>Power by frame and pitch, and what stands out in it.</summary>
    private sealed class Spectrum
    {
        private readonly double _rate;
        private readonly int _low;
        private readonly int _high;
        private readonly float[] _power;
        private readonly float[] _contrast;
        private readonly int[] _peak;

        public Spectrum(float[] samples, double rate)
        {
            _rate = rate;
            _low = (int)Math.Ceiling(LowestHz * Frame / rate);
            _high = Math.Min((Frame / 2) - Around - 1, (int)(HighestHz * Frame / rate));
            Frames = samples.Length < Frame ? 0 : ((samples.Length - Frame) / Hop) + 1;
            Bins = (Frame / 2) + 1;
            _power = new float[Frames * Bins];
            _contrast = new float[Frames * Bins];
            _peak = new int[Frames];
            var fft = new RealFft(Frame);
            var window = Window.OfType(WindowType.Hann, Frame);
            var block = new float[Frame];
            var spectrum = new float[Bins];
            var sums = new float[Bins + 1];
            for (var t = 0; t < Frames; t++)
            {
                for (var i = 0; i < Frame; i++)
                    block[i] = samples[(t * Hop) + i] * window[i];
                fft.PowerSpectrum(block, spectrum);
                for (var b = 0; b < Bins; b++)
                {
                    var db = 10 * MathF.Log10(spectrum[b] + 1e-14f);
                    _power[(t * Bins) + b] = db;
                    sums[b + 1] = sums[b] + db;
                }

                Stand(t, sums);
            }
        }

        public int Frames { get; }

        private int Bins { get; }

        private double Hz(int bin) => bin * _rate / Frame;

        private double Time(int frame) => ((frame * Hop) + (Frame / 2)) / _rate;

        /// <summary>How far each pitch stands above its neighbours, without the nearest, and which one most.</summary>
        private void Stand(int t, float[] sums)
        {
            var best = _low;
            for (var b = _low; b <= _high; b++)
            {
                var from = Math.Max(1, b - Around);
                var to = Math.Min(Bins - 1, b + Around);
                var around = (sums[b - 2] - sums[from] + sums[to + 1] - sums[b + 3]) / (b - 2 - from + to - b - 2);
                _contrast[(t * Bins) + b] = _power[(t * Bins) + b] - around;
                if (Stronger(t, b, best))
                    best = b;
            }

            _peak[t] = best;
        }

        /// <summary>The louder of two that stand out; otherwise the one that stands out more.</summary>
        private bool Stronger(int t, int b, int best)
        {
            var (one, other) = (_contrast[(t * Bins) + b], _contrast[(t * Bins) + best]);
            return one >= Tonal && other >= Tonal ? _power[(t * Bins) + b] > _power[(t * Bins) + best] : one > other;
        }

        public Heard Listen(double seconds)
        {
            var loudest = Enumerable.Range(0, Frames).Max(t => _power[(t * Bins) + _peak[t]]);
            if (loudest < -75)
                return None("silence", seconds);
            var tonal = Enumerable.Range(0, Frames).Where(t => _contrast[(t * Bins) + _peak[t]] >= Tonal).ToList();
            if (tonal.Count > 0)
            {
                // What is far below the loudest tone is hum, or the grain of eight bits.
                var least = tonal.Max(t => _power[(t * Bins) + _peak[t]]) - Faint;
                tonal.RemoveAll(t => _power[(t * Bins) + _peak[t]] < least);
            }

            var weight = new double[Bins];
            foreach (var t in tonal)
                weight[_peak[t]]++;

            if (tonal.Count < 4)
                return None("no tone stands out from the noise", seconds);
            var tone = Strongest(weight, _ => true);
            var atTone = tonal.FindAll(t =>
                Related(_peak[t], tone) || (Contrast(t, tone) >= Tonal && _power[(t * Bins) + tone] > _power[(t * Bins) + _peak[t]] - 3)
            );
            var purity = atTone.Count / (double)tonal.Count;
            var other = Strongest(weight, b => !Related(b, tone));
            if (purity < LeastPurity && other > 0)
            {
                return Siren(tonal, tone, other) is { } siren
                    ? new Heard(siren, [], Hz(tone), Above(tone, tonal), seconds)
                    : None("many pitches: music or speech rather than beeps", seconds, Hz(tone));
            }

            return Beeps(tone, atTone, purity, seconds);
        }

        private double Contrast(int t, int bin) =>
            Math.Max(_contrast[(t * Bins) + bin], Math.Max(_contrast[(t * Bins) + bin - 1], _contrast[(t * Bins) + bin + 1]));

        /// <summary>The same pitch, or an overtone or undertone of it.</summary>
        private static bool Related(int bin, int tone)
        {
            if (Math.Abs(bin - tone) <= 1)
                return true;
            for (var n = 2; n <= 7; n++)
            {
                if (Math.Abs(bin - (n * tone)) <= n || Math.Abs((bin * n) - tone) <= n)
                    return true;
            }

            return false;
        }

        private int Strongest(double[] weight, Func<int, bool> counts)
        {
            var best = 0;
            var most = 0.0;
            for (var b = _low; b <= _high; b++)
            {
                if (!counts(b))
                    continue;
                var sum = weight[b - 1] + weight[b] + weight[b + 1];
                if (sum > most || (sum == most && weight[b] > weight[best]))
                    (best, most) = (b, sum);
            }

            return best;
        }

        private double Above(int tone, List<int> tonal) => tonal.Average(t => _contrast[(t * Bins) + tone]);

        /// <summary>Two pitches by turns, of even lengths, with little silence between; null otherwise.</summary>
        private HeardPattern? Siren(List<int> tonal, int tone, int other)
        {
            var runs = new List<(bool Second, int Length)>();
            var known = 0;
            foreach (var t in tonal)
            {
                var second = Contrast(t, other) > Contrast(t, tone);
                if (!Related(_peak[t], second ? other : tone))
                    continue;
                known++;
                if (runs.Count > 0 && runs[^1].Second == second)
                    runs[^1] = (second, runs[^1].Length + 1);
                else
                    runs.Add((second, 1));
            }

            runs.RemoveAll(r => r.Length < 3);
            if (runs.Count < 6 || known < 0.9 * tonal.Count || tonal.Count < 0.6 * (tonal[^1] - tonal[0] + 1))
                return null;
            var inner = runs[1..^1];
            double Spread(bool second) =>
                inner.Where(r => r.Second == second).Select(r => (double)r.Length).ToArray() is { Length: > 1 } l
                    ? Math.Sqrt(l.Average(v => (v - l.Average()) * (v - l.Average()))) / l.Average()
                    : 1;
            var turns = Enumerable.Range(1, runs.Count - 1).All(i => runs[i].Second != runs[i - 1].Second);
            return turns && Spread(true) < 0.2 && Spread(false) < 0.2
                ? new HeardPattern(BeepPattern.Siren, 0.75, runs.Count / 2, "")
                : null;
        }

        private Heard Beeps(int tone, List<int> atTone, double purity, double seconds)
        {
            var level = new double[Frames];
            var stands = new double[Frames];
            for (var t = 0; t < Frames; t++)
            {
                double sum = 0,
                    contrast = 0;
                var n = 0;
                for (var s = Math.Max(0, t - 1); s <= Math.Min(Frames - 1, t + 1); s++, n++)
                {
                    for (var b = tone - 1; b <= tone + 1; b++)
                        sum += Math.Pow(10, _power[(s * Bins) + b] / 10);
                    contrast += Contrast(s, tone);
                }

                level[t] = 10 * Math.Log10((sum / n) + 1e-14);
                stands[t] = contrast / n;
            }

            var on = Median(atTone.Select(t => level[t]));
            var quiet = Enumerable.Range(0, Frames).Where(t => stands[t] < 7).Select(t => level[t]).ToArray();
            var off = quiet.Length < 4 ? on - 25 : Median(quiet);
            var above = on - off;
            var down = Math.Clamp(0.3 * above, 3, 5);
            var found = Segments(level, stands, on - down);
            var beeps = found.Select(s => new Beep(Time(s.From), Time(s.To))).ToArray();
            if (beeps.Length == 0)
                return None("no tone stands out from the noise", seconds, Hz(tone), above);
            if (Unsteady(found, level) is { } why)
                return None(why, seconds, Hz(tone), above);
            var pattern = BeepRhythm.Read(beeps, seconds);
            var clean = Math.Clamp((above - 4) / 6, 0.3, 1) * Math.Clamp((purity - 0.5) / 0.4, 0.3, 1);
            if (beeps.Length == 1 && beeps[0].Start < 0.1 && seconds - beeps[0].End < 0.1)
                pattern = pattern with
                {
                    Confidence = pattern.Confidence * 0.6,
                    Why = "a tone all the time: a fan or the mains can sound like that",
                };
            return new Heard(pattern with { Confidence = Math.Round(pattern.Confidence * clean, 3) }, [.. beeps], Hz(tone), above, seconds);
        }

        /// <summary>Where the tone is on, with the short breaks closed and the short bursts dropped.</summary>
        private List<(int From, int To)> Segments(double[] level, double[] stands, double threshold)
        {
            var found = new List<(int From, int To)>();
            var inside = false;
            var from = 0;
            for (var t = 0; t <= Frames; t++)
            {
                var on = t < Frames && level[t] > threshold + (inside ? -1 : 1) && stands[t] > 5;
                if (on == inside)
                    continue;
                if (on)
                    from = t;
                else
                    found.Add((from, t));
                inside = on;
            }

            var shortest = FramesIn(0.045);
            var closed = new List<(int From, int To)>();
            foreach (var s in found)
            {
                if (closed.Count > 0 && s.From - closed[^1].To <= FramesIn(0.03))
                    closed[^1] = (closed[^1].From, s.To);
                else
                    closed.Add(s);
            }

            closed.RemoveAll(s => s.To - s.From < shortest);
            return closed;
        }

        private int FramesIn(double seconds) => (int)Math.Round(seconds * _rate / Hop);

        /// <summary>Beeps hold their level; what dies away as it sounds is a struck or plucked note.</summary>
        private static string? Unsteady(List<(int From, int To)> found, double[] level)
        {
            var falling = found
                .Where(s => s.To - s.From >= 12)
                .Select(s =>
                {
                    var n = s.To - s.From;
                    return level[(s.From + (n / 8))..(s.From + (n / 4))].Average()
                        - level[(s.From + (3 * n / 8))..(s.From + (n / 2))].Average();
                })
                .ToArray();
            return falling.Length >= 3 && Median(falling) > 3 ? "the tones die away as they sound: music rather than beeps" : null;
        }

        private static double Median(IEnumerable<double> values)
        {
            var sorted = values.Order().ToArray();
            return sorted[sorted.Length / 2];
        }
    }
}
