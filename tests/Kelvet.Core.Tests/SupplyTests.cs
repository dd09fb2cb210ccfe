using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Supplies;
using MathNet.Numerics.Integration;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Rails as numbers, labels, what machines draw, and what goes to cards.</summary>
public class SupplyTests
{
    private static RailReading At(
        double volts,
        RailLoad load = RailLoad.None,
        Instrument by = Instrument.Meter,
        RailSpot at = RailSpot.OwnPlug,
        Rail rail = Rail.V12
    ) => new(rail, volts, load, by, at);

    [Theory]
    // Intel, Power Supply Design Guide for Desktop Platform Form Factors 1.3, table DC Output Voltage Regulation (from memory): 5 % of
    // +12, +5, +3.3 and standby, 10 % of -12 V; ripple 120 and 50 mV.
    [InlineData(Rail.V12, 11.40, 12.60, 120)]
    [InlineData(Rail.V5, 4.75, 5.25, 50)]
    [InlineData(Rail.V33, 3.14, 3.47, 50)]
    [InlineData(Rail.Minus12, -10.80, -13.20, 120)]
    [InlineData(Rail.Standby5, 4.75, 5.25, 50)]
    public void Limits_are_those_of_the_guide(Rail rail, double low, double high, double ripple)
    {
        var limits = RailLimits.Of(rail, SupplyGuide.Atx12V2);
        Assert.Equal((low, high, ripple), (limits.Low, limits.High, limits.Ripple));
        // Worked from the tolerance that the table names: to the hundredth that it prints.
        var tolerance = rail == Rail.Minus12 ? 0.10 : 0.05;
        Assert.Equal(limits.Nominal * (1 - tolerance), limits.Low, 0.006);
        Assert.Equal(limits.Nominal * (1 + tolerance), limits.High, 0.006);
        Assert.All(Enum.GetValues<SupplyGuide>().SelectMany(g => RailLimits.Of(g)), l => Assert.Contains("from memory", l.Source));
        // ATX 3.0 widens +12 V downward to 11.20 V, from memory, and nothing else here.
        var three = RailLimits.Of(rail, SupplyGuide.Atx3);
        Assert.Equal(rail == Rail.V12 ? 11.20 : low, three.Low);
        Assert.Equal(100, RailLimits.PowerGood(SupplyGuide.Atx12V2).Least);
    }

    [Theory]
    [InlineData(11.98, Instrument.Meter, RailVerdict.Inside)]
    [InlineData(11.42, Instrument.Meter, RailVerdict.AtTheLimit)]
    [InlineData(11.20, Instrument.Meter, RailVerdict.Outside)]
    [InlineData(11.3, Instrument.Tester, RailVerdict.AtTheLimit)]
    [InlineData(11.6, Instrument.Tester, RailVerdict.Inside)]
    [InlineData(12.9, Instrument.Meter, RailVerdict.Outside)]
    [InlineData(0.4, Instrument.Meter, RailVerdict.Missing)]
    [InlineData(-11.98, Instrument.Meter, RailVerdict.Missing)]
    public void A_reading_is_judged_with_its_instruments_error(double volts, Instrument by, RailVerdict verdict) =>
        Assert.Equal(verdict, At(volts, by: by).Verdict(SupplyGuide.Atx12V2));

    [Fact]
    public void The_negative_rail_is_judged_in_its_own_direction()
    {
        Assert.Equal(RailVerdict.Inside, At(-11.9, rail: Rail.Minus12).Verdict(SupplyGuide.Atx12V2));
        Assert.Equal(RailVerdict.Outside, At(-10.2, rail: Rail.Minus12).Verdict(SupplyGuide.Atx12V2));
        Assert.Equal(RailVerdict.Outside, At(-13.6, rail: Rail.Minus12).Verdict(SupplyGuide.Atx12V2));
        Assert.Equal(RailVerdict.Missing, At(12, rail: Rail.Minus12).Verdict(SupplyGuide.Atx12V2));
        Assert.True(At(-10.2, rail: Rail.Minus12).Ratio(SupplyGuide.Atx12V2) > 1);
    }

    [Fact]
    public void Densities_are_those_of_numeric_integration()
    {
        foreach (var rail in Enum.GetValues<Rail>())
        {
            foreach (var by in Enum.GetValues<Instrument>())
            {
                var limits = RailLimits.Of(rail, SupplyGuide.Atx12V2);
                var sign = Math.Sign(limits.Nominal);
                var error = Accuracy.Of(by).Deviation(limits.Nominal);
                var (low, high, nominal) = (Math.Abs(limits.Low), Math.Abs(limits.High), Math.Abs(limits.Nominal));
                foreach (var share in new[] { 0.0, 0.3, 0.85, 0.94, 0.95, 0.96, 1.0, 1.04, 1.05, 1.06, 1.2 })
                {
                    var v = share * nominal;
                    double Normal(double x, double deviation) =>
                        Math.Exp(-x * x / (2 * deviation * deviation)) / (deviation * Math.Sqrt(2 * Math.PI));
                    // The distance beyond a limit is exponential, the instrument's error normal: their convolution by Gauss and Legendre.
                    double Convolved(double distance, double mean)
                    {
                        var sum = 0.0;
                        var top = 40 * mean;
                        const int pieces = 4000;
                        for (var n = 0; n < pieces; n++)
                            sum += GaussLegendreRule.Integrate(
                                d => Math.Exp(-d / mean) / mean * Normal(distance - d, error),
                                top * n / pieces,
                                top * (n + 1) / pieces,
                                8
                            );
                        return sum;
                    }

                    var numeric =
                        (0.25 * Normal(v, Math.Sqrt((error * error) + (0.15 * 0.15))))
                        + (0.65 * Convolved(low - v, 0.05 * nominal))
                        + (0.10 * Convolved(v - high, 0.03 * nominal));
                    var reading = At(sign * v, by: by, rail: rail);
                    Assert.Equal(numeric, reading.WhenOut(SupplyGuide.Atx12V2), 1e-9);
                }
            }
        }
    }

    [Fact]
    public void Densities_add_up_to_one()
    {
        foreach (var load in Enum.GetValues<RailLoad>())
        {
            double Whole(Func<RailReading, double> density) =>
                Enumerable
                    .Range(0, 600)
                    .Sum(n => GaussLegendreRule.Integrate(v => density(At(v, load)), -6 + (n * 0.06), -6 + ((n + 1) * 0.06), 16));
            Assert.Equal(1, Whole(r => r.WhenSound(SupplyGuide.Atx12V2)), 1e-6);
            Assert.Equal(1, Whole(r => r.WhenOut(SupplyGuide.Atx12V2)), 1e-6);
        }
    }

    [Fact]
    public void The_same_volts_without_load_and_under_load_are_different_evidence()
    {
        var (cold, hot) = (At(11.42).Ratio(SupplyGuide.Atx12V2), At(11.42, RailLoad.Full).Ratio(SupplyGuide.Atx12V2));
        Assert.True(cold > 5 * hot, $"{cold:0.0} and {hot:0.0}");
        Assert.True(At(11.95).Ratio(SupplyGuide.Atx12V2) < 0.05);
        Assert.InRange(At(0.1).Ratio(SupplyGuide.Atx12V2), 100, RailReading.MostRatio);
        // One slip of the pen is never a proof, however absurd.
        Assert.Equal(RailReading.MostRatio, At(3.2).Ratio(SupplyGuide.Atx12V2));
    }

    [Fact]
    public void A_number_enters_the_posterior_by_how_much_likelier_it_is()
    {
        var machine = Office();
        var supply = machine.Job.Now.Now[Place.Supply]!.Value;
        double Weak(RailSet? set)
        {
            var job = Office().Trial("2").Job;
            if (set is not null)
                job = job.Append(FindingEntry.OfRails(Guid.NewGuid(), set, job.Now));
            return BenchDiagnosis.Of(job, Atlas.Standard).Suspects.First(s => s.Unit.Id == supply).Probability;
        }

        RailSet Loaded(double volts) =>
            RailSet.Of(new Dictionary<Rail, double> { [Rail.V12] = volts }, RailLoad.Full, Instrument.Meter, RailSpot.AtBoard);
        RailSet Bare(double volts) =>
            RailSet.Of(new Dictionary<Rail, double> { [Rail.V12] = volts }, RailLoad.None, Instrument.Tester, RailSpot.OwnPlug);
        var before = Weak(null);
        double[] falling = [.. new[] { 12.0, 11.6, 11.4, 11.2, 10.8 }.Select(v => Weak(Loaded(v)))];
        Assert.Equal(falling.Order(), falling);
        Assert.True(falling[0] < before && before < falling[^1], $"{falling[0]:0.000} {before:0.000} {falling[^1]:0.000}");
        // "Good, unloaded" stays weak: it says less than the same figure under load.
        Assert.True(Weak(Bare(12.0)) > falling[0]);
    }

    [Fact]
    public void Readings_are_written_and_read_back_and_what_is_wrong_in_them_is_named()
    {
        var set = RailSet.Of(
            new Dictionary<Rail, double>
            {
                [Rail.V5] = 5.034,
                [Rail.V12] = 11.1,
                [Rail.Minus12] = -11.9,
                [Rail.Standby5] = 5,
            },
            RailLoad.Full,
            Instrument.Meter,
            RailSpot.AtBoard
        );
        Assert.Equal("12=11.1 5=5.03 -12=-11.9 5sb=5 full meter at-board atx12-v2", set.Text);
        Assert.Equal(set, RailSet.Read(set.Text));
        Assert.True(set.IsOut);
        foreach (
            var (text, word) in new[]
            {
                ("12=x none meter own-plug", "12=x"),
                ("13=12 none meter own-plug", "13=12"),
                ("12=11 12=12 none meter own-plug", "twice"),
                ("12=11 none meter", "the place"),
                ("12=11 none meter own-plug loud", "loud"),
                ("none meter own-plug", "volts of a rail"),
                ("12=99 none meter own-plug", "-30 to 30"),
            }
        )
            Assert.Contains(word, Assert.Throws<ArgumentException>(() => RailSet.Read(text)).Message, StringComparison.Ordinal);
        // A finding says what its numbers say.
        var machine = Office().Job.Now;
        var finding = FindingEntry.OfRails(Guid.NewGuid(), set, machine);
        Assert.Equal(("read-rails-loaded", true), (finding.Check, finding.Found));
        Assert.Throws<ArgumentException>(() => new FindingEntry(Guid.NewGuid(), "read-rails-loaded", finding.Unit, false) { Rails = set });
        Assert.Equal(finding, JobFormat.ReadEntry(JobFormat.Write(finding)));
        var bare = RailSet.Of(new Dictionary<Rail, double> { [Rail.V12] = 12 }, RailLoad.None, Instrument.Tester, RailSpot.OwnPlug);
        Assert.Equal(("test-supply", false), (FindingEntry.OfRails(Guid.NewGuid(), bare, machine).Check, bare.IsOut));
        var far = RailSet.Of(new Dictionary<Rail, double> { [Rail.V12] = 12 }, RailLoad.None, Instrument.Tester, RailSpot.ExtensionEnd);
        Assert.Equal("test-supply-at-extension", FindingEntry.OfRails(Guid.NewGuid(), far, machine).Check);
        var direct = machine.After(new Change.Bypass(machine.Now[Place.Of(PlaceKind.Extension)]!.Value));
        Assert.Contains("no extension", Assert.Throws<ArgumentException>(() => FindingEntry.OfRails(Guid.NewGuid(), far, direct)).Message);
    }

    [Fact]
    public void Two_loads_tell_the_supply_and_two_ends_the_way()
    {
        const SupplyGuide guide = SupplyGuide.Atx12V2;
        // By hand: 12.05 to 11.25 V over 2 to 22 A are 0.8 V over 20 A, 40 milliohms; a 450 W supply (37 A) may have 0.6 / 37 = 16.
        var sags = TwoReadings.AtTwoLoads(At(12.05, RailLoad.Idle), At(11.25, RailLoad.Full), 2, 22, 37, guide);
        Assert.Equal((40, TwoReadingsSay.SupplySags), (Math.Round(sags.Milliohms, 6), sags.Say));
        var holds = TwoReadings.AtTwoLoads(At(12.05, RailLoad.Idle), At(11.95, RailLoad.Full), 2, 22, 37, guide);
        Assert.Equal((5, TwoReadingsSay.Holds), (Math.Round(holds.Milliohms, 6), holds.Say));
        // 0.3 V over 20 A at one plug: 15 milliohms, 6 W in the contact: it burns.
        var burns = TwoReadings.AtBothEnds(At(12.0, RailLoad.Full), At(11.7, RailLoad.Full, at: RailSpot.AtCard), 20);
        Assert.Equal((15, 6, TwoReadingsSay.WillBurn), (Math.Round(burns.Milliohms, 6), Math.Round(burns.Watts, 6), burns.Say));
        var drops = TwoReadings.AtBothEnds(At(12.0, RailLoad.Full), At(11.6, RailLoad.Full, at: RailSpot.ExtensionEnd), 4);
        Assert.Equal(TwoReadingsSay.WayDrops, drops.Say);
        Assert.Equal(
            TwoReadingsSay.Holds,
            TwoReadings.AtBothEnds(At(12, RailLoad.Full), At(11.98, RailLoad.Full, at: RailSpot.AtCard), 10).Say
        );
        // A tester's tenths tell nothing of this, nor does half an ampere.
        Assert.Equal(
            TwoReadingsSay.NotToBeSaid,
            TwoReadings
                .AtBothEnds(At(12, RailLoad.Full, Instrument.Tester), At(11.8, RailLoad.Full, Instrument.Tester, RailSpot.AtCard), 4)
                .Say
        );
        Assert.Equal(TwoReadingsSay.NotToBeSaid, TwoReadings.AtTwoLoads(At(12), At(11.9, RailLoad.Full), 2, 2.5, 37, guide).Say);
        Assert.Throws<ArgumentException>(() => TwoReadings.AtBothEnds(At(12), At(12), 5));
        Assert.Throws<ArgumentException>(() => TwoReadings.AtTwoLoads(At(12), At(5, rail: Rail.V5), 1, 5, 37, guide));
        Assert.All(new[] { sags, holds, burns, drops }, t => Assert.NotEqual("", t.Words()));
    }

    [Fact]
    public void A_label_is_read_as_it_is_printed_and_what_cannot_be_true_is_told()
    {
        var good = SupplyLabel.Read("+12V 37A, +5V 20A; +3.3V 20A, -12V 0.3A, +5VSB 2.5A, 12V 444W, 3.3+5V 110W, total 450W");
        Assert.Equal((37, 444, 110, 450), (good.Amps[(int)Rail.V12], good.Twelve, good.Minor, good.Total));
        Assert.Equal(444, good.TwelveWatts);
        Assert.Empty(good.Doubts());
        // Two rails are added, and never more than the whole is counted.
        var two = SupplyLabel.Read("+12V1 18A, +12V2 18A, total 400W");
        Assert.Equal((36, 400), (two.Amps[(int)Rail.V12], two.TwelveWatts));
        // By hand: 24 A are 288 W, and 360 W are promised on them.
        Assert.Contains(
            "its amperes come to 288 W",
            Assert.Single(SupplyLabel.Read("+12V 24A, 12V 360W").Doubts()),
            StringComparison.Ordinal
        );
        var old = SupplyLabel.Read("+12V 15A, +5V 40A, +3.3V 30A, 3.3+5V 220W, total 400W");
        Assert.Contains(old.Doubts(), d => d.Contains("Only 180 W of its 400 W", StringComparison.Ordinal));
        foreach (var wrong in new[] { "+12V", "+7V 3A", "12V 9999W", "blue", "+12V 999A", "3V 4W" })
            Assert.Contains(wrong, Assert.Throws<ArgumentException>(() => SupplyLabel.Read(wrong)).Message, StringComparison.Ordinal);
        Assert.Empty(SupplyLabel.Read("").Doubts());
        var unit = Unit.Plain(new UnitId("psu"), UnitKind.Supply, "Velm", Origin.Customer) with { Label = "total 450W" };
        Assert.Equal(unit, JobFormat.ReadUnit(JobFormat.Write(unit)));
        Assert.Throws<ArgumentException>(() => unit with { Label = "nonsense" });
    }

    private static Situation Machine(int? supply, int? cpu, int? card, string label = "")
    {
        var intake = Office().Job.Intake;
        var parts = Parts.Of(
            intake.Parts.All.Select(u =>
                u.Kind switch
                {
                    UnitKind.Supply => u with { Watts = supply, Label = label },
                    UnitKind.Cpu => u with { Watts = cpu },
                    UnitKind.GraphicsCard => u with { Watts = card },
                    _ => u,
                }
            )
        );
        return BenchJob.Open(intake with { Parts = parts }).Now;
    }

    [Property(MaxTest = 300)]
    public Property Adding_a_part_never_raises_what_is_left()
    {
        var watts = Gen.Choose(0, 600);
        var cases = from supply in Gen.Choose(100, 1000) from cpu in watts from extra in watts select (supply, cpu, extra);
        return Prop.ForAll(
            cases.ToArbitrary(),
            c =>
            {
                var less = PowerBudget.Of(Machine(c.supply, c.cpu, 0));
                var more = PowerBudget.Of(Machine(c.supply, c.cpu + c.extra, 0));
                foreach (var work in Enum.GetValues<Work>())
                {
                    Assert.True(more.Twelve(work) >= less.Twelve(work));
                    Assert.True(more.Total(work) >= less.Total(work));
                }

                // From idle to load and to the excursion it never draws less.
                Assert.Equal(more.Twelve(Work.Idle), new[] { Work.Idle, Work.Setup, Work.Load, Work.Excursion }.Min(more.Twelve));
                Assert.True(more.Left <= less.Left && more.Strain >= less.Strain);
                Assert.All(more.LeaveOut(), u => Assert.NotEqual(UnitKind.Cpu, u.Kind));
            }
        );
    }

    [Fact]
    public void What_does_not_add_up_moves_the_odds()
    {
        double Odds(Situation machine)
        {
            var received = machine.Now;
            return Fault
                .AllOf(Atlas.Standard, machine, [], received)
                .Where(f => f.Unit.Kind == UnitKind.Supply && f.Mode.Id is "supply-weak" or "supply-dips")
                .Sum(f => f.Odds);
        }

        var enough = Odds(Machine(750, 65, 120));
        Assert.Equal(12 * enough, Odds(Machine(200, 125, 250)), 1e-9);
        Assert.Equal(enough, Odds(Machine(null, 125, 250)), 1e-12);
        // A label that carries its watts off 12 V is as good as a smaller supply.
        Assert.True(Odds(Machine(450, 65, 120, "+12V 6A, +5V 40A, +3.3V 30A, total 450W")) > enough);
        var tight = PowerBudget.Of(Machine(200, 250, 0));
        Assert.True(tight.IsTooSmall);
        Assert.Empty(PowerBudget.Of(Machine(750, 65, 120)).LeaveOut());
    }

    [Fact]
    public void A_card_is_judged_by_its_plugs_and_what_burns_is_refused()
    {
        var card = Unit.Plain(new UnitId("c"), UnitKind.Peripheral, "Brask R80", Origin.Customer) with { Watts = 250 };
        CardPower Of(string[] plugs, bool adapter = false, bool splitter = false, bool foreign = false) =>
            CardPower.Of(card, plugs, adapter, splitter, foreign);
        // PCI-SIG, CEM (from memory): 75 W by the slot, 75 by 6 pins, 150 by 8.
        Assert.Equal((225, false), (Of(["8-pin"]).Gets, Of(["8-pin"]).IsEnough));
        Assert.Equal((300, true), (Of(["8-pin", "6-pin"]).Gets, Of(["8-pin", "6-pin"]).IsEnough));
        Assert.Equal(
            [225, 375, 525, 675],
            PlugKind.All.Where(p => p.Id.StartsWith("12-", StringComparison.Ordinal)).Select(p => Of([p.Id]).Gets)
        );
        Assert.NotEmpty(Of(["8-pin"], adapter: true).Refusals);
        Assert.NotEmpty(Of(["8-pin"], foreign: true).Refusals);
        Assert.Empty(Of(["8-pin", "8-pin"], splitter: true).Refusals);
        Assert.NotEmpty(Of(["8-pin", "8-pin"], splitter: true).Warnings);
        Assert.Throws<ArgumentException>(() => Of(["9-pin"]));
        Assert.All(PlugKind.All, p => Assert.Contains("from memory", p.Source, StringComparison.Ordinal));
    }
}
