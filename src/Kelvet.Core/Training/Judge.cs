using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Training;

/// <summary>How a job ended.</summary>
public enum Verdict
{
    /// <summary>The machine does what was asked, no fault that matters is left in it, and nothing good was replaced.</summary>
    Right,

    /// <summary>The job was closed with a fault that matters still there.</summary>
    Missed,

    /// <summary>A good part was condemned, or one that only a cheaper remedy was wanted for.</summary>
    WrongPart,

    /// <summary>Time or ideas ran out.</summary>
    GivenUp,

    /// <summary>
    /// It was said that it is not in the book or not proved, and nothing good was replaced: no answer, but an honest one.
    /// </summary>
    NotProved,

    /// <summary>It was given back as not reproduced, though the fault that it came for acts here.</summary>
    SentHome,
}

/// <summary>What a master would wince at on the way, counted.</summary>
/// <param name="TellsNothing">Steps taken to learn something that could tell nothing.</param>
/// <param name="SameAgain">The same set-up started again beyond three times, to learn something.</param>
/// <param name="DearFirst">Parts bought while a cheaper one was at least as likely.</param>
/// <param name="GateOpen">Parts bought or left out with the settings never cleared, or the part never seated anew.</param>
/// <param name="Unsafe">Steps proposed that nobody may take.</param>
/// <param name="ProofDearer">Suspects put back to prove them where that costs more than they do.</param>
public sealed record Winces(int TellsNothing, int SameAgain, int DearFirst, int GateOpen, int Unsafe, int ProofDearer)
{
    /// <summary>Nothing to wince at.</summary>
    public static Winces None { get; } = new(0, 0, 0, 0, 0, 0);

    /// <summary>All of them.</summary>
    public int Sum => TellsNothing + SameAgain + DearFirst + GateOpen + Unsafe + ProofDearer;
}

/// <summary>What came of one job.</summary>
/// <param name="Verdict">How it ended.</param>
/// <param name="Minutes">Bench minutes.</param>
/// <param name="Trials">Start-ups.</param>
/// <param name="SparesAtRisk">Known-good spares that ran in a machine that could have killed them.</param>
/// <param name="Condemned">Parts of the customer's that did not go back in, or were condemned when the job was given up.</param>
public sealed record JobResult(Verdict Verdict, double Minutes, int Trials, int SparesAtRisk, ImmutableArray<UnitId> Condemned)
{
    /// <summary>Of the minutes, those in which nobody needs to stand there: cold rests, runs under load, tests, orders.</summary>
    public double Waiting { get; init; }

    /// <summary>What was bought, in the shop's currency.</summary>
    public double Money { get; init; }

    /// <summary>Of that, for parts that were good, or that a cheaper remedy was wanted for.</summary>
    public double Wasted { get; init; }

    /// <summary>Parts of the customer's thrown out though good, by kind; one entry each.</summary>
    public ImmutableArray<UnitKind> GoodParts { get; init; } = [];

    /// <summary>What a master would wince at.</summary>
    public Winces Winces { get; init; } = Winces.None;
}

/// <summary>Judges a job by what was really wrong and by what takes it away.</summary>
public static class Judge
{
    /// <summary>Parts of the customer's that are thrown out rightly: they have a fault that only another part helps against.</summary>
    /// <param name="job">The job.</param>
    /// <param name="worlds">The world as it came in and as it is now.</param>
    public static HashSet<UnitId> Guilty(BenchJob job, params World[] worlds)
    {
        var replaced = worlds
            .SelectMany(w => w.Hidden.Select(h => w.Faults[h.Index]))
            .Where(f => f.Mode.Cure == Cure.Repair || f.Act.Cure == Cure.Replace);
        var guilty = replaced.Select(f => f.Unit.Id).ToHashSet();
        if (worlds[0].Hidden.Any(h => worlds[0].Faults[h.Index].Mode.On == FaultSite.MemoryKit))
            guilty.UnionWith(job.Intake.Received.At.Values.Where(id => job.Now.Parts[id] is MemoryStick));
        // What was mended in place and came back all the same is rightly replaced.
        guilty.UnionWith(worlds[^1].Hidden.Where(h => h.CameBack).Select(h => worlds[^1].Faults[h.Index].Unit.Id));
        // So is what its own remedy did not mend.
        guilty.UnionWith(
            worlds[^1]
                .Hidden.Where(h => worlds[^1].Faults[h.Index].DealtWith(job.Now.BackIn(job.Intake.Received)))
                .Where(h => worlds[^1].Matters(h, job.Now.BackIn(job.Intake.Received)))
                .Select(h => worlds[^1].Faults[h.Index].Unit.Id)
        );
        return guilty;
    }

    /// <summary>The verdict on a job.</summary>
    /// <param name="log">Its log at the end.</param>
    /// <param name="received">What was wrong when it came in.</param>
    /// <param name="now">What is wrong now.</param>
    /// <param name="end">How the advice ended it; null where time ran out.</param>
    public static (Verdict Verdict, UnitId[] Condemned, UnitId[] Good) Of(BenchDiagnosis log, World received, World now, Decision? end)
    {
        var job = log.Job;
        var closed = end is { Phase: Phase.Done, Kind: not AdviceKind.NotReproduced };
        var guilty = Guilty(job, received, now);
        UnitId[] condemned = closed
            ? [.. job.Intake.Received.At.Values.Where(id => !job.Now.Now.Has(id) && Safety.WhyNeverAgain(job, id) is null)]
            : [.. log.Suspects.Where(s => s.Standing == Standing.Condemned).Select(s => s.Unit.Id)];
        UnitId[] good = [.. condemned.Where(id => !guilty.Contains(id))];
        var left = now.Hidden.Any(f => now.Matters(f, job.Now));
        var actsHere = now.Hidden.Any(f => !f.OnlyAtHome && now.Matters(f, job.Now));
        var verdict =
            good.Length > 0 ? Verdict.WrongPart
            : end is null ? Verdict.GivenUp
            : end.Kind == AdviceKind.NotReproduced
                ? actsHere ? Verdict.SentHome
                    : Verdict.Right
            : !closed ? Verdict.NotProved
            : left ? Verdict.Missed
            : Verdict.Right;
        return (verdict, condemned, good);
    }
}
