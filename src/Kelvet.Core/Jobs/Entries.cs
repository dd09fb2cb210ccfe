using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>
/// One line of the bench log. Lines are only ever added; a correction is a new line that strikes an old one.
/// </summary>
public abstract record Entry
{
    /// <summary>What kind of line it is.</summary>
    public abstract LineKind Row { get; }

    /// <summary>What is done to the machine, in order; empty where nothing is.</summary>
    public virtual ImmutableArray<Change> Done => [];

    /// <summary>Read as the kind of line that it is.</summary>
    public abstract T ReadBy<T>(ILineReader<T> reader);

    private protected Entry(Guid id) => Id = id == Guid.Empty ? throw new ArgumentException("A log line needs an id.", nameof(id)) : id;

    /// <summary>Made by the sender, so that a line sent twice is stored once.</summary>
    public Guid Id { get; }

    /// <summary>The technician's name; empty when not given.</summary>
    public string By { get; init; } = "";

    /// <summary>When it was recorded, UTC.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Version of the atlas that the line was first read with.</summary>
    public string AtlasVersion { get; init; } = "";

    /// <summary>
    /// Id of the rules (learnt odds, preferences, program) that the shop read its jobs by when the line was written; empty
    /// when not recorded.
    /// </summary>
    public string Rules { get; init; } = "";

    /// <summary>
    /// Why hands went in, or the machine was started, past the power gate, in the technician's words; empty when the gate
    /// was passed. What has happened is never refused for good, but it is said.
    /// </summary>
    public string Live { get; init; } = "";

    /// <summary>Whether it is what was proposed when it was recorded; null where nothing was, or where it is not known.</summary>
    public bool? Followed { get; init; }

    /// <summary>Free words, at most 2,000 characters.</summary>
    public string Note { get; init; } = "";

    /// <summary>The most characters in a note or a reason.</summary>
    public const int LongestNote = 2000;
}

/// <summary>A power-on attempt: what was changed before it and how far the machine got.</summary>
/// <param name="Seen">The stage or range of stages reached.</param>
/// <param name="Stall">What indicators, codes or beeps say; null when they say nothing.</param>
public sealed record TrialEntry(Guid Id, ImmutableArray<Change> Changes, StageRange Seen, StallSignal? Stall = null) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Trial;

    /// <inheritdoc/>
    public override ImmutableArray<Change> Done => Changes;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Trial(this);

    /// <summary>What the power button did; null when it was not tried.</summary>
    public ButtonTest? Button { get; init; }

    /// <summary>How the start came about; null where it was not noted.</summary>
    public StartKind? Kind { get; init; }

    /// <summary>What else was seen and heard.</summary>
    public Signs Signs { get; init; } = Signs.None;

    /// <summary>A start that came up and then ended by itself: the system had loaded, and it was not stable.</summary>
    /// <param name="id">Made by the sender.</param>
    /// <param name="changes">What was done before it.</param>
    /// <param name="ended">What it did.</param>
    /// <param name="signs">What else was noted.</param>
    /// <param name="ran">How long it had run; counted in half minutes, to a day, where nothing else is noted.</param>
    public static TrialEntry ThatEnded(Guid id, ImmutableArray<Change> changes, Ending ended, Signs signs, TimeSpan ran) =>
        new(id, changes, StageRange.At(BootStage.OsLoads))
        {
            Signs = signs with
            {
                Ended = ended,
                Minutes = signs.Minutes ?? Math.Clamp(Math.Round(ran.TotalMinutes * 2, MidpointRounding.AwayFromZero) / 2, 0.5, 1440),
            },
        };

    /// <summary>The range with the button test worked in.</summary>
    public StageRange Reached =>
        Button switch
        {
            ButtonTest.Orderly when Seen.High >= BootStage.PostNoPicture && Seen.Low < BootStage.PostNoPicture => new StageRange(
                BootStage.PostNoPicture,
                Seen.High
            ),
            ButtonTest.NoResponse when Seen.Low < BootStage.PostNoPicture && Seen.High >= BootStage.PostNoPicture => new StageRange(
                Seen.Low,
                BootStage.RunsNoPost
            ),
            _ => Seen,
        };
}

/// <summary>What the customer says was tried before the machine came in: evidence at lower trust.</summary>
/// <param name="Changes">What they say they changed, from the machine as received.</param>
/// <param name="Seen">How far they say it got then.</param>
public sealed record ClaimEntry(Guid Id, ImmutableArray<Change> Changes, StageRange Seen) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Claim;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Claim(this);

    /// <summary>How often it failed so of how many starts, as they say; null where it was always so, or not said.</summary>
    public Times? Times { get; init; }

    /// <summary>How sure they are.</summary>
    public Sureness Sure { get; init; } = Sureness.Fairly;
}

/// <summary>A point of a look that could not be seen: no evidence, and not forgotten.</summary>
/// <param name="Check">Id of a <see cref="Faults.Check"/> of the atlas.</param>
/// <param name="Unit">The unit that was to be looked at.</param>
public sealed record UnseenEntry(Guid Id, string Check, UnitId Unit) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Unseen;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Unseen(this);
}

/// <summary>
/// What does not fit together in the machine as received, taken as a finding: it is told, and it is never put back.
/// </summary>
/// <param name="Kind">What it is.</param>
/// <param name="Unit">The unit that it is about.</param>
public sealed record MisfitEntry(Guid Id, Misfit Kind, UnitId Unit) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Misfit;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Misfit(this);
}

/// <summary>
/// Corrects what was written down when the machine came in; the whole log is read on from it. Whose machine it is stays as
/// it was.
/// </summary>
/// <param name="Intake">What should have been written down.</param>
/// <param name="Reason">Why, in the technician's words.</param>
public sealed record AmendEntry(Guid Id, Intake Intake, string Reason) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Amend;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Amend(this);
}

/// <summary>A procedure that was carried out, with what of it was skipped.</summary>
/// <param name="Procedure">Its id.</param>
/// <param name="Skipped">Numbers of the steps that were not done, from 1.</param>
public sealed record ProcedureEntry(Guid Id, string Procedure, ImmutableArray<int> Skipped) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Procedure;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Procedure(this);

    /// <summary>Minutes that it took, 0 to 1440; null where it was not measured.</summary>
    public double? Minutes { get; init; }
}

/// <summary>Whether a part is to be proved both ways, whatever that costs, or one side is accepted. The reason is its note.</summary>
/// <param name="Unit">The part.</param>
/// <param name="TwoWay">Whether both ways are asked for.</param>
public sealed record ProofChoiceEntry(Guid Id, UnitId Unit, bool TwoWay) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.ProofChoice;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.ProofChoice(this);
}

/// <summary>A part is to be replaced though something that may restore it was not tried: why, in the technician's words.</summary>
public sealed record GoAheadEntry : Entry
{
    /// <summary>A reason.</summary>
    /// <param name="id">Id of the line.</param>
    /// <param name="unit">The part.</param>
    /// <param name="reason">Why, 1 to 2,000 characters.</param>
    public GoAheadEntry(Guid id, UnitId unit, string reason)
        : base(id) =>
        (Unit, Reason) = (
            unit,
            reason.Trim() is { Length: > 0 and <= LongestNote } said
                ? said
                : throw new ArgumentException($"Say why it is replaced all the same, in 1 to {LongestNote} characters.", nameof(reason))
        );

    /// <inheritdoc/>
    public override LineKind Row => LineKinds.GoAhead;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.GoAhead(this);

    /// <summary>The part.</summary>
    public UnitId Unit { get; }

    /// <summary>Why.</summary>
    public string Reason { get; }
}

/// <summary>A unit tried in another machine that is known good.</summary>
/// <param name="Unit">The unit.</param>
/// <param name="Worked">Whether that machine ran with it.</param>
public sealed record ElsewhereEntry(Guid Id, UnitId Unit, bool Worked) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Elsewhere;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Elsewhere(this);
}

/// <summary>Work on the machine without a start-up after it.</summary>
public sealed record WorkEntry(Guid Id, ImmutableArray<Change> Changes) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Work;

    /// <inheritdoc/>
    public override ImmutableArray<Change> Done => Changes;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Work(this);
}

/// <summary>A unit that comes to the bench in the course of the job: a shelf spare, a new part.</summary>
public sealed record ArrivalEntry(Guid Id, Unit Unit) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Arrival;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Arrival(this);
}

/// <summary>Words without a bearing on the machine.</summary>
public sealed record NoteEntry(Guid Id) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Note;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Note(this);
}

/// <summary>
/// Strikes an earlier line, with the reason; with a replacement, that stands in the struck line's place.
/// </summary>
/// <param name="Struck">Id of the line that is struck.</param>
/// <param name="Reason">Why, in the technician's words.</param>
/// <param name="Replacement">What should have been recorded; null when nothing should.</param>
public sealed record StrikeEntry(Guid Id, Guid Struck, string Reason, Entry? Replacement = null) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Strike;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Strike(this);

    /// <summary>Ids of further lines that are struck with it, without replacement: "from here on", or what would no longer be
    /// possible.</summary>
    public ImmutableArray<Guid> Also { get; init; } = [];
}

/// <summary>Puts a line that was forgotten in front of an earlier one.</summary>
/// <param name="Before">Id of the line in front of which it stands.</param>
/// <param name="Line">What was forgotten, under the same id.</param>
/// <param name="Reason">Why it comes late, in the technician's words.</param>
public sealed record InsertEntry(Guid Id, Guid Before, Entry Line, string Reason) : Entry(Id)
{
    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Insert;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Insert(this);
}

/// <summary>A log line that cannot be accepted, with the reason in words for the technician.</summary>
public sealed class EntryRefusedException : Exception
{
    /// <summary>Number of the line that is to blame; 0 when it is the one that was to be added.</summary>
    public int Line { get; init; }

    /// <summary>An exception without words.</summary>
    public EntryRefusedException() { }

    /// <summary>An exception that says what is wrong and where.</summary>
    public EntryRefusedException(string message)
        : base(message) { }

    /// <summary>The same, with what caused it.</summary>
    public EntryRefusedException(string message, Exception inner)
        : base(message, inner) { }
}
