using Kelvet.Core.Observed;

namespace Kelvet.Core.Hearing;

/// <summary>One beep as heard or tapped.</summary>
/// <param name="Start">Seconds from the start of listening.</param>
/// <param name="End">Seconds, later than <paramref name="Start"/>.</param>
public sealed record Beep(double Start, double End)
{
    /// <summary>Seconds.</summary>
    public double Length => End - Start;
}

/// <summary>What was made out of a row of beeps.</summary>
/// <param name="Pattern">The pattern of one round; null when none could be made out.</param>
/// <param name="Confidence">0 to 1; from <see cref="Sure"/> on it may be filled in without asking.</param>
/// <param name="Rounds">How many whole rounds were heard.</param>
/// <param name="Why">Why there is no pattern, or what is doubtful about it; empty when nothing is.</param>
public sealed record HeardPattern(BeepPattern? Pattern, double Confidence, int Rounds, string Why)
{
    /// <summary>The confidence from which on a pattern counts as heard.</summary>
    public const double Sure = 0.6;

    /// <summary>Whether a pattern was found and its confidence reaches <see cref="Sure"/>.</summary>
    public bool IsSure => Pattern is not null && Confidence >= Sure;
}

/// <summary>
/// Makes a pattern out of the times of beeps, whoever took them: a finger or a microphone. Short and long are told apart by
/// length, groups and rounds by the gaps; rounds that repeat confirm each other.
/// </summary>
public static class BeepRhythm
{
    /// <summary>Where all beeps are alike, one of this length is long, seconds. Common practice.</summary>
    private const double LongAlone = 0.5;

    /// <summary>One tone of this length is continuous, seconds.</summary>
    private const double Endless = 4;

    /// <summary>Longer than a long beep, seconds.</summary>
    private const double LongestLong = 1.8;

    /// <summary>Closer than this to the start or end of listening, a beep was cut through, seconds.</summary>
    private const double Cut = 0.1;

    /// <summary>More even beeps than any table counts.</summary>
    private const int MoreThanCounted = 13;

    /// <summary>Long beeps in an even row beyond what tables count.</summary>
    private const int MoreLongThanCounted = 6;

    /// <summary>Short beeps this far apart are rounds of one, seconds.</summary>
    private const double ApartAlone = 0.9;

    /// <summary>Reads beeps.</summary>
    /// <param name="beeps">In order, not overlapping.</param>
    /// <param name="end">When listening ended, seconds.</param>
    /// <param name="byHand">Tapped: gaps and lengths scatter more.</param>
    public static HeardPattern Read(IReadOnlyList<Beep> beeps, double end, bool byHand = false)
    {
        if (beeps.Count == 0)
            return new HeardPattern(null, 0, 0, "no beep was heard");
        if (beeps.Count > 400)
            return new HeardPattern(null, 0, 0, "too many beeps to be a pattern");
        var silence = Math.Max(0, end - beeps[^1].End);
        var cutAtEnd = !byHand && silence < Cut;
        var cutAtStart = !byHand && beeps[0].Start < Cut;
        if (!byHand && beeps.Count >= 3)
        {
            // A beep that listening cut through has no length to go by.
            if (cutAtStart)
                beeps = [.. beeps.Skip(1)];
            if (cutAtEnd)
                beeps = [.. beeps.SkipLast(1)];
        }

        if (beeps.Count == 1)
        {
            var only = beeps[0];
            if (only.Length >= Endless || ((cutAtEnd || cutAtStart) && only.Length >= LongestLong))
                return new HeardPattern(BeepPattern.Continuous, silence > 1 ? 0.6 : 0.8, 1, "");
            return new HeardPattern(
                BeepPattern.Of([
                    [only.Length >= LongAlone],
                ]),
                silence >= 1.5 ? 0.8 : 0.5,
                1,
                silence >= 1.5 ? "" : "listening ended soon after the beep: there may have been more"
            );
        }

        var (isLong, regular) = Classes(beeps, byHand);
        var gaps = new double[beeps.Count - 1];
        for (var i = 0; i < gaps.Length; i++)
            gaps[i] = Math.Max(0.001, beeps[i + 1].Start - beeps[i].End);
        var steps = Steps(gaps, byHand ? 1.9 : 1.5);
        HeardPattern? best = null;
        foreach (var reading in Readings(isLong, gaps, steps, silence, cutAtStart))
        {
            if (best is null || reading.Confidence > best.Confidence + 1e-9)
                best = reading;
        }

        return best! with
        {
            Confidence = Math.Round(best!.Confidence * regular, 3),
        };
    }

    /// <summary>Which beeps are long, and how cleanly lengths fall into their classes, 0 to 1.</summary>
    private static (bool[] IsLong, double Regular) Classes(IReadOnlyList<Beep> beeps, bool byHand)
    {
        var sorted = beeps.Select(b => Math.Max(0.01, b.Length)).Order().ToArray();
        var (split, jump) = (0, 1.0);
        for (var i = 1; i < sorted.Length; i++)
        {
            if (sorted[i] / sorted[i - 1] is var ratio && ratio > jump && sorted[i] >= 0.38)
                (split, jump) = (i, ratio);
        }

        var shorts = sorted[..split];
        var longs = sorted[split..];
        var two = split > 0 && jump >= 1.4 && longs.Average() / shorts.Average() >= 1.8;
        var threshold =
            two ? Math.Sqrt(sorted[split - 1] * sorted[split])
            : sorted[sorted.Length / 2] >= LongAlone ? 0
            : double.MaxValue;
        var scatter = two ? Math.Max(Scatter(shorts), Scatter(longs)) : Scatter(sorted);
        var allowed = byHand ? 0.5 : 0.25;
        return ([.. beeps.Select(b => b.Length > threshold)], scatter <= allowed ? 1 : Math.Max(0.3, allowed / scatter));
    }

    /// <summary>Standard deviation over mean.</summary>
    private static double Scatter(double[] values)
    {
        if (values.Length < 2)
            return 0;
        var mean = values.Average();
        return Math.Sqrt(values.Average(v => (v - mean) * (v - mean))) / mean;
    }

    /// <summary>The one or two widest steps between gap lengths, as thresholds, the higher one first.</summary>
    private static double[] Steps(double[] gaps, double least)
    {
        var sorted = gaps.Order().ToArray();
        return
        [
            .. Enumerable
                .Range(1, Math.Max(0, sorted.Length - 1))
                .Select(i => (Ratio: sorted[i] / sorted[i - 1], At: Math.Sqrt(sorted[i] * sorted[i - 1]), Upper: sorted[i]))
                .Where(s => s.Ratio >= least && s.Upper >= 0.12)
                .OrderByDescending(s => s.Ratio)
                .Take(2)
                .Select(s => s.At)
                .OrderDescending(),
        ];
    }

    private static IEnumerable<HeardPattern> Readings(bool[] isLong, double[] gaps, double[] steps, double silence, bool cutAtStart)
    {
        if (steps.Length == 2)
        {
            if (Rounds(Split(isLong, gaps, steps[0], steps[1]), silence, steps[0], cutAtStart, 0.97) is { } r)
                yield return r;
        }

        foreach (var step in steps)
        {
            if (Rounds(Split(isLong, gaps, step, double.MaxValue), silence, step, cutAtStart, 0.93) is { } r)
                yield return r;

            // Where longer gaps part the rounds, groups that go on across them are the poorer reading.
            if (Once(Split(isLong, gaps, double.MaxValue, step)[0], silence, gaps) is { } once)
                yield return step < steps[0] ? once with { Confidence = once.Confidence * 0.75 } : once;
        }

        var even = Even(isLong, gaps, silence);
        yield return steps.Length > 0 ? even with { Confidence = even.Confidence * 0.6, Why = "the gaps are uneven" } : even;
    }

    /// <summary>Cuts the row into rounds at the gaps above one length, and rounds into groups above another.</summary>
    private static List<List<List<bool>>> Split(bool[] isLong, double[] gaps, double round, double group)
    {
        var rounds = new List<List<List<bool>>> { new() { new() { isLong[0] } } };
        for (var i = 0; i < gaps.Length; i++)
        {
            if (gaps[i] > round)
                rounds.Add([
                    [],
                ]);
            else if (gaps[i] > group)
                rounds[^1].Add([]);
            rounds[^1][^1].Add(isLong[i + 1]);
        }

        return rounds;
    }

    /// <summary>Rounds that repeat; null when they do not.</summary>
    private static HeardPattern? Rounds(List<List<List<bool>>> rounds, double silence, double roundGap, bool cutAtStart, double confidence)
    {
        if (rounds.Count < 2)
            return null;
        var ended = silence >= 0.8 * roundGap;
        var whole = ended ? rounds : rounds[..^1];
        if (cutAtStart && whole.Count > 1)
            whole = whole[1..];
        if (whole.Count == 0)
            return null;
        var names = whole.ConvertAll(Name);
        var most = names.GroupBy(n => n).MaxBy(g => g.Count())!;
        var model = whole[names.IndexOf(most.Key)];

        // The first may have begun before listening, the last may go on after it.
        var fits = rounds
            .Select(
                (r, i) => Name(r) == most.Key || (i == 0 && IsEnd(r, model)) || (i == rounds.Count - 1 && !ended && IsBeginning(r, model))
            )
            .ToArray();
        var agreed = fits.Count(f => f) / (double)fits.Length;
        var equal = most.Count();
        var cutOnly = equal == 1;
        if (agreed < 0.6 || (cutOnly && agreed < 1))
            return null;
        return new HeardPattern(
            Make(model),
            confidence * agreed * (cutOnly ? 0.7 : 1),
            equal,
            agreed < 1 ? "not all rounds were alike" : ""
        );
    }

    /// <summary>Groups heard in one round, or several rounds with no longer gap between them.</summary>
    private static HeardPattern? Once(List<List<bool>> groups, double silence, double[] gaps)
    {
        if (groups.Count is < 2 or > 80)
            return null;
        for (var period = 2; period <= groups.Count / 2; period++)
        {
            if (
                Enumerable.Range(0, groups.Count - period).All(i => groups[i].SequenceEqual(groups[i + period]))
                && groups.Take(period).Distinct(new SameGroup()).Count() > 1
            )
                return new HeardPattern(Make(groups[..period]), 0.85, groups.Count / period, "");
        }

        if (groups.Count > 8 || groups.Sum(g => g.Count) > BeepPattern.MostBeeps)
            return null;
        var ended = silence >= 1.3 * gaps.Max();
        return new HeardPattern(
            Make(groups),
            ended ? 0.75 : 0.5,
            1,
            ended ? "heard once only" : "listening ended soon after: there may have been more"
        );
    }

    /// <summary>A row without longer gaps.</summary>
    private static HeardPattern Even(bool[] isLong, double[] gaps, double silence)
    {
        var n = isLong.Length;
        var ended = silence >= Math.Max(0.6, 1.6 * gaps.Max());
        if (isLong.Distinct().Count() == 1)
        {
            var usual = gaps.Order().ElementAt(gaps.Length / 2);
            if (!isLong[0] && usual >= ApartAlone)
                return new HeardPattern(
                    BeepPattern.Of([
                        [false],
                    ]),
                    0.75,
                    n,
                    ""
                );
            if (n >= MoreThanCounted || (isLong[0] && n >= MoreLongThanCounted) || (!ended && n > (isLong[0] ? 3 : 8)))
                return new HeardPattern(isLong[0] ? BeepPattern.EndlessLong : BeepPattern.EndlessShort, ended ? 0.65 : 0.8, n, "");
            return new HeardPattern(
                BeepPattern.Of([isLong]),
                ended ? 0.72 : 0.45,
                1,
                ended ? "heard once only" : "listening ended soon after: there may have been more"
            );
        }

        for (var period = 2; period <= n / 2; period++)
        {
            if (Enumerable.Range(0, n - period).All(i => isLong[i] == isLong[i + period]))
                return new HeardPattern(BeepPattern.Of([isLong[..period]]), 0.8, n / period, "");
        }

        return n > BeepPattern.MostBeeps
            ? new HeardPattern(null, 0, 0, "beeps of two lengths without an order")
            : new HeardPattern(
                BeepPattern.Of([isLong]),
                ended ? 0.72 : 0.45,
                1,
                ended ? "heard once only" : "listening ended soon after: there may have been more"
            );
    }

    private static BeepPattern? Make(List<List<bool>> groups) =>
        groups.Sum(g => g.Count) > BeepPattern.MostBeeps ? null : BeepPattern.Of(groups);

    private static string Name(List<List<bool>> round) => string.Join('-', round.Select(g => string.Concat(g.Select(l => l ? 'L' : 'S'))));

    private static bool IsBeginning(List<List<bool>> part, List<List<bool>> whole) =>
        Name(whole).StartsWith(Name(part), StringComparison.Ordinal);

    private static bool IsEnd(List<List<bool>> part, List<List<bool>> whole) => Name(whole).EndsWith(Name(part), StringComparison.Ordinal);

    private sealed class SameGroup : IEqualityComparer<List<bool>>
    {
        public bool Equals(List<bool>? x, List<bool>? y) => x!.SequenceEqual(y!);

        public int GetHashCode(List<bool> obj) => obj.Count;
    }
}
