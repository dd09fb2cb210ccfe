using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Words;

/// <summary>A part that a report names, as it stood.</summary>
/// <param name="Unit">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Serial">Serial number or mark; empty when not recorded.</param>
/// <param name="Fault">Its likeliest fault.</param>
/// <param name="Standing">Its standing.</param>
/// <param name="Probability">The case against it, in words.</param>
/// <param name="Story">What the log proves, in the order in which it happened; empty when nothing.</param>
public sealed record NamedPart(string Unit, string Name, string Serial, string Fault, Standing Standing, string Probability, string Story);

/// <summary>
/// The figures of a job as a report prints them. What a job was closed with is kept as it was read then, so that the report
/// prints the same next year, whatever has been learnt or changed since.
/// </summary>
/// <param name="Named">The parts that are named as the cause.</param>
/// <param name="Left">Chance that something is left, in words; empty before the first trial.</param>
/// <param name="CameAndWent">How often it came and went, in words; empty when it did not.</param>
public sealed record CaseRecord(ImmutableArray<NamedPart> Named, string Left, string CameAndWent)
{
    /// <summary>The figures of a log as it is read now.</summary>
    /// <param name="diagnosis">The log.</param>
    /// <param name="found">The parts that were found at fault; null while the job is open, for those that stand out.</param>
    public static CaseRecord Of(BenchDiagnosis diagnosis, IReadOnlyCollection<UnitId>? found = null)
    {
        var named = diagnosis.Suspects.Where(s =>
            found?.Contains(s.Unit.Id) ?? s.Standing is Standing.Condemned or Standing.PutRight or Standing.ProofOneWay or Standing.Suspect
        );
        var outlook = Outlook.Of(diagnosis);
        return new CaseRecord(
            [
                .. named.Select(s => new NamedPart(
                    s.Unit.Id.Value,
                    s.Unit.Name,
                    s.Unit.Serial,
                    s.Leading.Fault.Words(),
                    s.Standing,
                    Percent.Words(s.Probability),
                    s.Proof.Story()
                )),
            ],
            diagnosis.Job.Trials.Length == 0 ? "" : Percent.Words(outlook.Left),
            outlook.Intermittence is { } i ? i.Words() : ""
        );
    }
}

/// <summary>Words for what comes and goes.</summary>
public static class IntermittenceWords
{
    /// <summary>How often a fault acts, as it is said at the bench.</summary>
    /// <param name="rate">Chance, 0 to 1, that it acts at a start.</param>
    public static string ComesAndGoes(double rate) =>
        rate switch
        {
            < 0.25 => "comes and goes, seldom",
            < 0.45 => "comes and goes, about a third of the time",
            < 0.6 => "comes and goes, about half the time",
            _ => "comes and goes, mostly there",
        };

    /// <summary>How often it failed, how many clean starts it takes, and how many there are.</summary>
    public static string Words(this Intermittence i) =>
        $"It came and went: {i.Failed} of {i.Starts} starts of the same machine failed. After the repair it takes {i.Needed} "
        + $"clean starts in a row to be 95\u00a0% sure of it; {i.Clean} {(i.Clean == 1 ? "is" : "are")} in the log.";
}
