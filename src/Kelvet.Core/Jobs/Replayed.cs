using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>What follows from a log up to a line: the machine, the trials, the testimonies, and the changes since the last trial.</summary>
internal sealed record Replayed(
    BootStage Goal,
    Configuration Received,
    Situation Now,
    ImmutableArray<Trial> Trials,
    ImmutableArray<Testimony> Testimonies,
    ImmutableArray<Change> Since
)
{
    /// <summary>Before the first line.</summary>
    public static Replayed AtIntake(Intake intake) =>
        new(BenchJob.GoalOf(intake), intake.Received, Situation.AtIntake(intake.Parts, intake.Received), [], [], []);

    /// <summary>With further lines worked in.</summary>
    /// <param name="lines">The lines, in the order of events.</param>
    /// <param name="newest">Number of the line that is being added.</param>
    /// <exception cref="EntryRefusedException">One of them is not possible on the machine as it then stands.</exception>
    public Replayed After(IEnumerable<LogLine> lines, int newest)
    {
        var trials = Trials.ToBuilder();
        var testimonies = Testimonies.ToBuilder();
        var since = Since.ToBuilder();
        var now = Now;
        foreach (var line in lines)
        {
            try
            {
                now = Work(line, now, trials, testimonies, since);
            }
            catch (Exception e) when (e is ChangeRefusedException or ArgumentException)
            {
                throw new EntryRefusedException(
                    line.Number == newest ? e.Message : $"Line {line.Number} would no longer be possible: {e.Message}",
                    e
                )
                {
                    Line = line.StruckBy is { } strike ? NumberOf(strike, lines) : line.Number,
                };
            }
        }

        return this with
        {
            Now = now,
            Trials = trials.ToImmutable(),
            Testimonies = testimonies.ToImmutable(),
            Since = since.ToImmutable(),
        };
    }

    /// <summary>With further lines worked in; those that are not possible are left out, with the reason.</summary>
    public (Replayed Replayed, ImmutableArray<(LogLine Line, string Why)> Impossible) Leniently(IEnumerable<LogLine> lines)
    {
        var after = this;
        var impossible = ImmutableArray.CreateBuilder<(LogLine, string)>();
        foreach (var line in lines)
        {
            try
            {
                after = after.After([line], line.Number);
            }
            catch (EntryRefusedException e)
            {
                impossible.Add((line, e.Message));
            }
        }

        return (after, impossible.ToImmutable());
    }

    private Situation Work(
        LogLine line,
        Situation now,
        ImmutableArray<Trial>.Builder trials,
        ImmutableArray<Testimony>.Builder testimonies,
        ImmutableArray<Change>.Builder since
    )
    {
        switch (line.Stands)
        {
            case ArrivalEntry arrival:
                return now.WithUnit(arrival.Unit);
            case WorkEntry work:
                since.AddRange(work.Changes);
                return now.After(work.Changes);
            case TrialEntry trial:
                now = now.After(trial.Changes);
                since.AddRange(trial.Changes);
                if (now.WhyNotPowered() is { } unsafeNow)
                    throw new ChangeRefusedException(unsafeNow);
                trials.Add(
                    new Trial(line.Number, line.Position, trials.Count + 1, trial, since.ToImmutable(), now, Ceiling.Of(now))
                    {
                        Goal = Goal,
                    }
                );
                since.Clear();
                return now;
            case ClaimEntry claim:
                testimonies.Add(
                    new Testimony(line.Number, line.Position, claim, Situation.AtIntake(now.Parts, Received).After(claim.Changes))
                );
                return now;
            case UnseenEntry unseen:
                _ = Looked(now, unseen.Check, unseen.Unit);
                return now;
            case MisfitEntry misfit:
                _ = Known(now, misfit.Unit);
                return now;
            case ProofChoiceEntry choice:
                _ = Known(now, choice.Unit);
                return now;
            case FindingEntry finding:
                testimonies.Add(new Testimony(line.Number, line.Position, finding, Looked(now, finding.Check, finding.Unit)));
                return now;
            case ElsewhereEntry elsewhere:
                testimonies.Add(new Testimony(line.Number, line.Position, elsewhere, Known(now, elsewhere.Unit)));
                return now;
            default:
                return now;
        }
    }

    /// <summary>A look is of the kind of unit that it looks at. One that the atlas does not know is kept, and says nothing.</summary>
    private static Situation Looked(Situation now, string check, UnitId unit)
    {
        _ = Known(now, unit);
        return Atlas.Standard.Check(check) is { } look && now.Parts[unit].Kind is var kind && kind != look.On
            ? throw new ChangeRefusedException(
                $"\"{look.Name}\" is done to a {look.On.Words()}, and {now.Parts[unit].Name} is a {kind.Words()}."
            )
            : now;
    }

    private static Situation Known(Situation now, UnitId unit) =>
        now.Parts.Has(unit) ? now : throw new ChangeRefusedException($"There is no unit {unit} in this job.");

    private static int NumberOf(Entry entry, IEnumerable<LogLine> lines) =>
        lines.FirstOrDefault(l => l.Written.Id == entry.Id)?.Number ?? 0;
}
