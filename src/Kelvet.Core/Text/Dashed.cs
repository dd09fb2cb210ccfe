using System.Collections.Concurrent;
using System.Text;

namespace Kelvet.Core.Text;

/// <summary>How the data files write the members of an enumeration: "MemorySlot" as "memory-slot".</summary>
public static class Dashed
{
    /// <summary>The written form of a member.</summary>
    public static string Of<T>(T value)
        where T : struct, Enum => Forms<T>.ByMember.TryGetValue(value, out var text) ? text : Write($"{value}");

    /// <summary>Reads a member from its written form, to the letter.</summary>
    public static bool TryRead<T>(string? text, out T value)
        where T : struct, Enum
    {
        value = default;
        return text is not null && Forms<T>.ByText.TryGetValue(text, out value);
    }

    /// <summary>Every written form, in the order of the members.</summary>
    public static IEnumerable<string> All<T>()
        where T : struct, Enum => Enum.GetValues<T>().Select(Of);

    private static string Write(string name)
    {
        var text = new StringBuilder();
        foreach (var c in name)
        {
            if (char.IsUpper(c) && text.Length > 0)
                text.Append('-');
            text.Append(char.ToLowerInvariant(c));
        }

        return text.ToString();
    }

    private static class Forms<T>
        where T : struct, Enum
    {
        public static readonly ConcurrentDictionary<T, string> ByMember = new(
            Enum.GetValues<T>().Distinct().Select(v => KeyValuePair.Create(v, Write($"{v}")))
        );

        public static readonly Dictionary<string, T> ByText = ByMember.ToDictionary(p => p.Value, p => p.Key, StringComparer.Ordinal);
    }
}
