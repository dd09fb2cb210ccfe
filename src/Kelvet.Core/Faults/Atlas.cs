using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Faults;

/// <summary>What start-up was busy with when it ended. Indicators, codes and beeps point at one of these.</summary>
public enum StallDomain
{
    Power, Cpu, Memory, Video, Boot, None,
}

/// <summary>What takes a fault away.</summary>
public enum Cure
{
    Replace, Reseat, ClearCmos, Set, Wire, Clean, Flash, Repair,
}

/// <summary>What a fault mode sits on: a kind of unit, or a part of one.</summary>
public enum FaultSite
{
    Outlet, MainsLead, Supply, PowerExtension, CaseSwitch, Motherboard, MemorySlot, MemoryChannel, ExpansionSlot,
    VideoOutput, DigitalOutputs, Cpu, CpuChannel, CpuGraphics, MemoryStick, GraphicsCard, CardOutput, Cooler, Storage,
    Peripheral, VideoCable, Monitor,
}

/// <summary>A rule that says when a fault acts: all conditions hold, then with this chance.</summary>
/// <param name="When">Conditions, all of which must hold.</param>
/// <param name="With">Chance, 0 to 1, that the fault acts in a trial.</param>
public sealed record BiteRule(ImmutableArray<Condition> When, double With);

/// <summary>A way in which something fails, as the atlas describes it.</summary>
public sealed record FaultMode(
    string Id, FaultSite On, string Name, double Odds, ImmutableArray<string> Where, ImmutableArray<BiteRule> Bites,
    ImmutableArray<double> Stops, ImmutableArray<double> Stall, Cure Cure)
{
    /// <summary>
    /// <c>Reach[s]</c>: the chance of getting at least to stage s while the fault acts. Reach[0] is 1; never rises.
    /// </summary>
    public ImmutableArray<double> Reach { get; } = ReachOf(Stops);

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

/// <summary>Bench minutes for changes, read from the atlas file.</summary>
public sealed record WorkTimes(
    Minutes Power, Minutes Wait, Minutes ClearCmos, Minutes StartAtPins, Minutes Display,
    ImmutableDictionary<UnitKind, Minutes> Reseat, ImmutableDictionary<UnitKind, Minutes> Remove,
    ImmutableDictionary<UnitKind, Minutes> Swap);

/// <summary>The shop's knowledge of faults: modes, odds, contexts and bench times. Immutable once read.</summary>
public sealed record Atlas(
    string Version, double Slip, double ReportedSlip, ImmutableDictionary<Origin, double> Origins,
    ImmutableArray<IntakeContext> Contexts, ImmutableArray<FaultMode> Modes, WorkTimes Work)
{
    /// <summary>The atlas that ships with Kelvet.</summary>
    public static Atlas Standard { get; } = LoadStandard();

    private static Atlas LoadStandard()
    {
        using var stream = typeof(Atlas).Assembly.GetManifestResourceStream("atlas.yaml")
            ?? throw new InvalidOperationException("The atlas is missing from the assembly.");
        using var reader = new StreamReader(stream);
        return AtlasReader.Read(reader.ReadToEnd(), "atlas.yaml");
    }

    public FaultMode this[string id] => Modes.FirstOrDefault(m => m.Id == id) ?? throw new KeyNotFoundException($"There is no fault mode {id}.");
}
