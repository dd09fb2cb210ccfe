using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>What a line may have been instead of what was recorded: another stage, or the same act on the same part elsewhere.</summary>
/// <param name="Nth">Which of its changes was another, from 0; null where none was.</param>
/// <param name="Instead">That change as it was; null where none was another.</param>
/// <param name="Seen">The stages that were reached; null where they were seen right.</param>
public sealed record OtherReading(int? Nth, Change? Instead, StageRange? Seen)
{
    /// <summary>What the changes of a line may have been: another slot, another stick, another output.</summary>
    /// <param name="job">The job.</param>
    /// <param name="line">A line that counts.</param>
    public static ImmutableArray<OtherReading> ChangesOf(BenchJob job, LogLine line)
    {
        if (line.Stands is not (TrialEntry or WorkEntry))
            return [];
        var done = line.Stands.Done;
        var found = ImmutableArray.CreateBuilder<OtherReading>();
        var now = job.MachineBefore(line);
        for (var i = 0; i < done.Length; i++)
        {
            var others = done[i].Subject is { } subject ? Possible.For(now, subject) : [];
            foreach (var other in others.Where(o => o.Act == done[i].Act && o != done[i]))
            {
                if (Fits(now, [other, .. done.Skip(i + 1)]))
                    found.Add(new OtherReading(i, other, null));
            }

            if (!now.TryAfter(done[i], out var after, out _))
                break;
            now = after;
        }

        return found.ToImmutable();
    }

    private static bool Fits(Situation now, IEnumerable<Change> changes)
    {
        foreach (var change in changes)
        {
            if (!now.TryAfter(change, out var after, out _))
                return false;
            now = after;
        }

        return true;
    }

    /// <summary>
    /// The line's correction: what it should have said, and with it struck what would not be possible any more. Who recorded it and when
    /// stays as it was.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="line">A line that counts.</param>
    /// <param name="id">The correction's id.</param>
    /// <param name="corrected">The id of the line as it should have been.</param>
    /// <param name="reason">Why, in the technician's words.</param>
    /// <exception cref="EntryRefusedException">The line is no start and no work, or has no such change, or the correction does not
    /// fit.</exception>
    public StrikeEntry Mending(BenchJob job, LogLine line, Guid id, Guid corrected, string reason)
    {
        var mending = new StrikeEntry(id, line.Written.Id, reason, Corrected(line.Stands, corrected));
        return mending with { Also = [.. job.Preview(mending).Impossible.Select(l => l.Written.Id)] };
    }

    private Entry Corrected(Entry? content, Guid id)
    {
        Entry corrected = content switch
        {
            TrialEntry t => new TrialEntry(id, Changed(t.Changes), Seen ?? t.Seen, t.Stall)
            {
                // What the button did was asked of a start whose stage was open.
                Button = Seen is null ? t.Button : null,
                Kind = t.Kind,
                Signs = t.Signs,
                Live = t.Live,
                // Another act than was recorded may or may not have been the one proposed.
                Followed = Nth is null ? t.Followed : null,
            },
            WorkEntry w when Seen is null => new WorkEntry(id, Changed(w.Changes)),
            _ => throw new EntryRefusedException("This line is no start and no work: mend it in the log."),
        };
        return corrected with { Note = content.Note, By = content.By, At = content.At };
    }

    private ImmutableArray<Change> Changed(ImmutableArray<Change> done) =>
        (Nth, Instead) switch
        {
            (null, _) => done,
            ({ } nth, { } instead) when nth >= 0 && nth < done.Length => done.SetItem(nth, instead),
            _ => throw new EntryRefusedException("The line has no such change."),
        };
}
