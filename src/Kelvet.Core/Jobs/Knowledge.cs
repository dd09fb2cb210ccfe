using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>A fact of a part that nobody knows.</summary>
/// <param name="Unit">The part.</param>
/// <param name="Fact">The fact.</param>
public readonly record struct Guess(UnitId Unit, PartFact Fact);

/// <summary>A fact that was guessed at intake and that the bench has settled since.</summary>
/// <param name="Of">The part and the fact.</param>
/// <param name="Line">Number of the line that settled it.</param>
public readonly record struct Learnt(Guess Of, int Line);

/// <summary>
/// What is known of a job's machine and what is only guessed. A guess stands so that the machine can be drawn and reasoned over; who
/// works in the machine settles it: a part that was handled is there, a slot that was used is on the board, an output that the
/// monitor was moved to is there.
/// </summary>
public sealed class Knowledge
{
    private readonly HashSet<Guess> _open;
    private readonly BenchJob _job;

    private Knowledge(BenchJob job)
    {
        _job = job;
        _open = [.. job.Now.Parts.All.SelectMany(u => u.Guessed.Select(f => new Guess(u.Id, f)))];
        var learnt = ImmutableArray.CreateBuilder<Learnt>();
        if (_open.Count > 0)
        {
            foreach (var line in job.InOrder)
            {
                foreach (var settled in Settled(line).Where(_open.Remove).ToArray())
                    learnt.Add(new Learnt(settled, line.Number));
            }
        }

        Learnt = learnt.ToImmutable();
        Open = [.. _open.OrderBy(g => g.Unit).ThenBy(g => g.Fact)];
    }

    /// <summary>What is known of a job's machine.</summary>
    public static Knowledge Of(BenchJob job) => new(job);

    /// <summary>What nobody knows yet, by part.</summary>
    public ImmutableArray<Guess> Open { get; }

    /// <summary>What the bench has settled, in the order of the log.</summary>
    public ImmutableArray<Learnt> Learnt { get; }

    /// <summary>Whether a fact is only guessed.</summary>
    public bool IsGuess(UnitId unit, PartFact fact) => _open.Contains(new Guess(unit, fact));

    /// <summary>How a part is known: nothing of it guessed, something, or not even whether it is there. A name alone that nobody knows is
    /// no more than a name.</summary>
    public Knowing KnowingOf(UnitId unit) =>
        IsGuess(unit, PartFact.Presence) ? Knowing.NotKnown
        : Open.Any(g => g.Unit == unit && g.Fact != PartFact.Name) ? Knowing.Assumed
        : Knowing.Known;

    /// <summary>Whether the name of a place is one that the board has, and not one that was guessed.</summary>
    public bool IsNamed(Place place) =>
        _job.Now.Board is not { } board
        || place.Kind switch
        {
            PlaceKind.Memory => !IsGuess(board.Id, PartFact.Slots),
            PlaceKind.Card => !IsGuess(board.Id, PartFact.CardSlots),
            _ => true,
        };

    /// <summary>What steps rest on that nobody knows: it is looked at before they are taken.</summary>
    /// <param name="changes">What would be done.</param>
    public ImmutableArray<Guess> Under(IEnumerable<Change> changes)
    {
        var rests = new List<Guess>();
        var machine = _job.Now;
        foreach (var change in changes)
        {
            rests.AddRange(Handled(change).Select(u => new Guess(u, PartFact.Presence)));
            if (change is Change.DisplayAt { Output: var output } && machine.Now[output.Source] is { } source)
            {
                rests.Add(new Guess(source, PartFact.Outputs));
                if (output.Source.Kind == PlaceKind.Board && machine.Cpu is { } cpu)
                    rests.Add(new Guess(cpu.Id, PartFact.Graphics));
            }

            // Where something is known to have sat there is a slot.
            if (Slot(change) is { } slot && machine.Board is { } board && !WasSeatOfSomething(slot))
                rests.Add(new Guess(board.Id, FactOf(slot)));
        }

        return [.. rests.Distinct().Where(_open.Contains)];
    }

    /// <summary>Gigabytes that the machine itself has told of since its memory was last touched; null where it has told of none.</summary>
    public int? MemorySeen =>
        _job.Trials.LastOrDefault(t => t.Entry.Signs.MemorySeen is not null) is { } told
        && told.Situation.Sticks.Select(s => (s.Place, s.Stick.Id)).SequenceEqual(_job.Now.Sticks.Select(s => (s.Place, s.Stick.Id)))
            ? told.Entry.Signs.MemorySeen
            : null;

    private List<Guess> Settled(LogLine line)
    {
        var stands = line.Stands;
        if (stands is null or ClaimEntry)
            return [];
        var board = _job.Now.Board?.Id;
        var settled = new List<Guess>();
        foreach (var change in stands.Done)
        {
            settled.AddRange(Handled(change).Select(u => new Guess(u, PartFact.Presence)));
            if (change is Change.DisplayAt { Output.Source: var place } && _job.Now.Now[place] is { } source)
                settled.Add(new Guess(source, PartFact.Outputs));
            if (Slot(change) is { } slot && board is { } its)
                settled.Add(new Guess(its, FactOf(slot)));
        }

        if (stands is FindingEntry look)
            settled.Add(new Guess(look.Unit, PartFact.Presence));
        if (stands is TrialEntry && _job.Trials.FirstOrDefault(t => t.Number == line.Number) is { } trial)
            settled.AddRange(Shown(trial));
        return settled;
    }

    /// <summary>What a picture says of what it came by.</summary>
    private static IEnumerable<Guess> Shown(Trial trial)
    {
        // By which output it came is as much a guess as the outputs are; without a card it is the CPU that made it.
        var machine = trial.Situation;
        if (trial.Seen.Low >= BootStage.Picture && machine.Cards.IsEmpty && machine.Cpu is { } cpu)
            yield return new Guess(cpu.Id, PartFact.Graphics);
    }

    private static IEnumerable<UnitId> Handled(Change change) =>
        change is Change.Swap swap ? [swap.Out, swap.In]
        : change.Subject is { } unit ? [unit]
        : [];

    private bool WasSeatOfSomething(Place slot) => _job.Intake.Received[slot] is { } sat && !IsGuess(sat, PartFact.Presence);

    private static PartFact FactOf(Place slot) => slot.Kind == PlaceKind.Memory ? PartFact.Slots : PartFact.CardSlots;

    private static Place? Slot(Change change) =>
        change switch
        {
            Change.Fit { Place.Kind: PlaceKind.Memory or PlaceKind.Card } c => c.Place,
            Change.Move { Place.Kind: PlaceKind.Memory or PlaceKind.Card } c => c.Place,
            _ => null,
        };
}

/// <summary>How a part is known: three looks of the same thing.</summary>
public enum Knowing
{
    /// <summary>Nothing of it is guessed, but for its name.</summary>
    Known,

    /// <summary>It is there, and something of it is guessed.</summary>
    Assumed,

    /// <summary>Nobody knows whether it is there.</summary>
    NotKnown,
}
