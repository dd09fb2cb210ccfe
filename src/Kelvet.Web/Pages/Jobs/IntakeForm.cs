using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What the intake form asks, with defaults for an ordinary office machine, and how it becomes an intake.</summary>
public sealed class IntakeForm
{
    /// <summary>Layouts of memory slots as boards have them, by their key in the form.</summary>
    public static IReadOnlyDictionary<string, (string Words, MemorySlot[] Slots)> SlotLayouts { get; } =
        new Dictionary<string, (string, MemorySlot[])>
        {
            ["4"] = ("four: A1 A2 B1 B2", [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")]),
            ["2"] = ("two: A1 B1", [new("A1", "A"), new("B1", "B")]),
            ["1"] = ("one: A1", [new("A1", "A")]),
            ["8"] = (
                "eight: A1 to D2",
                [.. "ABCD".SelectMany(c => new[] { new MemorySlot($"{c}1", $"{c}"), new MemorySlot($"{c}2", $"{c}") })]
            ),
        };

    /// <summary>Outputs that a board may have.</summary>
    public static IReadOnlyList<VideoOutput> BoardOutputs { get; } =
    [new("HDMI", VideoSignal.Digital), new("DP", VideoSignal.Digital), new("DVI", VideoSignal.Digital), new("VGA", VideoSignal.Analogue)];

    public string? Title { get; set; }

    public string? Customer { get; set; }

    public string? Symptom { get; set; }

    public string? Reported { get; set; }

    public string[] Contexts { get; set; } = [];

    public string? Supply { get; set; }

    public bool Extension { get; set; }

    public string? Board { get; set; }

    public string? BoardSerial { get; set; }

    public string? Slots { get; set; } = "4";

    public string[] Outputs { get; set; } = [];

    public bool TellsPost { get; set; }

    /// <summary>Outline of the board; null where it is not known.</summary>
    public BoardForm? Outline { get; set; }

    /// <summary>Tables that the board's code display, beeper and lights go by; empty where it is not known.</summary>
    public string[] Tables { get; set; } = [];

    public int CardSlots { get; set; }

    public string? MemoryType { get; set; }

    public string? Socket { get; set; }

    public string? Cpu { get; set; }

    public bool CpuGraphics { get; set; }

    public string? Stick { get; set; }

    public int StickGb { get; set; }

    /// <summary>Slots that hold a stick.</summary>
    public string[] Filled { get; set; } = [];

    public string? Card { get; set; }

    public bool CardAux { get; set; }

    public int Drives { get; set; }

    public string? Monitor { get; set; }

    /// <summary>Smaller parts that are worth listing, by their kind: each is then looked for by itself.</summary>
    public string[] Small { get; set; } = [];

    /// <summary>The kinds that can be listed so.</summary>
    public static IReadOnlyList<UnitKind> SmallKinds { get; } = [.. UnitFacts.All.Where(f => f.Small).Select(f => f.Kind)];

    /// <summary>How often it fails, as the customer says: of so many starts; both empty for always.</summary>
    public int? FailedTimes { get; set; }

    /// <summary>See <see cref="FailedTimes"/>.</summary>
    public int? OfTimes { get; set; }

    /// <summary>Ids of shelf parts to have beside the bench.</summary>
    public string[] Spares { get; set; } = [];

    /// <summary>An ordinary office machine. What is sent starts from nothing instead: what was unticked or emptied is not there.</summary>
    public static IntakeForm Usual() =>
        new()
        {
            Supply = "Power supply",
            Board = "Motherboard",
            Outputs = ["HDMI", "VGA"],
            CardSlots = 2,
            MemoryType = "DDR4",
            Cpu = "CPU",
            CpuGraphics = true,
            Stick = "Memory stick",
            StickGb = 8,
            Filled = ["A2", "B2"],
            CardAux = true,
            Drives = 1,
            Monitor = "Bench monitor",
        };

    /// <summary>What is wrong with the form, by field.</summary>
    [Microsoft.AspNetCore.Mvc.ModelBinding.BindNever]
    public SortedDictionary<string, string> Wrong { get; } = new(StringComparer.Ordinal);

    /// <summary>The job that the form describes; null when something is <see cref="Wrong"/>.</summary>
    public BenchJob? Open(IEnumerable<Unit> shelf)
    {
        // A box that is sent empty is no box.
        (Contexts, Outputs, Tables) = ([.. Contexts.OfType<string>()], [.. Outputs.OfType<string>()], [.. Tables.OfType<string>()]);
        (Filled, Spares, Small) = ([.. Filled.OfType<string>()], [.. Spares.OfType<string>()], [.. Small.OfType<string>()]);
        Check(nameof(Title), Title, 120, needed: true);
        Check(nameof(Customer), Customer, 120);
        Check(nameof(Symptom), Symptom, Entry.LongestNote);
        foreach (var (field, value) in new[] { (nameof(Supply), Supply), (nameof(Board), Board), (nameof(Cpu), Cpu) })
            Check(field, value, 60, needed: true);
        Check(nameof(Stick), Stick, 60, needed: Filled.Length > 0);
        foreach (var (field, value) in new[] { (nameof(Card), Card), (nameof(Monitor), Monitor), (nameof(BoardSerial), BoardSerial) })
            Check(field, value, 60);
        foreach (var (field, value) in new[] { (nameof(MemoryType), MemoryType), (nameof(Socket), Socket) })
            Check(field, value, 20);
        if (!SlotLayouts.TryGetValue(Slots ?? "", out var layout))
            Wrong[nameof(Slots)] = "Choose one of the layouts.";
        else if (Filled.FirstOrDefault(f => layout.Slots.All(s => s.Name != f)) is { } missing)
            Wrong[nameof(Filled)] = $"This board has no slot {missing}; untick it or choose another layout.";
        if (Contexts.FirstOrDefault(c => Atlas.Standard.Contexts.All(a => a.Id != c)) is { } context)
            Wrong[nameof(Contexts)] = $"\"{context}\" is not among what can be known; choose from the list.";
        if (Outputs.FirstOrDefault(o => BoardOutputs.All(b => b.Name != o)) is { } output)
            Wrong[nameof(Outputs)] = $"\"{output}\" is not among the outputs; choose from the list.";
        if (StickGb is < 0 or > 1024)
            Wrong[nameof(StickGb)] = "A stick holds 0 (not known) to 1024 GB.";
        if (CardSlots is < 0 or > 8)
            Wrong[nameof(CardSlots)] = "A board has 0 to 8 expansion slots.";
        if (Drives is < 0 or > 8)
            Wrong[nameof(Drives)] = "Say 0 to 8 drives.";
        if (!string.IsNullOrWhiteSpace(Card) && CardSlots == 0)
            Wrong[nameof(CardSlots)] = "A card is named, but the board has no slot for it.";
        if (Small.FirstOrDefault(k => SmallKinds.All(s => Dashed.Of(s) != k)) is { } kind)
            Wrong[nameof(Small)] = $"\"{kind}\" is not among the parts; choose from the list.";
        if ((FailedTimes is null) != (OfTimes is null) || (FailedTimes is { } k2 && !new Times(k2, OfTimes!.Value).Makes))
            Wrong[nameof(FailedTimes)] = "Say how often it failed of how many starts, such as 2 of 5, or leave both empty.";
        StageRange? reported = null;
        if (!string.IsNullOrEmpty(Reported))
        {
            if (ObservedFormat.TryRead(Reported, out var range))
                reported = range;
            else
                Wrong[nameof(Reported)] = "Choose one of the stages.";
        }

        if (Wrong.Count > 0)
            return null;
        try
        {
            return BenchJob.Open(Intake(layout.Slots, reported, shelf));
        }
        catch (Exception e) when (e is ArgumentException or ChangeRefusedException)
        {
            Wrong[nameof(Title)] = e is ArgumentException a ? UnitForm.Plainly(a) : e.Message;
            return null;
        }
    }

    private void Check(string field, string? value, int most, bool needed = false)
    {
        if (needed && string.IsNullOrWhiteSpace(value))
            Wrong[field] = "This is needed.";
        else if (value?.Length > most)
            Wrong[field] = $"At most {most} characters, not {value.Length}.";
    }

    private Intake Intake(MemorySlot[] slots, StageRange? reported, IEnumerable<Unit> shelf)
    {
        // Long: it lists a machine part by part.
        var units = new List<Unit>();
        var received = Configuration.Empty;
        Plain("supply", UnitKind.Supply, Supply!, Place.Supply);
        if (Extension)
            Plain("extension", UnitKind.PowerExtension, "Power extension", Place.Extension);
        Plain("switch", UnitKind.CaseSwitch, "Case switch", Place.Switch);
        Put(
            new Motherboard(
                new UnitId("board"),
                Board!,
                Origin.Customer,
                slots,
                BoardOutputs.Where(o => Outputs.Contains(o.Name)),
                Enumerable.Range(1, CardSlots).Select(n => $"{n}")
            )
            {
                Serial = BoardSerial?.Trim() ?? "",
                Socket = Socket?.Trim() ?? "",
                MemoryType = MemoryType?.Trim() ?? "",
                TellsPost = TellsPost,
                Form = Outline,
                Tables = [.. Tables.Where(UnitId.IsValid).Distinct().Take(6)],
            },
            Place.Board
        );
        Put(new Cpu(new UnitId("cpu"), Cpu!, Origin.Customer, CpuGraphics) { Socket = Socket?.Trim() ?? "" }, Place.Cpu);
        Plain("cooler", UnitKind.Cooler, "Cooler", Place.Cooler);
        foreach (var (slot, i) in slots.Where(s => Filled.Contains(s.Name)).Select((s, i) => (s, i + 1)))
            Put(
                new MemoryStick(new UnitId($"stick-{i}"), $"{Stick} {i}", Origin.Customer)
                {
                    MemoryType = MemoryType?.Trim() ?? "",
                    SizeGb = StickGb,
                },
                Place.Memory(slot.Name)
            );
        if (!string.IsNullOrWhiteSpace(Card))
            Put(
                new GraphicsCard(
                    new UnitId("card"),
                    Card,
                    Origin.Customer,
                    [new("DP 1", VideoSignal.Digital), new("HDMI", VideoSignal.Digital)],
                    CardAux
                ),
                Place.Card("1")
            );
        for (var n = 1; n <= Drives; n++)
            Plain($"drive-{n}", UnitKind.Storage, Drives == 1 ? "Drive" : $"Drive {n}", Place.Storage($"{n}"));
        Plain("keyboard", UnitKind.Peripheral, "Keyboard", Place.Peripheral("1"));
        Plain("cable", UnitKind.VideoCable, "Video cable", Place.Cable);
        if (!string.IsNullOrWhiteSpace(Monitor))
            Plain("monitor", UnitKind.Monitor, Monitor, Place.Monitor);
        foreach (var kind in SmallKinds.Where(k => Small.Contains(Dashed.Of(k))))
        {
            var words = kind.Words();
            var place = UnitFacts.Of(kind).Place;
            Plain(Dashed.Of(kind), kind, char.ToUpperInvariant(words[0]) + words[1..], Place.Of(place, Place.HasParts(place) ? "1" : ""));
        }

        units.AddRange(shelf.Where(u => Spares.Contains(u.Id.Value)));
        OutputRef? display =
            !string.IsNullOrWhiteSpace(Card) ? new OutputRef(Place.Card("1"), "DP 1")
            : BoardOutputs.FirstOrDefault(o => Outputs.Contains(o.Name)) is { } first ? new OutputRef(Place.Board, first.Name)
            : null;
        return new Intake
        {
            Title = Title!.Trim(),
            Customer = Customer?.Trim() ?? "",
            Symptom = Symptom?.Trim() ?? "",
            Reported = reported,
            ReportedTimes = reported is not null && FailedTimes is { } failed && OfTimes is { } of ? new Times(failed, of) : null,
            Contexts = [.. Contexts.Distinct()],
            Parts = Parts.Of(units),
            Received = received.WithStart(StartMethod.CaseSwitch).WithDisplay(display),
        };

        void Put(Unit unit, Place place)
        {
            units.Add(unit);
            received = received.WithUnit(place, unit.Id);
        }

        void Plain(string id, UnitKind kind, string name, Place place) =>
            Put(Unit.Plain(new UnitId(id), kind, name.Trim(), Origin.Customer), place);
    }
}
