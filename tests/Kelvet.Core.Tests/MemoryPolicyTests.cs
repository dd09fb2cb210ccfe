using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Xunit.Abstractions;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>
/// The advisor against the best that can be done: on small machines with one fault on the memory's side, which acts at every
/// start, the policy that names the right act in the fewest starts is worked out by dynamic programming and compared.
/// </summary>
public sealed class MemoryPolicyTests(ITestOutputHelper output)
{
    /// <summary>Named is what is at least so likely: of the advisor by its own reckoning, of the best by the odds that are left.</summary>
    private const double Named = 0.95;

    private static readonly string[] Modes =
    [
        "stick-dead",
        "stick-unseated",
        "slot-dead",
        "channel-dead",
        "cpu-channel-dead",
        "socket-pins-bent",
        "kit-mixed",
        "channel-pair",
        "profile-too-fast",
        "profile-200-too-fast",
        "profile-400-too-fast",
        "profile-600-too-fast",
    ];

    /// <summary>What both know: one fault of these, which acts at every start, and starts that are not mis-seen.</summary>
    private static readonly Atlas Believed = Atlas.Standard.Without([.. Atlas.Standard.Modes.Select(m => m.Id).Except(Modes)]) with
    {
        Behaviour = new Behaviour(SameEachTime: 1, NowAndThen: 0),
        Numbers = [0, 1, 0, 0],
        Slip = 0.0005,
    };

    /// <summary>Slots, their channel being the letter, and those that are filled.</summary>
    public static TheoryData<string, string> Machines =>
        new()
        {
            { "A1 B1", "A1 B1" },
            { "A1 A2 B1 B2", "A2 B2" },
            { "A1 A2", "A1 A2" },
        };

    [Theory]
    [MemberData(nameof(Machines))]
    public void The_advisor_names_the_act_in_hardly_more_starts_than_the_best_policy(string slots, string filled)
    {
        var job = Machine(slots.Split(' '), filled.Split(' '));
        Fault[] faults =
        [
            .. Fault.AllOf(Believed, job.Now, [], job.Intake.Received).Where(f => f.Unit.Origin == Origin.Customer && Acts(f, job.Now)),
        ];
        var best = new BestPolicy(faults, job);
        double all = 0,
            right = 0,
            starts = 0,
            least = 0;
        foreach (var (hidden, i) in faults.Select((f, i) => (f, i)))
        {
            if (best.StartsFor(i) is not { } fewest)
                continue;
            var (named, took, log) = Worked(job, hidden);
            all += hidden.Odds;
            right += named == Label(hidden) ? hidden.Odds : 0;
            starts += hidden.Odds * took;
            least += hidden.Odds * fewest;
            var otherwise = named == Label(hidden) ? "" : $"named {named}";
            output.WriteLine($"{hidden.Key, -50} odds {hidden.Odds:0.0000} best {fewest} advisor {took} {otherwise} {log}");
        }

        output.WriteLine($"right {right / all:P1}, starts {starts / all:0.00} against {least / all:0.00}: {starts / least:0.00}");
        Assert.True(right / all >= 0.97);
        Assert.True(starts / least <= 1.15, $"{starts / least:0.00}");
    }

    /// <summary>What would be done about a fault: sticks that do not run together are no stick's fault.</summary>
    private static string Label(Fault fault) => fault.Mode.On == FaultSite.MemoryKit ? "other sticks" : fault.Act.ToString();

    private static bool Acts(Fault fault, Situation machine) => fault.Engaged(machine) >= 0.5;

    private static (string Named, int Starts, string Log) Worked(BenchJob job, Fault hidden)
    {
        var diagnosis = BenchDiagnosis.Of(job, Believed);
        var starts = 0;
        var log = "";
        while (starts < 25)
        {
            if (starts > 0 && Leading(diagnosis) is { P: >= Named } leading)
                return (leading.Label, starts, log);
            var decision = Planner.Decide(diagnosis, School.Advisor, Preferences.Usual);
            if (decision.Step is { Check: { } check } look)
            {
                log += $"[{check.Id}] ";
                var found = EvidenceColumn.Sensitivity(hidden, check, look.Checked!.Id, diagnosis.Job.Now) >= 0.5;
                diagnosis = diagnosis.After(new FindingEntry(Guid.NewGuid(), check.Id, look.Checked.Id, found));
                continue;
            }

            if (decision.Step is null && decision.Phase != Phase.Reproduce)
                return ($"stuck: {decision.Kind}", starts, log);
            var changes = decision.Step?.Changes ?? [];
            var after = diagnosis.Job.Now.After(changes);
            log += $"{string.Join("+", changes.Select(c => c.ToString()))}; ";
            var seen = Acts(hidden, after) ? StageRange.At(BootStage.RunsNoPost) : StageRange.AtLeast(BootStage.Picture);
            diagnosis = diagnosis.After(new TrialEntry(Guid.NewGuid(), changes, seen));
            starts++;
        }

        return ("nothing", starts, log);
    }

    private static (string Label, double P) Leading(BenchDiagnosis diagnosis)
    {
        var by = new Dictionary<string, double>();
        foreach (var h in diagnosis.Hypotheses)
        {
            foreach (var label in h.Forms.Select(f => Label(diagnosis.Faults[diagnosis.Inference.Table.Forms[f].Fault])).Distinct())
                by[label] = by.GetValueOrDefault(label) + h.Probability;
        }

        var leading = by.MaxBy(b => b.Value);
        return (leading.Key ?? "", leading.Value);
    }

    private static BenchJob Machine(string[] slots, string[] filled)
    {
        MemorySlot[] layout = [.. slots.Select(n => new MemorySlot(n, n[..1]))];
        var bench = new Bench()
            .Add(Plain("supply", UnitKind.Supply), Place.Supply)
            .Add(BoardOf("board", Origin.Customer), Place.Board)
            .Add(CpuOf("cpu", Origin.Customer), Place.Cpu)
            .Add(Plain("cooler", UnitKind.Cooler), Place.Cooler)
            .Add(Plain("cable", UnitKind.VideoCable, Origin.Shelf), Place.Cable)
            .Add(Plain("monitor", UnitKind.Monitor, Origin.Shelf), Place.Monitor)
            .Showing("board/HDMI");
        foreach (var (slot, i) in filled.Select((s, i) => (s, i + 1)))
            bench.Add(Stick($"stick-{i}"), Place.Memory(slot));
        return bench.Shelf(Stick("spare-stick", Origin.Shelf), CpuOf("spare-cpu", Origin.Shelf), BoardOf("spare-board", Origin.Shelf)).Job;

        Motherboard BoardOf(string id, Origin origin) =>
            new(new UnitId(id), id, origin, layout, [new("HDMI", VideoSignal.Digital)], []) { TellsPost = true };

        static Cpu CpuOf(string id, Origin origin) => new(new UnitId(id), id, origin, true);
    }

    /// <summary>
    /// The policy of fewest expected starts, when exactly one of the faults is there and acts at every start that it can act in.
    /// Between two starts anything may be done: any sticks in any slots, another CPU or board, settings cleared, pins straightened;
    /// a stick that was out of its place is seated anew. Bellman's equation over what is left of the faults and what was done.
    /// </summary>
    private sealed class BestPolicy
    {
        private readonly Fault[] _faults;
        private readonly string[] _labels;
        private readonly BenchJob _job;
        private readonly UnitId[] _sticks;
        private readonly Configuration[] _arrangements;
        private readonly int _cleared;
        private readonly int _straightened;
        private readonly Dictionary<(int Arrangement, int Done), int> _failing = [];
        private readonly Dictionary<(int Left, int Done), (double Cost, (int Arrangement, int Done)? Next)> _known = [];

        public BestPolicy(Fault[] faults, BenchJob job)
        {
            (_faults, _job, _labels) = (faults, job, [.. faults.Select(Label)]);
            _sticks = [.. job.Now.Parts.All.OfType<MemoryStick>().Select(s => s.Id)];
            _arrangements = [.. Arrangements().Distinct()];
            (_cleared, _straightened) = (1 << _sticks.Length, 2 << _sticks.Length);
        }

        /// <summary>Starts that it takes to name a fault, the first one as received among them; null where it cannot be named.</summary>
        public int? StartsFor(int hidden)
        {
            var (left, done) = ((1 << _faults.Length) - 1, 0);
            for (var starts = 1; ; starts++)
            {
                if (IsNamed(left))
                    return starts;
                if (Cost(left, done).Next is not { } next)
                    return null;
                var failing = Failing(next.Arrangement, next.Done);
                left &= (failing & (1 << hidden)) != 0 ? failing : ~failing;
                done = next.Done;
            }
        }

        private int Failing(int arrangement, int done)
        {
            if (_failing.TryGetValue((arrangement, done), out var known))
                return known;
            var machine = Situation.AtIntake(_job.Now.Parts, _arrangements[arrangement]);
            for (var s = 0; s < _sticks.Length; s++)
            {
                if ((done & (1 << s)) != 0 && machine.Now.Has(_sticks[s]))
                    machine = machine.After(new Change.Reseat(_sticks[s]));
            }

            var own = machine.Now.Has(new UnitId("board"));
            if (own && (done & _cleared) != 0)
                machine = machine.After(new Change.ClearCmos());
            if (own && (done & _straightened) != 0)
                machine = machine.After(new Change.Mend(Remedy.Straighten, new UnitId("board")));
            var failing = 0;
            for (var f = 0; f < _faults.Length; f++)
                failing |= Acts(_faults[f], machine) ? 1 << f : 0;
            return _failing[(arrangement, done)] = failing;
        }

        private double Weight(int set)
        {
            var sum = 0.0;
            for (var f = 0; f < _faults.Length; f++)
                sum += (set & (1 << f)) != 0 ? _faults[f].Odds : 0;
            return sum;
        }

        private bool IsNamed(int set)
        {
            var by = new Dictionary<string, double>();
            for (var f = 0; f < _faults.Length; f++)
            {
                if ((set & (1 << f)) != 0)
                    by[_labels[f]] = by.GetValueOrDefault(_labels[f]) + _faults[f].Odds;
            }

            return set == 0 || by.Values.Max() >= Named * Weight(set);
        }

        private (double Cost, (int Arrangement, int Done)? Next) Cost(int left, int done)
        {
            if (IsNamed(left))
                return (0, null);
            if (_known.TryGetValue((left, done), out var known))
                return known;
            _known[(left, done)] = (1e6, null);
            var all = Weight(left);
            var splits = new Dictionary<(int Fails, int Done), (int Arrangement, double Least)>();
            foreach (var (arrangement, then) in Steps(done))
            {
                var fails = Failing(arrangement, then) & left;
                if (fails == 0 || fails == left || splits.ContainsKey((fails, then)))
                    continue;
                var p = Weight(fails) / all;
                splits[(fails, then)] = (arrangement, 1 + (IsNamed(fails) ? 0 : p) + (IsNamed(left & ~fails) ? 0 : 1 - p));
            }

            var (best, next) = (1e6, ((int Arrangement, int Done)?)null);
            foreach (var ((fails, then), (arrangement, least)) in splits.OrderBy(s => s.Value.Least))
            {
                if (least >= best)
                    break;
                var p = Weight(fails) / all;
                var cost = 1 + (p * Cost(fails, then).Cost);
                if (cost < best)
                    cost += (1 - p) * Cost(left & ~fails, then).Cost;
                if (cost < best)
                    (best, next) = (cost, (arrangement, then));
            }

            return _known[(left, done)] = (best, next);
        }

        private IEnumerable<(int Arrangement, int Done)> Steps(int done)
        {
            for (var a = 0; a < _arrangements.Length; a++)
            {
                var then = done | Touched(_arrangements[a]);
                yield return (a, then);
                yield return (a, then | _cleared);
                yield return (a, then | _straightened);
                for (var s = 0; a == 0 && s < _sticks.Length; s++)
                    yield return (a, then | (1 << s));
            }
        }

        /// <summary>Sticks that are not in the place where they were received.</summary>
        private int Touched(Configuration arrangement)
        {
            var touched = 0;
            for (var s = 0; s < _sticks.Length; s++)
                touched |= arrangement.PlaceOf(_sticks[s]) != _job.Intake.Received.PlaceOf(_sticks[s]) ? 1 << s : 0;
            return touched;
        }

        private IEnumerable<Configuration> Arrangements()
        {
            var received = _job.Intake.Received;
            var slots = _job.Now.Board!.Slots.Select(s => Place.Memory(s.Name)).ToArray();
            var bare = slots.Aggregate(received, (c, s) => c.WithUnit(s, null));
            var filled = new List<Configuration> { received };
            foreach (var one in _sticks)
            {
                filled.AddRange(slots.Select(slot => bare.WithUnit(slot, one)));
                foreach (var other in _sticks.Where(o => o != one))
                    filled.AddRange(slots.SelectMany((a, i) => slots.Skip(i + 1).Select(b => bare.WithUnit(a, one).WithUnit(b, other))));
            }

            foreach (var c in filled)
            {
                yield return c;
                yield return c.WithUnit(Place.Cpu, new UnitId("spare-cpu"));
                yield return c.WithUnit(Place.Board, new UnitId("spare-board"));
            }
        }
    }
}
