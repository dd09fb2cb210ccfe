using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Web.Drawing;

/// <summary>
/// Where things lie on a board of one size, in millimetres: along the rear edge from the right, and from the rear edge to the
/// front, as it lies on the bench with its rear edge away from the technician. Outlines as in <see cref="BoardForm"/>; where
/// makers put their parts is common practice with no source, drawn a little apart so that each can be pointed at.
/// </summary>
/// <param name="Form">The outline.</param>
/// <param name="Width">Along the rear edge.</param>
/// <param name="Depth">From the rear edge to the front.</param>
/// <param name="MostCards">Expansion slots that have room.</param>
/// <param name="MostSticks">Memory slots that have room.</param>
/// <param name="Socket">The CPU's socket with its frame and cooler.</param>
/// <param name="Memory">All memory slots together.</param>
/// <param name="MainPlug">The 24-pin plug.</param>
/// <param name="CpuPlug">The CPU's power plug.</param>
/// <param name="Cell">The coin cell.</param>
/// <param name="Chip">The firmware chip.</param>
/// <param name="Lights">Indicators and code display.</param>
/// <param name="Header">The front-panel header.</param>
/// <param name="FirstCard">Middle of the first expansion slot, from the right.</param>
/// <param name="Holes">Mounting holes.</param>
public sealed record BoardPlan(
    BoardForm Form,
    double Width,
    double Depth,
    int MostCards,
    int MostSticks,
    Box Socket,
    Box Memory,
    Box MainPlug,
    Box CpuPlug,
    Box Cell,
    Box Chip,
    Box Lights,
    Box Header,
    double FirstCard,
    ImmutableArray<(double FromRight, double FromRear)> Holes
)
{
    /// <summary>One entry for each outline, smallest first.</summary>
    public static ImmutableArray<BoardPlan> All { get; } =
    [
        new(
            BoardForm.Mini,
            170,
            170,
            1,
            4,
            new(20, 27, 105, 60),
            new(14, 94, 118, 54),
            new(76, 158, 50, 11),
            new(2, 38, 8, 22),
            new(127, 62, 18, 18),
            new(128, 36, 15, 15),
            new(8, 151, 62, 17),
            new(132, 153, 34, 13),
            157,
            [(6, 10), (6, 164), (164, 10), (164, 164)]
        ),
        new(
            BoardForm.Office,
            229,
            203,
            4,
            4,
            new(20, 31, 105, 72),
            new(14, 110, 124, 66),
            new(78, 191, 50, 11),
            new(2, 44, 8, 22),
            new(129, 76, 18, 18),
            new(130, 46, 15, 15),
            new(8, 184, 68, 17),
            new(180, 186, 44, 13),
            164,
            [(6, 10), (6, 197), (223, 10), (223, 197)]
        ),
        new(
            BoardForm.Micro,
            244,
            244,
            4,
            8,
            new(20, 36, 105, 76),
            new(14, 118, 126, 108),
            new(82, 232, 50, 11),
            new(2, 50, 8, 24),
            new(128, 92, 18, 18),
            new(129, 52, 18, 18),
            new(8, 226, 70, 16),
            new(200, 228, 40, 13),
            166,
            [(7, 10), (7, 165), (7, 237), (150, 10), (236, 10), (236, 165), (236, 237)]
        ),
        new(
            BoardForm.Full,
            305,
            244,
            8,
            16,
            new(20, 36, 105, 76),
            new(14, 118, 126, 108),
            new(82, 232, 50, 11),
            new(2, 50, 8, 24),
            new(128, 92, 18, 18),
            new(129, 52, 18, 18),
            new(8, 226, 70, 16),
            new(250, 228, 50, 13),
            166,
            [(7, 10), (7, 165), (7, 237), (150, 10), (298, 10), (298, 165), (298, 237)]
        ),
    ];

    /// <summary>The outline that was recorded, or the smallest usual one; a larger one where the board has more slots than that
    /// holds.</summary>
    public static BoardPlan Of(Motherboard board)
    {
        var form =
            board.Form
            ?? (
                board.CardSlots.Length > 4 ? BoardForm.Full
                : board is { CardSlots.Length: <= 1, Slots.Length: <= 2 } ? BoardForm.Mini
                : BoardForm.Micro
            );
        var from = All.Single(p => p.Form == form);
        return All.SkipWhile(p => p != from)
            .First(p => p.Form == BoardForm.Full || (board.CardSlots.Length <= p.MostCards && board.Slots.Length <= p.MostSticks));
    }
}
