using System.Collections.Immutable;
using Kelvet.Core.Billing;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using static Kelvet.Core.Tests.Bench;

namespace Kelvet.Core.Tests;

/// <summary>Estimates that are accepted line by line, payments, and the shop's own machines.</summary>
public class MoneyTests
{
    private static readonly BillingTerms Taxed = new() { Tax = 19, TaxName = "VAT" };
    private static readonly DateOnly Until = new(2026, 12, 24);

    private static Offer Given(BillingTerms terms, decimal deposit = 0) =>
        new(
            terms,
            "It points to the power supply.",
            "We replace the power supply.",
            [
                new("Work", 30, 60, "20 to 60 min still to come", false),
                new("Power supply, new", 70, 70, "", false),
                new("Cleaning inside", 25, 25, "There is dust in it.", true),
            ],
            Until,
            deposit
        );

    [Fact]
    public void An_estimate_is_a_range_with_its_tax_and_what_is_left_out_is_not_in_the_limit()
    {
        var offer = Given(Taxed);
        // By hand: 125 and 155 net, 19 % of them 23.75 and 29.45.
        Assert.Equal((148.75m, 184.45m), (offer.Least.Total, offer.Most.Total));
        Assert.Equal("148.75 to 184.45", offer.Between(offer.Least.Total, offer.Most.Total));
        Assert.Equal("70.00", offer.Between(70, 70));
        var without = new Leave(offer, [1, 0, 0], " Odo ", LeaveHow.ByPhone);
        Assert.Equal("0 1", string.Join(" ", without.Accepted));
        Assert.Equal((154.70m, "Odo", true), (without.Limit, without.Who, without.GoesOn));
        Assert.Empty(without.Extras);
        Assert.Equal(
            "Leave by the owner, by phone: Work; Power supply, new. At most 154.70 EUR. Left out: Cleaning inside.",
            without.Words()
        );
        // Who it was stands beside the log and not in it.
        Assert.DoesNotContain("Odo", without.Words(), StringComparison.Ordinal);
        var no = new Leave(offer, [], "Odo", LeaveHow.OnPaper);
        Assert.Equal((0m, false), (no.Limit, no.GoesOn));
        Assert.Contains("give it back", no.Words(), StringComparison.Ordinal);
        // An extra alone does not let the repair go on.
        Assert.False(new Leave(offer, [2], "Odo", LeaveHow.OnPaper).GoesOn);
    }

    [Fact]
    public void What_cannot_be_in_an_estimate_is_refused_by_name()
    {
        Refused("least", () => new OfferLine("x", 5, 4, "", false));
        Refused("0 to 100,000", () => new OfferLine("x", -1, 4, "", false));
        Refused("1 to 160", () => new OfferLine(" ", 1, 4, "", false));
        Refused("200 characters", () => new OfferLine("x", 1, 4, new string('x', 201), false));
        Refused("184.45 EUR, the whole", () => Given(Taxed, 184.46m));
        Refused("A deposit", () => Given(Taxed, -1));
        Assert.Equal(184.45m, Given(Taxed, 184.45m).Deposit);
        Refused("not in this estimate", () => new Leave(Given(Taxed), [3], "Odo", LeaveHow.ByPhone));
        Refused("not in this estimate", () => new Leave(Given(Taxed), [-1], "Odo", LeaveHow.ByPhone));
        Refused("Say who answered", () => new Leave(Given(Taxed), [0], " ", LeaveHow.ByPhone));
        Refused("lines", () => new Offer(Taxed, "", "", [], Until, 0));
        Refused("two capital letters", () => new BillingTerms { Country = "d1" });
        Refused("1 to 365 days", () => new BillingTerms { OfferDays = 0 });
        Refused(
            "A price is",
            () => new BillingTerms { ExtraPrices = ImmutableSortedDictionary<string, decimal>.Empty.Add("cleaning", -1) }
        );

        static void Refused(string words, Func<object> make) =>
            Assert.Contains(words, Assert.Throws<ArgumentException>(make).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void An_estimate_is_read_back_as_it_was_given_and_damage_is_told()
    {
        foreach (var terms in new[] { BillingTerms.Usual, Taxed, Taxed with { WithTax = true, CurrencyCode = "JPY" } })
        {
            var offer = Given(terms, 20);
            var text = OfferFormat.Write(offer);
            var read = OfferFormat.Read(text);
            Assert.Equal(text, OfferFormat.Write(read));
            Assert.Equal((offer.Least.Total, offer.Most.Total, 20), (read.Least.Total, read.Most.Total, read.Deposit));
        }

        var damaged = OfferFormat.Write(Given(Taxed)).Replace("\"From\":30", "\"From\":300", StringComparison.Ordinal);
        Assert.Contains(
            "cannot be read",
            Assert.Throws<DataFileException>(() => OfferFormat.Read(damaged)).Message,
            StringComparison.Ordinal
        );
        Assert.Throws<DataFileException>(() => OfferFormat.Read("null"));
    }

    [Fact]
    public void A_message_for_leave_says_the_range_what_may_be_left_out_and_until_when_it_holds()
    {
        var words = Given(Taxed, 50).Asked();
        Assert.Contains("148.75 to 184.45 EUR", words, StringComparison.Ordinal);
        Assert.Contains("may be left out: Cleaning inside.", words, StringComparison.Ordinal);
        Assert.Contains("50.00 EUR beforehand", words, StringComparison.Ordinal);
        Assert.Contains("until 2026-12-24", words, StringComparison.Ordinal);
    }

    [Fact]
    public void More_is_never_paid_back_than_was_paid()
    {
        Payment[] paid = [new(PaymentKind.Deposit, 50, "cash"), new(PaymentKind.Payment, 30.5m, "card")];
        Assert.Equal(80.5m, Payment.PaidOf(paid));
        Assert.Null(new Payment(PaymentKind.PaidBack, 80.5m, "cash").WhyNot(paid));
        Assert.NotNull(new Payment(PaymentKind.PaidBack, 80.51m, "cash").WhyNot(paid));
        Assert.Null(new Payment(PaymentKind.Payment, 1000, "cash").WhyNot(paid));
        Assert.Equal(0, Payment.PaidOf([.. paid, new(PaymentKind.PaidBack, 80.5m, "cash")]));
        Assert.Throws<ArgumentException>(() => new Payment(PaymentKind.Payment, 0, "cash"));
        Assert.Throws<ArgumentException>(() => new Payment(PaymentKind.Payment, 1, " "));
    }

    [Fact]
    public void What_lines_of_a_file_come_to_without_tax_adds_up_to_the_bill()
    {
        var random = new Random(26);
        for (var n = 0; n < 10_000; n++)
        {
            decimal[] rates = [0, 5.5m, 7, 19, 25];
            var bill = new Bill(
                Currency.All[random.Next(Currency.All.Count)],
                random.Next(2) == 0,
                [
                    .. Enumerable
                        .Range(0, random.Next(1, 12))
                        .Select(_ => new BillLine(
                            "x",
                            random.Next(1, 400) / 4m,
                            "pc",
                            random.Next(0, 99_999) / 100m,
                            rates[random.Next(5)]
                        )),
                ]
            );
            var nets = CrossIndustryInvoice.Nets(bill);
            // EN 16931-1:2017, BR-CO-10: the sum of the lines is what their sum is said to be; the same rate by rate (BR-S-08).
            Assert.Equal(bill.Net, nets.Sum());
            foreach (var tax in bill.Taxes)
                Assert.Equal(tax.Net, nets.Where((_, i) => bill.Lines[i].Tax == tax.Rate).Sum());
            Assert.All(nets, net => Assert.Equal(bill.Currency.Round(net), net));
        }
    }

    [Fact]
    public void A_bill_takes_in_what_was_agreed_to_beside_the_repair()
    {
        var job = Office().Trial("4").Job;
        var terms = BillingTerms.Usual with { Tax = 10 };
        var plain = JobBill.Of(job, [], 40, 60, _ => 0, terms)!;
        var more = JobBill.Of(job, [], 40, 60, _ => 0, terms, [new("Cleaning inside", 25)])!;
        Assert.Equal(plain.Net + 25, more.Net);
        Assert.Equal((0.75m, 45m), (JobBill.Hours(40), plain.Net));
        Assert.Equal("Cleaning inside", JobBill.Of(job, [], 0, 60, _ => 0, terms, [new("Cleaning inside", 25)])!.Lines.Single().What);
    }

    [Fact]
    public void Extras_are_offered_where_the_job_gives_a_reason_and_never_by_a_guess()
    {
        static string[] Of(BenchJob job) => [.. Extra.For(job).Select(e => e.Id)];
        var office = Office().Job;
        Assert.DoesNotContain("cooler", Of(office));
        Assert.DoesNotContain("cleaning", Of(office));
        var hot = BenchJob.Open(office.Intake with { Contexts = ["heat", "power-event"] });
        Assert.Equal(["cleaning", "surge-strip"], Of(hot).Intersect(["cleaning", "surge-strip"]));
        Assert.All(Extra.For(hot), e => Assert.NotEmpty(e.Why));
        // A cooler that carries less than the CPU gives.
        var parts = Parts.Of(
            office.Intake.Parts.All.Select(u =>
                u.Kind switch
                {
                    UnitKind.Cpu => u with { Watts = 125 },
                    UnitKind.Cooler => u with { Watts = 65 },
                    _ => u,
                }
            )
        );
        Assert.Contains("cooler", Of(BenchJob.Open(office.Intake with { Parts = parts })));
        // Prices are the shop's, else the usual.
        var terms = BillingTerms.Usual with
        {
            ExtraPrices = ImmutableSortedDictionary<string, decimal>.Empty.Add("cleaning", 31),
        };
        Assert.Equal([31m], Extra.Known.Where(e => e.Id == "cleaning").Select(terms.PriceOf));
        Assert.All(Extra.Known.Where(e => e.Id != "cleaning"), e => Assert.Equal(e.Usual, terms.PriceOf(e)));
        Assert.Equal(terms.ExtraPrices, BillingTerms.Read(terms.Write()).ExtraPrices);
    }

    [Fact]
    public void A_machine_of_the_shops_own_is_sold_whole_or_parted_out_by_what_that_leaves()
    {
        var job = Office().Trial("4").Job;
        var preferences = Preferences.Usual with { HourlyRate = 60 };
        var board = job.Now.Board!.Id;
        Resale At(decimal? asking, params UnitId[] found) => Resale.Of(job, found, 40, asking, 30, _ => 0, Atlas.Standard, preferences);
        var sold = At(500);
        Assert.Equal(40 + sold.Work, sold.Cost);
        Assert.Equal(500 - sold.Cost - 30, sold.Margin);
        Assert.False(sold.PartingOutPays);
        Assert.True(At(30).PartingOutPays);
        Assert.Contains("part it out", At(30).Words(Currency.Find("EUR")!), StringComparison.Ordinal);
        Assert.False(At(null).PartingOutPays);
        // What is at fault fetches nothing, and a part that fetches less than its work is not taken out.
        var broken = At(500, board);
        Assert.Equal(
            (0, false),
            (broken.Parts.Single(p => p.Unit.Id == board).Price, broken.Parts.Single(p => p.Unit.Id == board).IsSound)
        );
        Assert.True(broken.PartingOut < sold.PartingOut);
        Assert.Equal(sold.Parts.Sum(p => Math.Max(0, p.Price - (decimal)p.Minutes)), sold.PartingOut);
        Assert.DoesNotContain(sold.Parts, p => Settling.StaysAtBench(p.Unit));
    }

    [Fact]
    public void A_repair_that_is_ordered_goes_its_own_steps()
    {
        OrderState[] After(OrderState state) => [.. OrderStep.After(state, OrderKind.Repair).Select(s => s.To)];
        Assert.Equal([OrderState.Ordered, OrderState.Dropped], After(OrderState.ToSend));
        Assert.Equal([OrderState.Arrived, OrderState.Returned], After(OrderState.Ordered));
        Assert.Empty(After(OrderState.Arrived));
        Assert.Empty(After(OrderState.Returned));
        // A part that is bought does not come back unmended, and one that is sent out does not arrive before it went.
        Assert.Null(OrderStep.Find(OrderState.Ordered, OrderState.Returned));
        Assert.Null(OrderStep.Find(OrderState.ToSend, OrderState.Arrived, OrderKind.Repair));
        Assert.True(OrderStep.Find(OrderState.Ordered, OrderState.Returned, OrderKind.Repair) is { Why: true, Charged: true });
        var words = Enum.GetValues<OrderState>().Where(s => s != OrderState.ToReturn);
        Assert.All(words, s => Assert.NotEqual("", OrderStep.WordsOf(s, OrderKind.Repair)));
        Assert.Equal("at the specialist", OrderStep.WordsOf(OrderState.Ordered, OrderKind.Repair));
    }
}
