using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Billing;

/// <summary>Something that a job is charged for beside the bench: an extra that was agreed to, work that was done elsewhere.</summary>
/// <param name="What">What it is for.</param>
/// <param name="Price">What it comes to, by the terms with or without tax.</param>
public readonly record struct Besides(string What, decimal Price);

/// <summary>What a job comes to: the work, and the parts that stay in the machine. Every paper with a price is this one reading.</summary>
public static class JobBill
{
    /// <summary>The smallest part of an hour that is charged.</summary>
    private const decimal Quarter = 0.25m;

    /// <summary>Hours that are charged for some minutes: by the quarter that was begun.</summary>
    public static decimal Hours(double minutes) => Math.Min(Math.Ceiling((decimal)minutes / 60 / Quarter) * Quarter, BillLine.Most);

    /// <summary>The bill; null where there is nothing to charge.</summary>
    /// <param name="job">The job.</param>
    /// <param name="found">The parts that are found at fault: what stands in for one, and is not settled yet, is charged.</param>
    /// <param name="minutes">Minutes of work, by the bench's times.</param>
    /// <param name="hourly">Price of an hour.</param>
    /// <param name="price">Price of a part of which none was said yet.</param>
    /// <param name="terms">How the shop writes its bills.</param>
    /// <param name="besides">What is charged beside the bench and the parts.</param>
    public static Bill? Of(
        BenchJob job,
        IReadOnlyCollection<UnitId> found,
        double minutes,
        decimal hourly,
        Func<Unit, decimal> price,
        BillingTerms terms,
        IEnumerable<Besides>? besides = null
    )
    {
        var lines = new List<BillLine>();
        if (terms.DiagnosisFee > 0)
            lines.Add(new BillLine("Finding out what it is", 1, "pc", terms.DiagnosisFee, terms.Tax));
        var hours = Hours(minutes);
        if (terms.Labour == Labour.Flat)
            lines.Add(new BillLine("Work", 1, "pc", terms.FlatPrice, terms.Tax));
        else if (hours > 0)
            lines.Add(new BillLine("Work", hours, "h", hourly, terms.Tax));
        foreach (var part in Settling.Of(job))
        {
            if (part.Said is { Fate: Fate.Sold, Price: { } sold })
                lines.Add(new BillLine(part.Unit.Name, 1, "pc", sold, terms.Tax));
            else if (part.Said is null && FateRow.For(part.Stray).First().Fate == Fate.Sold && Settling.IsForGood(job, part, found))
                lines.Add(new BillLine(part.Unit.Name, 1, "pc", price(part.Unit), terms.Tax));
        }

        lines.AddRange((besides ?? []).Select(b => new BillLine(b.What, 1, "pc", b.Price, terms.Tax)));
        return lines.Count == 0 ? null : new Bill(terms.Currency, terms.WithTax, [.. lines.Take(Bill.MostLines)]);
    }
}
