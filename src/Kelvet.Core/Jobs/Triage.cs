using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>What the answers at the counter ask for before anything is powered, and what the customer is told.</summary>
public enum Triage
{
    /// <summary>The supply it came with tripped a breaker: it is never powered again.</summary>
    SupplyTripped,

    /// <summary>It smelt or burnt: its supply is never powered again, and the board is looked over first.</summary>
    SupplyBurnt,

    /// <summary>Liquid got in: dry it, cell out, and look for damp before power.</summary>
    DryFirst,

    /// <summary>No cooler on the CPU: it is not powered so.</summary>
    CoolerFirst,

    /// <summary>Something does not fit together: put it right before the first start.</summary>
    PutRightFirst,

    /// <summary>It stood unused or ran hot: drain it, and clean heavy dust before it is started.</summary>
    CleanFirst,

    /// <summary>Outlet and strip at the customer's are to be checked by a licensed electrician.</summary>
    Electrician,

    /// <summary>Their lead, strip and monitor are wanted at the bench as well.</summary>
    BringTheRest,

    /// <summary>What is on the drives is wanted safe before work that may touch it.</summary>
    BackupFirst,
}

/// <summary>Reads the answers of the counter for what is dangerous. Common practice; wiring is for a licensed electrician.</summary>
public static class Triages
{
    /// <summary>Ids of contexts that bear on it beside those of <see cref="Safety"/>.</summary>
    public const string Power = "power-event",
        Unused = "long-unused",
        Heat = "heat",
        Site = "site-trouble",
        Again = "repeated-return";

    /// <summary>What is asked for, most urgent first.</summary>
    public static ImmutableArray<Triage> Of(BenchJob job)
    {
        var told = job.EverTold.ToHashSet();
        var asked = ImmutableArray.CreateBuilder<Triage>();
        Add(Triage.SupplyTripped, told.Contains(Safety.TrippedBreaker));
        Add(Triage.SupplyBurnt, told.Contains(Safety.Smell));
        Add(Triage.DryFirst, told.Contains(Safety.Wet));
        Add(Triage.CoolerFirst, job.Now.WhyNotPowered() is not null);
        Add(Triage.PutRightFirst, MisfitFound.In(job.Now).Any(m => m.Kind != Misfit.NoCooler));
        Add(Triage.CleanFirst, told.Contains(Heat) || told.Contains(Unused));
        Add(Triage.Electrician, told.Overlaps([Safety.TrippedBreaker, Power, Site]));
        Add(Triage.BringTheRest, told.Overlaps([Site, Again]));
        Add(
            Triage.BackupFirst,
            job.Intake.Complaint.Then is Ending.StopError or Ending.Froze && job.Now.Now.At.Keys.Any(p => p.Kind == PlaceKind.Storage)
        );
        return asked.ToImmutable();

        void Add(Triage triage, bool when)
        {
            if (when)
                asked.Add(triage);
        }
    }
}
