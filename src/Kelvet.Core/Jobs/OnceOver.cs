using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>What was said of a point of the once-over.</summary>
public enum PointAnswer
{
    /// <summary>Nothing yet.</summary>
    Open,

    /// <summary>Nothing was found.</summary>
    Fine,

    /// <summary>Something was found, and put right at once.</summary>
    PutRight,

    /// <summary>Something was found, and stands.</summary>
    Finding,

    /// <summary>It could not be seen.</summary>
    CannotSee,
}

/// <summary>A point of the once-over: a look at one unit, and what was said of it.</summary>
/// <param name="Check">The look.</param>
/// <param name="Unit">The unit.</param>
/// <param name="Place">Where it is.</param>
/// <param name="Answer">What was said of it last.</param>
/// <param name="What">Which of the things that the look tells apart was found; empty where it was not told.</param>
public sealed record OncePoint(Check Check, Unit Unit, Place Place, PointAnswer Answer, string What);

/// <summary>The once-over with the power off: every look that is worth a visit of this machine, and what was said of each.</summary>
public static class OnceOver
{
    /// <summary>Its points: what hides other things first, then by place.</summary>
    /// <param name="job">The job.</param>
    /// <param name="atlas">The looks.</param>
    /// <param name="walk">Where in walking order a kind of place comes.</param>
    public static ImmutableArray<OncePoint> Of(BenchJob job, Atlas atlas, Func<PlaceKind, int> walk) =>
        [
            .. job
                .Now.Now.At.SelectMany(at =>
                    atlas.Checks.Where(c => IsPoint(c, job, at.Value)).Select(c => Point(job, c, at.Key, at.Value))
                )
                .OrderBy(p => p.Check.IsFirst ? 0 : 1)
                .ThenBy(p => walk(p.Place.Kind))
                .ThenBy(p => p.Place),
        ];

    /// <summary>
    /// The lines that an answer records: a finding, what put it right, or that it could not be seen. Null where it cannot be
    /// put right in place, so that it is recorded as a finding.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="atlas">The looks and cures.</param>
    /// <param name="check">The look.</param>
    /// <param name="unit">The unit.</param>
    /// <param name="answer">What was said.</param>
    /// <param name="what">Which of the things that the look tells apart; empty for any.</param>
    /// <param name="id">Id of the first line; the second carries one made from it.</param>
    public static ImmutableArray<Entry>? Lines(
        BenchJob job,
        Atlas atlas,
        Check check,
        UnitId unit,
        PointAnswer answer,
        string what,
        Guid id
    ) =>
        answer switch
        {
            PointAnswer.Fine => [new FindingEntry(id, check.Id, unit, found: false)],
            PointAnswer.Finding => [new FindingEntry(id, check.Id, unit, found: true) { What = what }],
            PointAnswer.CannotSee => [new UnseenEntry(id, check.Id, unit)],
            PointAnswer.PutRight when Righting(job, atlas, check, unit, what) is { } change =>
            [
                new FindingEntry(id, check.Id, unit, found: true) { What = what },
                new WorkEntry(Second(id), [change]),
            ],
            _ => null,
        };

    /// <summary>What puts right what a look finds; null where only another part helps, or another look.</summary>
    public static Change? Righting(BenchJob job, Atlas atlas, Check check, UnitId unit, string what)
    {
        var shows = check.Findings.FirstOrDefault(f => f.Id == what)?.Shows;
        var modes = (shows is null ? check.Findings.SelectMany(f => f.Shows).Concat(check.Shows) : shows)
            .OrderByDescending(s => s.Value)
            .Select(s => s.Key)
            .ToArray();
        var faults = Fault.AllOf(atlas, job.Now, job.Intake.Contexts, job.Intake.Received);
        return modes
            .SelectMany(m => faults.Where(f => f.Mode.Id == m && (f.Unit.Id == unit || f.Unit.Kind != check.On)))
            .Select(f => Cures.Mending(f, job.Now))
            .FirstOrDefault(c => c is not null && job.Now.TryAfter(c, out _, out _));
    }

    private static bool IsPoint(Check check, BenchJob job, UnitId unit) =>
        check.InVisit && check.On == job.Now.Parts[unit].Kind && (check.OnlyWith is null || job.Intake.Contexts.Contains(check.OnlyWith));

    private static Guid Second(Guid id)
    {
        var bytes = id.ToByteArray();
        bytes[15] ^= 0x5a;
        return new Guid(bytes);
    }

    private static OncePoint Point(BenchJob job, Check check, Place place, UnitId unit)
    {
        var said = job
            .InOrder.Where(l =>
                l.Stands is FindingEntry f
                    ? f.Check == check.Id && f.Unit == unit
                    : l.Stands is UnseenEntry u && u.Check == check.Id && u.Unit == unit
            )
            .LastOrDefault();
        var next = said is null ? null : job.InOrder.FirstOrDefault(l => l.Position > said.Position && l.Stands is not null);
        var answer = said?.Stands switch
        {
            FindingEntry { Found: false } => PointAnswer.Fine,
            FindingEntry found => next?.Stands is WorkEntry && next.Written.Id == Second(found.Id)
                ? PointAnswer.PutRight
                : PointAnswer.Finding,
            UnseenEntry => PointAnswer.CannotSee,
            _ => PointAnswer.Open,
        };
        return new OncePoint(check, job.Now.Parts[unit], place, answer, (said?.Stands as FindingEntry)?.What ?? "");
    }
}
