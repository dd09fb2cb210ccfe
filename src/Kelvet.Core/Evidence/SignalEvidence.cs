using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;

namespace Kelvet.Core.Evidence;

/// <summary>How a signal of a start is read.</summary>
public enum SignalReading
{
    /// <summary>The code stood.</summary>
    Stood,

    /// <summary>The code still changed: seen in passing.</summary>
    StillChanging,

    /// <summary>The code came round again and again.</summary>
    RoundAndRound,

    /// <summary>A dark display with nothing before it: nothing runs, or no reader is fitted.</summary>
    NothingRuns,

    /// <summary>A dark display after other codes: the firmware has handed over.</summary>
    HandedOver,

    /// <summary>Beeps.</summary>
    Heard,

    /// <summary>Lights that a table lists.</summary>
    Seen,

    /// <summary>A sequence of lights that no table lists: its last.</summary>
    LastLight,

    /// <summary>The same, before all went dark.</summary>
    LastLightThenDark,

    /// <summary>Not a code that tables list.</summary>
    NoCode,
}

/// <summary>What one signal of a start says, and how much it weighs.</summary>
/// <param name="Answer">What the tables say.</param>
/// <param name="Weighed">The likelihoods that it brings in; null when it brings none.</param>
/// <param name="How">How it is read.</param>
public sealed record SignalSaying(SignalAnswer Answer, StallSignal? Weighed, SignalReading How);

/// <summary>
/// Reads the code, beeps and lights of a start against the tables, as likelihoods per stall domain. A signal is a pointer,
/// never a verdict: its likelihoods are blunted by the family's uncertainty, and all of a start together move no domain
/// against another by more than <see cref="MostRatio"/>.
/// </summary>
public static class SignalEvidence
{
    /// <summary>Most that all signals of one start may favour one domain over another: a little more than one plain indicator.
    /// Bench judgement.</summary>
    public const double MostRatio = 40;

    /// <summary>Added uncertainty where the family is not known, and for a row that is doubtful. Bench judgement.</summary>
    private const double UnknownFamily = 0.2;
    private const double DoubtfulRow = 0.15;

    /// <summary>Power to which a further signal of the same start counts: the same firmware speaks twice. Bench judgement.</summary>
    private const double Further = 0.5;

    /// <summary>How far a passed code speaks against its own domain: start-up went on after it. Bench judgement.</summary>
    private const double PassedAgainst = 0.35;

    /// <summary>A dark or silent code display: nothing runs, or nothing is fitted. In the order of <see cref="StallDomain"/>. Bench
    /// judgement.</summary>
    private static readonly StallSignal Silence = new([0.6, 0.5, 0.15, 0.06, 0.06, 0.15]);

    /// <summary>A silent display after other codes: handed over.</summary>
    private static readonly StallSignal HandedOver = new([0.06, 0.05, 0.05, 0.35, 0.3, 0.8]);

    /// <summary>Codes that a display shows when firmware writes nothing.</summary>
    private static readonly ImmutableArray<string> Silent = ["00", "FF", "--"];

    /// <summary>The likelihoods of everything that lights, codes and beeps of a start say; null when they say nothing.</summary>
    /// <param name="entry">The start.</param>
    /// <param name="board">The board that was fitted; null when none was.</param>
    /// <param name="library">The tables.</param>
    public static StallSignal? Of(TrialEntry entry, Motherboard? board, SignalLibrary library)
    {
        var said = Sayings(entry.Signs, board, library).Select(s => s.Weighed).OfType<StallSignal>();
        return Together(entry.Stall is { } chosen ? said.Prepend(chosen) : said);
    }

    /// <summary>Each signal of a start with what it says.</summary>
    public static ImmutableArray<SignalSaying> Sayings(Signs signs, Motherboard? board, SignalLibrary library)
    {
        var family = library.FamilyOf(board);
        var sayings = ImmutableArray.CreateBuilder<SignalSaying>();
        if (signs.Code.Length > 0)
            sayings.Add(OfCode(signs, family, library));
        if (SignalText.Of(SignalKind.Beeps, signs.Beeps) is { } beeps)
            sayings.Add(OfOther(library.Ask(SignalKind.Beeps, beeps, family), SignalReading.Heard, signs.BeepsSure));
        if (signs.Lights.Length > 0 && OfLights(signs.Lights, family, library) is { } lights)
            sayings.Add(lights);
        return sayings.ToImmutable();
    }

    private static SignalSaying OfCode(Signs signs, ImmutableArray<string> family, SignalLibrary library)
    {
        if (SignalText.Of(SignalKind.Post, signs.Code) is not { Length: 2 } code)
        {
            return SignalText.Of(SignalKind.Firmware, signs.Code) is { } status
                ? OfOther(library.Ask(SignalKind.Firmware, status, family), SignalReading.Stood)
                : new SignalSaying(new SignalAnswer(SignalKind.Post, signs.Code, false, [], 0), null, SignalReading.NoCode);
        }

        var before = Passed(signs).ToArray();
        var answer = library.Ask(SignalKind.Post, code, family);
        StallSignal? weighed;
        SignalReading how;
        if (Silent.Contains(code) && (answer.Matches.Length == 0 || answer.Matches[0].Row.Points is StallDomain.Power or StallDomain.Cpu))
        {
            (weighed, how) = before.Length > 0 ? (HandedOver, SignalReading.HandedOver) : (Silence, SignalReading.NothingRuns);
        }
        else
        {
            weighed = answer.Matches.Length == 0 ? null : Blunted(answer);
            (weighed, how) = signs.Motion switch
            {
                CodeMotion.Passing => (weighed is null ? null : Against(weighed), SignalReading.StillChanging),
                CodeMotion.Cycling => (weighed is null ? null : Power(weighed, Further), SignalReading.RoundAndRound),
                _ => (weighed, SignalReading.Stood),
            };
        }

        var passed = before
            .Select(c => library.Ask(SignalKind.Post, c, family))
            .Where(a => a.Matches.Length > 0)
            .Select(a => Power(Against(Blunted(a)), Further));
        return new SignalSaying(answer, Together(weighed is null ? passed : passed.Prepend(weighed), tempered: false), how);
    }

    /// <summary>Codes that stood before the last, each once, the silent ones left out.</summary>
    private static IEnumerable<string> Passed(Signs signs) =>
        signs
            .Codes.Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select(c => SignalText.Of(SignalKind.Post, c))
            .OfType<string>()
            .Where(c => c.Length == 2 && !Silent.Contains(c) && c != SignalText.Of(SignalKind.Post, signs.Code))
            .Distinct();

    private static SignalSaying? OfLights(string text, ImmutableArray<string> family, SignalLibrary library)
    {
        if (SignalText.Of(SignalKind.Lights, text) is not { } key)
            return null;
        var answer = library.Ask(SignalKind.Lights, key, family);
        if (answer.Matches.Length > 0 || !LightSequence.TryParse(text, out var lights) || lights.Steps.Length == 0)
            return OfOther(answer, SignalReading.Seen);

        // A sequence that no table lists: the light that came last says most, with more doubt.
        var last = library.Ask(SignalKind.Lights, lights.Steps[^1].Light.ToString().ToLowerInvariant(), family);
        return last.Matches.Length == 0
            ? OfOther(answer, SignalReading.Seen)
            : new SignalSaying(
                last,
                Power(Blunted(last), lights.EndedDark ? Further * Further : Further),
                lights.EndedDark ? SignalReading.LastLightThenDark : SignalReading.LastLight
            );
    }

    private static SignalSaying OfOther(SignalAnswer answer, SignalReading how, double sure = 1) =>
        new(answer, answer.Matches.Length == 0 ? null : Blunted(answer, sure), how);

    /// <summary>The answers mixed by their weights, each blunted by what is uncertain about it and about what was heard.</summary>
    private static StallSignal Blunted(SignalAnswer answer, double sure = 1)
    {
        var mixed = new double[Enum.GetValues<StallDomain>().Length];
        foreach (var match in answer.Matches)
        {
            var row = match.Row.Likelihoods.Likelihoods;
            var doubt = Math.Min(
                0.9,
                match.Table.Uncertainty
                    + (answer.FamilyKnown ? 0 : UnknownFamily)
                    + (match.Row.Confidence == Confidence.Doubtful ? DoubtfulRow : 0)
            );
            doubt = 1 - ((1 - doubt) * sure);
            for (var d = 0; d < mixed.Length; d++)
                mixed[d] += match.Weight * (((1 - doubt) * row[d]) + (doubt * row.Average()));
        }

        return new StallSignal(mixed);
    }

    /// <summary>The code was passed: it speaks against a stall in what it stands for.</summary>
    private static StallSignal Against(StallSignal signal)
    {
        var most = signal.Likelihoods.Max();
        return new StallSignal(signal.Likelihoods.Select(l => 1 - (PassedAgainst * l / most)));
    }

    private static StallSignal Power(StallSignal signal, double power) => new(signal.Likelihoods.Select(l => Math.Pow(l, power)));

    /// <summary>Several signals as one: the first in full, further ones at less, the whole held within <see cref="MostRatio"/>.</summary>
    private static StallSignal? Together(IEnumerable<StallSignal> signals, bool tempered = true)
    {
        var product = new double[Enum.GetValues<StallDomain>().Length];
        Array.Fill(product, 1);
        var any = 0;
        foreach (var signal in signals)
        {
            for (var d = 0; d < product.Length; d++)
                product[d] *= Math.Pow(signal.Likelihoods[d], tempered && any > 0 ? Further : 1);
            any++;
        }

        if (any == 0)
            return null;
        var most = product.Max();
        return any == 1 && most / product.Min() <= MostRatio
            ? signals.First()
            : new StallSignal(product.Select(p => Math.Max(p / most, 1 / MostRatio)));
    }
}
