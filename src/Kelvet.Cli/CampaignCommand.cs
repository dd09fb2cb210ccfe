using System.Collections.Immutable;
using System.CommandLine;
using System.Globalization;
using Kelvet.Core.Faults;
using Kelvet.Core.Planning;
using Kelvet.Core.Text;
using Kelvet.Core.Training;

namespace Kelvet.Cli;

/// <summary>
/// Works jobs of many worlds into a file of one line each, goes on where it was broken off, and splits over machines; the files of
/// all of them add up to the same table as one run.
/// </summary>
internal static class CampaignCommand
{
    /// <summary>The command that works jobs.</summary>
    public static Command Create()
    {
        var worlds = new Option<string>("--worlds")
        {
            Description = "World files, or names in tests/worlds, with commas; or all.",
            DefaultValueFactory = _ => "all",
        };
        var jobs = new Option<int>("--jobs") { Description = "Jobs of each world, 1 to 1000000.", DefaultValueFactory = _ => 40 };
        var seed = new Option<int>("--seed") { Description = "The same seed gives the same jobs.", DefaultValueFactory = _ => 1 };
        var shard = new Option<string>("--shard")
        {
            Description = "Of n shares of the work, the i-th alone: \"2/8\".",
            DefaultValueFactory = _ => "1/1",
        };
        var to = new Option<string?>("--out") { Description = "The file; what is in it is not worked again." };
        var replay = new Option<string?>("--replay")
        {
            Description = "Print one job instead, as the technician would have lived it: \"cold-only/7\", world and number of the job.",
        };
        var command = new Command("campaign", "Work jobs of many worlds into a file.") { worlds, jobs, seed, shard, to, replay };
        command.SetAction(r =>
            Exit.Guarded(() =>
                (r.GetValue(replay), r.GetValue(to)) switch
                {
                    ({ } one, _) => OneJob(one, r.GetValue(seed)),
                    (_, { } file) => Run(r.GetValue(worlds)!, r.GetValue(jobs), r.GetValue(seed), r.GetValue(shard)!, file),
                    _ => Exit.Wrong("Give --out, the file that the jobs go into, or --replay."),
                }
            )
        );
        return command;
    }

    /// <summary>The command that adds files up.</summary>
    public static Command Merge()
    {
        var files = new Argument<string[]>("files") { Description = "Files of a campaign.", Arity = ArgumentArity.OneOrMore };
        var csv = new Option<string?>("--csv") { Description = "Also write the table as CSV." };
        var svg = new Option<string?>("--svg") { Description = "Also draw it." };
        var page = new Option<string?>("--page") { Description = "Also write it into a page, between the marks of --block." };
        var block = new Option<string>("--block") { Description = "Name of the marks.", DefaultValueFactory = _ => "worlds" };
        var at = new Option<string>("--at") { Description = "What was measured: the hash of a commit.", DefaultValueFactory = _ => "" };
        var command = new Command("merge", "Add up the files of a campaign.") { files, csv, svg, page, block, at };
        command.SetAction(r =>
            Exit.Guarded(() =>
            {
                var all = Campaign.Worlds(r.GetValue(files)!.SelectMany(Read));
                if (all.IsEmpty)
                    throw new DataFileException("There is no job in these files.");
                Console.Write(Campaign.Table(all));
                if (r.GetValue(csv) is { } table)
                    File.WriteAllText(table, Campaign.Csv(all));
                if (r.GetValue(svg) is { } drawing)
                    File.WriteAllText(drawing, Campaign.Drawing(all));
                if (r.GetValue(page) is { } into)
                    Put(into, r.GetValue(block)!, $"{OfWhat(all, r.GetValue(at)!)}\n\n{Campaign.Brief(all)}");
                return Exit.Well;
            })
        );
        return command;
    }

    /// <summary>Puts a text between the marks of a page.</summary>
    /// <exception cref="DataFileException">The page has none of that name.</exception>
    private static void Put(string page, string block, string text)
    {
        var before = File.Exists(page) ? File.ReadAllText(page) : throw new DataFileException($"There is no page {page}.");
        if (!before.Contains(DocsCommand.MarkOf(block), StringComparison.Ordinal))
            throw new DataFileException($"{page} has no mark {DocsCommand.MarkOf(block)}.");
        File.WriteAllText(page, DocsCommand.Blocks(before, new Dictionary<string, string> { [block] = text }));
    }

    private static string OfWhat(ImmutableArray<CampaignWorld> worlds, string at) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{worlds.Sum(w => w.Jobs.Length)} jobs in {worlds.Length} {(worlds.Length == 1 ? "world" : "worlds")}, "
                + $"seed {worlds[0].Jobs[0].Seed}{(at.Length > 0 ? $", at `{at}`" : "")}:"
        );

    private static int OneJob(string named, int seed)
    {
        var at = named.LastIndexOf('/');
        if (at < 1 || !int.TryParse(named[(at + 1)..], NumberStyles.None, CultureInfo.InvariantCulture, out var job) || job > 1_000_000)
            return Exit.Wrong("--replay takes a world and the number of a job, 0 to 1000000: cold-only/7.");
        var school = School.Advisor;
        return Replay.Print(
            Simulation.Job(job, Campaign.SeedOf(named[..at], seed), [school], Atlas.Standard, 1, Worlds.Read(named[..at]))[0],
            school
        );
    }

    private static IEnumerable<CampaignJob> Read(string file) =>
        File.Exists(file)
            ? File.ReadLines(file).Select(CampaignJob.Read).OfType<CampaignJob>()
            : throw new DataFileException($"There is no file {file}.");

    private static int Run(string worlds, int jobs, int seed, string shard, string to)
    {
        if (jobs is < 1 or > 1_000_000)
            return Exit.Wrong("--jobs takes 1 to 1000000.");
        var parts = shard.Split('/');
        if (
            parts.Length != 2
            || !int.TryParse(parts[0], out var mine)
            || !int.TryParse(parts[1], out var of)
            || of is < 1 or > 100_000
            || mine < 1
            || mine > of
        )
            return Exit.Wrong("--shard takes i/n, i from 1 to n.");
        var settings = Worlds.Named(worlds);
        HashSet<(string, int)> there = File.Exists(to) ? [.. Read(to).Where(j => j.Seed == seed).Select(j => (j.World, j.Job))] : [];
        (string World, WorldSetting Setting, int Job)[] work =
        [
            .. Enumerable
                .Range(0, jobs)
                .SelectMany(job => settings.Select(s => (s.Name, s.Setting, job)))
                .Where((_, i) => i % of == mine - 1)
                .Where(w => !there.Contains((w.Name, w.job))),
        ];
        // A line that was broken off stays behind and is passed over.
        var ends = !File.Exists(to) || new FileInfo(to).Length == 0 || File.ReadAllText(to).EndsWith('\n');
        using var file = new StreamWriter(to, append: true) { AutoFlush = true };
        if (!ends)
            file.WriteLine();
        var progress = new Progress(work.Length);
        Parallel.ForEach(
            work,
            w =>
            {
                var line = Campaign.Work(w.World, w.Setting, seed, w.Job, Atlas.Standard, School.Advisor).Write();
                lock (work)
                    file.WriteLine(line);
                progress.Step();
            }
        );
        progress.End();
        return Exit.Well;
    }
}

/// <summary>The worlds that ship, and those of a file.</summary>
internal static class Worlds
{
    private static readonly string Folder = Path.Combine("tests", "worlds");

    /// <summary>One world by its file or name.</summary>
    /// <exception cref="DataFileException">There is none, or it is wrong.</exception>
    public static WorldSetting Read(string world)
    {
        var file = File.Exists(world) ? world : Path.Combine(Folder, $"{world}.yaml");
        return File.Exists(file)
            ? WorldReader.Read(File.ReadAllText(file), Path.GetFileName(file), Atlas.Standard)
            : throw new DataFileException($"There is no world {world}: neither a file of that name nor {file}.");
    }

    /// <summary>Several, or all.</summary>
    public static ImmutableArray<(string Name, WorldSetting Setting)> Named(string names) =>
        [
            .. (
                names == "all"
                    ?
                    [
                        .. Directory
                            .EnumerateFiles(Folder, "*.yaml")
                            .Select(f => Path.GetFileNameWithoutExtension(f)!)
                            .Order(StringComparer.Ordinal),
                    ]
                    : names.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            ).Select(n => (Path.GetFileNameWithoutExtension(n), Read(n))),
        ];
}
