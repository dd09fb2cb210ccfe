using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>
/// One line of the bench log. Lines are only ever added; a correction is a new line that strikes an old one.
/// </summary>
public abstract record Entry
{
    private protected Entry(Guid id) => Id = id == Guid.Empty ? throw new ArgumentException("A log line needs an id.", nameof(id)) : id;

    /// <summary>Made by the sender, so that a line sent twice is stored once.</summary>
    public Guid Id { get; }

    /// <summary>The technician's name; empty when not given.</summary>
    public string By { get; init; } = "";

    /// <summary>When it was recorded, UTC.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Version of the atlas that the line was first read with.</summary>
    public string AtlasVersion { get; init; } = "";

    /// <summary>Free words, at most 2,000 characters.</summary>
    public string Note { get; init; } = "";

    /// <summary>The most characters in a note or a reason.</summary>
    public const int LongestNote = 2000;
}

/// <summary>A power-on attempt: what was changed before it and how far the machine got.</summary>
/// <param name="Seen">The stage or range of stages reached.</param>
/// <param name="Stall">What an indicator, code or beep pointed at; null when nothing did.</param>
public sealed record TrialEntry(Guid Id, ImmutableArray<Change> Changes, StageRange Seen, StallDomain? Stall = null) : Entry(Id);

/// <summary>Work on the machine without a start-up after it.</summary>
public sealed record WorkEntry(Guid Id, ImmutableArray<Change> Changes) : Entry(Id);

/// <summary>A unit that comes to the bench in the course of the job: a shelf spare, a new part.</summary>
public sealed record ArrivalEntry(Guid Id, Unit Unit) : Entry(Id);

/// <summary>Words without a bearing on the machine.</summary>
public sealed record NoteEntry(Guid Id) : Entry(Id);

/// <summary>
/// Strikes an earlier line, with the reason; with a replacement, that stands in the struck line's place.
/// </summary>
/// <param name="Struck">Id of the line that is struck.</param>
/// <param name="Reason">Why, in the technician's words.</param>
/// <param name="Replacement">What should have been recorded; null when nothing should.</param>
public sealed record StrikeEntry(Guid Id, Guid Struck, string Reason, Entry? Replacement = null) : Entry(Id);

/// <summary>A log line that cannot be accepted, with the reason in words for the technician.</summary>
public sealed class EntryRefusedException : Exception
{
    public EntryRefusedException()
    {
    }

    public EntryRefusedException(string message)
        : base(message)
    {
    }

    public EntryRefusedException(string message, Exception inner)
        : base(message, inner)
    {
    }
}
