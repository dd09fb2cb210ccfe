using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;

namespace Kelvet.Core.Training;

/// <summary>A fault that is there, and how it behaves.</summary>
/// <param name="Index">Its index among the faults of the world.</param>
/// <param name="Form">What was drawn for it once.</param>
/// <param name="Stall">What start-up stalls in when it acts, settled once; null where that wanders.</param>
/// <param name="Luck">A number, 0 to 1, that settles whether its cure works.</param>
public sealed record HiddenFault(int Index, FaultForm Form, StallDomain? Stall, double Luck)
{
    /// <summary>How much of it acts at each kind of start, 0 to 1; empty for all alike.</summary>
    public ImmutableDictionary<StartKind, double> Acts { get; init; } = ImmutableDictionary<StartKind, double>.Empty;

    /// <summary>Whether it acts at its owner's alone.</summary>
    public bool OnlyAtHome { get; init; }

    /// <summary>Whether it sits on a part that nobody lists, so that nothing of what is done reaches it.</summary>
    public bool OnNoList { get; init; }

    /// <summary>Whether it came back after it had been mended.</summary>
    public bool CameBack { get; init; }

    /// <summary>Whether hands brought it about at the bench.</summary>
    public bool ByHands { get; init; }
}

/// <summary>
/// A machine with hidden faults that answers as such a machine would: the same model that reads a log backwards,
/// played forwards. Randomness is handed in, so that the same seed gives the same answers.
/// </summary>
/// <param name="Faults">All faults that the job's units could have, with the world's own numbers.</param>
/// <param name="Hidden">Those that are there.</param>
/// <param name="Atlas">The world's atlas; the reasoner may believe another.</param>
public sealed record World(ImmutableArray<Fault> Faults, ImmutableArray<HiddenFault> Hidden, Atlas Atlas)
{
    /// <summary>What the machine is to reach.</summary>
    public BootStage Goal { get; init; } = BootStage.Picture;

    /// <summary>What the indicators show of each stall domain at this machine: settled once.</summary>
    private ImmutableArray<StallDomain> Shown { get; init; } = [.. Enum.GetValues<StallDomain>()];

    /// <summary>What the board beeps for each stall domain, empty for nothing; no domains where it does not beep.</summary>
    private ImmutableArray<string> Beeps { get; init; } = [];

    /// <summary>
    /// Chance that a fault acts now. A repair in place either worked or did not, once and for all: the draw is fixed by
    /// the fault and the world, not made anew at each start.
    /// </summary>
    private double Engaged(HiddenFault hidden, Situation situation, StartKind? kind)
    {
        var fault = Faults[hidden.Index];
        var often = hidden.Acts.IsEmpty ? 1 : hidden.Acts.GetValueOrDefault(kind ?? StartKind.Warm);
        if (hidden.OnlyAtHome || often == 0)
            return 0;
        var at = often * fault.Mode.ActsAt(hidden.Acts.IsEmpty ? kind : null);
        // What nobody lists hangs in the case, and is off when the board runs out of it.
        if (hidden.OnNoList && situation.Board is { } board && situation.Mended(board.Id, Remedy.Isolate))
            return 0;
        if (hidden.OnNoList)
            return at * hidden.Form.Engaged(fault.Mode.Most, fault.Mode.Most, kind);
        var engaged = fault.Engaged(situation);
        if (engaged == 0)
            return 0;
        if (!fault.DealtWith(situation))
            return at * hidden.Form.Engaged(engaged, fault.Mode.Most, kind);
        var left = engaged / fault.Mode.Most;
        return hidden.CameBack || hidden.Luck < left ? at * hidden.Form.Engaged(fault.Mode.Most, fault.Mode.Most, kind) : 0;
    }

    /// <summary>
    /// The world after work: hands cure a bad seat or plug beside it now and then, and bring one about more seldom.
    /// </summary>
    /// <param name="changes">What was done.</param>
    /// <param name="after">The machine after it.</param>
    /// <param name="random">Chance.</param>
    /// <param name="factor">How much clumsier or luckier hands are than the atlas says.</param>
    public World AfterHands(IReadOnlyCollection<Change> changes, Situation after, Random random, double factor)
    {
        var kinds = changes.Where(c => c.Act <= ActKind.Bypass).Select(c => after.Parts[c.Subject!.Value].Kind).ToHashSet();
        double Chance(FaultMode mode) => Math.Min(0.9, factor * mode.DisturbedBy.Where(d => kinds.Contains(d.Key)).Sum(d => d.Value));
        if (kinds.Count == 0)
            return this;
        var hidden = Hidden.Where(h => random.NextDouble() >= Chance(Faults[h.Index].Mode)).ToList();
        for (var f = 0; f < Faults.Length; f++)
        {
            var chance = Faults[f].Unit.Origin == Origin.Customer ? Chance(Faults[f].Mode) * FaultMode.BroughtAbout : 0;
            if (chance > 0 && after.Now.Has(Faults[f].Unit.Id) && random.NextDouble() < chance && hidden.TrueForAll(h => h.Index != f))
                hidden.Add(BroughtAbout(f));
        }

        return this with
        {
            Hidden = [.. hidden],
        };
    }

    /// <summary>A fault that hands have brought about.</summary>
    private HiddenFault BroughtAbout(int fault) => new(fault, FaultForm.Whole(Faults[fault], fault), null, 1) { ByHands = true };

    /// <summary>The world after hands that left a plug or a part loose beside their work.</summary>
    public World WithALoosePlug(Situation after, Random random)
    {
        int[] loose =
        [
            .. Enumerable
                .Range(0, Faults.Length)
                .Where(f => Faults[f].Mode.Cure is Cure.Reseat or Cure.Rewire && after.Now.Has(Faults[f].Unit.Id))
                .Where(f => !Faults[f].DealtWith(after) && Faults[f].Engaged(after) > 0 && Hidden.All(h => h.Index != f)),
        ];
        return loose.Length == 0 ? this : this with { Hidden = Hidden.Add(BroughtAbout(loose[random.Next(loose.Length)])) };
    }

    /// <summary>The world after a start in which what was mended may have come back, and spares may have died.</summary>
    public World AfterAStart(Situation after, WorldSetting setting, Random random)
    {
        var hidden = Hidden
            .Select(h =>
                setting.Relapses > 0 && Faults[h.Index].DealtWith(after) && random.NextDouble() < setting.Relapses
                    ? h with
                    {
                        CameBack = true,
                    }
                    : h
            )
            .ToList();
        if (setting.Spares.Dies > 0 && Hidden.Any(h => Faults[h.Index].Mode.Harms.Count > 0 && Faults[h.Index].Engaged(after) > 0))
        {
            foreach (var spare in after.Now.At.Values.Where(id => after.Parts[id].Origin == Origin.Shelf))
            {
                var dead = Array.FindIndex([.. Faults], f => f.Unit.Id == spare && f.Mode.Cure == Cure.Replace);
                if (dead >= 0 && hidden.TrueForAll(h => h.Index != dead) && random.NextDouble() < setting.Spares.Dies)
                    hidden.Add(BroughtAbout(dead));
            }
        }

        return this with
        {
            Hidden = [.. hidden],
        };
    }

    /// <summary>Starts the machine in a situation and says what a technician sees.</summary>
    /// <param name="situation">The machine.</param>
    /// <param name="random">Chance.</param>
    /// <param name="kind">The kind of start; null for an ordinary one.</param>
    public StartSeen Start(Situation situation, Random random, StartKind? kind = null)
    {
        var ceiling = Ceiling.Of(situation);
        var top = ceiling.Stage;
        if (ceiling.Beyond > 0 && random.NextDouble() < ceiling.Beyond)
            top = BootStage.Stable;
        StallDomain? stall = null;
        FaultMode? by = null;
        var lost = new HashSet<string>(StringComparer.Ordinal);
        var spoilt = false;
        foreach (var hidden in Hidden)
        {
            if (random.NextDouble() >= Engaged(hidden, situation, kind))
                continue;
            var fault = Faults[hidden.Index];
            if (hidden.Form.Shows is { } symptom)
            {
                spoilt |= symptom == Symptom.Artefacts;
                if (symptom == Symptom.MissingMemory)
                    lost.UnionWith(LostBy(hidden, situation));
                continue;
            }

            var stop = hidden.Form.StopsAt is { } always ? (int)always : Draw(fault.Mode.Stops, random);
            if (stop >= 0)
                EndAt((BootStage)stop, hidden.Stall ?? (StallDomain)Math.Max(0, Draw(fault.Mode.Stall, random)), fault.Mode);
        }

        // No machine gets through its self-test without memory that it sees.
        if (lost.Count > 0 && lost.Count >= situation.Sticks.Length)
            EndAt(BootStage.RunsNoPost, StallDomain.Memory, null);
        if (random.NextDouble() < Atlas.Slip)
            top = (BootStage)random.Next(BootStages.Count);
        var tells = situation.Board?.TellsPost == true;
        var seen =
            top >= BootStage.Picture ? FollowedTo(top, kind)
            : !tells && top >= BootStage.RunsNoPost ? new StageRange(BootStage.RunsNoPost, BootStage.PostNoPicture)
            : StageRange.At(top);
        var shown = stall is null || seen.ShowsPicture ? (StallDomain?)null : Shown[(int)stall.Value];
        return new StartSeen(seen, tells && shown is { } light ? StallSignal.At(light) : null, by)
        {
            Beeps = shown is { } heard && Beeps.Length > 0 && top >= BootStage.RunsNoPost ? Beeps[(int)heard] : "",
            Lost = seen.ShowsPicture ? [.. lost.Order(StringComparer.Ordinal)] : [],
            IsSpoilt = seen.ShowsPicture && spoilt,
        };

        void EndAt(BootStage stage, StallDomain domain, FaultMode? mode)
        {
            if (stage < top)
                (top, stall, by) = (stage, domain, mode);
        }
    }

    /// <summary>Filled slots that a fault takes away; of what is of no slot in particular always the same one.</summary>
    private ImmutableArray<string> LostBy(HiddenFault hidden, Situation situation) =>
        MissingMemory.SlotsOf(Faults[hidden.Index], situation) is { Length: > 0 } slots ? slots
        : situation.Sticks is { Length: > 0 } sticks ? [sticks[(int)(hidden.Luck * sticks.Length) % sticks.Length].Place.Part]
        : [];

    /// <summary>What is written down of a machine with a picture: it is followed no further than the goal asks, and under load alone to
    /// the end.</summary>
    private StageRange FollowedTo(BootStage top, StartKind? kind) =>
        Goal <= BootStage.Picture ? StageRange.AtLeast(BootStage.Picture)
        : kind == StartKind.Load || top < BootStage.OsLoads ? StageRange.At(top)
        : Goal == BootStage.OsLoads ? StageRange.AtLeast(BootStage.OsLoads)
        : new StageRange(BootStage.OsLoads, BootStage.Stable);

    /// <summary>Makes a check and says whether it found something.</summary>
    public bool Look(Check check, UnitId unit, Situation situation, Random random)
    {
        var missed = Hidden.Aggregate(
            1 - check.Leak,
            (p, f) => f.OnNoList || f.OnlyAtHome ? p : p * (1 - EvidenceColumn.Sensitivity(Faults[f.Index], check, unit, situation))
        );
        return random.NextDouble() >= missed;
    }

    /// <summary>
    /// Whether a fault keeps the machine from its goal in this situation at least now and then, or at its owner's, so that a
    /// machine with it is not repaired.
    /// </summary>
    public bool Matters(HiddenFault hidden, Situation situation) =>
        hidden.OnlyAtHome
        || Kinds(hidden).Max(kind => Engaged(hidden, situation, kind)) * (hidden.Form.Shows is null ? 1 - hidden.Form.Reach[(int)Goal] : 1)
            >= 0.08;

    private static IEnumerable<StartKind?> Kinds(HiddenFault hidden) =>
        hidden.Acts.IsEmpty ? [null] : hidden.Acts.Keys.Select(k => (StartKind?)k);

    /// <summary>Draws faults for a job until the machine, as received, fails as it is complained of; that is what the customer
    /// reports.</summary>
    /// <param name="job">The job as taken in.</param>
    /// <param name="atlas">The world's atlas.</param>
    /// <param name="random">Chance.</param>
    /// <param name="setting">What is different in this world; null for nothing.</param>
    public static (World World, StageRange? Reported) Draw(BenchJob job, Atlas atlas, Random random, WorldSetting? setting = null)
    {
        setting ??= WorldSetting.Known;
        var faults = Fault.AllOf(atlas, job.Now, job.Intake.Contexts, job.Intake.Received);
        int[] own = [.. Enumerable.Range(0, faults.Length).Where(f => faults[f].Unit.Origin == Origin.Customer)];
        int[] first = setting.Only.IsEmpty ? own : [.. own.Where(f => setting.Only.Contains(faults[f].Mode.Id))];
        if (first.Length == 0)
            throw new ArgumentException("This machine can have none of the world's faults.", nameof(job));
        int[] spare = [.. Enumerable.Range(0, faults.Length).Except(own)];
        while (true)
        {
            var hidden = new List<HiddenFault>();
            var number = atlas.Numbers.IsEmpty
                ? 1
                : 1 + Math.Max(0, Draw([.. atlas.Numbers.Skip(1).Select(n => n / (1 - atlas.Numbers[0]))], random));
            for (var n = 0; n < number; n++)
            {
                var from = n == 0 ? first : own;
                var f = from[Draw([.. Shares(from)], random) is var drawn and >= 0 ? drawn : 0];
                if (hidden.TrueForAll(h => h.Index != f))
                    hidden.Add(Behaving(faults, f, atlas, setting, random));
            }

            if (random.NextDouble() < setting.OnNoList)
                hidden[0] = hidden[0] with { OnNoList = true };
            if (random.NextDouble() < setting.OnlyAtHome)
                hidden = [.. hidden.Select(h => h with { OnlyAtHome = true })];
            hidden.AddRange(
                spare
                    .Where(f => random.NextDouble() < setting.OddsOfSpare(faults[f].Prior, faults, f))
                    .Select(f => Behaving(faults, f, atlas, setting, random))
            );
            var world = new World(faults, [.. hidden], atlas)
            {
                Shown = Indicators(random, setting.LightsTrue),
                Beeps = setting.Beeps > 0 && random.NextDouble() < setting.Beeps ? BeepsOfABoard(atlas.Signals, random) : [],
                Goal = setting.Complaint.Goal,
            };
            if (!hidden.Exists(f => world.Matters(f, job.Now)))
                continue;
            // Of what fails at its owner's alone, nobody here sees how far it gets.
            if (hidden[0].OnlyAtHome)
                return (world, null);
            var start = world.Start(job.Now, random, setting.Complaint.When);
            if (setting.Complaint.IsOf(start))
                return (world, start.Seen);
        }

        IEnumerable<double> Shares(int[] from)
        {
            var sum = from.Sum(f => faults[f].Odds);
            return from.Select(f => faults[f].Odds / sum);
        }
    }

    /// <summary>A machine in which what is known to have been wrong is wrong; how it behaves is drawn.</summary>
    /// <param name="job">The job as taken in.</param>
    /// <param name="atlas">The atlas.</param>
    /// <param name="truth">What was wrong: the part and its mode. What the machine cannot have is left out.</param>
    /// <param name="random">Chance.</param>
    /// <returns>The world; null where nothing of it can be wrong in this machine.</returns>
    public static World? Knowing(BenchJob job, Atlas atlas, IReadOnlyCollection<(UnitId Unit, string Mode)> truth, Random random)
    {
        var faults = Fault.AllOf(atlas, job.Now, job.Intake.Contexts, job.Intake.Received);
        var hidden = truth
            .Select(t =>
                Enumerable.Range(0, faults.Length).FirstOrDefault(f => faults[f].Unit.Id == t.Unit && faults[f].Mode.Id == t.Mode, -1)
            )
            .Where(f => f >= 0)
            .Distinct()
            .Select(f => Behaving(faults, f, atlas, WorldSetting.Known, random))
            .ToImmutableArray();
        return hidden.IsEmpty ? null : new World(faults, hidden, atlas);
    }

    /// <summary>Draws how a fault behaves.</summary>
    private static HiddenFault Behaving(ImmutableArray<Fault> faults, int fault, Atlas atlas, WorldSetting setting, Random random)
    {
        var behaviour = setting.Behaviour ?? atlas.Behaviour;
        FaultForm[] forms =
        [
            .. FaultForm.Of(faults[fault], fault, behaviour, setting.Complaint.Shows is { } shows ? new HashSet<Symptom> { shows } : null),
        ];
        var form = forms[Math.Max(0, Draw([.. forms.Select(f => f.Share)], random))];
        var own = faults[fault].Unit.Origin == Origin.Customer;
        if (own && setting.Rate is var (least, most) && (form.Rate is not null || setting.EveryRate))
            form = form with { Rate = least + ((most - least) * random.NextDouble()) };
        var mode = faults[fault].Mode;
        // What acts when the machine is in use ends what had come up.
        if (own && setting.Complaint.Goal > BootStage.OsLoads)
            form = form with { StopsAt = BootStage.OsLoads, Reach = UpTo(BootStage.OsLoads) };
        StallDomain? stall = random.NextDouble() < behaviour.SameEachTime ? (StallDomain)Math.Max(0, Draw(mode.Stall, random)) : null;
        return new HiddenFault(fault, form, stall, random.NextDouble())
        {
            Acts = own ? setting.Acts : ImmutableDictionary<StartKind, double>.Empty,
        };
    }

    private static ImmutableArray<double> UpTo(BootStage stage) => [.. BootStages.All.Select(s => s <= stage ? 1.0 : 0.0)];

    /// <summary>What each domain's stall shows as: itself, or now and then something else, but always the same.</summary>
    private static ImmutableArray<StallDomain> Indicators(Random random, double fidelity)
    {
        var domains = Enum.GetValues<StallDomain>();
        return [.. domains.Select(d => random.NextDouble() < fidelity ? d : domains[random.Next(domains.Length)])];
    }

    /// <summary>What a board of one of the tables beeps for each domain; empty where its table has nothing for it.</summary>
    private static ImmutableArray<string> BeepsOfABoard(SignalLibrary library, Random random)
    {
        SignalTable[] tables = [.. library.Tables.Where(t => t.Kind == SignalKind.Beeps)];
        var rows = tables[random.Next(tables.Length)].Rows;
        return
        [
            .. Enum.GetValues<StallDomain>()
                .Select(domain => rows.Where(r => r.IsPointer && r.Points == domain).ToArray())
                .Select(said => said.Length == 0 ? "" : said[random.Next(said.Length)].Signal),
        ];
    }

    /// <summary>
    /// The atlas with its odds, bites and stops each multiplied by a random factor between 1 / most and most: a world
    /// whose numbers the reasoner does not know.
    /// </summary>
    public static Atlas Perturbed(Atlas atlas, double most, Random random)
    {
        if (most <= 1)
            return atlas;
        double Factor() => Math.Exp(((2 * random.NextDouble()) - 1) * Math.Log(most));
        return atlas with
        {
            Modes =
            [
                .. atlas.Modes.Select(m =>
                {
                    double[] stops = [.. m.Stops.Select(s => s * Factor())];
                    var through = (1 - m.Stops.Sum()) * Factor();
                    var total = stops.Sum() + Math.Max(0, through);
                    return m with
                    {
                        Odds = Math.Min(5, m.Odds * Factor()),
                        Bites = [.. m.Bites.Select(b => b with { With = b.With >= 0.999 ? 1 : Math.Clamp(b.With * Factor(), 0, 1) })],
                        Stops = [.. stops.Select(s => s / total)],
                    };
                }),
            ],
        };
    }

    private static int Draw(ImmutableArray<double> chances, Random random)
    {
        var left = random.NextDouble();
        for (var i = 0; i < chances.Length; i++)
        {
            left -= chances[i];
            if (left < 0)
                return i;
        }

        return -1;
    }
}
