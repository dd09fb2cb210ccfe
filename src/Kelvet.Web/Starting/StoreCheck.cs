using Kelvet.Core.Jobs;
using Kelvet.Core.Text;
using Kelvet.Data;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using SkiaSharp;

namespace Kelvet.Web.Starting;

/// <summary>Reads everything that a shop has stored, as the pages would, and says what is sound and what is not.</summary>
public static class StoreCheck
{
    /// <summary>Reads it.</summary>
    /// <param name="folder">The data folder; a server may run on it.</param>
    /// <param name="told">Where it is told.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>0 where everything is sound, 1 where something is not, 2 where it cannot be read at all.</returns>
    public static async Task<int> RunAsync(string folder, TextWriter told, CancellationToken cancel)
    {
        var file = Path.Combine(folder, Database.FileName);
        if (!File.Exists(file))
        {
            await told.WriteLineAsync($"There is no shop's data in {folder}.");
            return 2;
        }

        try
        {
            return await ReadAsync(folder, file, told, cancel);
        }
        catch (SqliteException e)
        {
            await told.WriteLineAsync($"The database cannot be read: {e.Message}");
            return 2;
        }
    }

    private static async Task<int> ReadAsync(string folder, string file, TextWriter told, CancellationToken cancel)
    {
        var wrong = 0;
        var report = StoreHealth.Check(file);
        await told.WriteLineAsync(report.IsSound ? "database: sound" : $"database: {string.Join("; ", report.Findings)}");
        foreach (var words in report.Words())
            await told.WriteLineAsync($"  {words}");
        wrong += report.IsSound ? 0 : 1;

        var services = new ServiceCollection();
        services.AddLogging();
        services.AddSingleton<IWebHostEnvironment>(new Nowhere());
        Server.AddServices(services, folder);
        await using var provider = services.BuildServiceProvider();
        await using var scope = provider.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
        if ((await db.Database.GetPendingMigrationsAsync(cancel)).Any())
        {
            await told.WriteLineAsync("It is of an older version: start Kelvet on it once, then check it.");
            return 2;
        }

        wrong += await JobsAsync(scope.ServiceProvider, db, told, cancel);
        wrong += await PhotosAsync(db, told, cancel);
        wrong += await RowsAsync(told, "shelf", db.Shelf.Select(s => s.UnitJson), t => JobFormat.ReadUnit(t), cancel);
        wrong += await RowsAsync(told, "catalogue", db.Catalogue.Select(c => c.UnitJson), t => JobFormat.ReadUnit(t), cancel);
        wrong += await RowsAsync(told, "machines", db.Machines.Select(m => m.IntakeJson), t => JobFormat.ReadIntake(t), cancel);
        wrong += await RowsAsync(told, "customers", db.Customers.Select(c => c.Name), t => t, cancel);
        await told.WriteLineAsync(wrong == 0 ? "everything is sound" : $"{wrong} not sound");
        return wrong == 0 ? 0 : 1;
    }

    private static async Task<int> JobsAsync(IServiceProvider services, KelvetDb db, TextWriter told, CancellationToken cancel)
    {
        var store = services.GetRequiredService<JobStore>();
        var judge = services.GetRequiredService<ILineJudge>();
        var (sound, wrong) = (0, 0);
        IReadOnlyList<int> numbers = [];
        try
        {
            numbers = await db.Jobs.AsNoTracking().OrderBy(j => j.Number).Select(j => j.Number).ToListAsync(cancel);
        }
        catch (SqliteException e)
        {
            wrong++;
            await told.WriteLineAsync($"  jobs: {e.Message}");
        }

        foreach (var number in numbers)
        {
            try
            {
                if (await store.FindAsync(number, cancel) is { } job)
                    await judge.JudgeAsync(job, job.Bench.Entries.Length > 0 ? [job.Bench.Entries[^1]] : [], cancel);
                sound++;
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // Whatever goes wrong with one job is told, and the next one is read.
                wrong++;
                await told.WriteLineAsync($"  job {number}: {(JobStore.IsUnreadable(e) ? e.Message : $"{e.GetType().Name}: {e.Message}")}");
            }
        }

        await told.WriteLineAsync($"jobs: {sound} sound{(wrong > 0 ? $", {wrong} not; /jobs/NUMBER/lines shows their lines" : "")}");
        return wrong;
    }

    private static async Task<int> PhotosAsync(KelvetDb db, TextWriter told, CancellationToken cancel)
    {
        var (sound, wrong) = (0, 0);
        List<Guid> ids = [];
        try
        {
            ids = await db.Photos.AsNoTracking().Select(p => p.Id).ToListAsync(cancel);
        }
        catch (SqliteException e)
        {
            wrong++;
            await told.WriteLineAsync($"  photos: {e.Message}");
        }

        foreach (var id in ids)
        {
            try
            {
                using var data = SKData.CreateCopy(
                    await db.Photos.AsNoTracking().Where(p => p.Id == id).Select(p => p.Jpeg).SingleAsync(cancel)
                );
                using var codec = SKCodec.Create(data);
                if (codec is null)
                    throw new DataFileException("it is no picture");
                sound++;
            }
            catch (Exception e) when (e is DataFileException or SqliteException or InvalidOperationException)
            {
                wrong++;
                await told.WriteLineAsync($"  photo {id}: {e.Message}");
            }
        }

        await told.WriteLineAsync($"photos: {sound} sound{(wrong > 0 ? $", {wrong} not" : "")}");
        return wrong;
    }

    private static async Task<int> RowsAsync<T>(
        TextWriter told,
        string what,
        IQueryable<string> rows,
        Func<string, T> read,
        CancellationToken cancel
    )
    {
        var (sound, wrong) = (0, 0);
        try
        {
            foreach (var row in await rows.ToListAsync(cancel))
            {
                try
                {
                    _ = read(row);
                    sound++;
                }
                catch (DataFileException e)
                {
                    wrong++;
                    await told.WriteLineAsync($"  {what}: {e.Message}");
                }
            }
        }
        catch (SqliteException e)
        {
            wrong++;
            await told.WriteLineAsync($"  {what}: {e.Message}");
        }

        await told.WriteLineAsync($"{what}: {sound} sound{(wrong > 0 ? $", {wrong} not" : "")}");
        return wrong;
    }

    /// <summary>No pages are shown.</summary>
    private sealed class Nowhere : IWebHostEnvironment
    {
        public string WebRootPath { get; set; } = AppContext.BaseDirectory;

        public Microsoft.Extensions.FileProviders.IFileProvider WebRootFileProvider { get; set; } =
            new Microsoft.Extensions.FileProviders.NullFileProvider();

        public string ApplicationName { get; set; } = "Kelvet.Web";

        public Microsoft.Extensions.FileProviders.IFileProvider ContentRootFileProvider { get; set; } =
            new Microsoft.Extensions.FileProviders.NullFileProvider();

        public string ContentRootPath { get; set; } = AppContext.BaseDirectory;

        public string EnvironmentName { get; set; } = "Production";
    }
}
