using Kelvet.Core.Hearing;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Tests;

/// <summary>Times of beeps at the edges of what is taken for a pattern. Lengths and limits are common practice.</summary>
public class BeepRhythmTests
{
    /// <summary>Beeps as "S", "L" (long) and gaps in seconds between them, from 0.5 s on.</summary>
    private static (Beep[] Beeps, double End) Row(params object[] parts)
    {
        var beeps = new List<Beep>();
        var t = 0.5;
        foreach (var part in parts)
        {
            switch (part)
            {
                case "S":
                    beeps.Add(new Beep(t, t += 0.15));
                    break;
                case "L":
                    beeps.Add(new Beep(t, t += 0.6));
                    break;
                default:
                    t += Convert.ToDouble(part, System.Globalization.CultureInfo.InvariantCulture);
                    break;
            }
        }

        return ([.. beeps], t);
    }

    private static HeardPattern Of(double silence, params object[] parts)
    {
        var (beeps, end) = Row(parts);
        return BeepRhythm.Read(beeps, end + silence);
    }

    [Fact]
    public void What_is_no_pattern_says_why()
    {
        Assert.Equal((null, "no beep was heard"), (BeepRhythm.Read([], 5).Pattern, BeepRhythm.Read([], 5).Why));
        Beep[] many = [.. Enumerable.Range(0, 401).Select(i => new Beep(1 + i, 1.2 + i))];
        Assert.Equal("too many beeps to be a pattern", BeepRhythm.Read(many, 500).Why);
        Assert.NotEqual("too many beeps to be a pattern", BeepRhythm.Read(many[..400], 500).Why);
    }

    [Theory]
    [InlineData(0.49, "1 short")]
    [InlineData(0.5, "1 long")]
    [InlineData(3.9, "1 long")]
    public void One_beep_is_short_or_long_by_its_length_and_surer_the_longer_it_stayed_silent(double length, string pattern)
    {
        Assert.True(BeepPattern.TryParse(pattern, out var expected));
        var ended = BeepRhythm.Read([new Beep(1, 1 + length)], 1 + length + 1.5);
        Assert.Equal((expected.ToString(), 0.8, 1, ""), (ended.Pattern!.ToString(), ended.Confidence, ended.Rounds, ended.Why));
        var soon = BeepRhythm.Read([new Beep(1, 1 + length)], 1 + length + 1.4);
        Assert.Equal(
            (expected.ToString(), 0.5, "listening ended soon after the beep: there may have been more"),
            (soon.Pattern!.ToString(), soon.Confidence, soon.Why)
        );
        Assert.False(soon.IsSure);
    }

    [Fact]
    public void A_tone_that_does_not_end_is_continuous()
    {
        var four = BeepRhythm.Read([new Beep(1, 5)], 5.5);
        Assert.Equal((BeepPattern.Continuous, 0.8, ""), (four.Pattern, four.Confidence, four.Why));
        Assert.Equal(0.6, BeepRhythm.Read([new Beep(1, 5)], 6.1).Confidence);
        Assert.Equal(0.8, BeepRhythm.Read([new Beep(1, 5)], 6).Confidence);
        // Cut through by the start or the end of listening, less is enough.
        Assert.Equal(BeepPattern.Continuous, BeepRhythm.Read([new Beep(0.05, 1.9)], 4).Pattern);
        Assert.Equal(BeepPattern.Continuous, BeepRhythm.Read([new Beep(1, 2.85)], 2.9).Pattern);
        Assert.NotEqual(BeepPattern.Continuous, BeepRhythm.Read([new Beep(1, 2.8)], 4).Pattern);
        Assert.NotEqual(BeepPattern.Continuous, BeepRhythm.Read([new Beep(0.05, 1.8)], 4).Pattern);
    }

    [Fact]
    public void Groups_heard_once_are_doubtful_when_listening_ended_soon()
    {
        var once = Of(3, "L", 0.2, "S", 0.2, "S", 0.2, "S");
        Assert.Equal("heard once only", once.Why);
        var soon = Of(0.2, "L", 0.2, "S", 0.2, "S", 0.2, "S");
        Assert.Equal("listening ended soon after: there may have been more", soon.Why);
        Assert.True(once.Confidence >= 0.7 && soon.Confidence < 0.5, $"{once.Confidence} {soon.Confidence}");
        Assert.Equal(once.Pattern!.ToString(), soon.Pattern!.ToString());

        var groups = Of(4, "S", 0.8, "S", 0.2, "S", 0.8, "S", 0.2, "S", 0.2, "S");
        Assert.Equal("1-2-3", groups.Pattern!.ToString());
        Assert.Equal("heard once only", groups.Why);
        var cut = Of(0.9, "S", 0.8, "S", 0.2, "S", 0.8, "S", 0.2, "S", 0.2, "S");
        Assert.True(cut.Confidence < groups.Confidence);
    }

    [Fact]
    public void Rounds_that_repeat_are_counted_and_one_that_differs_is_told()
    {
        object[] round = ["L", 0.2, "S", 0.2, "S"];
        var three = Of(3, [.. round, 2.0, .. round, 2.0, .. round]);
        Assert.Equal((3, ""), (three.Rounds, three.Why));
        object[] more = [.. Enumerable.Repeat<object[]>([.. round, 2.0], 6).SelectMany(r => r)];
        var odd = Of(3, [.. more, "L", 0.2, "S", 2.0, .. round]);
        Assert.Equal("not all rounds were alike", odd.Why);
        Assert.True(odd.Confidence < three.Confidence && odd.Pattern!.ToString() == three.Pattern!.ToString());
        // The last round was cut off by the end of listening: it does not count as unlike.
        var running = Of(0.2, [.. round, 2.0, .. round, 2.0, "L"]);
        Assert.Equal((2, "", three.Pattern!.ToString()), (running.Rounds, running.Why, running.Pattern!.ToString()));
    }

    [Theory]
    [InlineData(12, false, false)]
    [InlineData(13, false, true)]
    [InlineData(5, true, false)]
    [InlineData(6, true, true)]
    public void More_even_beeps_than_tables_count_are_endless(int count, bool isLong, bool endless)
    {
        object[] parts = [.. Enumerable.Range(0, count).SelectMany(_ => new object[] { isLong ? "L" : "S", 0.2 })];
        var heard = Of(4, parts);
        Assert.Equal(endless, heard.Pattern == (isLong ? BeepPattern.EndlessLong : BeepPattern.EndlessShort));
        if (endless)
            Assert.True(heard.Confidence < Of(0, parts).Confidence);
    }

    [Theory]
    [InlineData(8, false, false)]
    [InlineData(9, false, true)]
    [InlineData(3, true, false)]
    [InlineData(4, true, true)]
    public void While_they_still_go_on_fewer_are_endless(int count, bool isLong, bool endless)
    {
        object[] parts = [.. Enumerable.Range(0, count).SelectMany(_ => new object[] { isLong ? "L" : "S", 0.3 }).SkipLast(1)];
        Assert.Equal(endless, Of(0.3, parts).Pattern == (isLong ? BeepPattern.EndlessLong : BeepPattern.EndlessShort));
    }

    [Fact]
    public void Two_lengths_in_turn_are_a_pattern_that_repeats()
    {
        var turns = Of(2, "L", 0.2, "S", 0.2, "L", 0.2, "S", 0.2, "L", 0.2, "S");
        Assert.Equal((3, ""), (turns.Rounds, turns.Why));
        Assert.Equal("1 long 1 short", turns.Pattern!.ToString());
    }

    [Fact]
    public void Short_beeps_far_apart_are_rounds_of_one()
    {
        var rounds = Of(2, "S", 1.0, "S", 1.0, "S");
        Assert.Equal(("1 short", 3, ""), (rounds.Pattern!.ToString(), rounds.Rounds, rounds.Why));
        Assert.NotEqual("1 short", Of(2, "S", 0.5, "S", 0.5, "S").Pattern!.ToString());
    }
}
