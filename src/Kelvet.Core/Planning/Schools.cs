using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Planning;

/// <summary>What a line of an order of work asks for.</summary>
public enum LineKind
{
    /// <summary>An act on a kind of unit.</summary>
    Act,

    /// <summary>Down to board, CPU, one stick and supply.</summary>
    Strip,

    /// <summary>A look with the power off.</summary>
    Look,

    /// <summary>A test or reading with the power on.</summary>
    Read,
}

/// <summary>A line of an order of work.</summary>
/// <param name="Kind">What it asks for.</param>
/// <param name="Act">The act; of no meaning for a look, a reading or the strip.</param>
/// <param name="On">The kind of unit; null for acts that are done to none.</param>
public sealed record SchoolLine(LineKind Kind, ActKind Act = default, UnitKind? On = null)
{
    /// <summary>Whether a candidate is what the line asks for.</summary>
    public bool Matches(Candidate candidate)
    {
        if (candidate.Check is { } check)
            return Kind == (check.Powered ? LineKind.Read : LineKind.Look);
        if (candidate.Changes.Length == 0)
            return false;
        if (Kind == LineKind.Strip)
            return candidate.Changes.Length > 1
                && candidate.Changes.All(c => c.Act is ActKind.Remove or ActKind.Bypass or ActKind.StartWith);
        if (Kind != LineKind.Act || candidate.Changes.Skip(1).Any(c => c.Act != ActKind.DisplayAt))
            return false;
        var first = candidate.Changes[0];
        return first.Act == Act && On == (first.Subject is { } unit ? candidate.After.Parts[unit].Kind : null);
    }
}

/// <summary>An order of work.</summary>
/// <param name="Id">Name in files and commands.</param>
/// <param name="Name">Name for people.</param>
/// <param name="Order">Lines in order; empty for the advisor, who weighs every step.</param>
public sealed record School(string Id, string Name, ImmutableArray<SchoolLine> Order)
{
    /// <summary>The schools that ship with Kelvet, the advisor first.</summary>
    public static ImmutableArray<School> Standard { get; } = LoadStandard();

    /// <summary>Weighs every step.</summary>
    public static School Advisor => Standard[0];

    /// <summary>Whether it follows no fixed order, but what tells most.</summary>
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
        if (job.Trials[^1].Passed)
            return null;
        var done = job
            .Trials.Where(t => t.Entry.Changes.Length > 0)
            .Select(t => new StepKey(new ValueList<Change>(t.Entry.Changes), null, null))
            .Concat(
                job.Testimonies.Select(t => t.Entry)
                    .OfType<FindingEntry>()
                    .Select(f => new StepKey(new ValueList<Change>([]), f.Check, f.Unit))
            )
            .ToHashSet();
        var open = candidates
            .Where(c => !done.Contains(c.Key) && (c.Check is not null || !job.Trials.Any(t => t.Situation.IsSameAs(c.After))))
            .ToArray();
        foreach (var line in Order)
        {
            foreach (var candidate in open.Where(line.Matches).OrderBy(c => c.Minutes.Value))
            {
                if (tells(candidate))
                    return candidate;
            }
        }

        return null;
    }

    /// <summary>Reads a schools file.</summary>
    /// <exception cref="DataFileException">It is broken; the message names the line.</exception>
    public static ImmutableArray<School> Read(string yaml, string file)
    {
        var root = YamlPart.Root(yaml, file);
        root.Only("schools");
        var schools = root.Get("schools").Items().Select(ReadOne).ToImmutableArray();
        if (schools.Length == 0)
            throw root.Wrong("there is no school");
        if (schools.GroupBy(s => s.Id).FirstOrDefault(g => g.Count() > 1) is { } twice)
            throw root.Wrong($"there are two schools \"{twice.Key}\"");
        return schools;
    }

    private static School ReadOne(DataPart part)
    {
        part.Only("id", "name", "order");
        var order = part.Get("order");
        if (order.IsScalar)
        {
            if (order.Text() != "information")
                throw order.Wrong("expected \"information\" or a list");
            return new School(part.Get("id").Slug(), part.Get("name").Text(), []);
        }

        return new School(part.Get("id").Slug(), part.Get("name").Text(), [.. order.Items().Select(ReadLine)]);
    }

    private static SchoolLine ReadLine(DataPart part) =>
        part.Text().Split(' ') switch
        {
            ["strip"] => new SchoolLine(LineKind.Strip),
            ["look"] => new SchoolLine(LineKind.Look),
            ["read"] => new SchoolLine(LineKind.Read),
            ["clear-cmos"] => new SchoolLine(LineKind.Act, ActKind.ClearCmos),
            ["start-at-pins"] => new SchoolLine(LineKind.Act, ActKind.StartWith),
            ["display"] => new SchoolLine(LineKind.Act, ActKind.DisplayAt),
            [var verb, var kind] when Dashed.TryRead<ActKind>(verb, out var act) && Dashed.TryRead<UnitKind>(kind, out var on) =>
                new SchoolLine(LineKind.Act, act, on),
            _ => throw part.Wrong($"\"{part.Text()}\" is not a line of an order, such as clear-cmos, strip, or swap and a kind of unit"),
        };

    private static ImmutableArray<School> LoadStandard()
    {
        using var stream =
            typeof(School).Assembly.GetManifestResourceStream("schools.yaml")
            ?? throw new InvalidOperationException("The schools are missing from the assembly.");
        using var reader = new StreamReader(stream);
        return Read(reader.ReadToEnd(), "schools.yaml");
    }
}
