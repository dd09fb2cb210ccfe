using System.Collections.Immutable;
using Kelvet.Core.Files;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Planning;

/// <summary>An order of work.</summary>
/// <param name="Id">Name in files and commands.</param>
/// <param name="Name">Name for people.</param>
/// <param name="Order">Lines in order; empty for the advisor, who weighs every step.</param>
public sealed record School(string Id, string Name, ImmutableArray<string> Order)
{
    /// <summary>The schools that ship with Kelvet, the advisor first.</summary>
    public static ImmutableArray<School> Standard { get; } = LoadStandard();

    /// <summary>Weighs every step.</summary>
    public static School Advisor => Standard[0];

    public bool WeighsEverything => Order.Length == 0;

    /// <summary>
    /// The first line of the order that can be done, has not been done and could tell something; null when the list is
    /// through. A machine that passes is no matter for a list: what made it pass has to be found out first.
    /// </summary>
    /// <param name="job">The job; at least one trial.</param>
    /// <param name="candidates">What could be done.</param>
    /// <param name="tells">Whether a step could tell anything; asked only of steps that are otherwise next.</param>
    public Candidate? Next(BenchJob job, IEnumerable<Candidate> candidates, Func<Candidate, bool> tells)
    {
        if (job.Trials[^1].Seen.ShowsPicture) return null;
        var done = job.Trials.SelectMany(t => t.Entry.Changes.Length == 0 ? [] : new[] { string.Join('|', t.Entry.Changes.Select(c => c.ToString())) })
            .Concat(job.Testimonies.Select(t => t.Entry).OfType<FindingEntry>().Select(f => $"{f.Check} {f.Unit}"))
            .ToHashSet(StringComparer.Ordinal);
        var open = candidates.Where(c => !done.Contains(c.Key) && (c.Check is not null || !job.Trials.Any(t => SameTrial(t, c.After)))).ToArray();
        foreach (var line in Order)
        {
            foreach (var candidate in open.Where(c => Matches(line, c)).OrderBy(c => c.Minutes.Value))
            {
                if (tells(candidate)) return candidate;
            }
        }

        return null;
    }

    /// <summary>Whether a candidate is what a line of the order asks for.</summary>
    public static bool Matches(string line, Candidate candidate)
    {
        if (candidate.Check is { } check) return line == (check.Powered ? "read" : "look");
        if (candidate.Changes.Length == 0) return false;
        if (line == "strip") return candidate.Changes.Length > 1 && candidate.Changes.All(c => c is Change.Remove or Change.Bypass or Change.StartWith);
        var (verb, unit) = candidate.Changes[0] switch
        {
            Change.ClearCmos => ("clear-cmos", default(UnitId?)),
            Change.StartWith => ("start-at-pins", null),
            Change.DisplayAt => ("display", null),
            Change.Swap c => ("swap", c.Out),
            Change.Remove c => ("remove", c.Unit),
            Change.Reseat c => ("reseat", c.Unit),
            Change.Move c => ("move", c.Unit),
            Change.Fit c => ("fit", c.Unit),
            Change.Bypass c => ("bypass", c.Unit),
            Change.Mend c => (DataPart.Dashed(c.Remedy), c.Unit),
            _ => ("", null),
        };
        if (candidate.Changes.Length > 1 && candidate.Changes.Skip(1).Any(c => c is not Change.DisplayAt)) return false;
        return unit is { } id ? line == $"{verb} {DataPart.Dashed(candidate.After.Parts[id].Kind)}" : line == verb;
    }

    /// <summary>Reads a schools file.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the line.</exception>
    public static ImmutableArray<School> Read(string yaml, string file)
    {
        var root = YamlPart.Root(yaml, file);
        root.Only("schools");
        var schools = root.Get("schools").Items().Select(ReadOne).ToImmutableArray();
        if (schools.Length == 0) throw root.Wrong("there is no school");
        if (schools.GroupBy(s => s.Id).FirstOrDefault(g => g.Count() > 1) is { } twice) throw root.Wrong($"there are two schools \"{twice.Key}\"");
        return schools;
    }

    private static School ReadOne(DataPart part)
    {
        part.Only("id", "name", "order");
        var order = part.Get("order");
        if (order.IsScalar)
        {
            if (order.Text() != "information") throw order.Wrong("expected \"information\" or a list");
            return new School(part.Get("id").Slug(), part.Get("name").Text(), []);
        }

        return new School(part.Get("id").Slug(), part.Get("name").Text(), [.. order.Items().Select(ReadLine)]);
    }

    private static string ReadLine(DataPart part)
    {
        var words = part.Text().Split(' ');
        var known = words.Length == 1
            ? words[0] is "clear-cmos" or "strip" or "start-at-pins" or "display" or "look" or "read"
            : words.Length == 2 && Enum.GetValues<UnitKind>().Any(k => DataPart.Dashed(k) == words[1])
                && (words[0] is "swap" or "remove" or "reseat" or "move" or "fit" or "bypass" || Enum.GetValues<Remedy>().Any(r => DataPart.Dashed(r) == words[0]));
        return known ? part.Text() : throw part.Wrong($"\"{part.Text()}\" is not a line of an order, such as clear-cmos, strip, or swap and a kind of unit");
    }

    private static bool SameTrial(Trial trial, Situation after) => trial.Situation.Now.Equals(after.Now) && trial.Situation.SameHistory(after);

    private static ImmutableArray<School> LoadStandard()
    {
        using var stream = typeof(School).Assembly.GetManifestResourceStream("schools.yaml")
            ?? throw new InvalidOperationException("The schools are missing from the assembly.");
        using var reader = new StreamReader(stream);
        return Read(reader.ReadToEnd(), "schools.yaml");
    }
}
