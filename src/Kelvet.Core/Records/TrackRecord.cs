using Kelvet.Core.Proving;

namespace Kelvet.Core.Records;

/// <summary>How a shop's closed jobs went: what they were first taken for, whether the advice was followed, how they were
/// proved.</summary>
/// <param name="Jobs">Closed jobs.</param>
/// <param name="FirstRight">Of those whose first guess and whose cause are known, how many were first taken for what it was.</param>
/// <param name="FirstKnown">How many those are.</param>
/// <param name="Followed">Lines that were what had been proposed.</param>
/// <param name="Advised">Lines of which that is known.</param>
/// <param name="BothWays">Parts that were proved both ways.</param>
/// <param name="OneSide">Parts of which one side, or elimination, was accepted.</param>
/// <param name="PutRight">Parts that were found and put right.</param>
/// <param name="Unproved">Parts that were named without any of these.</param>
public sealed record TrackRecord(
    int Jobs,
    int FirstRight,
    int FirstKnown,
    int Followed,
    int Advised,
    int BothWays,
    int OneSide,
    int PutRight,
    int Unproved
)
{
    /// <summary>Adds up what jobs were closed with.</summary>
    public static TrackRecord Of(IReadOnlyCollection<CaseRecord> closed)
    {
        var first = closed.Select(c => c.FirstWasRight).OfType<bool>().ToArray();
        var parts = closed.SelectMany(c => c.Named).ToArray();
        var oneSide = parts.Count(p => p.Accepted.Length > 0);
        var (both, right) = (parts.Count(p => p.Standing == Standing.Condemned), parts.Count(p => p.Standing == Standing.PutRight));
        return new TrackRecord(
            closed.Count,
            first.Count(f => f),
            first.Length,
            closed.Sum(c => c.Followed),
            closed.Sum(c => c.Advised),
            both,
            oneSide,
            right,
            parts.Length - both - oneSide - right
        );
    }
}
