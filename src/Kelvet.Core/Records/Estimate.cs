using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;

namespace Kelvet.Core.Records;

/// <summary>What a machine's owner is asked to agree to: what is known so far, what would be done, and the most that it comes
/// to.</summary>
/// <param name="Known">What is known so far.</param>
/// <param name="Proposal">What would be done.</param>
/// <param name="Items">What it is made up of, in the shop's currency.</param>
/// <param name="Most">What it comes to at most without another question: the items, rounded up to a five.</param>
public sealed record Estimate(string Known, string Proposal, ImmutableArray<(string What, double Amount)> Items, double Most)
{
    /// <summary>The estimate for one way out of a job.</summary>
    /// <param name="worth">The ways.</param>
    /// <param name="way">The way that is proposed.</param>
    /// <param name="used">Whether with used parts.</param>
    public static Estimate Of(Worth worth, WayCost way, bool used)
    {
        var parts = used ? way.Parts.Used : way.Parts.New;
        var cost = used ? way.Cost.Used : way.Cost.New;
        var items = new List<(string, double)> { ("Work so far", worth.Spent), ("Work still to come", cost - parts) };
        if (parts > 0)
            items.Add((used ? "Parts, used and tested" : "Parts, new", parts));
        return new Estimate(
            way.Part is { } part ? $"What was tried so far points to the {PlainReport.Plainly(part.Kind)} ({part.Name})."
                : way.Way == WayOut.GiveBack ? "Going on would cost more than it is worth."
                : "What was tried so far does not point to one part alone yet.",
            way.Way switch
            {
                WayOut.SearchOn when way.Part is { } found =>
                    $"We make sure of it, replace the {PlainReport.Plainly(found.Kind)}, and try the machine until it is certain.",
                WayOut.SearchOn => "We search on until it is certain which part it is, replace that, and try the machine.",
                WayOut.ReplaceLikeliest =>
                    $"We replace the {PlainReport.Plainly(way.Part!.Kind)} now. Should it not be that, we search on; "
                        + "that is counted in by its chance.",
                WayOut.ReplaceCore => "We replace the main board, the processor and the memory together.",
                _ => "We give the machine back as it is.",
            },
            [.. items],
            Math.Ceiling((worth.Spent + cost) / 5) * 5
        );
    }

    /// <summary>"At most 145 without asking you again."</summary>
    public string AtMost => $"At most {Most.ToString("0", CultureInfo.InvariantCulture)} without asking you again.";
}
