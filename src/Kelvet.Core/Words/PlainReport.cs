using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>
/// A job in words for its owner: what was wrong, how it is known, what was done, what to watch, what was found besides. No
/// numbers of the reckoning, and no word that only the trade uses.
/// </summary>
/// <param name="Wrong">What was wrong; one sentence a part.</param>
/// <param name="Known">How that is known.</param>
/// <param name="Done">What was done.</param>
/// <param name="Watch">What to watch from now on.</param>
/// <param name="Besides">What was found besides.</param>
public sealed record PlainReport(
    ImmutableArray<string> Wrong,
    ImmutableArray<string> Known,
    ImmutableArray<string> Done,
    ImmutableArray<string> Watch,
    ImmutableArray<string> Besides
)
{
    /// <summary>Words of the trade that an owner need not know; a customer's paper has none of them.</summary>
    public static ImmutableArray<string> Jargon { get; } =
    [
        "POST",
        "CMOS",
        "BIOS",
        "UEFI",
        "PSU",
        "GPU",
        "CPU",
        "RAM",
        "IMC",
        "DIMM",
        "VRM",
        "rail",
        "posterior",
        "prior",
        "hypothesis",
        "likelihood",
        "probability",
        "trial",
        "suspect",
        "condemned",
        "one-way",
        "two-way",
        "channel",
        "slot",
        "standoff",
        "header",
        "repaste",
        "reseat",
        "flash",
        "firmware",
        "intermittent",
        "bits",
        "odds",
        "%",
    ];

    /// <summary>What was done, as one paragraph; empty where nothing was.</summary>
    public string DoneInWords => string.Join(' ', Done);

    /// <summary>The report of a log.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="found">The parts that were found at fault.</param>
    /// <param name="preferences">The shop's, by which one side of a proof may be enough; the usual when null.</param>
    /// <param name="closed">Whether the machine goes back: then it is said where nothing was repaired.</param>
    public static PlainReport Of(
        BenchDiagnosis diagnosis,
        IReadOnlyCollection<UnitId> found,
        Preferences? preferences = null,
        bool closed = false
    )
    {
        UnitId[] accepted = [.. ProofPrice.Of(diagnosis, preferences ?? Preferences.Usual).Where(p => p.Accepted).Select(p => p.Unit.Id)];
        var job = diagnosis.Job;
        Suspect[] named = [.. diagnosis.Suspects.Where(s => found.Contains(s.Unit.Id))];
        var repaired = named.Any(s => s.Standing == Standing.PutRight || !job.Now.Now.Has(s.Unit.Id));
        return new PlainReport(
            named.Length == 0 ? [NothingNamed(job)] : [.. named.Select(WrongWith)],
            [.. named.Select(s => HowKnown(s, job, accepted.Contains(s.Unit.Id))).Where(s => s.Length > 0)],
            [.. named.SelectMany(s => DoneTo(s, job)), .. Settled(job), .. closed && !repaired ? NotRepaired(job) : []],
            [.. ToWatch(named, job, repaired), .. WorkedHere(job) && named.Length == 0 ? AtHome : []],
            [.. OfMisfits(job)]
        );
    }

    /// <summary>What is looked at where a machine stands that worked in the shop. Common practice, no source.</summary>
    private static ImmutableArray<string> AtHome { get; } =
    [
        "At home, try it first without a strip or extension, in another outlet, with nothing plugged in but screen, keyboard and mouse.",
        "Try another cable to the screen, and the screen's own choice of input.",
        "Should it come back, write down what you did just before and what stood on the screen, or take a picture of it, and bring it in.",
    ];

    private static bool WorkedHere(BenchJob job) => job.Trials.Any(t => t.Passed) && !job.Trials.Any(t => t.Failed);

    private static string NothingNamed(BenchJob job) =>
        job.Trials.Length == 0 ? "It has not been tried yet."
        : WorkedHere(job)
            ? $"It worked here: it was started {Times(job.Trials.Count(t => t.Passed))}, and what you told us did not happen. "
                + "That does not say that nothing is wrong."
        : "No single part was found to be the cause.";

    private static IEnumerable<string> NotRepaired(BenchJob job)
    {
        if (job.Trials.Length == 0 || WorkedHere(job))
            yield return "Nothing was repaired.";
        else if (job.Trials[^1].Passed)
            yield return "Nothing was replaced. As it is put together now, it works.";
        else
            yield return "It was not repaired, and goes back as it is.";
    }

    /// <summary>A kind of part as its owner says it.</summary>
    public static string Plainly(UnitKind kind) => UnitFacts.Of(kind) is { Owner.Length: > 0 } facts ? facts.Owner : kind.Words();

    private static string WrongWith(Suspect suspect)
    {
        var part = $"The {Plainly(suspect.Unit.Kind)} ({suspect.Unit.Name})";
        var cure = suspect.Leading.Fault.Act.Cure;
        return (suspect.Standing, cure) switch
        {
            (Standing.PutRight, Cure.Reseat) => $"{part} did not sit firmly in its place. It is not broken.",
            (Standing.PutRight, Cure.Clean) => $"{part} had dirty contacts. It is not broken.",
            (Standing.PutRight, Cure.ClearCmos) => "The machine's basic settings had gone wrong. Nothing is broken.",
            (Standing.PutRight, Cure.ProfileOff) => "The memory was set faster than this machine can run it. Nothing is broken.",
            (Standing.PutRight, Cure.Flash) => $"{part} needed newer built-in software. It is not broken.",
            (Standing.PutRight, Cure.Rewire) => $"A plug of the {Plainly(suspect.Unit.Kind)} was not where it belongs. Nothing is broken.",
            (Standing.PutRight, Cure.NewCell) => "The small battery that keeps the machine's settings was empty. Nothing is broken.",
            (Standing.PutRight, Cure.Arrange) => "Parts were plugged in where this main board does not take them. Nothing is broken.",
            (Standing.PutRight, Cure.Repaste) => $"{part} did not carry its heat away. It is not broken.",
            (Standing.PutRight, _) => $"{part} was not as it should be. It is not broken.",
            (Standing.Condemned, _) => $"{part} is broken.",
            _ => $"{part} is most likely broken.",
        };
    }

    private static string HowKnown(Suspect suspect, BenchJob job, bool accepted)
    {
        var kind = Plainly(suspect.Unit.Kind);
        if (Safety.WhyNeverAgain(job, suspect.Unit.Id) is not null)
            return $"The {kind} smelled burnt or put the fuse out. Such a part is not switched on again, so that nothing else is damaged.";
        if (suspect.Standing == Standing.PutRight)
            return "After it was put right the machine started, and it has not failed since.";
        var proof = suspect.Proof;
        return proof.TwoWay ? $"Without this {kind} the machine worked; with it back in, it failed again. Everything else stayed the same."
            : accepted
                ? $"Without this {kind} the machine worked. To put it back and see it fail once more would have cost more than it tells."
            : proof.OneWay ? $"Without this {kind} the machine worked. It was not put back to see it fail once more."
            : $"Everything that was tried points to the {kind}; it was not tried the other way round.";
    }

    private static IEnumerable<string> DoneTo(Suspect suspect, BenchJob job)
    {
        var unit = suspect.Unit;
        var kind = Plainly(unit.Kind);
        if (suspect.Standing == Standing.PutRight)
        {
            yield return $"The {kind} was put right and stays in.";
            yield break;
        }

        if (job.Now.Now.Has(unit.Id))
        {
            yield return $"The {kind} is still in the machine.";
            yield break;
        }

        var instead = job.Intake.Received.PlaceOf(unit.Id) is { } place && job.Now.Now[place] is { } other ? job.Now.Parts[other] : null;
        yield return instead is null ? $"The {kind} was taken out." : $"The {kind} was replaced by {instead.Name}.";
    }

    private static IEnumerable<string> Settled(BenchJob job) =>
        Settling.Of(job).Select(p => p.Said?.ToTheOwner(Plainly(p.Unit.Kind)) ?? "").Where(w => w.Length > 0);

    private static IEnumerable<string> ToWatch(Suspect[] named, BenchJob job, bool repaired)
    {
        var clean = Intermittence.CleanNow(job);
        if (Intermittence.In(job) is not null)
            yield return (
                repaired ? $"It failed only now and then. Since the repair it was started {Times(clean)} without a fault. "
                : clean > 0
                    ? $"It failed only now and then. Here it was last started {Times(clean)} without a fault; "
                        + "what caused it may still be there. "
                : "It fails only now and then, and may work for you at first. "
            ) + "Should it come back, note what you did just before, and bring it in.";
        else if (clean > 0 && repaired)
            yield return $"Since the repair it was started {Times(clean)} without a fault.";
        if (named.Any(s => s.Unit.Kind is UnitKind.Outlet or UnitKind.PowerStrip or UnitKind.MainsLead))
            yield return "Have the outlet checked by a licensed electrician before the machine is plugged in there again.";
        if (job.Intake.Contexts.Contains("power-event"))
            yield return "It failed after trouble with the power: a strip with surge protection is worth its price.";
        if (job.Intake.Contexts.Contains("heat"))
            yield return "It ran hot: keep its openings free, and have the dust taken out once a year.";
    }

    private static string Times(int clean) =>
        clean switch
        {
            1 => "once",
            2 => "twice",
            _ => $"{clean} times",
        };

    private static IEnumerable<string> OfMisfits(BenchJob job) =>
        job
            .Lines.Select(l => l.Stands)
            .OfType<MisfitEntry>()
            .Select(m =>
                m.Kind switch
                {
                    Misfit.WrongSlots or Misfit.OneChannel =>
                        "The memory modules were not where this main board wants them; they were moved.",
                    Misfit.MixedSticks => "The memory modules are not of one set: all run as fast as the slowest.",
                    Misfit.MonitorOnBoardBesideCard or Misfit.MonitorOnBoardWithoutGraphics =>
                        "The screen was plugged into the wrong socket; it belongs on the graphics card.",
                    Misfit.SupplyTooSmall => "The power supply is small for these parts.",
                    Misfit.CoolerTooWeak => "The cooler is small for this processor.",
                    _ => "",
                }
            )
            .Where(s => s.Length > 0)
            .Distinct();
}
