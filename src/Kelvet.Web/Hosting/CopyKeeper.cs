using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Microsoft.AspNetCore.DataProtection;

namespace Kelvet.Web.Hosting;

/// <summary>
/// Makes copies of the shop's data beside the bench: each day, and after a job was closed, at most one in ten minutes. One is made at
/// a time; what goes wrong is told on the first page until a copy was made again.
/// </summary>
public sealed class CopyKeeper(
    DataFolder folder,
    IServiceScopeFactory scopes,
    JobNews news,
    IDataProtectionProvider seals,
    TimeProvider clock,
    ILogger<CopyKeeper> log
) : BackgroundService
{
    /// <summary>What the passphrase is sealed for.</summary>
    public const string Seal = "Kelvet.Copies";

    private static readonly TimeSpan AfterStart = TimeSpan.FromMinutes(1),
        Daily = TimeSpan.FromHours(24),
        Bounded = TimeSpan.FromMinutes(10),
        LookEvery = TimeSpan.FromMinutes(20);

    private readonly SemaphoreSlim _one = new(1);

    /// <summary>Where copies are made.</summary>
    public CopyRoom Room { get; } = new(folder.Path, HouseRules.Program, clock);

    /// <summary>How the shop wants its copies.</summary>
    public async Task<CopyWishes> WishesAsync()
    {
        await using var scope = scopes.CreateAsyncScope();
        var row = await scope.ServiceProvider.GetRequiredService<Shop>().RowAsync();
        return new CopyWishes(row.CopyFolder, row.CopyDays, row.CopyWeeks, Unsealed(row.CopySealed));
    }

    /// <summary>Makes a copy now.</summary>
    /// <exception cref="DataFileException">There is none; the message says why.</exception>
    public async Task<CopyAt> MakeAsync(CancellationToken cancel)
    {
        await _one.WaitAsync(cancel);
        try
        {
            var wishes = await WishesAsync();
            var started = clock.GetTimestamp();
            var copy = await Task.Run(() => Room.Make(wishes), cancel);
            log.LogInformation(
                "A copy of {Bytes} bytes was made in {Seconds:0.0} s",
                copy.Bytes,
                clock.GetElapsedTime(started).TotalSeconds
            );
            return copy;
        }
        finally
        {
            _one.Release();
        }
    }

    /// <summary>A passphrase as it is kept.</summary>
    public string Sealed(string passphrase) => passphrase.Length == 0 ? "" : seals.CreateProtector(Seal).Protect(passphrase);

    private string Unsealed(string kept)
    {
        if (kept.Length == 0)
            return "";
        try
        {
            return seals.CreateProtector(Seal).Unprotect(kept);
        }
        catch (System.Security.Cryptography.CryptographicException e)
        {
            // Copies that were to be encrypted are not made in the open.
            throw new DataFileException("The passphrase of the copies cannot be opened: say it again on the page Copies.", e);
        }
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var last = default(DateTime?);
        try
        {
            await Task.Delay(AfterStart, clock, stoppingToken);
            while (!stoppingToken.IsCancellationRequested)
            {
                var isDue = Room.Status().LastUtc is not { } made || Now() - made > Daily;
                if (isDue && (last is not { } tried || Now() - tried > TimeSpan.FromHours(1)))
                {
                    last = Now();
                    await TryAsync(stoppingToken);
                }

                if (!await news.ClosedAsync(LookEvery, clock, stoppingToken))
                    continue;
                if (Room.Status().LastUtc is { } before && Bounded - (Now() - before) is var wait && wait > TimeSpan.Zero)
                    await Task.Delay(wait, clock, stoppingToken);
                last = Now();
                await TryAsync(stoppingToken);
            }
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
        {
            // A copy that was under way is swept up by the next one.
        }
    }

    private async Task TryAsync(CancellationToken cancel)
    {
        try
        {
            await MakeAsync(cancel);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            log.LogError("{Why}", e is DataFileException ? e.Message : $"The copy failed: {e.GetType().Name}");
        }
    }

    private DateTime Now() => clock.GetUtcNow().UtcDateTime;

    /// <inheritdoc/>
    public override void Dispose()
    {
        _one.Dispose();
        base.Dispose();
    }
}
