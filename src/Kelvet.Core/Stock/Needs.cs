using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Stock;

/// <summary>Something that a part which is to be got has to match.</summary>
/// <param name="Words">What it is: "socket Q4", "at least 460 W".</param>
/// <param name="IsKnown">Whether it is known; where it is not, the words say what is to be read off first.</param>
public sealed record Need(string Words, bool IsKnown = true);

/// <summary>What is against a part in a machine.</summary>
/// <param name="Refused">Why it does not go in at all; empty where it does.</param>
/// <param name="Misfits">What would not fit with it in, and is not put right by moving something.</param>
public sealed record Clash(string Refused, ImmutableArray<Misfit> Misfits)
{
    /// <summary>Nothing is known against it.</summary>
    public static Clash None { get; } = new("", []);

    /// <summary>Whether nothing is known against it.</summary>
    public bool IsNone => Refused.Length == 0 && Misfits.IsEmpty;
}

/// <summary>What a part of a kind has to match in a machine, to be ordered by.</summary>
public static class Needs
{
    /// <summary>What has to match.</summary>
    /// <param name="job">The job.</param>
    /// <param name="kind">The kind that is to be got.</param>
    public static ImmutableArray<Need> Of(BenchJob job, UnitKind kind) =>
        kind switch
        {
            UnitKind.Supply => [.. OfSupply(job.Now)],
            UnitKind.Cpu => [.. OfCpu(job.Now)],
            UnitKind.MemoryStick => [.. OfStick(job.Now)],
            UnitKind.Motherboard => [.. OfBoard(job)],
            UnitKind.GraphicsCard => [.. OfCard(job.Now)],
            UnitKind.Cooler => [.. OfCooler(job.Now)],
            // Lithium, 20 mm by 3.2 mm, 3 V: IEC 60086-3, from memory; the usual cell of a board, common practice.
            UnitKind.CoinCell => [new("CR2032, 3 V")],
            _ => [],
        };

    /// <summary>What would not fit if a part were put in the place of one of its kind, or into a free slot.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="part">The part, known to the machine's parts or not.</param>
    public static Clash Against(Situation machine, Unit part)
    {
        var with = machine.Parts.Has(part.Id) ? machine : machine.WithUnit(part);
        var fitted = with.Now.At.Where(a => with.Parts[a.Value].Kind == part.Kind).Select(a => (UnitId?)a.Value).FirstOrDefault();
        var slot = with.Board?.CardSlots.Select(s => (Place?)Place.Card(s)).FirstOrDefault(p => with.Now[p!.Value] is null);
        Change? change =
            fitted is { } old ? new Change.Swap(old, part.Id)
            : part.Kind == UnitKind.GraphicsCard && slot is { } free ? new Change.Fit(part.Id, free)
            : null;
        if (change is null)
            return Clash.None;
        if (!with.TryAfter(change, out var after, out var refusal))
            return new Clash(refusal, []);
        var before = MisfitFound.In(with).Select(m => m.Kind).ToHashSet();
        return new Clash(
            "",
            [.. MisfitFound.In(after).Where(m => m.Fix.IsEmpty).Select(m => m.Kind).Where(m => !before.Contains(m)).Distinct()]
        );
    }

    private static IEnumerable<Need> OfSupply(Situation now)
    {
        yield return PowerEstimate.Of(now) is { } estimate
            ? new($"at least {estimate.Wanted} W")
            : new("watts: add up what CPU and card draw", false);
        var plugs = now.Cards.Sum(c => c.Card.Plugs ?? (c.Card.NeedsAuxPower ? 1 : 0));
        if (plugs > 0)
            yield return new($"{plugs} power {(plugs == 1 ? "plug" : "plugs")} for the card");
        yield return new("size of its housing: measure the old one", false);
    }

    private static IEnumerable<Need> OfCpu(Situation now)
    {
        yield return Socket(now);
        if (now.Cards.IsEmpty)
            yield return new("graphics of its own: there is no card");
        yield return now.Board is { Firmware: { } version }
            ? new($"known to the board's firmware {version}")
            : new("the board's firmware: read its version off", false);
    }

    private static IEnumerable<Need> OfStick(Situation now)
    {
        var type = now.Sticks.Select(s => s.Stick.MemoryType).Append(now.Board?.MemoryType ?? "").FirstOrDefault(t => t.Length > 0);
        yield return type is null ? new("memory type: read it off a stick or the board", false) : new(type);
        var sizes = now.Sticks.Select(s => s.Stick.SizeGb).Where(g => g > 0).Distinct().ToArray();
        yield return sizes.Length == 1 ? new($"{sizes[0]} GB, as the others") : new("size: read it off the others", false);
        if (now.Sticks.Select(s => s.Stick.Speed).Min() is { } speed)
            yield return new($"{speed} MT/s or more");
    }

    private static IEnumerable<Need> OfBoard(BenchJob job)
    {
        var now = job.Now;
        yield return Socket(now);
        foreach (var need in OfStick(now).Take(1))
            yield return need;
        var known = Knowledge.Of(job);
        if (now.Sticks.Length > 0 && now.Sticks.All(s => !known.IsGuess(s.Stick.Id, PartFact.Presence)))
            yield return new($"{now.Sticks.Length} memory {(now.Sticks.Length == 1 ? "slot" : "slots")} or more");
        yield return now.Board?.Form is { } form ? new($"size {form}".ToLowerInvariant()) : new("size: measure the old one", false);
        if (now.Cards.IsEmpty)
            yield return new("a video output for the screen's cable");
    }

    private static IEnumerable<Need> OfCard(Situation now)
    {
        yield return now.Board is { CardSlots.IsEmpty: true } ? new("the board has no slot for one", false) : new("an expansion slot");
        yield return now.Now[Place.Supply] is { } id && now.Parts[id] is { Plugs: { } plugs }
            ? new($"at most {plugs} power plugs")
            : new("power plugs: count those of the supply", false);
        yield return new("length: measure the case", false);
    }

    private static IEnumerable<Need> OfCooler(Situation now)
    {
        yield return Socket(now);
        yield return now.Cpu?.Watts is { } watts ? new($"for at least {watts} W") : new("what the CPU gives off: look it up", false);
        yield return new("height: measure the case", false);
    }

    private static Need Socket(Situation now) =>
        new[] { now.Board?.Socket, now.Cpu?.Socket }.FirstOrDefault(s => s is { Length: > 0 }) is { } socket
            ? new($"socket {socket}")
            : new("socket: read it off", false);
}
