using Kelvet.Core.Files;
using NWaves.Audio;

namespace Kelvet.Core.Signals;

/// <summary>Sound, one channel.</summary>
/// <param name="Samples">-1 to 1.</param>
/// <param name="Rate">Samples a second.</param>
public sealed record Recording(float[] Samples, int Rate)
{
    /// <summary>Largest file that is taken, bytes: two minutes of stereo.</summary>
    public const int MostBytes = 40_000_000;

    /// <summary>Reads a WAV file of 8, 16, 24 or 32 bits; several channels are mixed to one.</summary>
    /// <exception cref="DataFileException">It is no such file; the message says what to do.</exception>
    public static Recording OfWav(byte[] file)
    {
        if (file.Length > MostBytes) throw new DataFileException($"The recording has {file.Length / 1e6:0.0} MB; {MostBytes / 1e6:0} MB is the most. Record half a minute.");
        if (file.Length < 44 || !file.AsSpan(0, 4).SequenceEqual("RIFF"u8) || !file.AsSpan(8, 4).SequenceEqual("WAVE"u8))
            throw new DataFileException("The file is not a WAV recording. Save the recording as WAV (PCM, 16 bits) and choose it again.");
        try
        {
            using var stream = new MemoryStream(file);
            var wave = new WaveFile(stream);
            if (wave.WaveFmt.SamplingRate is < BeepDecoder.LowestRate or > BeepDecoder.HighestRate)
                throw new DataFileException($"The recording has {wave.WaveFmt.SamplingRate} samples a second; {BeepDecoder.LowestRate} to {BeepDecoder.HighestRate} are understood.");
            if (wave.Signals.Count == 0 || wave.Signals[0].Length == 0) throw new DataFileException("The recording is empty.");
            var mixed = new float[wave.Signals[0].Length];
            foreach (var channel in wave.Signals)
            {
                for (var i = 0; i < Math.Min(mixed.Length, channel.Length); i++) mixed[i] += channel[i] / wave.Signals.Count;
            }

            return new Recording(mixed, wave.WaveFmt.SamplingRate);
        }
        catch (Exception e) when (e is not DataFileException)
        {
            throw new DataFileException("The recording is damaged or of a kind that is not understood. Save it as WAV (PCM, 16 bits) and choose it again.", e);
        }
    }

    /// <summary>Raw sound as a page sends it: 16 bits, little end first, one channel.</summary>
    /// <exception cref="DataFileException">An odd number of bytes, or a rate out of range.</exception>
    public static Recording OfPcm(byte[] bytes, int rate)
    {
        if (bytes.Length % 2 != 0) throw new DataFileException("The sound ends in the middle of a sample.");
        if (rate is < BeepDecoder.LowestRate or > BeepDecoder.HighestRate) throw new DataFileException($"Sound at {rate} samples a second is not understood.");
        var samples = new float[bytes.Length / 2];
        for (var i = 0; i < samples.Length; i++) samples[i] = BitConverter.ToInt16(bytes, 2 * i) / 32768f;
        return new Recording(samples, rate);
    }

    /// <summary>Decodes the beeps in it.</summary>
    public Heard Listen() => BeepDecoder.Decode(Samples, Rate);
}
