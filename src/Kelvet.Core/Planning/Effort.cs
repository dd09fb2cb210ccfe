using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;

namespace Kelvet.Core.Planning;

/// <summary>What a job has cost so far by the atlas's bench times, for a log without a clock.</summary>
public static class Effort
{
    /// <summary>Bench minutes that go with getting and unpacking a part.</summary>
    public const double OrderMinutes = 10;

    /// <summary>Bench minutes of all standing lines.</summary>
    public static double Minutes(BenchJob job, Atlas atlas)
    {
        var minutes = job.Trials.Sum(t => Candidates.Cost(t.Changes, t.Situation, atlas.Work).Value);
        foreach (var testimony in job.Testimonies)
        {
            if (testimony.Entry is FindingEntry f && atlas.Check(f.Check) is { } check)
                minutes += (check.Powered ? check.Minutes : check.Minutes + atlas.Work.Power).Value;
        }

        return minutes + (OrderMinutes * job.Lines.Count(l => l.Stands is ArrivalEntry));
    }
}
