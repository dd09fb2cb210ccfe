using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>Keeps what the list of jobs shows, beside the bench: after a job was opened or changed its card is made anew.</summary>
public sealed class CardKeeper(IServiceScopeFactory scopes, JobNews news, TimeProvider clock, ILogger<CardKeeper> log) : BackgroundService
{
    private static readonly TimeSpan AfterStart = TimeSpan.FromSeconds(5);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            // The first pages after a start have the processor to themselves.
            await Task.Delay(AfterStart, clock, stoppingToken);
            await FillAsync(stoppingToken);
            await foreach (var number in news.ListenAsync(stoppingToken))
            {
                if (number == JobNews.All)
                    await FillAsync(stoppingToken);
                else
                    await KeepAsync(number, stoppingToken);
            }
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
        {
            // The program ends; a card that was not kept is made when it is asked for.
        }
    }

    /// <summary>Jobs of an older version have none yet. What cannot be filled now is made when it is asked for.</summary>
    private async Task FillAsync(CancellationToken cancel)
    {
        try
        {
            IReadOnlyList<int> without;
            await using (var scope = scopes.CreateAsyncScope())
                without = await scope.ServiceProvider.GetRequiredService<JobStore>().WithoutCardAsync(cancel);
            foreach (var number in without)
                await KeepAsync(number, cancel);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            log.LogWarning("Cards are not filled: {Why}", StoreTroubles.Of(e)?.ToString() ?? e.GetType().Name);
        }
    }

    private async Task KeepAsync(int number, CancellationToken cancel)
    {
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var services = scope.ServiceProvider;
            var store = services.GetRequiredService<JobStore>();
            var readings = services.GetRequiredService<DiagnosisCache>();
            if (await store.FindAsync(number, cancel) is not { } job)
                return;
            var card = JobCard.Of(job, readings.Of(job, await readings.RulesAsync(job)));
            var stamp = JobCard.Stamp(job.Row, job.Bench.Entries.Length, await readings.RulesAsync());
            await store.KeepCardAsync(job.Row.Id, stamp, card.Write(), cancel);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // Whoever lists it works it out, and says why where it cannot be read.
            log.LogDebug(e, "The card of job {Job} is not kept", number);
        }
    }
}
