using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using MathNet.Numerics;
using MathNet.Numerics.Distributions;

namespace Kelvet.Core.Tests;

/// <summary>The rise of a temperature under load, fitted.</summary>
public class HeatRunTests
{
    private static List<Heat> Rise(double start, double end, double tau, double seconds, double step, double noise, Random random) =>
        [
            .. Enumerable
                .Range(0, (int)(seconds / step))
                .Select(i => i * step)
                .Select(t => new Heat(t, end - ((end - start) * Math.Exp(-t / tau)) + (noise * Normal.Sample(random, 0, 1)))),
        ];

    /// <summary>200 runs with 1 K of noise: end and time constant come back within 5 %.</summary>
    [Fact]
    public void Known_curves_come_back_through_the_noise()
    {
        var random = new Random(20261128);
        for (var run = 0; run < 200; run++)
        {
            var (start, end, tau) = (25 + (20 * random.NextDouble()), 60 + (30 * random.NextDouble()), 20 + (160 * random.NextDouble()));
            var fit = HeatRun.Fit(Rise(start, end, tau, 5 * tau, 0.5, 1, random), limit: 200)!;
            Assert.InRange(fit.End, end * 0.95, end * 1.05);
            Assert.InRange(fit.Tau, tau * 0.95, tau * 1.05);
            Assert.InRange(fit.Error, 0.8, 1.2);
        }
    }

    /// <summary>Against MathNet's own non-linear fit of the same curve to the same readings.</summary>
    [Fact]
    public void It_agrees_with_a_general_fitting_library()
    {
        var readings = Rise(30, 78, 65, 400, 2, 0.5, new Random(5));
        var ours = HeatRun.Fit(readings, limit: 200)!;
        var (end, rise, tau) = MathNet.Numerics.Fit.Curve(
            [.. readings.Select(r => r.Seconds)],
            [.. readings.Select(r => r.Celsius)],
            (e, c, k, t) => e - (c * Math.Exp(-t / k)),
            70,
            40,
            50,
            1e-10,
            20_000
        );
        Assert.Equal(end, ours.End, 0.05);
        Assert.Equal(tau, ours.Tau, 0.3);
        Assert.Equal(end - rise, ours.Start, 0.1);
    }

    /// <summary>
    /// The first-order example of the textbooks: after one time constant 63.2 % of the rise is done, and the resistance is the
    /// rise over the power.
    /// </summary>
    [Fact]
    public void A_worked_example()
    {
        // 95 W through 0.5 K/W from air of 25 degrees settle at 72.5; 150 J/K behind 0.5 K/W make 75 s.
        var fit = HeatRun.Fit(Rise(25, 72.5, 75, 600, 1, 0, new Random(1)))!;
        Assert.Equal(0.5, fit.Resistance(95, 25)!.Value, 3);
        Assert.Equal(150, fit.Tau / fit.Resistance(95, 25)!.Value, 0.1);
        Assert.Equal(25 + (47.5 * 0.632), 25 + (47.5 * (1 - Math.Exp(-1))), 0.02);
        Assert.Equal(HeatVerdict.Fine, fit.Verdict(95));
        Assert.Null(fit.Resistance(0, 25));
    }

    [Theory]
    [InlineData("seconds,cpu,fan\n0,40.5,900\n1,,910\n2,42,920\n", "cpu|fan", 2)]
    [InlineData("time;Tctl\n00:00:10;+45.2\u00b0C\n00:00:12;46\u00b0C\n", "Tctl", 2)]
    [InlineData("timestamp,core 0\n2026-03-01T09:30:00Z,50\n2026-03-01T09:30:05Z,55\n", "core 0", 5)]
    [InlineData("cpu\n50\n51\n", "cpu", 1)]
    [InlineData(
        "{\"k10temp\":{\"Adapter\":\"x\",\"Tctl\":{\"temp1_input\":51.5}}}\n{\"k10temp\":{\"Tctl\":{\"temp1_input\":52}}}",
        "k10temp Tctl",
        1
    )]
    public void Readings_come_from_files_of_several_sorts(string text, string columns, double last)
    {
        var read = RunReadings.Read(text);
        Assert.Equal(columns, string.Join('|', read.Columns));
        Assert.Equal(last, read.Seconds[^1]);
        Assert.Equal(2, read.Of(read.LikelyTemperature).Count);
    }

    [Theory]
    [InlineData("", "The file is empty")]
    [InlineData("1,2\n3,4\n", "names of the columns")]
    [InlineData("seconds,cpu\n0,warm\n", "Line 2, column cpu: \"warm\" is no figure")]
    [InlineData("seconds,cpu\nsoon,40\n", "Line 2: \"soon\" is no time")]
    [InlineData("seconds\n1\n", "no column of readings")]
    [InlineData("{\"a\":1}", "no reading of a sensor")]
    [InlineData("{\"a\":", "Reading 1 is not")]
    public void What_cannot_be_read_is_told_with_its_line(string text, string words) =>
        Assert.Contains(words, Assert.Throws<DataFileException>(() => RunReadings.Read(text)).Message, StringComparison.Ordinal);

    [Fact]
    public void What_a_rise_says_of_the_cooling()
    {
        var random = new Random(2);
        // At 100 degrees within seconds: no contact.
        var none = Rise(40, 160, 12, 60, 0.5, 0.3, random).Select(r => r with { Celsius = Math.Min(r.Celsius, 100) }).ToList();
        Assert.Equal(HeatVerdict.NoContact, HeatRun.Fit(none)!.Verdict(95));
        // Held at the limit, and it would go far beyond: weak cooling. A little beyond: it holds itself back.
        var weak = Rise(40, 120, 90, 600, 1, 0.3, random).Select(r => r with { Celsius = Math.Min(r.Celsius, 95) }).ToList();
        Assert.Equal(HeatVerdict.WeakCooling, HeatRun.Fit(weak)!.Verdict(95));
        var just = Rise(40, 97, 60, 600, 1, 0.1, random).Select(r => r with { Celsius = Math.Min(r.Celsius, 95) }).ToList();
        Assert.Equal(HeatVerdict.Throttles, HeatRun.Fit(just)!.Verdict(95));
        // Cut short below the limit, heading above it.
        Assert.Equal(HeatVerdict.WeakCooling, HeatRun.Fit(Rise(40, 110, 120, 150, 1, 0.2, random))!.Verdict(95));
        Assert.Null(HeatRun.Fit(Rise(40, 60, 10, 3, 1, 0, random)));
        Assert.Equal(HeatVerdict.NotToBeSaid, HeatRun.Fit([.. Enumerable.Range(0, 20).Select(i => new Heat(i, 60 - i))])!.Verdict(95));
    }
}
