using System.IO.Ports;
using System.Net.Sockets;

namespace Kelvet.Devices;

/// <summary>The wire that a POST-code reader hangs on.</summary>
public interface ICodeLine
{
    /// <summary>How it is told from others, in words.</summary>
    string Words { get; }

    /// <summary>Opens it.</summary>
    /// <exception cref="IOException">It cannot be opened; the message says why.</exception>
    Task<Stream> OpenAsync(CancellationToken cancel);

    /// <summary>The machine was switched on. Real readers notice by themselves; the stand-in begins its scenario.</summary>
    void MachineStarted() { }

    /// <summary>The machine was switched off. Real readers fall silent by themselves; so does the stand-in.</summary>
    void MachineStopped() { }
}

/// <summary>A serial port or a pseudo-terminal.</summary>
/// <param name="path">"/dev/ttyUSB0".</param>
/// <param name="baud">Bits a second, 300 to 4,000,000.</param>
public sealed class SerialCodeLine(string path, int baud) : ICodeLine
{
    public string Words => $"serial port {path}, {baud} baud";

    /// <summary>Paths of the serial ports of this machine.</summary>
    public static IEnumerable<string> Ports()
    {
        try
        {
            return SerialPort
                .GetPortNames()
                .Where(p => p.Contains("USB", StringComparison.Ordinal) || p.Contains("ACM", StringComparison.Ordinal))
                .Order(StringComparer.Ordinal);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or PlatformNotSupportedException)
        {
            return [];
        }
    }

    public Task<Stream> OpenAsync(CancellationToken cancel)
    {
        var port = new SerialPort(path, baud, Parity.None, 8, StopBits.One)
        {
            ReadBufferSize = 65536,
            ReadTimeout = SerialPort.InfiniteTimeout,
        };
        try
        {
            port.Open();
            return Task.FromResult<Stream>(new PortStream(port));
        }
        catch (Exception e)
            when (e
                    is IOException
                        or UnauthorizedAccessException
                        or ArgumentException
                        or InvalidOperationException
                        or PlatformNotSupportedException
            )
        {
            port.Dispose();
            throw new IOException(File.Exists(path) ? $"{path} cannot be opened: {e.Message}" : $"{path} is not there", e);
        }
    }

    /// <summary>The port's bytes; a port that has gone ends the stream instead of waiting for ever.</summary>
    private sealed class PortStream(SerialPort port) : Stream
    {
        private static readonly TimeSpan Look = TimeSpan.FromMilliseconds(500);

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => true;

        public override long Length => throw new NotSupportedException();

        public override long Position
        {
            get => throw new NotSupportedException();
            set => throw new NotSupportedException();
        }

        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            var reading = port.BaseStream.ReadAsync(buffer, cancellationToken).AsTask();
            while (await Task.WhenAny(reading, Task.Delay(Look, cancellationToken)) != reading)
            {
                cancellationToken.ThrowIfCancellationRequested();
                if (!File.Exists(port.PortName))
                    return 0;
            }

            return await reading;
        }

        public override int Read(byte[] buffer, int offset, int count) => port.BaseStream.Read(buffer, offset, count);

        public override void Write(byte[] buffer, int offset, int count) => port.BaseStream.Write(buffer, offset, count);

        public override void Flush() { }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        protected override void Dispose(bool disposing)
        {
            try
            {
                if (disposing)
                    port.Dispose();
            }
            catch (Exception e) when (e is IOException or InvalidOperationException)
            {
                // The other end is gone; there is nothing left to close.
            }

            base.Dispose(disposing);
        }
    }
}

/// <summary>A reader behind a network port.</summary>
/// <param name="host">Name or address.</param>
/// <param name="port">1 to 65535.</param>
public sealed class TcpCodeLine(string host, int port) : ICodeLine
{
    public string Words => $"network port {host}:{port}";

    public async Task<Stream> OpenAsync(CancellationToken cancel)
    {
        var client = new TcpClient();
        try
        {
            await client.ConnectAsync(host, port, cancel);
            return client.GetStream();
        }
        catch (SocketException e)
        {
            client.Dispose();
            throw new IOException($"{host}:{port} does not answer: {e.Message}", e);
        }
    }
}

/// <summary>A stand-in with its wire: plays a scenario over a network port of this machine, read back by <see
/// cref="TcpCodeLine"/>.</summary>
/// <param name="scenario">What it plays.</param>
public sealed class SimulatedCodeLine(Scenario scenario) : ICodeLine, IDisposable
{
    private readonly StandIn _standIn = StandIn.OnNetwork(scenario, 0);

    public string Words => $"simulated: {scenario.Name}";

    public Task<Stream> OpenAsync(CancellationToken cancel) => new TcpCodeLine("127.0.0.1", _standIn.Port).OpenAsync(cancel);

    public void MachineStarted() => _standIn.Restart();

    public void MachineStopped() => _standIn.Halt();

    public void Dispose() => _standIn.Dispose();
}
