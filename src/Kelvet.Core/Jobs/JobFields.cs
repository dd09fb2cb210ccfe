using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>
/// The one table of the job format: every field of a unit, a step and the intake, with its form. Reader, writer, JSON
/// Schema and the tables in docs/formats.md all come from it.
/// </summary>
internal static class JobFields
{
    private static readonly Form<UnitId> UnitForm = Forms.Id.As(v => new UnitId(v), v => v.Value);
    private static readonly Form<string> SlotForm = new(p => p.Text(20), v => v, () => Forms.Ref("slot"), "a name as printed");

    private static readonly Form<Guid> StepId = new(
        p => Guid.TryParse(p.Text(), out var id) && id != Guid.Empty ? id : throw p.Wrong($"\"{p.Text()}\" is not a step id (a UUID)"),
        v => v.ToString(),
        () => new JsonObject { ["type"] = "string", ["format"] = "uuid" },
        "a UUID"
    );

    private static readonly Form<StageRange> RangeForm = Forms.Written<StageRange>(
        t => ObservedFormat.TryRead(t, out var range) ? (range, "") : (default, "a stage 0 to 8 or a range such as 4-5"),
        v => ObservedFormat.Write(v),
        () => Forms.Ref("range"),
        "a range"
    );

    private static readonly Form<OutputRef> OutputForm = Forms.Written<OutputRef>(
        t => MachineFormat.TryRead(t, out OutputRef output) ? (output, "") : (default, "an output, such as board/HDMI or card.1/DP"),
        v => MachineFormat.Write(v),
        () => Forms.Ref("output"),
        "an output"
    );

    private static readonly Form<ImmutableArray<Change>> ChangesForm = Forms.List(
        Forms.Written<Change>(
            t => MachineFormat.TryRead(t, out var change, out var expected) ? (change, "") : (null, $"a change: expected {expected}"),
            v => MachineFormat.Write(v),
            () => Forms.Ref("change"),
            "a change"
        ),
        100,
        "a list of changes"
    );

    private static readonly Form<DateTimeOffset> TimeForm = new(
        p =>
            DateTimeOffset.TryParse(p.Text(), CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var at)
                ? at.ToUniversalTime()
                : throw p.Wrong($"\"{p.Text()}\" is not a time, such as 2026-03-01T09:30:00Z"),
        v => v.ToUniversalTime().ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture),
        () => new JsonObject { ["type"] = "string", ["format"] = "date-time" },
        "ISO 8601"
    );

    private static readonly Form<StallSignal> StallForm = new(
        ReadStall,
        WriteStall,
        StallSchema,
        "one of `power`, `cpu`, `memory`, `video`, `boot`, `none`, or a map of these to likelihoods from 0 to 1"
    );

    private static StallSignal ReadStall(DataPart part)
    {
        if (part.IsScalar)
            return part.Choice<StallDomain>();
        var likelihoods = part.EnumMap<StallDomain, double>(v => v.Number(0, 1), complete: false);
        return Forms.Guarded(part, () => new StallSignal(Enum.GetValues<StallDomain>().Select(d => likelihoods.GetValueOrDefault(d))));
    }

    private static JsonNode WriteStall(StallSignal stall) =>
        stall.IsPlain
            ? Dashed.Of(stall.Pointed)
            : new JsonObject(
                Enum.GetValues<StallDomain>().Select(d => KeyValuePair.Create(Dashed.Of(d), (JsonNode?)stall.Likelihoods[(int)d]))
            );

    private static JsonObject StallSchema() =>
        new()
        {
            ["oneOf"] = new JsonArray(
                Forms.Choice<StallDomain>().Schema(),
                new JsonObject
                {
                    ["type"] = "object",
                    ["additionalProperties"] = false,
                    ["properties"] = new JsonObject(
                        Dashed.All<StallDomain>().Select(d => KeyValuePair.Create(d, (JsonNode?)Forms.Number(0, 1).Schema()))
                    ),
                }
            ),
        };

    /// <summary>Fields that every object of a type has.</summary>
    private static Field<T, TValue> Needed<T, TValue>(string key, Form<TValue> form, Func<T, TValue> get, string about = "") =>
        new(key, form, get, about, null);

    private static Field<T, TValue> May<T, TValue>(
        string key,
        Form<TValue> form,
        Func<T, TValue> get,
        TValue otherwise,
        string about = ""
    ) => new(key, form, get, about, () => otherwise);

    private static Field<T, ImmutableArray<TValue>> MayList<T, TValue>(
        string key,
        Form<ImmutableArray<TValue>> form,
        Func<T, ImmutableArray<TValue>> get,
        string about = ""
    ) => new(key, form, get, about, () => []);

    private static Field<T, TValue?> MayValue<T, TValue>(string key, Form<TValue> form, Func<T, TValue?> get, string about = "")
        where TValue : struct =>
        new(key, new Form<TValue?>(p => form.Read(p), v => form.Write(v!.Value), form.Schema, form.Words), get, about, () => null);

    // Parts of a board or card.
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
    private static readonly Field<Motherboard, bool> FlashesWithoutCpu = May(
        "flashes-without-cpu",
        Forms.Flag,
        (Motherboard b) => b.FlashesWithoutCpu,
        false
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
        where T : Unit => [Id, Name, From, Serial, FittedByOwner, .. own];

    private static T Common<T>(T unit, FieldValues v)
        where T : Unit => unit with { Serial = v.Of(Serial), FittedByOwner = v.Of(FittedByOwner) };

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
                                FlashesWithoutCpu
                            ),
                            v => new Motherboard(v.Of(Id), v.Of(Name), v.Of(From), v.Of(BoardSlots), v.Of(BoardOutputs), v.Of(BoardCards))
                            {
                                Socket = v.Of(BoardSocket),
                                MemoryType = v.Of(BoardMemory),
                                TellsPost = v.Of(TellsPost),
                                Tables = v.Of(BoardTables),
                                Firmware = v.Of(BoardFirmware),
                                FlashesWithoutCpu = v.Of(FlashesWithoutCpu),
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
                            OfUnit<MemoryStick>(StickMemory, StickGb),
                            v => new MemoryStick(v.Of(Id), v.Of(Name), v.Of(From))
                            {
                                MemoryType = v.Of(StickMemory),
                                SizeGb = v.Of(StickGb),
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

    // What was seen and heard of a start.
    private static readonly Field<Signs, string> Code = May(
        "code",
        Forms.Text(Observed.Signs.LongestCode),
        (Signs s) => s.Code,
        "",
        "the code that stood last, as shown"
    );
    private static readonly Field<Signs, CodeMotion> Motion = May(
        "motion",
        Forms.Choice<CodeMotion>(),
        (Signs s) => s.Motion,
        CodeMotion.Stuck,
        "what the code did; `stuck` when left out"
    );
    private static readonly Field<Signs, string> Codes = May(
        "codes",
        Forms.Text(Observed.Signs.LongestCodes),
        (Signs s) => s.Codes,
        "",
        "those that came before it, with spaces"
    );
    private static readonly Field<Signs, string> Lights = May(
        "lights",
        Forms.Text(Observed.Signs.LongestLights),
        (Signs s) => s.Lights,
        "",
        "as below"
    );
    private static readonly Field<Signs, string> Beeps = May(
        "beeps",
        Forms.Text(Observed.Signs.LongestBeeps),
        (Signs s) => s.Beeps,
        "",
        "as below"
    );
    private static readonly Field<Signs, double> BeepsSure = May(
        "beeps-sure",
        Forms.Number(0.01, 1),
        (Signs s) => s.BeepsSure,
        1,
        "how sure the ear was of the beeps"
    );
    private static readonly Field<Signs, Alarm?> AlarmSeen = MayValue(
        "alarm",
        Forms.Choice<Alarm>(),
        (Signs s) => s.Alarm,
        "what ends the use of the supply"
    );
    private static readonly Field<Signs, FanBehaviour?> Fans = MayValue("fans", Forms.Choice<FanBehaviour>(), (Signs s) => s.Fans);
    private static readonly Field<Signs, FanBehaviour?> CardFans = MayValue(
        "card-fans",
        Forms.Choice<FanBehaviour>(),
        (Signs s) => s.CardFans
    );
    private static readonly Field<Signs, int?> Waited = MayValue(
        "waited",
        Forms.Whole(0, Observed.Signs.LongestWait),
        (Signs s) => s.Waited,
        "seconds"
    );
    private static readonly Field<Signs, double?> Temperature = MayValue(
        "temperature",
        Forms.Number(-20, 150),
        (Signs s) => s.Temperature,
        "of the CPU, °C"
    );

    /// <summary>What was seen and heard of a start.</summary>
    public static readonly ObjectForm<Signs> Signs = new(
        [Code, Motion, Codes, Lights, Beeps, BeepsSure, AlarmSeen, Fans, CardFans, Waited, Temperature],
        v => new Signs
        {
            Code = v.Of(Code),
            Motion = v.Of(Motion),
            Codes = v.Of(Codes),
            Lights = v.Of(Lights),
            Beeps = v.Of(Beeps),
            BeepsSure = v.Of(BeepsSure),
            Alarm = v.Of(AlarmSeen),
            Fans = v.Of(Fans),
            CardFans = v.Of(CardFans),
            Waited = v.Of(Waited),
            Temperature = v.Of(Temperature),
        }
    );

    // Steps.
    private static readonly Field<Entry, Guid> EntryId = Needed(
        "id",
        StepId,
        (Entry e) => e.Id,
        "made from its number when left out of a file"
    );
    private static readonly Field<Entry, string> By = May("by", Forms.Text(60), (Entry e) => e.By, "");
    private static readonly Field<Entry, DateTimeOffset> At = May("at", TimeForm, (Entry e) => e.At, default);
    private static readonly Field<Entry, string> AtlasVersion = May(
        "atlas",
        Forms.Text(40),
        (Entry e) => e.AtlasVersion,
        "",
        "version of the atlas that it was first read with"
    );
    private static readonly Field<Entry, string> Rules = May(
        "rules",
        Forms.Text(40),
        (Entry e) => e.Rules,
        "",
        "id of the shop's rules that held"
    );
    private static readonly Field<Entry, string> Live = May(
        "live",
        Forms.Text(Entry.LongestNote),
        (Entry e) => e.Live,
        "",
        "why it was done past the power gate"
    );
    private static readonly Field<Entry, string> Note = May("note", Forms.Text(Entry.LongestNote), (Entry e) => e.Note, "");

    private static readonly Field<TrialEntry, ImmutableArray<Change>> TrialChanges = MayList(
        "changes",
        ChangesForm,
        (TrialEntry t) => t.Changes,
        "before the start"
    );
    private static readonly Field<TrialEntry, StageRange> TrialSeen = Needed("seen", RangeForm, (TrialEntry t) => t.Seen, "how far it got");
    private static readonly Field<TrialEntry, StallSignal?> TrialStall = new(
        "stall",
        new Form<StallSignal?>(p => StallForm.Read(p), v => StallForm.Write(v!), StallForm.Schema, StallForm.Words),
        t => t.Stall,
        "what lights, code or beeps pointed at",
        () => null
    );
    private static readonly Field<TrialEntry, ButtonTest?> TrialButton = MayValue(
        "button",
        Forms.Choice<ButtonTest>(),
        (TrialEntry t) => t.Button,
        "what one press after 30 to 60 s did"
    );
    private static readonly Field<TrialEntry, Signs> TrialSigns = May(
        "signs",
        Signs.AsForm("what else was seen and heard, below"),
        (TrialEntry t) => t.Signs,
        Observed.Signs.None
    );

    private static readonly Field<FindingEntry, string> FindingCheck = Needed(
        "check",
        Forms.Id,
        (FindingEntry f) => f.Check,
        "of the atlas, such as `look-plugs`"
    );
    private static readonly Field<FindingEntry, UnitId> FindingUnit = Needed("unit", UnitForm, (FindingEntry f) => f.Unit);
    private static readonly Field<FindingEntry, bool> FindingFound = Needed("found", Forms.Flag, (FindingEntry f) => f.Found);

    private static readonly Field<ClaimEntry, ImmutableArray<Change>> ClaimChanges = MayList(
        "changes",
        ChangesForm,
        (ClaimEntry c) => c.Changes,
        "from the machine as received"
    );
    private static readonly Field<ClaimEntry, StageRange> ClaimSeen = Needed("seen", RangeForm, (ClaimEntry c) => c.Seen);

    private static readonly Field<ElsewhereEntry, UnitId> ElsewhereUnit = Needed("unit", UnitForm, (ElsewhereEntry e) => e.Unit);
    private static readonly Field<ElsewhereEntry, bool> ElsewhereWorked = Needed("worked", Forms.Flag, (ElsewhereEntry e) => e.Worked);

    private static readonly Field<WorkEntry, ImmutableArray<Change>> WorkChanges = Needed(
        "changes",
        ChangesForm,
        (WorkEntry w) => w.Changes
    );

    private static readonly Field<ArrivalEntry, Unit> ArrivalUnit = Needed(
        "unit",
        new Form<Unit>(Unit.Read, u => Unit.Write(u), () => Forms.Ref("unit"), "a unit"),
        (ArrivalEntry a) => a.Unit
    );

    private static readonly Field<StrikeEntry, Guid> Struck = Needed(
        "struck",
        StruckForm(),
        (StrikeEntry s) => s.Struck,
        "an earlier step"
    );
    private static readonly Field<StrikeEntry, ImmutableArray<Guid>> Also = MayList(
        "also",
        Forms.List(StruckForm(), BenchJob.MostLines, "further steps that are struck with it"),
        (StrikeEntry s) => s.Also
    );
    private static readonly Field<StrikeEntry, string> StrikeReason = Needed(
        "reason",
        Forms.Text(Entry.LongestNote, 1),
        (StrikeEntry s) => s.Reason
    );
    private static readonly Field<StrikeEntry, Entry?> Replacement = new(
        "replacement",
        StepForm(),
        s => s.Replacement,
        "a step of the same kind that stands in its place",
        () => null
    );

    private static readonly Field<InsertEntry, Guid> Before = Needed(
        "before",
        StruckForm(),
        (InsertEntry i) => i.Before,
        "the step in front of which it stands"
    );
    private static readonly Field<InsertEntry, Entry?> Inserted = Needed(
        "line",
        StepForm(),
        (InsertEntry i) => (Entry?)i.Line,
        "the step that was forgotten"
    );
    private static readonly Field<InsertEntry, string> InsertReason = Needed(
        "reason",
        Forms.Text(Entry.LongestNote, 1),
        (InsertEntry i) => i.Reason
    );

    /// <summary>A step by its id, or in a hand-written file by its number; numbers become ids before the step is read.</summary>
    private static Form<Guid> StruckForm() =>
        new(
            StepId.Read,
            StepId.Write,
            () => new JsonObject { ["oneOf"] = new JsonArray(StepId.Schema(), new JsonObject { ["type"] = "integer", ["minimum"] = 1 }) },
            "its id, or its number"
        );

    private static Form<Entry?> StepForm() => new(p => Step!.Read(p), v => Step!.Write(v!), () => Forms.Ref("step"), "a step");

    private static Sort<Entry> Kind<T>(string kind, string about, ImmutableArray<IField<T>> own, Func<FieldValues, T> make)
        where T : Entry =>
        Sorts.Of<Entry, T>(
            kind,
            "kind",
            new ObjectForm<T>(
                [EntryId, .. own, By, At, AtlasVersion, Rules, Live, Note],
                v =>
                    make(v) with
                    {
                        By = v.Of(By),
                        At = v.Of(At),
                        AtlasVersion = v.Of(AtlasVersion),
                        Rules = v.Of(Rules),
                        Live = v.Of(Live),
                        Note = v.Of(Note),
                    },
                "kind"
            ),
            about
        );

    /// <summary>Steps.</summary>
    public static readonly UnionForm<Entry> Step = new(
        "kind",
        [
            Kind<TrialEntry>(
                "trial",
                "a start and how far it got",
                [TrialChanges, TrialSeen, TrialStall, TrialButton, TrialSigns],
                v => new TrialEntry(v.Of(EntryId), v.Of(TrialChanges), v.Of(TrialSeen), v.Of(TrialStall))
                {
                    Button = v.Of(TrialButton),
                    Signs = v.Of(TrialSigns),
                }
            ),
            Kind<FindingEntry>(
                "finding",
                "a look, a test or a reading, judged against its limit",
                [FindingCheck, FindingUnit, FindingFound],
                v => new FindingEntry(v.Of(EntryId), v.Of(FindingCheck), v.Of(FindingUnit), v.Of(FindingFound))
            ),
            Kind<ClaimEntry>(
                "claim",
                "what the customer tells of a try: evidence at lower trust",
                [ClaimChanges, ClaimSeen],
                v => new ClaimEntry(v.Of(EntryId), v.Of(ClaimChanges), v.Of(ClaimSeen))
            ),
            Kind<ElsewhereEntry>(
                "elsewhere",
                "a unit tried in another, known-good machine",
                [ElsewhereUnit, ElsewhereWorked],
                v => new ElsewhereEntry(v.Of(EntryId), v.Of(ElsewhereUnit), v.Of(ElsewhereWorked))
            ),
            Kind<WorkEntry>("work", "changes without a start", [WorkChanges], v => new WorkEntry(v.Of(EntryId), v.Of(WorkChanges))),
            Kind<ArrivalEntry>(
                "arrival",
                "a part that comes to the bench",
                [ArrivalUnit],
                v => new ArrivalEntry(v.Of(EntryId), v.Of(ArrivalUnit))
            ),
            Kind<NoteEntry>("note", "words without a bearing on the machine", [], v => new NoteEntry(v.Of(EntryId))),
            Kind<StrikeEntry>(
                "strike",
                "a correction",
                [Struck, Also, StrikeReason, Replacement],
                v => new StrikeEntry(v.Of(EntryId), v.Of(Struck), v.Of(StrikeReason), v.Of(Replacement)) { Also = v.Of(Also) }
            ),
            Kind<InsertEntry>(
                "insert",
                "a step that was forgotten",
                [Before, Inserted, InsertReason],
                v => new InsertEntry(v.Of(EntryId), v.Of(Before), v.Of(Inserted)!, v.Of(InsertReason))
            ),
        ]
    );

    // The intake.
    private static readonly Form<ImmutableSortedDictionary<Place, UnitId>> FittedForm = new(
        ReadFitted,
        v => new JsonObject(v.Select(p => KeyValuePair.Create(MachineFormat.Write(p.Key), (JsonNode?)p.Value.Value))),
        () =>
            new JsonObject
            {
                ["type"] = "object",
                ["maxProperties"] = Parts.Most,
                ["propertyNames"] = new JsonObject { ["pattern"] = $"^({MachineFormat.PlacePattern})$" },
                ["additionalProperties"] = Forms.Ref("id"),
            },
        "place → unit id"
    );

    private static ImmutableSortedDictionary<Place, UnitId> ReadFitted(DataPart part)
    {
        var fitted = ImmutableSortedDictionary.CreateBuilder<Place, UnitId>();
        foreach (var (key, value) in part.Fields())
        {
            if (!MachineFormat.TryRead(key, out Place place))
                throw value.Wrong($"\"{key}\" is not a place, such as supply, memory.A2 or card.1");
            if (fitted.ContainsKey(place))
                throw value.Wrong($"\"{key}\" is given twice");
            if (fitted.Count == Parts.Most)
                throw part.Wrong($"there are more than {Parts.Most} places, the most");
            fitted[place] = UnitForm.Read(value);
        }

        return fitted.ToImmutable();
    }

    private static Form<Parts> PartsForm { get; } =
        new(
            part =>
            {
                var parts = Parts.None;
                foreach (var unit in part.Items())
                    parts = Forms.Guarded(unit, () => parts.With(Unit.Read(unit)));
                return parts;
            },
            v => new JsonArray([.. v.All.Select(u => (JsonNode)Unit.Write(u))]),
            () =>
                new JsonObject
                {
                    ["type"] = "array",
                    ["maxItems"] = Parts.Most,
                    ["items"] = Forms.Ref("unit"),
                },
            $"up to {Parts.Most} units"
        );

    private static readonly Field<Intake, string> Title = Needed("title", Forms.Text(120, 1), (Intake i) => i.Title);
    private static readonly Field<Intake, string> Customer = May("customer", Forms.Text(120), (Intake i) => i.Customer, "");
    private static readonly Field<Intake, string> Symptom = May("symptom", Forms.Text(Entry.LongestNote), (Intake i) => i.Symptom, "");
    private static readonly Field<Intake, StageRange?> Reported = MayValue(
        "reported",
        RangeForm,
        (Intake i) => i.Reported,
        "how far the customer says it got"
    );
    private static readonly Field<Intake, ImmutableArray<string>> Contexts = MayList(
        "contexts",
        Forms.List(Forms.Id, Jobs.Intake.MostContexts, "ids from the atlas, such as `new-build`, `power-event`, `smell`"),
        (Intake i) => i.Contexts
    );
    private static readonly Field<Intake, Parts> Units = Needed(
        "units",
        PartsForm,
        (Intake i) => i.Parts,
        "every part, fitted or beside the bench"
    );
    private static readonly Field<Intake, ImmutableSortedDictionary<Place, UnitId>> Fitted = Needed(
        "fitted",
        FittedForm,
        (Intake i) => i.Received.At,
        "the machine as received"
    );
    private static readonly Field<Intake, StartMethod> Start = May(
        "start",
        Forms.Choice<StartMethod>(),
        (Intake i) => i.Received.Start,
        StartMethod.HeaderPins,
        "`header-pins` when left out"
    ) with
    {
        Always = true,
    };
    private static readonly Field<Intake, OutputRef?> Display = MayValue(
        "display",
        OutputForm,
        (Intake i) => i.Received.Display,
        "where the monitor is plugged in: `board/HDMI`, `card.1/DP 1`"
    );

    /// <summary>What was written down when the machine came in.</summary>
    public static readonly ObjectForm<Intake> Intake = new(
        [Title, Customer, Symptom, Reported, Contexts, Units, Fitted, Start, Display],
        v => new Intake
        {
            Title = v.Of(Title),
            Customer = v.Of(Customer),
            Symptom = v.Of(Symptom),
            Reported = v.Of(Reported),
            Contexts = v.Of(Contexts),
            Parts = v.Of(Units),
            Received = new Configuration(v.Of(Fitted), v.Of(Start), v.Of(Display)),
        },
        "format",
        "version",
        "steps"
    );
}
