using System.Collections.Immutable;

namespace Kelvet.Core.Jobs;

/// <summary>What the power gate asks of a kind of line.</summary>
public enum LineGate
{
    /// <summary>Nothing is done to the machine.</summary>
    Words,

    /// <summary>It is powered.</summary>
    Start,

    /// <summary>Hands go in where its changes need them.</summary>
    Work,

    /// <summary>Hands go in where its check needs them.</summary>
    Look,

    /// <summary>It stands for another line, which is judged.</summary>
    Mends,
}

/// <summary>What the evidence makes of a kind of line.</summary>
public enum LineEvidence
{
    /// <summary>Nothing by itself: it moves parts, or says words.</summary>
    None,

    /// <summary>A start.</summary>
    Trial,

    /// <summary>What somebody saw or told.</summary>
    Testimony,
}

/// <summary>The command of the desk by which a kind of line is recorded.</summary>
public enum LineCommand
{
    /// <summary>A start.</summary>
    Start,

    /// <summary>What a look, a test or a reading found.</summary>
    Finding,

    /// <summary>Work without a start.</summary>
    Work,

    /// <summary>Words, a part that comes, what the customer tells.</summary>
    Words,

    /// <summary>A strike or an insertion.</summary>
    Mending,

    /// <summary>The points of a visit and of what does not fit.</summary>
    Points,

    /// <summary>A correction of what was taken in.</summary>
    Amending,
}

/// <summary>
/// One kind of line: all that gate, safety, evidence, log and desk need to know of it. A kind that leaves one out does not compile, nor
/// does one that a <see cref="ILineReader{T}"/> (replay, words) or a <see cref="PerLine{T}"/> (fields) does not treat.
/// </summary>
/// <param name="Gate">What the power gate asks of it.</param>
/// <param name="Evidence">What the evidence makes of it.</param>
/// <param name="Mends">Whether it changes how lines before it are read, so that the whole log is read anew.</param>
/// <param name="Command">How it is recorded.</param>
public sealed record LineKind(LineGate Gate, LineEvidence Evidence, bool Mends, LineCommand Command);

/// <summary>The rows.</summary>
public static class LineKinds
{
    /// <summary>A start.</summary>
    public static readonly LineKind Trial = new(LineGate.Start, LineEvidence.Trial, Mends: false, LineCommand.Start);

    /// <summary>What a look found.</summary>
    public static readonly LineKind Finding = new(LineGate.Look, LineEvidence.Testimony, Mends: false, LineCommand.Finding);

    /// <summary>What the customer tells.</summary>
    public static readonly LineKind Claim = new(LineGate.Words, LineEvidence.Testimony, Mends: false, LineCommand.Words);

    /// <summary>A look that could not be made.</summary>
    public static readonly LineKind Unseen = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Points);

    /// <summary>What does not fit.</summary>
    public static readonly LineKind Misfit = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Points);

    /// <summary>A correction of what was taken in.</summary>
    public static readonly LineKind Amend = new(LineGate.Words, LineEvidence.None, Mends: true, LineCommand.Amending);

    /// <summary>A procedure carried out.</summary>
    public static readonly LineKind Procedure = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Words);

    /// <summary>How a part is to be proved.</summary>
    public static readonly LineKind ProofChoice = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Words);

    /// <summary>Why a part is replaced though something cheap is open.</summary>
    public static readonly LineKind GoAhead = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Words);

    /// <summary>What became of a part.</summary>
    public static readonly LineKind Settled = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Words);

    /// <summary>A part in another machine.</summary>
    public static readonly LineKind Elsewhere = new(LineGate.Words, LineEvidence.Testimony, Mends: false, LineCommand.Words);

    /// <summary>Work without a start.</summary>
    public static readonly LineKind Work = new(LineGate.Work, LineEvidence.None, Mends: false, LineCommand.Work);

    /// <summary>A part that comes.</summary>
    public static readonly LineKind Arrival = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Words);

    /// <summary>Words.</summary>
    public static readonly LineKind Note = new(LineGate.Words, LineEvidence.None, Mends: false, LineCommand.Words);

    /// <summary>A line that is struck.</summary>
    public static readonly LineKind Strike = new(LineGate.Mends, LineEvidence.None, Mends: true, LineCommand.Mending);

    /// <summary>A line that was forgotten.</summary>
    public static readonly LineKind Insert = new(LineGate.Mends, LineEvidence.None, Mends: true, LineCommand.Mending);
}

/// <summary>What is done for each kind of line.</summary>
/// <typeparam name="T">What comes of it.</typeparam>
public interface ILineReader<out T>
{
    /// <summary>A start.</summary>
    T Trial(TrialEntry line);

    /// <summary>What a look found.</summary>
    T Finding(FindingEntry line);

    /// <summary>What the customer tells.</summary>
    T Claim(ClaimEntry line);

    /// <summary>A look that could not be made.</summary>
    T Unseen(UnseenEntry line);

    /// <summary>What does not fit.</summary>
    T Misfit(MisfitEntry line);

    /// <summary>A correction of what was taken in.</summary>
    T Amend(AmendEntry line);

    /// <summary>A procedure carried out.</summary>
    T Procedure(ProcedureEntry line);

    /// <summary>How a part is to be proved.</summary>
    T ProofChoice(ProofChoiceEntry line);

    /// <summary>Why a part is replaced though something cheap is open.</summary>
    T GoAhead(GoAheadEntry line);

    /// <summary>What became of a part.</summary>
    T Settled(SettledEntry line);

    /// <summary>A part in another machine.</summary>
    T Elsewhere(ElsewhereEntry line);

    /// <summary>Work without a start.</summary>
    T Work(WorkEntry line);

    /// <summary>A part that comes.</summary>
    T Arrival(ArrivalEntry line);

    /// <summary>Words.</summary>
    T Note(NoteEntry line);

    /// <summary>A line that is struck.</summary>
    T Strike(StrikeEntry line);

    /// <summary>A line that was forgotten.</summary>
    T Insert(InsertEntry line);
}

/// <summary>A value for each kind of line.</summary>
/// <typeparam name="T">What stands for each.</typeparam>
public sealed class PerLine<T>
{
    /// <summary>Of a start.</summary>
    public required T Trial { get; init; }

    /// <summary>Of what a look found.</summary>
    public required T Finding { get; init; }

    /// <summary>Of what the customer tells.</summary>
    public required T Claim { get; init; }

    /// <summary>Of a look that could not be made.</summary>
    public required T Unseen { get; init; }

    /// <summary>Of a procedure.</summary>
    public required T Procedure { get; init; }

    /// <summary>Of what does not fit.</summary>
    public required T Misfit { get; init; }

    /// <summary>Of how a part is to be proved.</summary>
    public required T ProofChoice { get; init; }

    /// <summary>Of why a part is replaced though something cheap is open.</summary>
    public required T GoAhead { get; init; }

    /// <summary>Of what became of a part.</summary>
    public required T Settled { get; init; }

    /// <summary>Of a correction of what was taken in.</summary>
    public required T Amend { get; init; }

    /// <summary>Of a part in another machine.</summary>
    public required T Elsewhere { get; init; }

    /// <summary>Of work without a start.</summary>
    public required T Work { get; init; }

    /// <summary>Of a part that comes.</summary>
    public required T Arrival { get; init; }

    /// <summary>Of words.</summary>
    public required T Note { get; init; }

    /// <summary>Of a line that is struck.</summary>
    public required T Strike { get; init; }

    /// <summary>Of a line that was forgotten.</summary>
    public required T Insert { get; init; }

    /// <summary>All of them, in the order of the documentation.</summary>
    public ImmutableArray<T> All =>
        [
            Trial,
            Finding,
            Claim,
            Unseen,
            Procedure,
            Misfit,
            ProofChoice,
            GoAhead,
            Settled,
            Amend,
            Elsewhere,
            Work,
            Arrival,
            Note,
            Strike,
            Insert,
        ];
}
