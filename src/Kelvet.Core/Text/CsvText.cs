using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;

namespace Kelvet.Core.Text;

/// <summary>Writes CSV (RFC 4180) with a header line; no spreadsheet takes a cell of it for a formula.</summary>
public static class CsvText
{
    /// <summary>The text of a file.</summary>
    /// <param name="header">Names of the columns.</param>
    /// <param name="rows">Rows, each with a field for every column.</param>
    public static string Write(IEnumerable<string> header, IEnumerable<IEnumerable<string>> rows)
    {
        using var writer = new StringWriter { NewLine = "\n" };
        var how = new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\n" };
        using (var csv = new CsvWriter(writer, how, leaveOpen: true))
        {
            foreach (var row in rows.Prepend(header))
            {
                foreach (var field in row)
                {
                    if (IsFormula(field, how))
                        csv.WriteField($"'{field}", shouldQuote: true);
                    else
                        csv.WriteField(field);
                }

                csv.NextRecord();
            }
        }

        return writer.ToString();
    }

    /// <summary>Whether a spreadsheet would take it for a formula. A figure below zero is none: it is to be summed.</summary>
    private static bool IsFormula(string field, CsvConfiguration how) =>
        field.Length > 0
        && how.InjectionCharacters.Contains(field[0])
        && !decimal.TryParse(field, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out _);
}
