using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Worksheets;

/// <summary>Two sticks together, on one channel or across two, and what the log says of it.</summary>
/// <param name="One">One stick.</param>
/// <param name="Other">The other.</param>
/// <param name="Channel">The channel that both are on; empty for one on each of two.</param>
public sealed record PairCell(MemoryStick One, MemoryStick Other, string Channel)
{
    /// <summary>Starts that passed with both so, whatever else was in.</summary>
    public int Passed { get; init; }

    /// <summary>Starts that failed with these two and no others.</summary>
    public int Failed { get; init; }

    /// <summary>Starts that failed with both so and others beside them: these may be why.</summary>
    public int FailedBeside { get; init; }

    /// <summary>Whether each passed alone where it was when both failed: then that is theirs together, or their channel's.</summary>
    public bool BothPassedAlone { get; init; }

    /// <summary>What makes the machine so; empty where it is not weighed, or barred.</summary>
    public ImmutableArray<Change> Changes { get; init; } = [];

    /// <summary>Why it cannot be tried, or is not worth it.</summary>
    public CellBar Bar { get; init; }

    /// <summary>What a start of it would tell, bits a bench minute; 0 where it is barred.</summary>
    public double Rate { get; init; }

    /// <summary>Whether they fail together and each of them is sound alone.</summary>
    public bool FailsOnlyTogether => Failed > 0 && Passed == 0 && BothPassedAlone;
}

/// <summary>
/// Pair by channel: what fails only together. Both slots of a channel, sticks of two kits, every slot filled, a speed that two
/// do not carry: no stick by itself in any slot shows any of these.
/// </summary>
/// <param name="Columns">Channels with more than one slot, then the empty name for "across".</param>
/// <param name="Cells">Every pair in every column, row by row.</param>
/// <param name="Best">The one that would tell most; null where none tells anything.</param>
public sealed record MemoryPairs(ImmutableArray<string> Columns, ImmutableArray<PairCell> Cells, PairCell? Best)
{
    /// <summary>Most sticks of which every pair is weighed; of more, pairs are only told of.</summary>
    public const int MostWeighed = 4;

    /// <summary>The pairs of a job; null where its machine has no board, or fewer than two sticks are told of.</summary>
    public static MemoryPairs? Of(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        MemoryStick[] sticks = [.. job.Now.Parts.All.OfType<MemoryStick>().Where(s => !s.IsAway).OrderBy(s => s.Origin).ThenBy(s => s.Id)];
        if (job.Now.Board is not { } board || sticks.Length < 2)
            return null;
        ImmutableArray<string> columns =
        [
            .. board.Channels.Where(c => board.Slots.Count(s => s.Channel == c) > 1),
            .. board.Channels.Count() > 1 ? new[] { "" } : [],
        ];
        var beliefs = new Beliefs(diagnosis);
        var cells = ImmutableArray.CreateBuilder<PairCell>();
        for (var i = 0; i < sticks.Length; i++)
        {
            for (var k = i + 1; k < sticks.Length; k++)
            {
                foreach (var column in columns)
                {
                    var cell = Counted(job, board, new PairCell(sticks[i], sticks[k], column));
                    if (sticks.Length <= MostWeighed)
                    {
                        var slots = SlotsFor(board, column);
                        var wanted = new[] { (sticks[i], slots[0]), (sticks[k], slots[1]) };
                        var (changes, bar, rate) = MemoryArrangement.Weigh(wanted, diagnosis, board, beliefs);
                        cell = cell with { Changes = changes, Bar = bar, Rate = rate };
                    }

                    cells.Add(cell);
                }
            }
        }

        var best = cells.Where(c => c is { Bar: CellBar.None, Rate: > 0 }).MaxBy(c => c.Rate);
        return new MemoryPairs(columns, cells.ToImmutable(), best);
    }

    private static PairCell Counted(BenchJob job, Motherboard board, PairCell cell)
    {
        foreach (var trial in job.Trials)
        {
            var (one, other) = (ChannelOf(trial.Situation, cell.One), ChannelOf(trial.Situation, cell.Other));
            if (one is null || other is null || (cell.Channel.Length > 0 ? one != cell.Channel || other != one : one == other))
                continue;
            if (trial.Passed)
                cell = cell with { Passed = cell.Passed + 1 };
            else if (trial.Failed && trial.Situation.Sticks.Length == 2)
            {
                var alone = trial.Situation.Sticks.All(s => PassedAlone(s.Stick, s.Place));
                cell = cell with { Failed = cell.Failed + 1, BothPassedAlone = cell.BothPassedAlone || alone };
            }
            else if (trial.Failed)
                cell = cell with { FailedBeside = cell.FailedBeside + 1 };
        }

        return cell;

        string? ChannelOf(Situation machine, MemoryStick stick) =>
            machine.Now.PlaceOf(stick.Id) is { } place ? board.Slot(place.Part)?.Channel : null;

        bool PassedAlone(MemoryStick stick, Place place) =>
            job.Trials.Any(t => t.Passed && t.Situation.Sticks is [var only] && only.Stick.Id == stick.Id && only.Place == place);
    }

    /// <summary>Two slots of a channel, or one on each of the first two channels by the board's order.</summary>
    private static MemorySlot[] SlotsFor(Motherboard board, string channel)
    {
        if (channel.Length > 0)
            return [.. board.Slots.Where(s => s.Channel == channel).Take(2)];
        var order = board.UsualOrder.Length > 0 ? board.UsualOrder.Select(n => board.Slot(n)!) : board.Slots;
        return [.. order.GroupBy(s => s.Channel).Take(2).Select(g => g.First())];
    }
}
