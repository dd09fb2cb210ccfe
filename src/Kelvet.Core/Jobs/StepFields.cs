using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;
using static Kelvet.Core.Jobs.ValueForms;

namespace Kelvet.Core.Jobs;

/// <summary>Every field of a step, of whatever kind.</summary>
internal static class StepFields
{
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
    private static readonly Field<Entry, bool?> AsProposed = MayValue(
        "followed",
        Forms.Flag,
        (Entry e) => e.Followed,
        "whether it is what was proposed then"
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
    private static readonly Field<TrialEntry, StartKind?> TrialKind = MayValue(
        "start",
        Forms.Choice<StartKind>(),
        (TrialEntry t) => t.Kind,
        "how it came about"
    );
    private static readonly Field<TrialEntry, Signs> TrialSigns = May(
        "signs",
        SignFields.Signs.AsForm("what else was seen and heard, below"),
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
    private static readonly Field<FindingEntry, string> FindingWhat = May(
        "what",
        Forms.Text(40),
        (FindingEntry f) => f.What,
        "",
        "which of the things that the check tells apart"
    );

    private static readonly Field<FindingEntry, int?> TestPasses = MayValue(
        "passes",
        Forms.Whole(1, FindingEntry.MostPasses),
        (FindingEntry f) => f.Passes,
        "whole passes of a test program"
    );
    private static readonly Field<FindingEntry, int?> TestErrors = MayValue(
        "errors",
        Forms.Whole(0, FindingEntry.MostErrors),
        (FindingEntry f) => f.Errors,
        "that it counted"
    );
    private static readonly Field<FindingEntry, string> TestAddresses = May(
        "addresses",
        Forms.Text(FindingEntry.LongestAddresses),
        (FindingEntry f) => f.Addresses,
        "",
        "of errors, hexadecimal, with spaces"
    );
    private static readonly Field<FindingEntry, Supplies.RailSet?> TestRails = May<FindingEntry, Supplies.RailSet?>(
        "rails",
        Forms.Text(Supplies.RailSet.Longest, 1).As<Supplies.RailSet?>(Supplies.RailSet.Read, r => r!.Text),
        f => f.Rails,
        null,
        "that were read: `12=11.42 5=5.03 full meter at-board atx12-v2`"
    );
    private static readonly Field<FindingEntry, double?> TestMinutes = MayValue(
        "minutes",
        Forms.Number(0, FindingEntry.MostMinutes),
        (FindingEntry f) => f.Minutes,
        "that it ran"
    );

    private static readonly Field<ClaimEntry, ImmutableArray<Change>> ClaimChanges = MayList(
        "changes",
        ChangesForm,
        (ClaimEntry c) => c.Changes,
        "from the machine as received"
    );
    private static readonly Field<ClaimEntry, StageRange> ClaimSeen = Needed("seen", RangeForm, (ClaimEntry c) => c.Seen);
    private static readonly Field<ClaimEntry, Times?> ClaimTimes = MayValue(
        "times",
        TimesForm,
        (ClaimEntry c) => c.Times,
        "how often it failed of how many starts: `2/5`; `1/2` for \"sometimes\""
    );

    private static readonly Field<ClaimEntry, Sureness> ClaimSure = May(
        "sure",
        Forms.Choice<Sureness>(),
        (ClaimEntry c) => c.Sure,
        Sureness.Fairly,
        "how sure they are"
    );

    private static readonly Field<UnseenEntry, string> UnseenCheck = Needed("check", Forms.Id, (UnseenEntry u) => u.Check, "of the atlas");
    private static readonly Field<UnseenEntry, UnitId> UnseenUnit = Needed("unit", UnitForm, (UnseenEntry u) => u.Unit);

    private static readonly Field<ProcedureEntry, string> ProcedureId = Needed(
        "procedure",
        Forms.Id,
        (ProcedureEntry p) => p.Procedure,
        "of those that ship, such as `clear-settings`"
    );
    private static readonly Field<ProcedureEntry, ImmutableArray<int>> Skipped = MayList(
        "skipped",
        Forms.List(Forms.Whole(1, 30), 30, "numbers of the steps that were not done"),
        (ProcedureEntry p) => p.Skipped
    );
    private static readonly Field<ProcedureEntry, double?> ProcedureMinutes = MayValue(
        "minutes",
        Forms.Number(0, 1440),
        (ProcedureEntry p) => p.Minutes,
        "that it took"
    );

    private static readonly Field<MisfitEntry, Misfit> MisfitKind = Needed(
        "misfit",
        Forms.Choice<Misfit>(),
        (MisfitEntry m) => m.Kind,
        "what does not fit"
    );
    private static readonly Field<MisfitEntry, UnitId> MisfitUnit = Needed("unit", UnitForm, (MisfitEntry m) => m.Unit);

    private static readonly Field<ProofChoiceEntry, UnitId> ProvedUnit = Needed("unit", UnitForm, (ProofChoiceEntry p) => p.Unit);
    private static readonly Field<ProofChoiceEntry, bool> BothWays = Needed(
        "two-way",
        Forms.Flag,
        (ProofChoiceEntry p) => p.TwoWay,
        "whether both ways are asked for"
    );

    private static readonly Field<GoAheadEntry, UnitId> ReplacedUnit = Needed("unit", UnitForm, (GoAheadEntry g) => g.Unit);
    private static readonly Field<GoAheadEntry, string> WhyReplaced = Needed(
        "reason",
        Forms.Text(Entry.LongestNote),
        (GoAheadEntry g) => g.Reason,
        "why that is passed over"
    );

    private static readonly Field<SettledEntry, UnitId> SettledUnit = Needed("unit", UnitForm, (SettledEntry s) => s.Unit);
    private static readonly Field<SettledEntry, Fate> WhatBecame = Needed(
        "fate",
        Forms.Choice<Fate>(),
        (SettledEntry s) => s.Fate,
        "what became of it"
    );
    private static readonly Field<SettledEntry, decimal?> SoldFor = MayValue(
        "price",
        Forms.Money(SettledEntry.MostPrice),
        (SettledEntry s) => s.Price,
        "for how much it was sold, in the shop's currency"
    );
    private static readonly Field<SettledEntry, string> WhoAgreed = May(
        "agreed",
        Forms.Text(SettledEntry.LongestAgreed),
        (SettledEntry s) => s.Agreed,
        "",
        "who agreed that it is kept or thrown away, and when"
    );

    private static readonly Field<AmendEntry, Intake> Amended = Needed(
        "intake",
        new Form<Intake>(
            p => JobFields.Intake.Read(p),
            v => JobFields.Intake.Write(v with { Customer = "" }),
            () => new JsonObject { ["type"] = "object" },
            "the fields of the job itself, without its steps"
        ),
        (AmendEntry a) => a.Intake
    );
    private static readonly Field<AmendEntry, string> AmendReason = Needed(
        "reason",
        Forms.Text(Entry.LongestNote, 1),
        (AmendEntry a) => a.Reason
    );

    private static readonly Field<ElsewhereEntry, UnitId> ElsewhereUnit = Needed("unit", UnitForm, (ElsewhereEntry e) => e.Unit);
    private static readonly Field<ElsewhereEntry, bool> ElsewhereWorked = Needed("worked", Forms.Flag, (ElsewhereEntry e) => e.Worked);

    private static readonly Field<WorkEntry, ImmutableArray<Change>> WorkChanges = Needed(
        "changes",
        ChangesForm,
        (WorkEntry w) => w.Changes
    );

    private static readonly Field<ArrivalEntry, Unit> ArrivalUnit = Needed(
        "unit",
        new Form<Unit>(UnitFields.Unit.Read, u => UnitFields.Unit.Write(u), () => Forms.Ref("unit"), "a unit"),
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
                [EntryId, .. own, By, At, AtlasVersion, Rules, Live, AsProposed, Note],
                v =>
                    make(v) with
                    {
                        By = v.Of(By),
                        At = v.Of(At),
                        AtlasVersion = v.Of(AtlasVersion),
                        Rules = v.Of(Rules),
                        Live = v.Of(Live),
                        Followed = v.Of(AsProposed),
                        Note = v.Of(Note),
                    },
                "kind"
            ),
            about
        );

    /// <summary>Steps.</summary>
    public static readonly UnionForm<Entry> Step = new(
        "kind",
        new PerLine<Sort<Entry>>
        {
            Trial = Kind<TrialEntry>(
                "trial",
                "a start and how far it got",
                [TrialChanges, TrialSeen, TrialStall, TrialButton, TrialKind, TrialSigns],
                v => new TrialEntry(v.Of(EntryId), v.Of(TrialChanges), v.Of(TrialSeen), v.Of(TrialStall))
                {
                    Button = v.Of(TrialButton),
                    Kind = v.Of(TrialKind),
                    Signs = v.Of(TrialSigns),
                }
            ),
            Finding = Kind<FindingEntry>(
                "finding",
                "a look, a test or a reading, judged against its limit",
                [FindingCheck, FindingUnit, FindingFound, FindingWhat, TestPasses, TestErrors, TestAddresses, TestMinutes, TestRails],
                v => new FindingEntry(v.Of(EntryId), v.Of(FindingCheck), v.Of(FindingUnit), v.Of(FindingFound))
                {
                    What = v.Of(FindingWhat),
                    Passes = v.Of(TestPasses),
                    Errors = v.Of(TestErrors),
                    Addresses = v.Of(TestAddresses),
                    Minutes = v.Of(TestMinutes),
                    Rails = v.Of(TestRails),
                }
            ),
            Claim = Kind<ClaimEntry>(
                "claim",
                "what the customer tells of a try: evidence at lower trust",
                [ClaimChanges, ClaimSeen, ClaimTimes, ClaimSure],
                v => new ClaimEntry(v.Of(EntryId), v.Of(ClaimChanges), v.Of(ClaimSeen)) { Times = v.Of(ClaimTimes), Sure = v.Of(ClaimSure) }
            ),
            Unseen = Kind<UnseenEntry>(
                "unseen",
                "a point of a look that could not be seen",
                [UnseenCheck, UnseenUnit],
                v => new UnseenEntry(v.Of(EntryId), v.Of(UnseenCheck), v.Of(UnseenUnit))
            ),
            Procedure = Kind<ProcedureEntry>(
                "procedure",
                "a procedure that was carried out",
                [ProcedureId, Skipped, ProcedureMinutes],
                v => new ProcedureEntry(v.Of(EntryId), v.Of(ProcedureId), v.Of(Skipped)) { Minutes = v.Of(ProcedureMinutes) }
            ),
            Misfit = Kind<MisfitEntry>(
                "misfit",
                "what does not fit together, taken as a finding",
                [MisfitKind, MisfitUnit],
                v => new MisfitEntry(v.Of(EntryId), v.Of(MisfitKind), v.Of(MisfitUnit))
            ),
            ProofChoice = Kind<ProofChoiceEntry>(
                "proof-choice",
                "whether a part is to be proved both ways, or one side is accepted",
                [ProvedUnit, BothWays],
                v => new ProofChoiceEntry(v.Of(EntryId), v.Of(ProvedUnit), v.Of(BothWays))
            ),
            GoAhead = Kind<GoAheadEntry>(
                "go-ahead",
                "a part is to be replaced though something that may restore it was not tried",
                [ReplacedUnit, WhyReplaced],
                v => new GoAheadEntry(v.Of(EntryId), v.Of(ReplacedUnit), v.Of(WhyReplaced))
            ),
            Settled = Kind<SettledEntry>(
                "settled",
                "what became of a part that is not where it came in",
                [SettledUnit, WhatBecame, SoldFor, WhoAgreed],
                v => new SettledEntry(v.Of(EntryId), v.Of(SettledUnit), v.Of(WhatBecame), v.Of(SoldFor), v.Of(WhoAgreed))
            ),
            Amend = Kind<AmendEntry>(
                "amend",
                "a correction of what was taken in",
                [Amended, AmendReason],
                v => new AmendEntry(v.Of(EntryId), v.Of(Amended), v.Of(AmendReason))
            ),
            Elsewhere = Kind<ElsewhereEntry>(
                "elsewhere",
                "a unit tried in another, known-good machine",
                [ElsewhereUnit, ElsewhereWorked],
                v => new ElsewhereEntry(v.Of(EntryId), v.Of(ElsewhereUnit), v.Of(ElsewhereWorked))
            ),
            Work = Kind<WorkEntry>("work", "changes without a start", [WorkChanges], v => new WorkEntry(v.Of(EntryId), v.Of(WorkChanges))),
            Arrival = Kind<ArrivalEntry>(
                "arrival",
                "a part that comes to the bench",
                [ArrivalUnit],
                v => new ArrivalEntry(v.Of(EntryId), v.Of(ArrivalUnit))
            ),
            Note = Kind<NoteEntry>("note", "words without a bearing on the machine", [], v => new NoteEntry(v.Of(EntryId))),
            Strike = Kind<StrikeEntry>(
                "strike",
                "a correction",
                [Struck, Also, StrikeReason, Replacement],
                v => new StrikeEntry(v.Of(EntryId), v.Of(Struck), v.Of(StrikeReason), v.Of(Replacement)) { Also = v.Of(Also) }
            ),
            Insert = Kind<InsertEntry>(
                "insert",
                "a step that was forgotten",
                [Before, Inserted, InsertReason],
                v => new InsertEntry(v.Of(EntryId), v.Of(Before), v.Of(Inserted)!, v.Of(InsertReason))
            ),
        }.All
    );
}
