using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What the intake form asks, with defaults for an ordinary office machine, and how it becomes an intake.</summary>
public sealed partial class IntakeForm
{
    /// <summary>Layouts of memory slots as boards have them, by their key in the form.</summary>
    public static IReadOnlyDictionary<string, (string Words, MemorySlot[] Slots)> SlotLayouts { get; } =
        new Dictionary<string, (string, MemorySlot[])>
        {
            ["4"] = ("four: A1 A2 B1 B2", [.. OrdinaryMachine.Slots]),
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

    /// <summary>How far it gets, as customers tell it.</summary>
    public static IReadOnlyList<(string Value, string Words, string Title)> Stages { get; } =
    [
        ("0", "nothing at all", "Nothing happens"),
        ("1", "a light, but it does not start", "Does not start"),
        ("2", "starts and cuts out", "Starts and cuts out"),
        ("3", "restarts again and again", "Restarts again and again"),
        ("4-5", "fans run, no picture", "Runs, no picture"),
        ("6", "picture, system does not load", "System does not load"),
        ("7", "system loads, not stable", "Not stable"),
    ];

    // Who.

    public int? CustomerId { get; set; }

    public string? Customer { get; set; }

    public string? Phone { get; set; }

    public string? Email { get; set; }

    public string? Reach { get; set; }

    // What they tell.

    public string? Title { get; set; }

    public string? Symptom { get; set; }

    public string? Reported { get; set; }

    /// <summary>How often it fails, as the customer says: of so many starts; both empty for always.</summary>
    public int? FailedTimes { get; set; }

    /// <summary>See <see cref="FailedTimes"/>.</summary>
    public int? OfTimes { get; set; }

    /// <summary>What it does when it ends.</summary>
    public Ending? Then { get; set; }

    /// <summary>Since when its picture is spoilt.</summary>
    public Artefacts? Spoilt { get; set; }

    /// <summary>The kind of start or use in which it happens.</summary>
    public StartKind? When { get; set; }

    public double? Minutes { get; set; }

    public string? Since { get; set; }

    public string[] Contexts { get; set; } = [];

    /// <summary>What the owner says was tried.</summary>
    public List<TriedForm> Tried { get; set; } = [];

    /// <summary>Kinds of part that the owner has fitted recently.</summary>
    public string[] Owner { get; set; } = [];

    // The machine: one that is kept, or what is told of it.

    /// <summary>The machine as it was kept; null where it was not.</summary>
    public int? MachineId { get; set; }

    public string? MachineName { get; set; }

    public string? MachineSerial { get; set; }

    public string? MachineMark { get; set; }

    /// <summary>Parts that were kept, read from tools or taken in before, as an intake of the job format; empty where they are told
    /// below.</summary>
    public string? Base { get; set; }

    /// <summary>What is changed of those parts.</summary>
    public List<PartForm> Parts { get; set; } = [];

    /// <summary>A part that is added to them: its kind; empty for none.</summary>
    public UnitKind? AddKind { get; set; }

    public string? AddName { get; set; }

    /// <summary>Slot or port of the part that is added; empty for the first that is free.</summary>
    public string? AddPlace { get; set; }

    public string? Supply { get; set; }

    public int? SupplyWatts { get; set; }

    public int? SupplyMade { get; set; }

    public bool Extension { get; set; }

    public string? Board { get; set; }

    public string? BoardSerial { get; set; }

    public string? Slots { get; set; } = "";

    /// <summary>The board's outputs; <see cref="NotKnown"/> alone where nobody knows.</summary>
    public string[] Outputs { get; set; } = [];

    /// <summary>A box of its own for what nobody knows: ticking another unticks it.</summary>
    public const string NotKnown = "?";

    public bool TellsPost { get; set; }

    /// <summary>Outline of the board; null where it is not known.</summary>
    public BoardForm? Outline { get; set; }

    /// <summary>Tables that the board's code display, beeper and lights go by; empty where it is not known.</summary>
    public string[] Tables { get; set; } = [];

    /// <summary>Null where it is not known.</summary>
    public int? CardSlots { get; set; }

    public string? MemoryType { get; set; }

    public string? Socket { get; set; }

    public string? Cpu { get; set; }

    /// <summary>Null where it is not known.</summary>
    public bool? CpuGraphics { get; set; }

    public string? Cooler { get; set; }

    public string? Stick { get; set; }

    /// <summary>Null where it is not known.</summary>
    public int? StickGb { get; set; }

    /// <summary>Slots that hold a stick; <see cref="NotKnown"/> alone where nobody knows.</summary>
    public string[] Filled { get; set; } = [];

    public string? Card { get; set; }

    /// <summary>Null where it is not known.</summary>
    public bool? CardAux { get; set; }

    /// <summary>Null where it is not known.</summary>
    public int? Drives { get; set; }

    public string? Monitor { get; set; }

    /// <summary>Whether monitor, cable and lead are the customer's own and came in.</summary>
    public bool Theirs { get; set; }

    /// <summary>On which output the monitor was, such as "board/HDMI"; empty where it is not known.</summary>
    public string? WasOn { get; set; }

    /// <summary>Smaller parts that are worth listing, by their kind: each is then looked for by itself.</summary>
    public string[] Small { get; set; } = [];

    /// <summary>The kinds that can be listed so.</summary>
    public static IReadOnlyList<UnitKind> SmallKinds { get; } = [.. UnitFacts.All.Where(f => f.Small).Select(f => f.Kind)];

    /// <summary>Ids of shelf parts to have beside the bench.</summary>
    public string[] Spares { get; set; } = [];

    // What was agreed and left.

    public bool? MayOpen { get; set; }

    public bool? MayTouchData { get; set; }

    public bool? MayStartSystem { get; set; }

    public decimal? Limit { get; set; }

    public bool NoPassword { get; set; }

    public string? Password { get; set; }

    public string? Accessories { get; set; }

    public DateTime? Promised { get; set; }

    /// <summary>What the owner may have tried.</summary>
    public enum Attempt
    {
        OtherSupply,
        OtherMemory,
        OtherCard,
        OtherMonitor,
        OtherCable,
        OtherOutlet,
        ClearedSettings,
        ReseatedMemory,
        ReseatedCard,
        OneStick,
    }

    /// <summary>One thing that was tried.</summary>
    public sealed class TriedForm
    {
        public Attempt? What { get; set; }

        /// <summary>How far it got then; empty for the same as before.</summary>
        public string? Seen { get; set; }

        public Sureness Sure { get; set; } = Sureness.Fairly;
    }

    /// <summary>What is changed of a part that was kept.</summary>
    public sealed class PartForm
    {
        public string? Id { get; set; }

        public string? Name { get; set; }

        public string? Serial { get; set; }

        /// <summary>Whether it is not in the machine any more.</summary>
        public bool Gone { get; set; }
    }

    /// <summary>Kinds that an owner fits.</summary>
    public static IReadOnlyList<UnitKind> OwnerKinds { get; } =
    [UnitKind.MemoryStick, UnitKind.GraphicsCard, UnitKind.Cpu, UnitKind.Cooler, UnitKind.Supply, UnitKind.Motherboard, UnitKind.Storage];

    /// <summary>Kinds of part that can be added to a machine that is known.</summary>
    public static IReadOnlyList<UnitKind> AddKinds { get; } =
    [
        UnitKind.MemoryStick,
        UnitKind.GraphicsCard,
        UnitKind.Storage,
        UnitKind.Supply,
        UnitKind.Cooler,
        UnitKind.Cpu,
        UnitKind.PowerExtension,
        UnitKind.Peripheral,
        UnitKind.Monitor,
        .. SmallKinds,
    ];

    /// <summary>What was tried, in words.</summary>
    public static string Words(Attempt attempt) =>
        attempt switch
        {
            Attempt.OtherSupply => "another supply",
            Attempt.OtherMemory => "other memory",
            Attempt.OtherCard => "another graphics card",
            Attempt.OtherMonitor => "another monitor",
            Attempt.OtherCable => "another video cable",
            Attempt.OtherOutlet => "another outlet",
            Attempt.ClearedSettings => "cleared the settings",
            Attempt.ReseatedMemory => "took the memory out and put it back",
            Attempt.ReseatedCard => "took the card out and put it back",
            _ => "one stick alone",
        };

    /// <summary>Nothing is known but the bench's own screen.</summary>
    public static IntakeForm Usual() =>
        new()
        {
            Outputs = [NotKnown],
            Filled = [NotKnown],
            Monitor = "Bench monitor",
        };

    /// <summary>What is wrong with the form, by field.</summary>
    [Microsoft.AspNetCore.Mvc.ModelBinding.BindNever]
    public SortedDictionary<string, string> Wrong { get; } = new(StringComparer.Ordinal);

    /// <summary>The catalogue's parts by kind and name, as far as the form names them.</summary>
    [Microsoft.AspNetCore.Mvc.ModelBinding.BindNever]
    public IReadOnlyDictionary<(UnitKind, string), Unit> Catalogue { get; set; } = ImmutableDictionary<(UnitKind, string), Unit>.Empty;

    /// <summary>Names that the catalogue is asked for.</summary>
    public IEnumerable<(UnitKind Kind, string Name)> Named =>
        new (UnitKind, string?)[]
        {
            (UnitKind.Motherboard, Board),
            (UnitKind.Cpu, Cpu),
            (UnitKind.Cooler, Cooler),
            (UnitKind.MemoryStick, Stick),
            (UnitKind.GraphicsCard, Card),
            (UnitKind.Supply, Supply),
            (UnitKind.Monitor, Monitor),
            (AddKind ?? UnitKind.Outlet, AddName),
        }
            .Where(n => !string.IsNullOrWhiteSpace(n.Item2))
            .Select(n => (n.Item1, n.Item2!.Trim()));

    /// <summary>Which firmware boards need for which CPU.</summary>
    [Microsoft.AspNetCore.Mvc.ModelBinding.BindNever]
    public SupportList Support { get; set; } = SupportList.Empty;

    /// <summary>The job that the form describes, with what the owner says was tried; null when something is <see cref="Wrong"/>.</summary>
    public BenchJob? Open(IEnumerable<Unit> shelf)
    {
        Tidy();
        var layout =
            string.IsNullOrEmpty(Slots) ? [.. OrdinaryMachine.Slots]
            : SlotLayouts.TryGetValue(Slots, out var known) ? known.Slots
            : null;
        CheckTold();
        if (string.IsNullOrEmpty(Base))
            CheckMachine(layout);
        else
            CheckParts();
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
            var (units, received) = string.IsNullOrEmpty(Base) ? Told(layout!) : Kept();
            var intake = IntakeOf([.. Support.AppliedTo(units, received)], received, reported, shelf);
            var (parts, claims) = Claims(intake);
            return BenchJob.Open(intake with { Parts = parts }).With(claims);
        }
        catch (Exception e) when (e is ArgumentException or ChangeRefusedException or DataFileException or EntryRefusedException)
        {
            Wrong[nameof(Title)] = e is ArgumentException a ? UnitForm.Plainly(a) : e.Message;
            return null;
        }
    }
}
