using Kelvet.Core.Jobs;

namespace Kelvet.Core.Words;

/// <summary>Parts that have to be settled, in words.</summary>
public static class FateWords
{
    /// <summary>Why it has to be: "the customer's, and not in the machine".</summary>
    public static string Words(this Stray stray) =>
        stray switch
        {
            Stray.TheirsOut => "the customer's, and not in the machine",
            Stray.OursIn => "from the shelf, and in the machine",
            Stray.BoughtIn => "bought for this job, and in the machine",
            _ => "bought for this job, and not used",
        };

    /// <summary>What became of the owner's own part, as its owner reads it; empty where it is nothing to them.</summary>
    /// <param name="settled">What was said of it.</param>
    /// <param name="kind">The part, as an owner says it.</param>
    public static string ToTheOwner(this SettledEntry settled, string kind) =>
        settled.Fate switch
        {
            Fate.GivenBack => $"Your old {kind} comes back to you with the machine.",
            Fate.Kept => $"Your old {kind} stays with us, as agreed ({settled.Agreed}).",
            Fate.Scrapped => $"Your old {kind} was thrown away, as agreed ({settled.Agreed}).",
            Fate.ToSeller => $"Your old {kind} went to the seller, to be replaced or paid back.",
            Fate.MendedElsewhere => $"Your {kind} was mended by a specialist, and is in the machine again.",
            Fate.Lent => $"The {kind} in the machine is lent: it stays ours.",
            _ => "",
        };
}
