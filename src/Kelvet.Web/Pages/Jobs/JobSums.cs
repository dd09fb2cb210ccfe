using Kelvet.Core.Billing;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Stock;
using Kelvet.Data;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What a job comes to and what was paid of it: every paper and page with a sum asks here.</summary>
public sealed class JobSums(Shop shop, Offers offers, Orders orders, Invoices invoices, Payments payments)
{
    /// <summary>What a job comes to.</summary>
    /// <param name="Bill">What is or would be invoiced; null where nothing is charged.</param>
    /// <param name="Terms">How the shop writes its bills, or wrote them when it was issued.</param>
    /// <param name="Issued">The invoice that holds; null while none does.</param>
    /// <param name="Paid">What was paid so far.</param>
    public sealed record Sum(Bill? Bill, BillingTerms Terms, InvoiceRow? Issued, decimal Paid)
    {
        /// <summary>What is still to be paid; below zero where too much was.</summary>
        public decimal Due => (Bill?.Total ?? 0) - Paid;
    }

    /// <summary>The sums of a job: as invoiced, else by the bench's times and the shop's prices so far.</summary>
    public async Task<Sum> OfAsync(JobPageModel page, CancellationToken cancel = default)
    {
        var paid = Payment.PaidOf((await payments.OfAsync(page.Number, cancel)).Select(p => p.Read()));
        if (Invoices.Holding(await invoices.OfAsync(page.Number, cancel)) is { } issued)
            return new Sum(BillFormat.Read(issued.BillJson), BillingTerms.Read(issued.TermsJson), issued, paid);
        var terms = await shop.TermsAsync();
        return new Sum(await BillAsync(page, terms, cancel), terms, null, paid);
    }

    /// <summary>What a job comes to by the shop's prices; null where nothing is charged.</summary>
    public async Task<Bill?> BillAsync(JobPageModel page, BillingTerms terms, CancellationToken cancel = default)
    {
        if (DropOff.Of(page.Job.Row) is { Bought: not null } own)
            return own.Asking is { } asked
                ? new Bill(terms.Currency, terms.WithTax, [new BillLine(page.Job.Bench.Intake.Title, 1, "pc", asked, terms.Tax)])
                : null;
        var ordered = await orders.OfJobAsync(page.Number, cancel);
        var agreed = Offers.Holding(await offers.OfAsync(page.Number, cancel));
        var besides = ordered
            .Where(o => o.Row is { Kind: OrderKind.Repair, State: OrderState.Returned, Charged: > 0 })
            .Select(o => new Besides($"{o.Unit.Name}: looked at by {o.Row.Supplier}, not mended", o.Row.CameTo!.Value))
            .Concat((agreed?.Extras ?? []).Select(e => new Besides(e.What, e.To)));
        return JobBill.Of(
            page.Job.Bench,
            page.Found,
            Effort.Minutes(page.Job.Bench, page.Rules.Atlas),
            (decimal)page.Rules.Preferences.HourlyRate,
            PriceIn(ordered, page),
            terms,
            besides
        );
    }

    /// <summary>For how much a part of a job is sold: what a specialist charged for it, else the shop's price of its kind.</summary>
    public async Task<Func<Unit, decimal>> PriceAsync(JobPageModel page, CancellationToken cancel = default) =>
        PriceIn(await orders.OfJobAsync(page.Number, cancel), page);

    /// <summary>Ids of the parts of a job that a specialist has mended.</summary>
    public async Task<IReadOnlySet<string>> MendedAsync(JobPageModel page, CancellationToken cancel = default) =>
        (await orders.OfJobAsync(page.Number, cancel))
            .Where(o => o.Row is { Kind: OrderKind.Repair, State: OrderState.Arrived })
            .Select(o => o.Row.Repairs)
            .ToHashSet(StringComparer.Ordinal);

    private static Func<Unit, decimal> PriceIn(IReadOnlyList<(OrderRow Row, Unit Unit)> ordered, JobPageModel page) =>
        unit =>
            ordered.FirstOrDefault(o => o.Unit.Id == unit.Id && o.Row.Kind == OrderKind.Repair).Row?.CameTo
            ?? page.Rules.Preferences.SellingPrice(unit);

    /// <summary>What a part that went into a machine has cost: what was paid for it, else the shop's price of its kind.</summary>
    public async Task<Func<Unit, decimal>> CostAsync(JobPageModel page, CancellationToken cancel = default)
    {
        var ordered = await orders.OfJobAsync(page.Number, cancel);
        return unit =>
            ordered.FirstOrDefault(o => o.Unit.Id == unit.Id).Row?.CameTo
            ?? (decimal)(
                unit.Origin == Origin.New ? page.Rules.Preferences.PriceOf(unit.Kind).New : page.Rules.Preferences.PriceOf(unit.Kind).Used
            );
    }
}
