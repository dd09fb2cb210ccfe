using System.Collections.Immutable;
using System.Globalization;
using System.Numerics;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>What a job comes to: sums that add up to the last decimal, and one reading of work and parts for every paper.</summary>
public class BillingTests
{
    private static readonly Currency Euro = Currency.Find("EUR")!;

    private static Bill BillOf(Currency currency, bool withTax, params (decimal Quantity, decimal Price, decimal Tax)[] lines) =>
        new(currency, withTax, [.. lines.Select((l, i) => new BillLine($"Line {i + 1}", l.Quantity, "pc", l.Price, l.Tax))]);

    [Fact]
    public void Tax_is_reckoned_on_the_sum_of_a_rate_and_not_line_by_line()
    {
        // Worked by hand: three lines of 0.33 at 19 % are 0.99 and 0.1881; line by line the tax would be 0.06 three times, 0.18.
        var bill = BillOf(Euro, false, (1, 0.33m, 19), (1, 0.33m, 19), (1, 0.33m, 19));
        Assert.Equal((0.99m, 0.19m, 1.18m), (bill.Net, bill.Tax, bill.Total));
        // Prices with tax: 119.00 are 100.00 and 19.00, and nothing is added.
        var with = BillOf(Euro, true, (1, 119, 19), (2.5m, 42.80m, 7));
        Assert.Equal(226m, with.Total);
        Assert.Equal([(19, 100m, 19m), (7, 100m, 7m)], with.Taxes.Select(t => (t.Rate, t.Net, t.Tax)));
        // A half goes away from nought, as on a till: 0.125 h at 20.20 is 2.525.
        Assert.Equal(2.53m, BillOf(Euro, false, (0.125m, 20.20m, 0)).Total);
        // Without decimals nothing of a decimal is left.
        Assert.Equal(1_081m, BillOf(Currency.Find("JPY")!, false, (1, 982.6m, 10)).Total);
    }

    [Fact]
    public void Ten_thousand_random_bills_add_up_to_the_last_decimal()
    {
        var random = new Random(25);
        for (var n = 0; n < 10_000; n++)
        {
            var currency = Currency.All[random.Next(Currency.All.Count)];
            var withTax = random.Next(2) == 0;
            decimal[] rates = [0, 5.5m, 7, 19, 25];
            var lines = Enumerable
                .Range(0, random.Next(1, 12))
                .Select(_ => (random.Next(1, 4000) / 100m, random.Next(0, 99_999) / 1000m, rates[random.Next(rates.Length)]))
                .ToArray();
            var bill = BillOf(currency, withTax, lines);
            var unit = (decimal)Math.Pow(10, currency.Digits);
            foreach (
                var amount in bill
                    .Amounts.Concat([bill.Net, bill.Tax, bill.Total])
                    .Concat(bill.Taxes.SelectMany(t => new[] { t.Net, t.Tax }))
            )
                Assert.Equal(decimal.Truncate(amount * unit), amount * unit);
            Assert.Equal(bill.Total, bill.Net + bill.Tax);
            Assert.Equal(withTax ? bill.Total : bill.Net, bill.Amounts.Sum());
            Assert.Equal(bill.Taxes.Length, bill.Taxes.Select(t => t.Rate).Distinct().Count());
            // The tax of each rate again, in whole numbers of thousandths of the smallest coin: another way to the same cent.
            foreach (var tax in bill.Taxes)
            {
                var sum = (BigInteger)(lines.Zip(bill.Amounts).Where(l => l.First.Item3 == tax.Rate).Sum(l => l.Second) * unit);
                var tenths = (BigInteger)(tax.Rate * 10);
                var (over, under) = withTax ? (sum * tenths, 1000 + tenths) : (sum * tenths, 1000);
                var rounded = ((2 * over) + under) / (2 * under);
                Assert.Equal(rounded, (BigInteger)(tax.Tax * unit));
            }

            Assert.Equal(bill.Total, BillFormat.Read(BillFormat.Write(bill)).Total);
        }
    }

    [Fact]
    public void A_line_or_a_bill_that_makes_no_sense_is_not_made()
    {
        BillLine Line(string what = "Work", decimal quantity = 1, decimal price = 1, decimal tax = 0) =>
            new(what, quantity, "h", price, tax);
        Assert.Throws<ArgumentException>(() => Line(what: " "));
        Assert.Throws<ArgumentException>(() => Line(quantity: 0));
        Assert.Throws<ArgumentException>(() => Line(quantity: BillLine.Most + 0.01m));
        Assert.Throws<ArgumentException>(() => Line(price: -0.01m));
        Assert.Throws<ArgumentException>(() => Line(price: BillLine.Most + 0.01m));
        Assert.Throws<ArgumentException>(() => Line(tax: -1));
        Assert.Throws<ArgumentException>(() => Line(tax: 100.01m));
        Assert.Throws<ArgumentException>(() => new Bill(Euro, false, []));
        Assert.Throws<ArgumentException>(() => new Bill(Euro, false, [.. Enumerable.Repeat(Line(), Bill.MostLines + 1)]));
        foreach (
            var json in new[]
            {
                "",
                "[]",
                "{\"Currency\":\"XXX\",\"WithTax\":false,\"Lines\":[]}",
                "{\"Currency\":\"EUR\",\"WithTax\":false,\"Lines\":[]}",
            }
        )
            Assert.Throws<DataFileException>(() => BillFormat.Read(json));
    }

    [Fact]
    public void A_currency_has_three_letters_and_is_there_once()
    {
        Assert.Equal(Currency.All.Count, Currency.All.Select(c => c.Code).Distinct().Count());
        Assert.All(Currency.All, c => Assert.Matches("^[A-Z]{3}$", c.Code));
        Assert.All(Currency.All, c => Assert.InRange(c.Digits, 0, 3));
        Assert.Null(Currency.Find("eur"));
        Assert.Equal(("1.500 KWD", "2 JPY"), (Currency.Find("KWD")!.Words(1.5m), Currency.Find("JPY")!.Words(1.5m)));
    }

    private static BenchJob Sold() =>
        Office(extension: false)
            .Shelf(Plain("s-supply", UnitKind.Supply, Origin.Shelf), Stick("new-stick", Origin.New))
            .Trial("4")
            .Trial("6", Swap("supply", "s-supply"))
            .Trial("6", Swap("stick-1", "new-stick"))
            .Job;

    [Fact]
    public void What_the_books_sum_up_by_column_is_what_was_invoiced()
    {
        var random = new Random(7);
        var day = new DateOnly(2026, 11, 30);
        var entries = Enumerable
            .Range(1, 200)
            .Select(n =>
            {
                var lines = Enumerable
                    .Range(0, random.Next(1, 6))
                    .Select(_ => new BillLine("=x", random.Next(1, 4), "pc", random.Next(0, 20_000) / 100m, random.Next(3) * 7.7m));
                var bill = new Bill(Currency.Find("EUR")!, random.Next(2) == 0, [.. lines]);
                return new BookEntry($"R-{n:00000}", day, 1000 + n, n % 5 == 0 ? "R-00001" : "", bill);
            })
            .ToArray();
        var rows = Books.Csv(entries).Split('\n', StringSplitOptions.RemoveEmptyEntries).Skip(1).Select(r => r.Split(',')).ToArray();
        decimal Sum(int column) => rows.Sum(r => decimal.Parse(r[column], CultureInfo.InvariantCulture));
        Assert.Equal(entries.Sum(e => e.Total), Sum(8));
        Assert.Equal(Sum(6) + Sum(7), Sum(8));
        Assert.Equal(entries.Sum(e => e.Bill.Taxes.Length), rows.Length);
        Assert.Equal("R-00005,2026-11-30,1005,R-00001,EUR", string.Join(',', rows.First(r => r[0] == "R-00005").Take(5)));
        Assert.True(entries[4].Total <= 0);
    }

    private static Bill? BillOf(BenchJob job, double minutes, BillingTerms terms) =>
        JobBill.Of(job, [new UnitId("supply"), new UnitId("stick-1")], minutes, 60, _ => 35, terms);

    [Fact]
    public void A_job_is_charged_by_the_quarter_of_an_hour_and_by_what_stays_in_the_machine()
    {
        var job = Sold();
        var bill = BillOf(job, 61, BillingTerms.Usual)!;
        Assert.Equal(
            [("Work", 1.25m, 60m), ("the s-supply", 1m, 35m), ("Quillon new-stick", 1m, 35m)],
            bill.Lines.Select(l => (l.What, l.Quantity, l.Price))
        );
        Assert.Equal(145, bill.Total);
        // A spare that was borrowed to try is not charged.
        Assert.Equal(["Work"], JobBill.Of(job, [], 61, 60, _ => 35, BillingTerms.Usual)!.Lines.Select(l => l.What));
        // What was said at closing is what is charged; what is lent is not.
        var said = job.Append(new SettledEntry(Guid.NewGuid(), new UnitId("new-stick"), Fate.Sold, 29.90m, ""))
            .Append(new SettledEntry(Guid.NewGuid(), new UnitId("s-supply"), Fate.Lent, null, ""));
        Assert.Equal(
            [("Work", 60m), ("Quillon new-stick", 29.90m)],
            BillOf(said, 60, BillingTerms.Usual)!.Lines.Select(l => (l.What, l.Price))
        );
    }

    [Fact]
    public void Work_may_be_flat_and_finding_out_may_have_a_price_of_its_own()
    {
        var terms = new BillingTerms
        {
            Labour = Labour.Flat,
            FlatPrice = 80,
            DiagnosisFee = 25,
            Tax = 20,
        };
        var bill = BillOf(Office().Trial("4").Job, 200, terms)!;
        Assert.Equal([("Finding out what it is", 25m), ("Work", 80m)], bill.Lines.Select(l => (l.What, l.Price)));
        Assert.Equal((105, 21, 126), (bill.Net, bill.Tax, bill.Total));
        Assert.Null(BillOf(Office().Job, 0, BillingTerms.Usual));
    }

    [Fact]
    public void Terms_are_read_back_and_refuse_what_no_bill_could_be_written_with()
    {
        var terms = new BillingTerms
        {
            CurrencyCode = "CHF",
            Tax = 8.1m,
            WithTax = true,
            Address = "Quay 3\n1234 Harrowmere",
            Prefix = "R-",
        };
        Assert.Equal(terms, BillingTerms.Read(terms.Write()));
        Assert.Equal(BillingTerms.Usual, BillingTerms.Read(""));
        Assert.Throws<ArgumentException>(() => new BillingTerms { CurrencyCode = "XYZ" });
        Assert.Throws<ArgumentException>(() => new BillingTerms { Tax = 101 });
        Assert.Throws<ArgumentException>(() => new BillingTerms { FlatPrice = -1 });
        Assert.Throws<DataFileException>(() => BillingTerms.Read("{\"Tax\":-3}"));
        Assert.NotNull((terms with { Address = new string('x', 401) }).WhyNot());
        Assert.NotNull((terms with { TaxName = "" }).WhyNot());
        Assert.Null(terms.WhyNot());
    }
}
