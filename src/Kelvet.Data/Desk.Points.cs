using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Data;

/// <content>What is looked at and taken in: points of a visit, what does not fit together, corrections of the intake.</content>
public sealed partial class Desk
{
    /// <summary>Records what a point of the once-over showed, with what put it right: both lines, or neither.</summary>
    /// <param name="number">The job.</param>
    /// <param name="check">The look.</param>
    /// <param name="unit">The unit.</param>
    /// <param name="answer">What was said; not <see cref="PointAnswer.Open"/>.</param>
    /// <param name="what">Which of the things that the look tells apart; empty for any.</param>
    /// <param name="id">Id of the line, made by the sender.</param>
    /// <param name="with">Photo.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It cannot be put right in place, the unit is not there, or the job is closed.</exception>
    public Task<DeskAnswer> RecordPointAsync(
        int number,
        Check check,
        UnitId unit,
        PointAnswer answer,
        string what,
        Guid id,
        Attachments with,
        DeskRules rules,
        CancellationToken cancel = default
    ) =>
        RunAsync(
            "record point",
            number,
            async job =>
            {
                if (job.Bench.Has(id))
                    return new DeskAnswer(job, WasThere: true);
                if (!job.Bench.Now.Parts.Has(unit))
                    throw new EntryRefusedException($"There is no unit {unit} in this job.");
                var lines =
                    OnceOver.Lines(job.Bench, Atlas.Standard, check, unit, answer, what, id)
                    ?? throw new EntryRefusedException("That cannot be put right in place. Record it as a finding.");
                foreach (var line in lines)
                {
                    if (Refused(job, line, check.HandsIn, rules.Drain) is { } refused)
                        return new DeskAnswer(job, refused);
                }

                for (var i = 0; i < lines.Length; i++)
                    job = await AppendAsync(job, lines[i], rules, i == 0 ? with : Attachments.None, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    /// <summary>Takes what does not fit together as a finding, and puts it right where that takes no other part.</summary>
    /// <param name="number">The job.</param>
    /// <param name="kind">What does not fit.</param>
    /// <param name="id">Id of the line, made by the sender.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It fits by now, or the job is closed.</exception>
    public Task<DeskAnswer> TakeMisfitAsync(int number, Misfit kind, Guid id, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "take misfit",
            number,
            async job =>
            {
                if (job.Bench.Has(id))
                    return new DeskAnswer(job, WasThere: true);
                var found =
                    MisfitFound.In(job.Bench.Now).FirstOrDefault(m => m.Kind == kind)
                    ?? throw new EntryRefusedException("That fits by now: there is nothing to be taken as a finding.");
                var fix = found.Fix.Length > 0 ? new WorkEntry(Guid.NewGuid(), found.Fix) : null;
                if (fix is not null && Refused(job, fix, handsIn: false, rules.Drain) is { } refused)
                    return new DeskAnswer(job, refused);
                job = await AppendAsync(job, new MisfitEntry(id, kind, found.Unit), rules, Attachments.None, cancel);
                if (fix is not null)
                    job = await AppendAsync(job, fix, rules, Attachments.None, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    /// <summary>Corrects what was taken in; the job is found by what it then says.</summary>
    /// <inheritdoc cref="RecordStartAsync"/>
    public Task<DeskAnswer> AmendAsync(int number, AmendEntry amended, int? lines, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "amend intake",
            number,
            async job =>
            {
                if (job.Bench.Has(amended.Id))
                    return new DeskAnswer(job, WasThere: true);
                if (lines is { } seen && seen != job.Bench.Lines.Length)
                    throw new EntryRefusedException(
                        "Meanwhile a line was recorded from another bench. Look at the job and correct it again."
                    );
                if (Refused(job, amended, handsIn: false, rules.Drain) is { } refused)
                    return new DeskAnswer(job, refused);
                job = await AppendAsync(job, amended, rules, Attachments.None, cancel);
                var row = job.Row;
                row.Title = job.Bench.Intake.Title;
                row.Search = await customers.SearchAsync(row, job.Bench.Intake, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );
}
