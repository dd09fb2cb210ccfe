using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Data;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Tests;

/// <summary>What is true of a shop's parts at every instant.</summary>
internal static class Ledger
{
    /// <summary>
    /// Every part has one place: its moves make the quantity that is kept and the machines that it is in, and those are the machines in
    /// which the jobs' own logs have it. A part of a closed job is settled.
    /// </summary>
    public static async Task JudgeAsync(KelvetDb db)
    {
        var jobs = new Dictionary<int, (bool IsClosed, BenchJob Job)>();
        foreach (var row in await db.Jobs.AsNoTracking().ToListAsync())
        {
            var steps = await db.Steps.AsNoTracking().Where(s => s.JobId == row.Id).OrderBy(s => s.Number).ToListAsync();
            var job = BenchJob.Open(JobFormat.ReadIntake(row.IntakeJson)).With(steps.Select(s => JobFormat.ReadEntry(s.Body)));
            jobs[row.Number] = (row.ClosedAtUtc is not null, job);
        }

        Assert.All(jobs.Values, j => Assert.True(!j.IsClosed || Settling.Open(j.Job).IsEmpty));
        var uses = (await db.ShelfUses.AsNoTracking().ToListAsync()).ToLookup(u => u.ShelfId, u => u.JobNumber);
        foreach (var row in await db.Shelf.AsNoTracking().Include(s => s.Moves).ToListAsync())
        {
            var life = PartLife.Of(row.Moves.OrderBy(m => m.Id).Select(m => m.Read()));
            var unit = JobFormat.ReadUnit(row.UnitJson);
            Assert.Equal(row.Quantity, life.Owned);
            Assert.Equal(uses[row.Id].Order(), life.InJobs.AsEnumerable());
            if (unit.Origin != Origin.Shelf)
                continue;
            // Of a closed job what was sold is not the shop's any more, and what was not lent is out.
            var fitted = jobs.Where(j => j.Value.Job.Now.Now.Has(unit.Id) && (!j.Value.IsClosed || IsLent(j.Value.Job, unit.Id)));
            Assert.Equal(fitted.Select(j => j.Key).Order(), life.InJobs.AsEnumerable());
        }
    }

    private static bool IsLent(BenchJob job, UnitId unit) =>
        Settling.Of(job).Any(p => p.Unit.Id == unit && p is { Stray: Stray.OursIn, Said.Fate: Fate.Lent });
}
