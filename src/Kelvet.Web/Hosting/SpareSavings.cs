using System.Collections.Immutable;
using System.Threading.Channels;
using Kelvet.Core.Machines;
using Kelvet.Core.Training;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>How far the playing of closed jobs is.</summary>
/// <param name="Savings">What came of it, the kind that saved most first; empty before it was asked for.</param>
/// <param name="Played">Jobs that were played.</param>
/// <param name="Of">Jobs that are to be played.</param>
/// <param name="Runs">Whether it runs.</param>
public sealed record SavingsState(ImmutableArray<SpareSaving> Savings, int Played, int Of, bool Runs)
{
    /// <summary>Nothing was asked for yet.</summary>
    public static SavingsState None { get; } = new([], 0, 0, false);
}

/// <summary>Works out beside the bench which spare would have saved most, from the shop's own closed jobs; once for each asking.</summary>
public sealed class SpareSavings(IServiceScopeFactory scopes, HouseRules house, ILogger<SpareSavings> log) : BackgroundService
{
    /// <summary>The last jobs that are played.</summary>
    public const int MostJobs = 30;

    private readonly Channel<bool> _asked = Channel.CreateBounded<bool>(
        new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropWrite }
    );

    /// <summary>How far it is.</summary>
    public SavingsState State { get; private set; } = SavingsState.None;

    /// <summary>Starts it; where it runs already, that is the one.</summary>
    public void Ask()
    {
        if (State.Runs)
            return;
        State = State with { Runs = true };
        _asked.Writer.TryWrite(true);
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var _ in _asked.Reader.ReadAllAsync(stoppingToken))
        {
            try
            {
                await PlayAsync(stoppingToken);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "Which spare would have saved most cannot be worked out");
            }

            State = State with { Runs = false };
        }
    }

    private async Task PlayAsync(CancellationToken cancel)
    {
        var rules = await house.CurrentAsync();
        await using var scope = scopes.CreateAsyncScope();
        var shelf = (await scope.ServiceProvider.GetRequiredService<Shop>().ShelfAsync()).DistinctBy(u => u.Kind).ToArray();
        var jobs = await SolvedAsync(scope.ServiceProvider.GetRequiredService<JobStore>(), cancel);
        var played = new List<ImmutableDictionary<UnitKind, double>>();
        State = new SavingsState([], 0, jobs.Count, true);
        foreach (var (number, solved) in jobs)
        {
            played.Add(
                await Task.Run(() => SpareWorth.Of(solved, shelf, rules.Atlas, rules.School, rules.Preferences, number, cancel), cancel)
            );
            State = new SavingsState(SpareWorth.Together(played, shelf), played.Count, jobs.Count, true);
        }
    }

    private static async Task<IReadOnlyList<(int Number, SolvedJob Solved)>> SolvedAsync(JobStore store, CancellationToken cancel)
    {
        var solved = new List<(int, SolvedJob)>();
        foreach (var number in await store.ProvedAsync(MostJobs, cancel))
        {
            try
            {
                if (await store.FindAsync(number, cancel) is { } job)
                    solved.Add(
                        (
                            number,
                            new SolvedJob(
                                job.Bench,
                                [
                                    .. job.Found.SelectMany(u =>
                                        job.Row.ProvedModes.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(m => (u, m))
                                    ),
                                ]
                            )
                        )
                    );
            }
            catch (Exception e) when (JobStore.IsUnreadable(e))
            {
                // What another version wrote is left out.
            }
        }

        return solved;
    }
}
