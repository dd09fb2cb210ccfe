using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>What is to be ordered.</summary>
/// <param name="Unit">The part, by kind, name and what is known of it.</param>
/// <param name="Job">Number of the job that waits for it; null where it is for the shelf.</param>
/// <param name="Supplier">From whom, at most <see cref="Orders.Longest"/> characters; may be empty.</param>
/// <param name="Price">Price of one, 0 to <see cref="SettledEntry.MostPrice"/>; null where it is not known.</param>
/// <param name="Pieces">How many.</param>
/// <param name="Expected">When it is expected; null where nobody said.</param>
/// <param name="Needs">What it has to match.</param>
/// <param name="Why">Why it is got.</param>
public sealed record Wanted(Unit Unit, int? Job, string Supplier, decimal? Price, int Pieces, DateOnly? Expected, string Needs, string Why)
{
    /// <summary>The part of the job that is sent out to be mended; null where a part is bought.</summary>
    public UnitId? Repairs { get; init; }
}

/// <summary>What is ordered, from whom, and what became of it.</summary>
public sealed class Orders(KelvetDb db, Desk desk, Shop shop, TimeProvider clock)
{
    /// <summary>Longest name of a seller.</summary>
    public const int Longest = 60;

    /// <summary>Longest note of needs, reasons and what is wrong.</summary>
    public const int LongestNote = 400;

    /// <summary>Orders that are not done with, the oldest first; with those that are, the newest first.</summary>
    public async Task<IReadOnlyList<(OrderRow Row, Unit Unit)>> ListAsync(bool all, CancellationToken cancel = default)
    {
        var rows = await db
            .Orders.AsNoTracking()
            .Where(o => all || o.State == OrderState.ToSend || o.State == OrderState.Ordered || o.State == OrderState.ToReturn)
            .OrderBy(o => o.Id)
            .Take(500)
            .ToListAsync(cancel);
        return Read(rows);
    }

    /// <summary>The orders of a job, the oldest first.</summary>
    public async Task<IReadOnlyList<(OrderRow Row, Unit Unit)>> OfJobAsync(int job, CancellationToken cancel = default) =>
        Read(await db.Orders.AsNoTracking().Where(o => o.JobNumber == job).OrderBy(o => o.Id).ToListAsync(cancel));

    /// <summary>Sellers that the shop knows, by name.</summary>
    public async Task<IReadOnlyList<SupplierRow>> SuppliersAsync(CancellationToken cancel = default) =>
        await db.Suppliers.AsNoTracking().OrderBy(s => s.Name).ToListAsync(cancel);

    /// <summary>Keeps a seller, or changes what is kept of one by that name.</summary>
    /// <exception cref="EntryRefusedException">It has no name, or something is too long.</exception>
    public async Task KeepSupplierAsync(string name, string email, string phone, int? returnDays, CancellationToken cancel = default)
    {
        if (name.Length is 0 or > Longest)
            throw new EntryRefusedException($"Say the seller's name, in 1 to {Longest} characters.");
        if (email.Length > 120 || phone.Length > 40)
            throw new EntryRefusedException("An e-mail address has at most 120 characters, a phone number 40.");
        if (returnDays is < 0 or > 730)
            throw new EntryRefusedException("A seller takes things back within 0 to 730 days.");
        var row = await db.Suppliers.FirstOrDefaultAsync(s => s.Name == name, cancel);
        if (row is null)
            db.Suppliers.Add(row = new SupplierRow { Name = name });
        (row.Email, row.Phone, row.ReturnDays) = (email, phone, returnDays);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Writes down what is to be ordered; a job waits for it from now on.</summary>
    /// <returns>Its id.</returns>
    /// <exception cref="EntryRefusedException">Something of it cannot be; the message says what.</exception>
    public async Task<int> AddAsync(Wanted wanted, DeskRules rules, CancellationToken cancel = default)
    {
        if (wanted.Pieces is < 1 or > PartMove.MostPieces)
            throw new EntryRefusedException($"Order 1 to {PartMove.MostPieces}.");
        if (wanted.Job is not null && wanted.Pieces != 1)
            throw new EntryRefusedException("A job waits for one part at a time: order further ones by themselves, or for the shelf.");
        if (wanted.Price is < 0 or > SettledEntry.MostPrice)
            throw new EntryRefusedException($"A part costs 0 to {SettledEntry.MostPrice:N0}.");
        if (wanted.Supplier.Length > Longest)
            throw new EntryRefusedException($"A seller's name has at most {Longest} characters.");
        if (wanted.Needs.Length > LongestNote || wanted.Why.Length > LongestNote)
            throw new EntryRefusedException($"What it has to match, and why, have at most {LongestNote} characters each.");
        if (wanted.Repairs is not null && (wanted.Job is null || wanted.Supplier.Length == 0 || wanted.Price is null))
            throw new EntryRefusedException("Say to whom it is sent out, and what that may cost at most.");
        if (wanted.Job is { } of)
            await desk.CheckMayComeAsync(of, wanted.Unit, rules, cancel);
        if (wanted is { Job: { } sends, Repairs: { } goes })
            await desk.CheckMayGoAsync(sends, goes, cancel);
        var row = new OrderRow
        {
            JobNumber = wanted.Job,
            UnitJson = JobFormat.Write(wanted.Unit),
            Needs = wanted.Needs,
            Why = wanted.Why,
            Supplier = wanted.Supplier,
            Price = wanted.Price is { } price ? (long)Math.Round(price * 100, MidpointRounding.AwayFromZero) : null,
            Pieces = wanted.Pieces,
            Expected = wanted.Expected,
            By = rules.By,
            AtUtc = Now(),
            ArrivalId = Guid.NewGuid(),
            Repairs = wanted.Repairs?.Value ?? "",
        };
        await using (var writing = await db.WriteAsync(cancel))
        {
            db.Orders.Add(row);
            await db.SaveChangesAsync(cancel);
            await writing.CommitAsync(cancel);
        }

        if (wanted.Job is { } job)
            await WaitAsync(job, row, wanted.Unit, cancel);
        return row.Id;
    }

    /// <summary>An order goes a step on.</summary>
    /// <param name="id">The order.</param>
    /// <param name="to">Where to.</param>
    /// <param name="wrong">What is wrong with it, where that has to be said; what is ordered in its stead is another order.</param>
    /// <param name="rules">What the bench is under, for what comes to a job.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="EntryRefusedException">There is no such order or step, why is not said, or the job does not take it.</exception>
    /// <exception cref="EntryRefusedException">There is no such order or step, why is not said, or the job does not take it.</exception>
    public Task<OrderRow> StepAsync(int id, OrderState to, string wrong, DeskRules rules, CancellationToken cancel = default) =>
        StepAsync(id, to, wrong, null, rules, cancel);

    /// <summary>The same, with what it came to.</summary>
    /// <param name="id">The order.</param>
    /// <param name="to">Where to.</param>
    /// <param name="wrong">What is wrong with it, or why it was not mended.</param>
    /// <param name="charged">What it came to, 0 to <see cref="SettledEntry.MostPrice"/>; null for what was agreed.</param>
    /// <param name="rules">What the bench is under, for what comes to a job.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="EntryRefusedException">There is no such order or step, why is not said, or the job does not take it.</exception>
    public async Task<OrderRow> StepAsync(
        int id,
        OrderState to,
        string wrong,
        decimal? charged,
        DeskRules rules,
        CancellationToken cancel = default
    )
    {
        var row =
            await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Id == id, cancel)
            ?? throw new EntryRefusedException($"There is no order {id}.");
        if (row.State == to)
            return row;
        var step =
            OrderStep.Find(row.State, to, row.Kind)
            ?? throw new EntryRefusedException(
                $"Order {id} is {OrderStep.WordsOf(row.State, row.Kind)}: it cannot be {OrderStep.WordsOf(to, row.Kind)} next."
            );
        if (charged is < 0 or > SettledEntry.MostPrice)
            throw new EntryRefusedException($"What it came to is 0 to {SettledEntry.MostPrice:N0}.");
        if (step.Why && wrong.Length is 0 or > LongestNote)
            throw new EntryRefusedException($"Say what is wrong with it, in 1 to {LongestNote} characters.");
        // The part is in the job before the order says so: a kill between them leaves an order that is pressed again.
        var unit = JobFormat.ReadUnit(row.UnitJson);
        var onJob = row.JobNumber is { } number && await IsOpenAsync(number, cancel) ? row.JobNumber : null;
        if (row.Kind == OrderKind.Repair && onJob is { } sent && to != OrderState.Dropped)
            await TellRepairAsync(sent, row, to, wrong, rules, cancel);
        if (to == OrderState.Arrived && onJob is { } job)
            _ = await desk.RecordWordsAsync(
                job,
                new ArrivalEntry(row.ArrivalId, Bought(unit, row, await SupplierAsync(row, cancel))),
                null,
                Attachments.None,
                rules,
                cancel
            );
        await using var writing = await db.WriteAsync(cancel);
        db.ChangeTracker.Clear();
        row = await db.Orders.FirstAsync(o => o.Id == id, cancel);
        if (OrderStep.Find(row.State, to, row.Kind) is null)
            return row;
        row.State = to;
        if (to == OrderState.Arrived)
            row.ArrivedUtc = Now();
        if (step.Why)
            row.Wrong = wrong;
        if (step.Charged && charged is { } came)
            row.Charged = (long)Math.Round(came * 100, MidpointRounding.AwayFromZero);
        if (row.Kind == OrderKind.Buy && (to is OrderState.Returned || (to is OrderState.Arrived && onJob is null)))
            await OnShelfAsync(row, unit, to, rules.By, cancel);
        await db.SaveChangesAsync(cancel);
        await writing.CommitAsync(cancel);
        if (onJob is { } waiting && to == OrderState.Ordered)
            await WaitAsync(waiting, row, unit, cancel);
        if (onJob is { } back && row.Kind == OrderKind.Repair && (to is OrderState.Returned or OrderState.Dropped))
            _ = await desk.WaitAsync(back, JobWait.None, "", "", null, cancel: cancel);
        return row;
    }

    /// <summary>
    /// What the log says of a part that is sent out: that it went, and what became of it. A part that comes back mended comes as another
    /// part would, and the old one is settled by that. Told twice it is one line.
    /// </summary>
    private async Task TellRepairAsync(int job, OrderRow row, OrderState to, string wrong, DeskRules rules, CancellationToken cancel)
    {
        var unit = new UnitId(row.Repairs);
        var isOut = await desk.IsOutAsync(job, unit, cancel);
        Entry line =
            to == OrderState.Arrived && isOut
                ? new SettledEntry(LineOf(row.ArrivalId, to), unit, Fate.MendedElsewhere, null, "")
                : new NoteEntry(LineOf(row.ArrivalId, to))
                {
                    Note =
                        to == OrderState.Ordered ? $"{JobFormat.ReadUnit(row.UnitJson).Name}: sent out to be mended (order {row.Id})."
                        : to == OrderState.Arrived ? $"{JobFormat.ReadUnit(row.UnitJson).Name}: back, mended (order {row.Id})."
                        : $"{JobFormat.ReadUnit(row.UnitJson).Name}: back, not mended (order {row.Id}): {wrong}",
                };
        _ = await desk.RecordWordsAsync(job, line, null, Attachments.None, rules, cancel);
    }

    /// <summary>Id of the line that tells of a step: the same for the same order and step.</summary>
    private static Guid LineOf(Guid order, OrderState to)
    {
        var bytes = order.ToByteArray();
        bytes[15] ^= (byte)(0x40 + (int)to);
        return new Guid(bytes);
    }

    /// <summary>What comes for nobody, or for a job that is closed, lies on the shelf; what goes back from there is not there.</summary>
    private async Task OnShelfAsync(OrderRow order, Unit unit, OrderState to, string by, CancellationToken cancel)
    {
        var stored = (await shop.WholeShelfAsync()).Parts.FirstOrDefault(p => p.Unit.Id == unit.Id).Row;
        var row = stored is null ? null : await db.Shelf.FirstAsync(s => s.Id == stored.Id, cancel);
        if (row is null)
        {
            // What never lay there does not go from there.
            if (to == OrderState.Returned)
                return;
            row = new ShelfRow { Quantity = 0, UnitJson = JobFormat.Write(Bought(unit, order, await SupplierAsync(order, cancel))) };
            db.Shelf.Add(row);
        }

        var kind = to == OrderState.Returned ? MoveKind.ToSeller : MoveKind.Arrived;
        var left = row.Quantity + (MoveFacts.Of(kind).Owned * order.Pieces);
        if (left < 0)
            throw new EntryRefusedException($"There are only {row.Quantity} of it on the shelf.");
        row.Quantity = left;
        row.Moves.Add(
            new PartMoveRow
            {
                Kind = kind,
                Pieces = order.Pieces,
                By = by,
                AtUtc = Now(),
                Note = order.Supplier,
            }
        );
    }

    private Unit Bought(Unit unit, OrderRow row, SupplierRow? supplier) =>
        unit with
        {
            Bought = DateOnly.FromDateTime(Now()),
            Seller = row.Supplier,
            ReturnDays = supplier?.ReturnDays ?? unit.ReturnDays,
        };

    private Task<SupplierRow?> SupplierAsync(OrderRow row, CancellationToken cancel) =>
        db.Suppliers.AsNoTracking().FirstOrDefaultAsync(s => s.Name == row.Supplier, cancel);

    private Task<bool> IsOpenAsync(int number, CancellationToken cancel) =>
        db.Jobs.AnyAsync(j => j.Number == number && j.ClosedAtUtc == null, cancel);

    private async Task WaitAsync(int job, OrderRow row, Unit unit, CancellationToken cancel) =>
        _ = await desk.WaitAsync(
            job,
            JobWait.Part,
            unit.Name,
            row.Supplier,
            row.Expected is { } day ? day.ToDateTime(new TimeOnly(12, 0), DateTimeKind.Utc) : null,
            cancel: cancel
        );

    private static List<(OrderRow, Unit)> Read(List<OrderRow> rows)
    {
        var read = new List<(OrderRow, Unit)>();
        foreach (var row in rows)
        {
            try
            {
                read.Add((row, JobFormat.ReadUnit(row.UnitJson)));
            }
            catch (DataFileException)
            {
                // What another version wrote is left to it.
            }
        }

        return read;
    }

    private DateTime Now() => clock.GetUtcNow().UtcDateTime;
}
