using System.Collections.Immutable;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Tables;

/// <summary>How far a row can be relied on.</summary>
public enum Confidence
{
    /// <summary>Checked against a published table.</summary>
    Published,

    /// <summary>Published, written down from memory.</summary>
    Likely,

    /// <summary>From memory, and versions differ.</summary>
    Doubtful,
}

/// <summary>One signal of a family and what it stands for.</summary>
/// <param name="Signal">In the form of its kind (<see cref="SignalText"/>); a POST row may be a range, "12-14".</param>
/// <param name="Meaning">In our own words.</param>
/// <param name="Likelihoods">How readily this signal is seen, 0 to 1, by what start-up stalled in, in the order of <see
/// cref="StallDomain"/>.</param>
/// <param name="Causes">Usual causes.</param>
/// <param name="Checks">What to look at first.</param>
/// <param name="Term">Name in the source, empty when it has none; several are separated by a space.</param>
/// <param name="Source">Where it is published, or that it is from memory or common practice.</param>
/// <param name="Confidence">How far it can be relied on.</param>
public sealed record SignalRow(
    string Signal,
    string Meaning,
    StallSignal Likelihoods,
    string Causes,
    string Checks,
    string Term,
    string Source,
    Confidence Confidence
)
{
    /// <summary>What it points at most.</summary>
    public StallDomain Points => Likelihoods.Pointed;

    /// <summary>Whether one domain stands out enough to call it a pointer: at least half as much again as the next.</summary>
    public bool IsPointer =>
        Likelihoods.Likelihoods.OrderDescending().Take(2).ToArray() is [var first, var second] && first >= 1.5 * second;

    /// <summary>Whether this row is about the signal; both in the form of the kind.</summary>
    internal bool Covers(string signal, SignalKind kind) =>
        Signal == signal
        || (
            kind == SignalKind.Post
            && Signal.Length == 5
            && signal.Length == 2
            && string.CompareOrdinal(signal, Signal[..2]) >= 0
            && string.CompareOrdinal(signal, Signal[3..]) <= 0
        );
}

/// <summary>The signals of one family of firmware or boards.</summary>
/// <param name="Id">Lower case and dashes.</param>
/// <param name="Uncertainty">Chance, 0 to 0.9, that a board of this family means something else by a signal.</param>
/// <param name="Version">Free text of at most 20 characters; a changed table gets another.</param>
/// <param name="About">What the family is and what to mind.</param>
public sealed record SignalTable(
    string Id,
    string Name,
    SignalKind Kind,
    string Version,
    double Uncertainty,
    string About,
    ImmutableArray<SignalRow> Rows
)
{
    /// <summary>Whether the shop has brought it in; otherwise it ships with Kelvet.</summary>
    public bool IsOwn { get; init; }

    /// <summary>The row for a signal, the narrowest first; null when the table does not have it.</summary>
    /// <param name="signal">In the form of the table's kind.</param>
    public SignalRow? Find(string signal) =>
        Rows.FirstOrDefault(r => r.Signal == signal) ?? Rows.FirstOrDefault(r => r.Covers(signal, Kind));
}

/// <summary>Words for how far a row can be relied on.</summary>
public static class ConfidenceWords
{
    /// <summary>How sure a table is, as a technician says it.</summary>
    public static string Words(this Confidence confidence) =>
        confidence switch
        {
            Confidence.Published => "published, checked",
            Confidence.Likely => "published, from memory",
            Confidence.Doubtful => "doubtful: from memory, versions differ",
            _ => confidence.ToString(),
        };
}
