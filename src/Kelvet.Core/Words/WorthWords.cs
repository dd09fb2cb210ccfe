using System.Globalization;
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

    /// <summary>A message to the customer for leave to go on; figures rounded up to fives, no word of the trade.</summary>
    /// <param name="worth">The ways.</param>
    /// <param name="way">The way that is asked for.</param>
    /// <param name="limit">What the customer allowed; null where nothing was said.</param>
    /// <param name="machine">What it is called.</param>
    public static string Ask(this Worth worth, WayCost way, double? limit, string machine)
    {
        var spent = Fives(worth.Spent);
        var together = Fives(worth.Spent + way.Cost.New);
        var what =
            way.Way == WayOut.ReplaceCore ? "the main board, the processor and the memory together"
            : way.Part is { } part ? $"the {PlainReport.Plainly(part.Kind)}"
            : "the part that turns out to be at fault";
        var agreed = limit is { } most ? $" You allowed up to {most.ToString("0", CultureInfo.InvariantCulture)}." : "";
        return way.Way == WayOut.GiveBack
            ? $"About {machine}: going on costs more than it is worth. So far it comes to about {spent}. Shall we give it back as it is?"
            : $"About {machine}: so far it comes to about {spent}. "
                + $"We would now replace {what}; together that comes to about {together}.{agreed} May we go on?";
    }

    private static string Fives(double cost) => (Math.Ceiling(cost / 5) * 5).ToString("0", CultureInfo.InvariantCulture);
}
