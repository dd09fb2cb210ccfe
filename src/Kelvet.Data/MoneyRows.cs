using System.Globalization;
using Kelvet.Core.Billing;

namespace Kelvet.Data;

/// <summary>An estimate that was given to an owner, and their answer. What was given is never changed; it is answered once.</summary>
public sealed class OfferRow
{
    public int Id { get; set; }

    public int JobNumber { get; set; }

    /// <summary>What was given, as <see cref="OfferFormat"/>.</summary>
    public string OfferJson { get; set; } = "";

    public string By { get; set; } = "";

    public DateTime AtUtc { get; set; }

    /// <summary>When it was answered; null while it is not.</summary>
    public DateTime? AnsweredUtc { get; set; }

    /// <summary>Indexes of the lines that were agreed to, separated by spaces.</summary>
    public string Accepted { get; set; } = "";

    /// <summary>Who answered.</summary>
    public string Who { get; set; } = "";

    /// <summary>How; null while it is not answered.</summary>
    public LeaveHow? How { get; set; }

    /// <summary>Who wrote the answer down.</summary>
    public string TakenBy { get; set; } = "";

    /// <summary>Id of the line of the log that tells of the answer.</summary>
    public Guid AnswerId { get; set; }

    /// <summary>What was given.</summary>
    public Offer Read() => OfferFormat.Read(OfferJson);

    /// <summary>The answer; null while there is none.</summary>
    public Leave? Leave() =>
        How is { } how
            ? new Leave(
                Read(),
                Accepted.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(i => int.Parse(i, CultureInfo.InvariantCulture)),
                Who,
                how
            )
            : null;
}

/// <summary>Money that was taken or given, with its receipt. Written once, never changed.</summary>
public sealed class PaymentRow
{
    /// <summary>Number of the receipt, 1 for the first: they run on without a gap.</summary>
    public int Number { get; set; }

    public int JobNumber { get; set; }

    public PaymentKind Kind { get; set; }

    /// <summary>How much, as text: a decimal number with a point.</summary>
    public string Amount { get; set; } = "";

    /// <summary>How it was paid.</summary>
    public string How { get; set; } = "";

    public string By { get; set; } = "";

    public DateTime AtUtc { get; set; }

    /// <summary>How the shop wrote its bills then, as <see cref="BillingTerms"/>.</summary>
    public string TermsJson { get; set; } = "";

    /// <summary>The same as the core knows it.</summary>
    public Payment Read() => new(Kind, decimal.Parse(Amount, NumberStyles.Number, CultureInfo.InvariantCulture), How);
}

/// <summary>What the shop's closed jobs have counted of a model of part.</summary>
public sealed class ModelTallyRow
{
    /// <summary>The model, as <see cref="Core.Machines.UnitModel"/> writes it.</summary>
    public string Model { get; set; } = "";

    /// <summary>Times that one was found at fault.</summary>
    public int Failed { get; set; }

    /// <summary>Times that one was in a customer's machine of a closed job.</summary>
    public int Seen { get; set; }
}
