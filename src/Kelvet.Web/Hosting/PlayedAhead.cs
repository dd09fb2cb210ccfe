using System.Collections.Concurrent;
using Kelvet.Core.Planning;
using Kelvet.Core.Training;

namespace Kelvet.Web.Hosting;

/// <summary>
/// What searches may still take, played out once for each log and kept. It takes seconds: one is played at a time, so that the
/// benches keep a processor, and only for whoever asks.
/// </summary>
public sealed class PlayedAhead : IDisposable
{
    private const int MostJobs = 100;

    private readonly ConcurrentDictionary<int, (Head Head, SearchAhead Ahead)> _known = new();
    private readonly SemaphoreSlim _one = new(1);

    /// <summary>What a log was like when it was played: a reading itself is too large to be kept for it.</summary>
    private sealed record Head(int Lines, Guid Last, string Rules)
    {
        public static Head Of(Reading reading)
        {
            var entries = reading.Diagnosis.Job.Entries;
            return new(entries.Length, entries.IsEmpty ? Guid.Empty : entries[^1].Id, reading.Rules.Set.Id);
        }
    }

    /// <summary>What is known for a log; null where it was not played.</summary>
    public SearchAhead? Known(int number, Reading reading) =>
        _known.TryGetValue(number, out var known) && known.Head == Head.Of(reading) ? known.Ahead : null;

    /// <summary>Plays it, or waits for whoever plays it.</summary>
    /// <exception cref="OperationCanceledException">Whoever asked has gone.</exception>
    public async Task<SearchAhead> OfAsync(int number, Reading reading, CancellationToken cancel)
    {
        await _one.WaitAsync(cancel);
        try
        {
            if (Known(number, reading) is { } known)
                return known;
            var ahead = await Task.Run(
                () => Ahead.Of(reading.Diagnosis, reading.Rules.School, reading.Rules.Preferences, cancel: cancel),
                cancel
            );
            if (_known.Count >= MostJobs)
                _known.Clear();
            _known[number] = (Head.Of(reading), ahead);
            return ahead;
        }
        finally
        {
            _one.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _one.Dispose();
}
