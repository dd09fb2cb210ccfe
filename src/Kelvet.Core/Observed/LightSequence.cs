using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>How an indicator behaved.</summary>
public enum LightManner
{
    /// <summary>Lit once.</summary>
    Plain,

    /// <summary>On and off by itself.</summary>
    Flickers,

    /// <summary>Lit together with another.</summary>
    Together,

    /// <summary>In turn with others, again and again.</summary>
    ByTurns,
}

/// <summary>An indicator that was lit, as the technician tapped it.</summary>
/// <param name="Light">Cpu, Memory, Video or Boot.</param>
/// <param name="On">When it lit, seconds from the start.</param>
/// <param name="Off">When it went dark, seconds; null while it was still lit at the end.</param>
public sealed record LightTap(StallDomain Light, double On, double? Off);

/// <summary>One step of a sequence: an indicator, how it behaved and for how long in all.</summary>
/// <param name="Seconds">How long it was lit in all; null when it was not timed.</param>
public sealed record LightStep(StallDomain Light, LightManner Manner, double? Seconds);

/// <summary>
/// The indicators in the order in which they lit, written "cpu:0.8 memory~:12 +": "~" flickers, "*" stays lit with others,
/// "@" by turns, ":" seconds, "+" at the end for the last one still lit. "none" at the end: all dark.
/// </summary>
public sealed partial record LightSequence(ImmutableArray<LightStep> Steps, bool StillLit, bool EndedDark)
{
    /// <summary>The order of the indicators. Common practice.</summary>
    public static ImmutableArray<StallDomain> Order { get; } = [StallDomain.Cpu, StallDomain.Memory, StallDomain.Video, StallDomain.Boot];

    /// <summary>An indicator that goes on this often within <see cref="FlickerWithin"/> seconds flickers. Bench judgement.</summary>
    private const int FlickerTimes = 3;
    private const double FlickerWithin = 6;

    /// <summary>Indicators lit together for less than this are one that follows the other, seconds: a finger is not quicker.</summary>
    private const double Overlap = 0.4;

    /// <summary>All dark for this long counts as gone dark, seconds.</summary>
    private const double DarkFor = 2;

    /// <summary>From this on a light that is still lit is called stuck, seconds. Common practice: wait a minute.</summary>
    public const double Stuck = 20;

    /// <summary>Without times, as tables list it.</summary>
    public string Key =>
        string.Join(
            ' ',
            Steps
                .Select(s => $"{s.Light.ToString().ToLowerInvariant()}{Mark(s.Manner)}")
                .Concat(EndedDark ? ["none"] : Array.Empty<string>())
        );

    /// <summary>Indicators that lie between those that lit and were not seen.</summary>
    public ImmutableArray<StallDomain> Skipped
    {
        get
        {
            var lit = Steps.Select(s => Order.IndexOf(s.Light)).Distinct().ToArray();
            return lit.Length == 0 ? [] : [.. Order.Where((_, i) => i > lit.Min() && i < lit.Max() && !lit.Contains(i))];
        }
    }

    /// <summary>Reads what was tapped, in any order.</summary>
    /// <param name="taps">The indicators as they lit.</param>
    /// <param name="end">When watching ended, seconds.</param>
    /// <exception cref="ArgumentException">A tap is of no indicator, or its times are not in order.</exception>
    public static LightSequence Of(IEnumerable<LightTap> taps, double end)
    {
        var all = taps.OrderBy(t => t.On).ToImmutableArray();
        if (
            all.FirstOrDefault(t => !Order.Contains(t.Light) || !(t.On >= 0) || t.Off < t.On || !double.IsFinite(t.On + (t.Off ?? 0))) is
            { } bad
        )
            throw new ArgumentException($"A light is cpu, memory, video or boot, lit from 0 s on and dark later: not {bad}.", nameof(taps));
        if (all.Length == 0)
            return new LightSequence([], false, true);
        double OffOf(LightTap t) => t.Off ?? end;
        var still = all.Where(t => t.Off is null).ToArray();
        var first = all.Select(t => t.Light).Distinct().ToArray();
        var rounds = first.ToDictionary(l => l, l => all.Count(t => t.Light == l));
        var byTurns = first.Length > 1 && first.All(l => rounds[l] >= 2) && Alternates(all);
        var steps = first.Select(light =>
        {
            var own = all.Where(t => t.Light == light).ToArray();
            var manner =
                byTurns ? LightManner.ByTurns
                : own.Length >= FlickerTimes
                && own.Where((t, i) => i + FlickerTimes <= own.Length && own[i + FlickerTimes - 1].On - t.On <= FlickerWithin).Any()
                    ? LightManner.Flickers
                : all.Any(o => o.Light != light && own.Any(t => Math.Min(OffOf(t), OffOf(o)) - Math.Max(t.On, o.On) > Overlap))
                    ? LightManner.Together
                : LightManner.Plain;
            return new LightStep(light, manner, Math.Round(own.Sum(t => OffOf(t) - t.On), 1));
        });
        return new LightSequence([.. steps], still.Length > 0, still.Length == 0 && end - all.Max(OffOf) >= DarkFor);
    }

    /// <summary>Reads the written form, with or without times.</summary>
    public static bool TryParse(string? text, out LightSequence sequence)
    {
        sequence = new LightSequence([], false, true);
        // The mark of a light that is still lit may hang on its word: "memory+".
        var plain = Folded.Of(text).ToLowerInvariant();
        if (plain.Length > 1 && plain[^1] == '+')
            plain = $"{plain[..^1]} +";
        var words = plain.Split([' ', ',', '>'], StringSplitOptions.RemoveEmptyEntries);
        if (words.Length is 0 or > 12)
            return false;
        var still = words[^1] == "+";
        var dark = words[^1] == "none";
        if (still || dark)
            words = words[..^1];
        var steps = ImmutableArray.CreateBuilder<LightStep>();
        foreach (var word in words)
        {
            if (Form().Match(word) is not { Success: true } match)
                return false;
            var light = match.Groups["light"].Value switch
            {
                "cpu" => StallDomain.Cpu,
                "memory" or "dram" or "ram" => StallDomain.Memory,
                "video" or "vga" => StallDomain.Video,
                _ => StallDomain.Boot,
            };
            var manner = match.Groups["mark"].Value switch
            {
                "~" => LightManner.Flickers,
                "*" => LightManner.Together,
                "@" => LightManner.ByTurns,
                _ => LightManner.Plain,
            };
            double? seconds = match.Groups["s"].Length > 0 ? double.Parse(match.Groups["s"].Value, CultureInfo.InvariantCulture) : null;
            steps.Add(new LightStep(light, manner, seconds));
        }

        if (steps.Count == 0 && !dark)
            return false;
        sequence = new LightSequence(steps.ToImmutable(), still, dark);
        return true;
    }

    /// <summary>The written form with times.</summary>
    public override string ToString() =>
        string.Join(
            ' ',
            Steps
                .Select(s =>
                    $"{s.Light.ToString().ToLowerInvariant()}{Mark(s.Manner)}"
                    + $"{(s.Seconds is { } t ? string.Create(CultureInfo.InvariantCulture, $":{t:0.#}") : "")}"
                )
                .Concat(
                    StillLit ? ["+"]
                    : EndedDark ? ["none"]
                    : Array.Empty<string>()
                )
        );

    private static bool Alternates(ImmutableArray<LightTap> all) =>
        Enumerable.Range(1, all.Length - 1).Count(i => all[i].Light != all[i - 1].Light) >= 3;

    private static string Mark(LightManner manner) =>
        manner switch
        {
            LightManner.Flickers => "~",
            LightManner.Together => "*",
            LightManner.ByTurns => "@",
            _ => "",
        };

    [GeneratedRegex(@"^(?<light>cpu|memory|dram|ram|video|vga|boot)(?<mark>[~*@]?)(?::(?<s>[0-9]{1,5}(?:\.[0-9])?))?$")]
    private static partial Regex Form();
}
