using System.CommandLine;
using Kelvet.Devices;

namespace Kelvet.Cli;

/// <summary>Plays a reader of POST codes that is not there, for trying the bench without one.</summary>
internal static class ReaderCommand
{
    public static Command Create()
    {
        var scenario = new Option<string>("--scenario")
        {
            Description = $"What it plays: {string.Join(", ", Scenario.All.Select(s => s.Id))}.",
            DefaultValueFactory = _ => "no-memory",
        };
        var port = new Option<int?>("--tcp") { Description = "Plays over this network port of this machine instead of a pseudo-terminal." };
        var seconds = new Option<double?>("--seconds") { Description = "Ends after so long; otherwise when it is stopped." };
        var every = new Option<double>("--every") { Description = "Begins anew after so many seconds.", DefaultValueFactory = _ => 60 };
        var command = new Command("reader", "Play a simulated reader of POST codes over a pseudo-terminal or a network port.")
        {
            scenario,
            port,
            seconds,
            every,
        };
        command.SetAction(
            async (r, cancel) =>
            {
                if (Scenario.Find(r.GetValue(scenario)!) is not { } found)
                {
                    Console.Error.WriteLine(
                        $"There is no scenario \"{r.GetValue(scenario)}\"; there are {string.Join(", ", Scenario.All.Select(s => s.Id))}."
                    );
                    return Exit.WrongUse;
                }

                return await PlayAsync(found, r.GetValue(port), r.GetValue(seconds), Math.Max(1, r.GetValue(every)), cancel);
            }
        );
        return command;
    }

    private static async Task<int> PlayAsync(Scenario scenario, int? port, double? seconds, double every, CancellationToken cancel)
    {
        try
        {
            using var standIn = port is { } p ? StandIn.OnNetwork(scenario, p) : StandIn.OnTerminal(scenario);
            Console.WriteLine(
                standIn.Path.Length > 0 ? $"{scenario.Name} on {standIn.Path}" : $"{scenario.Name} on 127.0.0.1:{standIn.Port}"
            );
            using var end = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            if (seconds is { } s)
                end.CancelAfter(TimeSpan.FromSeconds(s));
            while (true)
            {
                await Task.Delay(TimeSpan.FromSeconds(every), end.Token);
                standIn.Restart();
            }
        }
        catch (OperationCanceledException)
        {
            return Exit.Well;
        }
        catch (Exception e) when (e is IOException or System.Net.Sockets.SocketException)
        {
            Console.Error.WriteLine(e.Message);
            return Exit.WrongUse;
        }
    }
}
