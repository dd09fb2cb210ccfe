using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Threading.Channels;

namespace Kelvet.Web.Hosting;

/// <summary>Tells every bench that has a job open that something about it has changed.</summary>
public sealed class LiveJobs
{
    private readonly ConcurrentDictionary<(int Job, Guid Listener), Channel<string>> _listeners = new();

    /// <summary>Tells all who listen to a job.</summary>
    /// <param name="job">Its number.</param>
    /// <param name="what">"line" for a line of the log, "bench" for power or timers.</param>
    public void Tell(int job, string what)
    {
        foreach (var (key, channel) in _listeners)
        {
            if (key.Job == job) channel.Writer.TryWrite(what);
        }
    }

    /// <summary>What is told about a job, from now on until the listener goes away.</summary>
    public async IAsyncEnumerable<string> ListenAsync(int job, [EnumeratorCancellation] CancellationToken cancel)
    {
        // Old news is worthless: a slow listener refreshes once.
        var channel = Channel.CreateBounded<string>(new BoundedChannelOptions(4) { FullMode = BoundedChannelFullMode.DropOldest });
        var key = (job, Guid.NewGuid());
        _listeners[key] = channel;
        try
        {
            yield return "here";
            await foreach (var what in channel.Reader.ReadAllAsync(cancel)) yield return what;
        }
        finally
        {
            _listeners.TryRemove(key, out _);
        }
    }
}
