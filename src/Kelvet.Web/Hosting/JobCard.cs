using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Drawing;

namespace Kelvet.Web.Hosting;

/// <summary>What the list of jobs shows of one: made from its log once, kept, and shown without reading the log again.</summary>
/// <param name="Machine">The machine as it stands, as an intake of the job format.</param>
/// <param name="Received">The same as it came in.</param>
/// <param name="Standings">How its units stand, by their ids; only those of whom something is said.</param>
/// <param name="Imperative">What to do next.</param>
/// <param name="IsProving">Whether a proof is under way, or the machine runs and is watched.</param>
/// <param name="Leader">The first suspect in words; empty before the first start.</param>
/// <param name="LeaderStands">How it stands.</param>
/// <param name="Rules">Id of the odds that it was read with.</param>
public sealed record JobCard(
    string Machine,
    string Received,
    IReadOnlyDictionary<string, Standing> Standings,
    string Imperative,
    bool IsProving,
    string Leader,
    Standing LeaderStands,
    string Rules
)
{
    /// <summary>The last days on which parts that are at fault, or stand out, can be given back, with their names.</summary>
    public IReadOnlyList<CardWindow> Windows { get; init; } = [];

    /// <summary>A window of a part of a job.</summary>
    public sealed record CardWindow(string Part, Window Kind, DateOnly Last);

    /// <summary>The card of a job.</summary>
    public static JobCard Of(StoredJob job, Reading reading)
    {
        var now = job.Bench.Now;
        var leader = job.Bench.Trials.Length > 0 ? reading.Diagnosis.Suspects[0] : null;
        return new JobCard(
            JobFormat.Write(Bare(now.Parts, now.Now)),
            JobFormat.Write(Bare(job.Bench.Intake.Parts, job.Bench.Intake.Received)),
            reading
                .Diagnosis.Suspects.Where(s => s.Standing is not (Standing.Open or Standing.Untested))
                .ToDictionary(s => s.Unit.Id.Value, s => s.Standing),
            PlainAdvice.Of(reading.Advice, reading.Diagnosis).Imperative,
            reading.Advice.Phase is Phase.Prove or Phase.Done,
            leader is null ? "" : $"{now.The(leader.Unit)}, {CaseWords.Likelihood(leader.Probability)}",
            leader?.Standing ?? Standing.Untested,
            reading.Rules.Set.Id
        )
        {
            Windows =
            [
                .. reading
                    .Diagnosis.Suspects.Where(s =>
                        s.Standing is Standing.Suspect or Standing.ProofOneWay or Standing.Condemned && s.Unit.Origin != Origin.Shelf
                    )
                    .SelectMany(s => PartWindow.Of(s.Unit).Select(w => new CardWindow(s.Unit.Name, w.Kind, w.Last))),
            ],
        };
    }

    /// <summary>
    /// What a card is good for: this many lines, this intake, and rules that would read the same. With lines the odds are those
    /// of the last one; without, those that hold now.
    /// </summary>
    public static string Stamp(JobRow row, int lines, Rules now)
    {
        var odds = lines == 0 ? now.Set.Id : "";
        var intake = Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(row.IntakeJson + now.House)))[..16];
        return string.Create(CultureInfo.InvariantCulture, $"{lines}/{intake}/{odds}");
    }

    /// <summary>The card as it is kept.</summary>
    public string Write() => JsonSerializer.Serialize(this);

    /// <summary>A card that was kept; null where it cannot be read.</summary>
    public static JobCard? Read(string json)
    {
        try
        {
            return JsonSerializer.Deserialize<JobCard>(json);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>The machine, small.</summary>
    public DrawingView Picture()
    {
        var now = JobFormat.ReadIntake(Machine);
        return new DrawingView
        {
            Drawing = new MachineDrawing(
                Situation.AtIntake(now.Parts, now.Received),
                Standings.ToDictionary(s => new UnitId(s.Key), s => s.Value),
                JobFormat.ReadIntake(Received).Received
            ),
            Small = true,
        };
    }

    private static Intake Bare(Parts parts, Configuration fitted) =>
        new()
        {
            Title = "-",
            Parts = parts,
            Received = fitted,
        };
}
