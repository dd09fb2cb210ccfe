using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Tests;

/// <summary>A machine on the test bench and short words for what is done to it.</summary>
internal sealed class Bench
{
    private readonly List<Unit> _units = [];
    private Configuration _received = Configuration.Empty;
    private BenchJob? _job;

    /// <summary>The ordinary office machine that most tests start from: everything fitted, two sticks in A2 and B2.</summary>
    public static Bench Office(bool cpuGraphics = true, bool card = false, bool tellsPost = false, bool extension = true)
    {
        var bench = new Bench()
            .Add(Plain("supply", UnitKind.Supply), Place.Supply)
            .Add(Plain("switch", UnitKind.CaseSwitch), Place.Switch)
            .Add(Board("board", tellsPost: tellsPost), Place.Board)
            .Add(new Cpu(new UnitId("cpu"), "Tarn C5", Origin.Customer, cpuGraphics) { Socket = "T1" }, Place.Cpu)
            .Add(Plain("cooler", UnitKind.Cooler), Place.Cooler)
            .Add(Stick("stick-1"), Place.Memory("A2"))
            .Add(Stick("stick-2"), Place.Memory("B2"))
            .Add(Plain("drive", UnitKind.Storage), Place.Storage("1"))
            .Add(Plain("keyboard", UnitKind.Peripheral), Place.Peripheral("1"))
            .Add(Plain("cable", UnitKind.VideoCable), Place.Cable)
            .Add(Plain("monitor", UnitKind.Monitor), Place.Monitor);
        if (extension)
            bench.Add(Plain("extension", UnitKind.PowerExtension), Place.Extension);
        if (card)
            bench.Add(Card("card"), Place.Card("1"));
        bench._received = bench
            ._received.WithStart(StartMethod.CaseSwitch)
            .WithDisplay(card ? new OutputRef(Place.Card("1"), "DP 1") : new OutputRef(Place.Board, "HDMI"));
        return bench;
    }

    public static Unit Plain(string id, UnitKind kind, Origin origin = Origin.Customer) =>
        Unit.Plain(new UnitId(id), kind, $"the {id}", origin);

    public static Motherboard Board(string id, Origin origin = Origin.Customer, bool tellsPost = false) =>
        new(
            new UnitId(id),
            "Ondel B40",
            origin,
            [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")],
            [new("HDMI", VideoSignal.Digital), new("DP", VideoSignal.Digital), new("VGA", VideoSignal.Analogue)],
            ["1", "2"]
        )
        {
            Socket = "T1",
            MemoryType = "DDR4",
            TellsPost = tellsPost,
        };

    public static MemoryStick Stick(string id, Origin origin = Origin.Customer) =>
        new(new UnitId(id), $"Quillon {id}", origin) { MemoryType = "DDR4", SizeGb = 8 };

    public static GraphicsCard Card(string id, Origin origin = Origin.Customer, bool needsAux = true) =>
        new(new UnitId(id), $"Brask {id}", origin, [new("DP 1", VideoSignal.Digital), new("HDMI", VideoSignal.Digital)], needsAux);

    public Bench Add(Unit unit, Place? place = null)
    {
        _units.Add(unit);
        if (place is { } p)
            _received = _received.WithUnit(p, unit.Id);
        return this;
    }

    /// <summary>The monitor on an output, as received.</summary>
    public Bench Showing(string output)
    {
        _received = _received.WithDisplay(MachineFormat.TryRead(output, out OutputRef o) ? o : throw new ArgumentException(output));
        return this;
    }

    public Bench Shelf(params Unit[] spares)
    {
        _units.AddRange(spares);
        return this;
    }

    public string[] Contexts { get; set; } = [];

    public StageRange? Reported { get; set; }

    public BootStage? Goal { get; set; }

    public BenchJob Job =>
        _job ??= BenchJob.Open(
            new Intake
            {
                Title = "Test machine",
                Parts = Parts.Of(_units),
                Received = _received,
                Contexts = [.. Contexts],
                Reported = Reported,
                Goal = Goal,
            }
        );

    /// <summary>Records a trial: "4", "4-5", "6" (a picture, not followed further) and what was changed before it.</summary>
    public Bench Trial(string seen, params Change[] changes) => Trial(seen, null, changes);

    public Bench Trial(string seen, StallDomain? stall, params Change[] changes) => Trial(seen, stall, null, changes);

    public Bench Trial(string seen, StallDomain? stall, StartKind? kind, params Change[] changes)
    {
        Assert.True(ObservedFormat.TryRead(seen, out var range));
        if (range == StageRange.At(BootStage.Picture))
            range = StageRange.AtLeast(BootStage.Picture);
        _job = Job.Append(new TrialEntry(Guid.NewGuid(), [.. changes], range, stall) { Kind = kind });
        return this;
    }

    /// <summary>Records what a look or test found.</summary>
    public Bench Finding(string check, string unit, bool found)
    {
        _job = Job.Append(new FindingEntry(Guid.NewGuid(), check, new UnitId(unit), found));
        return this;
    }

    public BenchDiagnosis Diagnosis => BenchDiagnosis.Of(Job, Atlas.Standard);

    public static Change Clear => new Change.ClearCmos();

    public static Change Swap(string @out, string @in) => new Change.Swap(new UnitId(@out), new UnitId(@in));

    public static Change Remove(string unit) => new Change.Remove(new UnitId(unit));

    public static Change Bypass(string unit) => new Change.Bypass(new UnitId(unit));

    public static Change Reseat(string unit) => new Change.Reseat(new UnitId(unit));

    public static Change Connect(string unit) => new Change.Connect(new UnitId(unit));

    public static Change Fit(string unit, string place) => new Change.Fit(new UnitId(unit), At(place));

    public static Change Move(string unit, string place) => new Change.Move(new UnitId(unit), At(place));

    public static Change Show(string output) =>
        MachineFormat.TryRead(output, out OutputRef o) ? new Change.DisplayAt(o) : throw new ArgumentException(output);

    private static Place At(string text) => MachineFormat.TryRead(text, out Place place) ? place : throw new ArgumentException(text);
}

internal static class SuspectSearch
{
    public static Suspect Of(this BenchDiagnosis diagnosis, string unit) => diagnosis[new UnitId(unit)];

    public static double P(this BenchDiagnosis diagnosis, string unit) => diagnosis.Of(unit).Probability;

    public static double PFault(this BenchDiagnosis diagnosis, string key) =>
        diagnosis.Suspects.SelectMany(s => s.Faults).Single(f => f.Fault.Key == key).Probability;

    public static ImmutableArray<Suspect> Above(this BenchDiagnosis diagnosis, double p) =>
        [.. diagnosis.Suspects.Where(s => s.Probability > p)];
}
