using Kelvet.Core.Proving;

namespace Kelvet.Web.Wording;

/// <summary>The shape that stands for how a part stands, the same wherever it is shown: in words, on the drawing, on the shelf.</summary>
public static class StandingSign
{
    /// <summary>The shape as a path round its middle, 7 units to every side.</summary>
    public static string Of(Standing standing) =>
        standing switch
        {
            Standing.Condemned => "M-7 -7h14v14h-14zL7 7M7 -7L-7 7",
            Standing.PutRight => "M-7 -7h14v14h-14zM-4 0l3 3 6 -7",
            Standing.ProofOneWay => "M-7 -7h14v14h-14zM-7 7L7 -7",
            Standing.Suspect => "M0 -7l8 14h-16z",
            Standing.Cleared => "M-7 1l5 5L7 -6",
            _ => "M-7 0a7 7 0 1 0 14 0a7 7 0 1 0 -14 0",
        };

    /// <summary>The shape on a part; empty for those of whom nothing is said.</summary>
    public static string On(Standing? standing) => standing is not { } s || s is Standing.Open or Standing.Untested ? "" : Of(s);
}
