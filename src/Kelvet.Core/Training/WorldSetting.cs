using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>
/// What is different in a world that the reasoner does not know: faults that its atlas lacks, faults that behave otherwise
/// than it believes, spares and records that cannot be relied on. Read from a file, never by the planner.
/// </summary>
/// <param name="Name">What it is, in words.</param>
public sealed record WorldSetting(string Name)
{
    /// <summary>The world as the atlas has it.</summary>
    public static WorldSetting Known { get; } = new("as the atlas has it");

    /// <summary>Modes that are taken out of the reasoner's atlas.</summary>
    public ImmutableArray<string> Without { get; init; } = [];

    /// <summary>Modes of which each machine has one; empty for any.</summary>
    public ImmutableArray<string> Only { get; init; } = [];

    /// <summary>How faults behave there; null as the atlas says.</summary>
    public Behaviour? Behaviour { get; init; }

    /// <summary>Whether a fault that acts now and then does so at any rate, and not at one that the reasoner has a value for.</summary>
    public bool AnyRate { get; init; }

    /// <summary>Share, 0 to 1, of shelf parts that are bad; null as the atlas says.</summary>
    public double? BadSpares { get; init; }

    /// <summary>Share, 0 to 1, of starts that the technician records wrongly; null as the atlas says.</summary>
    public double? Slips { get; init; }

    /// <summary>
    /// How often hands at work beside a seat or plug cure or cause a bad contact there, against what the atlas says, 0 to 20.
    /// </summary>
    public double Hands { get; init; } = 1;

    /// <summary>Small parts that every machine of this world has and its job lists.</summary>
    public ImmutableArray<UnitKind> Small { get; init; } = [];

    /// <summary>Factor, 1 to 10, by which the world's numbers are off.</summary>
    public double Off { get; init; } = 1;

    /// <summary>The reasoner's atlas in this world.</summary>
    public Atlas Believed(Atlas atlas) => Without.IsEmpty ? atlas : atlas.Without(Without);

    /// <summary>The world's own atlas.</summary>
    public Atlas True(Atlas atlas) => Slips is { } slips ? atlas with { Slip = slips } : atlas;

    /// <summary>Chance that a spare has a fault.</summary>
    internal double OddsOfSpare(double prior, ImmutableArray<Fault> faults, int fault)
    {
        if (BadSpares is not { } bad)
            return prior;
        var all = faults.Where(f => f.Unit.Id == faults[fault].Unit.Id).Sum(f => f.Odds);
        return bad * faults[fault].Odds / all;
    }

    /// <summary>Reads a world file.</summary>
    /// <exception cref="DataFileException">It is not one; the message names the line.</exception>
    public static WorldSetting Read(string yaml, string file, Atlas atlas)
    {
        var root = YamlPart.Root(yaml, file);
        root.Only("name", "without", "only", "same-each-time", "now-and-then", "any-rate", "bad-spares", "slips", "hands", "small", "off");
        var without = Modes("without");
        return new WorldSetting(root.Get("name").Text())
        {
            Without = without,
            Only = root.Find("only") is null ? without : Modes("only"),
            Behaviour =
                root.Find("same-each-time") is null && root.Find("now-and-then") is null
                    ? null
                    : new Behaviour(
                        root.Find("same-each-time")?.Number(0, 1) ?? atlas.Behaviour.SameEachTime,
                        root.Find("now-and-then")?.Number(0, 1) ?? atlas.Behaviour.NowAndThen
                    ),
            AnyRate = root.FlagOr("any-rate", false),
            BadSpares = root.Find("bad-spares")?.Number(0, 1),
            Slips = root.Find("slips")?.Number(0.0001, 0.5),
            Hands = root.Find("hands")?.Number(0, 20) ?? 1,
            Small = root.Find("small") is { } small ? [.. small.Items().Select(i => i.Choice<UnitKind>())] : [],
            Off = root.Find("off")?.Number(1, 10) ?? 1,
        };

        ImmutableArray<string> Modes(string field) =>
            root.Find(field) is not { } list
                ? []
                :
                [
                    .. list.Items()
                        .Select(i => atlas.Modes.Any(m => m.Id == i.Text()) ? i.Text() : throw i.Wrong($"there is no mode \"{i.Text()}\"")),
                ];
    }
}
