using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>A step of a procedure.</summary>
/// <param name="Do">What is done.</param>
/// <param name="Caution">What to mind; empty when nothing special.</param>
/// <param name="Seconds">Countdown that goes with it, 1 to 3600 s; null where there is none.</param>
/// <param name="Wrong">What can go wrong; empty when nothing special.</param>
/// <param name="Loose">What is still to be done when it is skipped; empty where nothing is.</param>
/// <param name="Differ">What other schools do; empty where all do the same.</param>
public sealed record ProcedureStep(string Do, string Caution, int? Seconds, string Wrong, string Loose, string Differ = "");

/// <summary>How a step is done by hand.</summary>
/// <param name="Id">Name used in job files.</param>
/// <param name="Name">What is done, in words.</param>
/// <param name="For">The acts that it is for; no kind of unit for any.</param>
/// <param name="Minutes">Bench minutes.</param>
/// <param name="Steps">Its steps, in order.</param>
public sealed record Procedure(
    string Id,
    string Name,
    ImmutableArray<(ActKind Act, UnitKind? On)> For,
    Minutes Minutes,
    ImmutableArray<ProcedureStep> Steps
)
{
    /// <summary>
    /// Bench times with what this procedure has been measured to take. Switching off and the wait for the start are in what was
    /// measured, and are counted by themselves.
    /// </summary>
    /// <param name="measured">Minutes, above 0.</param>
    /// <param name="work">The times so far.</param>
    public WorkTimes Taking(double measured, WorkTimes work)
    {
        var own = new Minutes(Math.Max(0.2, measured - work.Power.Value - work.Wait.Value));
        foreach (var (act, on) in For)
        {
            work = (act, on) switch
            {
                (ActKind.ClearCmos, _) => work with { ClearCmos = own },
                (ActKind.Swap, { } kind) => work with { Swap = work.Swap.SetItem(kind, own) },
                (ActKind.Reseat, { } kind) => work with { Reseat = work.Reseat.SetItem(kind, own) },
                (ActKind.Remove, { } kind) => work with { Remove = work.Remove.SetItem(kind, own) },
                _ when Acts.RemedyOf(act) is { } remedy => work with { Mend = work.Mend.SetItem(remedy, own) },
                _ => work,
            };
        }

        return work;
    }
}

/// <summary>The procedures that ship with Kelvet, and what of them is still to be done in a job.</summary>
public static class Procedures
{
    /// <summary>Most steps of a procedure.</summary>
    public const int MostSteps = 30;

    private const int LongestStep = 200;

    /// <summary>All of them.</summary>
    public static ImmutableArray<Procedure> Standard { get; } = LoadStandard();

    /// <summary>The procedure of an id; null where there is none.</summary>
    public static Procedure? Find(string id) => Standard.FirstOrDefault(p => p.Id == id);

    /// <summary>The procedure for what is to be done: of the first change that has one; null where none has.</summary>
    /// <param name="changes">What is to be done.</param>
    /// <param name="parts">The parts of the job.</param>
    public static Procedure? For(IEnumerable<Change> changes, Parts parts) =>
        changes
            .Select(c =>
                Standard.FirstOrDefault(p =>
                    p.For.Any(f => f.Act == c.Act && (f.On is null || f.On == (c.Subject is { } id ? parts.Find(id)?.Kind : null)))
                )
            )
            .FirstOrDefault(p => p is not null);

    /// <summary>Measured times of a procedure from which the shop's own are taken: one may have been a bad day.</summary>
    public const int LeastMeasured = 3;

    /// <summary>The middle of measured times, minutes; null where there are too few.</summary>
    public static double? Median(IReadOnlyCollection<double> minutes)
    {
        if (minutes.Count < LeastMeasured)
            return null;
        double[] sorted = [.. minutes.Order()];
        var middle = sorted.Length / 2;
        return sorted.Length % 2 == 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
    }

    /// <summary>What was skipped and is still to be done, by the last time that each procedure was carried out.</summary>
    public static ImmutableArray<string> LooseEnds(BenchJob job) =>
        [
            .. job
                .InOrder.Select(l => l.Stands)
                .OfType<ProcedureEntry>()
                .GroupBy(e => e.Procedure)
                .Select(g => g.Last())
                .SelectMany(e =>
                    Find(e.Procedure) is { } procedure
                        ? e.Skipped.Where(i => i >= 1 && i <= procedure.Steps.Length).Select(i => procedure.Steps[i - 1].Loose)
                        : []
                )
                .Where(l => l.Length > 0)
                .Distinct(),
        ];

    /// <summary>Reads a file of procedures.</summary>
    /// <param name="yaml">The file.</param>
    /// <param name="file">Its name, for messages.</param>
    /// <exception cref="DataFileException">It is broken; the message names the line.</exception>
    public static ImmutableArray<Procedure> Read(string yaml, string file)
    {
        var root = YamlPart.Root(yaml, file);
        root.Only("procedures");
        var read = ImmutableArray.CreateBuilder<Procedure>();
        foreach (var part in root.Get("procedures").Items())
        {
            part.Only("id", "name", "for", "minutes", "steps");
            var id = part.Get("id").Slug();
            if (read.Any(p => p.Id == id))
                throw part.Get("id").Wrong($"there is a procedure \"{id}\" already");
            ProcedureStep[] steps = [.. part.Get("steps").Items().Select(Step)];
            if (steps.Length is 0 or > MostSteps)
                throw part.Get("steps").Wrong($"a procedure has 1 to {MostSteps} steps");
            read.Add(
                new Procedure(
                    id,
                    part.Get("name").Text(),
                    [.. part.Get("for").Items().Select(Act)],
                    new Minutes(part.Get("minutes").Number(0.1, 600)),
                    [.. steps]
                )
            );
        }

        return read.ToImmutable();
    }

    private static ProcedureStep Step(DataPart part)
    {
        part.Only("do", "caution", "seconds", "wrong", "loose", "differ");
        return new ProcedureStep(
            part.Get("do").Text(LongestStep),
            part.TextOr("caution", "", LongestStep),
            part.Find("seconds")?.Whole(1, 3600),
            part.TextOr("wrong", "", LongestStep),
            part.TextOr("loose", "", LongestStep),
            part.TextOr("differ", "", LongestStep)
        );
    }

    private static (ActKind Act, UnitKind? On) Act(DataPart part)
    {
        var words = part.Text().Split(' ', 2);
        if (!Dashed.TryRead<ActKind>(words[0], out var act))
            throw part.Wrong($"\"{words[0]}\" is none of {string.Join(", ", Dashed.All<ActKind>())}");
        if (words.Length == 1)
            return (act, null);
        return Dashed.TryRead<UnitKind>(words[1], out var on)
            ? (act, on)
            : throw part.Wrong($"\"{words[1]}\" is none of {string.Join(", ", Dashed.All<UnitKind>())}");
    }

    private static ImmutableArray<Procedure> LoadStandard()
    {
        using var stream =
            typeof(Procedures).Assembly.GetManifestResourceStream("procedures.yaml")
            ?? throw new InvalidOperationException("The procedures are missing from the assembly.");
        using var reader = new StreamReader(stream);
        return Read(reader.ReadToEnd(), "procedures.yaml");
    }
}
