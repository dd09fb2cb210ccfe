using System.CommandLine;
using Kelvet.Web.Starting;

var port = new Option<int>("--port") { Description = "Port on 127.0.0.1; 0 for any that is free.", DefaultValueFactory = _ => 5480 };
var data = new Option<string>("--data") { Description = "Folder that holds the shop's data.", DefaultValueFactory = _ => "data" };
var demo = new Option<bool>("--demo") { Description = "Fill an empty folder with the demo shop." };
var host = new Option<string[]>("--host")
{
    Description = "A further host name by which it may be reached, such as the name of a proxy in front of it.",
};
var root = new RootCommand("Kelvet: the bench log that reasons.") { port, data, demo, host };
root.SetAction(
    (result, cancel) =>
        Server.RunAsync(result.GetValue(port), result.GetValue(data)!, result.GetValue(demo), result.GetValue(host) ?? [], cancel)
);
foreach (var command in DataCommands.All())
    root.Add(command);

// A server that is told to stop ends its requests in the host's time (half a minute), not in the two seconds of a command.
return await root.Parse(args).InvokeAsync(new() { ProcessTerminationTimeout = TimeSpan.FromMinutes(1) });
