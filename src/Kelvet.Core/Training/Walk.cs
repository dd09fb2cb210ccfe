using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>One thing that must hold of the machine for a rule of a walk to hold.</summary>
/// <param name="Holds">Whether it does, of a machine and the kind of its start.</param>
public sealed record WalkCondition(Func<Situation, StartKind?, bool> Holds);

/// <summary>What a set-up shows: the first rule that holds says it.</summary>
/// <param name="When">What must hold; all of it.</param>
/// <param name="Sees">How far it gets.</param>
/// <param name="EveryTh">Of the starts that it holds for, it speaks of every n-th alone; 1 for each.</param>
/// <param name="Stall">What the lights point at; null for nothing.</param>
/// <param name="Signs">What is noted.</param>
public sealed record WalkRule(ImmutableArray<WalkCondition> When, StageRange Sees, int EveryTh, StallDomain? Stall, Signs Signs);

/// <summary>What a look finds.</summary>
/// <param name="Check">The look.</param>
/// <param name="Unit">The unit; null for any.</param>
/// <param name="When">What must hold for it to find something.</param>
/// <param name="What">Which of the things that it tells apart; empty for any.</param>
public sealed record WalkLook(string Check, string? Unit, ImmutableArray<WalkCondition> When, string What);

/// <summary>Something that may be proposed.</summary>
/// <param name="Act">How the change begins, as files have it; null for any.</param>
/// <param name="Look">A look; null for none.</param>
/// <param name="Start">A kind of start; null for any.</param>
/// <param name="Get">A kind of part that is bought; null for none.</param>
/// <param name="Out">A part that is left out, or condemned, at the end; null for none.</param>
/// <param name="End">How the advice ends; null for any.</param>
public sealed record WalkStep(string? Act, string? Look, StartKind? Start, UnitKind? Get, string? Out, AdviceKind? End)
{
    /// <summary>Whether a decision is it.</summary>
    public bool Is(Decision decision, BenchDiagnosis diagnosis)
    {
        if (Out is { } unit)
        {
            var id = new UnitId(unit);
            return diagnosis[id].Standing == Standing.Condemned
                || (decision.Phase == Phase.Done && !diagnosis.Job.Now.Now.Has(id) && diagnosis.Job.Intake.Received.Has(id));
        }

        if (End is { } end)
            return decision.Step is null && decision.Kind == end;
        if (Get is { } kind)
            return decision is { Step: null, Missing: { } missing } && missing.Kind == kind;
        if (Look is { } look)
            return decision.Step?.Check?.Id == look;
        return decision.Step is { Check: null } step
            && (Start is null || step.Kind == Start)
            && (Act is null || step.Changes.Any(c => MachineFormat.Write(c).StartsWith(Act, StringComparison.Ordinal)));
    }
}

/// <summary>What a master asks of the way.</summary>
/// <param name="Words">It, in words.</param>
/// <param name="Step">What is to be proposed, or never.</param>
/// <param name="By">Until this step, from 1; null for never.</param>
/// <param name="Before">What must have been done before it, where it may be proposed at all; null for never at all.</param>
public sealed record WalkDemand(string Words, WalkStep Step, int? By, WalkStep? Before);

/// <summary>One step of a walk as it was taken.</summary>
/// <param name="Number">From 1.</param>
/// <param name="Advice">What was advised.</param>
/// <param name="Read">The log as it was read then.</param>
/// <param name="Shown">What it showed, in words.</param>
public sealed record WalkTaken(int Number, Advice Advice, BenchDiagnosis Read, string Shown);

/// <summary>How a walk went.</summary>
/// <param name="Taken">Its steps.</param>
/// <param name="Broken">What a master asked and did not get.</param>
public sealed record WalkResult(ImmutableArray<WalkTaken> Taken, ImmutableArray<string> Broken);

/// <summary>A job, one hidden truth, and what a master asks of the way: the advice is followed to the letter.</summary>
/// <param name="Name">What it is, in words.</param>
/// <param name="Job">The job as taken in.</param>
/// <param name="Truth">What each set-up shows; the last rule holds always.</param>
/// <param name="Looks">What looks find; one that is not here finds nothing.</param>
/// <param name="Demands">What a master asks.</param>
/// <param name="Passes">Whether it is said to pass today.</param>
public sealed record Walk(
    string Name,
    BenchJob Job,
    ImmutableArray<WalkRule> Truth,
    ImmutableArray<WalkLook> Looks,
    ImmutableArray<WalkDemand> Demands,
    bool Passes
)
{
    private const int MostSteps = 40;

    /// <summary>Follows the advice to the letter.</summary>
    public WalkResult Follow(Atlas atlas)
    {
        var read = BenchDiagnosis.Of(Job, atlas);
        var taken = ImmutableArray.CreateBuilder<WalkTaken>();
        var decided = new List<(Decision Decision, BenchDiagnosis Read)>();
        var held = new int[Truth.Length];
        for (var n = 1; n <= MostSteps; n++)
        {
            var advice = Planner.Advise(read);
            var decision = advice.Decision;
            decided.Add((decision, read));
            var id = new Guid(n, 0, 0, [0, 0, 0, 0, 0, 0, 0, 3]);
            var before = read;
            string shown;
            if (decision.Step is { Check: { } check, Checked: { } unit })
            {
                var look = Looks.FirstOrDefault(l =>
                    l.Check == check.Id && (l.Unit is null || l.Unit == unit.Id.Value) && l.When.All(w => w.Holds(read.Job.Now, null))
                );
                read = read.After(new FindingEntry(id, check.Id, unit.Id, look is not null) { What = look?.What ?? "" });
                shown = look is null ? "nothing found" : $"found{(look.What.Length > 0 ? $": {look.What}" : "")}";
            }
            else if (decision is { Phase: Phase.MakeSafe, Step: { } safe })
            {
                read = read.After(new WorkEntry(id, safe.Changes));
                shown = "made safe";
            }
            else if (decision.Step is not null || decision.Phase == Phase.Reproduce)
            {
                var changes = decision.Step?.Changes ?? [];
                var kind = decision.Step?.Kind;
                var rule = Shown(read.Job.Now.After(changes), kind, held);
                read = read.After(
                    new TrialEntry(id, changes, rule.Sees, rule.Stall is { } stall ? StallSignal.At(stall) : null)
                    {
                        Kind = kind,
                        Signs = rule.Signs,
                    }
                );
                shown = ObservedFormat.Write(rule.Sees);
            }
            else if (decision.Missing is { } missing)
            {
                read = read.After(new ArrivalEntry(id, missing));
                shown = $"{missing.Name} comes";
            }
            else
            {
                taken.Add(new WalkTaken(n, advice, before, "the end"));
                break;
            }

            taken.Add(new WalkTaken(n, advice, before, shown));
        }

        return new WalkResult(taken.ToImmutable(), [.. Demands.Where(d => !IsMet(d, decided)).Select(d => d.Words)]);
    }

    private WalkRule Shown(Situation machine, StartKind? kind, int[] held)
    {
        for (var r = 0; r < Truth.Length; r++)
        {
            if (!Truth[r].When.All(w => w.Holds(machine, kind)))
                continue;
            if (held[r]++ % Truth[r].EveryTh == 0)
                return Truth[r];
        }

        throw new InvalidOperationException("The last rule of a walk holds always.");
    }

    private static bool IsMet(WalkDemand demand, List<(Decision Decision, BenchDiagnosis Read)> decided)
    {
        var at = decided.FindIndex(d => demand.Step.Is(d.Decision, d.Read));
        if (demand.By is { } by)
            return at >= 0 && at < by;
        if (at < 0)
            return true;
        return demand.Before is { } first && decided.Take(at).Any(d => first.Is(d.Decision, d.Read));
    }
}
