using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;

namespace Kelvet.Core.Planning;

/// <summary>Something that could be done next: an act at the bench and a start-up, or a look, test or reading.</summary>
/// <param name="Changes">What is done, in order. More than one where practice makes them one act (fit a card and plug the monitor
/// into it).</param>
/// <param name="Minutes">Bench minutes, power-down and the wait for start-up included.</param>
/// <param name="HandsIn">Whether hands go into the machine, so that the power-off gate applies.</param>
/// <param name="After">The machine as it would then be started, or looked at.</param>
public sealed record Candidate(ImmutableArray<Change> Changes, Minutes Minutes, bool HandsIn, Situation After)
{
    /// <summary>How the start comes about; null for an ordinary one.</summary>
    public StartKind? Kind { get; init; }

    /// <summary>Of the minutes, those that go by themselves: a cold rest, a run under load.</summary>
    public Minutes Waiting { get; init; } = new(0);

    /// <summary>What a minute of waiting counts against one that somebody stands there. Bench judgement.</summary>
    private const double WaitingCounts = 0.15;

    /// <summary>Minutes as they count when steps are weighed.</summary>
    public double Weighed => Minutes.Value - ((1 - WaitingCounts) * Waiting.Value);

    /// <summary>A part that the shop would have to get first; null when all is at hand.</summary>
    public Unit? Missing { get; init; }

    /// <summary>The check that this is, instead of a start-up; null for a start-up.</summary>
    public Check? Check { get; init; }

    /// <summary>The unit that is checked; null for a start-up.</summary>
    public Unit? Checked { get; init; }

    /// <summary>Tools, as the atlas names them.</summary>
    public string Tools { get; init; } = "none";

    /// <summary>What to mind, as the atlas words it; empty when nothing special.</summary>
    public string Caution { get; init; } = "";

    /// <summary>Equal for the same act, whatever it costs and wherever it leads.</summary>
    public StepKey Key => new(new ValueList<Change>(Changes), Check?.Id, Checked?.Id, Kind);
}

/// <summary>What makes two steps the same: the changes in their order, or the check and the unit that it is made on.</summary>
public sealed record StepKey(ValueList<Change> Changes, string? Check, UnitId? Checked, StartKind? Kind = null);

/// <summary>Lists what could be done next with the parts at hand.</summary>
public static class Candidates
{
    /// <summary>
    /// Every feasible step from here, and, for the kinds of part of which no spare is at hand, the swap that a spare
    /// would allow (<see cref="Candidate.Missing"/> names it).
    /// </summary>
    public static ImmutableArray<Candidate> From(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        var atlas = diagnosis.Atlas;
        var now = job.Now;
        var found = new Dictionary<StepKey, Candidate>();
        (Change[] Changes, Unit? Missing)[] again = IsIntermittent(job) ? [([], null)] : [];
        foreach (var (changes, missing) in Proposals(now, job.Intake.Received).Concat(FromLastFailure(job)).Concat(again))
        {
            var from = missing is null ? now : now.Imagining(missing);
            if (
                changes.Any(c => IsAway(c, now.Parts) || IsTriedAgain(c, diagnosis))
                || !TryAll(from, changes, out var after)
                || Safety.WhyNotPowered(job, after) is not null
                || Safety.WhyNotFlashed(job, changes) is not null
            )
                continue;
            var candidate = ShowingStart.With(Of(changes, from, after, atlas), job, atlas.Work) with { Missing = missing };
            found.TryAdd(candidate.Key, candidate);
        }

        foreach (var other in ChecksOf(diagnosis).Concat(Occasions.Of(diagnosis).Select(c => ShowingStart.With(c, job, atlas.Work))))
            found.TryAdd(other.Key, other);
        return [.. found.Values];
    }

    /// <summary>The part that a change puts in; null for none.</summary>
    private static UnitId? PutIn(Change change) =>
        change switch
        {
            Change.Fit f => f.Unit,
            Change.Swap s => s.In,
            Change.Connect c => c.Unit,
            _ => null,
        };

    /// <summary>Whether a change takes a part that is not at hand.</summary>
    private static bool IsAway(Change change, Parts parts) => PutIn(change) is { } id && parts.Find(id) is { IsAway: true };

    /// <summary>Whether a change puts back an accused part that is not put back to see it fail.</summary>
    private static bool IsTriedAgain(Change change, BenchDiagnosis diagnosis) =>
        PutIn(change) is { } id
        && diagnosis.Job.Now.Parts.Find(id) is { Origin: Origin.Customer } unit
        && Safety.IsNotTriedAgain(unit)
        && diagnosis[id].Probability >= BenchDiagnosis.Accused;

    /// <summary>Starts in a row with nothing changed, after which the next step changes something.</summary>
    private const int MostRepeats = 3;

    /// <summary>
    /// Whether another start of the same tells something: the last one passed, so that what shows only now and then may
    /// still be there, or the same machine has both failed and passed. A plain failure repeated tells a technician nothing.
    /// </summary>
    private static bool IsIntermittent(BenchJob job)
    {
        if (job.Trials.Length == 0)
            return false;
        var last = job.Trials[^1];
        var same = job.Trials.Reverse().TakeWhile(t => t.Situation.IsSameAs(last.Situation)).ToArray();
        // A failure out of the blue is looked at once more.
        var surprise = same is [{ Failed: true }, { Passed: true }, { Passed: true }, ..];
        if (same.Length > MostRepeats && !surprise)
            return false;
        return last.Passed || job.Trials.Any(t => t.Passed && t.Situation.Now.Equals(last.Situation.Now));
    }

    /// <summary>The candidate for changes made together.</summary>
    /// <param name="changes">What is done.</param>
    /// <param name="from">The machine before.</param>
    /// <param name="after">The machine after.</param>
    /// <param name="atlas">Times, tools and cautions.</param>
    public static Candidate Of(IReadOnlyList<Change> changes, Situation from, Situation after, Atlas atlas)
    {
        var practices = changes.Select(c => atlas.PracticeFor(c, after.Parts)).ToArray();
        return new Candidate([.. changes], Cost(changes, from, atlas.Work), changes.Any(ch => ch.HandsIn(from.Parts)), after)
        {
            Tools = practices
                .Select(p => p.Tools)
                .Where(t => t != "none")
                .Distinct()
                .DefaultIfEmpty("none")
                .Aggregate((a, b) => $"{a}, {b}"),
            Caution = string.Join(' ', practices.Select(p => p.Caution).Where(c => c.Length > 0).Distinct()),
        };
    }

    /// <summary>Looks, tests and readings that have not been made on the machine as it stands.</summary>
    private static IEnumerable<Candidate> ChecksOf(BenchDiagnosis diagnosis)
    {
        var (job, atlas) = (diagnosis.Job, diagnosis.Atlas);
        var lastTrial = job.Trials.Length == 0 ? 0 : job.Trials[^1].Position;
        foreach (var unit in job.Now.Parts.All.Where(u => job.Now.Now.Has(u.Id)))
        {
            foreach (
                var check in atlas.Checks.Where(c =>
                    c.On == unit.Kind
                    && (c.OnlyWith is null || job.Intake.Contexts.Contains(c.OnlyWith))
                    && (c.Needs == BootStage.NoStandby || (lastTrial > 0 && job.Trials[^1].Seen.Low >= c.Needs))
                )
            )
            {
                // A look shows the same for good; a reading is worth repeating where a change is something to what it shows.
                if (
                    job.Testimonies.Any(t =>
                        t.Entry is FindingEntry f
                        && f.Check == check.Id
                        && f.Unit == unit.Id
                        && (!check.Powered || ShowsAsBefore(check, unit, t.Situation))
                    )
                )
                    continue;
                yield return Looking(check, unit, job.Now, atlas);
            }
        }

        bool ShowsAsBefore(Check check, Unit unit, Situation before) =>
            before.IsSameAs(job.Now)
            || diagnosis.Faults.All(f =>
                EvidenceColumn.Sensitivity(f, check, unit.Id, before) == EvidenceColumn.Sensitivity(f, check, unit.Id, job.Now)
            );
    }

    /// <summary>The candidate for a look, test or reading.</summary>
    public static Candidate Looking(Check check, Unit unit, Situation now, Atlas atlas) =>
        new(
            [],
            check.Powered || !now.Now.Has(unit.Id) ? check.Minutes : check.Minutes + atlas.Work.Power,
            PowerGate.HandsIn(check, unit.Id, now),
            now
        )
        {
            Check = check,
            Checked = unit,
            Caution = check.Caution,
        };

    /// <summary>Bench minutes for changes made together, then one start-up.</summary>
    public static Minutes Cost(IEnumerable<Change> changes, Situation situation, WorkTimes work)
    {
        var total = work.Wait;
        var handsIn = false;
        foreach (var change in changes)
        {
            total += change switch
            {
                Change.Fit c => work.Remove[Kind(c.Unit)],
                Change.Remove c => work.Remove[Kind(c.Unit)],
                Change.Bypass c => work.Remove[Kind(c.Unit)],
                Change.Connect c => work.Remove[Kind(c.Unit)],
                Change.Move c => work.Swap[Kind(c.Unit)],
                Change.Swap c => work.Swap[Kind(c.Out)],
                Change.Reseat c => work.Reseat[Kind(c.Unit)],
                Change.StartWith => work.StartAtPins,
                Change.DisplayAt => work.Display,
                Change.ClearCmos => work.ClearCmos,
                Change.Mend c => work.Mend[c.Remedy],
                Change.IntoCase => work.Mend[Remedy.Isolate],
                Change.Choose or Change.Undo => work.Setting,
                Change.Lay => work.Lay,
                _ => throw new ArgumentException($"No time is known for {change.GetType().Name}.", nameof(changes)),
            };
            handsIn |= change.HandsIn(situation.Parts);
        }

        return handsIn ? total + work.Power : total;

        UnitKind Kind(UnitId id) => situation.Parts[id].Kind;
    }

    internal static bool TryAll(Situation from, IReadOnlyList<Change> changes, out Situation after)
    {
        after = from;
        foreach (var change in changes)
        {
            if (!after.TryAfter(change, out after, out _))
                return false;
        }

        return true;
    }

    /// <summary>
    /// After a pass: back to the set-up of the last failure with one part swapped, so that the failure's own trial is
    /// what it is compared with. Two parts that only ever bit together (a slot and the CPU's channel) need this.
    /// </summary>
    private static IEnumerable<(Change[] Changes, Unit? Missing)> FromLastFailure(BenchJob job)
    {
        if (job.Trials.Length == 0 || !job.Trials[^1].Passed)
            return [];
        if (job.Trials.LastOrDefault(t => t.Failed) is not { } failure)
            return [];
        if (Transition.Between(job.Now, failure.Situation.Now) is not { Length: > 0 } back)
            return [];
        return Proposals(job.Now.After(back), job.Intake.Received)
            .Where(p => p.Changes is [Change.Swap or Change.ClearCmos])
            .Select(p => ((Change[])[.. back, .. p.Changes], p.Missing));
    }

    private static IEnumerable<(Change[] Changes, Unit? Missing)> Proposals(Situation now, Configuration received)
    {
        var fitted = now.Now.At.Select(p => (Place: p.Key, Unit: now.Parts[p.Value])).ToArray();
        Unit[] loose = [.. now.Parts.All.Where(u => !now.Now.Has(u.Id))];
        var board = now.Board;

        yield return ([new Change.ClearCmos()], null);
        if (now.Now.Start == StartMethod.CaseSwitch)
            yield return ([new Change.StartWith(StartMethod.HeaderPins)], null);
        else
            yield return ([new Change.StartWith(StartMethod.CaseSwitch)], null);

        foreach (var (place, unit) in fitted)
        {
            foreach (var proposal in ProposalsOf(now, loose, place, unit))
                yield return proposal;
        }

        foreach (var spare in loose.OfType<GraphicsCard>())
        {
            foreach (var slot in board?.CardSlots ?? [])
            {
                var place = Place.Card(slot);
                if (now.Now[place] is not null)
                    continue;
                yield return ([new Change.Fit(spare.Id, place), new Change.DisplayAt(new OutputRef(place, spare.Outputs[0].Name))], null);
                break;
            }
        }

        // Nothing that can make a picture is in it, or at hand: it needs a card.
        if (
            now.Cpu is { HasGraphics: false }
            && !now.Cards.Any()
            && board is { CardSlots: [var first, ..] }
            && !loose.OfType<GraphicsCard>().Any()
        )
        {
            var card = new GraphicsCard(
                WantedId(UnitKind.GraphicsCard, now.Parts),
                "a known-good graphics card",
                Origin.Shelf,
                [new("DP 1", VideoSignal.Digital)],
                false
            );
            yield return (
                [new Change.Fit(card.Id, Place.Card(first)), new Change.DisplayAt(new OutputRef(Place.Card(first), "DP 1"))],
                card
            );
        }

        foreach (var source in now.Now.At.Keys.Where(p => p.Kind is PlaceKind.Board or PlaceKind.Card))
        {
            foreach (var output in now.OutputsAt(source) ?? [])
                yield return ([new Change.DisplayAt(new OutputRef(source, output.Name))], null);
        }

        // Back as received: a part of the customer's whose place is empty.
        foreach (var (place, id) in received.At)
        {
            if (now.Now[place] is not null || now.Now.Has(id))
                continue;
            yield return (WithDisplay(new Change.Fit(id, place), place, now.Parts[id], received), null);
        }

        foreach (var other in OtherStickAlone(now, received))
            yield return (other, null);
        if (Strip(now) is { Length: > 1 } strip)
            yield return (strip, null);
    }

    /// <summary>With one stick in: another alone in the slot that it came in, which tries stick and slot at once.</summary>
    private static IEnumerable<Change[]> OtherStickAlone(Situation now, Configuration received) =>
        now.Sticks is not [var only]
            ? []
            : received
                .At.Where(p => now.Parts[p.Value] is MemoryStick && !now.Now.Has(p.Value) && now.Now[p.Key] is null)
                .Select(p => (Change[])[new Change.Remove(only.Stick.Id), new Change.Fit(p.Value, p.Key)]);

    private static IEnumerable<(Change[] Changes, Unit? Missing)> ProposalsOf(Situation now, Unit[] loose, Place place, Unit unit)
    {
        var board = now.Board;
        foreach (var spare in loose.Where(u => u.Kind == unit.Kind))
            yield return (WithDisplay(new Change.Swap(unit.Id, spare.Id), place, spare), null);
        if (WouldHelp(unit, now.Parts) is { } wanted && loose.All(u => u.Kind != unit.Kind))
            yield return ([new Change.Swap(unit.Id, wanted.Id)], wanted);
        var facts = UnitFacts.Of(unit.Kind);
        if (facts.Absence != Absence.Needed)
            yield return ([Transition.WithoutIt(unit)], null);
        if (facts.Seats && !now.Refitted(unit.Id))
            yield return ([new Change.Reseat(unit.Id)], null);
        foreach (var remedy in Situation.RemediesFor(unit.Kind).Where(r => !now.Mended(unit.Id, r)))
            yield return ([new Change.Mend(remedy, unit.Id)], null);
        if (unit.Kind == UnitKind.MemoryStick && board is not null)
        {
            foreach (var slot in board.Slots)
                yield return ([new Change.Move(unit.Id, Place.Memory(slot.Name))], null);
            foreach (var (_, other) in now.Sticks)
            {
                if (other.Id > unit.Id)
                    yield return ([new Change.Swap(unit.Id, other.Id)], null);
            }
        }

        if (unit.Kind == UnitKind.GraphicsCard && board is not null)
        {
            foreach (var slot in board.CardSlots)
                yield return ([new Change.Move(unit.Id, Place.Card(slot))], null);
        }
    }

    /// <summary>Down to board, CPU with cooler, one stick, supply and start at the pins; the card stays if nothing else gives a
    /// picture.</summary>
    private static Change[] Strip(Situation now)
    {
        var changes = new List<Change>();
        foreach (var (_, stick) in now.Sticks.Skip(1))
            changes.Add(new Change.Remove(stick.Id));
        if (now.Cpu is { HasGraphics: true } && now.Board is { Outputs.Length: > 0 })
            changes.AddRange(now.Cards.Select(c => new Change.Remove(c.Card.Id)));
        foreach (var (place, id) in now.Now.At)
        {
            var unit = now.Parts[id];
            if (
                UnitFacts.Of(unit.Kind).Absence != Absence.Needed
                && unit is not (MemoryStick or GraphicsCard)
                && unit.Kind != UnitKind.CoinCell
            )
                changes.Add(Transition.WithoutIt(unit));
        }

        if (now.Now.Start == StartMethod.CaseSwitch)
            changes.Add(new Change.StartWith(StartMethod.HeaderPins));
        return [.. changes];
    }

    internal static Change[] WithDisplay(Change change, Place place, Unit unit, Configuration? received = null)
    {
        if (unit is not GraphicsCard card || change is Change.Swap)
            return [change];
        var output = received?.Display is { } shown && shown.Source == place ? shown : new OutputRef(place, card.Outputs[0].Name);
        return [change, new Change.DisplayAt(output)];
    }

    /// <summary>A spare of a fitted unit's kind that the shop does not have, for "this would tell, if you had one"; null for what
    /// is seldom kept.</summary>
    private static Unit? WouldHelp(Unit unit, Parts parts) =>
        unit.Kind
            is UnitKind.Cpu
                or UnitKind.MemoryStick
                or UnitKind.Motherboard
                or UnitKind.GraphicsCard
                or UnitKind.Supply
                or UnitKind.VideoCable
                or UnitKind.Monitor
            ? Replacement(unit, parts)
            : null;

    /// <summary>How the ids of parts begin that the shop did not have.</summary>
    internal const string Wanted = "wanted-";

    private static UnitId WantedId(UnitKind kind, Parts parts)
    {
        var id = new UnitId($"{Wanted}{Dashed.Of(kind)}");
        for (var n = 2; parts.Has(id); n++)
            id = new UnitId($"{Wanted}{Dashed.Of(kind)}-{n}");
        return id;
    }

    /// <summary>A known-good part that fits in a unit's place, with an id that is not taken.</summary>
    internal static Unit Replacement(Unit unit, Parts parts)
    {
        var id = WantedId(unit.Kind, parts);
        var name = $"a known-good {unit.Kind.Words()}";
        return unit switch
        {
            Cpu c => new Cpu(id, name, Origin.Shelf, c.HasGraphics) { Socket = c.Socket },
            MemoryStick m => new MemoryStick(id, name, Origin.Shelf) { MemoryType = m.MemoryType, SizeGb = m.SizeGb },
            Motherboard b => new Motherboard(id, name, Origin.Shelf, b.Slots, b.Outputs, b.CardSlots)
            {
                Socket = b.Socket,
                MemoryType = b.MemoryType,
                TellsPost = b.TellsPost,
                Form = b.Form,
            },
            GraphicsCard g => new GraphicsCard(id, name, Origin.Shelf, g.Outputs, g.NeedsAuxPower),
            _ => Unit.Plain(id, unit.Kind, name, Origin.Shelf),
        };
    }
}
