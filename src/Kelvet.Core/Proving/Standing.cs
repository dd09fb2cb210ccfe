namespace Kelvet.Core.Proving;

/// <summary>How a unit stands after the log so far.</summary>
public enum Standing
{
    /// <summary>No trial has touched it; it sits at its prior and is not accused.</summary>
    Untested,

    /// <summary>Tested, neither accused nor cleared.</summary>
    Open,

    /// <summary>It was at work in a trial that got a picture, and is now unlikely.</summary>
    Cleared,

    /// <summary>The likeliest explanation rests on it, but not proved.</summary>
    Suspect,

    /// <summary>
    /// 95 % or more, and what was wrong is not the part: a seat, a plug, a setting, firmware, the arrangement. It was found and
    /// put right, and the machine has passed since.
    /// </summary>
    PutRight,

    /// <summary>95 % or more and one side of the proof stands, or both while something else may have come out the same.</summary>
    ProofOneWay,

    /// <summary>95 % or more, proved both ways, and nothing else that the log allows.</summary>
    Condemned,
}
