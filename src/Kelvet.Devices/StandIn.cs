using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Kelvet.Devices;

/// <summary>A POST-code reader that is not there: speaks the readers' line protocol over a network port or a pseudo-terminal.</summary>
public sealed class StandIn : IDisposable
{
    /// <summary>Codes a second of a flood.</summary>
    public const int FloodRate = 10_000;

    private readonly CancellationTokenSource _stop = new();
    private readonly Scenario _scenario;
    private readonly TcpListener? _listener;
    private readonly PseudoTerminal? _terminal;
    private CancellationTokenSource _round = new();
    private volatile bool _halted;

    private StandIn(Scenario scenario, TcpListener? listener, PseudoTerminal? terminal)
    {
        _scenario = scenario;
        _listener = listener;
        _terminal = terminal;
    }

    /// <summary>The network port; 0 on a pseudo-terminal.</summary>
    public int Port => _listener is null ? 0 : ((IPEndPoint)_listener.LocalEndpoint).Port;

    /// <summary>The pseudo-terminal's path; empty on a network port.</summary>
    public string Path => _terminal?.Path ?? "";

    /// <summary>Plays to whoever connects to a port of this machine.</summary>
    /// <param name="scenario">What is played.</param>
    /// <param name="port">The port; 0 for any that is free.</param>
    public static StandIn OnNetwork(Scenario scenario, int port)
    {
        var listener = new TcpListener(IPAddress.Loopback, port);
        listener.Start();
        var standIn = new StandIn(scenario, listener, null);
        _ = standIn.AcceptAsync();
        return standIn;
    }

    /// <summary>Plays on a pseudo-terminal that a serial program opens by its path.</summary>
    public static StandIn OnTerminal(Scenario scenario)
    {
        var standIn = new StandIn(scenario, null, PseudoTerminal.Open());
        _ = standIn.PlayToAsync(standIn._terminal!.Master);
        return standIn;
    }

    /// <summary>Begins the scenario anew, as when the machine is switched on.</summary>
    public void Restart()
    {
        _halted = false;
        NewRound();
    }

    /// <summary>Falls silent until it is begun anew, as when the machine is switched off.</summary>
    public void Halt()
    {
        _halted = true;
        NewRound();
    }

    public void Dispose()
    {
        _stop.Cancel();
        _round.Cancel();
        _listener?.Dispose();
        _terminal?.Dispose();
        _stop.Dispose();
    }

    private void NewRound() => Interlocked.Exchange(ref _round, new CancellationTokenSource()).Cancel();

    private async Task AcceptAsync()
    {
        try
        {
            while (!_stop.IsCancellationRequested)
            {
                var client = await _listener!.AcceptTcpClientAsync(_stop.Token);
                _ = PlayToAsync(client.GetStream());
            }
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // Stopped.
        }
    }

    private async Task PlayToAsync(Stream wire)
    {
        try
        {
            while (!_stop.IsCancellationRequested)
            {
                var round = _round;
                using var both = CancellationTokenSource.CreateLinkedTokenSource(_stop.Token, round.Token);
                try
                {
                    if (!_halted)
                    {
                        do await PlayOnceAsync(wire, both.Token);
                        while (_scenario.Loops);
                    }

                    await Task.Delay(Timeout.Infinite, both.Token);
                }
                catch (OperationCanceledException) when (!_stop.IsCancellationRequested)
                {
                    // Begun anew.
                }
            }
        }
        catch (Exception e) when (e is OperationCanceledException or IOException or ObjectDisposedException or SocketException)
        {
            // The other end has gone, or this one was stopped.
        }
        finally
        {
            await wire.DisposeAsync();
        }
    }

    private async Task PlayOnceAsync(Stream wire, CancellationToken cancel)
    {
        var at = 0.0;
        foreach (var seen in _scenario.Codes.Seen)
        {
            await Task.Delay(TimeSpan.FromSeconds(Math.Max(0, seen.Seconds - at)), cancel);
            at = seen.Seconds;
            if (_scenario.IsNoisy)
                await Send(wire, "\u0007?? 5G zz,", cancel);
            await Send(wire, $"{seen.Code}\r\n", cancel);
        }

        if (_scenario.Loops)
            await Task.Delay(1500, cancel);
        for (var code = 0; _scenario.Floods; code++)
        {
            var block = new StringBuilder();
            for (var i = 0; i < FloodRate / 100; i++)
                block.Append((((code * FloodRate / 100) + i) & 0xFF).ToString("X2", CultureInfo.InvariantCulture)).Append('\n');
            await Send(wire, block.ToString(), cancel);
            await Task.Delay(10, cancel);
        }
    }

    private static async Task Send(Stream wire, string text, CancellationToken cancel)
    {
        await wire.WriteAsync(Encoding.Latin1.GetBytes(text), cancel);
        await wire.FlushAsync(cancel);
    }
}
