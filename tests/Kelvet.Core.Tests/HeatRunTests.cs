using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
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

    /// <summary>As stress-ng 0.15.06 prints it with --thermalstat (seen); the zone beside the loads as its source writes it, from
    /// memory.</summary>
    [Fact]
    public void Stress_ng_is_read_as_it_prints()
    {
        const string Printed = """
            stress-ng: info:  [23798] setting to a 4 second run per stressor
            stress-ng: info:  [23799] therm: AvGHz MnGhz MxGHz  LdA1  LdA5 LdA15  x86_pkg
            stress-ng: info:  [23799] therm:  3.41  3.20  4.10   1.77  3.65  8.78   51.00
            stress-ng: info:  [23799] therm:  n/a   n/a   n/a    1.71  3.60  8.74   55.50
            stress-ng: info:  [23798] successful run completed in 4.00s
            """;
        var read = RunReadings.Read(Printed, 5);
        Assert.Equal("AvGHz|MnGhz|MxGHz|LdA1|LdA5|LdA15|x86_pkg", string.Join('|', read.Columns));
        Assert.Equal([0.0, 5.0], read.Seconds.AsEnumerable());
        Assert.Equal([51, 55.5], read.Of(6).Select(h => h.Celsius));
        Assert.Equal((Quantity.Clock, Quantity.LeftOut, Quantity.Temperature), (read.Guessed[0], read.Guessed[3], read.Guessed[6]));
        var wrong = Assert.Throws<DataFileException>(() => RunReadings.Read(Printed.Replace("   55.50", "", StringComparison.Ordinal)));
        Assert.StartsWith("Line 4: 6 figures under 7 names", wrong.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("k10temp-pci-00c3 Tctl", Quantity.Temperature)]
    [InlineData("nct6798-isa-0290 fan2", Quantity.Fan)]
    [InlineData("CPU fan", Quantity.Fan)]
    [InlineData("GPU power", Quantity.Watts)]
    [InlineData("Core clock MHz", Quantity.Clock)]
    [InlineData("+12V", Quantity.Volts)]
    [InlineData("errors", Quantity.LeftOut)]
    [InlineData("CPU fan (temperature)", Quantity.Temperature)]
    public void What_a_column_is_follows_from_its_name(string column, Quantity quantity)
    {
        Assert.Equal(quantity, Quantities.Of(column));
        Assert.All(Enum.GetValues<Quantity>(), q => Assert.Equal(q, Quantities.Of(Quantities.Named(column, q))));
    }

    [Fact]
    public void Limits_are_crossed_by_rails_fans_draw_and_clocks()
    {
        static RunReadings Read(string column, params double[] values) =>
            new(
                [column],
                [.. values.Select((_, i) => i * 10.0)],
                [
                    [.. values],
                ]
            );
        static Crossing? First(RunLimits limits, Quantity quantity, params double[] values) =>
            limits.Crossed(Read("x", values), [quantity]).SingleOrDefault();
        var usual = RunLimits.Usual with { Watts = 300 };
        // The 12 V rail is 11.4 to 12.6 V by the design guide's 5 %.
        Assert.Null(First(usual, Quantity.Volts, 12, 11.41, 12.59));
        Assert.Equal((10, 11.39), First(usual, Quantity.Volts, 12, 11.39, 12) is { } low ? (low.Seconds, low.Value) : default);
        Assert.Equal(12.6, First(usual, Quantity.Volts, 12, 12, 12.61)!.Limit, 1e-9);
        Assert.Equal(3.3 * 0.95, First(usual, Quantity.Volts, 3.3, 3.3, 3.1)!.Limit, 1e-9);
        // A core voltage is no rail.
        Assert.Null(First(usual, Quantity.Volts, 1.2, 0.8, 1.35));
        Assert.Equal(20, First(usual, Quantity.Fan, 0, 900, 0)!.Seconds);
        Assert.Null(First(usual, Quantity.Fan, 0, 0, 0));
        Assert.Equal(310, First(usual, Quantity.Watts, 200, 310, 320)!.Value);
        Assert.Null(First(RunLimits.Usual, Quantity.Watts, 900));
        Assert.Equal(95, First(usual, Quantity.Temperature, 94.9, 95)!.Limit);
        Assert.Equal("x was held back to 3000 MHz after 30 s", First(usual, Quantity.Clock, 4000, 4100, 3900, 3000)!.Words());
        Assert.Null(First(usual, Quantity.Clock, 4000, 4100, 3300));
        Assert.Null(First(usual, Quantity.LeftOut, 1e9));
    }

    [Fact]
    public void Readings_are_kept_as_plain_CSV_and_read_again()
    {
        var read = RunReadings.Read("time,Tctl,+12V,what\n0,40,12,-5\n1,,12.1,-6\n2,42,12,-7\n");
        Quantity[] quantities = [Quantity.Temperature, Quantity.Volts, Quantity.Temperature];
        var again = RunReadings.Read(read.ToCsv(quantities));
        Assert.Equal(["Tctl", "+12V", "what (temperature)"], again.Columns.AsEnumerable());
        Assert.Equal(quantities, again.Guessed.AsEnumerable());
        Assert.Equal([-5.0, -6, -7], again.Values[2].AsEnumerable());
        Assert.True(double.IsNaN(again.Values[0][1]));
        Assert.Equal([0.0, 2], read.Thinned(2).Seconds.AsEnumerable());
        Assert.Equal(["+12V"], RunReadings.Read(read.ToCsv([Quantity.LeftOut, Quantity.Volts, Quantity.LeftOut])).Columns.AsEnumerable());
        Assert.Equal(12.05, read.Settled(1)!.Value, 1e-9);
    }

    [Fact]
    public void Fans_tell_a_slow_one_from_dust()
    {
        static RunReadings Fans(params double[] rpm) =>
            new(
                ["pump"],
                [.. rpm.Select((_, i) => (double)i)],
                [
                    [.. rpm],
                ]
            );
        static string Which(HeatVerdict verdict, params double[] rpm) => HeatWords.Which(verdict, Fans(rpm), [Quantity.Fan]);
        Assert.StartsWith("pump slows to 900 rpm", Which(HeatVerdict.WeakCooling, 2000, 2000, 900, 900), StringComparison.Ordinal);
        Assert.Contains("holds its speed", Which(HeatVerdict.Throttles, 800, 1900, 2000, 2000), StringComparison.Ordinal);
        Assert.Equal("", Which(HeatVerdict.Fine, 2000, 900));
        Assert.Equal("", HeatWords.Which(HeatVerdict.WeakCooling, Fans(2000, 900), [Quantity.LeftOut]));
    }

    /// <summary>A header without a fan reads 0 for ever: that is no fan that stopped, however long the run was. A long run is fitted
    /// as a short one.</summary>
    [Fact]
    public void A_hundred_thousand_readings_are_judged_as_a_few()
    {
        const int Many = 100_000;
        var still = new RunReadings(
            ["fan3"],
            [.. Enumerable.Range(0, Many).Select(i => (double)i)],
            [
                [.. new double[Many]],
            ]
        );
        Assert.Empty(RunLimits.Usual.Crossed(still, [Quantity.Fan]));
        var random = new Random(3);
        var all = Rise(30, 80, 60, 500, 0.005, 1, random);
        Assert.Equal(Many, all.Count);
        var (long_, short_) = (HeatRun.Fit(all, 200)!, HeatRun.Fit([.. all.Where((_, i) => i % 100 == 0)], 200)!);
        Assert.Equal((80, 60), (Math.Round(long_.End, 1), Math.Round(long_.Tau)));
        Assert.Equal(short_.End, long_.End, 0.3);
        Assert.Equal(Many, long_.Readings);
        Assert.InRange(long_.Error, 0.95, 1.05);
    }
}
