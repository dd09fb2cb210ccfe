using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Billing;

/// <summary>What a job comes to: the work, and the parts that stay in the machine. Every paper with a price is this one reading.</summary>
public static class JobBill
{
    /// <summary>The smallest part of an hour that is charged.</summary>
    private const decimal Quarter = 0.25m;

    /// <summary>The bill; null where there is nothing to charge.</summary>
    /// <param name="job">The job.</param>
    /// <param name="found">The parts that are found at fault: what stands in for one, and is not settled yet, is charged.</param>
    /// <param name="minutes">Minutes of work, by the bench's times.</param>
    /// <param name="hourly">Price of an hour.</param>
    /// <param name="price">Price of a part of which none was said yet.</param>
    /// <param name="terms">How the shop writes its bills.</param>
    public static Bill? Of(
        BenchJob job,
        IReadOnlyCollection<UnitId> found,
        double minutes,
        decimal hourly,
        Func<Unit, decimal> price,
        BillingTerms terms
    )
    {
        var lines = new List<BillLine>();
        if (terms.DiagnosisFee > 0)
            lines.Add(new BillLine("Finding out what it is", 1, "pc", terms.DiagnosisFee, terms.Tax));
        var hours = Math.Ceiling((decimal)minutes / 60 / Quarter) * Quarter;
        if (terms.Labour == Labour.Flat)
            lines.Add(new BillLine("Work", 1, "pc", terms.FlatPrice, terms.Tax));
        else if (hours > 0)
            lines.Add(new BillLine("Work", Math.Min(hours, BillLine.Most), "h", hourly, terms.Tax));
        foreach (var part in Settling.Of(job))
        {
            if (part.Said is { Fate: Fate.Sold, Price: { } sold })
                lines.Add(new BillLine(part.Unit.Name, 1, "pc", sold, terms.Tax));
            else if (part.Said is null && FateRow.For(part.Stray).First().Fate == Fate.Sold && Settling.IsForGood(job, part, found))
                lines.Add(new BillLine(part.Unit.Name, 1, "pc", price(part.Unit), terms.Tax));
        }

        return lines.Count == 0 ? null : new Bill(terms.Currency, terms.WithTax, [.. lines.Take(Bill.MostLines)]);
    }
}
