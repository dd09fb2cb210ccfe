using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <content>What a job does to the shelf: every move of a part is written down where it is made.</content>
public sealed partial class Desk
{
    /// <summary>
    /// What a start says of the shelf's parts that sat in it. One that passed was good then; one that sat in a machine that
    /// smelt, burnt or tripped a breaker is not trusted until it has passed again.
    /// </summary>
    private async Task WeighShelfAsync(StoredJob job, CancellationToken cancel)
    {
        var start = job.Bench.Trials[^1];
        var alarm = start.Entry.Signs.Alarm is not null;
        if (!alarm && !start.Passed)
            return;
        foreach (var row in await OfShelfAsync(start.Situation, cancel))
        {
            if (alarm)
            {
                (row.Condition, row.Why) = (ShelfCondition.Doubtful, $"sat in job {job.Number} when it smelt, burnt or tripped a breaker");
                Move(row, MoveKind.Doubted, job);
                continue;
            }

            row.ProvedUtc = Now();
            if (row is { Condition: ShelfCondition.Doubtful, Why.Length: > 0 })
                (row.Condition, row.Why) = (ShelfCondition.Worn, $"passed in job {job.Number} since it was doubted");
            // Once a job is enough: a machine starts many times.
            if (!await HasMovedAsync(row, MoveKind.Passed, job, cancel))
                Move(row, MoveKind.Passed, job);
        }
    }

    /// <summary>
    /// What a closing does to the shelf, or takes back: what was sold is one less, what was bought and not used or was kept lies there. A
    /// part that was kept is no spare before somebody has tried it.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="closes">Whether it is closed; it is reopened else.</param>
    /// <param name="cancel">Gives up.</param>
    private async Task MoveShelfAsync(StoredJob job, bool closes, CancellationToken cancel)
    {
        var settled = Settling.Of(job.Bench).Where(p => p.Said is not null).ToArray();
        if (settled.Length == 0)
            return;
        var shelf = await db.Shelf.ToListAsync(cancel);
        var sold = settled.Where(p => p is { Stray: Stray.OursIn, Said.Fate: Fate.Sold }).Select(p => p.Unit.Id).ToHashSet();
        foreach (var row in shelf.Where(r => IsOne(r, sold)))
        {
            if (closes)
                Change(row, MoveKind.Sold, job);
            else if (await CountAsync(row, MoveKind.Sold, job, cancel) > await CountAsync(row, MoveKind.Unsold, job, cancel))
                Change(row, MoveKind.Unsold, job);
        }

        foreach (var part in settled.Where(p => p.Said!.Fate is Fate.ToShelf or Fate.Kept))
        {
            // Its line names it for good: closed again after it was reopened, it is the same part.
            var id = new UnitId($"kept-{part.Said!.Id:N}");
            var row = shelf.FirstOrDefault(r => IsOne(r, [id]));
            if (!closes)
            {
                if (row is not null)
                    Change(row, MoveKind.Unkept, job);
                continue;
            }

            if (row is null)
            {
                var kept = part.Said.Fate == Fate.Kept;
                row = new ShelfRow
                {
                    Quantity = 0,
                    UnitJson = JobFormat.Write(part.Unit with { FittedByOwner = false }, id, kept ? Origin.Shelf : part.Unit.Origin),
                    Condition = kept ? ShelfCondition.Doubtful : ShelfCondition.Good,
                    Why = kept ? "kept from a customer's machine, not tried since" : "",
                };
                db.Shelf.Add(row);
            }

            Change(row, MoveKind.Kept, job);
        }
    }

    /// <summary>
    /// Parts of a machine that is the shop's own go to the shelf, once its job is closed. One that a start passed with is a spare; another
    /// is not trusted before it was tried.
    /// </summary>
    /// <param name="number">The job.</param>
    /// <param name="units">The parts.</param>
    /// <param name="rules">Who takes them out.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="EntryRefusedException">The machine is a customer's, or a part is not to be had from it.</exception>
    public Task<DeskAnswer> PartOutAsync(
        int number,
        IReadOnlyCollection<UnitId> units,
        DeskRules rules,
        CancellationToken cancel = default
    ) =>
        RunAsync(
            "part out",
            number,
            job =>
            {
                var own = DropOff.Of(job.Row);
                if (own.Bought is null)
                    throw new EntryRefusedException("This machine is a customer's. Only the shop's own are parted out.");
                if (!job.IsClosed)
                    throw new EntryRefusedException("Close the job first: what is taken out of it while it is open is settled there.");
                foreach (var id in units.Where(u => !own.OnShelf.Contains(u.Value)).Distinct())
                {
                    if (job.Bench.Now.Parts.Find(id) is not { Origin: Origin.Customer, IsAway: false } unit || Settling.StaysAtBench(unit))
                        throw new EntryRefusedException($"There is no part {id} of its own in this machine.");
                    if (job.Found.Contains(id))
                        throw new EntryRefusedException($"{unit.Name} was found at fault: it is no part for the shelf.");
                    if (Settling.Of(job.Bench).Any(s => s.Unit.Id == id && s.Said is not null))
                        throw new EntryRefusedException($"{unit.Name} was settled when the job was closed.");
                    var passed = job.Bench.Trials.Any(t => t.Passed && t.Situation.Now.Has(id));
                    var row = new ShelfRow
                    {
                        Quantity = 0,
                        UnitJson = JobFormat.Write(unit with { FittedByOwner = false }, new UnitId($"own-{number}-{id}"), Origin.Shelf),
                        Condition = passed ? ShelfCondition.Worn : ShelfCondition.Doubtful,
                        Why = passed ? $"passed in job {number}" : $"out of job {number}, in which nothing passed with it",
                        ProvedUtc = passed ? job.Row.ClosedAtUtc : null,
                    };
                    db.Shelf.Add(row);
                    Change(row, MoveKind.FromOwn, job);
                    own = own with { PartedOut = $"{own.PartedOut} {id}".Trim() };
                }

                job.Row.DropOffJson = own.Write();
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>Keeps in which machines the shelf's parts are.</summary>
    private async Task FollowShelfAsync(StoredJob job, CancellationToken cancel)
    {
        var known = await db.ShelfUses.Where(u => u.JobNumber == job.Number).ToListAsync(cancel);
        if (known.Count == 0 && job.Bench.Now.Parts.All.All(u => u.Origin != Origin.Shelf))
            return;
        var rows = job.IsClosed ? await LentAsync(job.Bench, cancel) : await OfShelfAsync(job.Bench.Now, cancel);
        var fitted = rows.ToDictionary(r => r.Id);
        foreach (var gone in known.Where(u => !fitted.ContainsKey(u.ShelfId)))
        {
            db.ShelfUses.Remove(gone);
            if (await db.Shelf.FindAsync([gone.ShelfId], cancel) is { } row)
                Move(row, MoveKind.OutOfJob, job);
        }

        foreach (var row in fitted.Values.Where(r => known.All(u => u.ShelfId != r.Id)))
        {
            db.ShelfUses.Add(new ShelfUseRow { ShelfId = row.Id, JobNumber = job.Number });
            Move(row, MoveKind.IntoJob, job);
        }
    }

    /// <summary>Rows of the parts that a closed job has in its machine still as the shop's own.</summary>
    private async Task<IReadOnlyList<ShelfRow>> LentAsync(BenchJob job, CancellationToken cancel)
    {
        var lent = Settling.Of(job).Where(p => p is { Stray: Stray.OursIn, Said.Fate: Fate.Lent }).Select(p => p.Unit.Id).ToHashSet();
        return lent.Count == 0 ? [] : [.. (await db.Shelf.ToListAsync(cancel)).Where(r => IsOne(r, lent))];
    }

    private async Task<IReadOnlyList<ShelfRow>> OfShelfAsync(Situation machine, CancellationToken cancel)
    {
        var fitted = machine.Now.At.Values.Where(id => machine.Parts[id].Origin == Origin.Shelf).ToHashSet();
        return fitted.Count == 0 ? [] : [.. (await db.Shelf.ToListAsync(cancel)).Where(r => IsOne(r, fitted))];
    }

    private static bool IsOne(ShelfRow row, HashSet<UnitId> fitted)
    {
        try
        {
            return fitted.Contains(JobFormat.ReadUnit(row.UnitJson).Id);
        }
        catch (DataFileException)
        {
            return false;
        }
    }

    /// <summary>Refuses a part that is got before what may restore the old one was tried: at ordering as at its coming.</summary>
    /// <exception cref="EntryRefusedException">It is held back, or there is no such job; the message says what is to be tried.</exception>
    public async Task CheckMayComeAsync(int number, Unit comes, DeskRules rules, CancellationToken cancel = default)
    {
        var job = await jobs.FindAsync(number, cancel) ?? throw new EntryRefusedException($"There is no job {number}.");
        if (job.IsClosed)
            throw new EntryRefusedException($"Job {number} is closed. Reopen it to order for it.");
        CheckMayCome(job, comes, rules);
    }

    /// <summary>Refuses to send out a part that is in the machine still, or that is not its owner's.</summary>
    /// <exception cref="EntryRefusedException">It is; the message says what to do.</exception>
    public async Task CheckMayGoAsync(int number, UnitId goes, CancellationToken cancel = default)
    {
        var job = await jobs.FindAsync(number, cancel) ?? throw new EntryRefusedException($"There is no job {number}.");
        if (job.Bench.Now.Parts.Find(goes) is not { Origin: Origin.Customer } unit)
            throw new EntryRefusedException("That is no part of the owner's in this job. Choose one that came in.");
        // A board takes what is on it along: it is swapped for the mended one, and not taken out in between.
        if (job.Bench.Now.Now.Has(goes) && unit is not Motherboard)
            throw new EntryRefusedException($"{unit.Name} is in the machine. Take it out at the bench first.");
    }

    /// <summary>Whether a part of a job is out of its machine.</summary>
    public async Task<bool> IsOutAsync(int number, UnitId unit, CancellationToken cancel = default) =>
        await jobs.FindAsync(number, cancel) is { } job && !job.Bench.Now.Now.Has(unit);

    private static void CheckMayCome(StoredJob job, Unit comes, DeskRules rules)
    {
        if (ReplacementGate.HeldAgainst(job.Bench, comes, Atlas.Standard, rules.Preferences) is { } held)
            throw new EntryRefusedException(Held(job.Bench, held, rules));
    }

    /// <summary>A move that makes one piece more or less: what is not there does not go.</summary>
    private void Change(ShelfRow row, MoveKind kind, StoredJob job)
    {
        var by = MoveFacts.Of(kind).Owned;
        if (row.Quantity + by < 0)
            return;
        row.Quantity += by;
        Move(row, kind, job);
    }

    private void Move(ShelfRow row, MoveKind kind, StoredJob job) =>
        row.Moves.Add(
            new PartMoveRow
            {
                Kind = kind,
                Pieces = 1,
                JobNumber = job.Number,
                By = job.Bench.Entries.LastOrDefault()?.By ?? "",
                AtUtc = Now(),
            }
        );

    private async Task<bool> HasMovedAsync(ShelfRow row, MoveKind kind, StoredJob job, CancellationToken cancel) =>
        await CountAsync(row, kind, job, cancel) > 0;

    private Task<int> CountAsync(ShelfRow row, MoveKind kind, StoredJob job, CancellationToken cancel) =>
        db.PartMoves.CountAsync(m => m.ShelfId == row.Id && m.Kind == kind && m.JobNumber == job.Number, cancel);
}
