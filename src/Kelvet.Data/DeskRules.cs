using Kelvet.Core.Learning;
using Kelvet.Core.Planning;

namespace Kelvet.Data;

/// <summary>What a command is carried out under.</summary>
/// <param name="By">The technician's name; empty when not given.</param>
/// <param name="Rules">The rules that the shop reads its jobs by.</param>
/// <param name="Drain">How long the shop drains a machine.</param>
public sealed record DeskRules(string By, RuleSet Rules, TimeSpan Drain)
{
    /// <summary>What minutes and parts cost.</summary>
    public Preferences Preferences { get; init; } = Preferences.Usual;
}
