using System.Globalization;
using System.Text.RegularExpressions;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;

namespace Kelvet.Core.Tests;

/// <summary>The worked job of docs/how-it-reasons.md says what the program says.</summary>
public partial class WorkedJobTests
{
    private static readonly string Docs = Path.Combine(Outside.Root, "docs");

    private static readonly string Text = File.ReadAllText(Path.Combine(Docs, "how-it-reasons.md"));

    private static readonly BenchJob Job = JobFormat.Read(File.ReadAllText(Path.Combine(Docs, "examples", "black-screen.json")));

    [Fact]
    public void Every_row_of_the_worked_job_is_what_comes_out()
    {
        var rows = Row().Matches(Text);
        Assert.Equal(Job.Lines.Length, rows.Count);
        foreach (Match row in rows)
        {
            var n = int.Parse(row.Groups["n"].Value, CultureInfo.InvariantCulture);
            var d = BenchDiagnosis.Of(Job.AfterLines(n), Atlas.Standard);
            Assert.Equal(row.Groups["seen"].Value, d.Job.Trials[^1].Seen.ToString());
            var suspects = d
                .Suspects.OrderByDescending(s => s.Probability)
                .Take(3)
                .Select(s => $"`{s.Unit.Id}` {Percent.Words(s.Probability).Replace('\u00a0', ' ')}");
            Assert.Equal(row.Groups["suspects"].Value, string.Join(", ", suspects));
            Assert.Equal(row.Groups["next"].Value, Planner.Advise(d).Words());
        }
    }

    [Fact]
    public void The_arithmetic_by_hand_is_the_programs()
    {
        var d = BenchDiagnosis.Of(Job, Atlas.Standard);
        var rows = ByHand().Matches(Text);
        Assert.Equal(2, rows.Count);
        foreach (Match row in rows)
        {
            var fault = d.Faults.Select((f, i) => (f, i)).Single(p => p.f.Key == row.Groups["fault"].Value).i;
            Assert.Equal(
                row.Groups["p"].Value,
                d.Evidence.Single(e => e.Line == 4).Column.Likelihood([Wandering(fault)]).ToString("0.000", CultureInfo.InvariantCulture)
            );
        }

        Assert.Equal(Standing.ProofOneWay, d[new("stick-2")].Standing);
        Assert.True(d[new("stick-2")].Proof.TwoWay);
        Assert.Contains(d.RivalsOf(new("stick-2")), r => r.Fault.Act.Cure == Cure.ClearCmos);
        Assert.False(BenchDiagnosis.Of(Job.AfterLines(4), Atlas.Standard)[new("stick-2")].Proof.TwoWay);

        int Wandering(int fault)
        {
            var forms = d.Inference.Table.Forms;
            return Enumerable.Range(0, forms.Length).Single(f => forms[f] is { StopsAt: null, Rate: null } form && form.Fault == fault);
        }
    }

    [Fact]
    public void Both_examples_can_be_read_and_say_something()
    {
        foreach (var file in Directory.GetFiles(Path.Combine(Docs, "examples"), "*.json"))
        {
            var d = BenchDiagnosis.Of(JobFormat.Read(File.ReadAllText(file)), Atlas.Standard);
            Assert.True(d.Suspects[0].Probability > 0.9, file);
            Assert.Null(Contradiction.In(d));
        }
    }

    [GeneratedRegex(@"^\| (?<n>\d) \| [^|]+ \| (?<seen>[\d-]+) \| (?<suspects>[^|]+) \| (?<next>[^|]+) \|$", RegexOptions.Multiline)]
    private static partial Regex Row();

    [GeneratedRegex(@"^\| `(?<fault>[^`]+)` \| [^|=]+= (?<p>[\d.]+) \|$", RegexOptions.Multiline)]
    private static partial Regex ByHand();
}
