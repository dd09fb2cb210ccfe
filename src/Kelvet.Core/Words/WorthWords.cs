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

    /// <summary>A message to the customer for leave to go on; figures rounded up to fives, no word of the trade.</summary>
    /// <param name="worth">The ways.</param>
    /// <param name="way">The way that is asked for.</param>
    /// <param name="limit">What the customer allowed; null where nothing was said.</param>
    /// <param name="machine">What it is called.</param>
    public static string Ask(this Worth worth, WayCost way, double? limit, string machine)
    {
        var spent = Fives(worth.Spent);
        var together = Fives(worth.Spent + way.Cost);
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
