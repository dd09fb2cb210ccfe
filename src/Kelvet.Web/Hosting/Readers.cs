using System.Collections.Concurrent;
using System.Collections.Immutable;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Data;
using Kelvet.Devices;

namespace Kelvet.Web.Hosting;

/// <summary>What a reader shows, for a page.</summary>
/// <param name="Up">Whether its wire is up.</param>
/// <param name="Why">Why it is not; empty when it is.</param>
/// <param name="Code">The last code; empty before the first.</param>
/// <param name="Meaning">What the job's tables say of it.</param>
/// <param name="Stands">Since when it stands, milliseconds.</param>
/// <param name="Motion">Stuck, Passing or Cycling.</param>
/// <param name="Total">Codes since the machine was started.</param>
/// <param name="LeftOut">Changes that are not kept any more.</param>
/// <param name="Garbage">Words that were no code.</param>
/// <param name="Recent">The last codes with their seconds, oldest first.</param>
public sealed record ReaderView(
    int Id,
    string Name,
    string Line,
    bool Up,
    string Why,
    string Code,
    string Meaning,
    long Stands,
    string Motion,
    long Total,
    long LeftOut,
    long Garbage,
    IReadOnlyList<ReaderCode> Recent
);

/// <summary>A code in the recent row.</summary>
public sealed record ReaderCode(double Seconds, string Code);

/// <summary>
/// The shop's readers of POST codes: keeps their wires open, and what they show of each job's machine since it was
/// last started, so that it can go with the start.
/// </summary>
public sealed class Readers(IServiceScopeFactory scopes, TimeProvider clock, LiveJobs live, Ending ending, ILogger<Readers> log)
    : BackgroundService
{
    /// <summary>Benches are told of new codes at most this often.</summary>
    private static readonly TimeSpan TellEvery = TimeSpan.FromMilliseconds(100);

    private const int MostRecent = 14;

    private readonly ConcurrentDictionary<int, Reader> _readers = new();
    private readonly ConcurrentDictionary<int, JobCodes> _jobs = new();
    private readonly ConcurrentDictionary<int, bool> _changed = new();
    private readonly SemaphoreSlim _reloading = new(1);

    /// <summary>Takes up readers that were added, plugged or removed.</summary>
    public async Task ReloadAsync()
    {
        await _reloading.WaitAsync();
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var rows = (await scope.ServiceProvider.GetRequiredService<SignalStore>().ReadersAsync()).ToDictionary(r => r.Id);
            foreach (var (id, reader) in _readers)
            {
                if (!rows.ContainsKey(id) && _readers.TryRemove(id, out _))
                    reader.Dispose();
            }

            foreach (var row in rows.Values)
            {
                if (_readers.TryGetValue(row.Id, out var known))
                    known.PlugInto(row.JobNumber);
                else
                    _readers[row.Id] = new Reader(this, row);
            }
        }
        finally
        {
            _reloading.Release();
        }
    }

    /// <summary>The machine of a job is switched on: what its readers show from now on belongs to this start.</summary>
    public void MachineStarted(int job)
    {
        _jobs[job] = new JobCodes(clock);
        foreach (var reader in _readers.Values.Where(r => r.Job == job))
            reader.MachineStarted();
        Changed(job);
    }

    /// <summary>The machine of a job is switched off: what stood on a display stands there no more.</summary>
    public void MachineStopped(int job)
    {
        _jobs[job] = new JobCodes(clock);
        foreach (var reader in _readers.Values.Where(r => r.Job == job))
            reader.MachineStopped();
        Changed(job);
    }

    /// <summary>The codes of the start that is being recorded, by reader, and the notes that go with it; a new row begins.</summary>
    public (Signs Signs, IReadOnlyList<(string Source, CodeLog Codes)> Captures) Take(int job, Signs signs)
    {
        if (!_jobs.TryGetValue(job, out var codes))
            return (signs, []);
        var taken = codes.Take();
        Changed(job);
        return (taken.Length == 0 ? signs : JobCodes.InARow(taken).Into(signs, codes.Now), taken);
    }

    /// <summary>The start was not recorded: what was taken for it belongs to it still.</summary>
    public void PutBack(int job, IReadOnlyList<(string Source, CodeLog Codes)> taken)
    {
        if (_jobs.TryGetValue(job, out var codes))
            codes.PutBack(taken);
    }

    /// <summary>What the readers of a job show.</summary>
    public IReadOnlyList<ReaderView> Shown(int job, SignalLibrary library, ImmutableArray<string> family) =>
        [
            .. _readers
                .Values.Where(r => r.Job == job)
                .OrderBy(r => r.Name, StringComparer.Ordinal)
                .Select(r => r.View(CodesOf(job), library, family)),
        ];

    /// <summary>All readers, for the shop's page.</summary>
    public IReadOnlyList<ReaderView> All() =>
        [.. _readers.Values.OrderBy(r => r.Name, StringComparer.Ordinal).Select(r => r.View(null, SignalLibrary.Standard, []))];

    public override void Dispose()
    {
        // Registered as itself and as a service that runs, it is disposed of twice.
        foreach (var id in _readers.Keys)
        {
            if (_readers.TryRemove(id, out var reader))
                reader.Dispose();
        }

        _reloading.Dispose();
        base.Dispose();
    }

    /// <summary>Why the shop's readers could not be read at the start; empty when they could.</summary>
    public string Problem { get; private set; } = "";

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await ReloadAsync();
        }
        catch (Exception e) when (e is not (OperationCanceledException or ObjectDisposedException))
        {
            // A bench without readers is a bench; whoever looks at the shop page, or at the exit code, is told.
            log.LogError(e, "The readers of POST codes cannot be read");
            Problem = e.Message;
            ending.Fail();
        }

        using var timer = new PeriodicTimer(TellEvery, clock);
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken))
            {
                foreach (var job in _changed.Keys)
                {
                    if (_changed.TryRemove(job, out _))
                        live.TellCodes(job);
                }
            }
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
        {
            // Stopped, also when the server never came to listen.
        }
    }

    private void Faulted(string reader, string why) => log.LogWarning("Reader {Reader} is not there: {Why}", reader, why);

    private JobCodes CodesOf(int job) => _jobs.GetOrAdd(job, _ => new JobCodes(clock));

    private void Changed(int job) => _changed[job] = true;

    /// <summary>What the readers of one machine showed since it was started, a row for each.</summary>
    private sealed class JobCodes(TimeProvider clock)
    {
        private readonly Lock _lock = new();
        private readonly Dictionary<string, CodeLog> _logs = [];
        private readonly long _start = clock.GetTimestamp();

        public double Now => clock.GetElapsedTime(_start).TotalSeconds;

        public void With(string reader, Action<CodeLog, double> act)
        {
            lock (_lock)
            {
                if (!_logs.TryGetValue(reader, out var log))
                    _logs[reader] = log = new CodeLog();
                act(log, Now);
            }
        }

        /// <summary>What readers showed; nothing is added to it any more. The last code goes on standing, since when it did.</summary>
        public (string Source, CodeLog Codes)[] Take()
        {
            lock (_lock)
            {
                (string Source, CodeLog Codes)[] taken =
                [
                    .. _logs
                        .Where(l => l.Value.Current is not null)
                        .OrderBy(l => l.Key, StringComparer.Ordinal)
                        .Select(l => (l.Key, l.Value)),
                ];
                _logs.Clear();
                foreach (var (source, log) in taken)
                {
                    _logs[source] = new CodeLog();
                    _logs[source].Add(log.Current!.Seconds, Convert.ToByte(log.Current.Code, 16));
                }

                return taken;
            }
        }

        /// <summary>Takes codes back, with what came meanwhile behind them.</summary>
        public void PutBack(IReadOnlyList<(string Source, CodeLog Codes)> taken)
        {
            lock (_lock)
            {
                foreach (var (source, log) in taken)
                {
                    // The first of the new row is the last of the old one, which went on standing.
                    if (_logs.TryGetValue(source, out var since))
                    {
                        foreach (var seen in since.Seen.Skip(1))
                            log.Add(seen.Seconds, Convert.ToByte(seen.Code, 16));
                        foreach (var mark in since.Marks)
                            log.Note(mark.Seconds, mark.What);
                    }

                    _logs[source] = log;
                }
            }
        }

        /// <summary>Where one reader took over from another, both in a row; otherwise the one that changed last.</summary>
        public static CodeLog InARow((string Source, CodeLog Codes)[] taken)
        {
            var inOrder = taken.OrderBy(t => t.Codes.Current!.Seconds).Select(t => t.Codes).ToArray();
            if (
                inOrder.Length == 1
                || Enumerable.Range(1, inOrder.Length - 1).Any(i => inOrder[i].Seen.First().Seconds < inOrder[i - 1].Current!.Seconds)
            )
                return inOrder[^1];
            var row = new CodeLog();
            foreach (var seen in inOrder.SelectMany(l => l.Seen))
                row.Add(seen.Seconds, Convert.ToByte(seen.Code, 16));
            return row;
        }
    }

    private sealed class Reader : ICodeSink, IDisposable
    {
        private readonly Readers _all;
        private readonly ICodeLine _line;
        private readonly CancellationTokenSource _stop = new();
        private readonly Lock _lock = new();
        private readonly CodeLog _idle = new();
        private bool _up;
        private string _why = "being opened";
        private long _garbage;

        public Reader(Readers all, ReaderRow row)
        {
            _all = all;
            Id = row.Id;
            Name = row.Name;
            Job = row.JobNumber;
            _line = Open(row);
            _ = CodeReader.RunAsync(_line, this, _stop.Token);
        }

        public int Id { get; }

        public string Name { get; }

        public int? Job { get; private set; }

        public void PlugInto(int? job)
        {
            if (Job == job)
                return;
            Note("taken out of this machine");
            Job = job;
            Note("plugged into this machine");
            MachineStarted();
        }

        public void MachineStarted() => _line.MachineStarted();

        public void MachineStopped() => _line.MachineStopped();

        public void Codes(ReadOnlySpan<byte> codes)
        {
            if (Job is not { } job)
            {
                lock (_lock)
                {
                    foreach (var code in codes)
                        _idle.Add(0, code);
                }

                return;
            }

            var copy = codes.ToArray();
            _all.CodesOf(job)
                .With(
                    Name,
                    (log, now) =>
                    {
                        foreach (var code in copy)
                            log.Add(now, code);
                    }
                );
            _all.Changed(job);
        }

        public void Up()
        {
            (_up, _why) = (true, "");
            Note("reader there");
        }

        public void Down(string why)
        {
            if (_up)
                Note($"reader gone: {why}");
            if (_up || _why != why)
                _all.Faulted(Name, why);
            (_up, _why) = (false, why);
            if (Job is { } job)
                _all.Changed(job);
        }

        public void Garbage(long total) => _garbage = total;

        public ReaderView View(JobCodes? codes, SignalLibrary library, ImmutableArray<string> family)
        {
            ReaderView view = null!;
            if (codes is null)
                lock (_lock)
                    view = Of(_idle, 0);
            else
                codes.With(Name, (log, now) => view = Of(log, now));
            return view;

            ReaderView Of(CodeLog log, double now)
            {
                var current = log.Current;
                var answer = current is null ? null : library.Ask(SignalKind.Post, current.Code, family);
                var meaning =
                    answer is not { Matches: [var first, ..] } ? ""
                    : answer.Disagree ? $"{first.Row.Meaning} ({first.Table.Name}; the tables differ)"
                    : first.Row.Meaning;
                return new ReaderView(
                    Id,
                    Name,
                    _line.Words,
                    _up,
                    _why,
                    current?.Code ?? "",
                    meaning,
                    current is null ? 0 : (long)(1000 * Math.Max(0, now - current.Seconds)),
                    log.MotionAt(now).ToString(),
                    log.Total,
                    log.LeftOut,
                    _garbage,
                    [.. log.Seen.TakeLast(MostRecent).Select(c => new ReaderCode(Math.Round(c.Seconds, 1), c.Code))]
                );
            }
        }

        public void Dispose()
        {
            Note("reader removed");
            _stop.Cancel();
            _stop.Dispose();
            (_line as IDisposable)?.Dispose();
        }

        private void Note(string what)
        {
            if (Job is not { } job)
                return;
            _all.CodesOf(job).With(Name, (log, now) => log.Note(now, what));
            _all.Changed(job);
        }

        private static ICodeLine Open(ReaderRow row) =>
            row.Kind switch
            {
                ReaderKind.Serial => new SerialCodeLine(row.Address, row.Baud),
                ReaderKind.Network
                    when row.Address.LastIndexOf(':') is > 0 and var colon && int.TryParse(row.Address[(colon + 1)..], out var port) =>
                    new TcpCodeLine(row.Address[..colon], port),
                ReaderKind.Simulated when Scenario.Find(row.Address) is { } scenario => new SimulatedCodeLine(scenario),
                _ => new NoLine(row.Address),
            };
    }

    /// <summary>A reader whose stored address makes no sense any more.</summary>
    private sealed class NoLine(string address) : ICodeLine
    {
        public string Words => address;

        public Task<Stream> OpenAsync(CancellationToken cancel) => throw new IOException($"\"{address}\" is no address of a reader");
    }
}
