using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Kelvet.Core.Supplies;

/// <summary>What a supply's label promises.</summary>
public sealed partial record SupplyLabel
{
    /// <summary>Longest text of a label.</summary>
    public const int Longest = 200;

    /// <summary>Most watts of a supply, and of a part.</summary>
    public const int MostWatts = 5000;

    /// <summary>Most amperes of a rail.</summary>
    public const double MostAmps = 400;

    private SupplyLabel(ImmutableArray<double?> amps, double? twelve, double? minor, double? total) =>
        (Amps, Twelve, Minor, Total) = (amps, twelve, minor, total);

    /// <summary>Amperes of each rail, in the order of <see cref="Rail"/>; null for none told. Several of 12 V are added.</summary>
    public ImmutableArray<double?> Amps { get; }

    /// <summary>Watts of all 12 V together; null where it does not say.</summary>
    public double? Twelve { get; }

    /// <summary>Watts of 3.3 and 5 V together; null where it does not say.</summary>
    public double? Minor { get; }

    /// <summary>Watts in all; null where it does not say.</summary>
    public double? Total { get; }

    /// <summary>
    /// Watts that there are on 12 V: the combined limit, else the amperes, and never more than the whole; null where neither is told.
    /// </summary>
    public double? TwelveWatts => (Twelve ?? (Amps[(int)Rail.V12] * 12)) is { } told ? Math.Min(told, Total ?? double.MaxValue) : null;

    /// <summary>
    /// Reads a label as it is printed: "+12V 37A, +5V 20A, +3.3V 20A, -12V 0.3A, +5VSB 2.5A, 12V 444W, 3.3+5V 110W, total 450W". What is
    /// parted by commas or semicolons is one figure each; more than one +12V rail may be told.
    /// </summary>
    /// <exception cref="ArgumentException">A part of it cannot be read; the message names it.</exception>
    public static SupplyLabel Read(string text)
    {
        if (text.Length > Longest)
            throw new ArgumentException($"A label has {Longest} characters at most.", nameof(text));
        var amps = new double?[Enum.GetValues<Rail>().Length];
        double? twelve = null,
            minor = null,
            total = null;
        foreach (Match part in Parts().Matches(text))
        {
            var said = part.Value.Trim();
            if (Figure().Match(said) is not { Success: true } figure)
                throw new ArgumentException(
                    $"\"{said}\" cannot be read off a label. Write a rail and its amperes, \"+12V 37A\", or watts, \"total 450W\".",
                    nameof(text)
                );
            var value = double.Parse(figure.Groups["value"].ValueSpan, CultureInfo.InvariantCulture);
            var what = figure.Groups["what"].Value.Replace(" ", "", StringComparison.Ordinal).ToUpperInvariant();
            if (figure.Groups["unit"].Value is "A" or "a")
            {
                if (RailOf(what) is not { } rail)
                    throw new ArgumentException(
                        $"\"{said}\": there is no rail \"{what}\". They are +12V, +5V, +3.3V, -12V, +5VSB.",
                        nameof(text)
                    );
                if (value > MostAmps)
                    throw new ArgumentException($"\"{said}\": a rail has 0 to {MostAmps:0} A.", nameof(text));
                amps[(int)rail] = (amps[(int)rail] ?? 0) + value;
            }
            else if (value > MostWatts)
                throw new ArgumentException($"\"{said}\": a supply has 0 to {MostWatts} W.", nameof(text));
            else if (what is "3.3+5V" or "3.3V+5V" or "5+3.3V" or "5V+3.3V" or "+3.3V+5V" or "+5V+3.3V")
                minor = value;
            else if (RailOf(what) == Rail.V12)
                twelve = value;
            else if (what is "TOTAL" or "")
                total = value;
            else
                throw new ArgumentException($"\"{said}\": watts are told of 12V, of 3.3+5V, or in total.", nameof(text));
        }

        return new SupplyLabel([.. amps], twelve, minor, total);
    }

    [GeneratedRegex("[^,;\n]*[^,;\\s][^,;\n]*")]
    private static partial Regex Parts();

    [GeneratedRegex(@"^(?<what>[A-Za-z0-9.+ -]*?)[ :=]*(?<value>\d{1,4}(\.\d{1,2})?) ?(?<unit>[AaWw])$")]
    private static partial Regex Figure();

    private static Rail? RailOf(string what) =>
        what.TrimStart('+') switch
        {
            "5VSB" or "5SB" => Rail.Standby5,
            "3.3V" or "3.3" => Rail.V33,
            "5V" or "5" => Rail.V5,
            "-12V" or "-12" => Rail.Minus12,
            "12V" or "12" or "12V1" or "12V2" or "12V3" or "12V4" => Rail.V12,
            _ => null,
        };

    /// <summary>What on it cannot be true, or carries its watts where a machine does not need them; empty where it adds up.</summary>
    public ImmutableArray<string> Doubts()
    {
        var doubts = ImmutableArray.CreateBuilder<string>();
        var twelve = Amps[(int)Rail.V12] * 12;
        if (Twelve is { } said && twelve is { } by && said > by * 1.02)
            doubts.Add($"It promises {W(said)} on 12 V, and its amperes come to {W(by)}.");
        if (Total is { } total)
        {
            if (TwelveWatts is { } carried && carried < OffTwelve * total)
                doubts.Add($"Only {W(carried)} of its {W(total)} are on 12 V, where a machine of today needs them.");
            var most = (Twelve ?? twelve ?? 0) + (Minor ?? ((Amps[(int)Rail.V33] * 3.3) + (Amps[(int)Rail.V5] * 5)) ?? 0);
            if (twelve is not null && most < total * 0.98)
                doubts.Add($"It promises {W(total)} in all, and its rails come to {W(most)}.");
        }

        return doubts.ToImmutable();

        static string W(double watts) => $"{watts.ToString("0", CultureInfo.InvariantCulture)} W";
    }

    /// <summary>Below this share of the whole on 12 V a supply is of an old sort, or its label is made up. Bench judgement.</summary>
    private const double OffTwelve = 0.7;
}
