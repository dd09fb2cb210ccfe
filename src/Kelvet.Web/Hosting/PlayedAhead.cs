using System.Collections.Concurrent;
using System.Threading.Channels;
using Kelvet.Core.Planning;
using Kelvet.Core.Training;

namespace Kelvet.Web.Hosting;

/// <summary>How far the playing out of a search is.</summary>
/// <param name="Ahead">What came of it; null while it is not known.</param>
/// <param name="Before">How many are played before it.</param>
/// <param name="Failed">Whether it could not be played.</param>
public sealed record PlayState(SearchAhead? Ahead, int Before = 0, bool Failed = false)
{
    /// <summary>In a word, for whoever asks again.</summary>
    public string Word =>
        Ahead is not null ? "done"
        : Failed ? "failed"
        : "playing";
}

/// <summary>
/// What searches may still take, played out once for each log and kept. It takes seconds of a processor: one is played at a time,
/// beside the bench, and the page that asked shows that it runs. The last that were asked for are played; when more are asked for
/// than wait, the oldest is given up and asked for again by its page.
/// </summary>
public sealed class PlayedAhead : BackgroundService
{
    private const int MostJobs = 100;
    private const int MostWaiting = 8;

    private readonly ConcurrentDictionary<int, (Head Head, SearchAhead? Ahead)> _known = new();
    private readonly ConcurrentDictionary<int, Head> _asked = new();
    private readonly Channel<(int Number, Reading Reading)> _queue;
    private readonly ILogger<PlayedAhead> _log;

    /// <summary>Plays nothing yet.</summary>
    public PlayedAhead(ILogger<PlayedAhead> log)
    {
        _log = log;
        _queue = Channel.CreateBounded<(int Number, Reading Reading)>(
            new BoundedChannelOptions(MostWaiting) { FullMode = BoundedChannelFullMode.DropOldest },
            dropped => _asked.TryRemove(dropped.Number, out _)
        );
    }

    /// <summary>What a log was like when it was played: a reading itself is too large to be kept for it.</summary>
    private sealed record Head(int Lines, Guid Last, string Rules)
    {
        public static Head Of(Reading reading)
        {
            var entries = reading.Diagnosis.Job.Entries;
            return new(entries.Length, entries.IsEmpty ? Guid.Empty : entries[^1].Id, reading.Rules.Set.Id);
        }
    }

    /// <summary>How many are played or wait.</summary>
    public int Running => _asked.Count;

    /// <summary>What is known for a log, and where it is not, it is played from here on.</summary>
    public PlayState Ask(int number, Reading reading)
    {
        var head = Head.Of(reading);
        if (_known.TryGetValue(number, out var known) && known.Head == head)
            return new PlayState(known.Ahead, Failed: known.Ahead is null);
        if (!_asked.TryGetValue(number, out var asked) || asked != head)
        {
            _asked[number] = head;
            _queue.Writer.TryWrite((number, reading));
        }

        return new PlayState(null, Math.Max(0, _asked.Count - 1));
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var (number, reading) in _queue.Reader.ReadAllAsync(stoppingToken))
        {
            var head = Head.Of(reading);
            SearchAhead? ahead = null;
            try
            {
                ahead = await Task.Run(
                    () => Ahead.Of(reading.Diagnosis, reading.Rules.School, reading.Rules.Preferences, cancel: stoppingToken),
                    stoppingToken
                );
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                _log.LogError(e, "The search of job {Job} cannot be played out", number);
            }

            if (_known.Count >= MostJobs)
                _known.Clear();
            _known[number] = (head, ahead);
            _asked.TryRemove(KeyValuePair.Create(number, head));
        }
    }
}
