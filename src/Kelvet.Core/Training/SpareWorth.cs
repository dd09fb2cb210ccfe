using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Core.Training;

/// <summary>A closed job as far as spares are judged by it.</summary>
/// <param name="Job">The job.</param>
/// <param name="Truth">What was found and proved: parts and modes.</param>
public sealed record SolvedJob(BenchJob Job, ImmutableArray<(UnitId Unit, string Mode)> Truth);

/// <summary>What a spare of one kind would have saved in jobs that are closed.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="IsThere">Whether one lies on the shelf: then it is what it saved.</param>
/// <param name="Jobs">Jobs that were played, 1 upward.</param>
/// <param name="Minutes">Attended bench minutes saved in all of them; below zero where it led astray.</param>
/// <param name="Helped">Jobs in which it saved a minute or more.</param>
public sealed record SpareSaving(UnitKind Kind, bool IsThere, int Jobs, double Minutes, int Helped);

/// <summary>
/// Which spare would have saved most: each closed job is worked again by the advice itself, on the machine as it came in and with what was
/// found to be wrong with it, once with a spare of a kind on the shelf and once without. The same chance is drawn both times.
/// </summary>
public static class SpareWorth
{
    /// <summary>Kinds that a shop keeps spares of.</summary>
    public static ImmutableArray<UnitKind> Kinds { get; } =
    [UnitKind.Supply, UnitKind.MemoryStick, UnitKind.GraphicsCard, UnitKind.Cpu, UnitKind.Motherboard];

    /// <summary>A spare has to save this in a job to have helped there, minutes.</summary>
    private const double AMinute = 1;

    /// <summary>Plays one job.</summary>
    /// <param name="solved">The job.</param>
    /// <param name="shelf">What lies on the shelf now.</param>
    /// <param name="atlas">The atlas.</param>
    /// <param name="school">The order of work.</param>
    /// <param name="preferences">The shop's.</param>
    /// <param name="seed">Chance: the same for the same job.</param>
    /// <param name="cancel">Given up between two machines.</param>
    /// <returns>Minutes saved by a spare of each kind; empty where what was wrong cannot be played.</returns>
    public static ImmutableDictionary<UnitKind, double> Of(
        SolvedJob solved,
        IReadOnlyCollection<Unit> shelf,
        Atlas atlas,
        School school,
        Preferences preferences,
        int seed,
        CancellationToken cancel = default
    )
    {
        var saved = ImmutableDictionary.CreateBuilder<UnitKind, double>();
        foreach (var kind in Kinds)
        {
            if (solved.Job.Intake.Parts.All.FirstOrDefault(u => u.Kind == kind && u.Origin == Origin.Customer) is not { } like)
                continue;
            var others = shelf.Where(u => u.Kind != kind).ToArray();
            var own = shelf.FirstOrDefault(u => u.Kind == kind);
            var with = own ?? JobFormat.ReadUnit(JobFormat.Write(like, new UnitId("spare-of-one-kind"), Origin.Shelf));
            if (Minutes(others) is not { } without || Minutes([.. others, with]) is not { } had)
                return ImmutableDictionary<UnitKind, double>.Empty;
            saved[kind] = without - had;
        }

        return saved.ToImmutable();

        double? Minutes(IReadOnlyCollection<Unit> spares)
        {
            cancel.ThrowIfCancellationRequested();
            var came = solved.Job.Intake.Parts.All.Where(u => u.Origin != Origin.Shelf);
            var intake = solved.Job.Intake with { Parts = Parts.Of(came.Concat(spares.Where(s => came.All(u => u.Id != s.Id)))) };
            var job = BenchJob.Open(intake);
            var random = new Random(seed);
            if (World.Knowing(job, atlas, solved.Truth, random) is not { } world)
                return null;
            var result = Episode.Work(job, world, atlas, school, preferences, new Random(seed)).Result;
            return result.Minutes - result.Waiting;
        }
    }

    /// <summary>What the jobs come to, the kind that saved most first.</summary>
    public static ImmutableArray<SpareSaving> Together(
        IReadOnlyCollection<ImmutableDictionary<UnitKind, double>> jobs,
        IReadOnlyCollection<Unit> shelf
    ) =>
        [
            .. Kinds
                .Select(k => (Kind: k, Saved: jobs.Where(j => j.ContainsKey(k)).Select(j => j[k]).ToArray()))
                .Where(k => k.Saved.Length > 0)
                .Select(k => new SpareSaving(
                    k.Kind,
                    shelf.Any(u => u.Kind == k.Kind),
                    k.Saved.Length,
                    k.Saved.Sum(),
                    k.Saved.Count(s => s >= AMinute)
                ))
                .OrderByDescending(s => s.Minutes),
        ];
}
