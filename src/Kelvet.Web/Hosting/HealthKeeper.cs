using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>Looks through the database once after a start, beside the bench, and holds what was found for the first page.</summary>
public sealed class HealthKeeper(DataFolder folder, JobNews news, ILogger<HealthKeeper> log) : BackgroundService
{
    private readonly string _file = Path.Combine(folder.Path, Database.FileName);

    /// <summary>What the last look found; null before the first.</summary>
    public StoreReport? Last { get; private set; }

    /// <summary>Looks again.</summary>
    public StoreReport Look()
    {
        try
        {
            Last = StoreHealth.Check(_file);
            if (Last.Tables.Contains("Cards") && StoreHealth.DropDerived(_file))
            {
                log.LogWarning("What the list shows of jobs was damaged; it is made anew");
                Last = StoreHealth.Check(_file);
                news.TellAll();
            }
        }
        catch (Exception e) when (StoreTroubles.Of(e) is { } trouble)
        {
            Last = new StoreReport([], [StoreTroubles.Words(trouble)]);
        }

        if (!Last.IsSound)
            log.LogError(
                "The database is damaged: {Tables}; {Findings}",
                string.Join(' ', Last.Tables),
                string.Join("; ", Last.Findings.Take(5))
            );
        return Last;
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await Task.Run(Look, stoppingToken);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            log.LogError(e, "The database could not be looked through");
        }
    }
}
