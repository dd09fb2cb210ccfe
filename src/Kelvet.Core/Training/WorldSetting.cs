using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>What the customer says, against what is so.</summary>
/// <param name="Missing">Chance, 0 to 1, that a circumstance is not told.</param>
/// <param name="False">Chance, 0 to 1, that one is told that is not so.</param>
public sealed record AnswerSetting(double Missing, double False);

/// <summary>The technician of a world; each a chance, 0 to 1.</summary>
/// <param name="MisreadsStage">A stage below the picture is written down one too high or too low.</param>
/// <param name="MisreadsLights">What the lights point at is written down as something else.</param>
/// <param name="MisreadsBeeps">Beeps are counted one too many or too few.</param>
/// <param name="Obeys">What is proposed is done; else another step that can be taken.</param>
/// <param name="ForgetsPlug">After hands were in, a plug or part beside them stays loose.</param>
public sealed record TechnicianSetting(double MisreadsStage, double MisreadsLights, double MisreadsBeeps, double Obeys, double ForgetsPlug)
{
    /// <summary>One who sees, does and forgets nothing amiss.</summary>
    public static TechnicianSetting Good { get; } = new(0, 0, 0, 1, 0);
}

/// <summary>The shelf of a world.</summary>
/// <param name="Bad">Share, 0 to 1, of its parts that are bad; null as the atlas says.</param>
/// <param name="Few">Chance, 0 to 1, that a part that a shop usually has is not there.</param>
/// <param name="Dies">Chance, 0 to 1, that a spare dies in a start that can kill it.</param>
/// <param name="Unlike">Chance, 0 to 1, that a part is not like the one it stands in for: a stick of another kit, a CPU without
/// graphics, a card that wants its own plug, a board with half of the slots.</param>
public sealed record SpareSetting(double? Bad, double Few, double Dies, double Unlike)
{
    /// <summary>As a small shop has it.</summary>
    public static SpareSetting Usual { get; } = new(null, 0, 0, 0);
}

/// <summary>What is complained of.</summary>
/// <param name="When">The kind of start or use that the customer names; null where they name none.</param>
/// <param name="Goal">What the machine is to reach.</param>
/// <param name="Then">What it does then; null where nobody says.</param>
/// <param name="Minutes">After how many minutes; null where nobody says.</param>
public sealed record ComplaintSetting(StartKind? When, BootStage Goal, Ending? Then, double? Minutes)
{
    /// <summary>No picture, at any start.</summary>
    public static ComplaintSetting NoPicture { get; } = new(null, BootStage.Picture, null, null);

    /// <summary>What is wrong with a machine that comes up all the same; null where it is not to come up.</summary>
    public Symptom? Shows { get; init; }

    /// <summary>Whether a start is what is complained of.</summary>
    public bool IsOf(StartSeen start) => Shows is { } symptom ? start.Shows(symptom) : start.Seen.High < Goal;
}

/// <summary>
/// What is different in a world that the reasoner does not know: faults that its atlas lacks, faults that behave otherwise
/// than it believes, tales, technicians, spares and lights that cannot be relied on. Read from a file, never by the planner.
/// </summary>
/// <param name="Name">What it is, in words.</param>
public sealed record WorldSetting(string Name)
{
    /// <summary>The world as the atlas has it.</summary>
    public static WorldSetting Known { get; } = new("as the atlas has it");

    /// <summary>Modes that are taken out of the reasoner's atlas.</summary>
    public ImmutableArray<string> Without { get; init; } = [];

    /// <summary>Modes of which each machine has one; empty for any.</summary>
    public ImmutableArray<string> Only { get; init; } = [];

    /// <summary>Modes as this world has them.</summary>
    public ImmutableDictionary<string, FaultMode> Patched { get; init; } = ImmutableDictionary<string, FaultMode>.Empty;

    /// <summary>Chance of one fault, two and three; empty as the atlas says.</summary>
    public ImmutableArray<double> Number { get; init; } = [];

    /// <summary>How faults behave there; null as the atlas says.</summary>
    public Behaviour? Behaviour { get; init; }

    /// <summary>Least and most share, 0 to 1, of starts in which a fault acts that comes and goes; null as it is drawn.</summary>
    public (double Least, double Most)? Rate { get; init; }

    /// <summary>Whether every fault comes and goes, at such a rate.</summary>
    public bool EveryRate { get; init; }

    /// <summary>How much of a fault acts at each kind of start, 0 to 1; empty for all alike, and nothing at a kind that is not
    /// given.</summary>
    public ImmutableDictionary<StartKind, double> Acts { get; init; } = ImmutableDictionary<StartKind, double>.Empty;

    /// <summary>Share, 0 to 1, of machines that fail at their owner's alone.</summary>
    public double OnlyAtHome { get; init; }

    /// <summary>Share, 0 to 1, of machines whose fault sits on a part that nobody lists.</summary>
    public double OnNoList { get; init; }

    /// <summary>Chance, 0 to 1, at each start that what was mended in place comes back.</summary>
    public double Relapses { get; init; }

    /// <summary>What is complained of.</summary>
    public ComplaintSetting Complaint { get; init; } = ComplaintSetting.NoPicture;

    /// <summary>What every machine of this world has been through; empty for any.</summary>
    public ImmutableArray<string> Circumstances { get; init; } = [];

    /// <summary>What the customer says of it.</summary>
    public AnswerSetting Answers { get; init; } = new(0, 0);

    /// <summary>Who works there.</summary>
    public TechnicianSetting Technician { get; init; } = TechnicianSetting.Good;

    /// <summary>The shelf.</summary>
    public SpareSetting Spares { get; init; } = SpareSetting.Usual;

    /// <summary>How often, 0 to 1, a board's lights point where its start-up stalled; each board always so or always otherwise.</summary>
    public double LightsTrue { get; init; } = 0.85;

    /// <summary>Share, 0 to 1, of boards that beep for what stalled, as one of the tables has it; nobody knows which.</summary>
    public double Beeps { get; init; }

    /// <summary>Whether signs are noted of each start that failed, drawn from what was wrong.</summary>
    public bool Signs { get; init; }

    /// <summary>Share, 0 to 1, of starts that the technician records as anything at all; null as the atlas says.</summary>
    public double? Slips { get; init; }

    /// <summary>
    /// How often hands at work beside a seat or plug cure or cause a bad contact there, against what the atlas says, 0 to 20.
    /// </summary>
    public double Hands { get; init; } = 1;

    /// <summary>Small parts that every machine of this world has and its job lists.</summary>
    public ImmutableArray<UnitKind> Small { get; init; } = [];

    /// <summary>Factor, 1 to 10, by which the world's numbers are off.</summary>
    public double Off { get; init; } = 1;

    /// <summary>The reasoner's atlas in this world.</summary>
    public Atlas Believed(Atlas atlas) => Without.IsEmpty ? atlas : atlas.Without(Without);

    /// <summary>The world's own atlas.</summary>
    public Atlas True(Atlas atlas) =>
        atlas with
        {
            Slip = Slips ?? atlas.Slip,
            Modes = Patched.IsEmpty ? atlas.Modes : [.. atlas.Modes.Select(m => Patched.GetValueOrDefault(m.Id, m))],
            Numbers = Number.IsEmpty ? atlas.Numbers : [0, .. Number],
        };

    /// <summary>Chance that a spare has a fault.</summary>
    internal double OddsOfSpare(double prior, ImmutableArray<Fault> faults, int fault)
    {
        if (Spares.Bad is not { } bad)
            return prior;
        var all = faults.Where(f => f.Unit.Id == faults[fault].Unit.Id).Sum(f => f.Odds);
        return bad * faults[fault].Odds / all;
    }
}
