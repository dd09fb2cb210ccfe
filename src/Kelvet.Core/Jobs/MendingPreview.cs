using System.Collections.Immutable;

namespace Kelvet.Core.Jobs;

/// <summary>What becomes of a line when the log is mended.</summary>
public enum FateOfLine
{
    /// <summary>It says something else from now on.</summary>
    Corrected,

    /// <summary>It is struck.</summary>
    Struck,

    /// <summary>It stands, and the machine that was started was another one than was thought.</summary>
    OtherMachine,

    /// <summary>It would not be possible any more, and has to be struck or corrected with it.</summary>
    Impossible,
}

/// <summary>A line and what becomes of it.</summary>
/// <param name="Line">The line as it would then read.</param>
/// <param name="Fate">What becomes of it.</param>
/// <param name="Why">Why it is impossible; empty otherwise.</param>
public sealed record LineFate(LogLine Line, FateOfLine Fate, string Why);

/// <summary>What the lines of a log become when it is mended; lines that stay as they are are left out.</summary>
public sealed record MendingPreview(ImmutableArray<LineFate> Lines)
{
    /// <summary>Lines that would not be possible any more.</summary>
    public ImmutableArray<LogLine> Impossible => [.. Lines.Where(l => l.Fate == FateOfLine.Impossible).Select(l => l.Line)];
}
