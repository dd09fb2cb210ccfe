using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>How a school did over many jobs.</summary>
public sealed record SchoolResult(
    string School,
    int Jobs,
    int Right,
    int Missed,
    int WrongPart,
    int GivenUp,
    int NotProved,
    double MeanMinutes,
    double MedianMinutes,
    double MeanTrials,
    double SparesAtRisk
)
{
    /// <summary>Share of right verdicts, 0 to 1.</summary>
    public double RightShare => (double)Right / Jobs;

    /// <summary>What the jobs of one school came to.</summary>
    public static SchoolResult Of(string school, IReadOnlyList<JobResult> outcomes)
    {
        var minutes = outcomes.Select(o => o.Minutes).Order().ToArray();
        return new SchoolResult(
            school,
            outcomes.Count,
            Count(Verdict.Right),
            Count(Verdict.Missed),
            Count(Verdict.WrongPart),
            Count(Verdict.GivenUp),
            Count(Verdict.NotProved),
            minutes.Average(),
            minutes[minutes.Length / 2],
            outcomes.Average(o => o.Trials),
            outcomes.Average(o => o.SparesAtRisk)
        );

        int Count(Verdict verdict) => outcomes.Count(o => o.Verdict == verdict);
    }
}

/// <summary>Simulated jobs: machines of several sorts, with spares as a small shop has them and faults drawn from the atlas.</summary>
public static class Simulation
{
    /// <summary>One job of a simulation, worked by each school on the same machine, faults and spares.</summary>
    /// <param name="index">0 for the first job.</param>
    /// <param name="seed">The simulation's seed; the same seed and index give the same job.</param>
    /// <param name="schools">The schools.</param>
    /// <param name="atlas">The reasoner's atlas.</param>
    /// <param name="mismatch">Factor, 1 or more, by which the world's numbers may differ from the reasoner's.</param>
    /// <param name="setting">What is different in the world; null for nothing.</param>
    public static ImmutableArray<WorkedJob> Job(
        int index,
        int seed,
        IReadOnlyList<School> schools,
        Atlas atlas,
        double mismatch,
        WorldSetting? setting = null
    )
    {
        setting ??= WorldSetting.Known;
        var random = new Random(Mixed(seed, index));
        var job = Machine(random, setting.Small);
        while (!setting.Only.IsEmpty && !Fault.AllOf(atlas, job.Now.Parts, []).Any(IsOfThatWorld))
            job = Machine(random, setting.Small);
        if (!setting.Circumstances.IsEmpty)
            job = BenchJob.Open(job.Intake with { Contexts = setting.Circumstances });
        if (setting.Spares.Few > 0)
            job = BenchJob.Open(
                job.Intake with
                {
                    Parts = Parts.Of(job.Now.Parts.All.Where(u => u.Origin != Origin.Shelf || random.NextDouble() >= setting.Spares.Few)),
                }
            );
        if (setting.Spares.Unlike > 0)
            job = BenchJob.Open(
                job.Intake with
                {
                    Parts = Parts.Of(
                        job.Now.Parts.All.Select(u =>
                            u.Origin != Origin.Shelf
                                ? u is MemoryStick own
                                    ? own with
                                    {
                                        Kit = "own",
                                    }
                                    : u
                                : random.NextDouble() < setting.Spares.Unlike
                                    ? Unlike(u)
                                    : u
                        )
                    ),
                }
            );
        var (world, reported) = World.Draw(
            job,
            World.Perturbed(setting.True(atlas), Math.Max(mismatch, setting.Off), random),
            random,
            setting
        );
        var believed = setting.Believed(atlas);
        var complaint = setting.Complaint;
        job = BenchJob.Open(
            job.Intake with
            {
                Reported = reported,
                Contexts = Told(job.Intake.Contexts, setting.Answers, random),
                Goal = complaint.Goal == BootStage.Picture ? null : complaint.Goal,
                Complaint = new Complaint
                {
                    When = complaint.When,
                    Then = complaint.Then,
                    Picture = complaint.Shows == Symptom.Artefacts ? Artefacts.FromTheLogo : null,
                    Minutes = complaint.Minutes,
                },
            }
        );
        return
        [
            .. schools.Select(
                (school, s) => Episode.Work(job, world, believed, school, Preferences.Usual, new Random(Mixed(seed, index, s + 1)), setting)
            ),
        ];

        bool IsOfThatWorld(Fault fault) =>
            fault.Unit.Origin == Origin.Customer && setting.Only.Contains(fault.Mode.Id) && Closing.Keeps(fault, job.Now, job.Goal);
    }

    /// <summary>A part of the shelf that is not like the one it stands in for.</summary>
    private static Unit Unlike(Unit unit) =>
        unit switch
        {
            MemoryStick stick => stick with { Kit = "another" },
            Cpu cpu => new Cpu(cpu.Id, cpu.Name, cpu.Origin, hasGraphics: false),
            GraphicsCard card => new GraphicsCard(card.Id, card.Name, card.Origin, card.Outputs, true),
            Motherboard board => new Motherboard(
                board.Id,
                board.Name,
                board.Origin,
                [.. board.Slots.Where((_, i) => i % 2 == 1)],
                board.Outputs,
                board.CardSlots
            ),
            _ => unit,
        };

    private static readonly string[] Circumstances =
    [
        "new-build",
        "died-in-use",
        "power-event",
        "after-upgrade",
        "after-transport",
        "long-unused",
        "old",
        "smell",
    ];

    /// <summary>What the customer tells of what was.</summary>
    private static ImmutableArray<string> Told(ImmutableArray<string> what, AnswerSetting answers, Random random)
    {
        ImmutableArray<string> told = [.. what.Where(_ => random.NextDouble() >= answers.Missing)];
        // A smell that nobody smelt would block the bench: the other tales are harmless.
        var tale = Circumstances[random.Next(Circumstances.Length - 1)];
        return random.NextDouble() < answers.False && !told.Contains(tale) ? told.Add(tale) : told;
    }

    /// <summary>A machine as it comes in: with or without a card, graphics in the CPU, an extension; one, two or four sticks;
    /// spares.</summary>
    /// <param name="random">Chance.</param>
    /// <param name="small">Small parts that it has and that are listed; null for none.</param>
    public static BenchJob Machine(Random random, IReadOnlyCollection<UnitKind>? small = null)
    {
        // Long: it lists a machine part by part.
        bool Chance(double p) => random.NextDouble() < p;
        var units = new List<Unit>();
        var received = Configuration.Empty;
        var cpuGraphics = Chance(0.65);
        var card = !cpuGraphics || Chance(0.35);
        var board = new Motherboard(
            new UnitId("board"),
            "board",
            Origin.Customer,
            [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")],
            [new("HDMI", VideoSignal.Digital), new("DP", VideoSignal.Digital), new("VGA", VideoSignal.Analogue)],
            ["1", "2"]
        )
        {
            TellsPost = Chance(0.5),
        };
        Put(board, Place.Board);
        Put(new Cpu(new UnitId("cpu"), "CPU", Origin.Customer, cpuGraphics), Place.Cpu);
        Plain("supply", UnitKind.Supply, Place.Supply);
        if (Chance(0.3))
            Plain("extension", UnitKind.PowerExtension, Place.Extension);
        Plain("switch", UnitKind.CaseSwitch, Place.Switch);
        Plain("cooler", UnitKind.Cooler, Place.Cooler);
        Plain("cable", UnitKind.VideoCable, Place.Cable);
        Plain("monitor", UnitKind.Monitor, Place.Monitor);
        Plain("drive", UnitKind.Storage, Place.Storage("1"));
        if (Chance(0.5))
            Plain("keyboard", UnitKind.Peripheral, Place.Peripheral("1"));
        string[] slots = random.Next(4) switch
        {
            0 => ["A2"],
            1 => ["A1", "A2", "B1", "B2"],
            _ => ["A2", "B2"],
        };
        for (var i = 0; i < slots.Length; i++)
            Put(new MemoryStick(new UnitId($"stick-{i + 1}"), $"stick {i + 1}", Origin.Customer), Place.Memory(slots[i]));
        if (card)
            Put(Card("card", Origin.Customer, true), Place.Card("1"));
        foreach (var kind in small ?? [])
        {
            var place = UnitFacts.Of(kind).Place;
            Plain(Dashed.Of(kind), kind, Place.Of(place, Place.HasParts(place) ? "1" : ""));
            if (UnitFacts.Of(kind).Absence == Absence.Needed)
                Spare(0.8, Unit.Plain(new UnitId($"spare-{Dashed.Of(kind)}"), kind, $"spare {kind.Words()}", Origin.Shelf));
        }

        Spare(1, Unit.Plain(new UnitId("spare-supply"), UnitKind.Supply, "spare supply", Origin.Shelf));
        Spare(1, new MemoryStick(new UnitId("spare-stick"), "spare stick", Origin.Shelf));
        Spare(0.9, Card("spare-card", Origin.Shelf, false));
        Spare(0.8, Unit.Plain(new UnitId("spare-cable"), UnitKind.VideoCable, "spare cable", Origin.Shelf));
        Spare(0.8, Unit.Plain(new UnitId("spare-monitor"), UnitKind.Monitor, "spare monitor", Origin.Shelf));
        Spare(0.7, new Cpu(new UnitId("spare-cpu"), "spare CPU", Origin.Shelf, true));
        Spare(
            0.4,
            new Motherboard(new UnitId("spare-board"), "spare board", Origin.Shelf, board.Slots, board.Outputs, board.CardSlots)
            {
                TellsPost = true,
            }
        );
        return BenchJob.Open(
            new Intake
            {
                Title = "Simulated machine",
                Parts = Parts.Of(units),
                Received = received
                    .WithStart(StartMethod.CaseSwitch)
                    .WithDisplay(card ? new OutputRef(Place.Card("1"), "DP 1") : new OutputRef(Place.Board, "HDMI")),
                Contexts = Chance(0.7) ? [Circumstances[random.Next(Circumstances.Length)]] : [],
            }
        );

        static GraphicsCard Card(string id, Origin origin, bool aux) =>
            new(new UnitId(id), id, origin, [new("DP 1", VideoSignal.Digital), new("HDMI", VideoSignal.Digital)], aux);

        void Put(Unit unit, Place place)
        {
            units.Add(unit);
            received = received.WithUnit(place, unit.Id);
        }

        void Plain(string id, UnitKind kind, Place place) => Put(Unit.Plain(new UnitId(id), kind, id, Origin.Customer), place);

        void Spare(double chance, Unit unit)
        {
            if (Chance(chance))
                units.Add(unit);
        }
    }

    /// <summary>A seed from parts, the same on every machine (string and HashCode hashes are not).</summary>
    internal static int Mixed(params int[] parts)
    {
        var mixed = 2166136261u;
        foreach (var part in parts)
        {
            for (var shift = 0; shift < 32; shift += 8)
                mixed = (mixed ^ (byte)(part >> shift)) * 16777619u;
        }

        return (int)(mixed & 0x7fffffff);
    }
}
