using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Kelvet.Core.Hearing;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;

namespace Kelvet.Core.Tests;

/// <summary>What is written can be read, and what is listed can be heard.</summary>
public class SignalPropertyTests
{
    public static TheoryData<string> Listed =>
        [.. SignalLibrary.Standard.Tables.Where(t => t.Kind == SignalKind.Beeps).SelectMany(t => t.Rows).Select(r => r.Signal).Distinct()];

    [Theory]
    [MemberData(nameof(Listed))]
    public void Every_pattern_that_a_table_lists_is_heard_as_it_is_listed(string listed)
    {
        Assert.True(BeepPattern.TryParse(listed, out var pattern));
        if (pattern.Groups.IsEmpty)
            return;
        foreach (var (shortBeep, gap) in new[] { (0.12, 0.12), (0.2, 0.2), (0.3, 0.3) })
        {
            var beeps = new List<Beep>();
            var t = 0.6;
            for (var round = 0; round < 3; round++, t += 6 * gap)
            {
                foreach (var group in pattern.Groups)
                {
                    foreach (var isLong in group)
                    {
                        beeps.Add(new Beep(t, t += shortBeep * (isLong ? 4.5 : 1)));
                        t += gap;
                    }

                    t += 2 * gap;
                }
            }

            var heard = BeepRhythm.Read(beeps, t + 1);
            Assert.Equal((listed, true), (heard.Pattern?.ToString(), heard.IsSure));
        }
    }

    [Property]
    public Property A_pattern_is_read_as_it_was_written() =>
        Prop.ForAll(
            ArbMap
                .Default.GeneratorFor<bool[]>()
                .Where(g => g.Length is > 0 and < 6)
                .NonEmptyListOf()
                .Where(l => l.Count < 6)
                .ToArbitrary(),
            groups =>
            {
                var pattern = BeepPattern.Of(groups);
                return BeepPattern.TryParse(pattern.ToString(), out var read) && read == pattern;
            }
        );

    [Property]
    public Property Lights_are_read_as_they_were_written() =>
        Prop.ForAll(
            Gen.Elements<StallDomain>([.. LightSequence.Order]).NonEmptyListOf().Where(l => l.Count < 12).ToArbitrary(),
            lit =>
            {
                var sequence = LightSequence.Of(
                    lit.Select((light, i) => new LightTap(light, i, i % 3 == 2 ? null : i + 0.7)),
                    lit.Count + 5
                );
                return LightSequence.TryParse(sequence.ToString(), out var read)
                    && read.Key == sequence.Key
                    && read.ToString() == sequence.ToString();
            }
        );

    [Property]
    public Property A_capture_is_read_as_it_was_written() =>
        Prop.ForAll(
            ArbMap.Default.ArbFor<byte[]>(),
            codes =>
            {
                var log = new CodeLog();
                for (var i = 0; i < codes.Length; i++)
                    log.Add(i * 0.25, codes[i]);
                var read = CodeLog.Read(log.Write(), "capture");
                return read.Write() == log.Write() && read.Total == log.Total;
            }
        );
}
