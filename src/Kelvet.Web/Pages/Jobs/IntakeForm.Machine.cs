using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Web.Pages.Jobs;

/// <content>How the form becomes parts, an intake and claims.</content>
public sealed partial class IntakeForm
{
    /// <summary>Fills in what is kept of a machine.</summary>
    public void Take(Parts parts, Configuration fitted)
    {
        Base = JobFormat.Write(
            new Intake
            {
                Title = "-",
                Parts = parts,
                Received = fitted,
            }
        );
        Parts =
        [
            .. fitted
                .At.OrderBy(at => at.Key)
                .Select(at => parts[at.Value])
                .Select(u => new PartForm
                {
                    Id = u.Id.Value,
                    Name = u.Name,
                    Serial = u.Serial,
                }),
        ];
        WasOn = fitted.Display?.ToString();
        Owner = [.. parts.All.Where(u => u.FittedByOwner).Select(u => Dashed.Of(u.Kind)).Concat(Owner).Distinct()];
    }

    /// <summary>Says what is at the place of a kind: in its field, or as a part that is added to those that are known.</summary>
    /// <returns>Whether the form asks for such a part.</returns>
    public bool Name(UnitKind kind, string name)
    {
        if (!string.IsNullOrEmpty(Base))
        {
            if (!AddKinds.Contains(kind))
                return false;
            (AddKind, AddName) = (kind, name);
            return true;
        }

        switch (kind)
        {
            case UnitKind.Motherboard:
                Board = name;
                break;
            case UnitKind.Cpu:
                Cpu = name;
                break;
            case UnitKind.Cooler:
                Cooler = name;
                break;
            case UnitKind.MemoryStick:
                Stick = name;
                break;
            case UnitKind.Supply:
                Supply = name;
                break;
            case UnitKind.GraphicsCard:
                Card = name;
                break;
            case UnitKind.Monitor:
                Monitor = name;
                break;
            default:
                if (!SmallKinds.Contains(kind))
                    return false;
                Small = [.. Small.Append(Dashed.Of(kind)).Distinct()];
                break;
        }

        return true;
    }

    /// <summary>Forgets the machine: its parts are told by the fields again, which stand as usual.</summary>
    public void TellByFields()
    {
        var usual = Usual();
        (MachineId, Base, Parts, WasOn) = (null, "", [], "");
        (MachineName, MachineSerial, MachineMark) = ("", "", "");
        (Supply, Board, Cpu, Cooler, Stick, Monitor) = (usual.Supply, usual.Board, usual.Cpu, usual.Cooler, usual.Stick, usual.Monitor);
        (Outputs, CardSlots, MemoryType, CpuGraphics) = (usual.Outputs, usual.CardSlots, usual.MemoryType, usual.CpuGraphics);
        (StickGb, Filled, CardAux, Drives, Slots) = (usual.StickGb, usual.Filled, usual.CardAux, usual.Drives, usual.Slots);
    }

    /// <summary>Fills in an intake that was written down before, for a correction of it.</summary>
    public static IntakeForm Of(Intake intake)
    {
        var form = new IntakeForm
        {
            Title = intake.Title,
            Symptom = intake.Symptom,
            Reported = intake.Reported is { } r ? ObservedFormat.Write(r) : "",
            FailedTimes = intake.ReportedTimes?.Failed,
            OfTimes = intake.ReportedTimes?.Of,
            Then = intake.Complaint.Then,
            Spoilt = intake.Complaint.Picture,
            When = intake.Complaint.When,
            Minutes = intake.Complaint.Minutes,
            Since = intake.Complaint.Since,
            Contexts = [.. intake.Contexts],
        };
        form.Take(intake.Parts, intake.Received);
        return form;
    }

    /// <summary>The machine that is kept, as it is by the form.</summary>
    private (List<Unit> Units, Configuration Received) Kept()
    {
        var kept = JobFormat.ReadIntake(Base!);
        var edits = Parts.Where(p => UnitId.IsValid(p.Id)).ToDictionary(p => new UnitId(p.Id!));
        var received = kept.Received;
        var units = new List<Unit>();
        foreach (var unit in kept.Parts.All)
        {
            if (edits.GetValueOrDefault(unit.Id) is not { } edit)
            {
                units.Add(unit);
                continue;
            }

            if (edit.Gone && received.PlaceOf(unit.Id) is { } left)
            {
                received = received.WithUnit(left, null);
                continue;
            }

            var name = edit.Name?.Trim() ?? unit.Name;
            units.Add(
                unit with
                {
                    Name = name,
                    Serial = edit.Serial?.Trim() ?? "",
                    // A name that somebody wrote is known, and so is the part.
                    Guessed =
                        name == unit.Name ? unit.Guessed : [.. unit.Guessed.Where(g => g is not (PartFact.Name or PartFact.Presence))],
                }
            );
        }

        if (AddKind is { } kind)
            received = Added(units, received, kind);
        // What the tools of a running system do not tell of is there all the same.
        foreach (var (id, other, place, name) in Ordinary)
        {
            if (received[place] is not null || units.Any(u => u.Id.Value == id) || Parts.Any(p => p.Id == id && p.Gone))
                continue;
            var plain = Unit.Plain(new UnitId(id), other, name, other == UnitKind.Monitor ? Origin.Shelf : Origin.Customer);
            units.Add(other == UnitKind.Monitor ? plain : OrdinaryMachine.Unnamed(plain));
            received = received.WithUnit(place, new UnitId(id));
        }

        return (units, received.WithDisplay(OutputOf(received.Display, units, received)));
    }

    private static readonly (string Id, UnitKind Kind, Place Place, string Name)[] Ordinary =
    [
        ("supply", UnitKind.Supply, Place.Supply, "Power supply"),
        ("switch", UnitKind.CaseSwitch, Place.Switch, "Case switch"),
        ("cooler", UnitKind.Cooler, Place.Cooler, "Cooler"),
        ("cable", UnitKind.VideoCable, Place.Cable, "Video cable"),
        ("monitor", UnitKind.Monitor, Place.Monitor, "Bench monitor"),
    ];

    private Configuration Added(List<Unit> units, Configuration received, UnitKind kind)
    {
        var board = units.OfType<Motherboard>().FirstOrDefault(b => received.Has(b.Id));
        var sort = UnitFacts.Of(kind).Place;
        Place[] places = Place.HasParts(sort) switch
        {
            false => [Place.Of(sort)],
            _ when sort == PlaceKind.Memory => [.. board?.Slots.Select(s => Place.Memory(s.Name)) ?? []],
            _ when sort == PlaceKind.Card => [.. board?.CardSlots.Select(Place.Card) ?? []],
            _ => [.. Enumerable.Range(1, 12).Select(n => Place.Of(sort, $"{n}"))],
        };
        var wanted = AddPlace?.Trim() ?? "";
        var place = places.Where(p => wanted.Length == 0 ? received[p] is null : p.Part == wanted).Cast<Place?>().FirstOrDefault();
        if (place is not { } free || received[free] is not null)
            throw new ChangeRefusedException(
                wanted.Length > 0
                    ? $"There is no free place {wanted} for it. Take out what is there, or leave the slot empty."
                    : $"There is no free place for {kind.Words()}."
            );
        var id = Enumerable.Range(1, 100).Select(n => new UnitId($"{Dashed.Of(kind)}-{n}")).First(i => units.All(u => u.Id != i));
        units.Add(Made(id, kind, AddName!));
        return received.WithUnit(free, id);
    }

    /// <summary>A part by what the catalogue says of its name, else by the name alone; under its kind's name where it has none.</summary>
    private Unit Made(UnitId id, UnitKind kind, string? name)
    {
        if (Catalogue.GetValueOrDefault((kind, (name ?? "").Trim().ToUpperInvariant())) is { } known)
            return Again(known, id) with { KnownFrom = FactSource.Catalogue };
        var named = string.IsNullOrWhiteSpace(name) ? OrdinaryMachine.NameOf(kind) : name.Trim();
        var guessed = ImmutableArray.CreateBuilder<PartFact>();
        if (string.IsNullOrWhiteSpace(name))
            guessed.Add(PartFact.Name);
        if (kind == UnitKind.Cpu && CpuGraphics is null)
            guessed.Add(PartFact.Graphics);
        if (kind == UnitKind.GraphicsCard)
            guessed.Add(PartFact.Outputs);
        if (kind == UnitKind.GraphicsCard && CardAux is null)
            guessed.Add(PartFact.AuxPower);
        Unit made = kind switch
        {
            UnitKind.MemoryStick => new MemoryStick(id, named, Origin.Customer),
            UnitKind.Cpu => new Cpu(id, named, Origin.Customer, CpuGraphics ?? OrdinaryMachine.Graphics),
            UnitKind.GraphicsCard => new GraphicsCard(
                id,
                named,
                Origin.Customer,
                OrdinaryMachine.CardOutputs,
                CardAux ?? OrdinaryMachine.AuxPower
            ),
            _ => Unit.Plain(id, kind, named, Origin.Customer),
        };
        return made with { Guessed = guessed.ToImmutable() };
    }

    private T? Catalogued<T>(UnitKind kind, string? name)
        where T : Unit => Catalogue.GetValueOrDefault((kind, (name ?? "").Trim().ToUpperInvariant())) as T;

    /// <summary>A part of the catalogue under another id.</summary>
    private static Unit Again(Unit unit, UnitId id) =>
        JobFormat.ReadUnit(JobFormat.Write(unit).Replace($"\"{unit.Id}\"", $"\"{id}\"", StringComparison.Ordinal));

    private ImmutableArray<MemorySlot> SlotsOf(MemorySlot[] layout) =>
        Catalogued<Motherboard>(UnitKind.Motherboard, Board)?.Slots ?? [.. layout];

    /// <summary>The machine that the fields tell of.</summary>
    private (List<Unit> Units, Configuration Received) Told(MemorySlot[] layout)
    {
        // Long: it lists a machine part by part.
        var units = new List<Unit>();
        var received = Configuration.Empty;
        Put(
            Made(new UnitId("supply"), UnitKind.Supply, Supply) is var supply
                ? supply with
                {
                    Watts = SupplyWatts ?? supply.Watts,
                    Made = SupplyMade ?? supply.Made,
                }
                : null!,
            Place.Supply
        );
        if (Extension)
            Plain("extension", UnitKind.PowerExtension, "Power extension", Place.Extension);
        Plain("switch", UnitKind.CaseSwitch, "Case switch", Place.Switch);
        var board = BoardOf(layout);
        Put(board, Place.Board);
        var cpu = (Cpu)Made(new UnitId("cpu"), UnitKind.Cpu, Cpu);
        Put(cpu with { Socket = cpu.Socket.Length > 0 ? cpu.Socket : board.Socket }, Place.Cpu);
        Put(Made(new UnitId("cooler"), UnitKind.Cooler, Cooler), Place.Cooler);
        string[] filled = Filled is [NotKnown] ? [.. OrdinaryMachine.Filled(board.Slots)] : Filled;
        foreach (var (slot, i) in board.Slots.Where(s => filled.Contains(s.Name)).Select((s, i) => (s, i + 1)))
        {
            var stick = (MemoryStick)Made(new UnitId($"stick-{i}"), UnitKind.MemoryStick, Stick);
            Put(
                stick with
                {
                    Name = $"{stick.Name} {i}",
                    MemoryType = stick.MemoryType.Length > 0 ? stick.MemoryType : board.MemoryType,
                    SizeGb = stick.SizeGb > 0 ? stick.SizeGb : StickGb ?? 0,
                    Guessed = Filled is [NotKnown] ? [.. stick.Guessed, PartFact.Presence] : stick.Guessed,
                },
                Place.Memory(slot.Name)
            );
        }

        if (!string.IsNullOrWhiteSpace(Card))
            Put(Made(new UnitId("card"), UnitKind.GraphicsCard, Card), Place.Card(board.CardSlots.FirstOrDefault() ?? "1"));
        for (var n = 1; n <= (Drives ?? OrdinaryMachine.Drives); n++)
        {
            var drive = Unit.Plain(new UnitId($"drive-{n}"), UnitKind.Storage, Drives > 1 ? $"Drive {n}" : "Drive", Origin.Customer);
            Put(
                OrdinaryMachine.Unnamed(drive) is var unnamed && Drives is null
                    ? unnamed with
                    {
                        Guessed = [.. unnamed.Guessed, PartFact.Presence],
                    }
                    : unnamed,
                Place.Storage($"{n}")
            );
        }

        Plain("keyboard", UnitKind.Peripheral, "Keyboard", Place.Peripheral("1"));
        Plain("cable", UnitKind.VideoCable, "Video cable", Place.Cable);
        if (!string.IsNullOrWhiteSpace(Monitor))
            Put(Made(new UnitId("monitor"), UnitKind.Monitor, Monitor), Place.Monitor);
        if (Theirs)
            Plain("lead", UnitKind.MainsLead, "Mains lead", Place.Lead);
        foreach (var kind in SmallKinds.Where(k => Small.Contains(Dashed.Of(k))))
        {
            var words = kind.Words();
            var place = UnitFacts.Of(kind).Place;
            Plain(Dashed.Of(kind), kind, char.ToUpperInvariant(words[0]) + words[1..], Place.Of(place, Place.HasParts(place) ? "1" : ""));
        }

        return (units, received.WithStart(StartMethod.CaseSwitch).WithDisplay(OutputOf(null, units, received)));

        void Put(Unit unit, Place place)
        {
            units.Add(unit);
            received = received.WithUnit(place, unit.Id);
        }

        void Plain(string id, UnitKind kind, string name, Place place) =>
            Put(Unit.Plain(new UnitId(id), kind, name.Trim(), Origin.Customer), place);
    }

    private Motherboard BoardOf(MemorySlot[] layout)
    {
        var id = new UnitId("board");
        var serial = BoardSerial?.Trim() ?? "";
        if (Catalogued<Motherboard>(UnitKind.Motherboard, Board) is { } known)
            return (Motherboard)Again(known, id) with { Serial = serial, KnownFrom = FactSource.Catalogue };
        var named = !string.IsNullOrWhiteSpace(Board);
        var guessed = new (bool Is, PartFact Fact)[]
        {
            (!named, PartFact.Name),
            (string.IsNullOrEmpty(Slots), PartFact.Slots),
            (CardSlots is null, PartFact.CardSlots),
            (Outputs is [NotKnown], PartFact.Outputs),
        };
        return new Motherboard(
            id,
            named ? Board! : OrdinaryMachine.NameOf(UnitKind.Motherboard),
            Origin.Customer,
            layout,
            Outputs is [NotKnown] ? OrdinaryMachine.Outputs : BoardOutputs.Where(o => Outputs.Contains(o.Name)),
            Enumerable.Range(1, CardSlots ?? OrdinaryMachine.CardSlots).Select(n => $"{n}")
        )
        {
            Guessed = [.. guessed.Where(g => g.Is).Select(g => g.Fact)],
            Serial = serial,
            Socket = Socket?.Trim() ?? "",
            MemoryType = MemoryType?.Trim() ?? "",
            TellsPost = TellsPost,
            Form = Outline,
            Tables = [.. Tables.Where(UnitId.IsValid).Distinct().Take(6)],
        };
    }

    /// <summary>Where the monitor hung: as told, as it was kept, else on the card, else on the board's first output.</summary>
    private OutputRef? OutputOf(OutputRef? kept, List<Unit> units, Configuration received)
    {
        var machine = Situation.AtIntake(Core.Machines.Parts.Of(units), received);
        if (!string.IsNullOrEmpty(WasOn))
        {
            return
                MachineFormat.TryRead(WasOn, out OutputRef told) && machine.OutputsAt(told.Source)?.Any(o => o.Name == told.Output) == true
                ? told
                : throw new ChangeRefusedException($"The machine has no output \"{WasOn}\". Choose another, or \"not known\".");
        }

        if (kept is { } was && machine.OutputsAt(was.Source)?.Any(o => o.Name == was.Output) == true)
            return was;
        if (machine.Cards.FirstOrDefault() is { Card: { } card } first)
            return new OutputRef(first.Place, card.Outputs[0].Name);
        return machine.Board?.Outputs is [var output, ..] ? new OutputRef(Place.Board, output.Name) : null;
    }

    private Intake IntakeOf(List<Unit> units, Configuration received, StageRange? reported, IEnumerable<Unit> shelf)
    {
        var owners = Owner.ToHashSet();
        var parts = units
            .Select(u => u with { FittedByOwner = owners.Contains(Dashed.Of(u.Kind)) && received.Has(u.Id) })
            .Concat(shelf.Where(u => Spares.Contains(u.Id.Value) && units.All(o => o.Id != u.Id)));
        return new Intake
        {
            Title = Title!.Trim(),
            Customer = Customer?.Trim() ?? "",
            Symptom = Symptom?.Trim() ?? "",
            Reported = reported,
            ReportedTimes = reported is not null && FailedTimes is { } failed && OfTimes is { } of ? new Times(failed, of) : null,
            Complaint = new Complaint
            {
                Then = Then,
                Picture = Spoilt,
                When = When,
                Minutes = Minutes,
                Since = Since?.Trim() ?? "",
            },
            Contexts = [.. Contexts.Distinct()],
            Parts = Core.Machines.Parts.Of(parts),
            Received = received,
        };
    }
}
