using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Faults;

/// <summary>Ids of what the rules of safety go by. They are bound to an atlas when it is read, so that a renamed id cannot silence a
/// rule.</summary>
public static class SafetyIds
{
    /// <summary>Context: it tripped a breaker.</summary>
    public const string TrippedBreaker = "tripped-breaker";

    /// <summary>Context: it smelt burnt.</summary>
    public const string Smell = "smell";

    /// <summary>Context: liquid got in.</summary>
    public const string Wet = "wet";

    /// <summary>Check: damp and residue, after drying.</summary>
    public const string LookForDamp = "look-wet";

    /// <summary>Check: the board is looked over.</summary>
    public const string LookOverBoard = "look-board";

    /// <summary>Finding of <see cref="LookOverBoard"/>: burn marks.</summary>
    public const string BurnMarks = "burnt";

    /// <summary>Refuses an atlas that lacks what the rules of safety go by.</summary>
    /// <param name="atlas">The atlas.</param>
    /// <param name="file">Its file, for the message.</param>
    /// <exception cref="DataFileException">One of them is missing, or is of another kind of unit.</exception>
    public static void Bind(Atlas atlas, string file)
    {
        foreach (var context in new[] { TrippedBreaker, Smell, Wet })
        {
            if (atlas.Contexts.All(c => c.Id != context))
                throw new DataFileException($"{file}: there is no context \"{context}\", which a rule of safety goes by.");
        }

        foreach (var check in new[] { LookForDamp, LookOverBoard })
        {
            if (atlas.Check(check) is not { On: UnitKind.Motherboard })
                throw new DataFileException($"{file}: there is no check \"{check}\" on a motherboard, which a rule of safety goes by.");
        }

        if (atlas.Check(LookOverBoard)!.Findings.All(f => f.Id != BurnMarks))
            throw new DataFileException($"{file}: \"{LookOverBoard}\" has no finding \"{BurnMarks}\", which a rule of safety goes by.");
    }
}
