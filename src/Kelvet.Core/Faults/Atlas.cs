using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Tables;

namespace Kelvet.Core.Faults;

/// <summary>Something known at intake that moves the odds.</summary>
/// <param name="Id">Name used in case files.</param>
/// <param name="Name">What the technician ticks.</param>
/// <param name="ByMode">Factor on the odds, 0 to 1000, by the id of a mode; goes before one by site.</param>
/// <param name="BySite">Factor on the odds, 0 to 1000, by what a mode sits on.</param>
public sealed record IntakeContext(
    string Id,
    string Name,
    ImmutableDictionary<string, double> ByMode,
    ImmutableDictionary<FaultSite, double> BySite
)
{
    /// <summary>
    /// By the id of a mode, how much likelier two such faults are together, 1 to 1000, because one cause has brought them
    /// about: a surge, a knock, a spill.
    /// </summary>
    public ImmutableDictionary<string, double> Together { get; init; } = ImmutableDictionary<string, double>.Empty;

    /// <summary>Factor on the odds of a mode; 1 where the context says nothing of it.</summary>
    public double Factor(FaultMode mode) => ByMode.GetValueOrDefault(mode.Id, BySite.GetValueOrDefault(mode.On, 1));
}

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
    string Id,
    string Name,
    UnitKind On,
    string Found,
    bool Powered,
    Minutes Minutes,
    double Leak,
    ImmutableDictionary<string, double> Shows,
    string Caution,
    BootStage Needs = BootStage.NoStandby
)
{
    /// <summary>What to do in a few words, for what is read from an arm's length.</summary>
    public required string Say { get; init; }

    /// <summary>Whether it is a point of a look-over: seen at a glance, nothing taken out.</summary>
    public bool InVisit { get; init; }

    /// <summary>Whether it comes before all others, because what it finds hides what they look for.</summary>
    public bool IsFirst { get; init; }

    /// <summary>The things that it tells apart, each with a name of its own; empty where it finds one thing or not.</summary>
    public ImmutableArray<FindingSort> Findings { get; init; } = [];

    /// <summary>Whether it speaks for every unit of its kind that is fitted, as a memory test does.</summary>
    public bool SpeaksForAll { get; init; }

    /// <summary>What mends what it finds, of a look that is made before a unit of its kind is replaced whatever else is known; null for
    /// others.</summary>
    public Remedy? BeforeReplacing { get; init; }

    /// <summary>The intake context without which the check is not made; null for any job.</summary>
    public string? OnlyWith { get; init; }

    /// <summary>Whether hands go into the machine, so that it is off and drained first; a monitor's own menu is outside of it.</summary>
    public bool HandsIn => !Powered && !UnitFacts.Of(On).Outside;
}

/// <summary>One of the things that a check can find.</summary>
/// <param name="Id">Name used in job files.</param>
/// <param name="Name">What it is, in words.</param>
/// <param name="Shows">Sensitivity by mode id, 0 to 1.</param>
public sealed record FindingSort(string Id, string Name, ImmutableDictionary<string, double> Shows);

/// <summary>What a sign of a start says of what is wrong.</summary>
/// <param name="Id">Its name, as <see cref="Observed.SignNames"/> gives it.</param>
/// <param name="OfTheStop">Whether it belongs to what ended the start; else to something that is there, whatever ended it.</param>
/// <param name="Usual">How often it is seen where nothing below brings it about, above 0 to 1.</param>
/// <param name="Shows">How often it is seen, 0 to 1, by the id of a mode; goes before one by site.</param>
/// <param name="BySite">The same by what a mode sits on.</param>
public sealed record SignMeaning(
    string Id,
    bool OfTheStop,
    double Usual,
    ImmutableDictionary<string, double> Shows,
    ImmutableDictionary<FaultSite, double> BySite
)
{
    /// <summary>How often it is seen with a fault of a mode.</summary>
    public double With(FaultMode mode) => Shows.GetValueOrDefault(mode.Id, BySite.GetValueOrDefault(mode.On, Usual));

    /// <summary>The same as it counts when it is only told.</summary>
    /// <param name="trust">How far the tale is trusted, 0 to 1.</param>
    public SignMeaning Blunted(double trust)
    {
        return this with { Shows = Towards(Shows), BySite = Towards(BySite) };

        ImmutableDictionary<TKey, double> Towards<TKey>(ImmutableDictionary<TKey, double> shows)
            where TKey : notnull => shows.ToImmutableDictionary(s => s.Key, s => Usual + (trust * (s.Value - Usual)));
    }
}

/// <summary>Tools and caution for a change of a sort.</summary>
/// <param name="Act">What is done; null for every act.</param>
/// <param name="On">The kind of unit; null for every kind.</param>
public sealed record Practice(ActKind? Act, UnitKind? On, string Tools, string Caution);

/// <summary>Bench minutes for changes, read from the atlas file.</summary>
public sealed record WorkTimes(
    Minutes Power,
    Minutes Wait,
    Minutes ClearCmos,
    ImmutableDictionary<Remedy, Minutes> Mend,
    Minutes StartAtPins,
    Minutes Display,
    Minutes Setting,
    Minutes Lay,
    Minutes Rest,
    Minutes LoadRun,
    ImmutableDictionary<UnitKind, Minutes> Reseat,
    ImmutableDictionary<UnitKind, Minutes> Remove,
    ImmutableDictionary<UnitKind, Minutes> Swap
);

/// <summary>The shop's knowledge of faults: modes, odds, contexts and bench times. Immutable once read.</summary>
public sealed record Atlas(
    string Version,
    double Slip,
    double ReportedSlip,
    ImmutableDictionary<Origin, double> Origins,
    ImmutableArray<IntakeContext> Contexts,
    ImmutableArray<FaultMode> Modes,
    ImmutableArray<Check> Checks,
    ImmutableArray<Practice> Practices,
    WorkTimes Work
)
{
    /// <summary>How faults in general behave from start to start.</summary>
    public Behaviour Behaviour { get; init; } = Behaviour.Memoryless;

    /// <summary>Chance of 0, 1, 2 and 3 faults at intake; empty when the number follows from the odds alone.</summary>
    public ImmutableArray<double> Numbers { get; init; } = [];

    /// <summary>Factors on the odds of a customer's part of a model that nothing mends in place, as a shop has learnt them.</summary>
    public ImmutableDictionary<UnitModel, double> Models { get; init; } = ImmutableDictionary<UnitModel, double>.Empty;

    /// <summary>What signs of a start say, by their names.</summary>
    public ImmutableDictionary<string, SignMeaning> Signs { get; init; } = ImmutableDictionary<string, SignMeaning>.Empty;

    /// <summary>The tables that codes, beeps and lights are read by.</summary>
    public SignalLibrary Signals { get; init; } = SignalLibrary.Standard;

    /// <summary>The atlas that ships with Kelvet.</summary>
    public static Atlas Standard { get; } = LoadStandard();

    private static Atlas LoadStandard()
    {
        using var stream =
            typeof(Atlas).Assembly.GetManifestResourceStream("atlas.yaml")
            ?? throw new InvalidOperationException("The atlas is missing from the assembly.");
        using var reader = new StreamReader(stream);
        return AtlasReader.Read(reader.ReadToEnd(), "atlas.yaml");
    }

    /// <summary>Tools and caution for a change: of the first practice that fits it.</summary>
    public Practice PracticeFor(Change change, Parts parts)
    {
        var kind = change.Subject is { } id ? parts.Find(id)?.Kind : null;
        return Practices.First(p => (p.Act is null || p.Act == change.Act) && (p.On is null || p.On == kind));
    }

    /// <summary>The atlas with some modes left out, for what one would make of a machine without knowing them.</summary>
    public Atlas Without(IReadOnlyCollection<string> modes) => this with { Modes = [.. Modes.Where(m => !modes.Contains(m.Id))] };

    /// <summary>The check of this id, or null.</summary>
    public Check? Check(string id) => Checks.FirstOrDefault(c => c.Id == id);

    /// <summary>The mode of an id. Throws where there is none.</summary>
    public FaultMode this[string id] =>
        Modes.FirstOrDefault(m => m.Id == id) ?? throw new KeyNotFoundException($"There is no fault mode {id}.");
}
