using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Planning;

/// <summary>
/// What a page proposed, short enough to travel with its form: whether a line is what had been proposed is then known whatever has
/// happened to the program since.
/// </summary>
/// <param name="Phase">Where the job stood.</param>
/// <param name="Check">The look that was proposed; null for none.</param>
/// <param name="Kind">The kind of start; null for an ordinary one.</param>
/// <param name="Changes">What was to be done; null where nothing was proposed.</param>
public sealed record Proposal(Phase Phase, string? Check, StartKind? Kind, ImmutableArray<Change>? Changes)
{
    private const char Between = '|';

    /// <summary>What advice proposes.</summary>
    public static Proposal Of(Advice advice) =>
        advice.Decision.Step is { } step
            ? new(advice.Phase, step.Check?.Id, step.Kind, [.. step.Changes])
            : new(advice.Phase, null, null, null);

    /// <summary>The text form: phase, look, kind of start, then a change each; "-" for none.</summary>
    public string Write() =>
        string.Join(
            Between,
            new[] { Dashed.Of(Phase), Check ?? "-", Kind is { } kind ? Dashed.Of(kind) : "-" }.Concat(
                Changes is { } changes ? changes.Select(MachineFormat.Write) : ["-"]
            )
        );

    /// <summary>Reads the text form.</summary>
    /// <returns>Null where it is none.</returns>
    public static Proposal? Read(string? text)
    {
        var words = (text ?? "").Split(Between);
        if (words.Length < 3 || words.Length > 40 || !Dashed.TryRead<Phase>(words[0], out var phase))
            return null;
        StartKind? kind = null;
        if (words[2] != "-")
        {
            if (!Dashed.TryRead<StartKind>(words[2], out var read))
                return null;
            kind = read;
        }

        if (words.Length == 4 && words[3] == "-")
            return new(phase, null, null, null);
        var changes = ImmutableArray.CreateBuilder<Change>();
        foreach (var word in words.Skip(3))
        {
            if (!MachineFormat.TryRead(word, out Change change, out _))
                return null;
            changes.Add(change);
        }

        return new(phase, words[1] == "-" ? null : words[1], kind, changes.ToImmutable());
    }
}
