using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>
/// Whether a machine may be powered at all. Common practice: a supply that tripped a breaker or smells is not powered
/// again, and a machine that got wet is dried and looked over first.
/// </summary>
public static class PowerOn
{
    public const string TrippedBreaker = "tripped-breaker";
    public const string Smell = "smell";
    public const string Wet = "wet";
    public const string LookForDamp = "look-wet";
    public const string LookOverBoard = "look-board";

    /// <summary>Why power may not be applied to the machine arranged so, and what has to be recorded first; null when it may.</summary>
    public static string? WhyNot(BenchJob job, Situation machine)
    {
        if (machine.WhyNotPowered() is { } why) return why;
        var contexts = job.Intake.Contexts;
        var customersSupply = machine.Now[Place.Supply] is { } id && machine.Parts[id].Origin == Origin.Customer;
        if (contexts.Contains(TrippedBreaker) && customersSupply)
            return "This supply tripped a breaker: it is not powered again. Swap it for a known-good one, and have the outlet checked by an electrician.";
        if (contexts.Contains(Smell) && customersSupply)
            return "It smelled burnt: the customer's supply is not powered again. Swap it for a known-good one first.";
        if (contexts.Contains(Smell) && Look(job, LookOverBoard) is null)
            return "It smelled burnt: look the board over for burn marks and swollen capacitors, and record that, before anything is powered.";
        if (!contexts.Contains(Wet)) return null;
        return Look(job, LookForDamp) switch
        {
            null => "Liquid got in: do not power it. Battery out, dry it, take the board out, look for damp and residue, and record that look first.",
            true => "It was still damp or had residue at the last look: clean and dry it, and record another look before it is powered.",
            false => null,
        };
    }

    /// <summary>What the last look of this sort found; null when none was recorded.</summary>
    private static bool? Look(BenchJob job, string check) =>
        job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().LastOrDefault(f => f.Check == check)?.Found;
}
