using System.Collections.Immutable;
using System.Globalization;
using System.Xml.Linq;

namespace Kelvet.Core.Billing;

/// <summary>What stands on an invoice beside its lines.</summary>
/// <param name="Entry">The invoice or credit note.</param>
/// <param name="Shop">Name of the shop.</param>
/// <param name="Owner">Whom it is to.</param>
/// <param name="Terms">How the shop wrote its bills when it was issued.</param>
/// <param name="Paid">What was paid beforehand, with tax, 0 upward.</param>
public sealed record InvoiceFacts(BookEntry Entry, string Shop, string Owner, BillingTerms Terms, decimal Paid);

/// <summary>
/// An invoice for another program: UN/CEFACT Cross Industry Invoice in the profile of EN 16931-1:2017, checked against its schema
/// (tests/browser/papers.test.mjs). Where the owner's address is not kept, the rules of that standard for a company's invoice (BR-10,
/// BR-11) are not met; its schema is.
/// </summary>
public static class CrossIndustryInvoice
{
    private static readonly XNamespace Rsm = "urn:un:unece:uncefact:data:standard:CrossIndustryInvoice:100";
    private static readonly XNamespace Ram = "urn:un:unece:uncefact:data:standard:ReusableAggregateBusinessInformationEntity:100";
    private static readonly XNamespace Udt = "urn:un:unece:uncefact:data:standard:UnqualifiedDataType:100";

    /// <summary>Codes of UNTDID 1001 for what a document is.</summary>
    private const string Invoice = "380",
        CreditNote = "381";

    /// <summary>The document.</summary>
    public static XDocument Write(InvoiceFacts facts)
    {
        var (entry, bill) = (facts.Entry, facts.Entry.Bill);
        string Sum(decimal amount) => bill.Currency.Figure(amount);
        var nets = Nets(bill);
        return new XDocument(
            new XElement(
                Rsm + "CrossIndustryInvoice",
                new XAttribute(XNamespace.Xmlns + "rsm", Rsm),
                new XAttribute(XNamespace.Xmlns + "ram", Ram),
                new XAttribute(XNamespace.Xmlns + "udt", Udt),
                new XElement(
                    Rsm + "ExchangedDocumentContext",
                    new XElement(Ram + "GuidelineSpecifiedDocumentContextParameter", new XElement(Ram + "ID", "urn:cen.eu:en16931:2017"))
                ),
                new XElement(
                    Rsm + "ExchangedDocument",
                    new XElement(Ram + "ID", entry.Number),
                    new XElement(Ram + "TypeCode", entry.Credits.Length > 0 ? CreditNote : Invoice),
                    new XElement(Ram + "IssueDateTime", Day(entry.Day))
                ),
                new XElement(
                    Rsm + "SupplyChainTradeTransaction",
                    bill.Lines.Select((line, i) => LineOf(bill, line, i, nets[i])),
                    new XElement(
                        Ram + "ApplicableHeaderTradeAgreement",
                        Seller(facts),
                        new XElement(
                            Ram + "BuyerTradeParty",
                            new XElement(Ram + "Name", facts.Owner.Length > 0 ? facts.Owner : "not named")
                        )
                    ),
                    new XElement(Ram + "ApplicableHeaderTradeDelivery"),
                    new XElement(
                        Ram + "ApplicableHeaderTradeSettlement",
                        new XElement(Ram + "InvoiceCurrencyCode", bill.Currency.Code),
                        bill.Taxes.Select(t => new XElement(
                            Ram + "ApplicableTradeTax",
                            new XElement(Ram + "CalculatedAmount", Sum(t.Tax)),
                            new XElement(Ram + "TypeCode", "VAT"),
                            t.Rate == 0 ? new XElement(Ram + "ExemptionReason", "no tax is charged") : null,
                            new XElement(Ram + "BasisAmount", Sum(t.Net)),
                            Category(t.Rate)
                        )),
                        new XElement(Ram + "SpecifiedTradePaymentTerms", new XElement(Ram + "Description", "due on receipt")),
                        new XElement(
                            Ram + "SpecifiedTradeSettlementHeaderMonetarySummation",
                            new XElement(Ram + "LineTotalAmount", Sum(nets.Sum())),
                            new XElement(Ram + "TaxBasisTotalAmount", Sum(bill.Net)),
                            new XElement(Ram + "TaxTotalAmount", new XAttribute("currencyID", bill.Currency.Code), Sum(bill.Tax)),
                            new XElement(Ram + "GrandTotalAmount", Sum(bill.Total)),
                            new XElement(Ram + "TotalPrepaidAmount", Sum(facts.Paid)),
                            new XElement(Ram + "DuePayableAmount", Sum(bill.Total - facts.Paid))
                        ),
                        entry.Credits.Length > 0
                            ? new XElement(Ram + "InvoiceReferencedDocument", new XElement(Ram + "IssuerAssignedID", entry.Credits))
                            : null
                    )
                )
            )
        );
    }

    /// <summary>
    /// What each line comes to without tax. Where prices are with tax, what rounding leaves goes to the largest line of its rate, so that
    /// lines add up to the bill's own sum (EN 16931-1:2017, BR-CO-10).
    /// </summary>
    public static ImmutableArray<decimal> Nets(Bill bill)
    {
        var nets = bill
            .Lines.Zip(bill.Amounts, (line, amount) => bill.WithTax ? bill.Currency.Round(amount * 100 / (100 + line.Tax)) : amount)
            .ToArray();
        foreach (var tax in bill.Taxes)
        {
            var of = Enumerable.Range(0, nets.Length).Where(i => bill.Lines[i].Tax == tax.Rate).ToArray();
            nets[of.MaxBy(i => nets[i])] += tax.Net - of.Sum(i => nets[i]);
        }

        return [.. nets];
    }

    private static XElement LineOf(Bill bill, BillLine line, int index, decimal net) =>
        new(
            Ram + "IncludedSupplyChainTradeLineItem",
            new XElement(
                Ram + "AssociatedDocumentLineDocument",
                new XElement(Ram + "LineID", (index + 1).ToString(CultureInfo.InvariantCulture))
            ),
            new XElement(Ram + "SpecifiedTradeProduct", new XElement(Ram + "Name", line.What)),
            new XElement(
                Ram + "SpecifiedLineTradeAgreement",
                new XElement(
                    Ram + "NetPriceProductTradePrice",
                    new XElement(Ram + "ChargeAmount", (net / line.Quantity).ToString("0.00######", CultureInfo.InvariantCulture))
                )
            ),
            new XElement(
                Ram + "SpecifiedLineTradeDelivery",
                new XElement(
                    Ram + "BilledQuantity",
                    // UN/ECE Recommendation 20: hour, one.
                    new XAttribute("unitCode", line.Unit == "h" ? "HUR" : "C62"),
                    line.Quantity.ToString("0.####", CultureInfo.InvariantCulture)
                )
            ),
            new XElement(
                Ram + "SpecifiedLineTradeSettlement",
                new XElement(Ram + "ApplicableTradeTax", new XElement(Ram + "TypeCode", "VAT"), Category(line.Tax)),
                new XElement(
                    Ram + "SpecifiedTradeSettlementLineMonetarySummation",
                    new XElement(Ram + "LineTotalAmount", bill.Currency.Figure(net))
                )
            )
        );

    private static XElement Seller(InvoiceFacts facts) =>
        new(
            Ram + "SellerTradeParty",
            new XElement(Ram + "Name", facts.Shop),
            facts.Terms.Country.Length > 0
                ? new XElement(
                    Ram + "PostalTradeAddress",
                    facts.Terms.Address.Length > 0 ? new XElement(Ram + "LineOne", facts.Terms.Address.ReplaceLineEndings(", ")) : null,
                    new XElement(Ram + "CountryID", facts.Terms.Country)
                )
                : null,
            facts.Terms.TaxNumber.Length > 0
                ? new XElement(
                    Ram + "SpecifiedTaxRegistration",
                    new XElement(Ram + "ID", new XAttribute("schemeID", "VA"), facts.Terms.TaxNumber)
                )
                : null
        );

    /// <summary>Standard rate, or outside of the tax, for which no rate is told (UNTDID 5305).</summary>
    private static XElement[] Category(decimal rate) =>
        rate == 0
            ? [new XElement(Ram + "CategoryCode", "O")]
            :
            [
                new XElement(Ram + "CategoryCode", "S"),
                new XElement(Ram + "RateApplicablePercent", rate.ToString("0.####", CultureInfo.InvariantCulture)),
            ];

    private static XElement Day(DateOnly day) =>
        new(Udt + "DateTimeString", new XAttribute("format", "102"), day.ToString("yyyyMMdd", CultureInfo.InvariantCulture));
}
