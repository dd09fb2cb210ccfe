using Kelvet.Core.Planning;

namespace Kelvet.Core.Words;

/// <summary>Ways out of a job, in words.</summary>
public static class WorthWords
{
    /// <summary>The way as said to a technician.</summary>
    public static string Words(this WayCost way) =>
        way.Way switch
        {
            WayOut.SearchOn => way.Part is { } part ? $"Prove it and replace {part.Name}" : "Search on, then replace what it is",
            WayOut.ReplaceLikeliest => $"Replace {way.Part?.Name} now; search on where it was not that",
            WayOut.ReplaceCore => "Board, CPU and memory together",
            _ => "Give it back as it is",
        };

    /// <summary>What the figures say to a technician: "Cheapest: replace the supply now …".</summary>
    /// <param name="worth">The ways.</param>
    /// <param name="limit">What the customer allowed; null where nothing was said.</param>
    public static string Words(this Worth worth, double? limit)
    {
        if (worth.Ways is not [{ Way: not WayOut.GiveBack } best, ..])
            return "Nothing that can be tried tells more, and no part stands out: give it back, with what was ruled out.";
        if (worth.IsNotWorthIt)
            return "It costs more than the machine is then worth, even with used parts: ask, and offer to give it back.";
        var over = limit is { } most && worth.Spent + best.Cost.New > most;
        return $"Cheapest from here: {char.ToLowerInvariant(best.Words()[0])}{best.Words()[1..]}."
            + (over ? " That goes above what the customer allows: ask first." : "");
    }
}
