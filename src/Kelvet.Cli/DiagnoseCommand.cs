using System.CommandLine;
using System.Text.Json;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Words;

namespace Kelvet.Cli;

/// <summary>Reads a case file and prints what it says.</summary>
internal static class DiagnoseCommand
{
    public static Command Create()
    {
        var file = new Argument<string>("file") { Description = "A job file, see docs/formats.md." };
        var json = new Option<bool>("--json") { Description = "Print JSON." };
        var explain = new Option<string?>("--explain") { Description = "Print the case against one unit, step by step." };
        var after = new Option<int?>("--after") { Description = "Stop after so many steps." };
        var school = new Option<string>("--school") { Description = "Whose order to follow.", DefaultValueFactory = _ => "advisor" };
        var atlas = new Option<string?>("--atlas") { Description = "A fault atlas of the shop's own, instead of the one that ships." };
        var command = new Command("diagnose", "Print suspects, standing, what looks alike and what to do next.")
        {
            file,
            json,
            explain,
            after,
            school,
            atlas,
        };
        command.SetAction(r =>
            Exit.Guarded(() =>
                Run(r.GetValue(file)!, r.GetValue(json), r.GetValue(explain), r.GetValue(after), r.GetValue(school)!, r.GetValue(atlas))
            )
        );
        return command;
    }

    private static int Run(string file, bool json, string? explain, int? after, string schoolId, string? atlasFile)
    {
        var job = CaseFiles.Job(file);
        if (after is { } count)
        {
            if (count < 0 || count > job.Lines.Length)
                throw new DataFileException($"--after {count}: the file has {job.Lines.Length} steps.");
            job = job.AfterLines(count);
        }

        var school =
            School.Standard.FirstOrDefault(s => s.Id == schoolId)
            ?? throw new DataFileException($"--school {schoolId}: there is {string.Join(", ", School.Standard.Select(s => s.Id))}.");
        var diagnosis = BenchDiagnosis.Of(job, atlasFile is null ? Atlas.Standard : AtlasReader.Read(CaseFiles.Text(atlasFile), atlasFile));
        if (explain is not null)
            return Explain(diagnosis, explain);
        var advice = Planner.Advise(diagnosis, school);
        if (json)
            Console.WriteLine(JsonSerializer.Serialize(Machine(diagnosis, advice), Exit.Json));
        else
            Print(diagnosis, advice);
        return Exit.Well;
    }

    private static object Machine(BenchDiagnosis d, Advice advice) =>
        new
        {
            title = d.Job.Intake.Title,
            trials = d.Job.Trials.Length,
            atlas = d.Atlas.Version,
            nothingFound = d.NothingFound,
            faults = d.Posterior.CountDistribution(),
            suspects = d.Suspects.Select(s => new
            {
                unit = s.Unit.Id.Value,
                name = s.Unit.Name,
                probability = s.Probability,
                prior = s.Prior,
                standing = s.Standing.Words(),
                fault = s.Leading.Fault.Key,
            }),
            minimalDiagnoses = MinimalDiagnoses.Of(d).Select(m => m.Select(u => u.Value)),
            alike = d.Confusions.Select(c => c.Faults.Select(f => f.Fault.Key)),
            doubtful = Contradiction.In(d)?.Lines,
            phase = advice.Phase.ToString(),
            next = advice.Next?.Candidate.Words(),
            minutes = advice.Next?.Candidate.Minutes.Value,
            why = advice.Why(),
            step = NextStep.Of(d, advice, Preferences.Usual),
        };

    private static void Print(BenchDiagnosis d, Advice advice)
    {
        string Units(Standing standing) =>
            string.Join(", ", d.Suspects.Where(s => s.Standing == standing).Select(s => s.Unit.Name).DefaultIfEmpty("none"));
        var smallest = MinimalDiagnoses.Of(d).Take(6).Select(m => string.Join(" + ", m.Select(u => d.Job.Now.Parts[u].Name)));

        Console.WriteLine(
            $"{d.Job.Intake.Title}: {d.Job.Trials.Length} trials, {d.Faults.Length} possible faults, {d.Posterior.Sets} sets weighed"
        );
        Console.WriteLine();
        Console.WriteLine("Suspects");
        foreach (var s in d.Suspects.Where(s => s.Standing is not (Standing.Untested or Standing.Cleared)).Take(10))
            Console.WriteLine(
                $"  {s.Unit.Name, -40} {Percent.Words(s.Probability), 10}  {s.Standing.Words(), -14} {s.Leading.Fault.Words()}"
            );
        foreach (var s in d.Suspects.Where(s => s.Probability >= BenchDiagnosis.Certain && s.Standing != Standing.Condemned))
        {
            var rivals = d.RivalsOf(s.Unit.Id).Take(4).Select(r => $"{r.Fault.Words()} ({r.Fault.Unit.Name})").ToArray();
            if (rivals.Length > 0)
                Console.WriteLine($"  the log allows as well as {s.Unit.Name}: {string.Join(", ", rivals)}");
        }

        Console.WriteLine($"  cleared: {Units(Standing.Cleared)}");
        Console.WriteLine($"  untested: {Units(Standing.Untested)}");
        Console.WriteLine($"  nothing found here {Percent.Words(d.NothingFound)}, more than one fault {Percent.Words(d.MoreThanOne)}");
        Console.WriteLine($"  smallest explanations: " + string.Join("; ", smallest.DefaultIfEmpty("none needed")));
        foreach (var c in d.Confusions)
            Console.WriteLine(
                $"  alike so far: {string.Join(", ", c.Faults.Take(6).Select(f => $"{f.Fault.Unit.Name}: {f.Fault.Words()}"))}"
            );
        foreach (var s in advice.Separations)
            Console.WriteLine($"    to tell: {s.Step.Candidate.Words()}");
        if (Contradiction.In(d) is { } contradiction)
            Console.WriteLine($"  {contradiction.Words()}");
        Console.WriteLine();
        Console.WriteLine($"Next: {advice.Words()}");
        if (advice.Next is { } next)
        {
            Console.WriteLine($"  {next.Candidate.Minutes}; tools: {next.Candidate.Tools}. {next.Candidate.Caution}".TrimEnd());
            Console.WriteLine($"  {advice.Why()}");
            foreach (var o in next.Outcomes)
                Console.WriteLine(
                    $"  {o.Words()} ({Percent.Words(o.Probability)}): "
                        + string.Join(
                            ", ",
                            o.Meaning.Select(m => $"{m.Unit.Name} {Percent.Words(m.Probability)}").DefaultIfEmpty("nothing known here")
                        )
                );
        }

        foreach (var a in advice.Alternatives.Take(5))
            Console.WriteLine($"  or: {a.Candidate.Words()} ({a.Candidate.Minutes}, {a.Gain:0.00} bits)");
    }

    private static int Explain(BenchDiagnosis d, string unit)
    {
        if (!UnitId.IsValid(unit) || d.Suspects.FirstOrDefault(s => s.Unit.Id.Value == unit) is not { } suspect)
            throw new DataFileException(
                $"--explain {unit}: there is no such unit; there is {string.Join(", ", d.Suspects.Select(s => s.Unit.Id))}."
            );
        Console.WriteLine(
            $"{suspect.Unit.Name}: {suspect.Standing.Words()} at {Percent.Words(suspect.Probability)}, before any trial "
                + $"{Percent.Words(suspect.Prior)}"
        );
        foreach (var f in suspect.Faults)
            Console.WriteLine($"  {f.Fault.Words(), -50} {Percent.Words(f.Probability)}");
        foreach (var w in Weight.On(d, suspect.Unit.Id))
            Console.WriteLine(
                $"  {(w.Evidence.Line == 0 ? "report" : $"step {w.Evidence.Line}"), -8} {2 * w.LogRatio, 7:+0.0;-0.0;0.0}  {w.Words()}"
            );
        return Exit.Well;
    }
}
