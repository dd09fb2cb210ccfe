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

/// <summary>What the power button did after a wait of 30 to 60 seconds: one press.</summary>
public enum ButtonTest
{
    /// <summary>An orderly stop within a few seconds: the machine had booted, picture or not.</summary>
    Orderly,
    /// <summary>Nothing, or only after holding it: POST had not completed.</summary>
    NoResponse,
}

/// <summary>
/// What lights, codes or beeps say of where start-up stalled: a likelihood, 0 to 1, per domain.
/// </summary>
public sealed record StallSignal
{
    /// <summary>How often a plain indicator points where the start-up really stalled. Bench judgement.</summary>
    private const double Fidelity = 0.85;

    private static readonly int Domains = Enum.GetValues<StallDomain>().Length;

    /// <exception cref="ArgumentException">Not six numbers from 0 to 1, or all of them 0.</exception>
    public StallSignal(IEnumerable<double> likelihoods)
    {
        Likelihoods = [.. likelihoods];
        if (Likelihoods.Length != Domains || Likelihoods.Any(l => !(l is >= 0 and <= 1)) || Likelihoods.All(l => l == 0))
            throw new ArgumentException($"A stall signal has {Domains} likelihoods from 0 to 1, not all 0.", nameof(likelihoods));
    }

    public ImmutableArray<double> Likelihoods { get; }

    /// <summary>An indicator that points at one domain.</summary>
    public static StallSignal At(StallDomain domain)
    {
        var likelihoods = Enumerable.Repeat((1 - Fidelity) / Domains, Domains).ToArray();
        likelihoods[(int)domain] += Fidelity;
        return new StallSignal(likelihoods);
    }

    /// <summary>The domain that it speaks for most.</summary>
    public StallDomain Pointed => (StallDomain)Likelihoods.IndexOf(Likelihoods.Max());

    /// <summary>Whether it is a plain indicator, <see cref="At"/>.</summary>
    public bool IsPlain => Equals(At(Pointed));

    public bool Equals(StallSignal? other) => other is not null && Likelihoods.SequenceEqual(other.Likelihoods);

    public override int GetHashCode() => Likelihoods.Aggregate(0, HashCode.Combine);

    public static implicit operator StallSignal(StallDomain domain) => At(domain);

    public static StallSignal ToStallSignal(StallDomain domain) => At(domain);
}

/// <summary>What the fans did at the start.</summary>
public enum FanBehaviour
{
    Still, Twitch, Run, RunThenStop, FullSpeed,
}

/// <summary>What a code display did at the end.</summary>
public enum CodeMotion
{
    /// <summary>It stood.</summary>
    Stuck,
    /// <summary>It still changed when it was read.</summary>
    Passing,
    /// <summary>The same codes came round again and again.</summary>
    Cycling,
}

/// <summary>What was seen and heard of a start besides how far it got. Code, beeps and lights are weighed by the tables of signals.</summary>
public sealed record Signs
{
    /// <summary>The two-digit code that stood last, as shown; at most 8 characters; empty when there was none.</summary>
    public string Code { get; init; } = "";

    /// <summary>Whether it stood, was still changing, or came round again and again.</summary>
    public CodeMotion Motion { get; init; }

    /// <summary>Codes in the order in which they came, separated by spaces, at most 240 characters; empty when only the last was noted.</summary>
    public string Codes { get; init; } = "";

    /// <summary>Indicators in the order in which they lit (<see cref="Signals.LightSequence"/>), or blinks ("3 amber 2 white"); at most 80 characters.</summary>
    public string Lights { get; init; } = "";

    /// <summary>Beeps as the technician writes them ("1 long 3 short"), at most 60 characters; empty when none were noted.</summary>
    public string Beeps { get; init; } = "";

    /// <summary>Case and cooler fans; null when not noted.</summary>
    public FanBehaviour? Fans { get; init; }

    /// <summary>The graphics card's fans at the first start; null when not noted.</summary>
    public FanBehaviour? CardFans { get; init; }

    /// <summary>How long was waited before it was judged, seconds, 0 to 7200; null when not noted.</summary>
    public int? Waited { get; init; }

    /// <summary>CPU temperature, degrees Celsius, -20 to 150; null when not read.</summary>
    public double? Temperature { get; init; }

    /// <summary>Nothing noted.</summary>
    public static Signs None { get; } = new();

    public const int LongestCode = 8;
    public const int LongestBeeps = 60;
    public const int LongestCodes = 240;
    public const int LongestLights = 80;
    public const int LongestWait = 7200;
}

/// <summary>A power-on attempt: what was changed before it and how far the machine got.</summary>
/// <param name="Seen">The stage or range of stages reached.</param>
/// <param name="Stall">What indicators, codes or beeps say; null when they say nothing.</param>
public sealed record TrialEntry(Guid Id, ImmutableArray<Change> Changes, StageRange Seen, StallSignal? Stall = null) : Entry(Id)
{
    /// <summary>What the power button did; null when it was not tried.</summary>
    public ButtonTest? Button { get; init; }

    /// <summary>What else was seen and heard.</summary>
    public Signs Signs { get; init; } = Signs.None;

    /// <summary>The range with the button test worked in.</summary>
    public StageRange Reached => Button switch
    {
        ButtonTest.Orderly when Seen.High >= BootStage.PostNoPicture && Seen.Low < BootStage.PostNoPicture => new StageRange(BootStage.PostNoPicture, Seen.High),
        ButtonTest.NoResponse when Seen.Low < BootStage.PostNoPicture && Seen.High >= BootStage.PostNoPicture => new StageRange(Seen.Low, BootStage.RunsNoPost),
        _ => Seen,
    };
}

/// <summary>A look, a test or a reading, judged: it found what it looks for, or it did not.</summary>
/// <param name="Check">Id of a <see cref="Faults.Check"/> of the atlas.</param>
/// <param name="Unit">The unit that was looked at.</param>
/// <param name="Found">Whether the finding was there.</param>
public sealed record FindingEntry(Guid Id, string Check, UnitId Unit, bool Found) : Entry(Id);

/// <summary>What the customer says was tried before the machine came in: evidence at lower trust.</summary>
/// <param name="Changes">What they say they changed, from the machine as received.</param>
/// <param name="Seen">How far they say it got then.</param>
public sealed record ClaimEntry(Guid Id, ImmutableArray<Change> Changes, StageRange Seen) : Entry(Id);

/// <summary>A unit tried in another machine that is known good.</summary>
/// <param name="Unit">The unit.</param>
/// <param name="Worked">Whether that machine ran with it.</param>
public sealed record ElsewhereEntry(Guid Id, UnitId Unit, bool Worked) : Entry(Id);

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
