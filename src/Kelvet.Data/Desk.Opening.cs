using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Kelvet.Data;

/// <summary>Whose machine a new job is about, as it was told at the counter.</summary>
/// <param name="Id">The customer who was picked; null for one who is found by what was told, or kept anew.</param>
/// <param name="Name">Name; empty where not told.</param>
/// <param name="Phone">Phone.</param>
/// <param name="Email">E-mail.</param>
/// <param name="Reach">How and when to reach them.</param>
public sealed record ToldCustomer(int? Id, string Name, string Phone = "", string Email = "", string Reach = "");

/// <summary>The machine of a new job as it is kept.</summary>
/// <param name="Id">The machine that was picked; null for one that is new here.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Serial">Serial number.</param>
/// <param name="Mark">The shop's or office's mark.</param>
public sealed record ToldMachine(int? Id, string Name, string Serial = "", string Mark = "");

/// <summary>What goes with a new job beside its intake.</summary>
public sealed record Opening
{
    /// <summary>Nothing: the customer is found, or kept, by the name in the intake.</summary>
    public static Opening Nothing { get; } = new();

    /// <summary>Whose machine it is; null to go by the name in the intake.</summary>
    public ToldCustomer? Customer { get; init; }

    /// <summary>The machine; null where it is not kept.</summary>
    public ToldMachine? Machine { get; init; }

    /// <summary>What was agreed and left.</summary>
    public DropOff DropOff { get; init; } = DropOff.Nothing;

    /// <summary>When it was promised; null where it was not.</summary>
    public DateTime? PromisedUtc { get; init; }

    /// <summary>Photos at drop-off, JPEG, at most <see cref="BenchState.MostPhotos"/>.</summary>
    public IReadOnlyList<byte[]> Photos { get; init; } = [];

    /// <summary>When it was opened, for what is told of the past; null for now.</summary>
    public DateTime? AtUtc { get; init; }
}

/// <content>Opening a job: customer, machine, intake, log and photos in one transaction.</content>
public sealed partial class Desk
{
    private const int FirstNumber = 1001;

    /// <summary>
    /// Opens a job, with its log when one comes along (an import): every line is stamped, capped and judged as one that is recorded
    /// at the bench. Customer, machine, intake, lines and photos are kept together, or none of them.
    /// </summary>
    /// <param name="job">Intake and log.</param>
    /// <param name="with">What goes with it.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>The job's number.</returns>
    /// <exception cref="DataFileException">The intake has a field that is too long to be kept.</exception>
    /// <exception cref="EntryRefusedException">A line powers what nobody may power, or cannot be worked out.</exception>
    public async Task<int> OpenAsync(BenchJob job, Opening with, DeskRules rules, CancellationToken cancel = default)
    {
        // Whose machine it is stands beside the intake, where it can be erased.
        var intake = JobFormat.Write(job.AsTakenIn with { Customer = "" });
        var readBack = BenchJob.Open(JobFormat.ReadIntake(intake) with { Customer = job.Intake.Customer });
        _ = JobFormat.ReadIntake(JobFormat.Write(job.AsTakenIn));
        var openedAt = with.AtUtc ?? Now();
        var lines = Taken(readBack, [.. job.Entries, .. PhotosLine(with, openedAt)], openedAt, rules);
        var row = new JobRow
        {
            Title = job.Intake.Title,
            Customer = job.Intake.Customer,
            IntakeJson = intake,
            StateCode = StateCodes.New(),
            DropOffJson = with.DropOff == DropOff.Nothing ? "" : with.DropOff.Write(),
            PromisedUtc = with.PromisedUtc,
            OpenedAtUtc = openedAt,
            OpenedBy = rules.By,
        };
        await JudgeAsync(new StoredJob(row, readBack.With(lines)), lines, cancel);

        await using var writing = await db.WriteAsync(cancel);
        db.ChangeTracker.Clear();
        row.CustomerId = with.Customer is { } told
            ? await customers.KeepAsync(told.Id, told.Name, told.Phone, told.Email, told.Reach, cancel)
            : await customers.NamedAsync(job.Intake.Customer, cancel);
        if (with.Machine is { } machine)
            row.MachineId = await customers.KeepMachineAsync(
                machine.Id,
                row.CustomerId,
                machine.Name,
                machine.Serial,
                machine.Mark,
                job.Intake,
                template: false,
                cancel
            );
        row.Number = (await db.Jobs.MaxAsync(j => (int?)j.Number, cancel) ?? FirstNumber - 1) + 1;
        row.Search = await customers.SearchAsync(row, job.Intake, cancel);
        row.Steps.AddRange(lines.Select((e, i) => JobStore.RowOf(e, i + 1)));
        db.Jobs.Add(row);
        await KeepRulesAsync(rules.Rules, cancel);
        await db.SaveChangesAsync(cancel);
        // What its log has of the shelf in its machine is in its machine.
        await FollowShelfAsync(new StoredJob(row, readBack.With(lines)), cancel);
        await db.SaveChangesAsync(cancel);
        foreach (var photo in with.Photos)
        {
            await AttachAsync(row.Id, lines[^1].Id, new Attachments(photo, []), cancel);
            await db.SaveChangesAsync(cancel);
        }

        db.Opened = row.Number;
        await writing.CommitAsync(cancel);
        news.Tell(row.Number);
        logger.LogInformation("Command {Command} on job {Job}: {Outcome}, line {Line}", "open", row.Number, "done", lines.Length);
        return row.Number;
    }

    /// <summary>Lines that come along, stamped; each is judged by the log before it, as it would have been at the bench.</summary>
    private static Entry[] Taken(BenchJob before, IReadOnlyList<Entry> lines, DateTime openedAt, DeskRules rules)
    {
        var stamped = new List<Entry>(lines.Count);
        foreach (var line in lines)
        {
            if (Safety.WhyNotRecorded(before, line) is { } block)
                throw new EntryRefusedException($"Line {stamped.Count + 1}: {new GateAnswer(GateRefusal.Blocked, block).Words()}")
                {
                    Line = stamped.Count + 1,
                };
            stamped.Add(
                line with
                {
                    By = line.By.Length > 0 ? line.By : rules.By,
                    At = line.At == default ? new DateTimeOffset(openedAt, TimeSpan.Zero) : line.At,
                    AtlasVersion = line.AtlasVersion.Length > 0 ? line.AtlasVersion : Atlas.Standard.Version,
                    Rules = line.Rules.Length > 0 ? line.Rules : rules.Rules.Id,
                }
            );
            before = before.Append(stamped[^1]);
        }

        return [.. stamped];
    }

    /// <summary>Photos at drop-off hang on a line of their own.</summary>
    private static IEnumerable<Entry> PhotosLine(Opening with, DateTime openedAt) =>
        with.Photos.Count == 0
            ? []
            : [new NoteEntry(Guid.NewGuid()) { Note = "Photos at drop-off.", At = new DateTimeOffset(openedAt, TimeSpan.Zero) }];
}
