using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>How often what was said, by tenths, was so.</summary>
/// <param name="Said">Claims in each tenth.</param>
/// <param name="Was">Of those, true ones.</param>
public sealed record Bands(ImmutableArray<int> Said, ImmutableArray<int> Was)
{
    private const int Tenths = 10;

    /// <summary>No claims.</summary>
    public static Bands None { get; } = new([.. new int[Tenths]], [.. new int[Tenths]]);

    /// <summary>Counts claims.</summary>
    public static Bands Of(IEnumerable<(double Said, bool Was)> claims)
    {
        var said = new int[Tenths];
        var was = new int[Tenths];
        foreach (var (p, so) in claims)
        {
            var band = Math.Clamp((int)(p * Tenths), 0, Tenths - 1);
            said[band]++;
            was[band] += so ? 1 : 0;
        }

        return new Bands([.. said], [.. was]);
    }

    /// <summary>Both together.</summary>
    public static Bands operator +(Bands a, Bands b) =>
        new([.. a.Said.Zip(b.Said, (x, y) => x + y)], [.. a.Was.Zip(b.Was, (x, y) => x + y)]);
}

/// <summary>One job of a campaign.</summary>
/// <param name="World">The world.</param>
/// <param name="Seed">The campaign's seed.</param>
/// <param name="Job">Its number, 0 upward.</param>
/// <param name="Result">What came of it.</param>
/// <param name="ByUnit">What was said of parts being at fault.</param>
/// <param name="ByRemedy">What was said of parts being to be replaced.</param>
/// <param name="Condemned">The same of parts when they came to stand condemned.</param>
public sealed record CampaignJob(string World, int Seed, int Job, JobResult Result, Bands ByUnit, Bands ByRemedy, Bands Condemned)
{
    /// <summary>As one line of a file.</summary>
    public string Write() => JsonSerializer.Serialize(this);

    /// <summary>Reads a line; null where it was broken off.</summary>
    public static CampaignJob? Read(string line)
    {
        try
        {
            return JsonSerializer.Deserialize<CampaignJob>(line);
        }
        catch (JsonException)
        {
            return null;
        }
    }
}

/// <summary>What the jobs of one world, or of all, came to.</summary>
/// <param name="World">The world; empty for all together.</param>
/// <param name="Jobs">Its jobs.</param>
public sealed record CampaignWorld(string World, ImmutableArray<CampaignJob> Jobs)
{
    /// <summary>Jobs that ended so.</summary>
    public int Count(Verdict verdict) => Jobs.Count(j => j.Result.Verdict == verdict);

    /// <summary>A mean over the jobs.</summary>
    public double Mean(Func<JobResult, double> of) => Jobs.Average(j => of(j.Result));
}

/// <summary>Many simulated jobs in many worlds: what comes of them, by world and together, in files that add up.</summary>
public static class Campaign
{
    /// <summary>Works one job.</summary>
    public static CampaignJob Work(string world, WorldSetting setting, int seed, int job, Faults.Atlas atlas, Planning.School school)
    {
        var worked = Simulation.Job(job, SeedOf(world, seed), [school], atlas, 1, setting)[0];
        return new CampaignJob(
            world,
            seed,
            job,
            worked.Result,
            Bands.Of(worked.Claims),
            Bands.Of(worked.Remedies),
            Bands.Of(worked.Condemned)
        );
    }

    /// <summary>The seed of a world in a campaign: each world draws machines of its own, so that a figure over all is of that many
    /// jobs.</summary>
    public static int SeedOf(string world, int seed) => Simulation.Mixed([seed, .. world.Select(c => (int)c)]);

    /// <summary>The worlds of a campaign, by name, whatever the order in which their jobs were worked.</summary>
    /// <exception cref="DataFileException">Jobs of different seeds are mixed.</exception>
    public static ImmutableArray<CampaignWorld> Worlds(IEnumerable<CampaignJob> jobs)
    {
        CampaignJob[] all = [.. jobs.OrderBy(j => j.World, StringComparer.Ordinal).ThenBy(j => j.Job)];
        if (all.Select(j => j.Seed).Distinct().Count() > 1)
            throw new DataFileException("These files are of different seeds; add up those of one campaign.");
        return [.. all.GroupBy(j => j.World).Select(g => new CampaignWorld(g.Key, [.. g.DistinctBy(j => j.Job)]))];
    }

    /// <summary>The columns of the table: name, and what it is of a world.</summary>
    private static readonly (string Name, Func<CampaignWorld, string> Of)[] Columns =
    [
        ("jobs", w => Whole(w.Jobs.Length)),
        ("right %", w => Percent(w.Count(Verdict.Right), w)),
        ("from", w => Tenth(100 * Learning.Share.Wilson(w.Count(Verdict.Right), w.Jobs.Length).Low)),
        ("to", w => Tenth(100 * Learning.Share.Wilson(w.Count(Verdict.Right), w.Jobs.Length).High)),
        ("wrong part %", w => Percent(w.Count(Verdict.WrongPart), w)),
        ("missed %", w => Percent(w.Count(Verdict.Missed), w)),
        ("sent home %", w => Percent(w.Count(Verdict.SentHome), w)),
        ("not proved %", w => Percent(w.Count(Verdict.NotProved), w)),
        ("given up %", w => Percent(w.Count(Verdict.GivenUp), w)),
        ("starts", w => Tenth(w.Mean(r => r.Trials))),
        ("attended min", w => Tenth(w.Mean(r => r.Minutes - r.Waiting))),
        ("waiting min", w => Tenth(w.Mean(r => r.Waiting))),
        ("bought", w => Tenth(w.Mean(r => r.Money))),
        ("wasted", w => Tenth(w.Mean(r => r.Wasted))),
        ("tells nothing", w => Hundredth(w.Mean(r => r.Winces.TellsNothing))),
        ("same again", w => Hundredth(w.Mean(r => r.Winces.SameAgain))),
        ("dear first", w => Hundredth(w.Mean(r => r.Winces.DearFirst))),
        ("gate open", w => Hundredth(w.Mean(r => r.Winces.GateOpen))),
        ("unsafe", w => Hundredth(w.Mean(r => r.Winces.Unsafe))),
        ("proof dearer", w => Hundredth(w.Mean(r => r.Winces.ProofDearer))),
    ];

    private const string Together = "all together";

    private static IEnumerable<CampaignWorld> WithAll(ImmutableArray<CampaignWorld> worlds) =>
        worlds.Append(new CampaignWorld(Together, [.. worlds.SelectMany(w => w.Jobs)]));

    /// <summary>The table as CSV, a line each world and one for all together.</summary>
    public static string Csv(ImmutableArray<CampaignWorld> worlds)
    {
        var csv = new StringBuilder("world").AppendJoin("", Columns.Select(c => $",{c.Name}")).Append('\n');
        foreach (var world in WithAll(worlds))
            csv.Append(world.World).AppendJoin("", Columns.Select(c => $",{c.Of(world)}")).Append('\n');
        return csv.ToString();
    }

    /// <summary>Those that a page has room for.</summary>
    private static readonly string[] InBrief =
    [
        "jobs",
        "right %",
        "from",
        "to",
        "wrong part %",
        "missed %",
        "sent home %",
        "not proved %",
        "given up %",
        "starts",
        "attended min",
        "wasted",
    ];

    /// <summary>The table in Markdown, with calibration below it.</summary>
    public static string Table(ImmutableArray<CampaignWorld> worlds) => Table(worlds, Columns);

    /// <summary>The same with the columns that a page has room for, the worlds in which least is right first.</summary>
    public static string Brief(ImmutableArray<CampaignWorld> worlds) =>
        Table(
            [.. worlds.OrderBy(w => (double)w.Count(Verdict.Right) / w.Jobs.Length).ThenBy(w => w.World, StringComparer.Ordinal)],
            [.. Columns.Where(c => InBrief.Contains(c.Name))]
        );

    private static string Table(ImmutableArray<CampaignWorld> worlds, (string Name, Func<CampaignWorld, string> Of)[] columns)
    {
        var text = new StringBuilder("| world |").AppendJoin("", columns.Select(c => $" {c.Name} |")).Append('\n');
        text.Append("|---|").AppendJoin("", columns.Select(_ => "--:|")).Append('\n');
        foreach (var world in WithAll(worlds))
            text.Append($"| {world.World} |").AppendJoin("", columns.Select(c => $" {c.Of(world)} |")).Append('\n');
        CampaignJob[] all = [.. worlds.SelectMany(w => w.Jobs)];
        text.Append("\n| said | at fault | was | to be replaced | was | condemned | was |\n|---|--:|--:|--:|--:|--:|--:|\n");
        Bands[] sums =
        [
            all.Aggregate(Bands.None, (s, j) => s + j.ByUnit),
            all.Aggregate(Bands.None, (s, j) => s + j.ByRemedy),
            all.Aggregate(Bands.None, (s, j) => s + j.Condemned),
        ];
        for (var band = 0; band < sums[0].Said.Length; band++)
        {
            text.Append(CultureInfo.InvariantCulture, $"| {10 * band} to {(10 * band) + 10} % |");
            foreach (var sum in sums)
                text.Append(
                    $" {Whole(sum.Said[band])} | {(sum.Said[band] == 0 ? "" : Tenth(100.0 * sum.Was[band] / sum.Said[band]) + " %")} |"
                );
            text.Append('\n');
        }

        return text.ToString();
    }

    /// <summary>A bar for each world: right, not proved, missed, wrong.</summary>
    public static string Drawing(ImmutableArray<CampaignWorld> worlds)
    {
        const int left = 190,
            wide = 560,
            row = 22;
        (Verdict Verdict, string Fill)[] parts =
        [
            (Verdict.Right, "#2f7d5b"),
            (Verdict.NotProved, "#b9c4c9"),
            (Verdict.GivenUp, "#8d999f"),
            (Verdict.SentHome, "#d9a441"),
            (Verdict.Missed, "#c96a2c"),
            (Verdict.WrongPart, "#a3262a"),
        ];
        CampaignWorld[] all = [.. WithAll(worlds)];
        var height = (all.Length * row) + 50;
        var svg = new StringBuilder(
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {left + wide + 20} {height}\" "
                + "font-family=\"sans-serif\" font-size=\"12\">\n"
        );
        for (var i = 0; i < all.Length; i++)
        {
            var at = (double)left;
            svg.Append($"<text x=\"{left - 8}\" y=\"{(i * row) + 26}\" text-anchor=\"end\">{all[i].World}</text>\n");
            foreach (var (verdict, fill) in parts)
            {
                var width = (double)wide * all[i].Count(verdict) / all[i].Jobs.Length;
                if (width > 0)
                    svg.Append(
                        $"<rect x=\"{Tenth(at)}\" y=\"{(i * row) + 12}\" width=\"{Tenth(width)}\" height=\"18\" fill=\"{fill}\"/>\n"
                    );
                at += width;
            }
        }

        var x = left;
        foreach (var (verdict, fill) in parts)
        {
            svg.Append($"<rect x=\"{x}\" y=\"{height - 24}\" width=\"12\" height=\"12\" fill=\"{fill}\"/>");
            svg.Append($"<text x=\"{x + 16}\" y=\"{height - 14}\">{Dashed.Of(verdict).Replace('-', ' ')}</text>\n");
            x += 94;
        }

        return svg.Append("</svg>\n").ToString();
    }

    private static string Percent(int n, CampaignWorld world) => Tenth(100.0 * n / world.Jobs.Length);

    private static string Whole(int n) => n.ToString(CultureInfo.InvariantCulture);

    private static string Tenth(double v) => v.ToString("0.0", CultureInfo.InvariantCulture);

    private static string Hundredth(double v) => v.ToString("0.00", CultureInfo.InvariantCulture);
}
