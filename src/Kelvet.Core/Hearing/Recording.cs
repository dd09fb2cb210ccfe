using Kelvet.Core.Text;
using NAudio.Codecs;
using NAudio.Wave;

namespace Kelvet.Core.Hearing;

/// <summary>Sound, one channel.</summary>
/// <param name="Samples">-1 to 1.</param>
/// <param name="Rate">Samples a second.</param>
public sealed record Recording(float[] Samples, int Rate)
{
    /// <summary>Largest file that is taken, bytes: two minutes of stereo.</summary>
    public const int MostBytes = 40_000_000;

    /// <summary>
    /// Reads a WAV file: whole numbers of 8, 16, 24 or 32 bits, floating point of 32 or 64, A-law or µ-law. Several channels are
    /// mixed to one.
    /// A file that breaks off, as when the recorder was stopped hard, is read as far as it goes.
    /// </summary>
    /// <exception cref="DataFileException">It is no such file; the message says what to do.</exception>
    public static Recording OfWav(byte[] file)
    {
        if (file.Length > MostBytes)
            throw new DataFileException(
                $"The recording has {file.Length / 1e6:0.0} MB; {MostBytes / 1e6:0} MB is the most. Record half a minute."
            );
        if (file.Length < 44 || !file.AsSpan(0, 4).SequenceEqual("RIFF"u8) || !file.AsSpan(8, 4).SequenceEqual("WAVE"u8))
            throw new DataFileException($"The file is not a WAV recording. {SaveAsWav}");
        try
        {
            using var wave = new WaveFileReader(new MemoryStream(WithTrueLengths(file)));
            var format = wave.WaveFormat;
            if (format.SampleRate is < BeepDecoder.LowestRate or > BeepDecoder.HighestRate)
                throw new DataFileException(
                    $"The recording has {format.SampleRate} samples a second; {BeepDecoder.LowestRate} to "
                        + $"{BeepDecoder.HighestRate} are understood."
                );
            var samples = Unpack(wave, format, file.Length);
            var channels = format.Channels;
            var mixed = new float[samples.Count / channels];
            if (mixed.Length == 0)
                throw new DataFileException("The recording is empty.");
            for (var i = 0; i < mixed.Length * channels; i++)
                mixed[i / channels] += samples[i] / channels;
            return new Recording(mixed, format.SampleRate);
        }
        catch (Exception e) when (e is not DataFileException)
        {
            throw new DataFileException($"The recording is damaged or of a kind that is not understood. {SaveAsWav}", e);
        }
    }

    private const string SaveAsWav = "Save the recording as WAV (PCM, 16 bits) and choose it again.";

    // A recorder that writes to a pipe, or was stopped hard, leaves lengths that are nought or more than there is.
    private static byte[] WithTrueLengths(byte[] file)
    {
        var mended = file.ToArray();
        BitConverter.TryWriteBytes(mended.AsSpan(4), mended.Length - 8);
        for (long at = 12; at + 8 <= mended.Length; )
        {
            var length = BitConverter.ToUInt32(mended, (int)at + 4);
            var left = mended.Length - at - 8;
            var isSound = mended.AsSpan((int)at, 4).SequenceEqual("data"u8);
            if (isSound && (length == 0 || length > left))
                BitConverter.TryWriteBytes(mended.AsSpan((int)at + 4), (uint)left);
            if (isSound)
                break;
            at += 8 + length + length % 2;
        }

        return mended;
    }

    private static List<float> Unpack(WaveFileReader wave, WaveFormat format, int most)
    {
        // The long form of the header has the kind of sample in the first two bytes of its sub-format's name.
        var kind =
            format.Encoding == WaveFormatEncoding.Extensible && format is WaveFormatExtraData { ExtraData: var extra }
                ? (WaveFormatEncoding)BitConverter.ToUInt16(extra, 6)
                : format.Encoding;
        var (rate, channels) = (format.SampleRate, format.Channels);
        var samples = new List<float>(most / Math.Max(1, format.BitsPerSample / 8));
        if (kind is WaveFormatEncoding.ALaw or WaveFormatEncoding.MuLaw)
        {
            var packed = new byte[wave.Length];
            wave.ReadExactly(packed);
            samples.AddRange(
                packed.Select(b =>
                    (kind == WaveFormatEncoding.ALaw ? ALawDecoder.ALawToLinearSample(b) : MuLawDecoder.MuLawToLinearSample(b)) / 32768f
                )
            );
            return samples;
        }

        var plain = kind switch
        {
            WaveFormatEncoding.Pcm => new WaveFormat(rate, format.BitsPerSample, channels),
            WaveFormatEncoding.IeeeFloat => WaveFormat.CreateCustomFormat(
                kind,
                rate,
                channels,
                rate * channels * format.BitsPerSample / 8,
                channels * format.BitsPerSample / 8,
                format.BitsPerSample
            ),
            _ => throw new DataFileException($"The recording is packed as {kind}, which is not understood. {SaveAsWav}"),
        };
        var provider = new RawSourceWaveStream(wave, plain).ToSampleProvider();
        var buffer = new float[4096 * channels];
        for (var read = provider.Read(buffer, 0, buffer.Length); read > 0; read = provider.Read(buffer, 0, buffer.Length))
            samples.AddRange(buffer.AsSpan(0, read));
        return samples;
    }

    /// <summary>Raw sound as a page sends it: 16 bits, little end first, one channel.</summary>
    /// <exception cref="DataFileException">An odd number of bytes, or a rate out of range.</exception>
    public static Recording OfPcm(byte[] bytes, int rate)
    {
        if (bytes.Length % 2 != 0)
            throw new DataFileException("The sound ends in the middle of a sample.");
        if (rate is < BeepDecoder.LowestRate or > BeepDecoder.HighestRate)
            throw new DataFileException($"Sound at {rate} samples a second is not understood.");
        var samples = new float[bytes.Length / 2];
        for (var i = 0; i < samples.Length; i++)
            samples[i] = BitConverter.ToInt16(bytes, 2 * i) / 32768f;
        return new Recording(samples, rate);
    }

    /// <summary>Decodes the beeps in it.</summary>
    public Heard Listen() => BeepDecoder.Decode(Samples, Rate);
}
