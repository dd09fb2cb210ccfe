namespace Kelvet.Data;

/// <summary>An invoice, or a credit note that takes one back. Written once, never changed: its head and its number stand as they
/// were; whom it is to stands with the job.</summary>
public sealed class InvoiceRow
{
    /// <summary>Its number, 1 for the first: they run on without a gap.</summary>
    public int Number { get; set; }

    /// <summary>Number of its job.</summary>
    public int JobNumber { get; set; }

    public DateTime IssuedUtc { get; set; }

    public string By { get; set; } = "";

    /// <summary>What it is for, as <see cref="Core.Billing.BillFormat"/>.</summary>
    public string BillJson { get; set; } = "";

    /// <summary>How the shop wrote its bills when it was issued, as <see cref="Core.Billing.BillingTerms"/>.</summary>
    public string TermsJson { get; set; } = "";

    /// <summary>Number of the invoice that it takes back; null for an invoice.</summary>
    public int? Credits { get; set; }
}
