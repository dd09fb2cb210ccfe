using System.Threading.Channels;

namespace Kelvet.Data;

/// <summary>Numbers of jobs that were opened or changed, for whoever makes something of them beside the bench.</summary>
public sealed class JobNews
{
    private readonly Channel<int> _changed = Channel.CreateBounded<int>(
        new BoundedChannelOptions(20_000) { FullMode = BoundedChannelFullMode.DropOldest }
    );

    /// <summary>Tells that a job was opened or changed.</summary>
    public void Tell(int number) => _changed.Writer.TryWrite(number);

    private readonly Channel<bool> _closed = Channel.CreateBounded<bool>(
        new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropOldest }
    );

    /// <summary>Tells that a job was closed.</summary>
    public void TellClosed() => _closed.Writer.TryWrite(true);

    /// <summary>Waits until a job is closed, or for a time.</summary>
    /// <returns>Whether one was.</returns>
    public async Task<bool> ClosedAsync(TimeSpan most, TimeProvider clock, CancellationToken cancel)
    {
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        using var timer = clock.CreateTimer(_ => ends.Cancel(), null, most, Timeout.InfiniteTimeSpan);
        try
        {
            return await _closed.Reader.ReadAsync(ends.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return false;
        }
    }

    /// <summary>Number that stands for every job.</summary>
    public const int All = 0;

    /// <summary>Tells that what is kept of every job is to be made anew.</summary>
    public void TellAll() => Tell(All);

    /// <summary>What is told, as it comes.</summary>
    public IAsyncEnumerable<int> ListenAsync(CancellationToken cancel) => _changed.Reader.ReadAllAsync(cancel);
}
