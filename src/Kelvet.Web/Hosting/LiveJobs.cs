using System.Collections.Concurrent;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Threading.Channels;

namespace Kelvet.Web.Hosting;

/// <summary>Tells every bench that has a job open that something about it has changed.</summary>
public sealed class LiveJobs
{
    private readonly ConcurrentDictionary<(int Job, Guid Listener), (Channel<string> News, Channel<bool> Codes)> _listeners = new();

    /// <summary>Tells all who listen to a job.</summary>
    /// <param name="job">Its number.</param>
    /// <param name="what">"line" for a line of the log, "bench" for power or timers.</param>
    public void Tell(int job, string what)
    {
        foreach (var (key, channels) in _listeners)
        {
            if (key.Job == job)
                channels.News.Writer.TryWrite(what);
        }
    }

    /// <summary>Tells that a reader of the job showed something new.</summary>
    public void TellCodes(int job)
    {
        foreach (var (key, channels) in _listeners)
        {
            if (key.Job == job)
                channels.Codes.Writer.TryWrite(true);
        }
    }

    /// <summary>What is told about a job, from now on until the listener goes away: "changed" and "codes".</summary>
    /// <param name="job">Its number.</param>
    /// <param name="codes">What its readers show, for the page.</param>
    /// <param name="cancel">The listener went away.</param>
    public async IAsyncEnumerable<SseItem<string>> ListenAsync(
        int job,
        Func<string> codes,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        // Old news is worthless: a slow listener refreshes once. Codes come in floods and must not push out news.
        var news = Channel.CreateBounded<string>(new BoundedChannelOptions(4) { FullMode = BoundedChannelFullMode.DropOldest });
        var shown = Channel.CreateBounded<bool>(new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropOldest });
        var key = (job, Guid.NewGuid());
        _listeners[key] = (news, shown);
        try
        {
            yield return new SseItem<string>("here", "changed");

            // What came between the page and this connection is not missed.
            yield return new SseItem<string>(codes(), "codes");
            Task<bool>? moreNews = null,
                moreCodes = null;
            while (!cancel.IsCancellationRequested)
            {
                if (news.Reader.TryRead(out var what))
                {
                    yield return new SseItem<string>(what, "changed");
                }
                else if (shown.Reader.TryRead(out _))
                {
                    yield return new SseItem<string>(codes(), "codes");
                }
                else
                {
                    // One wait each at a time: a flood of the one must not pile up waits for the other.
                    moreNews ??= news.Reader.WaitToReadAsync(cancel).AsTask();
                    moreCodes ??= shown.Reader.WaitToReadAsync(cancel).AsTask();
                    await Task.WhenAny(moreNews, moreCodes);
                    if (moreNews.IsCompleted)
                        moreNews = null;
                    if (moreCodes.IsCompleted)
                        moreCodes = null;
                }
            }
        }
        finally
        {
            _listeners.TryRemove(key, out _);
        }
    }
}
