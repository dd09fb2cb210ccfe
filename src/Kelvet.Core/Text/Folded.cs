namespace Kelvet.Core.Text;

/// <summary>
/// Text of the trade (codes, beeps, lights, sizes) as it was typed, in the letters that it means. Full-width forms are folded:
/// they are the same letters, drawn wider (Unicode block Halfwidth and Fullwidth Forms, U+FF01 to U+FF5E, and the ideographic
/// space U+3000). Digits of other scripts are not: nobody reads a code in them, and each reader says so.
/// </summary>
public static class Folded
{
    private const char First = '！',
        Last = '～',
        WideSpace = '　';

    /// <summary>The text, trimmed, with full-width forms as the ASCII characters that they stand for.</summary>
    public static string Of(string? text)
    {
        var plain = (text ?? "").Trim();
        return plain.AsSpan().ContainsAnyInRange(First, Last) || plain.Contains(WideSpace)
            ? string.Create(
                    plain.Length,
                    plain,
                    (to, from) =>
                    {
                        for (var i = 0; i < from.Length; i++)
                            to[i] = from[i] switch
                            {
                                >= First and <= Last => (char)(from[i] - First + '!'),
                                WideSpace => ' ',
                                var other => other,
                            };
                    }
                )
                .Trim()
            : plain;
    }
}
