using Kelvet.Core.Billing;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>Invoices and credit notes. Numbers run on without a gap: one is taken in the transaction that keeps what it stands on, and
/// nothing that has one is changed or removed.</summary>
public sealed class Invoices(KelvetDb db, TimeProvider clock)
{
    /// <summary>The invoices and credit notes of a job, the oldest first.</summary>
    public async Task<IReadOnlyList<InvoiceRow>> OfAsync(int job, CancellationToken cancel = default) =>
        await db.Invoices.AsNoTracking().Where(i => i.JobNumber == job).OrderBy(i => i.Number).ToListAsync(cancel);

    /// <summary>All of a time, for the books; the oldest first.</summary>
    /// <param name="fromUtc">From when on.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<IReadOnlyList<InvoiceRow>> SinceAsync(DateTime fromUtc, CancellationToken cancel = default) =>
        await db.Invoices.AsNoTracking().Where(i => i.IssuedUtc >= fromUtc).OrderBy(i => i.Number).ToListAsync(cancel);

    /// <summary>The invoice of a job that holds: the last that no credit note takes back; null where none does.</summary>
    public static InvoiceRow? Holding(IReadOnlyList<InvoiceRow> all) =>
        all.LastOrDefault(i => i.Credits is null && all.All(c => c.Credits != i.Number));

    /// <summary>Issues an invoice; where one holds already, it is that one.</summary>
    /// <param name="job">Number of the job.</param>
    /// <param name="bill">What it is for.</param>
    /// <param name="terms">How the shop writes its bills now: kept with it.</param>
    /// <param name="by">Who issues it.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<InvoiceRow> IssueAsync(int job, Bill bill, BillingTerms terms, string by, CancellationToken cancel = default)
    {
        await using var writing = await db.WriteAsync(cancel);
        if (Holding(await OfAsync(job, cancel)) is { } holds)
            return holds;
        return await KeepAsync(job, BillFormat.Write(bill), terms.Write(), by, null, writing, cancel);
    }

    /// <summary>Takes an invoice back by a credit note of the same amount; where one does already, it is that one.</summary>
    /// <returns>The credit note; null where the job has no such invoice.</returns>
    public async Task<InvoiceRow?> CreditAsync(int job, int number, string by, CancellationToken cancel = default)
    {
        await using var writing = await db.WriteAsync(cancel);
        var all = await OfAsync(job, cancel);
        if (all.FirstOrDefault(i => i.Number == number && i.Credits is null) is not { } invoice)
            return null;
        return all.FirstOrDefault(i => i.Credits == number)
            ?? await KeepAsync(job, invoice.BillJson, invoice.TermsJson, by, number, writing, cancel);
    }

    private async Task<InvoiceRow> KeepAsync(
        int job,
        string bill,
        string terms,
        string by,
        int? credits,
        KelvetDb.Writing writing,
        CancellationToken cancel
    )
    {
        var row = new InvoiceRow
        {
            Number = (await db.Invoices.MaxAsync(i => (int?)i.Number, cancel) ?? 0) + 1,
            JobNumber = job,
            IssuedUtc = clock.GetUtcNow().UtcDateTime,
            By = by,
            BillJson = bill,
            TermsJson = terms,
            Credits = credits,
        };
        db.Invoices.Add(row);
        await db.SaveChangesAsync(cancel);
        await writing.CommitAsync(cancel);
        return row;
    }
}
