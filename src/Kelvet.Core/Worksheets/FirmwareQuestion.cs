using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Worksheets;

/// <summary>Whether a board's firmware knows the CPU in it.</summary>
public enum FirmwareState
{
    /// <summary>It does: the version is as new as the CPU needs, or newer.</summary>
    KnowsIt,

    /// <summary>It does not.</summary>
    TooOld,

    /// <summary>The board's version is not known.</summary>
    VersionUnknown,

    /// <summary>What the CPU needs is not known.</summary>
    NeedUnknown,

    /// <summary>Neither is known.</summary>
    BothUnknown,
}

/// <summary>A way to settle whether the firmware is why.</summary>
public enum FirmwareWay
{
    /// <summary>The sticker on the flash chip, or on the board's box.</summary>
    ReadSticker,

    /// <summary>The board maker's list of CPUs, for this revision.</summary>
    LookUpList,

    /// <summary>Flashed by the board itself, without a CPU.</summary>
    FlashWithoutCpu,

    /// <summary>An older CPU that the firmware knows, then flashed.</summary>
    OlderCpu,

    /// <summary>The seller asked for what was on it when it was sold, or to flash it.</summary>
    AskSeller,
}

/// <summary>A way, what it takes, and whether it also puts it right.</summary>
/// <param name="Way">The way.</param>
/// <param name="Minutes">Bench minutes.</param>
/// <param name="Mends">Whether the CPU is known afterwards; false for one that only tells.</param>
/// <param name="Cpu">The older CPU; null for other ways.</param>
/// <param name="Changes">What is done at the bench for a first start; empty where nothing is, or it is not known how.</param>
public sealed record FirmwareOption(FirmwareWay Way, double Minutes, bool Mends, Cpu? Cpu, ImmutableArray<Change> Changes);

/// <summary>The question whether a board's firmware knows its CPU, and what settles it cheapest.</summary>
/// <param name="Board">The board.</param>
/// <param name="Cpu">The CPU in it.</param>
/// <param name="Least">The least version that it needs; null when not known.</param>
/// <param name="IsFromList">Whether that is from a support list.</param>
/// <param name="State">How it stands.</param>
/// <param name="Options">What settles it, cheapest first; what only tells before what mends at the same cost.</param>
public sealed record FirmwareQuestion(
    Motherboard Board,
    Cpu Cpu,
    int? Least,
    bool IsFromList,
    FirmwareState State,
    ImmutableArray<FirmwareOption> Options
)
{
    /// <summary>The question in a job as it stands; null where it has no board or no CPU.</summary>
    /// <param name="job">The job.</param>
    /// <param name="list">The shop's support list.</param>
    /// <param name="work">Bench times.</param>
    /// <param name="shelf">CPUs of the shop that are not in the job yet.</param>
    public static FirmwareQuestion? Of(BenchJob job, SupportList list, Faults.WorkTimes work, IEnumerable<Cpu>? shelf = null)
    {
        if (job.Now is not { Board: { } board, Cpu: { } cpu })
            return null;
        var listed = list.LeastFor(board, cpu);
        var least = cpu.NeedsFirmware ?? listed;
        // Flashed since: it is as new as it gets.
        var flashed = job.Now.Mended(board.Id, Remedy.Flash);
        var starts = job.Trials.Any(t => t.Seen.ShowsPicture && t.Situation.Cpu?.Id == cpu.Id && t.Situation.Board?.Id == board.Id);
        var state =
            least == 0 || flashed || starts
                ? FirmwareState.KnowsIt
                : (least, board.Firmware) switch
                {
                    (null, null) => FirmwareState.BothUnknown,
                    (null, _) => FirmwareState.NeedUnknown,
                    (_, null) => FirmwareState.VersionUnknown,
                    var (needed, has) => has >= needed ? FirmwareState.KnowsIt : FirmwareState.TooOld,
                };
        return new FirmwareQuestion(
            board,
            cpu,
            least,
            cpu.NeedsFirmware is null && listed is not null,
            state,
            state == FirmwareState.KnowsIt
                ? []
                : [.. Ways(job, board, cpu, list, state, work, shelf ?? []).OrderBy(o => o.Minutes).ThenBy(o => o.Mends)]
        );
    }

    /// <summary>Bench minutes of looking at a sticker, into a list, and of a call. Bench judgement.</summary>
    private const double Sticker = 1,
        Lookup = 3,
        Call = 8;

    private static IEnumerable<FirmwareOption> Ways(
        BenchJob job,
        Motherboard board,
        Cpu cpu,
        SupportList list,
        FirmwareState state,
        Faults.WorkTimes work,
        IEnumerable<Cpu> shelf
    )
    {
        var now = job.Now;
        var versionOpen = state is FirmwareState.VersionUnknown or FirmwareState.BothUnknown;
        if (versionOpen)
            yield return new(FirmwareWay.ReadSticker, Sticker + work.Power.Value, false, null, []);
        if (state is FirmwareState.NeedUnknown or FirmwareState.BothUnknown)
            yield return new(FirmwareWay.LookUpList, Lookup, false, null, []);
        var flash = new Change.Mend(Remedy.Flash, board.Id);
        var flashing = work.Mend[Remedy.Flash].Value;
        if (board.FlashesWithoutCpu)
            yield return new(FirmwareWay.FlashWithoutCpu, flashing, true, null, [flash]);
        else
        {
            var own = now.Parts.All.OfType<Cpu>().Where(c => c.Id != cpu.Id && !c.IsAway);
            foreach (var older in own.Concat(shelf.Where(c => !now.Parts.Has(c.Id))).Where(c => IsNative(board, c, list)))
            {
                // One of the shelf that is not in the job yet is fetched first.
                var swap = new Change.Swap(cpu.Id, older.Id);
                ImmutableArray<Change> changes = now.TryAfter(swap, out _, out _) ? [swap] : [];
                yield return new(FirmwareWay.OlderCpu, (2 * work.Swap[UnitKind.Cpu].Value) + flashing, true, older, changes);
            }
        }

        yield return new(FirmwareWay.AskSeller, Call, false, null, []);
    }

    /// <summary>
    /// Whether a board knows a CPU as it is: by the list and its version, by the version that the CPU is said to need, or, of
    /// one that nothing is said of, by its being the shop's own, which it lends for this.
    /// </summary>
    public static bool IsNative(Motherboard board, Cpu cpu, SupportList list)
    {
        if (
            cpu.Socket.Length > 0
            && board.Socket.Length > 0
            && !string.Equals(cpu.Socket, board.Socket, StringComparison.OrdinalIgnoreCase)
        )
            return false;
        return (cpu.NeedsFirmware ?? list.LeastFor(board, cpu)) is { } needs ? needs <= (board.Firmware ?? 0) : cpu.Origin == Origin.Shelf;
    }
}
