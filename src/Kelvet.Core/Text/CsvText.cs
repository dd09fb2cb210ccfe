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
        var how = new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\n", InjectionOptions = InjectionOptions.Escape };
        using (var csv = new CsvWriter(writer, how, leaveOpen: true))
        {
            foreach (var row in rows.Prepend(header))
            {
                foreach (var field in row)
                    csv.WriteField(field);
                csv.NextRecord();
            }
        }

        return writer.ToString();
    }
}
