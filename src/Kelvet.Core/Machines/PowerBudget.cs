using System.Collections.Immutable;
using Kelvet.Core.Supplies;

namespace Kelvet.Core.Machines;

/// <summary>How hard a machine works.</summary>
public enum Work
{
    /// <summary>It stands in its system and does nothing.</summary>
    Idle,

    /// <summary>It stands in setup, where nothing saves power.</summary>
    Setup,

    /// <summary>Everything under load.</summary>
    Load,

    /// <summary>The worst short excursion.</summary>
    Excursion,
}

/// <summary>Where a figure comes from.</summary>
public enum Known
{
    /// <summary>The part's own watts are told.</summary>
    Told,

    /// <summary>The usual figure of its kind.</summary>
    Assumed,

    /// <summary>Not known, and of this kind there is no usual figure.</summary>
    NotKnown,
}

/// <summary>What a part draws.</summary>
/// <param name="Unit">The part.</param>
/// <param name="Twelve">Watts on 12 V, in the order of <see cref="Work"/>.</param>
/// <param name="Minor">Watts on 5 and 3.3 V together, in the order of <see cref="Work"/>.</param>
/// <param name="Known">Where that comes from.</param>
public sealed record PartDraw(Unit Unit, ImmutableArray<double> Twelve, ImmutableArray<double> Minor, Known Known);

/// <summary>
/// What a machine draws against what its supply has, on 12 V and on the minor rails, from idle to the worst short excursion. Adding a part
/// never raises what is left.
/// </summary>
/// <param name="Parts">What each part draws, the most at load first.</param>
/// <param name="Supply">The supply; null where none is fitted.</param>
/// <param name="Label">Its label as printed; null where that was not typed.</param>
public sealed record PowerBudget(ImmutableArray<PartDraw> Parts, Unit? Supply, SupplyLabel? Label)
{
    /// <summary>
    /// Shares of a part's most at idle, in setup and in a short excursion, and how much of it is on 12 V. Excursions of cards: PCI Express
    /// CEM 5.0 allows twice the board power for 100 microseconds and 1.6 times for 1 millisecond, from memory: a supply sees the longer.
    /// Of processors: twice the sustained power for tens of seconds is usual where the board does not limit it, from memory. The rest is
    /// bench judgement.
    /// </summary>
    private sealed record Shape(UnitKind Kind, double Usual, double Idle, double Setup, double Excursion, double OnTwelve);

    private static readonly ImmutableDictionary<UnitKind, Shape> Shapes = new Shape[]
    {
        new(UnitKind.Cpu, 0, 0.15, 0.5, 1.6, 1),
        new(UnitKind.GraphicsCard, 0, 0.1, 0.2, 1.6, 1),
        new(UnitKind.Motherboard, 40, 0.6, 0.75, 1, 0.4),
        new(UnitKind.MemoryStick, 4, 0.4, 0.6, 1, 0.5),
        new(UnitKind.Storage, 8, 0.5, 0.7, 2.5, 0.6),
        new(UnitKind.CaseFan, 3, 0.4, 0.6, 2, 1),
        new(UnitKind.Pump, 5, 0.9, 0.9, 2, 1),
        new(UnitKind.Cooler, 3, 0.4, 0.6, 2, 1),
        new(UnitKind.OtherCard, 10, 0.4, 0.5, 1, 0.3),
        new(UnitKind.FanHub, 1, 1, 1, 1, 1),
    }.ToImmutableDictionary(s => s.Kind);

    /// <summary>What the parts of a machine draw from its supply.</summary>
    public static PowerBudget Of(Situation machine)
    {
        var fitted = machine.Now.At.Values.Select(id => machine.Parts[id]).ToArray();
        var supply = machine.Now[Place.Supply] is { } id ? machine.Parts[id] : null;
        return new PowerBudget(
            [
                .. fitted
                    .Where(u => Shapes.ContainsKey(u.Kind))
                    .Select(DrawOf)
                    .OrderByDescending(d => d.Twelve[(int)Work.Load] + d.Minor[(int)Work.Load])
                    .ThenBy(d => d.Unit.Id.Value, StringComparer.Ordinal),
            ],
            supply,
            supply is { Label.Length: > 0 } ? SupplyLabel.Read(supply.Label) : null
        );
    }

    private static PartDraw DrawOf(Unit unit)
    {
        var shape = Shapes[unit.Kind];
        // What a cooler is told with is what it carries off, not what its fan draws.
        var told = unit.Kind == UnitKind.Cooler ? null : unit.Watts;
        var most = told ?? shape.Usual;
        var known =
            told is not null ? Known.Told
            : shape.Usual > 0 ? Known.Assumed
            : Known.NotKnown;
        double[] by = [most * shape.Idle, most * shape.Setup, most, most * shape.Excursion];
        return new PartDraw(unit, [.. by.Select(w => w * shape.OnTwelve)], [.. by.Select(w => w * (1 - shape.OnTwelve))], known);
    }

    /// <summary>Whether nothing is missing in the sums. Otherwise they are the least that it draws.</summary>
    public bool IsWhole => !NotKnown.Any();

    /// <summary>Watts on 12 V.</summary>
    public double Twelve(Work work) => Parts.Sum(p => p.Twelve[(int)work]);

    /// <summary>Watts on 5 and 3.3 V.</summary>
    public double Minor(Work work) => Parts.Sum(p => p.Minor[(int)work]);

    /// <summary>Watts in all.</summary>
    public double Total(Work work) => Twelve(work) + Minor(work);

    /// <summary>Amperes on 12 V.</summary>
    public double TwelveAmps(Work work) => Twelve(work) / 12;

    /// <summary>Parts of which nothing is known: what they draw is not in the sums.</summary>
    public IEnumerable<Unit> NotKnown => Parts.Where(p => p.Known == Known.NotKnown).Select(p => p.Unit);

    /// <summary>
    /// Watts that the supply has on 12 V: by its label, else the usual share of what it is rated for; null where nothing is told of it.
    /// </summary>
    public double? Has => Label?.TwelveWatts ?? (Supply?.Watts ?? Label?.Total) * UsualOnTwelve;

    /// <summary>Share of its rating that a supply of today has on 12 V where its label was not typed. Bench judgement.</summary>
    private const double UsualOnTwelve = 0.85;

    /// <summary>A supply bears so much more than its rating for a short excursion: ATX 3.0 asks for 2.0 times for 100 microseconds and 1.2
    /// times for 100 milliseconds, from memory; the longer is what older ones are held to here.</summary>
    public const double ForMoments = 1.2;

    /// <summary>Watts that are left on 12 V under load; null where the supply's are not known.</summary>
    public double? Left => Has - Twelve(Work.Load);

    /// <summary>Share of what the supply has on 12 V that is drawn; null where that is not known.</summary>
    /// <param name="work">How hard the machine works. A short excursion is measured by what a supply bears for its length.</param>
    public double? Used(Work work) => Has is { } has and > 0 ? Twelve(work) / (work == Work.Excursion ? has * ForMoments : has) : null;

    /// <summary>Whether it cannot be enough, whatever is not known.</summary>
    public bool IsTooSmall => Used(Work.Load) > 1;

    /// <summary>
    /// By how much likelier a supply is to sag or trip in this machine than in one that it is made for, 1 or more: what does not add up
    /// moves the odds. Bench judgement.
    /// </summary>
    public double Strain =>
        Math.Max(Used(Work.Load) ?? 0, Used(Work.Excursion) ?? 0) switch
        {
            > 1.15 => 12,
            > 1 => 6,
            > 0.9 => 2,
            _ => 1,
        };

    /// <summary>
    /// Parts that can be left out for a start, the dearest in watts first, until what is left is enough under load; empty where it is
    /// enough, or nothing helps. A processor and a board cannot be left out.
    /// </summary>
    public ImmutableArray<Unit> LeaveOut()
    {
        if (Has is not { } has || !IsTooSmall)
            return [];
        var over = Twelve(Work.Load) - has;
        var left = ImmutableArray.CreateBuilder<Unit>();
        foreach (var part in Parts.Where(p => p.Unit.Kind is UnitKind.GraphicsCard or UnitKind.Storage or UnitKind.OtherCard))
        {
            left.Add(part.Unit);
            over -= part.Twelve[(int)Work.Load];
            if (over <= 0)
                return left.ToImmutable();
        }

        return [];
    }
}
