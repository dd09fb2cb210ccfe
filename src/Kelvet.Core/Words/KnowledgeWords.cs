using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Words;

/// <summary>What nobody knows, in words.</summary>
public static class KnowledgeWords
{
    /// <summary>What a step rests on, to be looked at before it is taken: "Nobody has said whether the stick in A2 is there. Look whether
    /// it is there, and where."</summary>
    /// <param name="guesses">What nobody knows; at least one.</param>
    /// <param name="machine">The machine that they are about.</param>
    public static string Words(this ImmutableArray<Guess> guesses, Situation machine) =>
        $"Nobody has said {string.Join(", nor ", guesses.Select(g => g.Words(machine)))}. {PartFactRow.Row(guesses[0].Fact).Look}.";

    /// <summary>A place as it is printed: without the name of a slot or port that was only guessed.</summary>
    public static string Words(this Knowledge known, Place place) =>
        known.IsNamed(place) ? place.Words() : PlaceFacts.Of(place.Kind).Words.Replace(" #", "", StringComparison.Ordinal);

    /// <summary>A part as it is printed: its name, or that nobody knows it.</summary>
    public static string NameOf(this Knowledge known, Unit unit) =>
        known.IsGuess(unit.Id, PartFact.Presence) ? $"not known whether there is a {unit.Kind.Words()}"
        : known.IsGuess(unit.Id, PartFact.Name) ? "name not known"
        : unit.Name;

    private static string Words(this Guess guess, Situation machine) =>
        PartFactRow.Row(guess.Fact).Words(machine.The(machine.Parts[guess.Unit]));
}
