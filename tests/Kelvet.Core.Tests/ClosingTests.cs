using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>How jobs end: a machine with something wrong, its advice followed to the letter, and how the end of the work goes.</summary>
[Trait("suite", "rules")]
public class ClosingTests
{
    private static readonly Unit[] Shelf =
    [
        Plain("s-supply", UnitKind.Supply, Origin.Shelf),
        Stick("s-stick", Origin.Shelf),
        Board("s-board", Origin.Shelf),
        Card("s-card", Origin.Shelf),
        new Cpu(new UnitId("s-cpu"), "Tarn C5", Origin.Shelf, true) { Socket = "T1" },
        Plain("s-cable", UnitKind.VideoCable, Origin.Shelf),
    ];

    private static readonly string Blocks = Path.Combine(
        AppContext.BaseDirectory[..AppContext.BaseDirectory.IndexOf("/Kelvet.Core.Tests/", StringComparison.Ordinal)],
        "endings.txt"
    );

    /// <summary>The blocks of the file: how each begins, and its other lines.</summary>
    public static TheoryData<string, string> Endings()
    {
        var rows = new TheoryData<string, string>();
        foreach (var block in File.ReadAllText(Blocks).Split("\n\n").Where(b => !b.StartsWith('#')))
        {
            var lines = block.TrimEnd('\n').Split('\n', 2);
            rows.Add(lines[0], lines[1]);
        }

        return rows;
    }

    [Theory]
    [MemberData(nameof(Endings))]
    public void A_job_that_is_followed_to_the_letter_ends(string wrong, string ends)
    {
        var told = wrong.Split(": ");
        var faults = told[1].Split(" every ");
        var ended = Ending(
            told[0],
            faults[0] == "nothing" ? [] : faults[0].Split(", "),
            faults.Length > 1 ? int.Parse(faults[1], null) : 1
        );
        Assert.True(ends == ended, $"It ended otherwise than {Path.GetFileName(Blocks)} has it:\n{wrong}\n{ended}");
    }

    private static BenchJob Machine(string shop) =>
        shop switch
        {
            "plain" => Office(extension: false).Job,
            "spares" => Office(extension: false).Shelf(Shelf).Job,
            "upgraded, spares" => Told("after-upgrade"),
            "extension" => Office().Job,
            "card" => Office(card: true, extension: false).Job,
            "card, spares" => Office(card: true, extension: false).Shelf(Shelf).Job,
            "bought" => Office(extension: false).Shelf(Stick("new-stick", Origin.New), Stick("s-stick", Origin.Shelf)).Job,
            "wrong slots" => Slots("A1", "B1"),
            "two cards" => Office(card: true, extension: false).Shelf(Card("s-card", Origin.Shelf), Card("t-card", Origin.Shelf)).Job,
            "another card" => Office(card: true, extension: false).Shelf(Other("s-card")).Job,
            "one stick" => OneStick(),
            "kit of four, spares" => Four().Shelf(Shelf).Job,
            "no graphics" => Office(card: true, cpuGraphics: false, extension: false).Showing("board/HDMI").Job,
            _ => throw new ArgumentException(shop),
        };

    private static BenchJob Told(string context)
    {
        var job = Office(extension: false).Shelf(Shelf).Job;
        return BenchJob.Open(job.Intake with { Contexts = [context] });
    }

    /// <summary>Sticks in slots that the board does not have in its usual order.</summary>
    private static BenchJob Slots(params string[] slots)
    {
        var office = Office(extension: false).Job;
        var machine = office.Intake.Received.WithUnit(Place.Memory("A2"), null).WithUnit(Place.Memory("B2"), null);
        foreach (var (slot, stick) in slots.Zip(["stick-1", "stick-2"]))
            machine = machine.WithUnit(Place.Memory(slot), new UnitId(stick));
        return BenchJob.Open(office.Intake with { Received = machine });
    }

    private static BenchJob OneStick()
    {
        var office = Office(extension: false).Job;
        var machine = office.Intake.Received.WithUnit(Place.Memory("B2"), null);
        return BenchJob.Open(
            office.Intake with
            {
                Received = machine,
                Parts = Parts.Of(office.Now.Parts.All.Where(u => u.Id.Value != "stick-2")),
            }
        );
    }

    /// <summary>A card that has none of the outputs of the one received.</summary>
    private static GraphicsCard Other(string id) =>
        new(new UnitId(id), "Brask other", Origin.Shelf, [new("DP A", VideoSignal.Digital), new("DP B", VideoSignal.Digital)], true);

    private static Bench Four() =>
        Office(extension: false).Add(Stick("stick-3"), Place.Memory("A1")).Add(Stick("stick-4"), Place.Memory("B1"));

    /// <summary>What is advised once nothing is searched for any more, and how it ends.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="faults">What is wrong with it.</param>
    /// <param name="every">At which of the starts it acts: each, or every n-th.</param>
    private static string Ending(string machine, string[] faults, int every)
    {
        var read = BenchDiagnosis.Of(Machine(machine), Atlas.Standard);
        Fault[] hidden = [.. faults.Select(key => read.Faults.First(f => f.Key == key))];
        var (said, acted) = (new List<string>(), 0);
        for (var n = 0; n < 50; n++)
        {
            var decision = Planner.Decide(read, School.Advisor, Preferences.Usual);
            Assert.InRange(decision.Probability, 0, 1);
            // A start alone tells nothing of what acts at other starts, or lets the machine come up all the same.
            if (decision is { Kind: AdviceKind.Control, Step: { Check: null, Changes: [] } again, Fault: { } rival })
                Assert.True(rival.Mode.ActsAt(again.Kind) > 0.5 && rival.Mode.Reach[(int)read.Job.Goal] < 0.5, rival.Key);
            var about = decision.About is { } unit ? $" {unit.Id}" : "";
            var done = decision.Step is { Check: null } act ? string.Join(" + ", act.Changes.Select(MachineFormat.Write)) : "";
            if (decision.Kind is not (AdviceKind.LookThenStart or AdviceKind.TellsMost or AdviceKind.Control or AdviceKind.CheapFirst))
                said.Add($"{decision.Kind}{about}{(done.Length > 0 ? $": {done}" : "")}{(decision.More > 0 ? $" {decision.More}" : "")}");
            if (decision.Step is { Check: { } check, Checked: { } looked })
                read = Next(new FindingEntry(Guid.NewGuid(), check.Id, looked.Id, hidden.Any(f => Shows(f, check, looked.Id))));
            else if (decision.Step is not null || decision.Phase == Phase.Reproduce)
                read = Next(Start(decision.Step?.Changes ?? []));
            else if (decision.Missing is { } missing)
                read = Next(new ArrivalEntry(Guid.NewGuid(), missing));
            else
                break;
        }

        var machineNow = read.Job.Now.Now;
        string[] gone = [.. read.Job.Intake.Received.At.Values.Where(u => !machineNow.Has(u)).Select(u => u.Value)];
        said.Add($"out {(gone.Length > 0 ? string.Join(", ", gone) : "nothing")}");
        return string.Join('\n', said.Select(line => $"  {line}"));

        BenchDiagnosis Next(Entry line) => BenchDiagnosis.Of(read.Job.Append(line), Atlas.Standard);

        bool Shows(Fault fault, Check check, UnitId unit) => EvidenceColumn.Sensitivity(fault, check, unit, read.Job.Now) >= 0.5;

        TrialEntry Start(System.Collections.Immutable.ImmutableArray<Change> changes)
        {
            var after = read.Job.Now.After(changes);
            var stage = Ceiling.Of(after).Stage;
            foreach (var fault in hidden.Where(f => !f.DealtWith(after) && f.Engaged(after) >= 0.5))
            {
                if (acted++ % every == 0)
                    stage = (BootStage)Math.Min((int)stage, fault.Mode.Reach.Count(r => r >= 0.5) - 1);
            }

            return new TrialEntry(
                Guid.NewGuid(),
                changes,
                stage >= BootStage.Picture ? StageRange.AtLeast(BootStage.Picture) : StageRange.At(stage)
            );
        }
    }
}
