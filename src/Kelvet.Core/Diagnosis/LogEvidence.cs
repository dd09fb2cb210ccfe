using System.Collections.Immutable;
using Kelvet.Core.Evidence;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Diagnosis;

/// <summary>A piece of evidence: a line of the log (or the customer's report) as numbers per fault.</summary>
/// <param name="Line">Number of the line; 0 for what the customer reported at intake.</param>
/// <param name="Position">Its place in the order of events; 0 for what the customer reported.</param>
/// <param name="Trial">The trial, when it is one.</param>
/// <param name="Testimony">The finding, claim or try elsewhere, when it is one.</param>
/// <param name="Column">The numbers.</param>
public sealed record EvidencePiece(int Line, int Position, Trial? Trial, Testimony? Testimony, EvidenceColumn Column);

/// <summary>Turns what a log tells into numbers: starts with their signs and symptoms, findings, claims, and what was reported.</summary>
internal static class LogEvidence
{
    /// <summary>Chance that a fault that shows itself so is seen to at a start. Bench judgement.</summary>
    private const double SymptomShows = 0.9;

    /// <summary>Chance of the same with nothing wrong.</summary>
    private const double SymptomLeak = 0.004;

    /// <summary>All evidence of a job in the order of events: the customer's report first, if there is one.</summary>
    public static ImmutableArray<EvidencePiece> Of(BenchJob job, Atlas atlas, FaultTable table, ImmutableArray<double[]> engaged)
    {
        var pieces = new List<EvidencePiece>();
        if (job.Intake.Reported is { } reported)
        {
            var received = Situation.AtIntake(job.Now.Parts, AtTheCustomers(job));
            var kind = job.Intake.Complaint.When;
            var acting = table.Engaged(table.ByRule(received, kind), kind);
            var said = AsOftenAsSaid(
                table,
                acting,
                Ceiling.Of(received),
                reported,
                job.Intake.ReportedTimes,
                job.Goal,
                atlas.ReportedSlip,
                AsTold(job.Intake.Complaint, atlas)
            );
            pieces.AddRange(said.Select(c => new EvidencePiece(0, 0, null, null, c)));
        }

        var looked = LooksForArtefacts(job);
        for (var i = 0; i < job.Trials.Length; i++)
        {
            var piece = PieceOf(job.Trials[i], table, engaged[i], atlas, job.Trials.Take(i));
            pieces.Add(piece);
            pieces.AddRange(
                SymptomsOf(job.Trials[i], table, engaged[i], looked, atlas, job.Trials.Take(i)).Select(c => piece with { Column = c })
            );
        }

        pieces.AddRange(job.Testimonies.SelectMany(t => PiecesOf(t, table, atlas, job.Goal)));
        return [.. pieces.OrderBy(p => p.Position)];
    }

    /// <summary>The machine as it stood at the customer's: on their own outlet, if that is among the units.</summary>
    public static Configuration AtTheCustomers(BenchJob job)
    {
        var outlet = job.Now.Parts.All.FirstOrDefault(u => u.Kind == UnitKind.Outlet && u.Origin == Origin.Customer);
        return outlet is null ? job.Intake.Received : job.Intake.Received.WithUnit(Place.Outlet, outlet.Id);
    }

    /// <summary>
    /// A start as evidence. What a fault stalls in is settled once for it, so that a light or code that stood at an earlier
    /// start and stands unchanged counts once.
    /// </summary>
    public static EvidencePiece PieceOf(Trial trial, FaultTable table, double[] byRule, Atlas atlas, IEnumerable<Trial> before)
    {
        var signal = SignalOf(trial, atlas);
        // While memory is trained a machine stands and shows its memory light, with nothing wrong.
        var waited = WasWaitedFor(trial, before);
        var news = signal is not null && waited && !before.Any(t => !t.Seen.ShowsPicture && signal.Equals(SignalOf(t, atlas)));
        var column = EvidenceColumn.OfTrial(
            table,
            table.Engaged(byRule, trial.Entry.Kind),
            waited ? trial.Ceiling : trial.Ceiling.WhileTraining(StillTraining),
            trial.Seen,
            atlas.Slip,
            news || (waited && atlas.Behaviour.SameEachTime == 0) ? signal : null,
            OfTheStop(trial, atlas, before)
        );
        return new EvidencePiece(trial.Number, trial.Position, trial, null, column);
    }

    /// <summary>The symptoms that any start was watched for.</summary>
    public static HashSet<Symptom> Noted(BenchJob job)
    {
        var noted = new HashSet<Symptom>();
        foreach (var trial in job.Trials)
        {
            if (trial.Entry.Signs.Artefacts is not null)
                noted.Add(Symptom.Artefacts);
            if (trial.TellsOfMemory)
                noted.Add(Symptom.MissingMemory);
        }

        return noted;
    }

    /// <summary>Whether a spoilt picture was seen, so that one that is not noted as spoilt was clean.</summary>
    public static bool LooksForArtefacts(BenchJob job) => job.Trials.Any(t => t.Entry.Signs.Artefacts is not null);

    /// <summary>
    /// What a start that came up says by its memory and its picture, each as a finding: there, or looked for and not there.
    /// </summary>
    public static IEnumerable<EvidenceColumn> SymptomsOf(
        Trial trial,
        FaultTable table,
        double[] byRule,
        bool looked,
        Atlas atlas,
        IEnumerable<Trial> before
    )
    {
        foreach (var sign in SignsOf(trial, atlas, before).Where(s => !s.OfTheStop))
            yield return EvidenceColumn.OfSign(table, table.Engaged(byRule, trial.Entry.Kind), sign);

        if (!trial.Seen.ShowsPicture)
            yield break;
        var engaged = table.Engaged(byRule, trial.Entry.Kind);
        if (trial.TellsOfMemory)
            yield return Of(Symptom.MissingMemory, trial.Defect == Symptom.MissingMemory);
        if (trial.Entry.Signs.Artefacts is not null)
            yield return Of(Symptom.Artefacts, true);
        else if (looked && trial.Passed)
            yield return Of(Symptom.Artefacts, false);

        EvidenceColumn Of(Symptom symptom, bool there) =>
            EvidenceColumn.OfFinding(
                [
                    .. table.Forms.Select(
                        (f, i) =>
                            f.Shows != symptom ? 0
                            : symptom == Symptom.MissingMemory && there
                                ? engaged[i] * SymptomShows * MissingMemory.Fits(table.Faults[f.Fault], trial)
                            : engaged[i] * SymptomShows
                    ),
                ],
                SymptomLeak,
                there ? 1 : 0,
                there ? 0 : 1
            );
    }

    /// <summary>Chance that a healthy machine that was not waited for still stands before the end of POST. Bench judgement.</summary>
    private const double StillTraining = 0.7;

    /// <summary>
    /// Whether a start was watched long enough. The first ones after memory, CPU or settings were changed train the memory
    /// anew: up to 15 minutes with DDR5, a minute otherwise (common practice). Where the wait was not noted it is taken to
    /// have been.
    /// </summary>
    private static bool WasWaitedFor(Trial trial, IEnumerable<Trial> before)
    {
        if (trial.Seen.ShowsPicture || trial.Entry.Signs.Waited is not { } waited)
            return true;
        var trains =
            !before.Any(t => t.Seen.ShowsPicture)
            || trial.Changes.Any(c =>
                c is Change.ClearCmos
                || (c.Subject is { } id && trial.Situation.Parts[id].Kind is UnitKind.MemoryStick or UnitKind.Cpu or UnitKind.Motherboard)
            );
        if (!trains || trial.Seen.Low < BootStage.RestartLoop)
            return true;
        return waited >= (trial.Situation.Board?.MemoryType == "DDR5" ? 300 : 45);
    }

    private static StallSignal? SignalOf(Trial trial, Atlas atlas) => SignalEvidence.Of(trial.Entry, trial.Situation.Board, atlas.Signals);

    /// <summary>
    /// What was noted of a start and has a meaning, each thing once: what stands as it stood at an earlier start of the same
    /// machine says no more.
    /// </summary>
    private static IEnumerable<SignMeaning> SignsOf(Trial trial, Atlas atlas, IEnumerable<Trial> before)
    {
        if (atlas.Signs.Count == 0)
            return [];
        var said = before.Where(t => t.Situation.IsSameAs(trial.Situation)).SelectMany(Names).ToHashSet();
        return Names(trial).Where(n => !said.Contains(n)).Select(n => atlas.Signs.GetValueOrDefault(n)).OfType<SignMeaning>();

        static IEnumerable<string> Names(Trial t) =>
            SignNames.Of(
                t.Entry.Signs,
                t.Situation.Board is { } board ? t.Situation.Sticks.Select(s => board.Slot(s.Place.Part)?.Channel).Distinct().Count() : null
            );
    }

    /// <summary>What was noted of how a start ended, where it did not get past what the complaint is about.</summary>
    private static SignMeaning[] OfTheStop(Trial trial, Atlas atlas, IEnumerable<Trial> before) =>
        trial.Failed ? [.. SignsOf(trial, atlas, before).Where(s => s.OfTheStop)] : [];

    /// <summary>How far what a customer tells of the end of a start is trusted, 0 to 1. Bench judgement.</summary>
    private const double ToldIsTrue = 0.7;

    /// <summary>What the customer tells of how it ends, each thing blunted by how far such a tale is trusted.</summary>
    private static SignMeaning[] AsTold(Complaint complaint, Atlas atlas) =>
        [
            .. SignNames
                .Of(complaint.AsSigns, null)
                .Select(n => atlas.Signs.GetValueOrDefault(n))
                .OfType<SignMeaning>()
                .Where(s => s.OfTheStop)
                .Select(s => s.Blunted(ToldIsTrue)),
        ];

    /// <summary>Starts that a customer tells of that count, of those that failed and of those that did not. Bench judgement.</summary>
    private const int MostToldOf = 2;

    /// <summary>
    /// What is told of starts that nobody at the bench saw, "k of n": some that ended so, and some that did not.
    /// </summary>
    private static IEnumerable<EvidenceColumn> AsOftenAsSaid(
        FaultTable table,
        double[] engaged,
        Ceiling ceiling,
        StageRange seen,
        Times? times,
        BootStage goal,
        double slip,
        IReadOnlyCollection<SignMeaning>? signs = null
    )
    {
        var (failed, passed) = times is { } said ? (said.Failed, said.Of - said.Failed) : (1, 0);
        var sometimes = passed > 0;
        for (var i = 0; i < Math.Min(failed, sometimes ? MostToldOf : 1); i++)
            yield return EvidenceColumn.OfTrial(table, engaged, ceiling, seen, slip, null, i == 0 ? signs : null);
        for (var i = 0; i < Math.Min(passed, MostToldOf); i++)
            yield return EvidenceColumn.OfTrial(table, engaged, ceiling, StageRange.AtLeast(goal), slip);
    }

    /// <summary>A finding, claim or try elsewhere as evidence; none where the atlas does not know the check.</summary>
    public static IEnumerable<EvidencePiece> PiecesOf(Testimony testimony, FaultTable table, Atlas atlas, BootStage goal)
    {
        var columns = testimony.Entry is ClaimEntry { Times: { } times } claim
            ? AsOftenAsSaid(
                table,
                table.Engaged(table.ByRule(testimony.Situation)),
                Ceiling.Of(testimony.Situation),
                claim.Seen,
                times,
                goal,
                EvidenceColumn.SlipOf(claim.Sure, atlas)
            )
            : new[] { EvidenceColumn.OfTestimony(table, testimony, atlas) }.OfType<EvidenceColumn>();
        return columns.Select(c => new EvidencePiece(testimony.Number, testimony.Position, null, testimony, c));
    }
}
