using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;

namespace Kelvet.Data;

/// <content>
/// Writing: one writer at a time in this process, in the order in which they come, so that benches wait for each other and never
/// find the file locked; and a form that was sent with an id is carried out once.
/// </content>
public sealed partial class KelvetDb
{
    /// <summary>Longest that a writer waits for those before it.</summary>
    private static readonly TimeSpan LongestWait = TimeSpan.FromSeconds(15);

    private static readonly ConcurrentDictionary<string, SemaphoreSlim> Queues = new(StringComparer.Ordinal);

    private bool _writes;

    /// <summary>Id of the form that is being carried out; null where it has none. It is kept with the first thing that is
    /// written.</summary>
    public Guid? Sending { get; set; }

    /// <summary>Number of the job that was opened by it; null where none was.</summary>
    public int? Opened { get; set; }

    /// <summary>Whether what was sent as <see cref="Sending"/> has been kept.</summary>
    public bool IsSendingKept { get; private set; }

    /// <summary>
    /// Begins to write: waits for its turn, looks whether the data folder is still the one that was opened, and takes the write
    /// lock of the database. Within another writing it joins that.
    /// </summary>
    /// <exception cref="StoreException">It is busy for too long, or the folder is gone.</exception>
    public async Task<Writing> WriteAsync(CancellationToken cancel = default)
    {
        if (_writes)
            return new Writing(this, null, null);
        var turn = await TurnAsync(cancel);
        try
        {
            _writes = true;
            return new Writing(this, await Database.BeginTransactionAsync(cancel), turn);
        }
        catch
        {
            _writes = false;
            turn.Dispose();
            throw;
        }
    }

    /// <summary>Writes by one statement.</summary>
    /// <param name="statement">The statement.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task DoneAsync(Func<CancellationToken, Task<int>> statement, CancellationToken cancel = default)
    {
        await using var writing = await WriteAsync(cancel);
        await statement(cancel);
        await writing.CommitAsync(cancel);
    }

    /// <summary>Has the database for itself, without a transaction: for what SQLite does outside of one (VACUUM, a copy).</summary>
    public Task<IDisposable> AloneAsync(CancellationToken cancel = default) => TurnAsync(cancel);

    /// <inheritdoc/>
    public override async Task<int> SaveChangesAsync(bool acceptAllChangesOnSuccess, CancellationToken cancellationToken = default)
    {
        if (_writes || Database.CurrentTransaction is not null)
            return await base.SaveChangesAsync(acceptAllChangesOnSuccess, cancellationToken);
        await using var writing = await WriteAsync(cancellationToken);
        var saved = await base.SaveChangesAsync(acceptAllChangesOnSuccess, cancellationToken);
        await writing.CommitAsync(cancellationToken);
        return saved;
    }

    private async Task<IDisposable> TurnAsync(CancellationToken cancel)
    {
        var file = Database.GetDbConnection().DataSource;
        var queue = Queues.GetOrAdd(file, _ => new SemaphoreSlim(1));
        if (!await queue.WaitAsync(LongestWait, cancel))
            throw new StoreException(StoreTrouble.Busy);
        if (FolderWatch.IsGone(file))
        {
            queue.Release();
            throw new StoreException(StoreTrouble.Gone);
        }

        return new Turn(queue);
    }

    /// <summary>Forgets forms that nobody sends again.</summary>
    public Task ForgetSentAsync()
    {
        var before = DateTime.UtcNow - TimeSpan.FromDays(30);
        return DoneAsync(c => Sents.Where(s => s.AtUtc < before).ExecuteDeleteAsync(c));
    }

    /// <summary>Keeps the id of the form that is carried out.</summary>
    private async Task KeepSendingAsync(CancellationToken cancel)
    {
        if (Sending is not { } id || IsSendingKept)
            return;
        var now = DateTime.UtcNow;
        if (
            await Database.ExecuteSqlAsync(
                $"INSERT INTO Sents (Id, AtUtc, Address, Job) VALUES ({id}, {now}, '', {Opened}) ON CONFLICT DO NOTHING",
                cancel
            ) == 0
        )
            throw new SentTwiceException(id);
        IsSendingKept = true;
    }

    private sealed class Turn(SemaphoreSlim queue) : IDisposable
    {
        private SemaphoreSlim? _queue = queue;

        public void Dispose() => Interlocked.Exchange(ref _queue, null)?.Release();
    }

    /// <summary>A writing that is under way; what is not committed when it is disposed of is taken back.</summary>
    public sealed class Writing : IAsyncDisposable
    {
        private readonly KelvetDb _db;
        private readonly IDbContextTransaction? _transaction;
        private readonly IDisposable? _turn;

        internal Writing(KelvetDb db, IDbContextTransaction? transaction, IDisposable? turn) =>
            (_db, _transaction, _turn) = (db, transaction, turn);

        /// <summary>Everything is on the disk when this returns; within another writing, when that is committed.</summary>
        /// <exception cref="SentTwiceException">The same form was carried out before; nothing is kept.</exception>
        public async Task CommitAsync(CancellationToken cancel = default)
        {
            if (_transaction is null)
                return;
            await _db.KeepSendingAsync(cancel);
            // From here on it is written whether or not who sent it still waits.
            await _transaction.CommitAsync(CancellationToken.None);
        }

        /// <inheritdoc/>
        public async ValueTask DisposeAsync()
        {
            if (_transaction is null)
                return;
            try
            {
                await _transaction.DisposeAsync();
            }
            finally
            {
                _db._writes = false;
                _turn?.Dispose();
            }
        }
    }
}

/// <summary>The same form was sent before and has been carried out; nothing was done again.</summary>
public sealed class SentTwiceException : Exception
{
    /// <summary>An exception without words.</summary>
    public SentTwiceException() { }

    /// <summary>An exception that says what is wrong.</summary>
    public SentTwiceException(string message)
        : base(message) { }

    /// <summary>The same, with what caused it.</summary>
    public SentTwiceException(string message, Exception inner)
        : base(message, inner) { }

    /// <summary>An exception for a form.</summary>
    public SentTwiceException(Guid id)
        : base($"The form {id} was carried out before.") { }
}

/// <summary>A form that was carried out, by the id that its page gave it.</summary>
public sealed class SentRow
{
    public Guid Id { get; set; }

    public DateTime AtUtc { get; set; }

    /// <summary>Number of the job that it opened; null where it opened none.</summary>
    public int? Job { get; set; }

    /// <summary>Where it led; empty where the answer was lost.</summary>
    public string Address { get; set; } = "";
}
