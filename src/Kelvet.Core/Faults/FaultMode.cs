using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Faults;

/// <summary>What takes a fault away.</summary>
public enum Cure
{
    /// <summary>Put another unit in its place.</summary>
    Replace,

    /// <summary>Take it out and put it back.</summary>
    Reseat,

    /// <summary>Clear the firmware's settings.</summary>
    ClearCmos,

    /// <summary>Set a switch or a setting right.</summary>
    Set,

    /// <summary>Plug or lead a cable right.</summary>
    Rewire,

    /// <summary>Clean contacts, dust or flux.</summary>
    Clean,

    /// <summary>Write the firmware anew.</summary>
    Flash,

    /// <summary>Straighten a pin.</summary>
    Straighten,

    /// <summary>New paste under the cooler.</summary>
    Repaste,

    /// <summary>Take a short to the case away.</summary>
    Isolate,

    /// <summary>A new coin cell.</summary>
    NewCell,

    /// <summary>Put the parts where they belong.</summary>
    Arrange,

    /// <summary>The memory profile off.</summary>
    ProfileOff,

    /// <summary>The memory 200 MT/s below its profile.</summary>
    ProfileOneDown,

    /// <summary>The memory 400 MT/s below its profile.</summary>
    ProfileTwoDown,

    /// <summary>The memory 600 MT/s below its profile.</summary>
    ProfileThreeDown,

    /// <summary>The card's link held to an older generation.</summary>
    LinkHeldBack,

    /// <summary>Legacy video on.</summary>
    LegacyVideo,

    /// <summary>The card told to be the primary display.</summary>
    CardFirst,

    /// <summary>The system's fast start off.</summary>
    FastStartOff,

    /// <summary>Other work on the unit itself.</summary>
    Repair,
}

/// <summary>What a fault mode sits on: a kind of unit, or a part of one.</summary>
public enum FaultSite
{
    /// <summary>The wall outlet or strip.</summary>
    Outlet,

    /// <summary>The mains lead.</summary>
    MainsLead,

    /// <summary>The power supply.</summary>
    Supply,

    /// <summary>An extension of a supply cable.</summary>
    PowerExtension,

    /// <summary>The case's power button and its lead.</summary>
    CaseSwitch,

    /// <summary>The motherboard as a whole.</summary>
    Motherboard,

    /// <summary>One memory slot of the board.</summary>
    MemorySlot,

    /// <summary>One memory channel, at the board.</summary>
    MemoryChannel,

    /// <summary>One slot for cards.</summary>
    ExpansionSlot,

    /// <summary>One video output of the board.</summary>
    VideoOutput,

    /// <summary>All digital outputs of the board.</summary>
    DigitalOutputs,

    /// <summary>The processor.</summary>
    Cpu,

    /// <summary>One memory channel, at the processor.</summary>
    CpuChannel,

    /// <summary>Graphics within the processor.</summary>
    CpuGraphics,

    /// <summary>A memory stick.</summary>
    MemoryStick,

    /// <summary>A graphics card.</summary>
    GraphicsCard,

    /// <summary>One output of a graphics card.</summary>
    CardOutput,

    /// <summary>The processor's cooler or its fan.</summary>
    Cooler,

    /// <summary>A drive.</summary>
    Storage,

    /// <summary>Something plugged in from outside.</summary>
    Peripheral,

    /// <summary>The video cable.</summary>
    VideoCable,

    /// <summary>The monitor.</summary>
    Monitor,

    /// <summary>Sticks that are sound alone and not together.</summary>
    MemoryKit,

    /// <summary>A strip or battery-backed supply.</summary>
    PowerStrip,

    /// <summary>The supply's cable to the board.</summary>
    MainCable,

    /// <summary>The supply's cable to the processor's plug.</summary>
    CpuCable,

    /// <summary>The supply's cable to the card.</summary>
    CardCable,

    /// <summary>The reset button and its lead.</summary>
    ResetSwitch,

    /// <summary>A lead of front sockets.</summary>
    FrontLead,

    /// <summary>A fan of the case.</summary>
    CaseFan,

    /// <summary>A fan hub.</summary>
    FanHub,

    /// <summary>The pump of a liquid cooler.</summary>
    Pump,

    /// <summary>A riser.</summary>
    Riser,

    /// <summary>The coin cell.</summary>
    CoinCell,

    /// <summary>A firmware chip.</summary>
    FirmwareChip,

    /// <summary>A card that makes no picture.</summary>
    OtherCard,

    /// <summary>A USB hub.</summary>
    UsbHub,

    /// <summary>A drive's data cable.</summary>
    DataCable,

    /// <summary>A display adapter.</summary>
    DisplayAdapter,
}

/// <summary>A rule that says when a fault acts: all conditions hold, then with this chance.</summary>
/// <param name="When">Conditions, all of which must hold.</param>
/// <param name="With">Chance, 0 to 1, that the fault acts in a trial.</param>
public sealed record BiteRule(ImmutableArray<Condition> When, double With);

/// <summary>A way in which something fails, as the atlas describes it.</summary>
/// <param name="Harms">Odds that it adds to modes of other units that ran beside it while it acted, by mode id.</param>
public sealed record FaultMode(
    string Id,
    FaultSite On,
    string Name,
    double Odds,
    ImmutableArray<string> Where,
    ImmutableArray<BiteRule> Bites,
    ImmutableArray<double> Stops,
    ImmutableArray<double> Stall,
    Cure Cure,
    ImmutableDictionary<string, double> Harms
)
{
    /// <summary>How the ids of modes begin that stand for what no other mode describes.</summary>
    public const string Unlisted = "unlisted-";

    private static readonly ImmutableDictionary<UnitKind, FaultSite> SiteOfKind = Enum.GetValues<UnitKind>()
        .ToImmutableDictionary(k => k, k => Enum.Parse<FaultSite>(k.ToString()));

    /// <summary>Sites that are a unit as a whole and can fail in a way that is not in the book.</summary>
    internal static ImmutableArray<FaultSite> WholeUnits { get; } =
    [.. UnitFacts.All.Where(f => !f.InTheBook).Select(f => WholeUnit(f.Kind))];

    /// <summary>The site that a unit as a whole is: it has the name of the kind.</summary>
    internal static FaultSite WholeUnit(UnitKind kind) => SiteOfKind[kind];

    /// <summary>Whether it stands for something that is not in the book.</summary>
    public bool IsUnlisted { get; init; }

    /// <summary>The mode whose odds follow from versions when they are known.</summary>
    public const string FirmwareTooOld = "firmware-too-old";

    /// <summary>
    /// Share, 0 to 1, of such faults that act in some starts only, at a rate of their own; null where it is as with faults
    /// in general (<see cref="Behaviour"/>).
    /// </summary>
    public double? NowAndThen { get; init; }

    /// <summary>Shares, 0 to 1, of such faults that do not end the start but show themselves so.</summary>
    public ImmutableDictionary<Symptom, double> Shows { get; init; } = ImmutableDictionary<Symptom, double>.Empty;

    /// <summary>
    /// Kinds of unit that take this fault over where a job lists one of the customer's: a cable that is listed is at fault
    /// itself, and not the supply with its cables.
    /// </summary>
    public ImmutableArray<UnitKind> Unless { get; init; } = [];

    /// <summary>How much of it acts at each kind of start, 0 to 1; where a kind is not given, all.</summary>
    public ImmutableDictionary<StartKind, double> Starts { get; init; } = ImmutableDictionary<StartKind, double>.Empty;

    /// <summary>Share, 0 to 1, of such faults that act cold and hardly warm.</summary>
    public double WhenCold { get; init; }

    /// <summary>Share, 0 to 1, of such faults that act warm and hardly cold.</summary>
    public double WhenWarm { get; init; }

    /// <summary>
    /// Kinds of unit that cannot be fitted or taken out without leaning on it or taking it off, each with the chance, 0 to 1,
    /// that such a fault is cured by that where it is; it is brought about a hundredth as often where it is not.
    /// </summary>
    public ImmutableDictionary<UnitKind, double> DisturbedBy { get; init; } = ImmutableDictionary<UnitKind, double>.Empty;

    /// <summary>Chance that hands that were in the machine cured such a fault beside their work.</summary>
    public double CuredByHands(Situation situation)
    {
        var left = 1.0;
        foreach (var (kind, chance) in DisturbedBy)
        {
            if (situation.WasHandled(kind))
                left *= 1 - chance;
        }

        return 1 - left;
    }

    /// <summary>How often hands bring such a fault about, against how often they cure one. Bench judgement.</summary>
    public const double BroughtAbout = 0.01;

    /// <summary>Whether the kind of start or how warm the machine is decides anything about it.</summary>
    public bool HangsOnTheStart => Starts.Count > 0 || WhenCold + WhenWarm > 0;

    /// <summary>Share of it that acts at a start of a kind; a start whose kind was not noted is an ordinary one.</summary>
    public double ActsAt(StartKind? kind) => Starts.Count == 0 ? 1 : Starts.GetValueOrDefault(kind ?? StartKind.Warm, 1);

    /// <summary>When it acts; the first rule whose conditions all hold says how often.</summary>
    public ImmutableArray<BiteRule> Bites
    {
        get;
        init => (field, Most) = (value, MostOf(value));
    } = Bites;

    /// <summary>The highest chance that any rule gives.</summary>
    public double Most { get; private init; } = MostOf(Bites);

    /// <summary>Chance, 0 to 1, of each stage that a start ends there when it acts.</summary>
    public ImmutableArray<double> Stops
    {
        get;
        init => (field, Reach) = (value, ReachOf(value));
    } = Stops;

    /// <summary>
    /// <c>Reach[s]</c>: the chance of getting at least to stage s while the fault acts. Reach[0] is 1; never rises.
    /// </summary>
    public ImmutableArray<double> Reach { get; private init; } = ReachOf(Stops);

    /// <summary>Whether a start that was seen to end there may have ended by it.</summary>
    public bool MayStopIn(StageRange seen) =>
        Stops.Select((p, stage) => p > 0 && (BootStage)stage >= seen.Low && (BootStage)stage <= seen.High).Any(may => may);

    /// <summary>
    /// Chance, 0 to 1, that the cure leaves the fault as it was: what the last rule, the one without conditions on mending,
    /// gives, against the first. 0 for what is not mended in place.
    /// </summary>
    public double LeftByCure =>
        Cure is Cure.Replace or Cure.Repair || Bites.Length < 2 || Bites[0].With == 0 ? 0 : Math.Min(1, Bites[^1].With / Bites[0].With);

    private static double MostOf(ImmutableArray<BiteRule> bites) => bites.Length == 0 ? 0 : bites.Max(b => b.With);

    private static ImmutableArray<double> ReachOf(ImmutableArray<double> stops)
    {
        var reach = new double[BootStages.Count];
        var left = 1.0;
        for (var s = 0; s < reach.Length; s++)
        {
            reach[s] = Math.Max(0, left);
            left -= stops[s];
        }

        return [.. reach];
    }
}
