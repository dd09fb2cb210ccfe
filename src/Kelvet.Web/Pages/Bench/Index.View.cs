using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <content>What the page is asked for and what it shows.</content>
public sealed partial class IndexModel
{
    /// <summary>Changes that were made or are about to be made before the next start.</summary>
    [BindProperty(SupportsGet = true, Name = "do")]
    public string[]? Do { get; set; }

    /// <summary>The kind of start that is to be made; null for an ordinary one.</summary>
    [BindProperty(SupportsGet = true, Name = "kind")]
    public StartKind? Kind { get; set; }

    /// <summary>The unit that is picked in the drawing.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Pick { get; set; }

    /// <summary>Id of the check whose outcome is asked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Check { get; set; }

    /// <summary>The unit that it is made on.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Checked { get; set; }

    /// <summary>The check and unit that are open; null when a start is recorded.</summary>
    public (Check Check, Unit Unit)? OpenCheck { get; private set; }

    /// <summary>Whether hands go into the machine for the look that is open.</summary>
    public bool LookNeedsHands => OpenCheck is { } open && PowerGate.HandsIn(open.Check, open.Unit.Id, Bench.Now);

    /// <summary>Line of the first trial to compare.</summary>
    [BindProperty(SupportsGet = true)]
    public int? A { get; set; }

    /// <summary>Line of the second.</summary>
    [BindProperty(SupportsGet = true)]
    public int? B { get; set; }

    /// <summary>The line after which the bench stood as it is shown; null for how it stands now.</summary>
    [BindProperty(SupportsGet = true, Name = "at")]
    public int? StandAt { get; set; }

    /// <summary>Whether looks are gone through as one visit.</summary>
    [BindProperty(SupportsGet = true, Name = "visit")]
    public bool Visit { get; set; }

    /// <summary>whole for all columns of the climb at once.</summary>
    [BindProperty(SupportsGet = true, Name = "climb")]
    public string? ClimbAs { get; set; }

    /// <summary>The log as far as it is shown.</summary>
    public BenchJob Bench { get; private set; } = null!;

    /// <summary>That log as read by the core.</summary>
    public Reading Shown { get; private set; } = null!;

    /// <summary>Whether the bench is shown as it stood at an older line.</summary>
    public bool IsPast => Bench.Entries.Length != Job.Bench.Entries.Length;

    /// <summary>Where a first job stands; null where nobody is guided through this one.</summary>
    public Guide? Guide =>
        Visitor.Guided == Number && !IsPast ? Guide.Of(Shown.Diagnosis, Gate, Pending.Changes.Length > 0, Job.IsClosed) : null;

    /// <summary>The one thing to do now.</summary>
    public Instruction Instruction { get; private set; } = null!;

    /// <summary>The step that is under way: its changes pending, or its look open; null when none is.</summary>
    public Candidate? Step { get; private set; }

    /// <summary>What the bench proposes, in plain words.</summary>
    public PlainAdvice Plain { get; private set; } = null!;

    /// <summary>What nobody knows of what the step rests on.</summary>
    public ImmutableArray<Guess> Asked { get; private set; } = [];

    /// <summary>The machine as it is drawn.</summary>
    public DrawingView Drawing { get; private set; } = null!;

    /// <summary>How the start that is under way usually goes.</summary>
    public StartCourse Course { get; private set; } = null!;

    /// <summary>Looks that can be made with the machine off, in walking order, with the answer of those that were made.</summary>
    public IReadOnlyList<OncePoint> Points { get; private set; } = [];

    /// <summary>What does not fit together, while nothing was started yet.</summary>
    public ImmutableArray<MisfitFound> Misfits { get; private set; } = [];

    /// <summary>The point after the one that is open, when that one is skipped; null at the end.</summary>
    public OncePoint? NextPoint =>
        Points
            .SkipWhile(p => OpenCheck is not { } o || p.Check != o.Check || p.Unit.Id != o.Unit.Id)
            .Skip(1)
            .FirstOrDefault(p => p.Answer == PointAnswer.Open);

    /// <summary>How the first start at the bench compares with what was told; null for later ones, or where nothing was told.</summary>
    public Likeness? Likeness => Job.Bench.Trials is [var first] && Said == first.Number ? Reproduction.Compare(Job.Bench, first) : null;

    /// <summary>Number of the line that was just recorded, to be told once.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Said { get; set; }

    /// <summary>Two trials side by side; null when none or one is chosen.</summary>
    public Comparison? Comparison { get; private set; }

    /// <summary>What the chosen column's changes may have been instead, with where that is shown and kept.</summary>
    public IEnumerable<(string Words, string Address)> Others =>
        A is { } chosen && B is null && Job.Bench.Lines.FirstOrDefault(l => l.Number == chosen) is { } line
            ? OtherReading
                .ChangesOf(Job.Bench, line)
                .Select(o =>
                    (
                        Text.Capital(o.Instead!.InBrief(Job.Bench.MachineBefore(line))),
                        $"/jobs/{Number}/log/{chosen}/as?nth={o.Nth}&change={Uri.EscapeDataString(MachineFormat.Write(o.Instead!))}"
                    )
                )
            : [];

    /// <summary>Where the work stands between hands in and power on.</summary>
    public Gate Gate { get; private set; } = null!;

    /// <summary>Whether what was refused can be recorded as done live, with a reason.</summary>
    public bool OffersLive { get; private set; }

    /// <summary>The shop's readers of POST codes.</summary>
    public IReadOnlyList<ReaderRow> AllReaders { get; private set; } = [];

    /// <summary>What the readers in this machine show.</summary>
    public IReadOnlyList<ReaderView> ReaderViews { get; private set; } = [];

    /// <summary>What code, beeps and lights of the last start, or of the chosen one, say.</summary>
    public IReadOnlyList<CodeSign> BoardSays { get; private set; } = [];

    /// <summary>Whether the tables that the board goes by are known.</summary>
    public bool FamilyKnown => Rules.Atlas.Signals.FamilyOf(Job.Bench.Now.Board).Length > 0;

    /// <summary>How the board's name begins.</summary>
    public string MakerWord => Job.Bench.Now.Board?.Name.Split(' ')[0] ?? "";

    /// <summary>Countdowns that run.</summary>
    public IReadOnlyList<TimerRow> Timers { get; private set; } = [];

    /// <summary>The time, by which countdowns go.</summary>
    public DateTime NowUtc { get; } = clock.GetUtcNow().UtcDateTime;

    /// <summary>Every place that was ever changed, as it was received and as it is now, and whether it is back.</summary>
    public IEnumerable<(Difference Place, bool IsBack)> PutBackList
    {
        get
        {
            var received = Bench.AsItBelongs;
            var away = Comparison.Between(received, Bench.Now.Now, Bench.Now.Parts);
            return away.Concat(Bench.Trials.SelectMany(t => Comparison.Between(received, t.Situation.Now, Bench.Now.Parts)))
                .DistinctBy(d => d.Where)
                .Select(d => (d, away.All(a => a.Where != d.Where)));
        }
    }

    /// <summary>Countdowns that are started by hand: name, seconds and what they are for.</summary>
    public static IReadOnlyList<(string Name, int Seconds, string Title)> HandTimers { get; } =
    [
        ("wait", 60, "from pressing start until \"no picture\" may be said; the first start after a change can take minutes"),
        ("CMOS pins", 20, "hold the clear pins, machine unplugged"),
        ("battery out", 120, "coin cell out, start pressed a few times"),
        ("power cycle", 30, "off and on again"),
        ("flash", 600, "never interrupt it"),
    ];

    /// <summary>What was done or is to be done before the next start.</summary>
    public PendingChanges Pending { get; private set; } = null!;

    /// <summary>What the pending changes would show; null before the first trial or when nothing is pending.</summary>
    public Assessment? Foreseen { get; private set; }

    /// <summary>
    /// What is done at the gate in one act with taking a step: power off where hands go in, started again where none do. Null where the
    /// step is only taken: a look, a start of a kind, a machine that is off already.
    /// </summary>
    public (string Handler, string Words)? TakesWith(Candidate step) =>
        step is not { Check: null, Kind: null, Changes.Length: > 0 } || Gate.Power.State == Power.Off ? null
        : step.Changes.Any(c => c.HandsIn(Bench.Now.Parts))
            ? ("Off", Instruction.IsAdvice ? "Power off, lead out: take it" : "Power off: next step instead")
        : Gate.Power.State == Power.On && Instruction.IsAdvice ? ("Again", "Done, and started again")
        : null;

    /// <summary>Whether what is pending is what is proposed: nobody is warned of what they were told to do.</summary>
    public bool IsProposed => Shown.Advice.Decision.Step is { Check: null } step && step.After.IsSameAs(Pending.After);

    /// <summary>What to mind with the pending changes; empty when nothing special.</summary>
    public string Caution =>
        Pending.Changes.Length == 0 ? "" : Candidates.Of(Pending.Changes, Job.Bench.Now, Pending.After, Rules.Atlas).Caution;

    /// <summary>How far a healthy machine could get with the pending changes.</summary>
    public Ceiling Ceiling { get; private set; } = null!;

    /// <summary>The unit that is picked; null when none is.</summary>
    public Unit? Picked { get; private set; }

    /// <summary>The last line that stands, which one key takes back; null when there is none.</summary>
    public LogLine? Last => Job.Bench.Lines.LastOrDefault(l => l.Stands is not null and not StrikeEntry);

    /// <summary>Id for the line that this form would record.</summary>
    public Guid NewStepId { get; } = Guid.NewGuid();

    /// <summary>A stage or range that one key or click records.</summary>
    /// <param name="Key">The key.</param>
    /// <param name="Seen">The range as recorded.</param>
    /// <param name="Words">What the technician sees.</param>
    public sealed record StageButton(char Key, string Seen, string Words)
    {
        /// <summary>What a start that got so far is to a goal, as the style sheet calls it: there, short of it, or not known.</summary>
        public string LookFor(BootStage goal) =>
            !ObservedFormat.TryRead(Seen, out var range) || range.High < goal ? ""
            : range.Low >= goal ? "pass"
            : "maybe";
    }

    /// <summary>The stages in the order of their keys.</summary>
    public static IReadOnlyList<StageButton> Stages { get; } =
    [
        new('0', "0", "dead, no standby"),
        new('1', "1", "standby only"),
        new('2', "2", "cuts out"),
        new('3', "3", "restart loop"),
        new('4', "4", "runs, no POST"),
        new('9', "4-5", "4 or 5, can't tell"),
        new('5', "5", "POST, no picture"),
        new('6', "6-8", "picture"),
        new('7', "7-8", "system loads"),
        new('8', "8", "stable"),
    ];
}
