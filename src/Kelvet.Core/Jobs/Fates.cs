using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>Why a part has to be settled before a job is closed.</summary>
public enum Stray
{
    /// <summary>The customer's, and not in the machine that goes back to them.</summary>
    TheirsOut,

    /// <summary>Of the shelf, and in the machine that goes out.</summary>
    OursIn,

    /// <summary>Bought for the job, and in the machine that goes out.</summary>
    BoughtIn,

    /// <summary>Bought for the job, and not used in it.</summary>
    BoughtOut,
}

/// <summary>What becomes of a part that is not where it came in.</summary>
public enum Fate
{
    /// <summary>The owner takes it along.</summary>
    GivenBack,

    /// <summary>The shop keeps it, as its owner agreed.</summary>
    Kept,

    /// <summary>It is thrown away, as its owner agreed.</summary>
    Scrapped,

    /// <summary>It goes to the seller or maker, to be replaced or paid back.</summary>
    ToSeller,

    /// <summary>It stays in the machine and is paid for.</summary>
    Sold,

    /// <summary>It stays in the machine for a while and is the shop's.</summary>
    Lent,

    /// <summary>It lies on the shop's shelf.</summary>
    ToShelf,

    /// <summary>A specialist has mended it, and it came back as another part would.</summary>
    MendedElsewhere,
}

/// <summary>One fate: for which parts it can be chosen, and what has to be said with it.</summary>
/// <param name="Fate">The fate.</param>
/// <param name="Words">What is chosen, in a few words.</param>
/// <param name="Past">What became of it, after its name: "was given back to its owner".</param>
/// <param name="Priced">Whether a price is said.</param>
/// <param name="Agreed">Whether the owner's leave is said: who gave it, and when.</param>
/// <param name="Of">The parts that it can be chosen for; where it stands first for one, it is what usually happens.</param>
public sealed record FateRow(Fate Fate, string Words, string Past, bool Priced, bool Agreed, params ImmutableArray<Stray> Of)
{
    /// <summary>Every fate; of those that a part can have, the first is the usual one.</summary>
    public static ImmutableArray<FateRow> All { get; } =
    [
        new(Fate.GivenBack, "the owner takes it along", "was given back to its owner", false, false, Stray.TheirsOut),
        new(Fate.Kept, "the shop keeps it", "was kept by the shop", false, true, Stray.TheirsOut),
        new(Fate.Scrapped, "it is thrown away", "was thrown away", false, true, Stray.TheirsOut),
        new(Fate.Sold, "sold, stays in", "was sold with the machine", true, false, Stray.OursIn, Stray.BoughtIn),
        new(Fate.Lent, "lent, stays in for a while", "was lent with the machine", false, false, Stray.OursIn),
        new(Fate.ToShelf, "onto the shelf", "went to the shelf", false, false, Stray.BoughtOut),
        new(Fate.MendedElsewhere, "mended elsewhere, and here again", "was mended elsewhere", false, false, Stray.TheirsOut),
        new(Fate.ToSeller, "back to the seller", "went back to the seller", false, false, Stray.TheirsOut, Stray.BoughtOut),
    ];

    /// <summary>The row of a fate.</summary>
    public static FateRow Row(Fate fate) => All.First(r => r.Fate == fate);

    /// <summary>What can become of a part, the usual first.</summary>
    public static IEnumerable<FateRow> For(Stray stray) => All.Where(r => r.Of.Contains(stray));
}

/// <summary>What became of a part that is not where it came in.</summary>
public sealed record SettledEntry : Entry
{
    /// <summary>The highest price of a part, in the shop's currency.</summary>
    public const decimal MostPrice = 100_000;

    /// <summary>A fate.</summary>
    /// <param name="id">Id of the line.</param>
    /// <param name="unit">The part.</param>
    /// <param name="fate">What became of it.</param>
    /// <param name="price">For how much it was sold, 0 to <see cref="MostPrice"/> in the shop's currency; null where it was not.</param>
    /// <param name="agreed">Who agreed, and when, 1 to 200 characters; empty where nobody has to.</param>
    /// <exception cref="ArgumentException">What has to be said with it is not, or something else is; the message says which.</exception>
    public SettledEntry(Guid id, UnitId unit, Fate fate, decimal? price, string agreed)
        : base(id)
    {
        var row = FateRow.Row(fate);
        if (row.Priced && price is not (>= 0 and <= MostPrice))
            throw new ArgumentException($"Say for how much it is sold, 0 to {MostPrice:N0}.", nameof(price));
        if (!row.Priced && price is not null)
            throw new ArgumentException("Only what is sold has a price.", nameof(price));
        var said = agreed.Trim();
        if (row.Agreed && said.Length is 0 or > LongestAgreed)
            throw new ArgumentException($"Say who agreed to that, in 1 to {LongestAgreed} characters.", nameof(agreed));
        (Unit, Fate, Price, Agreed) = (unit, fate, price, row.Agreed ? said : "");
    }

    /// <summary>Longest note of who agreed.</summary>
    public const int LongestAgreed = 200;

    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Settled;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Settled(this);

    /// <summary>The part.</summary>
    public UnitId Unit { get; }

    /// <summary>What became of it.</summary>
    public Fate Fate { get; }

    /// <summary>For how much it was sold; null where it was not.</summary>
    public decimal? Price { get; }

    /// <summary>Who agreed, and when; empty where nobody has to.</summary>
    public string Agreed { get; }
}

/// <summary>A part that has to be settled: where it is not, and what became of it so far.</summary>
/// <param name="Unit">The part.</param>
/// <param name="Stray">Why.</param>
/// <param name="Said">What became of it; null while that is not said.</param>
public sealed record StrayPart(Unit Unit, Stray Stray, SettledEntry? Said);

/// <summary>
/// What has to be said of every part that is not where it came in, before the machine goes back: what the bench shows and what closing
/// asks are this one reading.
/// </summary>
public static class Settling
{
    /// <summary>The parts, the customer's first. The bench's own monitor, cable and lead stay at the bench.</summary>
    public static ImmutableArray<StrayPart> Of(BenchJob job) =>
        [
            .. job
                .Now.Parts.All.Where(u => !u.IsAway)
                .Select(u => (Unit: u, Stray: StrayOf(job, u)))
                .Where(p => p.Stray is not null)
                .OrderBy(p => p.Stray)
                .Select(p => new StrayPart(p.Unit, p.Stray!.Value, SaidOf(job, p.Unit.Id, p.Stray!.Value))),
        ];

    /// <summary>Those of which nobody has said what became of them.</summary>
    public static ImmutableArray<StrayPart> Open(BenchJob job) => [.. Of(job).Where(p => p.Said is null)];

    /// <summary>
    /// The usual fate of each part of which nothing is said yet and which is where it is for good: a part that was found at fault is given
    /// back, what stands in for it is sold, what was bought and not used goes to the shelf. What was swapped only to try has none: it is
    /// put back, or somebody says what becomes of it.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="found">The parts that are found at fault.</param>
    /// <param name="id">Makes the id of a line.</param>
    /// <param name="price">For how much a part is sold.</param>
    public static ImmutableArray<SettledEntry> Usual(
        BenchJob job,
        IReadOnlyCollection<UnitId> found,
        Func<Guid> id,
        Func<Unit, decimal> price
    ) =>
        [
            .. Open(job)
                .Where(p => IsForGood(job, p, found))
                .Select(p => (p.Unit, Row: FateRow.For(p.Stray).First()))
                .Select(p => new SettledEntry(id(), p.Unit.Id, p.Row.Fate, p.Row.Priced ? price(p.Unit) : null, "")),
        ];

    /// <summary>Whether a part is where it is because of what was found, and not only to try.</summary>
    internal static bool IsForGood(BenchJob job, StrayPart part, IReadOnlyCollection<UnitId> found) =>
        part.Stray switch
        {
            Stray.TheirsOut => found.Contains(part.Unit.Id),
            Stray.BoughtOut => true,
            _ => found.Any(f => job.Now.Parts.Find(f)?.Kind == part.Unit.Kind && !job.Now.Now.Has(f)),
        };

    private static Stray? StrayOf(BenchJob job, Unit unit) =>
        StaysAtBench(unit)
            ? null
            : (unit.Origin, job.Now.Now.Has(unit.Id)) switch
            {
                (Origin.Customer, false) => Stray.TheirsOut,
                (Origin.Shelf, true) => Stray.OursIn,
                (Origin.New, true) => Stray.BoughtIn,
                (Origin.New, false) => Stray.BoughtOut,
                _ => null,
            };

    /// <summary>Whether a part is the bench's own: what stands outside the case, and what brings mains to it.</summary>
    public static bool StaysAtBench(Unit unit) =>
        UnitFacts.Of(unit.Kind).Outside || unit.Kind is UnitKind.MainsLead or UnitKind.Outlet or UnitKind.PowerStrip;

    /// <summary>What was last said of a part: it holds while the part has not been moved since, and only for where it is now.</summary>
    private static SettledEntry? SaidOf(BenchJob job, UnitId unit, Stray stray)
    {
        SettledEntry? said = null;
        foreach (var line in job.InOrder.Select(l => l.Stands))
        {
            if (line is SettledEntry settled && settled.Unit == unit)
                said = settled;
            else if (line is not null && line.Done.Any(c => c.Moves(unit)))
                said = null;
        }

        return said is not null && FateRow.For(stray).Any(r => r.Fate == said.Fate) ? said : null;
    }
}
