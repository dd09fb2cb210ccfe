using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Tests;

/// <summary>Procedures are data that is blamed by line; the step that is taken finds its own, and what was skipped is remembered.</summary>
public sealed class ProcedureTests
{
    [Fact]
    public void A_step_finds_its_procedure_by_act_and_kind()
    {
        var parts = Bench.Office(card: true).Shelf(Bench.Plain("spare", UnitKind.Supply, Origin.Shelf)).Job.Now.Parts;
        Assert.Equal("clear-settings", Procedures.For([Bench.Clear], parts)?.Id);
        Assert.Equal("swap-supply", Procedures.For([Bench.Swap("supply", "spare")], parts)?.Id);
        Assert.Equal("reseat-cpu", Procedures.For([Bench.Reseat("cpu")], parts)?.Id);
        Assert.Equal("flash", Procedures.For([new Change.Mend(Remedy.Flash, new UnitId("board"))], parts)?.Id);
        Assert.Null(Procedures.For([Bench.Reseat("stick-1")], parts));
        Assert.Equal("clear-settings", Procedures.For([Bench.Reseat("stick-1"), Bench.Clear], parts)?.Id);
    }

    [Fact]
    public void What_was_skipped_is_loose_until_it_is_done()
    {
        var job = Bench.Office().Job;
        var clear = Procedures.Find("clear-settings")!;
        var jumper = clear.Steps.ToList().FindIndex(s => s.Loose == "put the clear jumper back") + 1;
        job = job.Append(new ProcedureEntry(Guid.NewGuid(), clear.Id, [1, jumper]));
        Assert.Equal("put the clear jumper back", Assert.Single(Procedures.LooseEnds(job)));
        Assert.Empty(Procedures.LooseEnds(job.Append(new ProcedureEntry(Guid.NewGuid(), clear.Id, []))));
        Assert.Empty(Procedures.LooseEnds(job.Append(new StrikeEntry(Guid.NewGuid(), job.Entries[^1].Id, "not done at all"))));
        // A file carries it, and one of a procedure that is not known here still opens.
        Assert.Single(Procedures.LooseEnds(JobFormat.Read(JobFormat.Write(job))));
        Assert.Empty(Procedures.LooseEnds(Bench.Office().Job.Append(new ProcedureEntry(Guid.NewGuid(), "of-another-shop", [1]))));
    }

    [Theory]
    [InlineData("procedures: [ { id: a, name: a, for: [ clear-cmos ], minutes: 1, steps: [] } ]", "1 to 30 steps")]
    [InlineData("procedures: [ { id: a, name: a, for: [ explode ], minutes: 1, steps: [ { do: x } ] } ]", "\"explode\" is none of")]
    [InlineData("procedures: [ { id: a, name: a, for: [ swap rocket ], minutes: 1, steps: [ { do: x } ] } ]", "\"rocket\" is none of")]
    [InlineData("procedures: [ { id: a, name: a, for: [ clear-cmos ], minutes: 1, steps: [ { do: x, secs: 3 } ] } ]", "secs")]
    [InlineData("procedures: [ { id: a, name: a, for: [ clear-cmos ], minutes: 1, steps: [ { do: x, seconds: 9000 } ] } ]", "3,?600")]
    public void A_mistake_is_told_with_its_line(string yaml, string words)
    {
        var told = Assert.Throws<DataFileException>(() => Procedures.Read(yaml, "own.yaml")).Message;
        Assert.Matches(words, told);
        Assert.Contains("own.yaml", told, StringComparison.Ordinal);
    }

    [Fact]
    public void Hands_go_in_after_the_lead_is_out_and_a_CPU_never_runs_without_its_cooler()
    {
        foreach (
            var procedure in Procedures.Standard.Where(p => p.Id is not ("flash" or "repaste-card" or "straighten-pin" or "clear-settings"))
        )
            Assert.Contains(procedure.Steps.Take(2), s => s.Do.Contains("lead out", StringComparison.OrdinalIgnoreCase));
        foreach (var id in new[] { "reseat-cpu", "swap-board" })
            Assert.Contains(Procedures.Find(id)!.Steps, s => s.Caution.Contains("not run without a cooler", StringComparison.Ordinal));
        Assert.Contains(Procedures.Find("swap-supply")!.Steps, s => s.Caution.Contains("Never open a supply", StringComparison.Ordinal));
        Assert.Contains(Procedures.Find("flash")!.Steps, s => s.Caution.Contains("Never interrupt", StringComparison.Ordinal));
    }
}
