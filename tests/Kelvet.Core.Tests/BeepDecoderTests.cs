using System.Text;
using Kelvet.Core.Hearing;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;
using Xunit.Abstractions;

namespace Kelvet.Core.Tests;

/// <summary>Beeps by ear: a generated set of recordings (sox), and taps of a finger.</summary>
public sealed class BeepDecoderTests(ITestOutputHelper output)
{
    /// <summary>Recordings a case; more, and others, are asked for with KELVET_CLIPS and KELVET_CLIPS_SEED.</summary>
    private static readonly int Clips = Setting("KELVET_CLIPS", 40);

    private static readonly int FirstSeed = Setting("KELVET_CLIPS_SEED", 0);

    private static int Setting(string name, int otherwise) =>
        int.TryParse(Environment.GetEnvironmentVariable(name), out var n) ? n : otherwise;

    [Theory]
    [InlineData(1, null, false, 0.98)]
    [InlineData(2, null, true, 0.98)]
    [InlineData(3, 20.0, true, 0.98)]
    [InlineData(4, 10.0, true, 0.98)]
    [InlineData(5, 6.0, true, 0.95)]
    public void Recordings_are_decoded(int seed, double? snr, bool hard, double least)
    {
        using var clips = new BeepClips(FirstSeed + seed);
        var right = 0;
        for (var i = 0; i < Clips; i++)
        {
            var making = clips.Any(snr, hard);
            var heard = clips.Make(making).Listen();
            if (heard.Pattern.Pattern?.ToString() == making.Pattern)
                right++;
            else
                output.WriteLine(
                    $"{making} → {heard.Pattern} tone {heard.ToneHz:0} above {heard.AboveNoise:0.0} beeps "
                        + $"{string.Join(" ", heard.Beeps.Select(b => $"{b.Start:0.00}+{b.Length:0.00}"))}"
                );
        }

        output.WriteLine($"{right} of {Clips}");
        Assert.True(right >= least * Clips, $"{right} of {Clips}");
    }

    [Fact]
    public void Music_and_silence_give_no_sure_answer()
    {
        using var clips = new BeepClips(FirstSeed + 9);
        for (var i = 0; i < 40; i++)
        {
            var heard = (i % 2 == 0 ? clips.Music(i / 2 % 4) : clips.Silence(i / 2 % 4)).Listen();
            Assert.False(heard.Pattern.IsSure, $"{i}: {heard.Pattern} {heard.ToneHz}");
            Assert.True(heard.Pattern.Pattern is not null || heard.Pattern.Why.Length > 0);
        }
    }

    [Fact]
    public void The_tone_is_told_in_hertz()
    {
        using var clips = new BeepClips(10);
        var heard = clips.Make(clips.Any(null, false) with { Pattern = "5 short", Hz = 880, Square = false }).Listen();
        Assert.InRange(heard.ToneHz, 860, 900);
    }

    [Theory]
    [InlineData("-b 8")]
    [InlineData("-b 16")]
    [InlineData("-b 24")]
    [InlineData("-b 32")]
    [InlineData("-e float -b 32")]
    [InlineData("-e float -b 64")]
    [InlineData("-e a-law")]
    [InlineData("-e mu-law")]
    public void A_recording_is_read_however_it_is_kept(string keeping)
    {
        using var clips = new BeepClips(11);
        var recording = Recording.OfWav(clips.Kept(keeping));
        Assert.Equal(
            (16000, "3 short", 2),
            (recording.Rate, recording.Listen().Pattern.Pattern?.ToString(), recording.Listen().Pattern.Rounds)
        );
        Assert.InRange(recording.Samples.Max(), 0.5f, 0.7f);
    }

    [Theory]
    [InlineData(0u)]
    [InlineData(uint.MaxValue)]
    [InlineData(int.MaxValue)]
    public void A_recording_that_breaks_off_or_never_got_its_length_is_read_as_far_as_it_goes(uint length)
    {
        using var clips = new BeepClips(12);
        var file = clips.Kept("-b 16");
        var data = file.AsSpan().IndexOf("data"u8);
        BitConverter.TryWriteBytes(file.AsSpan(data + 4), length);
        Assert.Equal("3 short", Recording.OfWav(file).Listen().Pattern.Pattern?.ToString());
        Assert.Equal((file.Length * 3 / 4 - data - 8) / 4, Recording.OfWav(file[..(file.Length * 3 / 4)]).Samples.Length);
    }

    [Fact]
    public void A_recording_of_more_than_two_minutes_says_that_the_rest_was_not_heard()
    {
        var sound = new float[8000 * 125];
        Assert.EndsWith("only the first 120 s were listened to", new Recording(sound, 8000).Listen().Pattern.Why);
        Assert.DoesNotContain("120 s", new Recording(sound[..(8000 * 119)], 8000).Listen().Pattern.Why);
    }

    [Fact]
    public void A_packing_that_is_not_understood_is_named()
    {
        using var clips = new BeepClips(13);
        Assert.Matches(
            "packed as DviAdpcm.*Save the recording as WAV",
            Assert.Throws<DataFileException>(() => Recording.OfWav(clips.Kept("-e ima-adpcm"))).Message
        );
    }

    [Theory]
    [InlineData("not a recording", "not a WAV")]
    [InlineData("RIFF....WAVEfmt broken broken broken broken broken broken", "damaged")]
    public void A_broken_recording_is_refused_in_words(string content, string message) =>
        Assert.Contains(message, Assert.Throws<DataFileException>(() => Recording.OfWav(Encoding.ASCII.GetBytes(content))).Message);

    [Fact]
    public void Bytes_of_any_kind_never_do_more_than_be_refused()
    {
        var random = new Random(4);
        for (var i = 0; i < 300; i++)
        {
            var bytes = new byte[random.Next(44, 4000)];
            random.NextBytes(bytes);
            "RIFF"u8.CopyTo(bytes);
            "WAVEfmt "u8.CopyTo(bytes.AsSpan(8));
            try
            {
                Recording.OfWav(bytes).Listen();
            }
            catch (DataFileException) { }
        }
    }

    [Theory]
    [InlineData("5 short")]
    [InlineData("1 short")]
    [InlineData("1 long 2 short")]
    [InlineData("3 short 1 long")]
    [InlineData("1-3-3-1")]
    [InlineData("1-2-2-3")]
    [InlineData("11 short")]
    public void Taps_are_read_through_the_unsteadiness_of_a_finger(string pattern)
    {
        // Lengths and gaps scatter by a fifth either way, as a finger that follows beeps does. Bench judgement.
        var random = new Random(pattern.Aggregate(17, (seed, c) => ((31 * seed) + c) & 0xFFFF));
        double Human(double seconds) => seconds * (0.8 + (0.4 * random.NextDouble()));
        Assert.True(BeepPattern.TryParse(pattern, out var wanted));
        var right = 0;
        const int Tries = 200;
        for (var i = 0; i < Tries; i++)
        {
            var taps = new List<Beep>();
            var t = 0.4;
            for (var round = 0; round < 1 + (i % 3); round++)
            {
                foreach (var group in wanted.Groups)
                {
                    foreach (var isLong in group)
                    {
                        var end = t + Human(isLong ? 0.9 : 0.16);
                        taps.Add(new Beep(t, end));
                        t = end + Human(0.22);
                    }

                    t += Human(0.55);
                }

                t += Human(2);
            }

            if (BeepRhythm.Read(taps, t + 1, byHand: true).Pattern?.ToString() == pattern)
                right++;
        }

        Assert.True(right >= 0.95 * Tries, $"{right} of {Tries}");
    }

    [Fact]
    public void Rounds_confirm_each_other_and_a_single_one_is_less_sure()
    {
        Beep[] once = [new(0.5, 0.7), new(0.9, 1.1), new(1.3, 1.5)];
        var single = BeepRhythm.Read(once, 4);
        var twice = BeepRhythm.Read([.. once, .. once.Select(b => new Beep(b.Start + 3, b.End + 3))], 7);
        Assert.Equal("3 short", single.Pattern!.ToString());
        Assert.Equal("3 short", twice.Pattern!.ToString());
        Assert.Equal(2, twice.Rounds);
        Assert.True(twice.Confidence > single.Confidence);
        Assert.False(BeepRhythm.Read(once, 1.7).IsSure);
        Assert.Null(BeepRhythm.Read([], 5).Pattern);
    }
}
