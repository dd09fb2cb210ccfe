using System.Globalization;
using System.Text;
using Serilog.Events;
using Serilog.Formatting;

namespace Kelvet.Web.Hosting;

/// <summary>
/// A line of the log file for each event. Control characters of what is told are escaped, and an exception's lines are set in, so
/// that nothing that was typed can look like a line of the program's.
/// </summary>
public sealed class LogLines : ITextFormatter
{
    /// <inheritdoc/>
    public void Format(LogEvent logEvent, TextWriter output)
    {
        output.Write(logEvent.Timestamp.ToString("yyyy-MM-dd HH:mm:ss.fff zzz", CultureInfo.InvariantCulture));
        output.Write($" [{Level(logEvent.Level)}] {Plain(logEvent, "SourceContext")} {Plain(logEvent, "RequestId")} ");
        output.WriteLine(Escaped(logEvent.RenderMessage(CultureInfo.InvariantCulture)));
        if (logEvent.Exception is not { } exception)
            return;
        foreach (var line in exception.ToString().ReplaceLineEndings("\n").Split('\n'))
            output.WriteLine($"    {Escaped(line)}");
    }

    private static string Level(LogEventLevel level) => level.ToString()[..3].ToUpperInvariant();

    private static string Plain(LogEvent logEvent, string property) =>
        logEvent.Properties.TryGetValue(property, out var value) && value is ScalarValue { Value: string text } ? Escaped(text) : "";

    /// <summary>The text with control characters, line and paragraph separators and marks of direction written as what they are.</summary>
    public static string Escaped(string text)
    {
        if (!text.Any(IsControl))
            return text;
        var escaped = new StringBuilder(text.Length + 16);
        foreach (var c in text)
            _ = IsControl(c) ? escaped.Append(CultureInfo.InvariantCulture, $"\\u{(int)c:x4}") : escaped.Append(c);
        return escaped.ToString();
    }

    private static bool IsControl(char c) =>
        char.IsControl(c)
        || c is '\u2028' or '\u2029' or (>= '\u200e' and <= '\u200f') or (>= '\u202a' and <= '\u202e') or (>= '\u2066' and <= '\u2069');
}
