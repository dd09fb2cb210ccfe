using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Shown;

/// <summary>
/// The changes that the technician has made or is about to make before the next start. They live in the page's
/// address, so that back, reload and a page without script keep them.
/// </summary>
public sealed class PendingChanges
{
    /// <summary>Most changes before one start.</summary>
    public const int Most = 20;

    private PendingChanges(ImmutableArray<Change> changes, Situation after, string? problem)
    {
        Changes = changes;
        After = after;
        Problem = problem;
    }

    public ImmutableArray<Change> Changes { get; }

    /// <summary>The machine with them made.</summary>
    public Situation After { get; }

    /// <summary>Why one of them could not be kept; null when all could.</summary>
    public string? Problem { get; }

    /// <summary>Reads changes from an address or a form. Those that cannot be made are left out, with the reason.</summary>
    public static PendingChanges Read(BenchJob job, IReadOnlyCollection<string> texts)
    {
        var kept = ImmutableArray.CreateBuilder<Change>();
        var now = job.Now;
        string? problem =
            texts.Count > Most
                ? $"{Most} changes before one start are the most; {texts.Count - Most} more were sent and left out. Record these first."
                : null;
        foreach (var text in texts.Take(Most))
        {
            if (!MachineFormat.TryRead(text, out var change, out var expected))
                problem ??= Unread(text, expected);
            else if (!now.TryAfter(change, out now, out var refusal))
                problem ??= $"Not possible: {change.Words(job.Now.Parts)}. {refusal}";
            else
                kept.Add(change);
        }

        return new PendingChanges(kept.ToImmutable(), now, problem);
    }

    /// <summary>Reads the changes of a form that is sent to be recorded: all of them, or none with the reason. Whether they can be
    /// made is the desk's to say.</summary>
    public static (ImmutableArray<Change> Changes, string? Problem) Sent(IReadOnlyCollection<string> texts)
    {
        if (texts.Count > Most)
            return ([], $"{Most} changes before one start are the most, and {texts.Count} were sent. Record some of them first.");
        var changes = ImmutableArray.CreateBuilder<Change>();
        foreach (var text in texts)
        {
            if (!MachineFormat.TryRead(text, out var change, out var expected))
                return ([], Unread(text, expected));
            changes.Add(change);
        }

        return (changes.ToImmutable(), null);
    }

    private static string Unread(string? text, string expected) => $"\"{Text.Cut(text ?? "", 60)}\" is not a change: expected {expected}.";

    /// <summary>Address of the bench with these changes and one more.</summary>
    public string With(int job, Change more) => Address(job, [.. Changes, more]);

    /// <summary>Address of the bench without one of them.</summary>
    public string Without(int job, int index) => Address(job, Changes.RemoveAt(index));

    /// <summary>Address of the bench with these changes and a unit picked.</summary>
    public string Picking(int job, UnitId unit) => Address(job, Changes, unit) + "#pick";

    /// <summary>
    /// What dropping a picked unit on a place does: into it when it is empty, in the place of what is there otherwise. Null
    /// when the place is not for it or it is there already; impossible moves are offered and refused with the reason.
    /// </summary>
    public Change? Drop(Unit picked, Place place)
    {
        var there = After.Now[place];
        if (place.Kind != picked.GoesInto || there == picked.Id)
            return null;
        if (there is { } occupant)
            return new Change.Swap(occupant, picked.Id);
        return After.Now.Has(picked.Id) ? new Change.Move(picked.Id, place) : new Change.Fit(picked.Id, place);
    }

    /// <summary>Address of the bench with a proposed step taken up: its changes pending, or its check open.</summary>
    public static string AddressOf(int job, Candidate candidate) =>
        candidate.Check is { } check
            ? $"/jobs/{job}?check={check.Id}&checked={candidate.Checked!.Id}"
            : Address(job, candidate.Changes, kind: candidate.Kind);

    /// <summary>Address of the bench with the given changes pending.</summary>
    public static string Address(int job, IEnumerable<Change> changes, UnitId? pick = null, StartKind? kind = null)
    {
        var parts = changes.Select(c => $"do={Uri.EscapeDataString(c.ToString())}");
        if (pick is { } unit)
            parts = parts.Append($"pick={unit}");
        if (kind is { } start)
            parts = parts.Append($"kind={start}");
        var query = string.Join('&', parts);
        return query.Length == 0 ? $"/jobs/{job}" : $"/jobs/{job}?{query}";
    }
}
