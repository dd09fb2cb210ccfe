using System.Globalization;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>What was paid. Receipts are numbered without a gap, in the transaction that keeps them.</summary>
public sealed class Payments(KelvetDb db, TimeProvider clock)
{
    /// <summary>The payments of a job, the oldest first.</summary>
    public async Task<IReadOnlyList<PaymentRow>> OfAsync(int job, CancellationToken cancel = default) =>
        await db.Payments.AsNoTracking().Where(p => p.JobNumber == job).OrderBy(p => p.Number).ToListAsync(cancel);

    /// <summary>All of a time, the oldest first.</summary>
    public async Task<IReadOnlyList<PaymentRow>> SinceAsync(DateTime fromUtc, CancellationToken cancel = default) =>
        await db.Payments.AsNoTracking().Where(p => p.AtUtc >= fromUtc).OrderBy(p => p.Number).ToListAsync(cancel);

    /// <summary>Keeps a payment.</summary>
    /// <param name="job">The job.</param>
    /// <param name="payment">The payment.</param>
    /// <param name="terms">How the shop writes its bills now: kept with it.</param>
    /// <param name="by">Who took it.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="EntryRefusedException">Nobody says who took it, or more is paid back than was paid.</exception>
    public async Task<PaymentRow> TakeAsync(int job, Payment payment, BillingTerms terms, string by, CancellationToken cancel = default)
    {
        if (by.Length == 0)
            throw new EntryRefusedException("Say who you are first, above: a receipt says who took the money.");
        await using var writing = await db.WriteAsync(cancel);
        if (payment.WhyNot([.. (await OfAsync(job, cancel)).Select(p => p.Read())]) is { } why)
            throw new EntryRefusedException(why);
        var row = new PaymentRow
        {
            Number = (await db.Payments.MaxAsync(p => (int?)p.Number, cancel) ?? 0) + 1,
            JobNumber = job,
            Kind = payment.Kind,
            Amount = terms.Currency.Round(payment.Amount).ToString(CultureInfo.InvariantCulture),
            How = payment.How,
            By = by,
            AtUtc = clock.GetUtcNow().UtcDateTime,
            TermsJson = terms.Write(),
        };
        db.Payments.Add(row);
        await db.SaveChangesAsync(cancel);
        await writing.CommitAsync(cancel);
        return row;
    }
}
