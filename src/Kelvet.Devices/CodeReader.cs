using System.Net.Sockets;

namespace Kelvet.Devices;

/// <summary>What comes from a reader.</summary>
public interface ICodeSink
{
    /// <summary>Codes came, in order.</summary>
    void Codes(ReadOnlySpan<byte> codes);

    /// <summary>The wire is up.</summary>
    void Up();

    /// <summary>The wire is down; it is tried again.</summary>
    /// <param name="why">In words.</param>
    void Down(string why);

    /// <summary>Words that were no code, in all.</summary>
    void Garbage(long total);
}

/// <summary>Keeps one reader's wire open, whatever happens to it, and hands on what comes.</summary>
public static class CodeReader
{
    private static readonly TimeSpan[] Waits =
    [
        TimeSpan.FromMilliseconds(200),
        TimeSpan.FromMilliseconds(500),
        TimeSpan.FromSeconds(1),
        TimeSpan.FromSeconds(2),
    ];

    /// <summary>Reads until it is cancelled.</summary>
    public static async Task RunAsync(ICodeLine line, ICodeSink sink, CancellationToken cancel)
    {
        for (var failures = 0; !cancel.IsCancellationRequested; )
        {
            string why;
            try
            {
                await using var wire = await line.OpenAsync(cancel);
                sink.Up();
                if (await ReadAsync(wire, sink, cancel))
                    failures = 0;
                why = "the reader is gone";
            }
            catch (OperationCanceledException) when (cancel.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
                when (e
                        is IOException
                            or SocketException
                            or UnauthorizedAccessException
                            or ObjectDisposedException
                            or InvalidOperationException
                            or OperationCanceledException
                )
            {
                why = e.Message;
            }

            sink.Down(why);
            try
            {
                await Task.Delay(Waits[Math.Min(failures++, Waits.Length - 1)], cancel);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }

    /// <returns>Whether anything came before the end.</returns>
    private static async Task<bool> ReadAsync(Stream wire, ICodeSink sink, CancellationToken cancel)
    {
        var stream = new CodeProtocol();
        var buffer = new byte[8192];
        var codes = new List<byte>(4096);
        var any = false;
        var garbage = 0L;
        while (await wire.ReadAsync(buffer, cancel) is > 0 and var n)
        {
            any = true;
            codes.Clear();
            stream.Take(buffer.AsSpan(0, n), codes.Add);
            if (codes.Count > 0)
                sink.Codes(System.Runtime.InteropServices.CollectionsMarshal.AsSpan(codes));
            if (stream.Garbage != garbage)
                sink.Garbage(garbage = stream.Garbage);
        }

        return any;
    }
}
