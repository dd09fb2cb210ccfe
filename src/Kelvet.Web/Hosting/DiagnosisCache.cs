using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>A job's log as read by the core.</summary>
/// <param name="Diagnosis">The case against each part.</param>
/// <param name="Advice">What to do next.</param>
/// <param name="Rules">The shop's rules that it was read by.</param>
public sealed record Reading(BenchDiagnosis Diagnosis, Advice Advice, Rules Rules)
{
    private readonly Lazy<Outlook> _outlook = new(() => Outlook.Of(Diagnosis, Rules.Preferences));

    /// <summary>The figures that bench, closing page and report share.</summary>
    public Outlook Outlook => _outlook.Value;
}

/// <summary>
/// Keeps the last reading of each job. The log is the truth; a reading is only ever good for the log that it was made from.
/// </summary>
public sealed class DiagnosisCache(HouseRules house)
{
    /// <summary>Readings that are kept: one of a long job is some ten megabytes.</summary>
    private const int MostJobs = 24;

    private readonly Recent<int, (Guid LastLine, int Lines, Rules Rules, Lazy<Reading> Reading)> _last = new(MostJobs);

    /// <summary>Forgets everything: the next look reads anew.</summary>
    public void Forget() => _last.Clear();

    /// <summary>The shop's rules now.</summary>
    public Task<Rules> RulesAsync() => house.CurrentAsync();

    /// <summary>The rules to read a job by.</summary>
    public Task<Rules> RulesAsync(StoredJob job) => house.ForAsync(job);

    /// <summary>A job's log as read by the core. One that has no number yet is read and not kept.</summary>
    public Reading Of(StoredJob job, Rules rules)
    {
        if (job.Number == 0)
            return Made(BenchDiagnosis.Of(job.Bench, rules.Atlas), rules);
        var lines = job.Bench.Entries.Length;
        var last = lines == 0 ? Guid.Empty : job.Bench.Entries[^1].Id;
        return _last
            .Update(
                job.Number,
                (known, isKnown) =>
                    isKnown && known.LastLine == last && known.Lines == lines && ReferenceEquals(known.Rules, rules)
                        ? known
                        : (last, lines, rules, Make(isKnown ? known.Reading : null))
            )
            .Reading.Value;

        Lazy<Reading> Make(Lazy<Reading>? before) =>
            new(() => Made(Longer(before, job, rules) ?? BenchDiagnosis.Of(job.Bench, rules.Atlas), rules));
    }

    private static Reading Made(BenchDiagnosis diagnosis, Rules rules) =>
        new(diagnosis, Planner.Advise(diagnosis, rules.School, rules.Preferences), rules);

    /// <summary>The reading before with the one line worked in that has been added since; null when more has changed.</summary>
    private static BenchDiagnosis? Longer(Lazy<Reading>? before, StoredJob job, Rules rules)
    {
        if (before is not { IsValueCreated: true } || !ReferenceEquals(before.Value.Rules.Atlas, rules.Atlas))
            return null;
        var known = before.Value.Diagnosis.Job;
        return
            job.Bench.Entries.Length == known.Entries.Length + 1 && known.Entries.Zip(job.Bench.Entries).All(p => p.First.Id == p.Second.Id)
            ? before.Value.Diagnosis.After(job.Bench)
            : null;
    }
}
