using System.Security.Cryptography;

namespace Kelvet.Data;

/// <summary>Codes by which owners find the state of their jobs.</summary>
public static class StateCodes
{
    /// <summary>Letters and digits that are not taken for each other when they are read off paper.</summary>
    private const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";

    /// <summary>Characters of a code: some 60 bits, which nobody tries through.</summary>
    public const int Length = 12;

    /// <summary>A new code.</summary>
    public static string New() => RandomNumberGenerator.GetString(Letters, Length);

    /// <summary>Whether a text may be a code at all.</summary>
    public static bool IsOne(string text) => text.Length == Length && text.All(Letters.Contains);
}
