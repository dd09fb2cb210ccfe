using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Signals;

namespace Kelvet.Core.Faults;

/// <summary>What start-up was busy with when it ended. Indicators, codes and beeps point at one of these.</summary>
public enum StallDomain
{
    Power, Cpu, Memory, Video, Boot, None,
}

/// <summary>What takes a fault away.</summary>
public enum Cure
{
    Replace, Reseat, ClearCmos, Set, Rewire, Clean, Flash, Straighten, Repaste, Isolate, Repair,
}

/// <summary>What a fault mode sits on: a kind of unit, or a part of one.</summary>
public enum FaultSite
{
    Outlet, MainsLead, Supply, PowerExtension, CaseSwitch, Motherboard, MemorySlot, MemoryChannel, ExpansionSlot,
    VideoOutput, DigitalOutputs, Cpu, CpuChannel, CpuGraphics, MemoryStick, GraphicsCard, CardOutput, Cooler, Storage,
    Peripheral, VideoCable, Monitor, MemoryKit,
}

/// <summary>A rule that says when a fault acts: all conditions hold, then with this chance.</summary>
/// <param name="When">Conditions, all of which must hold.</param>
/// <param name="With">Chance, 0 to 1, that the fault acts in a trial.</param>
public sealed record BiteRule(ImmutableArray<Condition> When, double With);

/// <summary>A way in which something fails, as the atlas describes it.</summary>
/// <param name="Harms">Odds that it adds to modes of other units that ran beside it while it acted, by mode id.</param>
public sealed record FaultMode(
    string Id, FaultSite On, string Name, double Odds, ImmutableArray<string> Where, ImmutableArray<BiteRule> Bites,
    ImmutableArray<double> Stops, ImmutableArray<double> Stall, Cure Cure, ImmutableDictionary<string, double> Harms)
{
    /// <summary>The mode whose odds follow from versions when they are known.</summary>
    public const string FirmwareTooOld = "firmware-too-old";

    /// <summary>
    /// <c>Reach[s]</c>: the chance of getting at least to stage s while the fault acts. Reach[0] is 1; never rises.
    /// </summary>
    public ImmutableArray<double> Reach { get; } = ReachOf(Stops);

    /// <summary>
    /// Chance, 0 to 1, that the cure leaves the fault as it was: what the last rule, the one without conditions on mending,
    /// gives, against the first. 0 for what is not mended in place.
    /// </summary>
    public double LeftByCure => Cure is Cure.Replace or Cure.Repair || Bites.Length < 2 || Bites[0].With == 0 ? 0 : Math.Min(1, Bites[^1].With / Bites[0].With);

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

/// <summary>Something known at intake that moves the odds.</summary>
/// <param name="Id">Name used in case files.</param>
/// <param name="Name">What the technician ticks.</param>
/// <param name="Multiply">Factor on the odds by mode id or site.</param>
public sealed record IntakeContext(string Id, string Name, ImmutableDictionary<string, double> Multiply);

/// <summary>
/// A look, a test or a reading that finds something or does not. Rail readings and temperatures are judged against
/// their limits first, and recorded as found or not found.
/// </summary>
/// <param name="Id">Name used in case files.</param>
/// <param name="Name">What is done, in words.</param>
/// <param name="On">The kind of unit it is done to.</param>
/// <param name="Found">What a positive finding is, in words.</param>
/// <param name="Powered">Whether the machine runs meanwhile, so that only what acts can show.</param>
/// <param name="Minutes">Bench minutes.</param>
/// <param name="Leak">Chance, 0 to 1, of a positive finding with nothing wrong: 1 - specificity.</param>
/// <param name="Shows">Sensitivity by mode id, 0 to 1. Modes of other units count while those are fitted.</param>
/// <param name="Caution">What to mind; empty when nothing special.</param>
/// <param name="Needs">The stage that the last start must have reached for the check to be possible.</param>
public sealed record Check(
    string Id, string Name, UnitKind On, string Found, bool Powered, Minutes Minutes, double Leak,
    ImmutableDictionary<string, double> Shows, string Caution, BootStage Needs = BootStage.NoStandby)
{
    /// <summary>The intake context without which the check is not made; null for any job.</summary>
    public string? OnlyWith { get; init; }

    /// <summary>Whether hands go into the machine, so that it is off and drained first; a monitor's own menu is outside of it.</summary>
    public bool HandsIn => !Powered && On != UnitKind.Monitor;
}

/// <summary>Tools and caution for a change of a sort.</summary>
/// <param name="Act">"swap", "reseat", "clean" …; "any" for every act.</param>
/// <param name="On">The kind of unit; null for every kind.</param>
public sealed record Practice(string Act, UnitKind? On, string Tools, string Caution);

/// <summary>Bench minutes for changes, read from the atlas file.</summary>
public sealed record WorkTimes(
    Minutes Power, Minutes Wait, Minutes ClearCmos, ImmutableDictionary<Remedy, Minutes> Mend, Minutes StartAtPins, Minutes Display,
    ImmutableDictionary<UnitKind, Minutes> Reseat, ImmutableDictionary<UnitKind, Minutes> Remove,
    ImmutableDictionary<UnitKind, Minutes> Swap);

/// <summary>The shop's knowledge of faults: modes, odds, contexts and bench times. Immutable once read.</summary>
public sealed record Atlas(
    string Version, double Slip, double ReportedSlip, ImmutableDictionary<Origin, double> Origins,
    ImmutableArray<IntakeContext> Contexts, ImmutableArray<FaultMode> Modes, ImmutableArray<Check> Checks,
    ImmutableArray<Practice> Practices, WorkTimes Work)
{
    /// <summary>The tables that codes, beeps and lights are read by.</summary>
    public SignalLibrary Signals { get; init; } = SignalLibrary.Standard;

    /// <summary>The atlas that ships with Kelvet.</summary>
    public static Atlas Standard { get; } = LoadStandard();

    private static Atlas LoadStandard()
    {
        using var stream = typeof(Atlas).Assembly.GetManifestResourceStream("atlas.yaml")
            ?? throw new InvalidOperationException("The atlas is missing from the assembly.");
        using var reader = new StreamReader(stream);
        return AtlasReader.Read(reader.ReadToEnd(), "atlas.yaml");
    }

    /// <summary>Tools and caution for a change.</summary>
    public Practice PracticeFor(Change change, Parts parts)
    {
        var text = change.ToString();
        var act = text.IndexOf(' ') is > 0 and var space ? text[..space] : text;
        var unit = change switch
        {
            Change.Swap c => parts.Find(c.Out),
            Change.Fit c => parts.Find(c.Unit),
            Change.Move c => parts.Find(c.Unit),
            Change.Remove c => parts.Find(c.Unit),
            Change.Reseat c => parts.Find(c.Unit),
            Change.Mend c => parts.Find(c.Unit),
            _ => null,
        };
        return Practices.First(p => (p.Act == "any" || p.Act == act) && (p.On is null || p.On == unit?.Kind));
    }

    public Check? Check(string id) => Checks.FirstOrDefault(c => c.Id == id);

    public FaultMode this[string id] => Modes.FirstOrDefault(m => m.Id == id) ?? throw new KeyNotFoundException($"There is no fault mode {id}.");
}
