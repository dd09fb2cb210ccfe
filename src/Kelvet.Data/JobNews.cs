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

    /// <summary>Number that stands for every job.</summary>
    public const int All = 0;

    /// <summary>Tells that what is kept of every job is to be made anew.</summary>
    public void TellAll() => Tell(All);

    /// <summary>What is told, as it comes.</summary>
    public IAsyncEnumerable<int> ListenAsync(CancellationToken cancel) => _changed.Reader.ReadAllAsync(cancel);
}
