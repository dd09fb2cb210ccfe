using System.Globalization;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Training;

/// <summary>Signs of a start as a technician would note them, drawn from what ended it.</summary>
public static class SignsSeen
{
    /// <summary>For each name that the atlas may give a meaning, something that can be noted and has it.</summary>
    private static readonly Lazy<Dictionary<string, (SignKind Kind, string Typed)>> Notable = new(AllNotable);

    /// <summary>How many values of a range are tried for one that has a meaning.</summary>
    private const int Tries = 60;

    /// <summary>What is noted of a start that a fault ended.</summary>
    /// <param name="by">The fault.</param>
    /// <param name="situation">The machine.</param>
    /// <param name="atlas">The world's atlas.</param>
    /// <param name="random">Chance.</param>
    public static Signs Of(FaultMode by, Situation situation, Atlas atlas, Random random)
    {
        var signs = Signs.None;
        var noted = new HashSet<SignKind>();
        foreach (var meaning in atlas.Signs.Values.Where(s => s.OfTheStop).OrderBy(s => s.Id, StringComparer.Ordinal))
        {
            var seen = random.NextDouble() < meaning.With(by);
            if (!seen || !Notable.Value.TryGetValue(meaning.Id, out var note))
                continue;
            // What is asked of a part is not noted where that part is not in the machine; of one thing, one answer.
            if (note.Kind.On is { } on && !situation.Now.At.Values.Any(id => situation.Parts[id].Kind == on) || !noted.Add(note.Kind))
                continue;
            signs = note.Kind.Read(signs, note.Typed);
        }

        return signs;
    }

    private static Dictionary<string, (SignKind, string)> AllNotable()
    {
        var notable = new Dictionary<string, (SignKind, string)>(StringComparer.Ordinal);
        foreach (var kind in SignKinds.All.Where(k => k.Names.Length > 0))
        {
            foreach (var typed in Values(kind))
            {
                if (kind.NameOf(kind.Read(Signs.None, typed), null) is { } name)
                    notable.TryAdd(name, (kind, typed));
            }
        }

        return notable;
    }

    private static IEnumerable<string> Values(SignKind kind) =>
        kind.Range is { } range
            ? Enumerable
                .Range(0, Tries + 1)
                .Select(i => range.Least + (i * (range.Most - range.Least) / Tries))
                .Select(v => (range.Step >= 1 ? Math.Round(v) : Math.Round(v, 1)).ToString(CultureInfo.InvariantCulture))
            : kind.Answers.Select(a => a.Value);
}
