using System.CommandLine;
using Kelvet.Cli;

return await new RootCommand("Kelvet without a browser: read case files and recordings, simulate, validate, measure.")
{
    DiagnoseCommand.Create(),
    SimulateCommand.Create(),
    WalkCommand.Create(),
    CampaignCommand.Create(),
    CampaignCommand.Merge(),
    ValidateCommand.Create(),
    ListenCommand.Create(),
    ReaderCommand.Create(),
    BenchCommand.Create(),
    DocsCommand.Create(),
}
    .Parse(args)
    .InvokeAsync();
