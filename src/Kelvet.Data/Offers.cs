using System.Globalization;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>Estimates that were given, and what owners answered.</summary>
public sealed class Offers(KelvetDb db, Desk desk, TimeProvider clock)
{
    /// <summary>The estimates of a job, the oldest first.</summary>
    public async Task<IReadOnlyList<OfferRow>> OfAsync(int job, CancellationToken cancel = default) =>
        await db.Offers.AsNoTracking().Where(o => o.JobNumber == job).OrderBy(o => o.Id).ToListAsync(cancel);

    /// <summary>The last answer of a job; null where none was given.</summary>
    public static Leave? Holding(IEnumerable<OfferRow> all) => all.LastOrDefault(o => o.How is not null)?.Leave();

    /// <summary>Keeps an estimate as it is given to the owner. The job waits for them from now on.</summary>
    /// <exception cref="EntryRefusedException">The job is closed, or nobody says who gives it.</exception>
    public async Task<OfferRow> GiveAsync(int job, Offer offer, string by, CancellationToken cancel = default)
    {
        if (by.Length == 0)
            throw new EntryRefusedException("Say who you are first, above: an estimate says who gave it.");
        var row = new OfferRow
        {
            JobNumber = job,
            OfferJson = OfferFormat.Write(offer),
            By = by,
            AtUtc = clock.GetUtcNow().UtcDateTime,
            AnswerId = Guid.NewGuid(),
        };
        await using (var writing = await db.WriteAsync(cancel))
        {
            if (!await db.Jobs.AnyAsync(j => j.Number == job && j.ClosedAtUtc == null, cancel))
                throw new EntryRefusedException($"Job {job} is closed. Reopen it to ask for leave.");
            db.Offers.Add(row);
            await db.SaveChangesAsync(cancel);
            await writing.CommitAsync(cancel);
        }

        var due = offer.Until.ToDateTime(new TimeOnly(12, 0), DateTimeKind.Utc);
        _ = await desk.WaitAsync(job, JobWait.Customer, "the answer to the estimate", "", due, cancel: cancel);
        return row;
    }

    /// <summary>
    /// Keeps the owner's answer: it goes into the log, what it may come to is from now on what was agreed, and the job goes on. Sent twice
    /// it is one answer.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="id">The estimate.</param>
    /// <param name="accepted">Indexes of the lines that they agree to; none for no.</param>
    /// <param name="who">Who answered.</param>
    /// <param name="how">How.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="EntryRefusedException">There is no such estimate, it holds no more, or it was answered otherwise.</exception>
    /// <exception cref="ArgumentException">Something of the answer is missing.</exception>
    public async Task<Leave> AnswerAsync(
        int job,
        int id,
        IEnumerable<int> accepted,
        string who,
        LeaveHow how,
        DeskRules rules,
        CancellationToken cancel = default
    )
    {
        var given =
            await db.Offers.AsNoTracking().FirstOrDefaultAsync(o => o.Id == id && o.JobNumber == job, cancel)
            ?? throw new EntryRefusedException("There is no such estimate of this job. Choose one from the list.");
        if (given.Leave() is { } before)
            return before;
        var offer = given.Read();
        var leave = new Leave(offer, accepted, who, how);
        var now = clock.GetUtcNow();
        // The last day is whole wherever the shop is.
        if (now.UtcDateTime > offer.Until.ToDateTime(TimeOnly.MaxValue).AddHours(14))
            throw new EntryRefusedException($"It held until {offer.Until:yyyy-MM-dd}. Give it anew, as things stand now.");
        // The log tells of it before the estimate says so: a kill between them leaves one that is answered again, by the same line.
        _ = await desk.RecordWordsAsync(
            job,
            new NoteEntry(given.AnswerId) { Note = Cut(leave.Words()) },
            null,
            Attachments.None,
            rules,
            cancel
        );
        await using (var writing = await db.WriteAsync(cancel))
        {
            db.ChangeTracker.Clear();
            var row = await db.Offers.FirstAsync(o => o.Id == id, cancel);
            if (row.Leave() is { } meanwhile)
                return meanwhile;
            (row.AnsweredUtc, row.Who, row.How, row.TakenBy) = (now.UtcDateTime, leave.Who, how, rules.By);
            row.Accepted = string.Join(' ', leave.Accepted.Select(i => i.ToString(CultureInfo.InvariantCulture)));
            await db.SaveChangesAsync(cancel);
            await writing.CommitAsync(cancel);
        }

        _ = await desk.AnsweredAsync(job, leave.GoesOn ? leave.Limit : null, cancel);
        return leave;
    }

    private static string Cut(string words) => words.Length <= Entry.LongestNote ? words : words[..Entry.LongestNote];
}
