namespace Kelvet.Devices;

/// <summary>
/// Reads the line protocol of POST-code readers (docs/formats.md): hexadecimal text, codes separated by white space, commas or
/// semicolons. "55", "0x55", "$55", "55h", "POST:55" and four digits for two codes are understood; "#" makes the rest of a
/// line a remark. Anything else is counted as garbage and passed over; nothing is kept beyond one word.
/// </summary>
public sealed class CodeProtocol
{
    private const int LongestWord = 16;

    private readonly byte[] _word = new byte[LongestWord];
    private int _length;
    private bool _remark;
    private bool _overlong;

    /// <summary>Words that were no code.</summary>
    public long Garbage { get; private set; }

    /// <summary>Takes bytes as they come, in pieces of any size.</summary>
    /// <param name="bytes">The bytes.</param>
    /// <param name="code">Called for each code, in order.</param>
    public void Take(ReadOnlySpan<byte> bytes, Action<byte> code)
    {
        foreach (var b in bytes)
        {
            if (b is (byte)'\n' or (byte)'\r')
            {
                End(code);
                _remark = false;
            }
            else if (_remark)
            {
                continue;
            }
            else if (b is (byte)' ' or (byte)'\t' or (byte)',' or (byte)';')
            {
                End(code);
            }
            else if (b == (byte)'#')
            {
                End(code);
                _remark = true;
            }
            else if (_length == LongestWord)
            {
                _overlong = true;
            }
            else
            {
                _word[_length++] = b;
            }
        }
    }

    private void End(Action<byte> code)
    {
        var word = _word.AsSpan(0, _length);
        var overlong = _overlong;
        (_length, _overlong) = (0, false);
        if (word.Length == 0)
            return;
        if (overlong || !Read(word, code))
            Garbage++;
    }

    private static bool Read(ReadOnlySpan<byte> word, Action<byte> code)
    {
        var label = word.LastIndexOfAny((byte)':', (byte)'=');
        if (label >= 0)
        {
            if (!IsLabel(word[..label]))
                return false;
            word = word[(label + 1)..];
            if (word.Length == 0)
                return true;
        }
        else if (IsLabel(word) && !IsHex(word))
        {
            return true;
        }

        if (word.StartsWith("0x"u8) || word.StartsWith("0X"u8))
            word = word[2..];
        else if (word.StartsWith("$"u8))
            word = word[1..];
        if (word.Length is 3 or 5 && word[^1] is (byte)'h' or (byte)'H')
            word = word[..^1];
        if (word.Length is not (2 or 4) || !IsHex(word))
            return false;
        for (var i = 0; i < word.Length; i += 2)
            code((byte)((Digit(word[i]) << 4) | Digit(word[i + 1])));
        return true;
    }

    private static bool IsLabel(ReadOnlySpan<byte> word)
    {
        Span<char> text = stackalloc char[LongestWord];
        for (var i = 0; i < word.Length; i++)
            text[i] = char.ToUpperInvariant((char)word[i]);
        return text[..word.Length] is "POST" or "CODE" or "PORT" or "P80" or "80" or "PORT80" or "P81" or "PC";
    }

    private static bool IsHex(ReadOnlySpan<byte> word)
    {
        foreach (var b in word)
        {
            if (!char.IsAsciiHexDigit((char)b))
                return false;
        }

        return true;
    }

    private static int Digit(byte b) => b <= (byte)'9' ? b - '0' : (b | 0x20) - 'a' + 10;
}
