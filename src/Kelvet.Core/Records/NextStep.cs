using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;

namespace Kelvet.Core.Records;

/// <summary>What an outcome of a step would mean.</summary>
/// <param name="Seen">How far it gets, as files have it; empty for a look.</param>
/// <param name="Found">Of a look, whether it finds something.</param>
/// <param name="Probability">How likely it is, 0 to 1.</param>
/// <param name="Suspects">Units and how likely each would then be at fault.</param>
public sealed record NextOutcome(string Seen, bool? Found, double Probability, ImmutableArray<NextSuspect> Suspects);

/// <summary>A unit and how likely it is at fault.</summary>
/// <param name="Unit">Its id.</param>
/// <param name="Probability">0 to 1.</param>
public sealed record NextSuspect(string Unit, double Probability);

/// <summary>What is still open before a part is bought or left out.</summary>
/// <param name="Unit">The part.</param>
/// <param name="Settings">Its board's settings were never cleared.</param>
/// <param name="Seat">It was never seated anew.</param>
/// <param name="Contacts">Its contacts were never cleaned.</param>
/// <param name="Looks">Looks at it that were not made.</param>
public sealed record NextOpen(string Unit, bool Settings, bool Seat, bool Contacts, ImmutableArray<string> Looks);

/// <summary>The next step as data, for a program that plays a job: an act in the words of a job file, or a look, or a part to
/// get.</summary>
/// <param name="Phase">Where the work stands.</param>
/// <param name="Kind">What is advised.</param>
/// <param name="Say">The sentence that a technician reads.</param>
/// <param name="Changes">What is done before the start, as job files have it; empty for a plain start, and for a look.</param>
/// <param name="Starts">Whether the machine is then started.</param>
/// <param name="Start">The kind of start; null for an ordinary one.</param>
/// <param name="Look">Id of the look; null where it is none.</param>
/// <param name="Unit">The unit that is looked at; null where none is.</param>
/// <param name="Get">Kind of the part to get; null where none is.</param>
/// <param name="Attended">Minutes that somebody stands by.</param>
/// <param name="Waiting">Minutes that go by themselves.</param>
/// <param name="Outcomes">What it may show.</param>
/// <param name="Open">What is open before the part that it is about is bought or left out; null where it is about none.</param>
public sealed record NextStep(
    string Phase,
    string Kind,
    string Say,
    ImmutableArray<string> Changes,
    bool Starts,
    string? Start,
    string? Look,
    string? Unit,
    string? Get,
    double Attended,
    double Waiting,
    ImmutableArray<NextOutcome> Outcomes,
    NextOpen? Open
)
{
    /// <summary>Of advice.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="advice">The advice.</param>
    /// <param name="preferences">What it was worked out by.</param>
    public static NextStep Of(BenchDiagnosis diagnosis, Advice advice, Preferences preferences)
    {
        var decision = advice.Decision;
        var step = decision.Step;
        var reproduces = step is null && decision.Phase == Planning.Phase.Reproduce;
        var minutes = step?.Minutes.Value ?? (reproduces ? diagnosis.Atlas.Work.Wait.Value : 0);
        var waiting = step?.Waiting.Value ?? 0;
        var about = decision.About is { } unit && diagnosis.Job.Now.Parts.Has(unit.Id) ? unit.Id : (UnitId?)null;
        return new NextStep(
            Dashed.Of(decision.Phase),
            Dashed.Of(decision.Kind),
            advice.Words(),
            step is { Check: null } ? [.. step.Changes.Select(MachineFormat.Write)] : [],
            step is { Check: null } || reproduces,
            step?.Kind is { } kind ? Dashed.Of(kind) : null,
            step?.Check?.Id,
            step?.Checked?.Id.Value,
            step is null && decision.Missing is { } missing ? Dashed.Of(missing.Kind) : null,
            minutes - waiting,
            waiting,
            [
                .. (advice.Next?.Outcomes ?? []).Select(o => new NextOutcome(
                    o.Seen is { } seen ? ObservedFormat.Write(seen) : "",
                    o.Check is null ? null : o.Found,
                    o.Probability,
                    [.. o.Meaning.Select(m => new NextSuspect(m.Unit.Id.Value, m.Probability))]
                )),
            ],
            about is { } part ? OpenOf(part, OpenChecks.Of(diagnosis.Job, part, diagnosis.Atlas, preferences)) : null
        );
    }

    private static NextOpen OpenOf(UnitId unit, OpenChecks open) =>
        new(unit.Value, open.Settings, open.Seat, open.Contacts, [.. open.Looks.Select(c => c.Id)]);
}
