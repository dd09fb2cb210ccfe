using System.Collections.Immutable;
using System.Globalization;

namespace Kelvet.Core.Supplies;

/// <summary>Rails that were read together: at one load, at one place, with one instrument, judged by one guide.</summary>
public sealed record RailSet
{
    /// <summary>Longest text of one.</summary>
    public const int Longest = 160;

    private RailSet(ImmutableArray<RailReading> readings, SupplyGuide guide) =>
        (Readings, Guide, Text) = (readings, guide, Write(readings, guide));

    /// <summary>Several readings.</summary>
    /// <param name="volts">Volts of each rail that was read, one or more.</param>
    /// <param name="load">How the supply was loaded.</param>
    /// <param name="by">What they were read with.</param>
    /// <param name="at">Where.</param>
    /// <param name="guide">By which guide they are judged.</param>
    /// <exception cref="ArgumentException">There is none, or one is no voltage of a supply.</exception>
    public static RailSet Of(
        IReadOnlyDictionary<Rail, double> volts,
        RailLoad load,
        Instrument by,
        RailSpot at,
        SupplyGuide guide = SupplyGuide.Atx12V2
    )
    {
        if (volts.Count == 0)
            throw new ArgumentException("Write the volts of a rail at least.", nameof(volts));
        // As they are written: a hundredth is as fine as any of these instruments reads.
        return new RailSet([.. volts.OrderBy(v => v.Key).Select(v => new RailReading(v.Key, Math.Round(v.Value, 2), load, by, at))], guide);
    }

    /// <summary>The readings, by rail.</summary>
    public ImmutableArray<RailReading> Readings { get; }

    /// <summary>By which guide they are judged.</summary>
    public SupplyGuide Guide { get; }

    /// <summary>As the job format writes it: "12=11.42 5=5.03 none meter own-plug atx12-v2".</summary>
    public string Text { get; }

    /// <summary>How the supply was loaded.</summary>
    public RailLoad Load => Readings[0].Load;

    /// <summary>Where.</summary>
    public RailSpot At => Readings[0].At;

    /// <summary>What they were read with.</summary>
    public Instrument By => Readings[0].By;

    /// <summary>Whether a rail is outside of its limits or not there.</summary>
    public bool IsOut => Readings.Any(r => r.IsOut(Guide));

    /// <summary>How much likelier the numbers are where a rail is out of its limits.</summary>
    public double Ratio => RailReading.Ratio(Readings, Guide);

    /// <inheritdoc/>
    public bool Equals(RailSet? other) => other is not null && Text == other.Text;

    /// <inheritdoc/>
    public override int GetHashCode() => Text.GetHashCode(StringComparison.Ordinal);

    /// <summary>Reads it back.</summary>
    /// <exception cref="ArgumentException">It cannot be read; the message names the word.</exception>
    public static RailSet Read(string text)
    {
        var volts = new Dictionary<Rail, double>();
        RailLoad? load = null;
        Instrument? by = null;
        RailSpot? at = null;
        var guide = SupplyGuide.Atx12V2;
        foreach (var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            if (word.IndexOf('=', StringComparison.Ordinal) is > 0 and var split)
            {
                if (
                    RailText.Read(word[..split]) is not { } rail
                    || !double.TryParse(word[(split + 1)..], NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
                )
                    throw new ArgumentException($"\"{word}\" is no reading: write the rail and its volts, 12=11.98.", nameof(text));
                if (!volts.TryAdd(rail, value))
                    throw new ArgumentException($"\"{word}\": this rail is told twice.", nameof(text));
            }
            else if (Core.Text.Dashed.TryRead(word, out RailLoad l))
                load = l;
            else if (Core.Text.Dashed.TryRead(word, out Instrument i))
                by = i;
            else if (Core.Text.Dashed.TryRead(word, out RailSpot s))
                at = s;
            else if (Core.Text.Dashed.TryRead(word, out SupplyGuide g))
                guide = g;
            else
                throw new ArgumentException($"\"{word}\" is no load, place, instrument or guide.", nameof(text));
        }

        if (load is null || by is null || at is null)
            throw new ArgumentException("Readings of rails say the load, the instrument and the place.", nameof(text));
        return Of(volts, load.Value, by.Value, at.Value, guide);
    }

    private static string Write(ImmutableArray<RailReading> readings, SupplyGuide guide)
    {
        var first = readings[0];
        var values = readings.Select(r => $"{r.Rail.Key()}={r.Volts.ToString("0.##", CultureInfo.InvariantCulture)}");
        return string.Join(
            ' ',
            [
                .. values,
                Core.Text.Dashed.Of(first.Load),
                Core.Text.Dashed.Of(first.By),
                Core.Text.Dashed.Of(first.At),
                Core.Text.Dashed.Of(guide),
            ]
        );
    }

    /// <summary>In words: "+12 V 11.42 V, +5 V 5.03 V, without load, at the supply's own plug, with a meter".</summary>
    public string Words() =>
        string.Join(", ", Readings.Select(r => $"{r.Rail.Words()} {r.Volts.ToString("0.00", CultureInfo.InvariantCulture)} V"))
        + $", {Load.Words()}, {At.Words()}, with {By.Words()}";
}
