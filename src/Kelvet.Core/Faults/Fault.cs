using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Faults;

/// <summary>What is supposed about the cure of a fault that can be mended in place.</summary>
public enum CureOutcome
{
    /// <summary>The cure has not been tried; what it would do is left open.</summary>
    Open,

    /// <summary>It was tried and, if the fault was there, it took it away.</summary>
    Worked,

    /// <summary>It was tried and did not take the fault away: only another part helps.</summary>
    Failed,
}

/// <summary>What is supposed about hands that worked beside a seat, plug or contact.</summary>
public enum ByHands
{
    /// <summary>They left it as it was.</summary>
    LeftAlone,

    /// <summary>They cured it in passing: it acts no more.</summary>
    Cured,

    /// <summary>They brought it about: it was not there before.</summary>
    BroughtAbout,
}

/// <summary>A fault mode on one thing of this machine: "memory slot dead" on slot A2 of this board.</summary>
/// <param name="Mode">The mode.</param>
/// <param name="Unit">The unit that the site belongs to.</param>
/// <param name="Part">Slot, channel or output name; empty when the site is the whole unit.</param>
/// <param name="Odds">Prior odds with origin and context worked in.</param>
public sealed record Fault(FaultMode Mode, Unit Unit, string Part, double Odds)
{
    /// <summary>
    /// What is supposed about its cure. Once the cure has been tried, "there, and cured" and "there, and not cured" are
    /// two faults: a repair either worked or it did not, once and for all, and later starts tell which.
    /// </summary>
    public CureOutcome After { get; private init; }

    /// <summary>How often the cure has been done that <see cref="After"/> tells of; 0 while it is open.</summary>
    public int Tries { get; private init; }

    /// <summary>What is supposed about hands that worked beside it.</summary>
    public ByHands Hands { get; private init; }

    /// <summary>Whether what hands may have done to it has been taken into account.</summary>
    private bool HandsTold { get; init; }

    /// <summary>What it is on, whatever is supposed about its cure.</summary>
    public (UnitId Unit, string Mode, string Part) Site => (Unit.Id, Mode.Id, Part);

    /// <summary>The text form of <see cref="FaultFormat"/>.</summary>
    public string Key => FaultFormat.Write(this);

    /// <summary>Prior probability when nothing else were wrong: odds / (1 + odds).</summary>
    public double Prior => Odds / (1 + Odds);

    /// <summary>Chance, 0 to 1, that the fault acts when the machine is started in this situation.</summary>
    public double Engaged(Situation situation)
    {
        if (After == CureOutcome.Worked && DealtWith(situation))
            return 0;
        // Cured from then on, or there from then on.
        if (Hands != ByHands.LeftAlone && (Hands == ByHands.Cured) == Mode.DisturbedBy.Keys.Any(situation.WasHandled))
            return 0;
        foreach (var rule in Mode.Bites)
        {
            var holds = true;
            foreach (var condition in rule.When)
            {
                if (condition.Holds(situation, this))
                    continue;
                holds = false;
                break;
            }

            if (holds)
                return rule.With;
        }

        return 0;
    }

    /// <summary>
    /// Whether the technician has already done what cures it, so that by now it is no reason to keep the unit under
    /// suspicion: it may have been there at intake, but it is dealt with.
    /// </summary>
    public bool DealtWith(Situation situation) =>
        Mode.Cure == Cure.Arrange ? Engaged(situation) == 0
        : Hands == ByHands.Cured && Mode.DisturbedBy.Keys.Any(situation.WasHandled) ? true
        : After == CureOutcome.Failed ? false
        : Cures.TimesDone(this, situation) >= Math.Max(1, Tries);

    /// <summary>
    /// What would be done about it: equal for faults that one act repairs, so that a search does not spend time on telling
    /// them apart.
    /// </summary>
    public RepairAct Act =>
        !Cures.IsMendedInPlace(this) || Mode.Cure == Cure.Replace ? RepairAct.Replacing(Unit.Id)
        // By how much a profile is too fast is for the ladder; what is done first is the same.
        : Cures.OptionOf(Mode.Cure) is MachineOption.ProfileOff ? new RepairAct(Cure.ProfileOff, Unit.Id, "profile-too-fast")
        : new RepairAct(Mode.Cure, Unit.Id, Mode.Id);

    /// <summary>All faults of a job: those whose cure has been tried come twice, as cured and as not cured.</summary>
    /// <param name="atlas">The modes.</param>
    /// <param name="now">The machine as it stands.</param>
    /// <param name="contexts">What is known at intake.</param>
    /// <param name="received">
    /// The machine as received, in which a fault of arrangement must have been able to act to be what is looked for; null
    /// where that is not known.
    /// </param>
    public static ImmutableArray<Fault> AllOf(Atlas atlas, Situation now, IEnumerable<string> contexts, Configuration? received = null)
    {
        var before = received is null ? null : Situation.AtIntake(now.Parts, received);
        var faults = AllOf(atlas, now.Parts, contexts)
            .Select(f => before is null || f.Unit.Origin != Origin.Customer ? f : f with { Odds = f.Odds * PowerFactor(f, before) })
            .SelectMany(f => f.SplitUpTo(now));
        return before is null ? [.. faults] : [.. faults.Where(f => f.Mode.Cure != Cure.Arrange || f.Engaged(before) > 0)];
    }

    /// <summary>
    /// What does not add up in the machine as received moves the odds: a supply that has too little for its parts sags or trips, and a card
    /// without a plug that it needs has none in it.
    /// </summary>
    private static double PowerFactor(Fault fault, Situation received) =>
        fault.Mode.Id switch
        {
            "supply-weak" or "supply-dips" or "supply-trips" => PowerBudget.Of(received).Strain,
            "card-aux-unplugged"
                when MisfitFound
                    .In(received)
                    .Any(m => m.Kind == Misfit.TooFewPlugs || (m.Kind == Misfit.NoCardCable && m.Unit == fault.Unit.Id)) => PlugMissing,
            _ => 1,
        };

    /// <summary>By how much likelier a card's plug is out where there is none for it. Bench judgement.</summary>
    private const double PlugMissing = 20;

    /// <summary>Whether the cure has been tried since the faults were listed: for the first time, or once more.</summary>
    public bool IsToBeSplit(Situation now) =>
        IsToBeToldByHands(now)
        || (Mode.LeftByCure > 0 && After != CureOutcome.Worked && Cures.TimesDone(this, now) > Tries && Tries < MostTries);

    /// <summary>Whether hands were beside it for the first time.</summary>
    private bool IsToBeToldByHands(Situation now) =>
        !HandsTold && Unit.Origin == Origin.Customer && Mode.DisturbedBy.Count > 0 && Mode.CuredByHands(now) > 0;

    /// <summary>A cure that was done more often than this is not told apart any more.</summary>
    private const int MostTries = 3;

    /// <summary>Whether the two are the same fault with its cure supposed to have gone one way and the other.</summary>
    public bool ExcludesOutcomeOf(Fault other) => Site == other.Site && (After, Tries, Hands) != (other.After, other.Tries, other.Hands);

    private IEnumerable<Fault> SplitUpTo(Situation now) =>
        IsToBeToldByHands(now) ? ByHandsOrNot(now).SelectMany(f => f.SplitUpTo(now))
        : IsToBeSplit(now) ? Split().SelectMany(f => f.After == CureOutcome.Failed ? f.SplitUpTo(now) : [f])
        : [this];

    private Fault[] ByHandsOrNot(Situation now)
    {
        var cured = Mode.CuredByHands(now);
        var told = this with { HandsTold = true };
        return
        [
            told with
            {
                Odds = Odds * (1 - cured),
            },
            told with
            {
                Odds = Odds * cured,
                Hands = ByHands.Cured,
            },
            told with
            {
                Odds = FaultMode.BroughtAbout * cured,
                Hands = ByHands.BroughtAbout,
            },
        ];
    }

    private Fault[] Split()
    {
        // What a cure left once, it is likelier to leave again than it was to leave the first time.
        var left = Tries == 0 ? Mode.LeftByCure : Math.Max(LeftAgain, Mode.LeftByCure);
        return
        [
            this with
            {
                Odds = Odds * (1 - left),
                After = CureOutcome.Worked,
                Tries = Tries + 1,
            },
            this with
            {
                Odds = Odds * left,
                After = CureOutcome.Failed,
                Tries = Tries + 1,
            },
        ];
    }

    /// <summary>Chance that a cure that did not help the first time does not help when it is done again. Bench judgement.</summary>
    private const double LeftAgain = 0.5;

    /// <summary>All faults that the units of a job can have, in a fixed order.</summary>
    public static ImmutableArray<Fault> AllOf(Atlas atlas, Parts parts, IEnumerable<string> contexts)
    {
        var known = atlas.Contexts.ToDictionary(c => c.Id);
        var active = contexts.Distinct().Select(id => known.GetValueOrDefault(id)).OfType<IntakeContext>().ToArray();
        var channels = parts.All.OfType<Motherboard>().SelectMany(b => b.Channels).Distinct().Order(StringComparer.Ordinal).ToArray();
        UnitId[] kit = [.. parts.All.OfType<Machines.MemoryStick>().Where(m => m.Origin == Origin.Customer).Select(m => m.Id)];
        var listed = parts.All.Where(u => u.Origin == Origin.Customer).Select(u => u.Kind).ToHashSet();
        FaultMode[] modes = [.. atlas.Modes.Where(m => !m.Unless.Any(listed.Contains))];
        var faults = ImmutableArray.CreateBuilder<Fault>();
        foreach (var unit in parts.All)
        {
            var ofModel = ModelFactor(atlas, unit);
            foreach (var mode in modes)
            {
                if (!mode.Where.All(trait => Trait.Has(unit, trait)))
                    continue;
                foreach (var part in SitesOn(unit, mode.On, channels, kit))
                {
                    var odds = mode.Odds * atlas.Origins[unit.Origin] * FirmwareFactor(mode, unit, parts);
                    if (unit.Origin == Origin.Customer)
                        odds *= Combined(active.Select(c => c.Factor(mode)));
                    if (unit.FittedByOwner && known.TryGetValue(OwnerContext, out var owner))
                        odds *= owner.Factor(mode);
                    if (mode.Cure == Cure.Replace)
                        odds *= ofModel;
                    if (odds > 0)
                        faults.Add(new Fault(mode, unit, part, odds));
                }
            }
        }

        return faults.ToImmutable();
    }

    /// <summary>What the shop has learnt of the model of a part that came in; of the shelf's own it says nothing.</summary>
    private static double ModelFactor(Atlas atlas, Unit unit) =>
        !atlas.Models.IsEmpty && unit.Origin == Origin.Customer && UnitModel.Of(unit) is { } model
            ? atlas.Models.GetValueOrDefault(model, 1)
            : 1;

    /// <summary>
    /// What several contexts say of one mode: the strongest of those that raise it, and the strongest of those that lower it.
    /// Two that say the same thing (old, long unused) do not say it twice.
    /// </summary>
    private static double Combined(IEnumerable<double> factors)
    {
        double up = 1,
            down = 1;
        foreach (var factor in factors)
            (up, down) = (Math.Max(up, factor), Math.Min(down, factor));
        return up * down;
    }

    /// <summary>Context that applies to the units that the owner has fitted, and to them alone.</summary>
    private const string OwnerContext = "fitted-by-owner";

    /// <summary>
    /// Where both versions are known, or every version knows the CPU, firmware too old is certain or out of the question;
    /// otherwise the atlas's odds stand.
    /// </summary>
    private static double FirmwareFactor(FaultMode mode, Unit unit, Parts parts)
    {
        if (mode.Id != FaultMode.FirmwareTooOld || unit is not Machines.Cpu { NeedsFirmware: { } needed })
            return 1;
        if (needed == 0)
            return 0;
        var board = parts.All.OfType<Motherboard>().FirstOrDefault(b => b.Origin == Origin.Customer);
        return board?.Firmware is { } version
            ? needed > version
                ? 100_000
                : 0
            : 1;
    }

    private static IEnumerable<string> SitesOn(Unit unit, FaultSite site, string[] channels, UnitId[] kit) =>
        (site, unit) switch
        {
            (FaultSite.MemorySlot, Motherboard b) => b.Slots.Select(s => s.Name),
            (FaultSite.MemoryChannel, Motherboard b) => b.Channels,
            (FaultSite.ExpansionSlot, Motherboard b) => b.CardSlots,
            (FaultSite.VideoOutput, Motherboard b) => b.Outputs.Select(o => o.Name),
            (FaultSite.DigitalOutputs, Motherboard b) => b.Outputs.Count(o => o.Signal == VideoSignal.Digital) > 1 ? ["digital"] : [],
            (FaultSite.CpuChannel, Cpu) => channels,
            (FaultSite.CpuGraphics, Cpu c) => c.HasGraphics ? [""] : [],
            (FaultSite.CardOutput, GraphicsCard g) => g.Outputs.Select(o => o.Name),
            (FaultSite.MemoryKit, Machines.MemoryStick { Origin: Origin.Customer } m) => kit.Length >= 2 && kit[0] == m.Id ? ["kit"] : [],
            _ when FaultMode.WholeUnit(unit.Kind) == site => [""],
            _ => [],
        };
}

/// <summary>What would be done about a fault.</summary>
/// <param name="Cure">How.</param>
/// <param name="Unit">To which unit.</param>
/// <param name="Mode">Against which mode; empty for replacing, which deals with all of them.</param>
public readonly record struct RepairAct(Cure Cure, UnitId Unit, string Mode)
{
    /// <summary>Another part in the unit's place.</summary>
    public static RepairAct Replacing(UnitId unit) => new(Cure.Replace, unit, "");
}
