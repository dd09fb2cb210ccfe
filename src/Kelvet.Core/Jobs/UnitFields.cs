using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using static Kelvet.Core.Jobs.ValueForms;

namespace Kelvet.Core.Jobs;

/// <summary>Every field of a unit in the job format.</summary>
internal static class UnitFields
{
    private static readonly Field<MemorySlot, string> SlotName = Needed("name", SlotForm, (MemorySlot s) => s.Name);
    private static readonly Field<MemorySlot, string> SlotChannel = Needed("channel", SlotForm, (MemorySlot s) => s.Channel);
    private static readonly ObjectForm<MemorySlot> Slot = new(
        [SlotName, SlotChannel],
        v => new MemorySlot(v.Of(SlotName), v.Of(SlotChannel))
    );

    private static readonly Field<VideoOutput, string> OutputName = Needed("name", SlotForm, (VideoOutput o) => o.Name);
    private static readonly Field<VideoOutput, VideoSignal> OutputSignal = May(
        "signal",
        Forms.Choice<VideoSignal>(),
        (VideoOutput o) => o.Signal,
        VideoSignal.Digital
    ) with
    {
        Always = true,
    };
    private static readonly ObjectForm<VideoOutput> Output = new(
        [OutputName, OutputSignal],
        v => new VideoOutput(v.Of(OutputName), v.Of(OutputSignal))
    );
    private static readonly Form<ImmutableArray<VideoOutput>> Outputs = Forms.List(
        Output.AsForm("an output"),
        8,
        "list of `name`, `signal` (`digital`, `analogue`)"
    );

    // Units.
    private static readonly Field<Unit, UnitId> Id = Needed("id", UnitForm, (Unit u) => u.Id);
    private static readonly Field<Unit, string> Name = Needed("name", Forms.Text(80, 1), (Unit u) => u.Name);
    private static readonly Field<Unit, Origin> From = May(
        "origin",
        Forms.Choice<Origin>(),
        (Unit u) => u.Origin,
        Origin.Customer,
        "`customer` when left out"
    ) with
    {
        Always = true,
    };
    private static readonly Field<Unit, string> Serial = May("serial", Forms.Text(60), (Unit u) => u.Serial, "");
    private static readonly Field<Unit, bool> FittedByOwner = May(
        "fitted-by-owner",
        Forms.Flag,
        (Unit u) => u.FittedByOwner,
        false,
        "the owner put it in recently"
    );

    private static readonly Field<Unit, bool> Away = May("away", Forms.Flag, (Unit u) => u.IsAway, false, "it is told of and not at hand");
    private static readonly Field<Unit, int?> Watts = MayValue(
        "watts",
        Forms.Whole(0, Machines.Unit.MostWatts),
        (Unit u) => u.Watts,
        "what a supply is rated for, a cooler carries off, any other part draws at most, W"
    );
    private static readonly Field<Unit, string> Label = May(
        "label",
        Forms.Text(Supplies.SupplyLabel.Longest),
        (Unit u) => u.Label,
        "",
        "what is printed on a supply: \"+12V 37A, +5V 20A, 12V 444W, total 450W\""
    );
    private static readonly Field<Unit, int?> Plugs = MayValue(
        "plugs",
        Forms.Whole(0, 12),
        (Unit u) => u.Plugs,
        "power plugs for cards that a card needs or a supply has"
    );
    private static readonly Field<Unit, int?> Made = MayValue("made", Forms.Whole(1980, 2100), (Unit u) => u.Made, "year");
    private static readonly Field<Unit, ImmutableArray<string>> Fits = MayList(
        "fits",
        Forms.List(Forms.Text(20, 1), 12, "sockets that a cooler goes on"),
        (Unit u) => u.Fits
    );

    private static readonly Field<Unit, DateOnly?> Bought = MayValue("bought", DateForm, (Unit u) => u.Bought, "when");
    private static readonly Field<Unit, string> Seller = May("seller", Forms.Text(60), (Unit u) => u.Seller, "", "from whom");
    private static readonly Field<Unit, int?> ReturnDays = MayValue(
        "return-days",
        Forms.Whole(0, 730),
        (Unit u) => u.ReturnDays,
        "days from purchase in which the seller takes it back"
    );
    private static readonly Field<Unit, int?> WarrantyMonths = MayValue(
        "warranty-months",
        Forms.Whole(0, 240),
        (Unit u) => u.WarrantyMonths,
        "of its maker, from purchase"
    );

    private static readonly Field<Unit, ImmutableArray<PartFact>> Guessed = MayList(
        "guessed",
        Forms.List(Forms.Choice<PartFact>(), 7, "facts that nobody knows, and that stand only to be drawn and reasoned over"),
        (Unit u) => u.Guessed
    );
    private static readonly Field<Unit, FactSource> KnownFrom = May(
        "known-from",
        Forms.Choice<FactSource>(),
        (Unit u) => u.KnownFrom,
        FactSource.Told,
        "where the rest comes from; `told` when left out"
    );

    private static readonly Field<Motherboard, int?> FanHeaders = MayValue(
        "fan-headers",
        Forms.Whole(0, 20),
        (Motherboard b) => b.FanHeaders,
        "headers for fans"
    );
    private static readonly Field<Motherboard, ImmutableArray<Teller>> Tells = MayList(
        "tells",
        Forms.List(Forms.Choice<Teller>(), 3, "what it tells of its start by: `indicators`, `code-display`, `speaker-header`"),
        (Motherboard b) => b.Tells
    );
    private static readonly Field<Motherboard, ImmutableArray<string>> SlotOrder = MayList(
        "order",
        Forms.List(SlotForm, 16, "memory slots in the order in which the manual fills them"),
        (Motherboard b) => b.Order
    );

    private static readonly Field<Motherboard, ImmutableArray<MemorySlot>> BoardSlots = Needed(
        "slots",
        Forms.List(Slot.AsForm("a slot"), 16, "1 to 16 of `name`, `channel`", 1),
        (Motherboard b) => b.Slots
    );
    private static readonly Field<Motherboard, ImmutableArray<VideoOutput>> BoardOutputs = MayList(
        "outputs",
        Outputs,
        (Motherboard b) => b.Outputs
    ) with
    {
        Always = true,
    };
    private static readonly Field<Motherboard, ImmutableArray<string>> BoardCards = MayList(
        "cards",
        Forms.List(SlotForm, 8, "names of expansion slots"),
        (Motherboard b) => b.CardSlots
    ) with
    {
        Always = true,
    };
    private static readonly Field<Motherboard, string> BoardSocket = May(
        "socket",
        Forms.Text(20),
        (Motherboard b) => b.Socket,
        "",
        "empty fits anything"
    );
    private static readonly Field<Motherboard, string> BoardMemory = May(
        "memory",
        Forms.Text(20),
        (Motherboard b) => b.MemoryType,
        "",
        "type of memory; empty fits anything"
    );
    private static readonly Field<Motherboard, bool> TellsPost = May(
        "tells-post",
        Forms.Flag,
        (Motherboard b) => b.TellsPost,
        false,
        "it has a beeper, indicator lights or a code display"
    ) with
    {
        Always = true,
    };
    private static readonly Field<Motherboard, ImmutableArray<string>> BoardTables = MayList(
        "tables",
        Forms.List(Forms.Id, 6, "ids of up to 6 tables of signals that it goes by"),
        (Motherboard b) => b.Tables
    );
    private static readonly Field<Motherboard, int?> BoardFirmware = MayValue(
        "firmware",
        Forms.Whole(0, 1_000_000),
        (Motherboard b) => b.Firmware,
        "version"
    );
    private static readonly Field<Motherboard, DateOnly?> FirmwareDate = MayValue(
        "firmware-date",
        DateForm,
        (Motherboard b) => b.FirmwareDate,
        "of that version"
    );
    private static readonly Field<Motherboard, string> Revision = May(
        "revision",
        Forms.Text(20),
        (Motherboard b) => b.Revision,
        "",
        "as printed on the board"
    );
    private static readonly Field<Motherboard, SlotLayout?> Layout = MayValue(
        "layout",
        Forms.Choice<SlotLayout>(),
        (Motherboard b) => b.Layout,
        "how two slots hang on a channel: `daisy-chain` or `forked`"
    );
    private static readonly Field<Motherboard, bool> FlashesWithoutCpu = May(
        "flashes-without-cpu",
        Forms.Flag,
        (Motherboard b) => b.FlashesWithoutCpu,
        false
    );

    private static readonly Field<Motherboard, BoardForm?> BoardOutline = MayValue(
        "form",
        Forms.Choice<BoardForm>(),
        (Motherboard b) => b.Form,
        "outline of the board"
    );

    private static readonly Field<Cpu, bool> Graphics = May(
        "graphics",
        Forms.Flag,
        (Cpu c) => c.HasGraphics,
        false,
        "it drives the board's outputs"
    ) with
    {
        Always = true,
    };
    private static readonly Field<Cpu, string> CpuSocket = May("socket", Forms.Text(20), (Cpu c) => c.Socket, "", "empty fits anything");
    private static readonly Field<Cpu, int?> NeedsFirmware = MayValue(
        "needs-firmware",
        Forms.Whole(0, 1_000_000),
        (Cpu c) => c.NeedsFirmware,
        "least version of the board's firmware that knows it"
    );

    private static readonly Field<MemoryStick, string> StickMemory = May(
        "memory",
        Forms.Text(20),
        (MemoryStick m) => m.MemoryType,
        "",
        "type; empty fits anything"
    );
    private static readonly Field<MemoryStick, string> PartNumber = May(
        "part-number",
        Forms.Text(40),
        (MemoryStick m) => m.PartNumber,
        "",
        "the maker's"
    );
    private static readonly Field<MemoryStick, int?> Ranks = MayValue("ranks", Forms.Whole(1, 8), (MemoryStick m) => m.Ranks);
    private static readonly Field<MemoryStick, int?> PlainSpeed = MayValue(
        "speed",
        Forms.Whole(MemoryStick.LeastSpeed, MemoryStick.MostSpeed),
        (MemoryStick m) => m.Speed,
        "MT/s without a profile"
    );
    private static readonly Field<MemoryStick, int?> ProfileSpeed = MayValue(
        "profile",
        Forms.Whole(MemoryStick.LeastSpeed, MemoryStick.MostSpeed),
        (MemoryStick m) => m.Profile,
        "MT/s of its profile"
    );
    private static readonly Field<MemoryStick, string> Timings = May(
        "timings",
        Forms.Text(30),
        (MemoryStick m) => m.Timings,
        "",
        "such as `16-18-18-38`"
    );
    private static readonly Field<MemoryStick, string> Kit = May(
        "kit",
        Forms.Text(20),
        (MemoryStick m) => m.Kit,
        "",
        "the same for all sticks that were bought together"
    );
    private static readonly Field<MemoryStick, int> StickGb = May("gb", Forms.Whole(0, 1024), (MemoryStick m) => m.SizeGb, 0, "capacity");

    private static readonly Field<GraphicsCard, ImmutableArray<VideoOutput>> CardOutputs = Needed(
        "outputs",
        Outputs,
        (GraphicsCard g) => g.Outputs
    );
    private static readonly Field<GraphicsCard, bool> AuxPower = May(
        "aux-power",
        Forms.Flag,
        (GraphicsCard g) => g.NeedsAuxPower,
        false,
        "it takes a power plug of its own"
    ) with
    {
        Always = true,
    };

    private static ImmutableArray<IField<T>> OfUnit<T>(params IField<T>[] own)
        where T : Unit =>
        [
            Id,
            Name,
            From,
            Serial,
            FittedByOwner,
            Away,
            Watts,
            Label,
            Plugs,
            Made,
            Fits,
            Bought,
            Seller,
            ReturnDays,
            WarrantyMonths,
            Guessed,
            KnownFrom,
            .. own,
        ];

    private static T Common<T>(T unit, FieldValues v)
        where T : Unit =>
        unit with
        {
            Serial = v.Of(Serial),
            FittedByOwner = v.Of(FittedByOwner),
            IsAway = v.Of(Away),
            Watts = v.Of(Watts),
            Label = v.Of(Label),
            Plugs = v.Of(Plugs),
            Made = v.Of(Made),
            Fits = v.Of(Fits),
            Bought = v.Of(Bought),
            Seller = v.Of(Seller),
            ReturnDays = v.Of(ReturnDays),
            WarrantyMonths = v.Of(WarrantyMonths),
            Guessed = v.Of(Guessed),
            KnownFrom = v.Of(KnownFrom),
        };

    private static Sort<Unit> Plain(UnitKind kind) =>
        Sorts.Of<Unit, PlainUnit>(
            Dashed.Of(kind),
            "kind",
            new ObjectForm<PlainUnit>(
                OfUnit<PlainUnit>(),
                v => Common(Machines.Unit.Plain(v.Of(Id), kind, v.Of(Name), v.Of(From)), v),
                "kind"
            ),
            "",
            u => u.Kind == kind
        );

    private static Sort<Unit> Described<T>(UnitKind kind, ImmutableArray<IField<T>> fields, Func<FieldValues, T> make)
        where T : Unit => Sorts.Of<Unit, T>(Dashed.Of(kind), "kind", new ObjectForm<T>(fields, v => Common(make(v), v), "kind"), "");

    /// <summary>Units.</summary>
    public static readonly UnionForm<Unit> Unit = new(
        "kind",
        [
            .. Enum.GetValues<UnitKind>()
                .Select(kind =>
                    kind switch
                    {
                        UnitKind.Motherboard => Described(
                            kind,
                            OfUnit<Motherboard>(
                                BoardSlots,
                                BoardOutputs,
                                BoardCards,
                                BoardSocket,
                                BoardMemory,
                                TellsPost,
                                BoardTables,
                                BoardFirmware,
                                FlashesWithoutCpu,
                                BoardOutline,
                                FanHeaders,
                                Tells,
                                SlotOrder,
                                FirmwareDate,
                                Revision,
                                Layout
                            ),
                            v => new Motherboard(v.Of(Id), v.Of(Name), v.Of(From), v.Of(BoardSlots), v.Of(BoardOutputs), v.Of(BoardCards))
                            {
                                Socket = v.Of(BoardSocket),
                                MemoryType = v.Of(BoardMemory),
                                TellsPost = v.Of(TellsPost),
                                Tables = v.Of(BoardTables),
                                Firmware = v.Of(BoardFirmware),
                                FlashesWithoutCpu = v.Of(FlashesWithoutCpu),
                                Form = v.Of(BoardOutline),
                                FanHeaders = v.Of(FanHeaders),
                                Tells = v.Of(Tells),
                                Order = v.Of(SlotOrder),
                                FirmwareDate = v.Of(FirmwareDate),
                                Revision = v.Of(Revision),
                                Layout = v.Of(Layout),
                            }
                        ),
                        UnitKind.Cpu => Described(
                            kind,
                            OfUnit<Cpu>(Graphics, CpuSocket, NeedsFirmware),
                            v => new Cpu(v.Of(Id), v.Of(Name), v.Of(From), v.Of(Graphics))
                            {
                                Socket = v.Of(CpuSocket),
                                NeedsFirmware = v.Of(NeedsFirmware),
                            }
                        ),
                        UnitKind.MemoryStick => Described(
                            kind,
                            OfUnit<MemoryStick>(StickMemory, StickGb, PartNumber, Ranks, PlainSpeed, ProfileSpeed, Timings, Kit),
                            v => new MemoryStick(v.Of(Id), v.Of(Name), v.Of(From))
                            {
                                MemoryType = v.Of(StickMemory),
                                SizeGb = v.Of(StickGb),
                                PartNumber = v.Of(PartNumber),
                                Ranks = v.Of(Ranks),
                                Speed = v.Of(PlainSpeed),
                                Profile = v.Of(ProfileSpeed),
                                Timings = v.Of(Timings),
                                Kit = v.Of(Kit),
                            }
                        ),
                        UnitKind.GraphicsCard => Described(
                            kind,
                            OfUnit<GraphicsCard>(CardOutputs, AuxPower),
                            v => new GraphicsCard(v.Of(Id), v.Of(Name), v.Of(From), v.Of(CardOutputs), v.Of(AuxPower))
                        ),
                        _ => Plain(kind),
                    }
                ),
        ]
    );
}
