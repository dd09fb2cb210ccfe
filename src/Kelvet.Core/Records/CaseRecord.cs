using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;

namespace Kelvet.Core.Records;

/// <summary>A part that a report names, as it stood.</summary>
/// <param name="Unit">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Serial">Serial number or mark; empty when not recorded.</param>
/// <param name="Fault">Its likeliest fault.</param>
/// <param name="Standing">Its standing.</param>
/// <param name="Probability">The case against it, in words.</param>
/// <param name="Story">What the log proves, in the order in which it happened; empty when nothing.</param>
/// <param name="Accepted">Why one side of the proof was enough; empty where it was not accepted so.</param>
/// <param name="Mode">Id of its likeliest fault mode; empty in records from before it was kept.</param>
public sealed record NamedPart(
    string Unit,
    string Name,
    string Serial,
    string Fault,
    Standing Standing,
    string Probability,
    string Story,
    string Accepted = "",
    string Mode = ""
);

/// <summary>What a job was first taken for.</summary>
/// <param name="Unit">The part; empty where somebody said that it was nothing in particular.</param>
/// <param name="Name">Its name.</param>
/// <param name="Said">Whether a technician said so; otherwise it is what the log spoke for after the first start that failed.</param>
public sealed record FirstGuess(string Unit, string Name, bool Said);

/// <summary>
/// The figures of a job as a report prints them. What a job was closed with is kept as it was read then, so that the report
/// prints the same next year, whatever has been learnt or changed since.
/// </summary>
/// <param name="Named">The parts that are named as the cause.</param>
/// <param name="Left">Chance that something is left, in words; empty before the first trial.</param>
/// <param name="CameAndWent">How often it came and went, in words; empty when it did not.</param>
/// <param name="First">What it was first taken for; null where nothing failed here, or in records from before it was kept.</param>
/// <param name="Followed">Lines that were what had been proposed.</param>
/// <param name="Advised">Lines of which it is known whether they were, 0 upward.</param>
public sealed record CaseRecord(
    ImmutableArray<NamedPart> Named,
    string Left,
    string CameAndWent,
    FirstGuess? First = null,
    int Followed = 0,
    int Advised = 0
)
{
    private static readonly JsonSerializerOptions Json = new() { Converters = { new JsonStringEnumConverter() } };

    /// <summary>The version of this shape that is written. Before the first, standings were numbers and it said no version.</summary>
    public const int Current = 1;

    /// <summary>Version of the shape that it was read from, or is written in.</summary>
    [JsonPropertyOrder(-1)]
    public int Version { get; init; } = Current;

    /// <summary>The record as it is kept.</summary>
    public string Write() => JsonSerializer.Serialize(this with { Version = Current }, Json);

    /// <summary>A record that was kept, of any version up to this one.</summary>
    /// <exception cref="DataFileException">It is none, or of a newer version.</exception>
    public static CaseRecord Read(string json)
    {
        try
        {
            var record = JsonSerializer.Deserialize<CaseRecord>(json, Json);
            if (record is null || record.Named.IsDefault)
                throw new DataFileException("What the job was closed with cannot be read: it names no parts.");
            return record.Version <= Current
                ? record
                : throw new DataFileException($"What the job was closed with was kept by a newer version ({record.Version}).");
        }
        catch (JsonException e)
        {
            throw new DataFileException($"What the job was closed with cannot be read: {e.Message}", e);
        }
    }

    /// <summary>Whether what it was first taken for was among what it was; null where either is not known.</summary>
    [JsonIgnore]
    public bool? FirstWasRight => First is null || Named.IsEmpty ? null : Named.Any(n => n.Unit == First.Unit);

    /// <summary>The figures of a log as it is read now.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="preferences">The shop's, by which a proof is worth its price or not.</param>
    /// <param name="found">The parts that were found at fault; null while the job is open, for those that stand out.</param>
    public static CaseRecord Of(BenchDiagnosis diagnosis, Preferences preferences, IReadOnlyCollection<UnitId>? found = null)
    {
        var accepted = ProofPrice.Of(diagnosis, preferences).Where(p => p.Accepted).ToDictionary(p => p.Unit.Id, p => p.Because());
        var named = diagnosis.Suspects.Where(s =>
            found?.Contains(s.Unit.Id) ?? s.Standing is Standing.Condemned or Standing.PutRight or Standing.ProofOneWay or Standing.Suspect
        );
        var outlook = Outlook.Of(diagnosis, preferences);
        var (followed, advised) = Planning.Followed.Of(diagnosis.Job);
        return new CaseRecord(
            [
                .. named.Select(s => new NamedPart(
                    s.Unit.Id.Value,
                    s.Unit.Name,
                    s.Unit.Serial,
                    s.Leading.Fault.Words(),
                    s.Standing,
                    Percent.Words(s.Probability),
                    s.Proof.Story(),
                    accepted.GetValueOrDefault(s.Unit.Id, ""),
                    s.Leading.Fault.Mode.Id
                )),
            ],
            diagnosis.Job.Trials.Length == 0 ? "" : Percent.Words(outlook.Left),
            outlook.Intermittence is { } i ? i.Words() : "",
            FirstTakenFor(diagnosis),
            followed,
            advised
        );
    }

    /// <summary>Parts that the log speaks for as the cause: proved, put right, or accepted without the whole proof.</summary>
    public static ImmutableArray<UnitId> StandingOut(BenchDiagnosis diagnosis, Preferences preferences)
    {
        UnitId[] accepted = [.. ProofPrice.Of(diagnosis, preferences).Where(p => p.Accepted).Select(p => p.Unit.Id)];
        return
        [
            .. diagnosis
                .Suspects.Where(s =>
                    s.Standing is Standing.Condemned or Standing.PutRight or Standing.ProofOneWay || accepted.Contains(s.Unit.Id)
                )
                .Select(s => s.Unit.Id),
        ];
    }

    /// <summary>What the log spoke for after the first start that failed; null where none did.</summary>
    public static FirstGuess? FirstTakenFor(BenchDiagnosis diagnosis)
    {
        if (diagnosis.Job.Trials.FirstOrDefault(t => t.Failed) is not { } first)
            return null;
        var then = BenchDiagnosis.Of(diagnosis.Job.AfterLines(first.Number), diagnosis.Atlas);
        var unit = then.Suspects.Where(s => s.Unit.Origin == Origin.Customer).MaxBy(s => s.Probability)?.Unit;
        return unit is null ? null : new FirstGuess(unit.Id.Value, unit.Name, Said: false);
    }
}
