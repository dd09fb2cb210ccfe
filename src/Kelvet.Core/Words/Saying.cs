using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Core.Words;

/// <summary>
/// Parts and acts named by where they are, for what is read from an arm's length: "the stick in B2", "Take out the stick in
/// B2." Names of makers come after, and only where they are asked for.
/// </summary>
public static class Saying
{
    /// <summary>Changes that are still said one by one; more are counted.</summary>
    private const int MostSaid = 2;

    /// <summary>The kind in one or two words: "stick", "supply".</summary>
    public static string Brief(this UnitKind kind) => UnitFacts.Of(kind) is { Brief.Length: > 0 } facts ? facts.Brief : kind.Words();

    /// <summary>A place by what is printed beside it: "B2", "slot 1", "port 3"; empty where there is only one such place.</summary>
    public static string Brief(this Place place) => PlaceFacts.Of(place.Kind).Brief.Replace("#", place.Part, StringComparison.Ordinal);

    /// <summary>A unit by where it is: "the stick in B2", "the board"; one that is not fitted by whose it is: "the spare supply".
    /// Two that would be called the same get what tells them apart.</summary>
    public static string The(this Situation now, Unit unit)
    {
        var plain = Plain(now, unit);
        return now.Parts.All.Any(u => u.Id != unit.Id && u.Kind == unit.Kind && Plain(now, u) == plain)
            ? $"{plain} ({now.Parts.NameOf(unit)})"
            : plain;
    }

    /// <summary>As <see cref="The"/>, but one of several that are not fitted is only counted among them: "a spare stick".</summary>
    public static string A(this Situation now, Unit unit)
    {
        if (now.Now.Has(unit.Id))
            return now.The(unit);
        var plain = Plain(now, unit);
        var alike = now.Parts.All.Any(u => u.Id != unit.Id && u.Kind == unit.Kind && Plain(now, u) == plain);
        return !alike ? plain
            : unit.Origin == Origin.Customer ? $"another {unit.Kind.Brief()}"
            : $"a {plain[4..]}";
    }

    /// <summary>The names of what comes in with changes, which their imperative leaves out.</summary>
    public static string NamesOfIncoming(this IEnumerable<Change> changes, Situation now) =>
        string.Join(", ", Incoming(changes, now).Select(now.Parts.NameOf));

    /// <summary>What is not fitted and comes in with changes.</summary>
    public static IEnumerable<Unit> Incoming(IEnumerable<Change> changes, Situation now) =>
        changes
            .Select(c =>
                c switch
                {
                    Change.Fit f => f.Unit,
                    Change.Swap s => s.In,
                    _ => (UnitId?)null,
                }
            )
            .OfType<UnitId>()
            .Where(id => !now.Now.Has(id))
            .Select(id => now.Parts.Find(id))
            .OfType<Unit>()
            .Distinct();

    private static string Plain(Situation now, Unit unit)
    {
        var kind = unit.Kind.Brief();
        if (now.Now.PlaceOf(unit.Id) is not { } place)
            return unit.Origin switch
            {
                Origin.Shelf => $"the spare {kind}",
                Origin.New => $"the new {kind}",
                _ when now.Received.PlaceOf(unit.Id) is { } was && was.Brief().Length > 0 => $"the {kind} from {was.Brief()}",
                _ => $"the customer's {kind}",
            };
        var alone = place.Kind != PlaceKind.Memory && now.Now.At.Keys.Count(p => p.Kind == place.Kind) == 1;
        return alone || place.Brief().Length == 0 ? $"the {kind}" : $"the {kind} {On(place)}";
    }

    /// <summary>A unit's name; two of one name are told apart by serial, or by the id that the log has.</summary>
    public static string NameOf(this Parts parts, Unit unit)
    {
        var same = parts.All.Where(u => u.Id != unit.Id && u.Name == unit.Name).ToArray();
        if (same.Length == 0)
            return unit.Name;
        return unit.Serial.Length > 0 && same.All(u => u.Serial != unit.Serial)
            ? $"{unit.Name}, serial {unit.Serial}"
            : $"{unit.Name}, {unit.Id}";
    }

    /// <summary>A step as one imperative, by places.</summary>
    /// <param name="step">The step.</param>
    /// <param name="now">The machine that it is taken on.</param>
    public static string Imperative(this Candidate step, Situation now)
    {
        if (step.Check is { } check)
            return Sentence(Check(check, step.Checked!, now));
        now = step.Seen(now);
        return (step.Kind, step.Changes.Length) switch
        {
            (StartKind.Cold, 0) => "Let it get cold, then start it.",
            (StartKind.Restart, 0) => "Restart it while it runs.",
            (StartKind.Wake, 0) => "Let it sleep, then wake it.",
            (StartKind.Load, 0) => "Let it run under load.",
            (_, 0) => "Start it again as it is.",
            (StartKind.Cold or StartKind.Load or StartKind.Wake, _) =>
                $"{Imperative(step.Changes, now)} {Sentence(AdviceWords.ThenStart(step.Kind.Value))}",
            _ => Imperative(step.Changes, now),
        };
    }

    /// <summary>The machine with the part that a step wants and that is not here yet, to be named.</summary>
    public static Situation Seen(this Candidate step, Situation now) =>
        step.Missing is { } missing && !now.Parts.Has(missing.Id) ? now.Imagining(missing) : now;

    /// <summary>Changes as one imperative; many are summed up.</summary>
    public static string Imperative(this ImmutableArray<Change> changes, Situation now)
    {
        if (changes.Length > MostSaid && RestoredWith(changes, now) is { IsEmpty: false } restoring && restoring.Length < changes.Length)
        {
            var settings = restoring.Any(c => c is Change.ClearCmos);
            var cleaned = restoring.Length > (settings ? 1 : 0);
            ImmutableArray<Change> rest = [.. changes.Except(restoring)];
            return $"{Imperative(rest, now)[..^1]}{(cleaned ? ", cleaned" : "")}{(settings ? ", with CMOS cleared" : "")}.";
        }

        var said = new List<string>();
        var at = now;
        foreach (var change in changes)
        {
            said.Add(Do(change, at));
            at = at.TryAfter(change, out var next, out _) ? next : at;
        }

        if (changes is [Change.Fit { Place.Kind: PlaceKind.Card }, Change.DisplayAt])
            return Sentence($"{said[0]}, the monitor on it");
        if (changes is [var first, Change.Swap second] && first.Subject == second.Out)
            said[1] = $"swap it for {Other(now.After(first), second)}";
        if (said.Count <= MostSaid)
            return Sentence(string.Join(", then ", said));
        return changes.All(c => c is Change.Remove or Change.Bypass or Change.StartWith)
            ? $"Strip it: {changes.Length} things out or off."
            : Sentence($"{said[0]}, {said[1]} and {said.Count - MostSaid} more");
    }

    /// <summary>Of changes that put a part of the customer's back, those that restore it on the way: its contacts cleaned, the settings
    /// cleared; none where none goes back.</summary>
    public static ImmutableArray<Change> RestoredWith(this ImmutableArray<Change> changes, Situation now)
    {
        var back = Incoming(changes, now).Where(u => u.Origin == Origin.Customer).Select(u => u.Id).ToHashSet();
        return back.Count == 0
            ? []
            : [.. changes.Where(c => c is Change.ClearCmos || (c is Change.Mend { Remedy: Remedy.Clean } m && back.Contains(m.Unit)))];
    }

    /// <summary>A change in the fewest words that still tell it, for a column of the climb.</summary>
    public static string InBrief(this Change change, Situation now)
    {
        string At(UnitId id) =>
            now.Now.PlaceOf(id) is { } place && place.Brief() is { Length: > 0 } brief && place.Kind != PlaceKind.Card
                ? brief
                : now.Parts[id].Kind.Brief();
        return change switch
        {
            Change.Fit c => c.Place.Kind == PlaceKind.Memory ? $"{c.Place.Part} filled" : $"{now.Parts[c.Unit].Kind.Brief()} in",
            Change.Remove c => $"{At(c.Unit)} out",
            Change.Bypass c => $"no {At(c.Unit)}",
            Change.Connect c => $"{At(c.Unit)} in",
            Change.Move c => $"{At(c.Unit)} to {c.Place.Brief()}",
            Change.Swap c => now.Now.Has(c.Out) && now.Now.Has(c.In) ? $"{At(c.Out)} and {At(c.In)} swapped" : $"{At(c.Out)} swapped",
            Change.Reseat c => $"{At(c.Unit)} reseated",
            Change.StartWith c => c.Method == StartMethod.HeaderPins ? "at the pins" : "by the switch",
            Change.DisplayAt c => $"on {c.Output.Output}",
            Change.ClearCmos => "CMOS cleared",
            Change.IntoCase => "into the case",
            Change.Mend { Remedy: Remedy.Isolate } => "out of the case",
            Change.Mend { Remedy: Remedy.Set } c => $"{At(c.Unit)} set right",
            Change.Mend c => $"{At(c.Unit)} {Past(c.Remedy)}",
            Change.Choose c => c.Option.Words(),
            Change.Undo c => $"undone: {c.Option.Words()}",
            Change.Lay c => c.Posture.Words(),
            _ => change.Words(now.Parts),
        };
    }

    /// <summary>A change as an entry of the menu of a part, which need not say which part: "Take out", "To B2".</summary>
    public static string ForMenuOf(this Change change, Unit unit, Situation now) =>
        change switch
        {
            Change.Fit c => c.Place.Brief().Length > 0 ? $"Into {c.Place.Brief()}" : "Fit it",
            Change.Remove => "Take out",
            Change.Move c => $"To {c.Place.Brief()}",
            Change.Swap c when c.Out == unit.Id => $"Swap for {now.A(now.Parts[c.In])}",
            Change.Swap c => $"In place of {now.A(now.Parts[c.Out])}",
            Change.Reseat => "Reseat",
            Change.Connect => "Connect",
            Change.Bypass => "Bypass",
            Change.StartWith or Change.DisplayAt or Change.ClearCmos => Sentence(Do(change, now))[..^1],
            Change.Mend { Remedy: Remedy.Isolate } => "Out of the case",
            Change.Mend { Remedy: Remedy.Straighten } => "Straighten its pins",
            Change.Mend { Remedy: Remedy.NewCell } => "New coin cell",
            Change.Mend { Remedy: Remedy.Set } => "Set right",
            Change.Mend c => c.Remedy.ToString(),
            _ => Sentence(Do(change, now))[..^1],
        };

    /// <summary>The changes before a start, in brief.</summary>
    public static string InBrief(this ImmutableArray<Change> changes, Situation before)
    {
        var said = new List<string>();
        foreach (var change in changes)
        {
            said.Add(change.InBrief(before));
            before = before.TryAfter(change, out var next, out _) ? next : before;
        }

        return said.Count <= MostSaid ? string.Join(", ", said) : $"{said[0]} and {said.Count - 1} more";
    }

    /// <summary>A change by places, where that is said in other words than with names.</summary>
    private static string Do(Change change, Situation now)
    {
        string Kind(UnitId id) => now.Parts[id].Kind.Brief();
        return change switch
        {
            Change.Fit c when now.Received.PlaceOf(c.Unit) == c.Place => $"put the {Kind(c.Unit)} back{To(c.Place)}",
            Change.Fit c => $"{(c.Place.Brief().Length > 0 ? "put" : "fit")} {now.A(now.Parts[c.Unit])}{To(c.Place)}",
            Change.Move c => $"move {now.A(now.Parts[c.Unit])} to {c.Place.Brief()}",
            Change.Swap c when now.Now.PlaceOf(c.Out) is { } from && now.Now.PlaceOf(c.In) is { } to =>
                $"swap {from.Brief()} and {to.Brief()}",
            Change.Swap c when now.Now.PlaceOf(c.Out) is { } from && now.Received.PlaceOf(c.In) == from => from.Brief().Length > 0
                ? $"put {from.Brief()}'s own {Kind(c.In)} back"
                : $"put the customer's {Kind(c.In)} back",
            Change.Swap c => $"swap {now.A(now.Parts[c.Out])} for {Other(now, c)}",
            Change.StartWith c => $"start it {(c.Method == StartMethod.HeaderPins ? "at the header pins" : "with the case switch")}",
            Change.DisplayAt c =>
                $"put the monitor on the {(c.Output.Source.Kind == PlaceKind.Board ? "board" : "card")}'s {c.Output.Output}",
            Change.Lay c => c.Posture == Posture.Upright ? "stand it up" : "lay it on its side",
            _ => change.Words(id => now.A(now.Parts[id])),
        };
    }

    private static string Other(Situation now, Change.Swap swap)
    {
        var incoming = now.Parts[swap.In];
        var alike = now.Parts.All.Count(u => u.Kind == incoming.Kind && u.Origin == incoming.Origin && !now.Now.Has(u.Id));
        return (incoming.Origin, alike) switch
        {
            (Origin.Shelf, 1) => "the spare",
            (Origin.New, 1) => "the new one",
            _ => now.A(incoming),
        };
    }

    private static string Check(Faults.Check check, Unit unit, Situation now)
    {
        var alike = now.Now.At.Values.Count(id => now.Parts[id].Kind == unit.Kind);
        var place = now.Now.PlaceOf(unit.Id)?.Brief() ?? "";
        // What lies beside the machine is named: nobody is to look at the one that is in.
        if (UnitFacts.Of(unit.Kind) is { Outside: false } && !now.Now.Has(unit.Id) && alike > 0)
            return $"On {now.The(unit)}: {Lower(check.Say)}";
        return alike > 1 && place.Length > 0 ? $"{place}: {Lower(check.Say)}" : check.Say;
    }

    private static string Lower(string text) => char.IsUpper(text[1]) ? text : char.ToLowerInvariant(text[0]) + text[1..];

    private static string To(Place place) =>
        place.Kind switch
        {
            _ when place.Brief().Length == 0 => "",
            PlaceKind.Memory or PlaceKind.Card or PlaceKind.Other => $" in {place.Brief()}",
            _ => $" on {place.Brief()}",
        };

    private static string On(Place place) => To(place)[1..];

    private static string Past(Remedy remedy) =>
        remedy switch
        {
            Remedy.Clean => "cleaned",
            Remedy.Straighten => "straightened",
            Remedy.Repaste => "repasted",
            Remedy.Flash => "flashed",
            Remedy.Rewire => "rewired",
            Remedy.NewCell => "with a new coin cell",
            _ => remedy.ToString().ToLowerInvariant(),
        };

    /// <summary>With a capital and a full stop.</summary>
    internal static string Sentence(string text) => $"{char.ToUpperInvariant(text[0])}{text[1..]}{(text[^1] is '.' ? "" : ".")}";
}
