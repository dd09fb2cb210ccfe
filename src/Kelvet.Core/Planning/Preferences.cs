using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Planning;

/// <summary>When CMOS is cleared.</summary>
public enum CmosClear
{
    /// <summary>Before anything else.</summary>
    First,

    /// <summary>Early, where it costs little.</summary>
    Early,

    /// <summary>Only when settings are suspected.</summary>
    WhenSuspected,
}

/// <summary>Which part is swapped first, whatever tells more.</summary>
public enum FirstSwap
{
    /// <summary>Whatever tells most for its time.</summary>
    WhatTells,

    /// <summary>Memory before others.</summary>
    Memory,

    /// <summary>Graphics before others.</summary>
    Graphics,

    /// <summary>The supply before others.</summary>
    Supply,
}

/// <summary>How far a supply tester is believed.</summary>
public enum SupplyTester
{
    /// <summary>A pass says little; a failure says much.</summary>
    WeakForGood,

    /// <summary>Both are believed.</summary>
    Trusted,

    /// <summary>It is not used.</summary>
    Skip,
}

/// <summary>Which of CPU and board is swapped first.</summary>
public enum CpuOrBoard
{
    /// <summary>Whatever tells most for its time.</summary>
    WhatTells,

    /// <summary>The cheaper of the two.</summary>
    CheaperFirst,

    /// <summary>The board.</summary>
    BoardFirst,
}

/// <summary>When the machine is drained between changes.</summary>
public enum Drain
{
    /// <summary>Where parts are changed.</summary>
    AfterPartChanges,

    /// <summary>Before every start.</summary>
    Always,

    /// <summary>Where something does not fit.</summary>
    WhenOdd,
}

/// <summary>What is done about a bent socket pin.</summary>
public enum BentPin
{
    /// <summary>Straighten it, and keep the board under suspicion.</summary>
    StraightenAndSuspect,

    /// <summary>Straighten it.</summary>
    Straighten,

    /// <summary>Replace it.</summary>
    Replace,
}

/// <summary>What is done about a dead graphics card. Oven or heat-gun revival is not among it: it does not last.</summary>
public enum DeadCard
{
    /// <summary>Replace it.</summary>
    Replace,

    /// <summary>Clean and repaste it once, then replace it.</summary>
    CleanAndRepasteOnce,
}

/// <summary>Where the board is tried.</summary>
public enum BenchPlace
{
    /// <summary>In its case.</summary>
    InTheCase,

    /// <summary>Out of its case, on the bench.</summary>
    OnTheBench,
}

/// <summary>What a memory test program is used for.</summary>
public enum MemoryTest
{
    /// <summary>At the end, for the proof.</summary>
    ForProving,

    /// <summary>Also to tell sticks apart.</summary>
    ForIsolatingToo,
}

/// <summary>
/// Where practitioners differ, and what a shop's hour and parts cost. The defaults are common practice, no published source.
/// </summary>
public sealed record Preferences
{
    /// <summary>The usual.</summary>
    public static Preferences Usual { get; } = new();

    /// <summary>When settings are cleared.</summary>
    public CmosClear CmosClear { get; init; } = CmosClear.Early;

    /// <summary>What is swapped first.</summary>
    public FirstSwap FirstSwap { get; init; } = FirstSwap.WhatTells;

    /// <summary>What a supply tester is believed.</summary>
    public SupplyTester SupplyTester { get; init; } = SupplyTester.WeakForGood;

    /// <summary>Which of processor and board is tried first.</summary>
    public CpuOrBoard CpuOrBoard { get; init; } = CpuOrBoard.WhatTells;

    /// <summary>When the machine is drained.</summary>
    public Drain Drain { get; init; } = Drain.AfterPartChanges;

    /// <summary>What is done about a bent pin.</summary>
    public BentPin BentPin { get; init; } = BentPin.StraightenAndSuspect;

    /// <summary>What is done about a dead card.</summary>
    public DeadCard DeadCard { get; init; } = DeadCard.Replace;

    /// <summary>Where the machine is worked on.</summary>
    public BenchPlace BenchPlace { get; init; } = BenchPlace.InTheCase;

    /// <summary>What a memory test program is used for.</summary>
    public MemoryTest MemoryTest { get; init; } = MemoryTest.ForProving;

    /// <summary>How sure clean starts must make of a repair that came and went before the shop lets it go, 0.5 to below 1.</summary>
    public double Sure { get; init; } = 0.95;

    /// <summary>What an hour at the bench costs, in the shop's currency.</summary>
    public double HourlyRate { get; init; } = 60;

    /// <summary>Version of the shape that it is kept in; before the first it said none.</summary>
    public int Version { get; init; } = 1;

    /// <summary>What it costs when a machine comes back that was said to be repaired, the bench time of the first fault not counted,
    /// in the shop's currency: an hour's work, collection, an apology. Bench judgement.</summary>
    public double ComingBack { get; init; } = 90;

    /// <summary>Price of a part, in the shop's currency, from which it is proved both ways whatever that costs. Bench judgement.</summary>
    public double DearPart { get; init; } = 200;

    /// <summary>What bench minutes cost, in the shop's currency.</summary>
    public double CostOf(double minutes) => minutes / 60 * HourlyRate;

    /// <summary>What a part costs that was not bad, in the shop's money: it, fitting it, and the machine coming back.</summary>
    public double CostOfBeingWrong(UnitKind kind, Atlas atlas) =>
        PriceOf(kind).New + CostOf(Economy.FittingMinutes(kind, atlas)) + ComingBack;

    /// <summary>What a replacement costs by kind of unit, in the shop's currency, where the shop has said; see
    /// <see cref="PriceOf"/>.</summary>
    public ImmutableDictionary<UnitKind, double> PartPrices { get; init; } = ImmutableDictionary<UnitKind, double>.Empty;

    /// <summary>What a used part, tested, costs by kind of unit, in the shop's currency; kinds that are not in it cost
    /// <see cref="UsedShare"/> of a new one.</summary>
    public ImmutableDictionary<UnitKind, double> UsedPrices { get; init; } = ImmutableDictionary<UnitKind, double>.Empty;

    /// <summary>What a used part costs of a new one, where the shop has not said. Common practice, no published source.</summary>
    public const double UsedShare = 0.5;

    /// <summary>For how much a part is sold: one of the shelf is used, and has proved itself; any other is new.</summary>
    public decimal SellingPrice(Unit unit) => (decimal)(unit.Origin == Origin.Shelf ? PriceOf(unit.Kind).Used : PriceOf(unit.Kind).New);

    /// <summary>What a part of a kind costs, new and used: as the shop has said, else as <see cref="UnitFacts"/> has it. The only way
    /// to a price.</summary>
    public Price PriceOf(UnitKind kind)
    {
        var bought = PartPrices.GetValueOrDefault(kind, UnitFacts.Of(kind).Price);
        return new Price(bought, UsedPrices.GetValueOrDefault(kind, UsedShare * bought));
    }

    /// <summary>Bench minutes that the shop's own procedures have been measured to take, by their ids; empty for those that ship.</summary>
    public ImmutableDictionary<string, double> OwnMinutes { get; init; } = ImmutableDictionary<string, double>.Empty;

    /// <summary>The atlas as this shop reads it: what a tester is worth, what a straightened pin is worth, what draining costs.</summary>
    public Atlas ApplyTo(Atlas atlas)
    {
        if (SupplyTester == SupplyTester.Trusted)
        {
            atlas = atlas with
            {
                Checks =
                [
                    .. atlas.Checks.Select(c =>
                        c.Id == "test-supply" ? c with { Shows = c.Shows.SetItem("supply-weak", 0.6).SetItem("supply-trips", 0.8) } : c
                    ),
                ],
            };
        }

        if (BentPin == BentPin.Straighten)
        {
            atlas = atlas with
            {
                Modes =
                [
                    .. atlas.Modes.Select(m =>
                        m.Cure == Cure.Straighten
                            ? m with
                            {
                                Bites = [.. m.Bites.Select((b, i) => i == 0 ? b : b with { With = 0.03 })],
                            }
                            : m
                    ),
                ],
            };
        }

        foreach (var procedure in Procedures.Standard.Where(p => OwnMinutes.ContainsKey(p.Id)))
            atlas = atlas with { Work = procedure.Taking(OwnMinutes[procedure.Id], atlas.Work) };

        return Drain switch
        {
            Drain.WhenOdd => atlas with { Work = atlas.Work with { Power = new Minutes(0.3) } },
            Drain.Always => atlas with
            {
                Work = atlas.Work with { Power = atlas.Work.Power + new Minutes(0.3), Display = atlas.Work.Display + new Minutes(0.7) },
            },
            _ => atlas,
        };
    }

    /// <summary>The candidates that this shop would consider.</summary>
    internal IEnumerable<Candidate> Allowed(BenchDiagnosis diagnosis, ImmutableArray<Candidate> candidates)
    {
        var settingsSuspected = diagnosis
            .Suspects.SelectMany(s => s.Faults)
            .Any(b => b.Fault.Mode.Cure == Cure.ClearCmos && b.Probability >= 0.1);
        var cheap = PriceOf(UnitKind.Cpu).New <= PriceOf(UnitKind.Motherboard).New ? UnitKind.Cpu : UnitKind.Motherboard;
        var dear = cheap == UnitKind.Cpu ? UnitKind.Motherboard : UnitKind.Cpu;
        return candidates.Where(c =>
            !(SupplyTester == SupplyTester.Skip && c.Check is { On: UnitKind.Supply or UnitKind.PowerExtension, Powered: true })
            && !(MemoryTest == MemoryTest.ForProving && c.Check is { Id: "test-memory" })
            && !(CmosClear == CmosClear.WhenSuspected && !settingsSuspected && c.Changes.Contains(new Change.ClearCmos()))
            && !(BentPin == BentPin.Replace && Mends(c, Remedy.Straighten, UnitKind.Motherboard))
            && !(DeadCard == DeadCard.Replace && Mends(c, Remedy.Repaste, UnitKind.GraphicsCard))
            && !(
                CpuOrBoard == CpuOrBoard.BoardFirst
                && Swaps(c, UnitKind.Cpu)
                && !Swapped(diagnosis, UnitKind.Motherboard)
                && candidates.Any(o => o.Missing is null && Swaps(o, UnitKind.Motherboard))
            )
            && !(
                CpuOrBoard == CpuOrBoard.CheaperFirst
                && Swaps(c, dear)
                && !Swapped(diagnosis, cheap)
                && candidates.Any(o => o.Missing is null && Swaps(o, cheap))
            )
        );
    }

    /// <summary>The step that this shop takes before it weighs anything; null when there is none (any more).</summary>
    internal Assessment? First(BenchDiagnosis diagnosis, IEnumerable<Assessment> steps)
    {
        var job = diagnosis.Job;
        var possible = steps.Where(a => a.Candidate is { Missing: null, Check: null }).ToArray();
        if (CmosClear == CmosClear.First && job.Now.Board is { } board && !job.Now.CmosCleared(board.Id))
            return possible.FirstOrDefault(a => a.Candidate.Changes is [Change.ClearCmos]);
        if (BenchPlace == BenchPlace.OnTheBench && job.Now.Board is { } inCase && !job.Now.Mended(inCase.Id, Remedy.Isolate))
            return possible.FirstOrDefault(a => Mends(a.Candidate, Remedy.Isolate, UnitKind.Motherboard));
        UnitKind? first = FirstSwap switch
        {
            FirstSwap.Memory => UnitKind.MemoryStick,
            FirstSwap.Graphics => UnitKind.GraphicsCard,
            FirstSwap.Supply => UnitKind.Supply,
            _ => null,
        };
        return first is { } kind && !Swapped(diagnosis, kind)
            ? possible.FirstOrDefault(a => a.Candidate.Changes is [Change.Swap] && Swaps(a.Candidate, kind))
            : null;
    }

    private static bool Mends(Candidate c, Remedy remedy, UnitKind kind) =>
        c.Changes.Any(x => x is Change.Mend m && m.Remedy == remedy && c.After.Parts[m.Unit].Kind == kind);

    private static bool Swaps(Candidate c, UnitKind kind) => c.Changes.Any(x => x is Change.Swap s && c.After.Parts[s.Out].Kind == kind);

    private static bool Swapped(BenchDiagnosis diagnosis, UnitKind kind) =>
        diagnosis.Job.Trials.Any(t => t.Changes.Any(x => x is Change.Swap s && diagnosis.Job.Now.Parts[s.Out].Kind == kind));
}

/// <summary>Whether to go on searching or to replace the likeliest part.</summary>
/// <param name="Spent">Bench minutes so far, by the atlas's times.</param>
/// <param name="Expected">Minutes that the search may still take at the rate of the next step; null when nothing tells anything.</param>
/// <param name="SearchCost">What those minutes cost.</param>
/// <param name="Part">The likeliest part.</param>
/// <param name="PartCost">What replacing it costs, its bench time included.</param>
public sealed record Economy(Minutes Spent, Minutes? Expected, double SearchCost, Unit Part, double PartCost)
{
    /// <summary>Whether the search now costs more than the part: replace it and see.</summary>
    public bool ReplaceInstead => SearchCost > PartCost;

    internal static Economy Of(BenchDiagnosis diagnosis, double uncertainty, Assessment? next, Preferences preferences)
    {
        var spent = SpentOn(diagnosis);
        Minutes? expected = next is { Rate: > 1e-6 } ? new Minutes(Math.Min(10_000, uncertainty / next.Rate)) : null;
        var part = diagnosis.Suspects[0].Unit;
        var search = expected is { } minutes ? preferences.CostOf(minutes.Value) : double.PositiveInfinity;
        return new Economy(
            spent,
            expected,
            search,
            part,
            preferences.PriceOf(part.Kind).New + preferences.CostOf(FittingMinutes(part.Kind, diagnosis.Atlas))
        );
    }

    /// <summary>Bench minutes of getting and fitting a part of a kind.</summary>
    internal static double FittingMinutes(UnitKind kind, Atlas atlas) => atlas.Work.Swap[kind].Value + Effort.OrderMinutes;

    /// <summary>Bench minutes of everything in the log, by the atlas's times.</summary>
    public static Minutes SpentOn(BenchDiagnosis diagnosis) => new(Effort.Minutes(diagnosis.Job, diagnosis.Atlas));
}
