using System.CommandLine;
using Kelvet.Cli;

return await new RootCommand("Kelvet without a browser: read case files, simulate, validate, measure.")
{
    DiagnoseCommand.Create(), SimulateCommand.Create(), ValidateCommand.Create(), BenchCommand.Create(),
}.Parse(args).InvokeAsync();
