namespace Kelvet.Core.Machines;

/// <summary>
/// A first estimate of what a machine may draw at most, before anything is measured. What is not told is taken at the usual
/// figure; without the CPU's or the card's own there is none.
/// </summary>
/// <param name="Most">Draw, W.</param>
/// <param name="Wanted">The same with a margin for peaks and age, W.</param>
public sealed record PowerEstimate(int Most, int Wanted)
{
    /// <summary>Margin over the sum. Common practice, no source.</summary>
    private const double Margin = 1.25;

    /// <summary>Board, stick, drive, fan, W. Common practice, no source.</summary>
    private const int Board = 40,
        Stick = 4,
        Drive = 8,
        Fan = 3;

    /// <summary>The estimate; null where the CPU's draw or a card's is not known.</summary>
    public static PowerEstimate? Of(Situation machine)
    {
        if (machine.Cpu is not { Watts: { } cpu } || machine.Cards.Any(c => c.Card.Watts is null))
            return null;
        var most =
            cpu
            + machine.Cards.Sum(c => c.Card.Watts!.Value)
            + (machine.Board?.Watts ?? Board)
            + machine.Now.At.Sum(at =>
                (at.Key.Kind, machine.Parts[at.Value].Watts) switch
                {
                    (PlaceKind.Memory, var w) => w ?? Stick,
                    (PlaceKind.Storage, var w) => w ?? Drive,
                    (PlaceKind.Fan or PlaceKind.Pump, var w) => w ?? Fan,
                    (PlaceKind.Other, var w) => w ?? 0,
                    _ => 0,
                }
            );
        return new PowerEstimate(most, (int)Math.Ceiling(most * Margin));
    }
}
