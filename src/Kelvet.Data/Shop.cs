using Kelvet.Core.Files;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>The shop's name, people, clock and shelf.</summary>
public sealed class Shop(KelvetDb db)
{
    private ShopRow? _row;

    public async Task<ShopRow> RowAsync() => _row ??= await db.Shops.AsNoTracking().OrderBy(s => s.Id).FirstOrDefaultAsync() ?? new ShopRow { Name = "The workshop" };

    /// <summary>The zone that times are shown in; UTC when the stored name is unknown here.</summary>
    public async Task<TimeZoneInfo> TimeZoneAsync() =>
        TimeZoneInfo.TryFindSystemTimeZoneById((await RowAsync()).TimeZone, out var zone) ? zone : TimeZoneInfo.Utc;

    public async Task<IReadOnlyList<string>> TechniciansAsync() => await db.Technicians.Select(t => t.Name).Order().ToListAsync();

    /// <summary>Adds a technician unless the name is there already.</summary>
    public async Task AddTechnicianAsync(string name)
    {
        if (await db.Technicians.AnyAsync(t => t.Name == name)) return;
        db.Technicians.Add(new TechnicianRow { Name = name });
        await db.SaveChangesAsync();
    }

    /// <summary>The known-good parts on the shelf.</summary>
    public async Task<IReadOnlyList<Unit>> ShelfAsync()
    {
        var rows = await db.Shelf.AsNoTracking().OrderBy(s => s.Id).ToListAsync();
        return rows.ConvertAll(r => JobFormat.ReadUnit(r.UnitJson));
    }

    /// <exception cref="DataFileException">The stored text is no unit.</exception>
    public async Task AddToShelfAsync(IEnumerable<Unit> units)
    {
        db.Shelf.AddRange(units.Select(u => new ShelfRow { UnitJson = JobWriter.Write(u) }));
        await db.SaveChangesAsync();
    }

    /// <summary>Changes how the shop works.</summary>
    public async Task ChangeAsync(Action<ShopRow> change)
    {
        var row = await db.Shops.OrderBy(s => s.Id).FirstOrDefaultAsync();
        if (row is null) db.Shops.Add(row = new ShopRow { Name = "The workshop" });
        change(row);
        await db.SaveChangesAsync();
        _row = null;
    }

    public Task NameAsync(string name, string timeZone) => ChangeAsync(row => (row.Name, row.TimeZone) = (name, timeZone));
}
