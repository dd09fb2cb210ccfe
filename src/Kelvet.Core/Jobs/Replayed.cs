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
        var reader = new Reader(this);
        foreach (var line in lines)
        {
            try
            {
                reader.Read(line);
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

        return reader.Read();
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

    /// <summary>What each kind of line makes of the machine, the starts and the testimonies.</summary>
    private sealed class Reader(Replayed before) : ILineReader<Situation>
    {
        private readonly ImmutableArray<Trial>.Builder _trials = before.Trials.ToBuilder();
        private readonly ImmutableArray<Testimony>.Builder _testimonies = before.Testimonies.ToBuilder();
        private readonly ImmutableArray<Change>.Builder _since = before.Since.ToBuilder();
        private Situation _now = before.Now;
        private LogLine _line = null!;

        public void Read(LogLine line)
        {
            _line = line;
            _now = line.Stands?.ReadBy(this) ?? _now;
        }

        public Replayed Read() =>
            before with
            {
                Now = _now,
                Trials = _trials.ToImmutable(),
                Testimonies = _testimonies.ToImmutable(),
                Since = _since.ToImmutable(),
            };

        public Situation Trial(TrialEntry line)
        {
            var now = Work(line.Changes);
            if (now.WhyNotPowered() is { } unsafeNow)
                throw new ChangeRefusedException(unsafeNow);
            _trials.Add(
                new Trial(_line.Number, _line.Position, _trials.Count + 1, line, _since.ToImmutable(), now, Ceiling.Of(now))
                {
                    Goal = before.Goal,
                }
            );
            _since.Clear();
            return now;
        }

        public Situation Work(WorkEntry line) => Work(line.Changes);

        public Situation Finding(FindingEntry line) => Told(line, Looked(_now, line.Check, line.Unit));

        public Situation Claim(ClaimEntry line) => Told(line, Situation.AtIntake(_now.Parts, before.Received).After(line.Changes));

        public Situation Elsewhere(ElsewhereEntry line) => Told(line, Known(_now, line.Unit));

        public Situation Unseen(UnseenEntry line) => Looked(_now, line.Check, line.Unit);

        public Situation Misfit(MisfitEntry line) => Known(_now, line.Unit);

        public Situation ProofChoice(ProofChoiceEntry line) => Known(_now, line.Unit);

        public Situation GoAhead(GoAheadEntry line) => Known(_now, line.Unit);

        public Situation Settled(SettledEntry line) => Known(_now, line.Unit);

        public Situation Arrival(ArrivalEntry line) => _now.WithUnit(line.Unit);

        public Situation Amend(AmendEntry line) => _now;

        public Situation Procedure(ProcedureEntry line) => _now;

        public Situation Note(NoteEntry line) => _now;

        public Situation Strike(StrikeEntry line) => _now;

        public Situation Insert(InsertEntry line) => _now;

        private Situation Work(ImmutableArray<Change> changes)
        {
            var now = _now.After(changes);
            _since.AddRange(changes);
            return now;
        }

        private Situation Told(Entry line, Situation seen)
        {
            _testimonies.Add(new Testimony(_line.Number, _line.Position, line, seen));
            return _now;
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
