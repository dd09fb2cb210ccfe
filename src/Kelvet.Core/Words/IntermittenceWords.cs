using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>Words for what comes and goes.</summary>
public static class IntermittenceWords
{
    /// <summary>How often a fault acts, as it is said at the bench.</summary>
    /// <param name="rate">Chance, 0 to 1, that it acts at a start.</param>
    public static string ComesAndGoes(double rate) =>
        rate switch
        {
            < 0.25 => "comes and goes, seldom",
            < 0.45 => "comes and goes, about a third of the time",
            < 0.6 => "comes and goes, about half the time",
            _ => "comes and goes, mostly there",
        };

    /// <summary>How often it failed, how many clean starts it takes, and how many there are.</summary>
    public static string Words(this Intermittence i) =>
        $"It came and went: {i.Failed} of {i.Starts} starts of the same machine failed. After the repair it takes {i.Needed} "
        + $"clean starts in a row to be 95\u00a0% sure of it; {i.Clean} {(i.Clean == 1 ? "is" : "are")} in the log.";
}
