using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Values that cannot be wrong: text is read strictly, findings agree with themselves, safety is bound to the atlas.</summary>
[Trait("suite", "rules")]
public class StrictTests
{
    [Theory]
    [InlineData("３ short", "3 short")]
    [InlineData("１ long ２ short", "1 long 2 short")]
    [InlineData("１－３－３－１", "1-3-3-1")]
    [InlineData("　5　beeps　", "5 short")]
    [InlineData("٣", null)]
    [InlineData("٣ short", null)]
    [InlineData("३-१", null)]
    [InlineData("² short", null)]
    [InlineData("Ⅷ beeps", null)]
    [InlineData("\u202e3 short", null)]
    public void Beeps_are_read_in_ASCII_digits_full_width_ones_folded(string typed, string? read)
    {
        Assert.Equal(read is not null, BeepPattern.TryParse(typed, out var pattern));
        Assert.Equal(read, SignalText.Of(SignalKind.Beeps, typed));
        if (read is null)
            return;
        Assert.NotEmpty(pattern.Groups);
        Assert.Equal(read, BeepPattern.TryParse(pattern.ToString(), out var again) ? again.ToString() : null);
    }

    [Theory]
    [InlineData(SignalKind.Lights, "memory+", "memory")]
    [InlineData(SignalKind.Lights, "cpu:0.8 memory~:12+", "cpu memory~")]
    [InlineData(SignalKind.Lights, "ｃｐｕ：１２", "cpu")]
    [InlineData(SignalKind.Lights, "cpu:٣", null)]
    [InlineData(SignalKind.Lights, "+", null)]
    [InlineData(SignalKind.Lights, "３ amber ２ white", "3 amber 2 white")]
    [InlineData(SignalKind.Lights, "٣ amber", null)]
    [InlineData(SignalKind.Post, "５５", "55")]
    [InlineData(SignalKind.Post, "٥٥", null)]
    [InlineData(SignalKind.Firmware, "error ０１", "error 01")]
    public void Lights_and_codes_are_read_the_same_way(SignalKind kind, string typed, string? read) =>
        Assert.Equal(read, SignalText.Of(kind, typed));

    [Fact]
    public void A_sign_that_no_table_could_list_cannot_be_noted_from_wherever_it_comes()
    {
        Assert.Contains("such as", Assert.Throws<ArgumentException>(() => new Signs { Lights = "memory?" }).Message);
        Assert.Throws<ArgumentException>(() => new Signs { Beeps = "٣" });
        Assert.Throws<ArgumentException>(() => new Signs { Code = "it stood" });
        Assert.Equal("55", new Signs { Code = " ５５ " }.Code);
        Assert.Equal(new Signs { Lights = "memory +" }.Lights[..6], new Signs { Lights = "memory+" }.Lights[..6]);
        // A file of today names the field; a line of an older version keeps what it said in its note.
        const string Step = """
            "steps": [{"kind": "trial", "seen": "4", "signs": {"beeps": "٣"}}]
            """;
        var file = JobFormat.Write(Office().Job).Replace("\"steps\": []", Step, StringComparison.Ordinal);
        Assert.Contains("beep pattern", Assert.Throws<DataFileException>(() => JobFormat.Read(file)).Message);
        var old = JobFormat.Read(file.Replace("\"version\": 4", "\"version\": 3", StringComparison.Ordinal)).Trials[0].Entry;
        Assert.Equal(("", "beeps as noted: ٣"), (old.Signs.Beeps, old.Note));
        var line = Assert.IsType<TrialEntry>(
            JobFormat.ReadEntry(
                """
                {"id": "11111111-1111-1111-1111-111111111111", "kind": "trial", "seen": "4",
                 "signs": {"lights": "memory?"}, "note": "Again."}
                """
            )
        );
        Assert.Equal(("", "Again. lights as noted: memory?"), (line.Signs.Lights, line.Note));
    }

    public static TheoryData<string, Action> Impossible { get; } =
        new()
        {
            { "500 errors", () => _ = Look(false) with { Errors = 500 } },
            { "Addresses", () => _ = Look(false) with { Addresses = "1F00" } },
            { "nothing was found", () => _ = Look(false) with { What = "burnt" } },
            { "0 to 1,000,000,000", () => _ = Look(true) with { Errors = -1 } },
            { "0 to 1,000,000,000", () => _ = Look(true) with { Errors = FindingEntry.MostErrors + 1 } },
            { "1 to 1000", () => _ = Look(true) with { Passes = 0 } },
            { "1 to 1000", () => _ = Look(true) with { Passes = 1001 } },
            { "0 to 10,000", () => _ = Look(true) with { Minutes = 10_000.1 } },
            { "0 to 10,000", () => _ = Look(true) with { Minutes = double.NaN } },
            { "at most 400", () => _ = Look(true) with { Addresses = new string('1', 401) } },
        };

    private static FindingEntry Look(bool found) => new(Guid.NewGuid(), "test-memory", new UnitId("stick-1"), found);

    [Theory]
    [MemberData(nameof(Impossible))]
    public void A_finding_cannot_contradict_itself(string words, Action make) =>
        Assert.Contains(words, Assert.Throws<ArgumentException>(make).Message);

    [Fact]
    public void What_a_finding_may_say_it_may_say_to_its_bounds()
    {
        var full = Look(true) with { Errors = FindingEntry.MostErrors, Passes = 1000, Minutes = 10_000, Addresses = new string('1', 400) };
        Assert.Equal(full, JobFormat.ReadEntry(JobFormat.Write(full)));
        Assert.Equal(0, (Look(false) with { Errors = 0, Passes = 1, Minutes = 0 }).Errors);
    }

    [Fact]
    public void A_look_is_done_to_its_kind_of_unit_whatever_page_or_file_it_comes_from()
    {
        var job = Office().Job;
        FindingEntry reading = new(Guid.NewGuid(), "test-supply", new UnitId("stick-1"), false);
        Assert.Contains("power supply", Assert.Throws<EntryRefusedException>(() => job.Append(reading)).Message);
        Assert.Throws<EntryRefusedException>(() => job.Append(new UnseenEntry(Guid.NewGuid(), "test-supply", new UnitId("stick-1"))));
        Assert.Single(job.Append(new FindingEntry(Guid.NewGuid(), "test-supply", new UnitId("supply"), false)).Testimonies);
        // One that this atlas does not know is kept and says nothing.
        Assert.Single(job.Append(new FindingEntry(Guid.NewGuid(), "look-at-it", new UnitId("stick-1"), false)).Testimonies);
    }

    private static BenchJob Smelt()
    {
        var bench = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf), Board("spare-board", Origin.Shelf));
        bench.Contexts = [Safety.Smell];
        return bench.Job.Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "spare-supply")]));
    }

    private static BenchJob Looked(BenchJob job, bool found, string what = "", string board = "board") =>
        job.Append(new FindingEntry(Guid.NewGuid(), Safety.LookOverBoard, new UnitId(board), found) { What = what });

    private static PowerBlock? Why(BenchJob job) => Safety.WhyNotPowered(job, job.Now);

    [Fact]
    public void A_look_over_that_found_burn_marks_unlocks_nothing()
    {
        Assert.Equal(PowerBlock.LookOverBoard, Why(Smelt()));
        Assert.Null(Why(Looked(Smelt(), false)));
        Assert.Null(Why(Looked(Smelt(), true, "dirt")));
        Assert.Equal(PowerBlock.BoardBurnt, Why(Looked(Smelt(), true, Safety.BurnMarks)));
        // What was found and not told apart may be burn marks, and no later look makes it whole.
        Assert.Equal(PowerBlock.BoardBurnt, Why(Looked(Looked(Smelt(), true), false)));
        // A look at another board says nothing of the one that smelt.
        Assert.Equal(PowerBlock.LookOverBoard, Why(Looked(Smelt(), false, board: "spare-board")));
        var burnt = Looked(Smelt(), true, Safety.BurnMarks);
        var advice = Planner.Advise(BenchDiagnosis.Of(burnt, Atlas.Standard)).Decision;
        Assert.Equal((AdviceKind.MakeSafe, (PowerBlock?)PowerBlock.BoardBurnt), (advice.Kind, advice.Block));
        Assert.Equal("spare-board", advice.StandIn!.Id.Value);
        Assert.DoesNotContain("BoardBurnt", PowerBlock.BoardBurnt.Words());
    }

    [Fact]
    public void A_smell_belongs_to_what_was_fitted_when_it_smelt()
    {
        // Another board was not there.
        var other = Looked(Smelt(), true, Safety.BurnMarks).Append(new WorkEntry(Guid.NewGuid(), [Swap("board", "spare-board")]));
        Assert.Null(Why(other));
        // A board that was taken down at intake by mistake was never in it; the one that was smelt.
        var machine = Smelt().Intake;
        var two = BenchJob.Open(machine with { Parts = machine.Parts.With(Board("real-board", Origin.Customer)) });
        var right = two.Intake with { Received = two.Intake.Received.WithUnit(Place.Board, new("real-board")) };
        Assert.Equal(
            PowerBlock.LookOverBoard,
            Why(
                two.Append(new AmendEntry(Guid.NewGuid(), right, "misread"))
                    .Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "spare-supply")]))
            )
        );
        // A smell at a start asks for a look after it: the one before says nothing of it.
        var bench = Office().Shelf(Plain("spare-supply", UnitKind.Supply, Origin.Shelf));
        var job = Looked(bench.Job, false)
            .Append(new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = Alarm.Smell } })
            .Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "spare-supply")]));
        Assert.Equal(PowerBlock.LookOverBoard, Why(job));
        Assert.Null(Why(Looked(job, false)));
        // A breaker that tripped says nothing of the board.
        var tripped = bench
            .Job.Append(
                new TrialEntry(Guid.NewGuid(), [], StageRange.At(BootStage.CutsOut)) { Signs = new Signs { Alarm = Alarm.TrippedBreaker } }
            )
            .Append(new WorkEntry(Guid.NewGuid(), [Swap("supply", "spare-supply")]));
        Assert.Null(Why(tripped));
    }

    [Theory]
    [InlineData("  - id: smell", "context \"smell\"")]
    [InlineData("  - id: wet", "context \"wet\"")]
    [InlineData("  - id: tripped-breaker", "context \"tripped-breaker\"")]
    [InlineData("  - id: look-board", "check \"look-board\"")]
    [InlineData("  - id: look-wet", "check \"look-wet\"")]
    [InlineData("{ id: burnt,", "finding \"burnt\"")]
    public void An_atlas_without_what_safety_goes_by_is_refused_when_it_is_read(string id, string told)
    {
        using var stream = typeof(Atlas).Assembly.GetManifestResourceStream("atlas.yaml")!;
        using var reader = new StreamReader(stream);
        var text = reader.ReadToEnd();
        Assert.Contains(id, text);
        var error = Assert.Throws<DataFileException>(() =>
            AtlasReader.Read(
                text.Replace(id, id.Replace("id: ", "id: other-", StringComparison.Ordinal), StringComparison.Ordinal),
                "a.yaml"
            )
        );
        Assert.Contains(told, error.Message);
    }

    [Fact]
    public void Every_kind_of_line_has_a_gate_and_every_gate_a_rule()
    {
        var job = Office().Job;
        foreach (var kind in typeof(Entry).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(Entry))))
        {
            var entry = (Entry)System.Runtime.CompilerServices.RuntimeHelpers.GetUninitializedObject(kind);
            Assert.True(Enum.IsDefined(entry.Row.Gate), kind.Name);
        }

        foreach (
            var words in new Entry[]
            {
                new NoteEntry(Guid.NewGuid()) { Note = "x" },
                new UnseenEntry(Guid.NewGuid(), "look-board", new("board")),
            }
        )
            Assert.Null(PowerGate.WhyNot(job, words, false, new BenchPower(Power.On, TimeSpan.Zero, TimeSpan.FromSeconds(20))));
    }

    [Fact]
    public void No_kind_of_part_is_free_but_the_wall()
    {
        var shop = Preferences.Usual with { PartPrices = Preferences.Usual.PartPrices.SetItem(UnitKind.Pump, 71) };
        foreach (var kind in Enum.GetValues<UnitKind>())
        {
            Assert.Equal(kind == UnitKind.Outlet, Preferences.Usual.PriceOf(kind).New == 0);
            Assert.Equal(0.5 * shop.PriceOf(kind).New, shop.PriceOf(kind).Used, 9);
        }

        // A shop that has priced one kind has not made the others free.
        Assert.Equal((71, 110), (shop.PriceOf(UnitKind.Pump).New, shop.PriceOf(UnitKind.Motherboard).New));
    }

    [Theory]
    [InlineData("prove|-|-|swap stick-1 shelf-stick|clear-cmos")]
    [InlineData("prove|-|cold")]
    [InlineData("narrow|look-board|-")]
    [InlineData("done|-|-|-")]
    public void What_was_proposed_is_written_and_read_to_the_letter(string text) => Assert.Equal(text, Proposal.Read(text)?.Write());

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("prove")]
    [InlineData("prove|-|sideways")]
    [InlineData("never|-|-")]
    [InlineData("prove|-|-|dance")]
    public void What_is_no_proposal_says_nothing(string? text) => Assert.Null(Proposal.Read(text));
}
