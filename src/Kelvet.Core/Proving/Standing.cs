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

    /// <summary>95 % or more, but the proof runs one way only.</summary>
    ProofOneWay,

    /// <summary>95 % or more and proved both ways.</summary>
    Condemned,
}
