using System.Collections.Immutable;
using System.Globalization;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;

namespace Kelvet.Core.Billing;

/// <summary>
/// What a machine's owner is asked to agree to: what is known so far, what would be done, and between what it comes to. It has no mean
/// and no chance in it: what is not known yet is a range, with the reason.
/// </summary>
/// <param name="Known">What is known so far.</param>
/// <param name="Proposal">What would be done.</param>
/// <param name="Lines">What it is made up of.</param>
public sealed record Estimate(string Known, string Proposal, ImmutableArray<OfferLine> Lines)
{
    /// <summary>Below this chance a part is not counted among those that may have to be replaced.</summary>
    private const double MayBe = 0.05;

    /// <summary>The estimate for one way out of a job.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="way">The way that is proposed.</param>
    /// <param name="used">Whether with used parts.</param>
    /// <param name="ahead">The search, played out; null where it was not.</param>
    /// <param name="preferences">What an hour and parts cost.</param>
    /// <param name="terms">How the shop writes its bills.</param>
    public static Estimate Of(
        BenchDiagnosis diagnosis,
        WayCost way,
        bool used,
        SearchAhead? ahead,
        Preferences preferences,
        BillingTerms terms
    )
    {
        var lines = ImmutableArray.CreateBuilder<OfferLine>();
        if (terms.DiagnosisFee > 0)
            lines.Add(new OfferLine("Finding out what it is", terms.DiagnosisFee, terms.DiagnosisFee, "", false));
        if (Work(diagnosis, way, ahead, preferences, terms) is { } work)
            lines.Add(work);
        var rights = PutRight(diagnosis, way);
        if (rights is null && Parts(diagnosis, way, used, ahead, preferences) is { } parts)
            lines.Add(parts);
        if (lines.Count == 0)
            lines.Add(new OfferLine("Work", 0, 0, "nothing is charged", false));
        return new Estimate(
            rights is not null
                    ? $"What was tried so far points to the {PlainReport.Plainly(rights.Unit.Kind)} ({rights.Unit.Name}), and to something "
                        + "that is put right without a new part."
                : way.Part is { } part ? $"What was tried so far points to the {PlainReport.Plainly(part.Kind)} ({part.Name})."
                : way.Way == WayOut.GiveBack ? "Going on would cost more than it is worth."
                : "What was tried so far does not point to one part alone yet.",
            way.Way switch
            {
                WayOut.SearchOn when rights is not null =>
                    "We put it right, and try the machine until it is certain. Should a part be needed after all, we ask you before we "
                        + "buy it.",
                WayOut.SearchOn when way.Part is { } found =>
                    $"We make sure of it, replace the {PlainReport.Plainly(found.Kind)}, and try the machine until it is certain.",
                WayOut.SearchOn => "We search on until it is certain which part it is, replace that, and try the machine.",
                WayOut.ReplaceLikeliest =>
                    $"We replace the {PlainReport.Plainly(way.Part!.Kind)} now. Should it not be that, we ask you before we go on.",
                WayOut.ReplaceCore => "We replace the main board, the processor and the memory together.",
                _ => "We give the machine back as it is.",
            },
            lines.ToImmutable()
        );
    }

    /// <summary>From here on the likeliest fault is what is proposed to be put right. Bench judgement.</summary>
    private const double PutsRight = 0.5;

    /// <summary>What is put right in place where that is what it most likely takes; null where a part is.</summary>
    private static Suspect? PutRight(BenchDiagnosis diagnosis, WayCost way) =>
        way.Way == WayOut.SearchOn
        && diagnosis.Suspects.Where(s => s.Unit.Origin == Origin.Customer).MaxBy(s => s.Probability) is { Probability: >= PutsRight } top
        && !Worth.TakesAPart(top)
            ? top
            : null;

    private static OfferLine? Work(BenchDiagnosis diagnosis, WayCost way, SearchAhead? ahead, Preferences preferences, BillingTerms terms)
    {
        if (terms.Labour == Labour.Flat)
            return new OfferLine("Work", terms.FlatPrice, terms.FlatPrice, "one price, however long it takes", false);
        var spent = Effort.Minutes(diagnosis.Job, diagnosis.Atlas);
        var (least, most) = Minutes(diagnosis, way, ahead);
        decimal Cost(double minutes) => terms.Currency.Round(JobBill.Hours(minutes) * (decimal)preferences.HourlyRate);
        var why =
            most > 0.5 ? $"{Whole(spent)} min so far, {Range(Whole(least), Whole(most))} min still to come" : $"{Whole(spent)} min so far";
        return Cost(spent + most) == 0 ? null : new OfferLine("Work", Cost(spent + least), Cost(spent + most), why, false);
    }

    private static (double Least, double Most) Minutes(BenchDiagnosis diagnosis, WayCost way, SearchAhead? ahead)
    {
        switch (way.Way)
        {
            case WayOut.SearchOn:
                return ahead is null ? (way.Minutes, way.Minutes) : (ahead.Least, ahead.Most);
            case WayOut.ReplaceLikeliest:
                // Should it not be that part, the owner is asked again: what the search may take then is not in it.
                var fit = Economy.FittingMinutes(way.Part!.Kind, diagnosis.Atlas);
                return (fit, fit);
            default:
                return (way.Minutes, way.Minutes);
        }
    }

    private static OfferLine? Parts(BenchDiagnosis diagnosis, WayCost way, bool used, SearchAhead? ahead, Preferences preferences)
    {
        decimal PriceOf(UnitKind kind) => Priced(used ? preferences.PriceOf(kind).Used : preferences.PriceOf(kind).New);
        var words = used ? "used and tested" : "new";
        if (way.Way == WayOut.GiveBack)
            return null;
        if (way.Way == WayOut.ReplaceCore)
        {
            var core = Priced(used ? way.Parts.Used : way.Parts.New);
            return new OfferLine($"Main board, processor and memory, {words}", core, core, "", false);
        }

        if (way.Part is { } part)
        {
            var price = PriceOf(part.Kind);
            return new OfferLine($"{Capital(PlainReport.Plainly(part.Kind))}, {words}", price, price, "", false);
        }

        UnitKind[] kinds = ahead is null
            ?
            [
                .. diagnosis
                    .Suspects.Where(s => s.Unit.Origin == Origin.Customer && s.Probability >= MayBe && Worth.TakesAPart(s))
                    .Select(s => s.Unit.Kind)
                    .Distinct(),
            ]
            : [.. ahead.Replaced.Distinct()];
        if (kinds.Length == 0)
            return null;
        var none = ahead is not null && ahead.Replaced.Length < ahead.Ends;
        var which = string.Join(", ", kinds.Select(PlainReport.Plainly).Distinct().Order(StringComparer.Ordinal));
        return new OfferLine(
            $"Part, {words}",
            none ? 0 : kinds.Min(PriceOf),
            kinds.Max(PriceOf),
            Cut($"which one is not certain yet: {which}{(none ? ", or none" : "")}"),
            false
        );
    }

    private static decimal Priced(double price) => Math.Min(BillLine.Most, Math.Round((decimal)price, 2));

    private static string Cut(string why) => why.Length <= OfferLine.LongestWhy ? why : why[..(OfferLine.LongestWhy - 1)] + "…";

    private static string Capital(string words) => char.ToUpperInvariant(words[0]) + words[1..];

    private static string Whole(double minutes) => Math.Round(minutes).ToString("0", CultureInfo.InvariantCulture);

    private static string Range(string from, string to) => from == to ? to : $"{from} to {to}";
}
