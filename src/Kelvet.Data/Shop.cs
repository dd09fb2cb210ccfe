using System.Text.Json;
using Kelvet.Core.Billing;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>The shop's name, people, clock and shelf.</summary>
public sealed class Shop(KelvetDb db, TimeProvider clock)
{
    private ShopRow? _row;

    public async Task<ShopRow> RowAsync() =>
        _row ??= await db.Shops.AsNoTracking().OrderBy(s => s.Id).FirstOrDefaultAsync() ?? new ShopRow { Name = "The workshop" };

    /// <summary>The zone that times are shown in; UTC when the stored name is unknown here.</summary>
    public async Task<TimeZoneInfo> TimeZoneAsync() =>
        TimeZoneInfo.TryFindSystemTimeZoneById((await RowAsync()).TimeZone, out var zone) ? zone : TimeZoneInfo.Utc;

    /// <summary>How it writes its bills.</summary>
    /// <exception cref="DataFileException">What is stored cannot be read.</exception>
    public async Task<BillingTerms> TermsAsync() => BillingTerms.Read((await RowAsync()).BillingJson);

    public async Task<IReadOnlyList<string>> TechniciansAsync() => await db.Technicians.Select(t => t.Name).Order().ToListAsync();

    /// <summary>Adds a technician unless the name is there already.</summary>
    public async Task AddTechnicianAsync(string name)
    {
        if (await db.Technicians.AnyAsync(t => t.Name == name))
            return;
        db.Technicians.Add(new TechnicianRow { Name = name });
        await db.SaveChangesAsync();
    }

    /// <summary>
    /// The parts on the shelf that can be read and that a job may borrow: in use, trusted, there and not in another machine. A
    /// new part that is for sale is no spare for testing.
    /// </summary>
    public async Task<IReadOnlyList<Unit>> ShelfAsync()
    {
        var uses = await UsesAsync();
        return
        [
            .. (await WholeShelfAsync())
                .Parts.Where(p =>
                    !p.Row.Retired
                    && p.Row.Quantity > uses[p.Row.Id].Count()
                    && p.Row.Condition != ShelfCondition.Doubtful
                    && p.Unit.Origin == Origin.Shelf
                )
                .Select(p => p.Unit),
        ];
    }

    /// <summary>Numbers of the jobs in whose machines a part of the shelf is, by its row.</summary>
    public async Task<ILookup<int, int>> UsesAsync() =>
        (await db.ShelfUses.AsNoTracking().OrderBy(u => u.JobNumber).ToListAsync()).ToLookup(u => u.ShelfId, u => u.JobNumber);

    /// <summary>Everything on the shelf, and what of it cannot be read, with the reason.</summary>
    public async Task<(
        IReadOnlyList<(ShelfRow Row, Unit Unit)> Parts,
        IReadOnlyList<(string Text, string Why)> Unreadable
    )> WholeShelfAsync()
    {
        var parts = new List<(ShelfRow, Unit)>();
        var unreadable = new List<(string, string)>();
        foreach (var row in await db.Shelf.AsNoTracking().OrderBy(s => s.Id).ToListAsync())
        {
            try
            {
                parts.Add((row, JobFormat.ReadUnit(row.UnitJson)));
            }
            catch (DataFileException e)
            {
                unreadable.Add((row.UnitJson, e.Message));
            }
        }

        return (parts, unreadable);
    }

    /// <summary>Changes what is kept of a part on the shelf.</summary>
    /// <param name="id">Its row.</param>
    /// <param name="change">The change to the row.</param>
    /// <param name="by">Who changes it.</param>
    /// <param name="unit">The part as it is to be described; null to leave it.</param>
    /// <returns>False when there is no such part.</returns>
    public async Task<bool> ChangeShelfAsync(int id, Action<ShelfRow> change, string by, Unit? unit = null)
    {
        await using var writing = await db.WriteAsync();
        if (await db.Shelf.FindAsync(id) is not { } row)
            return false;
        var (had, retired, position) = (row.Quantity, row.Retired, row.Position);
        change(row);
        if (unit is not null)
            row.UnitJson = JobFormat.Write(unit);
        if (row.Quantity != had)
            Move(row, MoveKind.Counted, by, row.Quantity - had);
        if (row.Retired != retired)
            Move(row, row.Retired ? MoveKind.Retired : MoveKind.BackInUse, by);
        if (row.Position != position)
            Move(row, MoveKind.Placed, by, note: row.Position);
        await db.SaveChangesAsync();
        await writing.CommitAsync();
        return true;
    }

    /// <summary>What happened to a part of the shelf, in order.</summary>
    public async Task<IReadOnlyList<PartMove>> MovesAsync(int id) =>
        [.. (await db.PartMoves.AsNoTracking().Where(m => m.ShelfId == id).OrderBy(m => m.Id).ToListAsync()).Select(m => m.Read())];

    private void Move(ShelfRow row, MoveKind kind, string by, int pieces = 1, string note = "") =>
        row.Moves.Add(
            new PartMoveRow
            {
                Kind = kind,
                Pieces = pieces,
                By = by,
                AtUtc = clock.GetUtcNow().UtcDateTime,
                Note = note,
            }
        );

    /// <summary>What the shop's closed jobs have counted, by mode.</summary>
    public async Task<IReadOnlyDictionary<string, Tally>> TallyAsync() =>
        await db.Tallies.AsNoTracking().ToDictionaryAsync(t => t.Mode, t => new Tally(t.Cases, t.Exposure));

    /// <summary>What they have counted of models of parts.</summary>
    public async Task<IReadOnlyDictionary<UnitModel, ModelTally>> ModelsAsync() =>
        (await db.ModelTallies.AsNoTracking().ToListAsync())
            .Select(t => (Model: UnitModel.Read(t.Model), Tally: new ModelTally(t.Failed, t.Seen)))
            .Where(t => t.Model is not null)
            .ToDictionary(t => t.Model!.Value, t => t.Tally);

    /// <summary>Odds of a rule set that lines were read with; null when it is not kept.</summary>
    public async Task<IReadOnlyDictionary<string, double>?> OddsOfAsync(string rules) =>
        await db.RuleSets.AsNoTracking().FirstOrDefaultAsync(r => r.Id == rules) is { } row
            ? JsonSerializer.Deserialize<Dictionary<string, double>>(row.OddsJson)
            : null;

    /// <summary>Forgets what was learnt: jobs closed until now teach nothing any more.</summary>
    public async Task ForgetAsync(DateTime nowUtc)
    {
        await using var writing = await db.WriteAsync();
        await db.Tallies.ExecuteDeleteAsync();
        await db.ModelTallies.ExecuteDeleteAsync();
        await ChangeAsync(row => row.LearnFromUtc = nowUtc);
        await writing.CommitAsync();
    }

    /// <summary>
    /// Counts what closed jobs taught where nothing has been counted yet: once, after a database of an older version came in.
    /// </summary>
    public async Task CountOnceAsync()
    {
        var since = (await RowAsync()).LearnFromUtc;
        var rows = await db
            .Jobs.Where(j =>
                j.ClosedAtUtc != null && j.ProvedModes != "" && j.TaughtJson == "" && (since == null || j.ClosedAtUtc >= since)
            )
            .ToListAsync();
        if (rows.Count == 0)
            return;
        await using var writing = await db.WriteAsync();
        foreach (var row in rows)
        {
            Intake intake;
            try
            {
                intake = JobFormat.ReadIntake(row.IntakeJson);
            }
            catch (DataFileException)
            {
                continue;
            }

            var taught = Experience.Contribution(
                Atlas.Standard,
                new ProvedJob(intake.Parts, intake.Contexts, [.. row.ProvedModes.Split(' ')])
            );
            row.TaughtJson = JsonSerializer.Serialize(taught);
            foreach (var (mode, tally) in taught)
            {
                var counted = await db.Tallies.FindAsync(mode);
                if (counted is null)
                    db.Tallies.Add(counted = new TallyRow { Mode = mode });
                (counted.Cases, counted.Exposure) = (counted.Cases + tally.Cases, counted.Exposure + tally.Exposure);
            }
        }

        await db.SaveChangesAsync();
        await writing.CommitAsync();
        db.ChangeTracker.Clear();
    }

    /// <exception cref="DataFileException">The stored text is no unit.</exception>
    public async Task AddToShelfAsync(IEnumerable<Unit> units, string by, int quantity = 1, string position = "", int? reorderAt = null)
    {
        foreach (var unit in units)
        {
            var row = new ShelfRow
            {
                UnitJson = JobFormat.Write(unit),
                Quantity = quantity,
                Position = position,
                ReorderAt = reorderAt,
            };
            Move(row, MoveKind.Added, by, quantity);
            db.Shelf.Add(row);
        }

        await db.SaveChangesAsync();
    }

    /// <summary>Changes how the shop works.</summary>
    public async Task ChangeAsync(Action<ShopRow> change)
    {
        var row = await db.Shops.OrderBy(s => s.Id).FirstOrDefaultAsync();
        if (row is null)
            db.Shops.Add(row = new ShopRow { Name = "The workshop" });
        change(row);
        await db.SaveChangesAsync();
        _row = null;
    }

    public Task NameAsync(string name, string timeZone) => ChangeAsync(row => (row.Name, row.TimeZone) = (name, timeZone));
}
