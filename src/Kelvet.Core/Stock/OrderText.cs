using System.Globalization;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Stock;

/// <summary>One line of what is sent to a seller.</summary>
/// <param name="Number">Number of the order.</param>
/// <param name="Kind">Kind of part.</param>
/// <param name="What">What is ordered.</param>
/// <param name="Pieces">How many.</param>
/// <param name="Needs">What it has to match; empty where nothing was said.</param>
/// <param name="Price">Price of one; null where it was not said.</param>
public sealed record OrderLine(int Number, UnitKind Kind, string What, int Pieces, string Needs, decimal? Price);

/// <summary>Orders as they are sent: a message, or a file.</summary>
public static class OrderText
{
    /// <summary>The message to a seller. It says nothing of jobs or customers.</summary>
    /// <param name="lines">What is ordered.</param>
    /// <param name="shop">Who orders.</param>
    public static string Message(IEnumerable<OrderLine> lines, string shop) =>
        string.Join(
            "\n",
            ["Please send us:", "", .. lines.Select(Words), "", "Please tell us the price and the day before you send it.", "", shop]
        );

    private static string Words(OrderLine line)
    {
        var needs = line.Needs.Length > 0 ? $". It has to match: {line.Needs}" : "";
        return $"{line.Pieces} x {line.What}, {UnitFacts.Of(line.Kind).Words}{needs} (our order {line.Number})";
    }

    /// <summary>The same as CSV, a header first.</summary>
    public static string Csv(IEnumerable<OrderLine> lines) =>
        CsvText.Write(
            ["order", "kind", "part", "pieces", "has to match", "price"],
            lines.Select(l =>
                (IEnumerable<string>)
                    [
                        l.Number.ToString(CultureInfo.InvariantCulture),
                        UnitFacts.Of(l.Kind).Words,
                        l.What,
                        l.Pieces.ToString(CultureInfo.InvariantCulture),
                        l.Needs,
                        l.Price?.ToString("0.00", CultureInfo.InvariantCulture) ?? "",
                    ]
            )
        );
}
