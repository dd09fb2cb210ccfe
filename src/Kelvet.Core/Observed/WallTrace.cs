using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Observed;

/// <summary>What the draw of a machine at the wall looks like over a start.</summary>
public enum DrawShape
{
    /// <summary>It never leaves nought.</summary>
    Nothing,

    /// <summary>It never leaves standby.</summary>
    Standby,

    /// <summary>A blip that is gone at once.</summary>
    CutsOut,

    /// <summary>Blips at even distances.</summary>
    Loop,

    /// <summary>It comes up and stays where it is: nothing of POST.</summary>
    Plateau,

    /// <summary>It comes up and goes on in steps, as POST and a system do.</summary>
    Steps,

    /// <summary>Flat at a level that says nothing, or not the draw of a machine that is started.</summary>
    Foreign,
}

/// <summary>A time in which the draw was above its level at rest.</summary>
/// <param name="From">Seconds.</param>
/// <param name="To">Seconds.</param>
/// <param name="Watts">The middle of it above rest, watts.</param>
public readonly record struct DrawPhase(double From, double To, double Watts);

/// <summary>
/// What a wattmeter between outlet and machine tells of how far it gets, without a look. Levels are medians, so that noise and single
/// slips do not count; what stood on the meter before the button was pressed is taken off. Bench judgement, tried on generated traces.
/// </summary>
/// <param name="Shape">What it looks like.</param>
/// <param name="Stage">How far that is; null where it says nothing.</param>
/// <param name="Confidence">How sure, 0 to 1. Nothing flat or foreign is ever at <see cref="Confident"/> or above.</param>
/// <param name="CutOut">Seconds to the cut-out, in tenths; null for other shapes.</param>
/// <param name="Period">Seconds from start to start of a loop; null for other shapes.</param>
/// <param name="Rest">Watts before the button was pressed.</param>
/// <param name="Phases">The times above that.</param>
public sealed record WallTrace(
    DrawShape Shape,
    StageRange? Stage,
    double Confidence,
    double? CutOut,
    double? Period,
    double Rest,
    ImmutableArray<DrawPhase> Phases
)
{
    /// <summary>From here on it is proposed without a doubt told beside it.</summary>
    public const double Confident = 0.7;

    /// <summary>Least readings, and seconds, that anything is told from.</summary>
    public const int LeastReadings = 8;

    private const double LeastSeconds = 5;

    /// <summary>A supply in standby draws less than this, watts.</summary>
    private const double MostStandby = 12;

    /// <summary>Below this a meter shows nought, watts.</summary>
    private const double Nought = 0.4;

    /// <summary>A machine that runs draws between these, watts.</summary>
    private const double LeastOn = 8,
        MostOn = 1500;

    /// <summary>A blip is shorter than this, seconds.</summary>
    private const double Blip = 8;

    /// <summary>From here on a time above rest is long enough to see POST in, seconds.</summary>
    private const double ToSeePost = 12;

    /// <summary>A machine comes up within this, seconds; what rises slower is something else.</summary>
    private const double Sharp = 3;

    /// <summary>Reads a trace.</summary>
    /// <param name="seconds">Times, rising.</param>
    /// <param name="watts">Watts at each; not a number where there was none.</param>
    public static WallTrace Of(IReadOnlyList<double> seconds, IReadOnlyList<double> watts)
    {
        var samples = seconds.Zip(watts, (t, w) => (T: t, W: w)).Where(s => double.IsFinite(s.T) && double.IsFinite(s.W)).ToArray();
        for (var i = 1; i < samples.Length; i++)
        {
            // A meter that was reset counts its time anew: nothing is told over that.
            if (samples[i].T < samples[i - 1].T)
                return Says(DrawShape.Foreign, null, 0, 0, []);
        }

        if (samples.Length < LeastReadings || samples[^1].T - samples[0].T < LeastSeconds)
            return Says(DrawShape.Foreign, null, 0, samples.Length > 0 ? samples[0].W : 0, []);
        var noise = NoiseOf(samples);
        var rest = Math.Min(
            Median(samples.Where(s => s.T - samples[0].T <= 2).Select(s => s.W)),
            Quantile(samples.Select(s => s.W), 0.05) + (1.6 * noise)
        );
        var on = Math.Max(Math.Max(6, 6 * noise), 0.12 * (Quantile(samples.Select(s => s.W), 0.98) - rest));
        var phases = PhasesOf(samples, rest, on);
        if (phases.IsEmpty)
            return Flat(rest, noise);
        var step = (samples[^1].T - samples[0].T) / (samples.Length - 1);
        var ends = samples[^1].T - phases[^1].To > Math.Max(2, 2 * step);
        if (phases.Any(p => p.Watts > MostOn) || phases.All(p => p.Watts < LeastOn) || !IsSharp(samples, phases[0], rest))
            return Says(DrawShape.Foreign, null, 0.2, rest, phases);
        if (phases.Length == 1)
            return ends && phases[0].To - phases[0].From < Blip
                ? Says(DrawShape.CutsOut, StageRange.At(BootStage.CutsOut), 0.85, rest, phases) with
                {
                    CutOut = Math.Round(phases[0].To - phases[0].From, 1),
                }
                : Running(samples, phases, rest, noise);
        return Looping(samples, phases, rest, noise, step);
    }

    private static WallTrace Flat(double rest, double noise) =>
        rest < Nought ? Says(DrawShape.Nothing, StageRange.At(BootStage.NoStandby), 0.65, rest, [])
        : rest <= MostStandby && noise < 2
            ? Says(DrawShape.Standby, new StageRange(BootStage.NoStandby, BootStage.StandbyOnly), 0.65, rest, [])
        : Says(DrawShape.Foreign, null, 0.2, rest, []);

    private static WallTrace Looping(
        (double T, double W)[] samples,
        ImmutableArray<DrawPhase> phases,
        double rest,
        double noise,
        double step
    )
    {
        double[] apart = [.. phases.Zip(phases.Skip(1), (a, b) => b.From - a.From)];
        var period = Median(apart);
        var even = apart.All(a => Math.Abs(a - period) <= Math.Max(0.35 * period, 2 * step));
        double[] lengths = [.. phases.SkipLast(1).Select(p => p.To - p.From)];
        // A machine comes up and goes at once; what swells and falls is something else.
        var square = phases.Take(phases.Length - 1).All(p => RiseOf(samples, p, rest) <= Math.Max(1, 1.5 * step));
        if (even && square && period < 60 && lengths.All(l => l < 30))
        {
            // Two blips may be one that was started twice by hand.
            var sure = phases.Length >= 3 ? 0.9 : 0.6;
            return Says(DrawShape.Loop, StageRange.At(BootStage.RestartLoop), sure, rest, phases) with { Period = Math.Round(period, 1) };
        }

        // A restart or two, and then it stays: memory that is trained, settings that were cleared.
        if (phases[^1].To - phases[^1].From >= ToSeePost && samples[^1].T - phases[^1].To < 3)
        {
            var last = Running(samples, [phases[^1]], rest, noise);
            return last with { Confidence = Math.Min(last.Confidence, Confident), Phases = phases };
        }

        return Says(DrawShape.Foreign, null, 0.3, rest, phases);
    }

    private static WallTrace Running((double T, double W)[] samples, ImmutableArray<DrawPhase> phases, double rest, double noise)
    {
        var phase = phases[^1];
        var length = phase.To - phase.From;
        if (!IsSharp(samples, phase, rest))
            return Says(DrawShape.Foreign, null, 0.3, rest, phases);
        if (length < ToSeePost)
            return Says(DrawShape.Plateau, new StageRange(BootStage.RunsNoPost, BootStage.Stable), 0.4, rest, phases);
        // Medians of two seconds each, after the inrush.
        double[] levels =
        [
            .. samples
                .Where(s => s.T >= phase.From + 2 && s.T <= phase.To - 0.5)
                .GroupBy(s => (int)((s.T - phase.From) / 2))
                .Select(g => Median(g.Select(s => s.W)) - rest),
        ];
        if (levels.Length < 4)
            return Says(DrawShape.Plateau, new StageRange(BootStage.RunsNoPost, BootStage.Stable), 0.4, rest, phases);
        var middle = Median(levels);
        var moves = Math.Max(Math.Max(4, 4 * noise), 0.07 * middle);
        // A level that is held for four seconds or more is a step; a single one aside is a slip.
        double[] held =
        [
            .. levels.Zip(levels.Skip(1), (a, b) => Math.Abs(a - b) < moves / 2 ? (a + b) / 2 : double.NaN).Where(double.IsFinite),
        ];
        var spread = held.Length == 0 ? levels.Max() - levels.Min() : held.Max() - held.Min();
        return spread < moves
            ? Says(DrawShape.Plateau, StageRange.At(BootStage.RunsNoPost), length > 25 ? 0.8 : 0.6, rest, phases)
            : Says(DrawShape.Steps, new StageRange(BootStage.PostNoPicture, BootStage.Stable), length > 25 ? 0.85 : 0.65, rest, phases);
    }

    private static WallTrace Says(DrawShape shape, StageRange? stage, double confidence, double rest, ImmutableArray<DrawPhase> phases) =>
        new(shape, stage, confidence, null, null, Math.Round(rest, 1), phases);

    private static ImmutableArray<DrawPhase> PhasesOf((double T, double W)[] samples, double rest, double on)
    {
        var phases = ImmutableArray.CreateBuilder<DrawPhase>();
        int? begun = null;
        for (var i = 0; i < samples.Length; i++)
        {
            var above = samples[i].W - rest;
            if (begun is null && above > on)
                begun = i;
            if (begun is not { } from || (above >= 0.5 * on && i < samples.Length - 1))
                continue;
            var to = above < 0.5 * on ? i : i + 1;
            var end = samples[Math.Min(to, samples.Length - 1)].T;
            var within = samples[from..Math.Max(from + 1, to)];
            phases.Add(new DrawPhase(samples[from].T, end, Median(within.Select(s => s.W)) - rest));
            begun = null;
        }

        return phases.ToImmutable();
    }

    /// <summary>Whether it comes up at once: nothing that swells is a machine (a motor, a heater with its thermostat).</summary>
    private static bool IsSharp((double T, double W)[] samples, DrawPhase phase, double rest)
    {
        var step = (samples[^1].T - samples[0].T) / (samples.Length - 1);
        double Near(double after) =>
            Median(samples.Where(s => Math.Abs(s.T - phase.From - after) <= Math.Max(0.35, step)).Select(s => s.W - rest));
        var soon = Near(Math.Max(1, 1.5 * step));
        // Just before it was at rest: what creeps up had left it long ago.
        double[] before =
        [
            .. samples.Where(s => s.T < phase.From && s.T >= phase.From - Math.Max(1.2, 2.5 * step)).Select(s => s.W - rest),
        ];
        if (before.Length == 0 || before.Min() > 0.3 * (phase.To - phase.From < Sharp ? phase.Watts : soon))
            return false;
        return phase.To - phase.From < Sharp || soon >= 0.75 * Near(Sharp);
    }

    /// <summary>Seconds from where it leaves rest to nine tenths of its level.</summary>
    private static double RiseOf((double T, double W)[] samples, DrawPhase phase, double rest) =>
        samples.First(s => s.T >= phase.From && s.W - rest >= 0.9 * phase.Watts || s.T >= phase.To).T - phase.From;

    private static double NoiseOf((double T, double W)[] samples)
    {
        double[] steps = [.. samples.Zip(samples.Skip(1), (a, b) => Math.Abs(b.W - a.W))];
        // Most steps are noise, those of the machine are few. The median of |difference| of two normals, to their deviation.
        return Math.Max(0.1, Median(steps) / (0.6745 * Math.Sqrt(2)));
    }

    private static double Median(IEnumerable<double> values) => Quantile(values, 0.5);

    private static double Quantile(IEnumerable<double> values, double share)
    {
        double[] sorted = [.. values.Order()];
        return sorted.Length == 0 ? 0 : sorted[(int)Math.Min(sorted.Length - 1, share * sorted.Length)];
    }

    /// <summary>What it says, in words.</summary>
    public string Words()
    {
        string F(double value) => value.ToString("0.#", CultureInfo.InvariantCulture);
        return Shape switch
        {
            DrawShape.Nothing => "Nothing is drawn: no mains, or the supply is dead or switched off at its back.",
            DrawShape.Standby => $"Standby only ({F(Rest)} W): the start never comes, or comes to nothing.",
            DrawShape.CutsOut => $"It cuts out after {F(CutOut!.Value)} s.",
            DrawShape.Loop => $"It starts again and again, every {F(Period!.Value)} s, {Phases.Length} times.",
            DrawShape.Plateau when Stage is { Width: 1 } => "It comes up and its draw never changes: no POST.",
            DrawShape.Plateau => "It comes up; what was recorded is too short to see POST.",
            DrawShape.Steps => "It comes up and its draw goes in steps: POST goes on, or a system loads.",
            _ => "This says nothing of a start: begin before the button is pressed, with nothing else on the meter.",
        };
    }
}
