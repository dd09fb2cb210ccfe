using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Text;

namespace Kelvet.Data;

/// <summary>A line as it is stored, whether it can be read or not.</summary>
/// <param name="Number">1 for the first.</param>
/// <param name="Id">Its id.</param>
/// <param name="AtUtc">When it was written.</param>
/// <param name="Body">Its text.</param>
/// <param name="Entry">The line; null where it cannot be read.</param>
/// <param name="Unreadable">Why it cannot be read; empty where it can.</param>
/// <param name="IsStruck">Whether a later line strikes it.</param>
public sealed record StoredLine(int Number, Guid Id, DateTime AtUtc, string Body, Entry? Entry, string Unreadable, bool IsStruck)
{
    /// <summary>What stands, struck, in the place of a line that cannot be read.</summary>
    public Entry InPlace() =>
        new NoteEntry(Id)
        {
            Note = $"This line could not be read: {(Unreadable.Length > 300 ? Unreadable[..300] : Unreadable)}",
            At = new DateTimeOffset(DateTime.SpecifyKind(AtUtc, DateTimeKind.Utc)),
        };
}

/// <summary>A job as it is stored, line by line, for when it cannot be read as a whole.</summary>
/// <param name="Row">The job.</param>
/// <param name="Intake">Why its intake cannot be read; empty where it can.</param>
/// <param name="Lines">Its lines.</param>
public sealed record StoredLog(JobRow Row, string Intake, ImmutableArray<StoredLine> Lines)
{
    internal static StoredLog Of(JobRow row, IReadOnlyList<StepRow> steps)
    {
        var lines = steps.Select(Line).ToImmutableArray();
        // What was corrected counts in other words; the last strike says which.
        var strikes = lines.Select(l => l.Entry).OfType<StrikeEntry>().ToArray();
        var struck = strikes.GroupBy(s => s.Struck).Where(g => g.Last().Replacement is null).Select(g => g.Key).ToHashSet();
        struck.UnionWith(strikes.SelectMany(s => s.Also));
        return new StoredLog(row, WhyNot(row), [.. lines.Select(l => l with { IsStruck = struck.Contains(l.Id) })]);
    }

    private static string WhyNot(JobRow row)
    {
        try
        {
            _ = JobFormat.ReadIntake(row.IntakeJson);
            return "";
        }
        catch (DataFileException e)
        {
            return e.Message;
        }
    }

    private static StoredLine Line(StepRow step)
    {
        try
        {
            return new(step.Number, step.Id, step.AtUtc, step.Body, JobFormat.ReadEntry(step.Body), "", false);
        }
        catch (DataFileException e)
        {
            return new(step.Number, step.Id, step.AtUtc, step.Body, null, e.Message, false);
        }
    }
}
