using Kelvet.Core.Evidence;
using Kelvet.Core.Hearing;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>What a page is told about beeps or lights that it sent.</summary>
/// <param name="Signal">The pattern or sequence, to be noted with the start; empty when there is none.</param>
/// <param name="Sure">Whether it may be filled in without asking.</param>
/// <param name="Confidence">0 to 1.</param>
/// <param name="Words">What was heard or seen, in words.</param>
/// <param name="Says">What it points at.</param>
/// <param name="DoesNotSay">What it leaves open.</param>
/// <param name="Answers">The tables' answers, the likeliest first.</param>
/// <param name="Beeps">Start and end of each beep, seconds.</param>
public sealed record Told(
    string Signal,
    bool Sure,
    double Confidence,
    string Words,
    string Says,
    string DoesNotSay,
    IReadOnlyList<ToldAnswer> Answers,
    IReadOnlyList<double[]> Beeps
);

/// <summary>One table's answer.</summary>
public sealed record ToldAnswer(string Table, string Name, string Signal, string Meaning, int Share, string Confidence);

/// <summary>Taps of a finger along with beeps: start and end of each, seconds, and when listening ended.</summary>
public sealed record Taps(double[][]? Beeps, double End);

/// <summary>Taps as indicators lit: indicator (cpu, memory, video, boot), on and off (null while lit), and when watching ended.</summary>
public sealed record LightTaps(LightTapSent?[]? Lights, double End);

/// <summary>One indicator that lit.</summary>
public sealed record LightTapSent(string? Light, double On, double? Off);

/// <summary>Decoding for the page: sound, taps, lights. Nothing is stored.</summary>
public static class Listening
{
    private const int MostTaps = 500;

    /// <summary>Addresses of the decoders; "job" names the job whose board and machine the answer is for.</summary>
    public static void Map(WebApplication app)
    {
        app.MapPost(
            "/listen/sound",
            async (HttpRequest request, int? rate, int? job, JobStore store, DiagnosisCache readings, CancellationToken cancel) =>
            {
                try
                {
                    using var memory = new MemoryStream();
                    await request.Body.CopyToAsync(memory, cancel);
                    var recording = rate is { } r ? Recording.OfPcm(memory.ToArray(), r) : Recording.OfWav(memory.ToArray());
                    return Results.Ok(TellHeard(recording.Listen(), await MachineAsync(job, store, readings, cancel)));
                }
                catch (DataFileException e)
                {
                    return Results.BadRequest(new { problem = e.Message });
                }
            }
        );
        app.MapPost(
            "/listen/taps",
            async (Taps? taps, int? job, JobStore store, DiagnosisCache readings, CancellationToken cancel) =>
            {
                var beeps = taps?.Beeps ?? [];
                if (
                    taps is null
                    || beeps.Length > MostTaps
                    || beeps.Any(b => b is not { Length: 2 } || !(b[0] >= 0) || !(b[1] > b[0]) || !double.IsFinite(b[1]))
                    || !double.IsFinite(taps.End)
                )
                    return Results.BadRequest(new { problem = "A tap needs a start and a later end in seconds." });
                Beep[] all = [.. beeps.Select(b => new Beep(b[0], b[1])).OrderBy(b => b.Start)];
                return Results.Ok(
                    TellPattern(BeepRhythm.Read(all, taps.End, byHand: true), "", all, await MachineAsync(job, store, readings, cancel))
                );
            }
        );
        app.MapGet(
            "/listen/written",
            async (SignalKind kind, string? text, int? job, JobStore store, DiagnosisCache readings, CancellationToken cancel) =>
                SignalText.Typed(kind, text) is { } signal
                    ? Results.Ok(TellWritten(kind, text!, signal, await MachineAsync(job, store, readings, cancel)))
                    : Results.BadRequest(new { problem = $"\"{text}\" cannot be read; expected {SignalText.Expected(kind)}." })
        );
        app.MapPost(
            "/listen/lights",
            async (LightTaps? taps, int? job, JobStore store, DiagnosisCache readings, CancellationToken cancel) =>
            {
                try
                {
                    if (taps?.Lights is not { Length: <= MostTaps } sent)
                        return Results.BadRequest(new { problem = "Send the lights as they lit." });
                    if (sent.Any(t => t is null))
                        return Results.BadRequest(new { problem = "One of the lights is empty. Send each with its name and when it lit." });
                    var lights = LightSequence.Of(
                        sent.Select(t => new LightTap(
                            Dashed.TryRead<StallDomain>(t!.Light?.ToLowerInvariant(), out var d) ? d : StallDomain.None,
                            t.On,
                            t.Off
                        )),
                        taps.End
                    );
                    return Results.Ok(TellLights(lights, await MachineAsync(job, store, readings, cancel)));
                }
                catch (ArgumentException e)
                {
                    return Results.BadRequest(new { problem = e.Message.Split(" (Parameter")[0] });
                }
            }
        );
    }

    /// <summary>What was heard in a recording.</summary>
    public static Told TellHeard(Heard heard, (BenchDiagnosis?, SignalLibrary) machine) =>
        TellPattern(
            heard.Pattern,
            heard.ToneHz > 0 ? $"tone {heard.ToneHz:0} Hz, {heard.AboveNoise:0} dB above what else is there" : "",
            heard.Beeps,
            machine
        );

    private static Told TellPattern(
        HeardPattern heard,
        string tone,
        IReadOnlyList<Beep> beeps,
        (BenchDiagnosis? Job, SignalLibrary Signals) machine
    )
    {
        var signal = heard.Pattern?.ToString() ?? "";
        string[] words =
        [
            heard.Pattern is null ? "No pattern" : $"{signal}{(heard.Rounds > 1 ? $", {heard.Rounds} times" : "")}",
            heard.Why,
            tone,
            heard.Pattern is null ? "" : $"{Math.Round(100 * heard.Confidence)} % sure",
        ];
        return Tell(
            new Signs { Beeps = signal },
            signal,
            heard.IsSure,
            heard.Confidence,
            string.Join("; ", words.Where(w => w.Length > 0)),
            beeps,
            machine
        );
    }

    /// <summary>What a signal says that was written by hand.</summary>
    public static Told TellWritten(SignalKind kind, string text, string signal, (BenchDiagnosis?, SignalLibrary) machine) =>
        Tell(
            kind switch
            {
                SignalKind.Beeps => new Signs { Beeps = text },
                SignalKind.Lights => new Signs { Lights = text },
                _ => new Signs { Code = text },
            },
            signal,
            true,
            1,
            signal,
            [],
            machine
        );

    private static Told TellLights(LightSequence lights, (BenchDiagnosis?, SignalLibrary) machine)
    {
        var last = lights.Steps.LastOrDefault();
        string[] words =
        [
            lights.Steps.Length == 0
                ? "no light"
                : string.Join(
                    ", ",
                    lights.Steps.Select(s =>
                        $"{s.Light.Words()} "
                        + s.Manner switch
                        {
                            LightManner.Flickers => "flickers, ",
                            LightManner.ByTurns => "by turns, ",
                            LightManner.Together => "together, ",
                            _ => "",
                        }
                        + $"{s.Seconds:0.0} s"
                    )
                ),
            lights.StillLit && last?.Seconds >= LightSequence.Stuck ? $"{last.Light.Words()} is stuck"
            : lights.StillLit ? $"{last!.Light.Words()} still lit: wait for {LightSequence.Stuck:0} s before calling it stuck"
            : lights.EndedDark ? "then dark"
            : "",
            lights.Skipped.Length > 0 ? $"skipped or missed: {string.Join(", ", lights.Skipped.Select(s => s.Words()))}" : "",
        ];
        return Tell(
            new Signs { Lights = lights.ToString() },
            lights.ToString(),
            lights.Steps.Length > 0,
            1,
            string.Join("; ", words.Where(w => w.Length > 0)),
            [],
            machine
        );
    }

    private static Told Tell(
        Signs signs,
        string signal,
        bool sure,
        double confidence,
        string words,
        IReadOnlyList<Beep> beeps,
        (BenchDiagnosis? Job, SignalLibrary Signals) machine
    )
    {
        var situation = machine.Job?.Job.Now;
        var saying = SignalEvidence.Sayings(signs, situation?.Board, machine.Signals).FirstOrDefault();
        var meaning = saying is null ? null : SignalMeaning.Of(saying, machine.Job?.Faults ?? [], situation);
        return new Told(
            signal,
            sure,
            confidence,
            words,
            meaning?.Says ?? "",
            meaning?.DoesNotSay ?? "",
            [
                .. (saying?.Answer.Matches ?? []).Select(m => new ToldAnswer(
                    m.Table.Id,
                    m.Table.Name,
                    m.Row.Signal,
                    m.Row.Meaning,
                    (int)Math.Round(100 * m.Weight),
                    m.Row.Confidence.Words()
                )),
            ],
            [.. beeps.Select(b => new[] { Math.Round(b.Start, 3), Math.Round(b.End, 3) })]
        );
    }

    /// <summary>The machine that an answer is for; no diagnosis where there is no such job.</summary>
    public static async Task<(BenchDiagnosis?, SignalLibrary)> MachineAsync(
        int? job,
        JobStore store,
        DiagnosisCache readings,
        CancellationToken cancel
    )
    {
        var rules = await readings.RulesAsync();
        return job is { } number && await store.FindAsync(number, cancel) is { } stored
            ? (readings.Of(stored, await readings.RulesAsync(stored)).Diagnosis, rules.Atlas.Signals)
            : (null, rules.Atlas.Signals);
    }
}
