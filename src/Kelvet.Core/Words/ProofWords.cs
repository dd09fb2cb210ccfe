using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>How far starts prove a repair, in words.</summary>
public static class ProofWords
{
    /// <summary>The kind of start: "Cold starts", "Starts of any kind".</summary>
    public static string Name(this StartsOfKind starts) => starts.Kind is { } kind ? kind.Plural() : "Starts of any kind";

    /// <summary>Starts of a kind: "Cold starts".</summary>
    public static string Plural(this StartKind kind) =>
        kind switch
        {
            StartKind.Cold => "Cold starts",
            StartKind.Warm => "Ordinary starts",
            StartKind.Restart => "Restarts",
            StartKind.Wake => "Wakes from sleep",
            _ => "Runs under load",
        };

    /// <summary>How they came out: "2 of 4 failed, 3 could not show it"; "none yet".</summary>
    public static string Words(this StartTally tally) =>
        tally.Trials.Length == 0 ? "none yet"
        : tally.Telling == 0 ? $"{tally.Trials.Length}, none could show it"
        : $"{tally.Failed} of {tally.Telling} failed{(tally.Silent > 0 ? $", {tally.Silent} could not show it" : "")}";

    /// <summary>"Failed 3 of 7 before; 6 clean in a row since: 97 % sure by these counts. 1 more for 95 %."</summary>
    /// <param name="starts">The counts.</param>
    /// <param name="asked">The belief that the shop asks for, 0.5 to below 1.</param>
    public static string Words(this StartsOfKind starts, double asked)
    {
        var clean = $"{starts.Clean} clean in a row since";
        if (starts.Needed(asked) is not { } needed)
        {
            return starts.Clean == 0
                ? "Never failed so; none tried since."
                : $"Never failed so; {clean}: it fails in at most {Share(starts.RateLeftOpen)} of such starts (95 % sure).";
        }

        var more = needed - starts.Clean;
        return $"Failed {starts.Failed} of {starts.Starts} before; {clean}: "
            + $"{Share(starts.Belief(starts.Clean) ?? 0.5)} sure by these counts. "
            + (more > 0 ? $"{more} more for {Share(asked)}." : $"Enough for {Share(asked)}.");
    }

    /// <summary>What follows for the other half of a proof, and why: "One-way proof, accepted because …".</summary>
    public static string Because(this ProofPrice proof)
    {
        var figures =
            $"putting it back to see it fail takes {proof.Minutes:0} min ({proof.Cost:0}), and the chance of being wrong without "
            + $"that is {Percent.Words(proof.Wrong)}, at a price of {proof.AtStake:0}: {proof.Expected:0.#} on average";
        var accepted = proof.OneWay ? "One-way proof, accepted because" : "By elimination, without a proof of its own, accepted because";
        return proof.Why switch
        {
            WhyProof.NotWorthIt => $"{accepted} {figures}.",
            WhyProof.ChosenOneWay => $"{accepted} the technician is content with it; {figures}.",
            WhyProof.ChosenTwoWay => $"Two-way proof, because the technician asks for it; {figures}.",
            WhyProof.GoesBack => $"Two-way proof, because who takes it back asks for both starts; {figures}.",
            WhyProof.ChecksOpen => $"Two-way proof, because it was never seated anew with the settings cleared; {figures}.",
            WhyProof.DearPart => $"Two-way proof, because it is a dear part; {figures}.",
            WhyProof.NotCertain => $"Not certain enough for one side alone; {figures}.",
            WhyProof.Cheap => $"Two-way proof, because it is a matter of minutes; {figures}.",
            _ => $"Two-way proof is worth its price: {figures}.",
        };
    }

    /// <summary>
    /// What a seller's desk asks for and the log does not have, so that a sheet does not say more than it proves. It has no figure of the
    /// reckoning: those are the technician's.
    /// </summary>
    /// <param name="suspect">The case against the part.</param>
    public static ImmutableArray<string> Lacks(this Suspect suspect)
    {
        var lacks = ImmutableArray.CreateBuilder<string>();
        var proof = suspect.Proof;
        if (suspect.Standing == Standing.PutRight)
            lacks.Add("It was put right and works: there is nothing to return.");
        else if (!proof.OneWay)
            lacks.Add("A start that fails with it in, and one that passes with it out, with everything else the same.");
        else if (!proof.TwoWay)
            lacks.Add(
                proof.PutBack is null ? "It put back in, and the machine failing again." : "The machine passing once more with it out."
            );
        if (suspect.Unit.Serial.Length == 0)
            lacks.Add("Its serial number or mark.");
        if (suspect.Unit.Bought is null)
            lacks.Add("When it was bought.");
        if (suspect.Unit.Seller.Length == 0)
            lacks.Add("From whom it was bought.");
        return lacks.ToImmutable();
    }

    /// <summary>A share as whole percents; never "100 %" for what is not certain.</summary>
    private static string Share(double share) =>
        share is > 0.99 and < 1 ? "above 99 %" : (100 * share).ToString("0", CultureInfo.InvariantCulture) + " %";
}
