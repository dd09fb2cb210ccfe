using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Worksheets;

/// <summary>Why a cell of the grid cannot be tried.</summary>
public enum CellBar
{
    /// <summary>It can.</summary>
    None,

    /// <summary>It is what the machine is now: a start as it stands tries it.</summary>
    AsItStands,

    /// <summary>The stick is of another generation than the board takes.</summary>
    OtherGeneration,

    /// <summary>The stick is told of and not at hand.</summary>
    NotAtHand,

    /// <summary>The machine may not be powered so.</summary>
    MayNotBePowered,

    /// <summary>Whatever it shows, the suspects stay as they are.</summary>
    TellsNothing,
}

/// <summary>One stick in one slot, and what the log says of it.</summary>
/// <param name="Stick">The stick.</param>
/// <param name="Slot">The slot.</param>
public sealed record GridCell(MemoryStick Stick, MemorySlot Slot)
{
    /// <summary>Starts that passed with this stick alone, in this slot.</summary>
    public int PassedAlone { get; init; }

    /// <summary>Starts that failed with this stick alone, in this slot.</summary>
    public int FailedAlone { get; init; }

    /// <summary>Starts that passed with other sticks beside it: each of them, and each of their slots, is spoken for in full.</summary>
    public int PassedBeside { get; init; }

    /// <summary>Starts that failed with others beside it: any of them may be why.</summary>
    public int FailedBeside { get; init; }

    /// <summary>Most sticks that were in at a failure with others beside it; the blame is shared among so many. 0 for none.</summary>
    public int SharedBy { get; init; }

    /// <summary>Of the failures, those that nothing on the memory's side explains any more: the fault was elsewhere.</summary>
    public int Elsewhere { get; init; }

    /// <summary>Whether the stick is in this slot now.</summary>
    public bool IsNow { get; init; }

    /// <summary>What makes the machine so that this stick is alone in this slot.</summary>
    public ImmutableArray<Change> Changes { get; init; } = [];

    /// <summary>Why it cannot be tried, or is not worth it.</summary>
    public CellBar Bar { get; init; }

    /// <summary>What a start of it would tell, bits a bench minute; 0 where it is barred.</summary>
    public double Rate { get; init; }

    /// <summary>Whether the log has no start of it.</summary>
    public bool IsUntried => PassedAlone + FailedAlone + PassedBeside + FailedBeside == 0;
}

/// <summary>
/// Stick by slot: what the log says of every pairing, filled by itself, and the pairing that would tell most next. A view of
/// the same model as everything else: it decides nothing by itself.
/// </summary>
/// <param name="Sticks">The sticks, those of the customer first.</param>
/// <param name="Slots">The slots in the board's order.</param>
/// <param name="Cells">Every pairing, row by row.</param>
/// <param name="Best">The pairing that would tell most; null where none tells anything.</param>
/// <param name="Alike">Faults of memory, slots, channels and controller that no start so far has told apart.</param>
public sealed record MemoryGrid(
    ImmutableArray<MemoryStick> Sticks,
    ImmutableArray<MemorySlot> Slots,
    ImmutableArray<GridCell> Cells,
    GridCell? Best,
    ImmutableArray<Confusion> Alike
)
{
    /// <summary>Below this a cause on the memory's side explains no failure any more.</summary>
    private const double NotMemory = 0.02;

    /// <summary>The grid of a job; null where its machine has no board.</summary>
    public static MemoryGrid? Of(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        if (job.Now.Board is not { } board)
            return null;
        ImmutableArray<MemoryStick> sticks = [.. job.Now.Parts.All.OfType<MemoryStick>().OrderBy(s => s.Origin).ThenBy(s => s.Id)];
        var memory = diagnosis.Suspects.SelectMany(s => s.Faults).Where(f => IsOfMemory(f.Fault)).ToArray();
        var elsewhere = memory.Sum(f => f.Probability) < NotMemory;
        var beliefs = new Beliefs(diagnosis);
        ImmutableArray<GridCell> cells =
        [
            .. sticks.SelectMany(stick =>
                board.Slots.Select(slot => Weighed(Counted(job, stick, slot, elsewhere), diagnosis, board, beliefs))
            ),
        ];
        var best = cells.Where(c => c.Bar == CellBar.None).MaxBy(c => c.Rate);
        return new MemoryGrid(
            sticks,
            board.Slots,
            cells,
            best is { Rate: > 0 } ? best : null,
            [.. diagnosis.Confusions.Where(c => c.Faults.Any(f => IsOfMemory(f.Fault)))]
        );
    }

    /// <summary>The cell of a stick and a slot.</summary>
    public GridCell this[MemoryStick stick, MemorySlot slot] => Cells.First(c => c.Stick.Id == stick.Id && c.Slot.Name == slot.Name);

    /// <summary>Whether a fault sits on sticks, slots, channels, the controller in the processor, or a kit.</summary>
    public static bool IsOfMemory(Fault fault) =>
        fault.Mode.On
            is FaultSite.MemoryStick
                or FaultSite.MemorySlot
                or FaultSite.MemoryChannel
                or FaultSite.CpuChannel
                or FaultSite.MemoryKit;

    private static GridCell Counted(BenchJob job, MemoryStick stick, MemorySlot slot, bool elsewhere)
    {
        var place = Place.Memory(slot.Name);
        var cell = new GridCell(stick, slot) { IsNow = job.Now.Now[place] == stick.Id };
        foreach (var trial in job.Trials.Where(t => t.Situation.Now[place] == stick.Id))
        {
            var beside = trial.Situation.Sticks.Length - 1;
            if (trial.Passed)
                cell = beside == 0 ? cell with { PassedAlone = cell.PassedAlone + 1 } : cell with { PassedBeside = cell.PassedBeside + 1 };
            else if (trial.Failed && beside == 0)
                cell = cell with { FailedAlone = cell.FailedAlone + 1 };
            else if (trial.Failed)
                cell = cell with { FailedBeside = cell.FailedBeside + 1, SharedBy = Math.Max(cell.SharedBy, beside + 1) };
        }

        return cell with
        {
            Elsewhere = elsewhere ? cell.FailedAlone + cell.FailedBeside : 0,
        };
    }

    private static GridCell Weighed(GridCell cell, BenchDiagnosis diagnosis, Motherboard board, Beliefs beliefs)
    {
        var (changes, bar, rate) = MemoryArrangement.Weigh([(cell.Stick, cell.Slot)], diagnosis, board, beliefs);
        return cell with { Changes = changes, Bar = bar, Rate = rate };
    }
}
