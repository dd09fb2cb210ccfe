using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;
using Kelvet.Devices;

namespace Kelvet.Web.Tests;

/// <summary>Readers of POST codes: the line protocol, serial lines over real pseudo-terminals (socat), the stand-in, floods and
/// losses.</summary>
public sealed class DevicesTests
{
    private static (string Codes, long Garbage) Read(string text, int piece = 3)
    {
        var protocol = new CodeProtocol();
        var codes = new List<byte>();
        foreach (var chunk in Encoding.Latin1.GetBytes(text).Chunk(piece))
            protocol.Take(chunk, codes.Add);
        return (string.Join(' ', codes.Select(c => c.ToString("X2", CultureInfo.InvariantCulture))), protocol.Garbage);
    }

    [Theory]
    [InlineData("55\r\n2b\n", "55 2B", 0)]
    [InlineData("0x55, 0X2B;$a0 d4h\n", "55 2B A0 D4", 0)]
    [InlineData("POST: 55\nPOST 2B\nP80=19\ncode:0x4F\n", "55 2B 19 4F", 0)]
    [InlineData("552B\n", "55 2B", 0)]
    [InlineData("# reader 3, version 1.2: 55\n02\n", "02", 0)]
    [InlineData("5G zz 1 123 \u0007\n55\n", "55", 5)]
    [InlineData("0123456789ABCDEF0123456789ABCDEF 55\n", "55", 1)]
    [InlineData("", "", 0)]
    public void The_line_protocol_is_read_in_its_usual_variations(string text, string codes, long garbage)
    {
        foreach (var piece in new[] { 1, 3, 1000 })
            Assert.Equal((codes, garbage), Read(text, piece));
    }

    [Fact]
    public void Garbage_of_any_kind_is_counted_and_passed_over()
    {
        var random = new Random(7);
        var bytes = new byte[200_000];
        random.NextBytes(bytes);
        var protocol = new CodeProtocol();
        var codes = 0;
        protocol.Take(bytes, _ => codes++);
        protocol.Take("\n55\n"u8, c => Assert.Equal(0x55, c));
        Assert.True(protocol.Garbage > 0);
        Assert.True(codes < bytes.Length / 2);
    }

    [Fact]
    public void A_capture_written_and_read_again_is_the_same_and_a_mistake_is_told_with_its_line()
    {
        var log = new CodeLog();
        log.Add(0.1, 0x02);
        log.Add(0.5, 0x2B);
        log.Add(0.6, 0x2B);
        log.Note(0.7, "reader gone");
        log.Add(2, 0x55);
        Assert.Equal("# kelvet-codes 1\n0.100 02\n0.500 2B 2\n# 0.700 reader gone\n2.000 55\n", log.Write());
        Assert.Equal(log.Write(), CodeLog.Read(log.Write(), "codes.txt").Write());
        Assert.Contains("line 1", Assert.Throws<DataFileException>(() => CodeLog.Read("55\n", "codes.txt")).Message);
        Assert.Contains(
            "line 3",
            Assert.Throws<DataFileException>(() => CodeLog.Read("# kelvet-codes 1\n0.1 02\n0.2 G2\n", "codes.txt")).Message
        );
    }

    [Fact]
    public void The_last_code_stood_changed_or_came_round_again()
    {
        static CodeLog Log(params (double At, byte Code)[] codes)
        {
            var log = new CodeLog();
            foreach (var (at, code) in codes)
                log.Add(at, code);
            return log;
        }

        Assert.Equal(CodeMotion.Stuck, Log((0, 0x02), (1, 0x55)).MotionAt(10));
        Assert.Equal(CodeMotion.Passing, Log((0, 0x02), (1, 0x15), (2, 0x2B)).MotionAt(2.5));
        Assert.Equal(CodeMotion.Cycling, Log([.. Enumerable.Range(0, 30).Select(i => (i * 0.2, (byte)(i % 3)))]).MotionAt(6));
        var signs = Log((0, 0x02), (1, 0x2B), (2, 0x02), (3, 0x55)).Into(Signs.None, 20);
        Assert.Equal(("55", "2B 02 55", CodeMotion.Stuck), (signs.Code, signs.Codes, signs.Motion));
        Assert.Equal("4F", Log((0, 0x02)).Into(new Signs { Code = "4F" }, 20).Code);
    }

    [Fact]
    public void A_flood_is_counted_and_kept_at_both_ends()
    {
        var log = new CodeLog();
        for (var i = 0; i < 200_000; i++)
            log.Add(i / 10_000.0, (byte)i);
        Assert.Equal(200_000, log.Total);
        Assert.Equal(CodeLog.MostFirst + CodeLog.MostLast + 1, log.Seen.Count());
        Assert.Equal(200_000, log.LeftOut + log.Seen.Count());
        Assert.Equal("00", log.Seen.First().Code);
        Assert.Equal((199_999 & 0xFF).ToString("X2", CultureInfo.InvariantCulture), log.Current!.Code);
        Assert.True(log.Write().Length < CodeLog.MostCharacters);
    }

    [Fact]
    public async Task The_stand_in_plays_its_scenario_over_a_network_port_and_begins_anew()
    {
        using var line = new SimulatedCodeLine(Scenario.Find("no-memory")!);
        await using var sink = new Sink(line);
        await sink.Until(s => s.Last == 0x55);
        Assert.Equal("02 06 0B 10 15 19 2B 55", sink.Codes);
        line.MachineStarted();
        await sink.Until(s => s.Count == 16);
    }

    [Fact]
    public async Task The_stand_in_plays_over_a_pseudo_terminal_to_the_serial_adapter()
    {
        using var standIn = StandIn.OnTerminal(Scenario.Find("noisy")!);
        await using var sink = new Sink(new SerialCodeLine(standIn.Path, 115200));
        standIn.Restart();
        await sink.Until(s => s.Last == 0x55 && s.GarbageTotal > 0);
    }

    [Fact]
    public async Task A_serial_line_that_goes_and_comes_is_opened_again()
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-pty-").FullName;
        var (theirs, ours) = (Path.Combine(folder, "reader"), Path.Combine(folder, "bench"));
        await using var sink = new Sink(new SerialCodeLine(ours, 115200));
        await sink.Until(s => s.Why.Contains("is not there"));
        for (var round = 1; round <= 2; round++)
        {
            using var socat = Process.Start(
                new ProcessStartInfo("socat", $"pty,raw,echo=0,link={theirs} pty,raw,echo=0,link={ours}") { RedirectStandardError = true }
            )!;
            await sink.Until(s => s.IsUp);
            await File.WriteAllTextAsync(theirs, round == 1 ? "02\n2B\n" : "55\n");
            await sink.Until(s => s.Last == (round == 1 ? 0x2B : 0x55));
            socat.Kill();
            await socat.WaitForExitAsync();
            await sink.Until(s => !s.IsUp);
        }

        Assert.Equal("02 2B 55", sink.Codes);
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task Ten_thousand_codes_a_second_are_read_as_they_come()
    {
        using var line = new SimulatedCodeLine(Scenario.Find("flood")!);
        await using var sink = new Sink(line);
        await sink.Until(s => s.Count > 0);
        var clock = Stopwatch.StartNew();
        await sink.Until(s => s.Count > 15_000);
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(15), $"{sink.Count} codes in {clock.Elapsed}");
        Assert.Equal(0, sink.GarbageTotal);
    }

    [Fact]
    public async Task A_network_reader_that_hangs_up_is_called_again()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        await using var sink = new Sink(new TcpCodeLine("127.0.0.1", ((IPEndPoint)listener.LocalEndpoint).Port));
        foreach (var code in new[] { "2B", "55" })
        {
            using var client = await listener.AcceptTcpClientAsync();
            await client.GetStream().WriteAsync(Encoding.ASCII.GetBytes($"{code}\n"));
            await sink.Until(s => s.Codes.EndsWith(code));
        }
    }

    /// <summary>Takes what a line gives, and waits for it.</summary>
    private sealed class Sink : ICodeSink, IAsyncDisposable
    {
        private readonly ConcurrentQueue<byte> _codes = new();
        private readonly CancellationTokenSource _stop = new();
        private readonly Task _running;
        private volatile bool _up;
        private volatile string _why = "";
        private long _garbage;

        public Sink(ICodeLine line) => _running = CodeReader.RunAsync(line, this, _stop.Token);

        public bool IsUp => _up;

        public string Why => _why;

        public int Count => _codes.Count;

        public long GarbageTotal => Interlocked.Read(ref _garbage);

        public int Last => _codes.IsEmpty ? -1 : _codes.Last();

        public string Codes => string.Join(' ', _codes.Select(c => c.ToString("X2", CultureInfo.InvariantCulture)));

        public async Task Until(Func<Sink, bool> holds)
        {
            var clock = Stopwatch.StartNew();
            while (!holds(this))
            {
                Assert.True(clock.Elapsed < TimeSpan.FromSeconds(20), $"{Count} codes, last {Last:X2}, up {IsUp}, {Why}");
                await Task.Delay(20);
            }
        }

        void ICodeSink.Codes(ReadOnlySpan<byte> codes)
        {
            foreach (var code in codes)
                _codes.Enqueue(code);
        }

        public void Up() => _up = true;

        public void Down(string why) => (_up, _why) = (false, why);

        public void Garbage(long total) => Interlocked.Exchange(ref _garbage, total);

        public async ValueTask DisposeAsync()
        {
            await _stop.CancelAsync();
            await Task.WhenAny(_running, Task.Delay(2000));
            _stop.Dispose();
        }
    }
}
