using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>Why a part is put back to see the fault return, or is not.</summary>
public enum WhyProof
{
    /// <summary>It takes a few minutes: it is always done.</summary>
    Cheap,

    /// <summary>Being wrong would cost more than the proof does.</summary>
    WorthIt,

    /// <summary>Being wrong is so unlikely that the proof costs more than it saves.</summary>
    NotWorthIt,

    /// <summary>The part is a dear one.</summary>
    DearPart,

    /// <summary>The seller or the maker may still take it back, and asks for both trials.</summary>
    GoesBack,

    /// <summary>What restores it cheaply, its seat or the settings, was not tried with it in.</summary>
    ChecksOpen,

    /// <summary>It is not certain enough to be accepted on one side.</summary>
    NotCertain,

    /// <summary>The technician asked for it.</summary>
    ChosenTwoWay,

    /// <summary>The technician accepted one side.</summary>
    ChosenOneWay,
}

/// <summary>
/// What the second half of a proof costs, the part put back to see the fault return, against the price of being wrong without it.
/// </summary>
/// <param name="Unit">The part, out of a machine that passes without it.</param>
/// <param name="Minutes">Bench minutes to put it in, see it fail and take it out again.</param>
/// <param name="Cost">What they cost, in the shop's currency.</param>
/// <param name="Wrong">Chance, 0 to 1, that another part of its kind is not what helped.</param>
/// <param name="AtStake">What being wrong costs: the part, fitting it, and the machine coming back.</param>
/// <param name="OneWay">Whether one side of the proof stands; otherwise it is certain by elimination alone.</param>
/// <param name="Why">What follows.</param>
public sealed record ProofPrice(Unit Unit, double Minutes, double Cost, double Wrong, double AtStake, bool OneWay, WhyProof Why)
{
    /// <summary>A proof of so few bench minutes is always made. Bench judgement.</summary>
    public const double CheapMinutes = 10;

    /// <summary>What restores a part is tried with it in where so many of the proofs cost less than the part. Bench judgement.</summary>
    private const double WorthOpen = 2;

    /// <summary>Whether one side of the proof is enough.</summary>
    public bool Accepted => Why is WhyProof.NotWorthIt or WhyProof.ChosenOneWay;

    /// <summary>What is lost on average by being content with one side.</summary>
    public double Expected => Wrong * AtStake;

    /// <summary>The prices of every proof that is half made: parts that are out of a machine which passes without them.</summary>
    /// <param name="diagnosis">The log so far.</param>
    /// <param name="preferences">What the shop's hour, a part and a machine that comes back cost.</param>
    public static IEnumerable<ProofPrice> Of(BenchDiagnosis diagnosis, Preferences preferences)
    {
        var closing = new Closing(diagnosis, preferences);
        return diagnosis.Suspects.Select(closing.PriceOfProof).OfType<ProofPrice>();
    }

    /// <summary>What follows from the figures.</summary>
    /// <param name="chosen">What the technician chose; null where nothing was chosen.</param>
    /// <param name="certain">Whether the case against the part is as strong as condemning asks for.</param>
    /// <param name="goesBack">Whether the seller or the maker may still take it back.</param>
    /// <param name="open">Whether something that restores it cheaply was not tried with it in.</param>
    /// <param name="price">Price of the part.</param>
    /// <param name="dear">Price from which a part is a dear one.</param>
    public ProofPrice Weighed(ProofChoiceEntry? chosen, bool certain, bool goesBack, bool open, double price, double dear) =>
        this with
        {
            Why =
                chosen is not null ? (chosen.TwoWay ? WhyProof.ChosenTwoWay : WhyProof.ChosenOneWay)
                : !certain ? WhyProof.NotCertain
                : Minutes <= CheapMinutes ? WhyProof.Cheap
                : goesBack ? WhyProof.GoesBack
                : open && Cost * WorthOpen <= price ? WhyProof.ChecksOpen
                : price >= dear ? WhyProof.DearPart
                : Expected < Cost ? WhyProof.NotWorthIt
                : WhyProof.WorthIt,
        };
}
