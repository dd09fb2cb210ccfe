using System.Collections.Immutable;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace Kelvet.Core.Learning;

/// <summary>
/// What a figure was read with. Each line and each closing carries the id of one, so that it can be told later which odds,
/// preferences and program a number comes from.
/// </summary>
/// <param name="Atlas">Version of the atlas.</param>
/// <param name="Program">Version of the program.</param>
/// <param name="Odds">Odds of every mode with what the shop has learnt, by id.</param>
/// <param name="Preferences">Where practitioners differ, as the shop keeps it.</param>
public sealed record RuleSet(string Atlas, string Program, ImmutableSortedDictionary<string, double> Odds, string Preferences)
{
    /// <summary>Twelve hexadecimal digits, the same for the same rules.</summary>
    public string Id { get; } = IdOf(Atlas, Program, Odds, Preferences);

    private static string IdOf(string atlas, string program, ImmutableSortedDictionary<string, double> odds, string preferences)
    {
        var text = new StringBuilder().Append(atlas).Append('\n').Append(program).Append('\n').Append(preferences);
        foreach (var (mode, value) in odds)
            text.Append(CultureInfo.InvariantCulture, $"\n{mode} {value:R}");
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())))[..12];
    }
}
